"""The document as one tree of frozen values. Every edit makes a new tree that shares the unchanged parts."""

from collections.abc import Callable, Mapping
from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from glintor.errors import InputError
from glintor.media.taken import TakenAs, Told
from glintor.placement.carrier import Carrier, ready_carriers
from glintor.placement.scenery import CANAL, UNDESCRIBED, UNKNOWN, Place, ready_places
from glintor.placement.subject import Being, Subject
from glintor.placement.windows import Wanted
from glintor.project.exposure import Exposure
from glintor.project.kit import Camera, Identity, Kit, NotNegative, Positive, default_kit
from glintor.reframing.cut import Cut
from glintor.reframing.path import Keyframe
from glintor.sphere.foot import Patch
from glintor.sphere.lenses import Lenses

FORMAT_VERSION = 7


class Waypoint(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A place of the route, where it is by itself."""

    name: str
    lat_deg: Annotated[float, Meta(ge=-90, le=90)]
    lon_deg: Annotated[float, Meta(ge=-180, le=180)]


class TrackPoint(msgspec.Struct, frozen=True, array_like=True):
    """A point of a track, kept as a list: degrees north and east, metres over the sea, and minutes after midnight (UTC) of the day
    that it was recorded on, None where nobody knows."""

    lat_deg: Annotated[float, Meta(ge=-90, le=90)]
    lon_deg: Annotated[float, Meta(ge=-180, le=180)]
    up_m: float | None = None
    utc_min: float | None = None


class Rest(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A rest of the day: from local midnight, and how long."""

    start_min: Annotated[float, Meta(ge=0, lt=1440)]
    length_min: Annotated[float, Meta(gt=0, le=1440)]


class Site(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """The place and day. Bearings clockwise from true north; heights in metres over the water.

    known         whether anybody said where it is; else its place and zone are only where one would begin
    branches_m    lowest branch or sign over the path, from the ground; lean_deg: how far a carrier leans or rolls
    power_line_m  nearest power line to where the camera will be, 0 where none was seen
    permission    to film there: not yet asked, given, or not needed
    route         its places in order; track: its points as they were recorded or drawn
    waypoints     where places of the route are, of those that are known
    leg_min       from one place of the route to the next; speed_m_s: along it, 0 for what the carrier usually does
    to_first_min, home_min  the way to the first shot, and home from the last; home_by_min: when one must be back, None for any time
    rests         when nothing is done
    places, carriers  what it looks like and what carries people there, beside the ready-made ones
    air_c         temperature, None where nobody knows; wireless: whether a phone or a remote is connected while filming
    """

    name: str
    known: bool = True
    day: str
    zone: str
    lat_deg: Annotated[float, Meta(ge=-90, le=90)]
    lon_deg: Annotated[float, Meta(ge=-180, le=180)]
    way_bearing_deg: float = 0.0
    lowest_m: Positive = 3.0
    cloud_share: Annotated[float, Meta(ge=0, le=1)] = 0.34
    mains_hz: Positive = 50.0
    wind_m_s: NotNegative = 3.0
    branches_m: Positive = 3.0
    lean_deg: Annotated[float, Meta(ge=0, le=45)] = 3.0
    power_line_m: NotNegative = 0.0
    permission: Literal["unknown", "given", "free"] = "unknown"
    hazards: str = ""
    route: tuple[str, ...] = ()
    track: tuple[TrackPoint, ...] = ()
    waypoints: tuple[Waypoint, ...] = ()
    leg_min: NotNegative = 15.0
    speed_m_s: NotNegative = 0.0
    air_c: Annotated[float, Meta(ge=-60, le=60)] | None = None
    wireless: bool = False
    to_first_min: NotNegative = 0.0
    home_min: NotNegative = 0.0
    home_by_min: Annotated[float, Meta(ge=0, le=1440)] | None = None
    rests: tuple[Rest, ...] = ()
    places: tuple[Place, ...] = ()
    carriers: tuple[Carrier, ...] = ()

    def place(self, stage: str) -> Place | None:
        """The description by that id: the day's own, else a ready-made one; None where there is none (the canal is drawn)."""
        if stage == UNKNOWN:
            return UNDESCRIBED
        own = next((place for place in self.places if place.id == stage), None)
        return own if own is not None or stage in CANAL else ready_places().get(stage)

    def carrier(self, carrier_id: str) -> Carrier | None:
        """The carrier by that id: the day's own, else a ready-made one; None where there is none."""
        own = next((carrier for carrier in self.carriers if carrier.id == carrier_id), None)
        return own or ready_carriers().get(carrier_id)

    def filmed(self, placement: "Placement") -> tuple[Being, ...]:
        """The subjects of a placement, each with the carrier that it is."""
        return tuple(
            Being(one, self.carrier(one.carrier) if one.what == "carrier" else None) for one in placement.subjects
        )

    def bearing_of(self, placement: "Placement") -> float:
        """Which way is ahead of a placement's carrier, clockwise from true north."""
        return self.way_bearing_deg if placement.way_bearing_deg is None else placement.way_bearing_deg


class Placement(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """Where the camera is, relative to its carrier: metres ahead and to the left of the carrier's middle.

    carrier      the id of what carries it; on: the tube, surface or seat of it that the set-up is on, "" for the usual one
    stage        the id of the place that it is in: a description, or a stage of the canal
    way_bearing_deg, speed_m_s  of its carrier where the shot has its own, None for the site's and the carrier's usual
    slope_deg    of the ground along the way, uphill ahead above 0
    heading_deg  of the front lens, clockwise from the way ahead; lean_deg of the whole stick, sideways of the lenses
    tilt_deg     angle between the stick and the camera's own line (a joint that is not straight)
    subjects     who and what is filmed, the first is the one that findings speak of; together: all are wanted in the frame
    """

    setup: Identity
    carrier: Identity = "ground"
    on: str = ""
    stage: Identity
    ahead_m: float
    left_m: float
    stick_m: NotNegative
    heading_deg: float
    lean_deg: Annotated[float, Meta(ge=-60, le=60)] = 0.0
    tilt_deg: Annotated[float, Meta(ge=-30, le=30)] = 0.0
    subjects: Annotated[tuple[Subject, ...], Meta(min_length=1, max_length=6)] = (Subject(),)
    together: bool = False
    way_bearing_deg: float | None = None
    speed_m_s: NotNegative | None = None
    slope_deg: Annotated[float, Meta(ge=-45, le=45)] = 0.0

    @property
    def subject(self) -> Subject:
        """The one that findings speak of."""
        return self.subjects[0]

    def with_subject(self, number: int = 0, **changes: object) -> "Placement":
        """The same with one of its subjects changed."""
        changed = msgspec.structs.replace(self.subjects[number], **changes)
        return msgspec.structs.replace(self, subjects=(*self.subjects[:number], changed, *self.subjects[number + 1 :]))


class TakeFile(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """One file of a take, in those of three places where it is.

    card   its path on the card, with `/`
    copy   its proven copy, relative to the project; xxh64: of its whole content
    lies   where it is referred to without a copy: relative to the project where it lies under its folder, else from the
           root; quick: a digest of its size, head and tail
    """

    card: str = ""
    copy: str = ""
    lies: str = ""
    size_bytes: Annotated[int, Meta(ge=0)] = 0
    xxh64: str = ""
    quick: str = ""


Kind = Literal["film", "photo", "bracket", "lapse"]


class Horizon(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """How a picture lies in a level frame at a moment of its recording: its middle so far over the horizon, turned clockwise by so
    much; by: who says so."""

    pitch_deg: Annotated[float, Meta(ge=-90, le=90)]
    roll_deg: Annotated[float, Meta(ge=-180, le=180)]
    by: Literal["file", "hand", "picture"]
    at_s: NotNegative = 0.0


class Steady(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """What is done about a recording's turning: nothing; shake is smoothed out; the horizon is held level as well; the world stands
    still; or the view goes with the way. strength_s: over how long is smoothed."""

    mode: Literal["off", "smooth", "level", "lock", "heading"] = "off"
    strength_s: Annotated[float, Meta(ge=0.05, le=10)] = 0.8


class Heard(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """How another recording's clock lies against a take's own.

    of          id of the recorder, or of the other take of the day
    offset_s    where its zero lies on this take's clock; drift_ppm: how much faster than this one it runs
    confidence  0 to 1, as it was found; by: its sound, or a hand
    instead     whether its sound takes the place of the take's own
    """

    of: Identity
    offset_s: float
    drift_ppm: Annotated[float, Meta(ge=-5000, le=5000)] = 0.0
    confidence: Annotated[float, Meta(ge=0, le=1)] = 1.0
    by: Literal["sound", "hand"] = "sound"
    instead: bool = False


class Recorder(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A recording of sound alone."""

    id: Identity
    name: str
    files: Annotated[tuple[TakeFile, ...], Meta(min_length=1)]
    duration_s: NotNegative


class Take(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """One recording: its files in order, and what is known of it. What nobody knows is None or "", and nothing is computed
    from it.

    camera      which of the kit's filmed it, "" where nobody knows
    start_min   when, from local midnight, by the camera's own clock; clock_s: how far that is known to be ahead
    placement, exposure  how it was placed and set, as planned when it was recorded
    width_px    of the sphere; rate_fps: of its frames
    began       when, by its own file, as ISO 8601; matched: how it came to its shot, where nobody put it there
    told        what its picture shows, where that is not left to the file; told_by: whether a person says so, or it was seen
    lenses      the profile of its lenses, where it is of fisheyes; mends: whether near things at their seam are laid on one another
    patch       what covers stick and mount at its foot
    why         what it was taken for, and why, in words
    first_view  yaw and pitch in the level frame that its file wants to be seen first
    horizon     how its picture lies in a level frame; steady: what is done about its turning
    heard       recorders and cameras whose clock is known against its own
    """

    id: Identity
    name: str
    kind: Kind = "film"
    camera: str = ""
    files: Annotated[tuple[TakeFile, ...], Meta(min_length=1)]
    start_min: float | None = None
    clock_s: float | None = None
    duration_s: NotNegative
    width_px: int
    rate_fps: Positive
    placement: Placement | None = None
    exposure: Exposure | None = None
    rating: Annotated[int, Meta(ge=0, le=5)] = 0
    note: str = ""
    marks_s: tuple[float, ...] = ()
    told: Told = ""
    told_by: Literal["person", "picture"] = "person"
    lenses: Lenses | None = None
    mends: bool = True
    patch: Patch | None = None
    why: str = ""
    first_view: tuple[float, float] | None = None
    began: str = ""
    matched: str = ""
    horizon: Horizon | None = None
    steady: Steady = Steady()
    heard: tuple[Heard, ...] = ()

    @property
    def taken_as(self) -> TakenAs:
        """What its files are taken for."""
        return TakenAs(self.told, self.lenses, self.mends, stands=self.kind == "bracket", patch=self.patch)

    @property
    def began_min(self) -> float | None:
        """When it began by the day's clock, as far as the camera's is known; None where nobody knows."""
        return None if self.start_min is None else self.start_min - (self.clock_s or 0.0) / 60.0

    @property
    def size_bytes(self) -> int:
        return sum(file.size_bytes for file in self.files)

    @property
    def only_on_card(self) -> bool:
        """Whether a file of it is known on a card and nowhere else."""
        return any(file.card and not file.copy and not file.lies for file in self.files)


class Conditions(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """What is otherwise where a shot is than at the site as a whole; None where it is the same. Names and units are the site's."""

    wind_m_s: NotNegative | None = None
    lowest_m: Positive | None = None
    branches_m: Positive | None = None
    power_line_m: NotNegative | None = None
    permission: Literal["unknown", "given", "free"] | None = None


class Shot(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """What is to be filmed, from placement to cuts. start_min counts from local midnight.

    planned         whether anybody planned it; a shot that was made for a recording has no plan: its hour, placement and
                    exposure are only where a plan would begin, and nothing is computed from them
    camera          which of the kit's it is filmed with, "" for the day's
    purpose, story  what it is for, and where in the story and the route
    film_s          how much of it the film is to show; aspects wanted
    opening, closing  the views that the shot begins and ends with, where they are not the natural one
    fit_min         to fit the camera before; light: what the shot asks for
    own             what is otherwise where it is than at the site as a whole
    fixed           whether it must begin at its hour; after: ids of shots that must be filmed before it
    along_m         where it is along the site's track, None where nobody said
    """

    id: Identity
    name: str
    start_min: Annotated[float, Meta(ge=0, lt=1440)]
    length_min: Positive
    placement: Placement
    planned: bool = True
    camera: str = ""
    purpose: str = ""
    story: str = ""
    film_s: NotNegative = 0.0
    aspects: tuple[str, ...] = ("16:9", "9:16")
    opening: Keyframe | None = None
    closing: Keyframe | None = None
    fit_min: NotNegative = 5.0
    light: Wanted = Wanted()
    own: Conditions = Conditions()
    along_m: NotNegative | None = None
    fixed: bool = False
    after: tuple[str, ...] = ()
    exposure: Exposure
    takes: tuple[Take, ...] = ()
    cuts: tuple[Cut, ...] = ()


class Piece(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """One cut of a shot, in a film."""

    shot_id: Identity
    cut_id: Identity


class Film(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """Cuts joined one after the other, of any shots and takes of the day."""

    id: Identity
    name: str
    pieces: Annotated[tuple[Piece, ...], Meta(min_length=1)]


class Project(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """The whole day."""

    glintor: int = FORMAT_VERSION
    site: Site
    kit: Kit = msgspec.field(default_factory=default_kit)
    shots: tuple[Shot, ...] = ()
    films: tuple[Film, ...] = ()
    sounds: tuple[Recorder, ...] = ()

    def camera_of(self, what: Shot | Take) -> Camera:
        """The camera that a shot is filmed with, or a take was; the day's where none is named."""
        return self.kit.camera(what.camera) or self.kit.cameras[0]

    def shot(self, shot_id: str) -> Shot:
        """The shot of that id. Raises InputError."""
        return _by_id(self.shots, shot_id, "shot")

    @property
    def planned(self) -> tuple[Shot, ...]:
        """The shots that somebody planned, where the place is known."""
        return tuple(shot for shot in self.shots if shot.planned) if self.site.known else ()

    def site_of(self, shot: Shot) -> Site:
        """The site as it is where a shot is."""
        own = {name: value for name in Conditions.__struct_fields__ if (value := getattr(shot.own, name)) is not None}
        return msgspec.structs.replace(self.site, **own) if own else self.site

    def with_kit(self, kit: Kit) -> "Project":
        """The project with another bag; the cameras that its shots and takes name stay in it."""
        named = {name for shot in self.shots for name in (shot.camera, *(take.camera for take in shot.takes))}
        kept = tuple(c for c in self.kit.cameras if c.id in named and kit.camera(c.id) is None)
        return msgspec.structs.replace(self, kit=msgspec.structs.replace(kit, cameras=(*kit.cameras, *kept)))

    def with_shot(self, shot_id: str, change: Callable[[Shot], Shot]) -> "Project":
        """The project with one shot changed."""
        return msgspec.structs.replace(self, shots=tuple(change(s) if s.id == shot_id else s for s in self.shots))


def take_of(shot: Shot, take_id: str) -> Take:
    """The take of that id. Raises InputError."""
    return _by_id(shot.takes, take_id, "take")


def with_take(shot: Shot, take: Take) -> Shot:
    """The shot with this take added, or put in the place of the one with the same id."""
    known = any(t.id == take.id for t in shot.takes)
    takes = tuple(take if t.id == take.id else t for t in shot.takes) if known else (*shot.takes, take)
    return msgspec.structs.replace(shot, takes=takes)


def with_copies(project: Project, copies: Mapping[str, tuple[str, str]]) -> Project:
    """The project with takes known to be safe: by their path on the card, where the copy is and its checksum. Nothing
    else of a take is touched."""

    def file_with(file: TakeFile) -> TakeFile:
        copy, xxh64 = copies.get(file.card, (file.copy, file.xxh64))
        return msgspec.structs.replace(file, copy=copy, xxh64=xxh64) if file.card else file

    def take_with(take: Take) -> Take:
        return msgspec.structs.replace(take, files=tuple(file_with(file) for file in take.files))

    def shot_with(shot: Shot) -> Shot:
        takes = tuple(take_with(take) for take in shot.takes)
        return shot if takes == shot.takes else msgspec.structs.replace(shot, takes=takes)

    return msgspec.structs.replace(project, shots=tuple(shot_with(shot) for shot in project.shots))


def with_cut(shot: Shot, cut: Cut) -> Shot:
    """The shot with this cut added, or put in the place of the one with the same id."""
    known = any(c.id == cut.id for c in shot.cuts)
    cuts = tuple(cut if c.id == cut.id else c for c in shot.cuts) if known else (*shot.cuts, cut)
    return msgspec.structs.replace(shot, cuts=cuts)


def fresh_id(word: str, taken: set[str]) -> str:
    """`word`, or the first of word-2, word-3 ... that is not taken."""
    number, name = 1, word
    while name in taken:
        number += 1
        name = f"{word}-{number}"
    return name


def _by_id(things: tuple, wanted: str, kind: str):  # type: ignore[no-untyped-def]
    for thing in things:
        if thing.id == wanted:
            return thing
    raise InputError(
        f"There is no {kind} {wanted} in the project.", advice="Choose one of: " + ", ".join(t.id for t in things)
    )

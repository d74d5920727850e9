"""The document as one tree of frozen values. Every edit makes a new tree that shares the unchanged parts."""

from collections.abc import Callable, Mapping
from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from glintor.errors import InputError
from glintor.placement.windows import Wanted
from glintor.project.kit import Camera, Kit, default_kit
from glintor.reframing.cut import Cut
from glintor.reframing.path import Keyframe
from glintor.sphere.equirect import TOLD, Coverage

FORMAT_VERSION = 3

Positive = Annotated[float, Meta(gt=0)]
NotNegative = Annotated[float, Meta(ge=0)]
Identity = Annotated[str, Meta(min_length=1, max_length=64, pattern="^[A-Za-z0-9_-]+$")]


class Site(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """The place and day. Bearings clockwise from true north; heights in metres over the water.

    branches_m    lowest branch or sign over the path, from the ground; lean_deg: how far a carrier leans or rolls
    power_line_m  nearest power line to where the camera will be, 0 where none was seen
    permission    to film there: not yet asked, given, or not needed
    route         its places in order; track: its points, degrees north and east
    leg_min       from one place of the route to the next; speed_m_s: along it, 0 for what the carrier usually does
    air_c         temperature, None where nobody knows; wireless: whether a phone or a remote is connected while filming
    """

    name: str
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
    track: tuple[tuple[float, float], ...] = ()
    leg_min: NotNegative = 15.0
    speed_m_s: NotNegative = 0.0
    air_c: Annotated[float, Meta(ge=-60, le=60)] | None = None
    wireless: bool = False


class Placement(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """Where the camera is, relative to its carrier: metres ahead and to the left of the carrier's middle.

    heading_deg  of the front lens, clockwise from the way ahead; lean_deg of the whole stick, sideways of the lenses
    tilt_deg     angle between the stick and the camera's own line (a joint that is not straight)
    subject_...  the subject's feet, from the carrier's middle and surface; subject_goes_... how far it moves in the shot
    """

    setup: Identity
    stage: Identity
    ahead_m: float
    left_m: float
    stick_m: NotNegative
    heading_deg: float
    lean_deg: Annotated[float, Meta(ge=-60, le=60)] = 0.0
    tilt_deg: Annotated[float, Meta(ge=-30, le=30)] = 0.0
    subject_ahead_m: float = 0.0
    subject_left_m: float = 0.0
    subject_up_m: float = 0.0
    subject_name: str = "Mira"
    subject_goes_ahead_m: float = 0.0
    subject_goes_left_m: float = 0.0


class Exposure(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """What the camera is set to. interval_s above 0 is a time-lapse: one frame every so many seconds."""

    rate_fps: Positive = 24.0
    shutter_s: Positive = 1.0 / 48.0
    iso: Positive = 100.0
    nd_stops: NotNegative = 0.0
    curve: Identity = "standard"
    interval_s: NotNegative = 0.0


class Take(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """One recording. card_file is its path on the card, safe_file its verified copy relative to the project."""

    id: Identity
    name: str
    start_min: float
    duration_s: NotNegative
    width_px: int
    rate_fps: Positive
    size_bytes: int
    card_file: str = ""
    safe_file: str = ""
    xxh64: str = ""
    placement: Placement
    exposure: Exposure
    rating: Annotated[int, Meta(ge=0, le=5)] = 0
    note: str = ""
    marks_s: tuple[float, ...] = ()
    told: Literal["", "sphere", "half"] = ""

    @property
    def coverage(self) -> Coverage | None:
        """What part of the sphere the person says that it shows; None leaves it to the file."""
        return TOLD.get(self.told)


class Shot(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """What is to be filmed, from placement to cuts. start_min counts from local midnight.

    purpose, story  what it is for, and where in the story and the route
    film_s          how much of it the film is to show; aspects wanted
    opening, closing  the views that the shot begins and ends with, where they are not the natural one
    fit_min         to fit the camera before; light: what the shot asks for
    """

    id: Identity
    name: str
    start_min: Annotated[float, Meta(ge=0, lt=1440)]
    length_min: Positive
    placement: Placement
    purpose: str = ""
    story: str = ""
    film_s: NotNegative = 0.0
    aspects: tuple[str, ...] = ("16:9", "9:16")
    opening: Keyframe | None = None
    closing: Keyframe | None = None
    fit_min: NotNegative = 5.0
    light: Wanted = Wanted()
    exposure: Exposure
    takes: tuple[Take, ...] = ()
    cuts: tuple[Cut, ...] = ()


class Project(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """The whole day."""

    glintor: int = FORMAT_VERSION
    site: Site
    camera: Camera = msgspec.field(default_factory=Camera)
    kit: Kit = msgspec.field(default_factory=default_kit)
    shots: tuple[Shot, ...] = ()

    def shot(self, shot_id: str) -> Shot:
        """The shot of that id. Raises InputError."""
        return _by_id(self.shots, shot_id, "shot")

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

    def take_with(take: Take) -> Take:
        file, xxh64 = copies.get(take.card_file, (take.safe_file, take.xxh64))
        return msgspec.structs.replace(take, safe_file=file, xxh64=xxh64) if take.card_file else take

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

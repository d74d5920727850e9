"""The document as one tree of frozen values. Every edit makes a new tree that shares the unchanged parts."""

from collections.abc import Callable, Mapping
from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from glintor.errors import InputError
from glintor.placement.windows import Wanted
from glintor.project.exposure import Exposure
from glintor.project.kit import Camera, Identity, Kit, NotNegative, Positive, default_kit
from glintor.project.log import Log, Tick
from glintor.project.site import Placement, Site
from glintor.project.take import Recorder, Take, TakeFile
from glintor.reframing.cut import Cut
from glintor.reframing.joins import Join
from glintor.reframing.path import Keyframe

FORMAT_VERSION = 9


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
    ticks           what is made ready for the next take; logs: what was rolled, the oldest first
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
    ticks: tuple[Tick, ...] = ()
    logs: tuple[Log, ...] = ()
    takes: tuple[Take, ...] = ()
    cuts: tuple[Cut, ...] = ()


class Piece(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """One cut of a shot, in a film; join: how it is come to from the one before."""

    shot_id: Identity
    cut_id: Identity
    join: Join = Join()


class Film(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """Cuts joined one after the other, of any shots and takes of the day; wanted_s: how long it is to be, where that is wanted."""

    id: Identity
    name: str
    pieces: Annotated[tuple[Piece, ...], Meta(min_length=1)]
    wanted_s: Annotated[float, Meta(gt=0, le=36000)] | None = None


class Copying(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """Where copies go beside the day's own folder: pattern of folders in each place; second: the other place, "" for none."""

    pattern: str = ""
    second: str = ""


class Project(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """The whole day."""

    glintor: int = FORMAT_VERSION
    site: Site
    kit: Kit = msgspec.field(default_factory=default_kit)
    shots: tuple[Shot, ...] = ()
    films: tuple[Film, ...] = ()
    sounds: tuple[Recorder, ...] = ()
    copying: Copying = Copying()

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
    """The project with takes known to be safe: by what a file holds (its quick digest) or by its path on the card, where the copy is
    and its checksum. Nothing else of a take is touched."""

    def file_with(file: TakeFile) -> TakeFile:
        known = (copies.get(file.quick) if file.quick else None) or (copies.get(file.card) if file.card else None)
        return file if known is None else msgspec.structs.replace(file, copy=known[0], xxh64=known[1])

    def take_with(take: Take) -> Take:
        return msgspec.structs.replace(take, files=tuple(file_with(file) for file in take.files))

    def shot_with(shot: Shot) -> Shot:
        takes = tuple(take_with(take) for take in shot.takes)
        return shot if takes == shot.takes else msgspec.structs.replace(shot, takes=takes)

    sounds = tuple(
        msgspec.structs.replace(sound, files=tuple(file_with(file) for file in sound.files)) for sound in project.sounds
    )
    return msgspec.structs.replace(project, shots=tuple(shot_with(shot) for shot in project.shots), sounds=sounds)


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

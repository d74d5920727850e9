"""One recording as a part of the document: its files, and what is known of it."""

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from glintor.media.taken import TakenAs, Told
from glintor.project.exposure import Exposure
from glintor.project.kit import Identity, NotNegative, Positive
from glintor.project.site import Placement
from glintor.reframing.anchor import Spot
from glintor.sphere.foot import Patch
from glintor.sphere.lenses import Lenses


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

    @property
    def on_card_alone(self) -> bool:
        """Whether it is on a card, and where it lies is that card."""
        elsewhere = self.lies and not self.lies.endswith(f"/{self.card}")
        return bool(self.card) and not self.copy and not elsewhere


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
    exposed, filmed_by  how photos were exposed and by what camera, as their files say; "" where they do not
    began       when, by its own file, as ISO 8601; matched: how it came to its shot, where nobody put it there
    told        what its picture shows, where that is not left to the file; told_by: whether a person says so, or it was seen
    lenses      the profile of its lenses, where it is of fisheyes; mends: whether near things at their seam are laid on one another
    patch       what covers stick and mount at its foot
    why         what it was taken for, and why, in words
    first_view  yaw and pitch in the level frame that its file wants to be seen first
    north       where in its picture north was pointed at
    horizon     how its picture lies in a level frame; steady: what is done about its turning
    heard       recorders and cameras whose clock is known against its own
    verdict     what looking through it came to; part_s: what of it is worth keeping, None for all
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
    exposed: str = ""
    filmed_by: str = ""
    began: str = ""
    matched: str = ""
    horizon: Horizon | None = None
    north: Spot | None = None
    steady: Steady = Steady()
    heard: tuple[Heard, ...] = ()
    verdict: Literal["", "keep", "maybe", "drop"] = ""
    part_s: tuple[NotNegative, NotNegative] | None = None

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
        return any(file.on_card_alone for file in self.files)

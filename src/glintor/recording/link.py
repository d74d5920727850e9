"""One way to drive a camera, whatever stands behind it: the simulated one, or a real one over a wire."""

from collections.abc import Callable
from pathlib import Path
from typing import Any, Literal, Protocol

import numpy as np
from msgspec import Struct, field
from msgspec.structs import replace
from numpy.typing import NDArray

from glintor.errors import GlintorError
from glintor.exposure.modes import MODES, Mode, mode_for
from glintor.project.model import Exposure

USUAL_INTERVAL_S = 2.0  # of a time-lapse (common practice, no source)

Program = Literal["manual", "auto", "iso", "shutter"]
PROGRAMS: dict[Program, str] = {
    "manual": "all locked",
    "auto": "all by itself",
    "iso": "ISO fixed, time follows",
    "shutter": "time fixed, ISO follows",
}


class LinkError(GlintorError):
    """Something that the camera will not or cannot do."""


class Busy(LinkError):
    """It is recording."""


class CardFull(LinkError):
    """No room on the card."""


class CardGone(LinkError):
    """There is no card, or it was pulled out or refuses to be written."""


class BatteryLow(LinkError):
    """Too little charge to begin, or none left."""


class TooHot(LinkError):
    """It stopped to cool down."""


class NotPossible(LinkError):
    """This option does not exist, or not in this mode."""


class Options(Struct, frozen=True):
    """What the camera is set to. It records with this and with nothing else.

    exposure    rate (one of the mode's), time, ISO, curve, interval of a time-lapse, and the filter that is on the lenses
    program     what follows the light; offset_stops brightens (above 0) or darkens what it aims at
    each_lens   one exposure for each lens
    bracket_frames and bracket_stops  of a bracket
    """

    mode: Mode = field(default_factory=lambda: MODES["sphere-5k7"])
    exposure: Exposure = field(default_factory=Exposure)
    program: Program = "manual"
    offset_stops: float = 0.0
    each_lens: bool = False
    white_k: float = 5600.0
    sharpen: float = 0.0
    bracket_frames: int = 3
    bracket_stops: float = 2.0

    @property
    def rate_fps(self) -> float:
        return self.exposure.rate_fps

    @property
    def interval_s(self) -> float:
        """Between the frames of a time-lapse; 0 for films."""
        return self.exposure.interval_s if self.mode.kind == "lapse" else 0.0

    def checked(self) -> "Options":
        """Itself. Raises NotPossible where the mode does not allow it."""
        mode = self.mode
        if mode.rates_fps and self.rate_fps not in mode.rates_fps:
            rates = ", ".join(f"{rate:g}" for rate in mode.rates_fps)
            raise NotPossible(f"{mode.words} has no {self.rate_fps:g} fps.", advice=f"It has {rates}.")
        if mode.kind == "single" and self.each_lens:
            raise NotPossible("One lens has one exposure.", advice="Choose a sphere for an exposure of each lens.")
        if self.offset_stops and self.program == "manual":
            raise NotPossible("A locked exposure has no offset.", advice="Change time, ISO or filter instead.")
        if mode.kind == "bracket" and not (self.bracket_frames in (3, 5, 7, 9) and 0.3 <= self.bracket_stops <= 3.0):
            raise NotPossible(
                "That bracket is not offered.", advice="Choose 3, 5, 7 or 9 frames, 0.3 to 3 stops apart."
            )
        if mode.kind == "lapse" and not 0.5 <= self.interval_s <= 120.0:
            raise NotPossible(f"An interval of {self.interval_s:g} s is not offered.", advice="Choose 0.5 to 120 s.")
        return self


def options_for(exposure: Exposure, mode: Mode | None = None, **more: Any) -> Options:
    """What a camera is set to for an exposure: the mode that it asks for, where none is given, and a usual interval where a
    time-lapse has none. more: the other options."""
    mode = mode or mode_for(exposure.rate_fps, exposure.interval_s)
    if mode.kind == "lapse" and not exposure.interval_s:
        exposure = replace(exposure, interval_s=USUAL_INTERVAL_S)
    return Options(mode, exposure, **more)


class State(Struct, frozen=True):
    """What the camera tells about itself. left_min at this mode's bit rate; battery_share and card_free of 0 to 1.

    recorded_s  film seconds of the recording that goes on; ended: why the last one ended by itself, "" where it did not
    """

    recording: bool
    battery_share: float
    battery_left_min: float
    temperature_c: float
    card_free_bytes: float
    card_left_min: float
    clock_offset_s: float = 0.0
    recorded_s: float = 0.0
    ended: str = ""


class CardFile(Struct, frozen=True):
    """One file on the card, and what the camera tells of it; what it does not tell is None.

    path       on the card, with `/`
    began_min  when it was begun, from local midnight by the camera's own clock
    exposure   that it was begun with
    """

    path: str
    size_bytes: int
    began_min: float | None = None
    film_s: float | None = None
    width_px: int | None = None
    exposure: Exposure | None = None

    @property
    def name(self) -> str:
        return self.path.rpartition("/")[2]


class CameraLink(Protocol):
    """Every call may raise a LinkError."""

    def state(self) -> State: ...

    def options(self) -> Options: ...

    def set_options(self, options: Options) -> None: ...

    def start(self) -> None:
        """Begins a film or a time-lapse; it ends by `stop`, or by itself when card, battery or heat end it."""
        ...

    def stop(self) -> CardFile:
        """Ends the recording, where it has not ended by itself, and says which file holds it."""
        ...

    def discard(self) -> None:
        """Ends the recording and keeps nothing of it, where the camera can do that."""
        ...

    def preview(self, width_px: int) -> NDArray[np.uint8]:
        """What it sees just now: a sphere (H, W, 3)."""
        ...

    def take_picture(self) -> tuple[CardFile, ...]:
        """One photo, or the frames of a bracket."""
        ...

    def list(self) -> tuple[CardFile, ...]: ...

    def fetch(self, name: str, folder: Path, report: Callable[[float], None] = ...) -> Path:
        """A copy of a file of the card in a folder."""
        ...

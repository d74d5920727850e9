"""One way to drive a camera, whatever stands behind it: the simulated one, or a real one over a wire."""

from collections.abc import Mapping
from pathlib import Path
from typing import Any, Protocol

import numpy as np
from msgspec import Struct, field
from msgspec.structs import replace
from numpy.typing import NDArray

from glintor.errors import GlintorError
from glintor.exposure.modes import MODES, Mode, mode_for
from glintor.exposure.program import Program
from glintor.project.model import Exposure
from glintor.types import Report

USUAL_WHITE_K = 5600.0  # of daylight, which a camera that finds its white by itself finds here
USUAL_INTERVAL_S = 2.0  # of a time-lapse (common practice, no source)


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
        if self.offset_stops and self.program == "manual":
            raise NotPossible("A locked exposure has no offset.", advice="Change time, ISO or filter instead.")
        wrong = self.mode.excludes(
            rate_fps=self.rate_fps,
            program=self.program,
            each_lens=self.each_lens,
            interval_s=self.interval_s,
            frames=self.bracket_frames,
            step_stops=self.bracket_stops,
        )
        if wrong:
            raise NotPossible(f"{self.mode.words}: {wrong[0]}.", advice="Choose another mode or another setting.")
        return self


def options_for(exposure: Exposure, mode: Mode | None = None, **more: Any) -> Options:
    """What a camera is set to for an exposure: in the mode that is given, else its own, else the one that its rate asks for; with a usual
    interval where a time-lapse has none. more: options that are otherwise than the exposure's."""
    mode = mode or MODES.get(exposure.mode) or mode_for(exposure.rate_fps, exposure.interval_s)
    if mode.kind == "lapse" and not exposure.interval_s:
        exposure = replace(exposure, interval_s=USUAL_INTERVAL_S)
    program = more.get("program", exposure.program)  # the Record desk may choose another for once
    own: dict[str, Any] = {
        "program": program,
        "offset_stops": exposure.offset_stops if program != "manual" else 0.0,
        "each_lens": exposure.each_lens and program != "manual" and mode.each_lens,
        "white_k": exposure.white_k or USUAL_WHITE_K,
        "sharpen": exposure.sharpen,
        "bracket_frames": exposure.bracket_frames,
        "bracket_stops": exposure.bracket_stops,
    }
    return Options(mode, exposure, **(own | more))


class State(Struct, frozen=True):
    """What the camera tells about itself; what it does not tell is None. left_min at this mode's bit rate; battery_share of 0 to 1.

    recorded_s  film seconds of the recording that goes on; ended: why the last one ended by itself, "" where it did not
    """

    recording: bool
    battery_share: float | None = None
    battery_left_min: float | None = None
    temperature_c: float | None = None
    card_free_bytes: float | None = None
    card_left_min: float | None = None
    clock_offset_s: float | None = None
    recorded_s: float = 0.0
    ended: str = ""

    @property
    def words(self) -> str:
        """What is known, in a line."""
        charge = "" if self.battery_share is None else f"battery {self.battery_share:.0%}"
        if charge and self.battery_left_min is not None:
            charge += f", {self.battery_left_min:.0f} min"
        card = "" if self.card_left_min is None else f"card {self.card_left_min:.0f} min"
        if not card and self.card_free_bytes is not None:
            card = f"card {self.card_free_bytes / 1e9:.1f} GB"
        warmth = "" if self.temperature_c is None else f"{self.temperature_c:.0f} °C inside"
        return " · ".join(part for part in (charge, card, warmth) if part)


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

    def told(self) -> "Mapping[str, str | float]":
        """What it says that it is set to, by the names of `recording.settings`; what it does not tell is not in it."""
        ...

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

    def fetch(self, name: str, folder: Path, report: Report = ...) -> Path:
        """A copy of a file of the card in a folder."""
        ...

"""What a camera is asked to be set to, and what it says that it is: compared value by value, told in words."""

from collections.abc import Mapping

from msgspec import Struct

from glintor.exposure.program import PROGRAMS
from glintor.exposure.values import shutter_text
from glintor.recording.link import Options

Value = str | float
Settings = Mapping[str, Value]  # by name; what a camera does not tell is not in it
NAMES = ("mode", "width", "rate", "program", "shutter", "iso", "offset", "white", "interval", "frames", "steps")
_SHUTTER_SHARE, _SHARE = 0.06, 0.01  # 1/50 and 1/48 s are one step on many cameras


class Difference(Struct, frozen=True):
    """A setting that is not as it should be; told None: the camera does not say."""

    name: str
    wanted: str
    told: str | None

    @property
    def words(self) -> str:
        name = "" if self.name == "iso" else f"{self.name} "
        return f"{name}{self.told}, not {self.wanted}" if self.told is not None else f"{name}{self.wanted}?"


def asked(options: Options) -> dict[str, Value]:
    """What of options a camera must be set to."""
    exposure, mode = options.exposure, options.mode
    kind = {"photo": "photo", "bracket": "bracket", "lapse": "time-lapse"}.get(mode.kind, "film")
    wanted: dict[str, Value] = {"mode": kind, "width": float(mode.width_px), "program": options.program}
    if kind == "film":
        wanted["rate"] = exposure.rate_fps
    if options.program in ("manual", "shutter"):
        wanted["shutter"] = exposure.shutter_s
    if options.program in ("manual", "iso"):
        wanted["iso"] = exposure.iso
    if options.program != "manual":
        wanted["offset"] = options.offset_stops
    if exposure.white_k is not None:
        wanted["white"] = exposure.white_k
    if kind == "time-lapse":
        wanted["interval"] = options.interval_s
    if kind == "bracket":
        wanted |= {"frames": float(options.bracket_frames), "steps": options.bracket_stops}
    return wanted


def differences(wanted: Settings, told: Settings) -> tuple[Difference, ...]:
    """What is otherwise than it should be, and what the camera does not tell."""
    found = []
    for name in NAMES:
        if name not in wanted:
            continue
        value, other = wanted[name], told.get(name)
        if other is None or not _same(name, value, other):
            found.append(Difference(name, in_words(name, value), None if other is None else in_words(name, other)))
    return tuple(found)


def _same(name: str, one: Value, other: Value) -> bool:
    if isinstance(one, str) or isinstance(other, str):
        return one == other
    share = _SHUTTER_SHARE if name == "shutter" else _SHARE
    return abs(one - other) <= max(share * abs(one), 1e-6)


def in_words(name: str, value: Value) -> str:
    """A setting as a filmer says it."""
    if isinstance(value, str):
        return PROGRAMS.get(value, value) if name == "program" else value  # type: ignore[call-overload]
    return {
        "shutter": shutter_text(value) if value > 1e-6 else "automatic",
        "iso": f"ISO {value:.0f}",
        "width": f"{value:.0f} px",
        "rate": f"{value:g} fps",
        "offset": f"{value:+.1f} stops",
        "white": f"{value:.0f} K",
        "interval": f"{value:g} s",
    }.get(name, f"{value:g}")

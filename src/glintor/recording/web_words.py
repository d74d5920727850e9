"""Words of the open web API of spherical cameras in Glintor's own: settings, times, numbers and paths (from memory of the published
specification)."""

from collections.abc import Iterator
from datetime import datetime
from typing import Any

from glintor.exposure.program import Program
from glintor.recording.settings import Settings, Value
from glintor.recording.wire import Wrong

_PROGRAM: dict[Program, int] = {
    "manual": 1,
    "auto": 2,
    "shutter": 4,
    "iso": 9,
}  # as EXIF numbers them, and the API after it
_MODES = {"film": "video", "time-lapse": "interval", "photo": "image", "bracket": "image"}
_FIRST_YEAR, _LAST_YEAR = 1990, 2200


def wishes(wanted: Settings) -> Iterator[dict[str, Any]]:
    """What to set, in the order in which one depends on the other."""
    yield {"captureMode": _MODES[str(wanted["mode"])]}
    width = int(float(wanted["width"]))
    size: dict[str, Any] = {"width": width, "height": width // 2}
    if "rate" in wanted:
        yield {"fileFormat": {"type": "mp4", **size, "framerate": wanted["rate"]}}
    elif wanted["mode"] != "time-lapse":
        yield {"fileFormat": {"type": "jpeg", **size}}
    yield {"exposureProgram": _PROGRAM[wanted["program"]]}  # type: ignore[index]
    for name, theirs in (("shutter", "shutterSpeed"), ("iso", "iso"), ("offset", "exposureCompensation")):
        if name in wanted:
            yield {theirs: wanted[name]}
    if "white" in wanted:
        yield {"whiteBalance": "_colorTemperature", "colorTemperature": wanted["white"]}
    if "interval" in wanted:
        yield {"captureInterval": wanted["interval"]}
    if "frames" in wanted:
        yield {"exposureBracket": {"shots": int(float(wanted["frames"])), "increment": wanted["steps"]}}


def settings_of(options: dict[str, Any]) -> Settings:
    """What options of the API say, in Glintor's names."""
    found: dict[str, Value] = {}
    bracket = options.get("exposureBracket")
    frames = number(bracket.get("shots")) if isinstance(bracket, dict) else None
    mode = {"video": "film", "interval": "time-lapse", "image": "photo"}.get(str(options.get("captureMode")))
    if mode is not None:
        found["mode"] = "bracket" if mode == "photo" and frames is not None and frames > 1 else mode
    program = next((name for name, number in _PROGRAM.items() if number == options.get("exposureProgram")), None)
    if program is not None:
        found["program"] = program
    shape = options.get("fileFormat")
    numbers = {
        "shutter": options.get("shutterSpeed"),
        "iso": options.get("iso"),
        "offset": options.get("exposureCompensation"),
        "white": options.get("colorTemperature"),
        "interval": options.get("captureInterval"),
        "width": shape.get("width") if isinstance(shape, dict) else None,
        "rate": shape.get("framerate") if isinstance(shape, dict) else None,
        "frames": frames,
        "steps": bracket.get("increment") if isinstance(bracket, dict) else None,
    }
    return found | {name: value for name, told in numbers.items() if (value := number(told)) is not None}


def number(told: Any) -> float | None:
    if isinstance(told, bool) or not isinstance(told, int | float) or abs(told) > 1e18:
        return None
    return float(told)


def moment(told: Any) -> datetime | None:
    """A time as the API writes it: 2026:10-style dates with a zone, "2026:10:14 09:30:00+01:00"."""
    if not isinstance(told, str):
        return None
    try:
        found = datetime.fromisoformat(told[:10].replace(":", "-") + told[10:])
        if not _FIRST_YEAR <= found.year <= _LAST_YEAR:
            return None  # a clock that was never set, or that nobody can reckon with
        return found if found.tzinfo is not None else found.astimezone()
    except (ValueError, OverflowError, OSError):
        return None


def name_of(path: str) -> str:
    """A file's path without what leads to the card. Raises Wrong for one that leads out of it."""
    from urllib.parse import unquote

    plain = unquote(path.partition("?")[0]).lstrip("/")
    parts = [part for part in plain.split("/") if part]
    if not parts or any(
        part in (".", "..") or part.startswith(".") or "\x00" in part or "\\" in part for part in parts
    ):
        raise Wrong("The camera names a file in a strange place.", advice="Offload the card instead.")
    return "/".join(parts[1:] if parts[0] == "files" and len(parts) > 1 else parts)

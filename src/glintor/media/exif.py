"""What a photo's file tells of how and when it was taken. Source of the tags: Exif standard (CIPA DC-008)."""

from collections.abc import Sequence
from contextlib import suppress
from datetime import datetime
from pathlib import Path

import numpy as np
from msgspec import Struct

_GPS = 0x8825
_SUB, _TIME, _NUMBER, _ISO, _TAKEN, _PART = 0x8769, 0x829A, 0x829D, 0x8827, 0x9003, 0x9291
_MAKER, _MODEL = 0x010F, 0x0110
_K, _MID_GREY = 12.5, 0.18  # calibration of reflected-light meters (ISO 2720), cd s/m2


class Shot(Struct, frozen=True):
    """Each None where the file does not say: shutter time in seconds, f-number, ISO, when it was taken by its own clock,
    where by its own receiver, and which camera it calls itself ("" where it does not say)."""

    exposure_s: float | None = None
    f_number: float | None = None
    iso: float | None = None
    taken: datetime | None = None
    lat_deg: float | None = None
    lon_deg: float | None = None
    camera: str = ""

    @property
    def stops(self) -> float | None:
        """How much light a value of the file stands for, in stops, higher with more exposure; None where the time is not known.
        A missing f-number or ISO is taken to be the same in all frames of a series."""
        if self.exposure_s is None:
            return None
        return float(np.log2(self.exposure_s * (self.iso or 100.0) / 100.0 / (self.f_number or 1.0) ** 2))

    @property
    def ev100(self) -> float | None:
        """The EV100 that it was exposed for; None where not all of it is known."""
        if self.exposure_s is None or self.f_number is None or self.iso is None:
            return None
        return -float(np.log2(self.exposure_s * self.iso / 100.0 / self.f_number**2))

    @property
    def cd_m2(self) -> float | None:
        """Luminance of a linear value of 1, where the exposure lays mid grey at 0.18."""
        ev = self.ev100
        return None if ev is None else _K / 100.0 * 2.0**ev / _MID_GREY


def read_exif(path: Path) -> Shot:
    """What the file tells; nothing of a file without."""
    from PIL import Image, UnidentifiedImageError

    try:
        with Image.open(path) as picture:
            if picture.format == "PNG":  # its block may stand behind the picture
                picture.load()
            exif = picture.getexif()
            values, where = dict(exif.get_ifd(_SUB)), dict(exif.get_ifd(_GPS))
            maker, model = (str(exif.get(tag) or "").strip("\x00 ") for tag in (_MAKER, _MODEL))
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        return Shot()

    def number(tag: int) -> float | None:
        value = values.get(tag)
        with suppress(TypeError, ValueError, ZeroDivisionError):
            found = float(value[0] if isinstance(value, tuple) else value)  # type: ignore[arg-type]
            return found if np.isfinite(found) and found > 0.0 else None
        return None

    taken = None
    with suppress(ValueError):
        taken = datetime.strptime(str(values.get(_TAKEN, "")), "%Y:%m:%d %H:%M:%S")
        part = str(values.get(_PART, "")).strip()
        if part.isdigit():
            taken = taken.replace(microsecond=int(part.ljust(6, "0")[:6]))
    camera = model if model.lower().startswith(maker.lower()) else f"{maker} {model}".strip()
    return Shot(number(_TIME), number(_NUMBER), number(_ISO), taken, *_place(where), camera)


def told_exposure(shots: Sequence[Shot]) -> str:
    """How photos of one scene were exposed, as their files tell; "" where they tell nothing."""
    times = sorted({shot.exposure_s for shot in shots if shot.exposure_s is not None})
    stops = sorted({shot.f_number for shot in shots if shot.f_number is not None})
    isos = sorted({shot.iso for shot in shots if shot.iso is not None})
    told = [
        (times, lambda t: f"1/{1.0 / t:.0f}" if t < 0.3 else f"{t:.3g}", "{} s"),
        (stops, lambda f: f"{f:.2g}", "f/{}"),
        (isos, lambda i: f"{i:.0f}", "ISO {}"),
    ]
    return ", ".join(
        form.format(" to ".join(dict.fromkeys([words(found[0]), words(found[-1])])))
        for found, words, form in told
        if found
    )


def with_exif(jpeg: bytes, *, exposure_s: float, iso: float, f_number: float, taken: datetime) -> bytes:
    """A JPEG that says how and when it was taken: an APP1 segment after its head, its picture untouched."""
    from PIL import Image

    exif = Image.Exif()
    exif.get_ifd(_SUB).update(
        {_TIME: exposure_s, _NUMBER: f_number, _ISO: round(iso), _TAKEN: f"{taken:%Y:%m:%d %H:%M:%S}"}
    )
    body = exif.tobytes()
    body = body if body.startswith(b"Exif") else b"Exif\x00\x00" + body
    return jpeg[:2] + b"\xff\xe1" + (len(body) + 2).to_bytes(2, "big") + body + jpeg[2:]


def _place(where: dict[int, object]) -> tuple[float | None, float | None]:
    """Degrees north and east of the receiver's tags: degrees, minutes and seconds, with the letter of the half."""
    found: list[float | None] = []
    for letter, value, negative, most in ((1, 2, "S", 90.0), (3, 4, "W", 180.0)):
        degrees = None
        with suppress(TypeError, ValueError, ZeroDivisionError, KeyError):
            whole, minutes, seconds = (float(part) for part in where[value])  # type: ignore[attr-defined]
            degrees = (whole + minutes / 60.0 + seconds / 3600.0) * (-1.0 if where.get(letter) == negative else 1.0)
        found.append(degrees if degrees is not None and np.isfinite(degrees) and abs(degrees) <= most else None)
    return (found[0], found[1]) if None not in found else (None, None)

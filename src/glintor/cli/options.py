"""What the commands take, and how they tell how far they are."""

import sys
from typing import TYPE_CHECKING

from glintor.errors import InputError
from glintor.quantities import absurd

if TYPE_CHECKING:
    import argparse

    from glintor.media.encoding import Encoding
    from glintor.sphere.equirect import Coverage


def parser(name: str, words: str) -> "argparse.ArgumentParser":
    import argparse  # the window opens without it

    return argparse.ArgumentParser(prog=f"glintor {name}".strip(), description=words)


def size_px(text: str) -> tuple[int, int]:
    """A size such as 1920x1080. Raises InputError."""
    try:
        width, height = (int(part) for part in text.lower().split("x"))
    except ValueError as error:
        raise InputError(f"{text} is not a size.", advice="Write it as 1920x1080.") from error
    if not (16 <= width <= 16384 and 16 <= height <= 16384):
        raise InputError(f"{text} is out of range.", advice="Use 16 to 16384 pixels each way.")
    return width, height


def _mbit(text: str) -> float:
    value = text.strip().upper().removesuffix("BIT/S").strip()
    factor = {"M": 1.0, "K": 1e-3}.get(value[-1:], 1e-6)
    try:
        rate = float(value.rstrip("MK")) * factor
    except ValueError as error:
        raise InputError(f"{text} is not a bit rate.", advice="Write it as 50M.") from error
    if absurd("mbit_s", rate) is not None:
        raise InputError(f"{text} is not a bit rate.", advice="Write it as 50M.")
    return rate


def sound_numbers(**values: float) -> None:
    """Raises InputError for the first number that cannot be."""
    for name, value in values.items():
        wrong = absurd(name, value)
        if wrong is not None:
            raise InputError(f"{wrong}.", advice="Give a plain number.")


def progress(share: float) -> None:
    if sys.stderr.isatty():
        print(f"\r{share:4.0%}", end="\n" if share >= 1.0 else "", file=sys.stderr, flush=True)


def encoding_options(parser: "argparse.ArgumentParser") -> None:
    group = parser.add_mutually_exclusive_group()
    group.add_argument("--bitrate", metavar="50M", help="bit rate of the picture")
    group.add_argument("--crf", type=int, metavar="N", help="constant quality, 0 (lossless) to 51; 19 without either")
    parser.add_argument("--preset", default="veryfast", help="how long the encoder thinks (default veryfast)")
    parser.add_argument("--codec", default="h264", help="h264, h265, h265-10, prores or ffv1 (default h264)")
    parser.add_argument("--pcm", action="store_true", help="uncompressed sound (ProRes and FFV1 only)")


def encoding(chosen: "argparse.Namespace") -> "Encoding":
    """How films are packed. Raises as Encoding does."""
    from glintor.media.encoding import Encoding

    mbit = _mbit(chosen.bitrate) if chosen.bitrate else None
    crf = 19 if chosen.crf is None else chosen.crf
    return Encoding(mbit_s=mbit, crf=crf, preset=chosen.preset, codec=chosen.codec, pcm=chosen.pcm)


def told_options(parser: "argparse.ArgumentParser") -> None:
    group = parser.add_mutually_exclusive_group()
    group.add_argument("--as-sphere", action="store_true", help="take the picture for a full sphere whatever its shape")
    group.add_argument("--as-half", action="store_true", help="take the picture for one lens's half, unrolled")


def told(chosen: "argparse.Namespace") -> "Coverage | None":
    """What the person says that a picture shows."""
    from glintor.sphere.equirect import TOLD

    return TOLD.get("sphere" if chosen.as_sphere else "half" if chosen.as_half else "")


def view_options(parser: "argparse.ArgumentParser") -> None:
    for name, default, words in (
        ("yaw", 0.0, "degrees, positive right"),
        ("pitch", 0.0, "degrees, positive up"),
        ("roll", 0.0, "degrees, clockwise"),
        ("fov", 100.0, "full horizontal angle of the frame in degrees"),
        ("bend", 0.15, "curvature: 0 straight, 1 planet, over 1 a ball"),
    ):
        parser.add_argument(f"--{name}", type=float, default=default, help=f"{words} (default {default:g})")

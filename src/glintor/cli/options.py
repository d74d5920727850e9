"""What the commands take, and how they tell how far they are."""

import sys
from pathlib import Path
from typing import TYPE_CHECKING

from glintor.errors import InputError
from glintor.quantities import absurd

if TYPE_CHECKING:
    import argparse

    from glintor.media.encoding import Encoding
    from glintor.media.footage import Footage
    from glintor.sphere.turn import TurnTrack


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
    for name, words in (
        ("sphere", "a full sphere whatever its shape"),
        ("half", "one lens's half, unrolled"),
        ("side", "two fisheyes side by side"),
        ("under", "two fisheyes, one under the other"),
        ("lens", "one fisheye"),
        ("boxed", "a full sphere between black bars"),
        ("over", "the spheres of two eyes, one over the other"),
        ("beside", "the spheres of two eyes, side by side"),
        ("half-beside", "half of a sphere for each of two eyes, side by side"),
    ):
        group.add_argument(
            f"--as-{name}",
            action="store_const",
            const=name,
            dest="told",
            default="",
            help=f"take the picture for {words}",
        )
    parser.add_argument(
        "--lenses", type=Path, metavar="PROFILE.json", help="lens profile; found from the pictures without one"
    )
    parser.add_argument("--plain-seam", action="store_true", help="do not lay near things at the seam on one another")


def footage_told(chosen: "argparse.Namespace", source: Path, *, beside: bool = False) -> "Footage":
    """The recording that a command works on, taken for what the person says, else for what it is. beside: with the parts beside it
    that belong to it. Raises as `open_footage` does."""
    from glintor.media.footage import open_footage
    from glintor.media.lens_profile import find_lenses, read_lenses
    from glintor.media.reading import read_one
    from glintor.media.taken import TakenAs
    from glintor.media.together import read_beside
    from glintor.sphere.lenses import Lenses

    lenses = read_lenses(chosen.lenses) if chosen.lenses is not None else None
    told = chosen.told
    files: tuple[Path, ...] = (source,)
    if not told and source.exists():
        reading = read_beside(source) if beside else read_one(source)
        told = reading.told if reading.reading in ("two-lenses", "one-lens") else ""
        files = reading.files if reading.reading not in ("broken", "bracket") else files
    footage = open_footage(files, TakenAs(told, lenses, not chosen.plain_seam))
    if lenses is None and isinstance(footage.shows, Lenses):
        found = find_lenses(footage)
        print(f"glintor: lens profile found, residual {found.residual_px:.2f} px", file=sys.stderr)
        footage = open_footage(files, TakenAs(told, found.lenses, not chosen.plain_seam))
    return footage


def steady_option(parser: "argparse.ArgumentParser") -> None:
    parser.add_argument(
        "--steady",
        choices=("off", "smooth", "level", "lock", "heading"),
        help="hold the recording still; without it as its own pose says, which off ignores",
    )


def steady_turns(chosen: "argparse.Namespace", footage: "Footage") -> "tuple[Footage, TurnTrack | None]":
    """A recording and the turn from its picture to the frame that views are meant in; with its rows put right where finding how it
    turned told of them. Raises InputError, ClipError."""
    from msgspec.structs import replace

    from glintor.media.kept_rows import known_rows
    from glintor.media.orientation import orientation_of
    from glintor.sphere.steady import held

    if chosen.steady is None or footage.kind == "photo":
        return footage, footage.level if chosen.steady != "off" else None
    if chosen.steady == "off":
        return footage, None
    turns = held(orientation_of(footage, report=progress), chosen.steady)
    return replace(footage, rows=known_rows(footage.files)), turns


def view_options(parser: "argparse.ArgumentParser") -> None:
    for name, default, words in (
        ("yaw", 0.0, "degrees, positive right"),
        ("pitch", 0.0, "degrees, positive up"),
        ("roll", 0.0, "degrees, clockwise"),
        ("fov", 100.0, "full horizontal angle of the frame in degrees"),
        ("bend", 0.15, "curvature: 0 straight, 1 planet, over 1 a ball"),
    ):
        parser.add_argument(f"--{name}", type=float, default=default, help=f"{words} (default {default:g})")

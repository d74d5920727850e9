"""Lens profiles: found from a recording, kept as open JSON."""

from collections.abc import Iterator, Sequence
from fractions import Fraction
from pathlib import Path

import cv2
import msgspec
import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from glintor.errors import InputError
from glintor.files import write_bytes
from glintor.media.footage import Footage
from glintor.media.read import ClipReader, Decoded
from glintor.pixels.calibrate import Found, Frame, calibrate, first_guess, overlap_residual_px
from glintor.pixels.spheres import parts_of
from glintor.pixels.wide import Moves, quick_look, wide_lens
from glintor.pixels.yuv import Plane, Yuv
from glintor.quantities import first_absurd
from glintor.sphere.lenses import WIDE, Lenses
from glintor.types import Report

VERSION = 1
_BURSTS, _BURST_S, _STEPS = 10, 0.8, 5  # moments looked at, how long each, and in how many steps
_PART_PX = 1440  # lens pictures are looked at no wider
_DECODED_ON_S = 2  # so far after the last run the next begins at the latest
# A quick look: runs, the moments of each, no wider.
_GLANCES, _GLANCE_S, _GLANCE_PX = 2, (0, Fraction(1, 10), Fraction(1, 5), Fraction(2, 5)), 640
_HEAVY_PX, _HEAVY_MOMENTS = 1700, 6  # of wider ones fewer moments are decoded, which hold as much
WRONG_PX = 8.0  # a profile that leaves so much apart, of a sphere 5760 wide, is another camera's or guard's


class _Kept(msgspec.Struct, frozen=True):
    glintor_lenses: int
    lenses: Lenses


def write_lenses(file: Path, lenses: Lenses) -> None:
    """Writes a profile whole. Raises WriteError."""
    content = msgspec.json.encode(_Kept(VERSION, lenses))
    write_bytes(file, msgspec.json.format(content, indent=2) + b"\n")


def read_lenses(file: Path) -> Lenses:
    """The profile in a file. Raises InputError."""
    try:
        kept = msgspec.json.decode(file.read_bytes(), type=_Kept)
    except OSError as error:
        raise InputError(f"{file.name} cannot be opened: {error.strerror}.", advice="Check the name.") from error
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise InputError(
            f"{file.name} is no lens profile: {error}.",
            unharmed="It was not changed.",
            advice="Find one with glintor lenses.",
        ) from error
    if kept.glintor_lenses > VERSION:
        raise InputError(f"{file.name} was written by a newer Glintor.", advice="Update Glintor.")
    wrong = first_absurd(kept.lenses)
    if wrong is not None:
        raise InputError(f"{file.name}, at {wrong}.", unharmed="It was not changed.", advice="Mend that value.")
    return kept.lenses


def _moments(footage: Footage, count: int) -> list[float]:
    length = footage.duration_s
    if length <= _BURST_S:
        return [0.0]
    return [float(t) for t in np.linspace(0.02 * length, 0.98 * length - _BURST_S, count)]


def small_parts(picture: Yuv, lenses: Lenses, most_px: int = _PART_PX) -> Frame:
    """Small luma of each lens's part, at 8 bits, no wider than that."""
    eight = [(luma >> (picture.bits - 8)).astype(np.uint8) for luma, _, _ in parts_of(lenses, picture)]
    return tuple(_small(luma, most_px) for luma in eight)


def _small(luma: Plane, most_px: int) -> NDArray[np.uint8]:
    wide = min(luma.shape[1], most_px)
    size = (wide, round(luma.shape[0] * wide / luma.shape[1]))
    return np.asarray(cv2.resize(luma, size, interpolation=cv2.INTER_AREA), np.uint8)


def _glances(footage: Footage, lenses: Lenses, count: int) -> list[Frame]:
    """Single moments: the first, and others evenly after it."""
    with footage.reader() as reader:
        return [small_parts(reader.at(footage.duration_s * n / count).picture, lenses) for n in range(count)]


def _bursts(footage: Footage, lenses: Lenses, report: Report, count: int = _BURSTS) -> list[list[Frame]]:
    step = max(round(_BURST_S * float(footage.rate) / _STEPS), 1)
    found = []
    heavy = lenses.part_px(footage.size_px)[0] > _HEAVY_PX
    with footage.reader() as reader:
        moments = _moments(footage, min(count, _HEAVY_MOMENTS) if heavy else count)
        for number, moment in enumerate(moments):
            found.append([small_parts(d.picture, lenses) for d in reader.frames(moment, moment + _BURST_S)][::step])
            report((number + 1) / len(moments))
    return [burst for burst in found if len(burst) > 1] or [burst for burst in found if burst]


def how_it_moves(reader: ClipReader, duration_s: float, begun: Iterator[Decoded], apart: Sequence[Plane]) -> Moves:
    """A quick look at short runs of a film from some key frames on, until one tells whether a wide lens took it: what the last one said.
    begun: its frames from the beginning on; apart: luma far apart in time, which tell whether the camera stands or how it turned,
    unless it turned too far. Raises ClipError."""
    seen: Moves = "unknown"
    if len(apart) > 1:
        seen = quick_look([(_small(luma, _GLANCE_PX),) for luma in (apart[0], apart[-1])])
        if seen in ("wide", "flat", "still"):
            return seen
    begins = Fraction(0)  # of the next run: where no key frame comes for long, it is decoded on to there
    for number in range(_GLANCES):
        run: list[Frame] = []
        first: Fraction | None = None
        moment = duration_s * number / _GLANCES
        for decoded in reader.every_from(moment, after=True) if number else begun:
            if decoded.time < min(begins, Fraction(moment)):
                continue
            first = decoded.time if first is None else first
            if decoded.time < first + _GLANCE_S[len(run)]:
                continue
            run.append(small_parts(decoded.picture, WIDE, _GLANCE_PX))
            if len(run) < 2:
                continue
            seen = quick_look([run[0], run[-1]])
            if seen in ("wide", "flat"):
                return seen
            told = seen != "unknown" and len(run) > 2  # a longer run may tell where this one moves little
            if told or len(run) == len(_GLANCE_S):
                begins = decoded.time + _DECODED_ON_S
                break
    return seen


def lenses_of(footage: Footage) -> Lenses:
    """The profile that footage is drawn with. Raises InputError where it is none of fisheyes."""
    if isinstance(footage.shows, Lenses):
        return footage.shows
    raise InputError(f"{footage.name} holds no lens's own picture.", advice="A profile is found from fisheyes.")


def find_lenses(footage: Footage, *, report: Report = lambda _share: None, moments: int = _BURSTS) -> Found:
    """The profile of a footage's lenses, from its own pictures at some moments. Raises InputError, ClipError."""
    start = lenses_of(footage)
    bursts = _bursts(footage, start, lambda share: report(0.5 * share), moments)
    if start.alone:
        wide = wide_lens([burst for burst in bursts if len(burst) > 1])
        if wide is None:
            raise InputError(
                f"{footage.name} does not tell how wide its lens is: the camera turns too little, or too much in it moves.",
                unharmed="It was not changed.",
                advice="Choose a profile, or a recording in which the camera turns.",
            )
        return _named(wide, footage)
    return _named(calibrate(bursts, start, report=lambda share: report(0.5 + 0.5 * share)), footage)


def _named(found: Found, footage: Footage) -> Found:
    scale = 5760.0 / found.lenses.sphere_px(footage.size_px)
    name = f"found from {footage.files[0].name}"
    kept = replace(found.lenses, residual_px=round(found.residual_px * _shrunk(footage, found.lenses) * scale, 3))
    return replace(found, lenses=replace(kept, name=name, found_from=footage.files[0].name))


def _shrunk(footage: Footage, lenses: Lenses) -> float:
    """Pixels of the footage to one of those that were looked at."""
    width = lenses.part_px(footage.size_px)[0]
    return width / min(width, _PART_PX)


def guess_lenses(footage: Footage) -> Lenses:
    """A quick profile: circles where they are seen, and of usual fields the one in which both lenses agree best. Raises ClipError."""
    start = lenses_of(footage)
    return first_guess(_glances(footage, start, 2), start)


def misfit_px(footage: Footage, lenses: Lenses) -> float | None:
    """How far apart the two lenses show the same things with a profile, in pixels of a sphere 5760 wide; None where nothing tells.
    Raises ClipError."""
    if lenses.alone:
        return None
    return overlap_residual_px(lenses, _glances(footage, lenses, 3))

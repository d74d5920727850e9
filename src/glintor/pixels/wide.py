"""One wide lens or a flat picture: how things move when the camera turns tells."""

from collections.abc import Sequence
from contextlib import suppress
from typing import Literal

import cv2
import numpy as np
from msgspec.structs import replace

from glintor.errors import InputError
from glintor.pixels.bursts import turn_between
from glintor.pixels.calibrate import LEAST_TURN_DEG, Found, Frame, calibrate, followed
from glintor.sphere.lenses import WIDE, Eye, look_of_pixel
from glintor.types import Array

Moves = Literal["wide", "flat", "still", "mixed", "unknown"]
_TRIED_DEG = (60.0, 82.0, 105.0)  # half fields that are tried for one lens
_GLANCED_DEG = (55.0, 70.0, 85.0, 100.0, 115.0)  # and those by which a quick look is taken
_FLAT_PX, _FITS = 0.5, 0.4  # of pictures 1440 wide: a flat one fits within that; a fisheye fits so much better
_MAY_FIT = 0.6  # the same of a quick look, whose lens is not adjusted
# What turned as flat: so many pixels of a picture 1440 wide moved, a flat one fits within such a share of that, and any fisheye so many
# times worse. Measured on 40 films of known lenses: 0.004 to 0.033 and 5 times and more of flat ones that turn, 0.08 and more of wide ones.
_MOVED_PX, _FLAT_SHARE, _FISHEYE_TIMES = 4.5, 0.05, 2.0
_STILL_PX = 0.7  # what moves less stands still: 0.02 to 0.2 were measured of cameras on tripods
_FROM_DEG, _TO_DEG, _SOUND_SHARE = 60.0, 115.0, 0.6
_LEAST_POINTS = 30
_WIDE_PX = 1440.0


def wide_lens(bursts: Sequence[Sequence[Frame]]) -> Found | None:
    """The one wide lens that made these pictures, where turning them fits a fisheye and no flat picture; None where they are
    flat, or where the camera hardly turned so that nobody can tell."""
    pairs = [pair for (pair,) in followed(bursts, WIDE)]
    left = [_flat_residual_px(a, b) for a, b in pairs if len(a) >= _LEAST_POINTS]
    plain = float(np.median(left)) if left else 0.0
    if plain < _FLAT_PX:
        return None
    best: Found | None = None
    for half in _TRIED_DEG:
        with suppress(InputError):
            found = calibrate(bursts, replace(WIDE, eyes=(replace(WIDE.eyes[0], half_deg=half),)))
            if best is None or found.residual_px < best.residual_px:
                best = found
    if (
        best is None
        or best.turned_deg < LEAST_TURN_DEG
        or best.residual_px > _FITS * plain
        or best.sound < _SOUND_SHARE
    ):
        return None
    eye = best.lenses.eyes[0]
    middle = max(abs(eye.centre[0] - 0.5), abs(eye.centre[1] - 0.5)) < 0.1
    return best if _FROM_DEG < eye.half_deg < _TO_DEG and middle else None


def quick_look(burst: Sequence[Frame]) -> Moves:
    """A quick look at how things move in a short run of pictures, each of one part."""
    (((a, b),),) = followed([burst], WIDE)
    height, width = burst[0][0].shape
    return moves_as(a, b, (width, height))


def moves_as(a: Array, b: Array, size: tuple[int, int]) -> Moves:
    """How things at (n, 2) pixels a of a picture of that size went to b: as some turning fisheye shows them and no flat picture does, as
    a flat picture and no fisheye, not at all, far but as neither alone (mixed: past one another, or about the axis), or too little to tell
    (unknown)."""
    if len(a) < _LEAST_POINTS:
        return "unknown"
    unit = size[0] / _WIDE_PX
    plain = _flat_residual_px(a, b)
    fisheye = min(_fisheye_residual_px(half, size, a, b) for half in _GLANCED_DEG)
    if plain >= _FLAT_PX * unit and fisheye < _MAY_FIT * plain:
        return "wide"
    moved = float(np.median(np.linalg.norm(b - a, axis=1)))
    if moved < _STILL_PX * unit:
        return "still"
    flat = 0.0 < plain <= _FLAT_SHARE * moved and fisheye >= _FISHEYE_TIMES * plain
    if moved < _MOVED_PX * unit:
        return "unknown"
    return "flat" if flat else "mixed"


def _flat_residual_px(a: Array, b: Array) -> float:
    """How far nine in ten points are at most from the homography between two moments: 0 where there is none."""
    matrix, _ = cv2.findHomography(a, b, cv2.LMEDS)
    if matrix is None:
        return 0.0
    there = cv2.perspectiveTransform(a[:, None], matrix)[:, 0]
    return float(np.percentile(np.linalg.norm(there - b, axis=1), 90))


def _fisheye_residual_px(half_deg: float, size: tuple[int, int], a: Array, b: Array) -> float:
    """The same of a turn of an equidistant lens whose circle just holds the picture's width."""
    eye = Eye(half_deg=half_deg, radius=0.5)
    one, two = (look_of_pixel(eye, size, p[:, 0], p[:, 1]) for p in (a, b))
    kept = np.ones(len(a), bool)
    for _ in range(4):  # again without what moves by itself
        left = np.linalg.norm(two - one @ turn_between(one[kept], two[kept]).T, axis=1)
        kept = left <= np.percentile(left, 70)
    return float(np.percentile(left, 90)) * eye.focal * size[0]

"""Whether a picture holds two lenses' circles side by side: it has a sphere's shape and is none."""

from pathlib import Path

import numpy as np

from glintor.media.picture import SUFFIXES, glance
from glintor.media.probe import ClipError, probe
from glintor.pixels.yuv import Plane, Yuv

_CORNER = 0.07  # of the height: a square so large at the corner of a circle's square lies outside the circle
_BLACK, _EVEN, _LIT = (
    30,
    10,
    20,
)  # of 255: what a dark corner is at most, how even, and how much lighter the middles are


def two_circles(luma: Plane, bits: int = 8) -> bool:
    """Whether the eight corners of both halves of a picture (H, 2H) are black and even, and the middles are not.

    A picture that is dark all over is not taken for two circles: nobody could tell.
    """
    height, width = luma.shape
    if abs(width - 2 * height) > 2:
        return False
    picture = (luma >> (bits - 8)).astype(np.float32)
    side, half = max(round(height * _CORNER), 2), width // 2
    rows, columns = (slice(0, side), slice(height - side, height)), (slice(0, side), slice(half - side, half))
    halves = (picture[:, :half], picture[:, half : 2 * half])
    corners = [part[r, c] for part in halves for r in rows for c in columns]
    middle = slice(height // 4, 3 * height // 4)
    lit = min(float(part[middle, middle].mean()) for part in halves)
    dark = max(float(corner.mean()) for corner in corners)
    return dark <= _BLACK and max(float(corner.std()) for corner in corners) <= _EVEN and lit >= dark + _LIT


def refuse_tracks(path: Path) -> None:
    """Raises ClipError where a film holds the bare pictures of two lenses in two tracks, by its header."""
    if path.suffix.lower() not in SUFFIXES and probe(path).alike > 1:
        raise _unstitched(path.name)


def refuse_circles(path: Path, first: Yuv | None) -> None:
    """Raises ClipError where a film or photo holds them side by side. first: the film's first picture, None of a photo."""
    seen = (first.y, first.bits) if first is not None else (glance(path), 8)
    if seen[0] is not None and two_circles(*seen):
        raise _unstitched(path.name)


def _unstitched(name: str) -> ClipError:
    return ClipError(
        f"{name} holds the pictures of two lenses that nobody has joined yet.",
        unharmed="It was not changed.",
        advice="Glintor cannot join them yet: export it as a sphere from the camera first.",
    )

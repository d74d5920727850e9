"""Whether a picture holds two lenses' circles side by side: it has a sphere's shape and is none."""

from pathlib import Path

import numpy as np

from glintor.media.picture import SUFFIXES, glance
from glintor.media.probe import ClipError, open_clip
from glintor.media.read import ClipReader
from glintor.pixels.yuv import Plane

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


def refuse_lenses(path: Path) -> None:
    """Raises ClipError where a film or photo holds the bare pictures of two lenses, in one stream or in two."""
    if path.suffix.lower() in SUFFIXES:
        pixels = glance(path)
        if pixels is not None and two_circles(pixels):
            raise _unstitched(path.name)
        return
    with open_clip(path) as container:
        sizes = [
            (s.codec_context.width, s.codec_context.height)
            for s in container.streams.video
            if s.codec_context is not None
        ]
    if sizes.count(sizes[0]) > 1:
        raise _unstitched(path.name)
    if sizes[0][0] == 2 * sizes[0][1]:
        with ClipReader(path) as reader:
            picture = reader.at(0.0).picture
        if two_circles(picture.y, picture.bits):
            raise _unstitched(path.name)


def _unstitched(name: str) -> ClipError:
    return ClipError(
        f"{name} holds the pictures of two lenses that nobody has joined yet.",
        unharmed="It was not changed.",
        advice="Glintor cannot join them yet: export it as a sphere from the camera first.",
    )

"""A picture as it comes out of a decoder and goes into an encoder: 8-bit Y, U, V planes at 4:2:0."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Plane = NDArray[np.uint8]
MAT_GREY = 138  # the neutral mid grey on which pictures lie, and what stands around a ball


@dataclass(frozen=True, slots=True)
class ColourTags:
    """How the planes mean colour: matrix "bt709" or "bt601", and whether black is at 0 (full) or 16 (limited)."""

    matrix: str = "bt709"
    full_range: bool = False


@dataclass(frozen=True, slots=True)
class Yuv:
    """Planes y (H, W) and u, v (ceil(H/2), ceil(W/2)), rows may be padded; chroma sited left (MPEG-2)."""

    y: Plane
    u: Plane
    v: Plane
    tags: ColourTags = ColourTags()

    @property
    def size_px(self) -> tuple[int, int]:
        return self.y.shape[1], self.y.shape[0]


def blank(width_px: int, height_px: int, tags: ColourTags = ColourTags()) -> Yuv:
    """A new picture with undefined content."""
    half = ((height_px + 1) // 2, (width_px + 1) // 2)
    return Yuv(np.empty((height_px, width_px), np.uint8), np.empty(half, np.uint8), np.empty(half, np.uint8), tags)

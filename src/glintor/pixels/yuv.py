"""A picture as it comes out of a decoder and goes into an encoder: Y, U, V planes of 8 bits or more."""

from typing import Any

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

Plane = NDArray[Any]  # of uint8 or uint16
MAT_GREY = 138  # the neutral mid grey on which pictures lie, and what stands around a ball (of 255)


class ColourTags(Struct, frozen=True):
    """How the planes mean colour: matrix "bt709", "bt601" or "bt2020", and whether black is at 0 (full) or 16 (limited).

    primaries and transfer are the numbers of ITU-T H.273, carried through as they are (2 is "not said").
    """

    matrix: str = "bt709"
    full_range: bool = False
    primaries: int = 1
    transfer: int = 1


class Yuv(Struct, frozen=True):
    """Planes y (H, W) and u, v, rows may be padded; samples of `bits` bits, in 16-bit words above 8.

    u and v are half as wide and half as high (4:2:0), half as wide (4:2:2) or as large as y (4:4:4); where they are
    halved, they are sited left and between the lines (MPEG-2).
    """

    y: Plane
    u: Plane
    v: Plane
    tags: ColourTags = ColourTags()
    bits: int = 8

    @property
    def size_px(self) -> tuple[int, int]:
        return self.y.shape[1], self.y.shape[0]

    @property
    def tall(self) -> int:
        """Rows of colour to a row where luma and colour were of one form: 2 at 4:2:2, where a colour sample is twice as wide as high."""
        return 2 if self.u.shape[0] * self.y.shape[1] > 1.5 * self.u.shape[1] * self.y.shape[0] else 1

    def part(self, left: int, top: int, width: int, height: int) -> "Yuv":
        """A part of it, not copied; all four even."""

        def cut(plane: Plane) -> Plane:
            across, down = self.y.shape[1] // plane.shape[1], self.y.shape[0] // plane.shape[0]
            return plane[top // down : (top + height) // down, left // across : (left + width) // across]

        return Yuv(cut(self.y), cut(self.u), cut(self.v), self.tags, self.bits)


def blank(width_px: int, height_px: int, tags: ColourTags = ColourTags()) -> Yuv:
    """A new 8-bit picture at 4:2:0 with undefined content."""
    half = ((height_px + 1) // 2, (width_px + 1) // 2)
    return Yuv(np.empty((height_px, width_px), np.uint8), np.empty(half, np.uint8), np.empty(half, np.uint8), tags)

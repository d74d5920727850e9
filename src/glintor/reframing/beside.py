"""Two or three views in one picture, each with a course of its own: an inset, side by side, or three bands."""

from itertools import pairwise
from typing import Annotated, Literal

import msgspec
from msgspec import Meta, Struct

BesideKind = Literal["inset", "side", "bands"]
Corner = Literal["upper left", "upper right", "lower left", "lower right"]
_MARGIN = 0.035  # of the frame's shorter side, round an inset


class Beside(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """What else a cut's picture shows: the views of other cuts of the same take, at the same moment.

    cuts    their ids: one, or two for three bands; corner and share (of the frame's width) are of an inset
    """

    kind: BesideKind
    cuts: Annotated[tuple[str, ...], Meta(min_length=1, max_length=2)]
    corner: Corner = "lower right"
    share: Annotated[float, Meta(ge=0.1, le=0.5)] = 0.3


class Part(Struct, frozen=True):
    """A part of a picture: its size and upper left corner, in even pixels."""

    size_px: tuple[int, int]
    corner_px: tuple[int, int]


def parts_of(beside: Beside, size_px: tuple[int, int]) -> list[Part]:
    """The parts of a picture of a size: the cut's own first, then those of the others. Parts lie along the longer side."""
    width, height = size_px
    if beside.kind == "inset":
        inner = (_even(width * beside.share), _even(height * beside.share))
        margin = _even(_MARGIN * min(width, height))
        x = margin if "left" in beside.corner else width - inner[0] - margin
        y = margin if "upper" in beside.corner else height - inner[1] - margin
        return [Part(size_px, (0, 0)), Part(inner, (x // 2 * 2, y // 2 * 2))]
    count = 2 if beside.kind == "side" else 3
    along, across = (width, height) if width >= height else (height, width)
    edges = [_even(along * n / count) for n in range(count)] + [along]
    out = []
    for first, last in pairwise(edges):
        long_side, at = last - first, first
        out.append(Part((long_side, across), (at, 0)) if width >= height else Part((across, long_side), (0, at)))
    if count == 3:  # the cut's own in the middle
        out = [out[1], out[0], out[2]]
    return out


def _even(value: float) -> int:
    return round(value / 2.0) * 2

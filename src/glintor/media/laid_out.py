"""How pictures lie in a picture where no metadata tell: between bars, two eyes' views in one, two lenses edge to edge, the six sides of
a cube. What parts them is a hard line right through, which no scene has there."""

from collections.abc import Sequence
from typing import Any

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.media.looks_like import alike
from glintor.pixels.yuv import Plane
from glintor.types import Array

_DARK, _EVEN = 34.0, 4.0  # of 255: what a bar is at most, and how much it varies
_LEAST_BAR = 0.02  # of a side
_UNEVEN_PX = 3  # how much two bars may differ
_NEAR = (2, 6)  # lines on either side that a line is compared with: from, and up to
_TIMES, _STEP = 3.0, 5.0  # what is hard: so many times the steps beside it, and so many of 255
# A line runs through where so much of it is hard, and so many times more than of any other line.
_LINE, _OTHERS = 0.15, 2.0
_BREAK, _OTHER_BREAKS, _NOISE = 0.08, 1.5, 2.0  # the same of what does not go on; what is even, in levels, is alike
_ROWS_APART = 0.4  # of one line alone, which a level horizon is in a part of its length
_DETAIL = 4.0  # of 255: what varies less shows nothing that could be alike
_EYES_ALIKE, _EYES_SAME = 0.6, 0.85  # what two eyes see is so much alike; and so much that nothing else looks like it
_THINNED = 3  # every so-manieth point of a line is looked at

CUBE = "it looks laid out as the six sides of a cube: if it is, export it as an equirectangular film first"
# Width to height, and where the lines between the sides run: across, and down
_CUBES: tuple[tuple[float, tuple[float, ...], tuple[float, ...]], ...] = (
    (3 / 2, (1 / 3, 2 / 3), (1 / 2,)),
    (4 / 3, (), (1 / 3, 2 / 3)),
    (5 / 2, (4 / 5,), ()),
)


class Bars(Struct, frozen=True):
    """Black bars in pixels of what was looked at."""

    top: int
    bottom: int
    left: int
    right: int

    @property
    def even(self) -> bool:
        """Whether a picture lies in the middle of them, with bars above and below or at both sides but not all round."""
        high, wide = min(self.top, self.bottom), min(self.left, self.right)
        level = abs(self.top - self.bottom) <= _UNEVEN_PX and abs(self.left - self.right) <= _UNEVEN_PX
        return level and (high > 0) != (wide > 0)


def bars_of(frames: Sequence[Plane]) -> Bars:
    """How wide what is dark and even at each side is, in all of the moments."""
    lightest = np.max(np.stack(frames), axis=0).astype(np.float32)
    rows = (lightest.max(axis=1) <= _DARK) & (np.ptp(lightest, axis=1) <= 4 * _EVEN)
    columns = (lightest.max(axis=0) <= _DARK) & (np.ptp(lightest, axis=0) <= 4 * _EVEN)
    if rows.all() or columns.all():
        return Bars(0, 0, 0, 0)

    def run(dark: NDArray[np.bool_]) -> int:
        length = int(np.argmin(dark))
        return length if length >= _LEAST_BAR * len(dark) else 0

    return Bars(run(rows), run(rows[::-1]), run(columns), run(columns[::-1]))


class Lines(Struct, frozen=True):
    """What lies between each row, or column, and the next.

    hard    the share of a line that steps where what lies beside it does not
    breaks  by how much less both sides of it are alike than the lines beside it are (correlation): of busy pictures
    """

    hard: Array
    breaks: Array

    def only_at(self, places: Sequence[float], least: float = _LINE) -> bool:
        """Whether hard lines run right through at most of these places, shares of the side, and nowhere else."""
        return _only_at(self.hard, places, least, _OTHERS)

    @property
    def parted(self) -> bool:
        """Whether two pictures meet in the middle: by a hard line, or because nothing goes on over it."""
        return self.only_at((0.5,)) or _only_at(self.breaks, (0.5,), _BREAK, _OTHER_BREAKS)


def _only_at(found: Array, places: Sequence[float], least: float, times: float) -> bool:
    if not places:
        return True
    others, there = found.copy(), []
    for place in places:
        middle = round(place * (len(found) + 1)) - 1
        there.append(float(found[max(middle - 1, 0) : middle + 2].max()))
        others[max(middle - 4, 0) : middle + 5] = 0.0
    usual = float(np.median(there))
    return usual > least and usual > times * float(others.max())


def lines_of(frames: Sequence[Plane]) -> tuple[Lines, Lines]:
    """The lines between rows, and those between columns."""
    mean = np.stack(frames).mean(axis=0, dtype=np.float32)
    return _lines(mean[:, ::_THINNED]), _lines(mean[::_THINNED].T)


def _lines(picture: NDArray[np.float32]) -> Lines:
    steps = np.abs(np.diff(picture, axis=0))
    hard, breaks = np.zeros(len(steps)), np.zeros(len(steps))
    near, far = _NEAR
    if len(steps) <= 2 * far:
        return Lines(hard, breaks)
    beside = [*range(-far + 1, -near + 1), *range(near, far)]

    def inner(rows: NDArray[Any], off: int = 0) -> NDArray[Any]:
        return rows[far + off : len(steps) - far + off]

    usual = sum(inner(steps, off) for off in beside) / len(beside)
    inner(hard)[:] = np.mean(inner(steps) > _TIMES * usual + _STEP, axis=1)
    own = picture - picture.mean(axis=1, keepdims=True)
    size = np.sqrt(np.sum(own**2, axis=1)) + _NOISE * np.sqrt(picture.shape[1])
    alike_next = np.sum(own[1:] * own[:-1], axis=1) / (size[1:] * size[:-1])
    inner(breaks)[:] = np.median([inner(alike_next, off) for off in beside], axis=0) - inner(alike_next)
    return Lines(hard, breaks)


def is_cube(size_px: tuple[int, int], lines: tuple[Lines, Lines]) -> bool:
    """Whether a picture is parted as the sides of a cube usually lie. Two rows of three that run on (as where their angles are equal)
    show only the line between the rows."""
    rows, columns = lines
    shape = size_px[0] / size_px[1]
    if abs(max(shape, 1.0 / shape) - 6.0) < 0.01:  # six in a row: nothing else is
        return True
    for width, across, down in _CUBES:
        if abs(shape / width - 1.0) < 0.01 and columns.only_at(across) and rows.only_at(down):
            return True
    two_rows = abs(shape - 1.5) < 0.02 or abs(shape - 16 / 9) < 0.02
    return two_rows and rows.only_at((0.5,), _ROWS_APART)


def eyes_alike(frames: Sequence[Plane], *, over: bool) -> tuple[bool, bool]:
    """Whether both halves show nearly the same, as what two eyes see does, and whether so much so that nothing else looks like it."""
    if min(float(frame.std()) for frame in frames) < _DETAIL:
        return False, False
    pairs = zip(*halves(frames, over=over), strict=True)
    found = min(alike(np.ascontiguousarray(one), np.ascontiguousarray(two)) for one, two in pairs)
    return found > _EYES_ALIKE, found > _EYES_SAME


def halves(frames: Sequence[Plane], *, over: bool) -> tuple[list[Plane], list[Plane]]:
    """The two halves of each moment: upper and lower, or left and right."""
    rows, columns = frames[0].shape
    if over:
        return [f[: rows // 2] for f in frames], [f[rows // 2 : rows // 2 * 2] for f in frames]
    return [f[:, : columns // 2] for f in frames], [f[:, columns // 2 : columns // 2 * 2] for f in frames]

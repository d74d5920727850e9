"""Where the words of a chart stand: beside what they name, on no other words, off the lines where there is room."""

from collections.abc import Sequence
from functools import lru_cache
from typing import Literal

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QFontMetrics, QPainter

from glintor.desktop import theme
from glintor.desktop.charts import marks

Side = Literal["right", "left", "above", "below"]
Box = tuple[float, float, float, float]  # left, top, right, bottom

_ROUND: tuple[Side, ...] = ("right", "above", "left", "below")
_RINGS = (0.0, 12.0, 28.0, 50.0, 80.0, 120.0)  # how much farther off words may go, pixels
_WORDS, _OUTSIDE, _THING, _LINE = 40.0, 60.0, 2.0, 6.0  # what it costs to cover, by pixel of overlap or point of a line
_ON_WORDS = 400.0  # to lie on other words at all, more than the farthest place costs
_FAR, _ASIDE = 0.5, 1.5  # a pixel farther off, and along the side
_SIDE, _UNASKED = 3.0, 25.0  # a side that is less wanted; one that nobody asked for
_FREE = 12.0  # what may be covered without looking for a better place: a point or two of a line
_LED_PX = 14.0  # farther off than wanted, words get a line to what they name
_FULL, _FEW = 0.4, 12  # of a chart that words may fill; so many are always tried
_STEP_PX = 6.0  # between points along lines


class Wish(Struct, frozen=True):
    """Words of a size wanted near a point: at least `gap` off it, on the first of these sides that is free."""

    at: tuple[float, float]
    size: tuple[float, float]
    gap: float = 8.0
    sides: tuple[Side, ...] = _ROUND


def place(
    wishes: Sequence[Wish], within: Box, *, things: Sequence[Box] = (), points: Sequence[tuple[float, float]] = ()
) -> list[Box]:
    """A box for each wish, in their order; the earlier have the first choice.

    things  what should not be covered; points: of lines that words should rather not lie on
    """
    placed: list[Box] = []
    lines = np.array(points, np.float64).reshape(-1, 2)
    for wish in wishes:
        found = _first(wish, within)
        best = _cost(found, placed, within, things, lines)  # the usual end: it is free
        for ring in _RINGS if best > _FREE else ():
            if _FAR * ring >= best:  # the rest lies farther off still
                break
            for far, box in _candidates(wish, within, ring):
                cost = far if far >= best else far + _cost(box, placed, within, things, lines, best - far)
                if cost < best:
                    best, found = cost, box
        placed.append(found)
    return placed


def with_room(sizes: Sequence[tuple[float, float]], within: Box) -> int:
    """How many of these words, the first of them, can stand in a box and still be read: they fill no more than `_FULL` of it. At least
    `_FEW`, however small it is."""
    room = _FULL * max(within[2] - within[0], 0.0) * max(within[3] - within[1], 0.0)
    filled = np.cumsum([width * height for width, height in sizes])
    return min(max(int(np.searchsorted(filled, room, side="right")), _FEW), len(sizes))


def _candidates(wish: Wish, within: Box, ring: float) -> list[tuple[float, Box]]:
    """Boxes so far round the point, each with what its being far or on a less wanted side costs, the cheapest first."""
    (x, y), (width, height) = wish.at, wish.size
    out: list[tuple[float, Box]] = []
    order = (*wish.sides, *(side for side in _ROUND if side not in wish.sides))
    off = wish.gap + ring
    for rank, side in enumerate(order):
        upright = side in ("right", "left")
        for slide in (0.0, -0.5, 0.5, -1.0, 1.0):
            aside = slide * (height + 2 * ring if upright else width + ring)
            if upright:
                left, top = x + off if side == "right" else x - off - width, y - height / 2 + aside
            else:
                left, top = x - width / 2 + aside, y - off - height if side == "above" else y + off
            box = _held((left, top, left + width, top + height), within)
            unasked = _UNASKED if side not in wish.sides else 0.0
            out.append((_FAR * ring + _ASIDE * abs(aside) + _SIDE * rank + unasked, box))
    return sorted(out)


def _first(wish: Wish, within: Box) -> Box:
    """Close by, on the side that is wanted most."""
    (x, y), (width, height), side = wish.at, wish.size, wish.sides[0]
    left = x + wish.gap if side == "right" else x - wish.gap - width if side == "left" else x - width / 2
    top = y - wish.gap - height if side == "above" else y + wish.gap if side == "below" else y - height / 2
    return _held((left, top, left + width, top + height), within)


def _held(box: Box, within: Box) -> Box:
    """The box moved as little as needed to lie within another; one that is too large keeps its beginning inside."""
    dx = max(min(within[2] - box[2], 0.0), within[0] - box[0])
    dy = max(min(within[3] - box[3], 0.0), within[1] - box[1])
    return box[0] + dx, box[1] + dy, box[2] + dx, box[3] + dy


def _cost(
    box: Box,
    placed: Sequence[Box],
    within: Box,
    things: Sequence[Box],
    lines: NDArray[np.float64],
    enough: float = float("inf"),
) -> float:
    """What it costs words to stand there; reckoned no further where it is `enough` already."""
    near = (
        other for other in placed if other[0] < box[2] and other[2] > box[0]
    )  # quickly past what is not even above or below
    shared = [area for area in (_covered(box, other) for other in near) if area > 0.0]
    total = _ON_WORDS * len(shared) + _WORDS * sum(shared) + sum(_THING * _covered(box, thing) for thing in things)
    total += _OUTSIDE * ((box[2] - box[0]) * (box[3] - box[1]) - _covered(box, within))
    if total >= enough:
        return total
    on = (lines[:, 0] >= box[0]) & (lines[:, 0] <= box[2]) & (lines[:, 1] >= box[1]) & (lines[:, 1] <= box[3])
    return total + _LINE * int(np.count_nonzero(on))


def _covered(a: Box, b: Box) -> float:
    """Area that two boxes share, square pixels."""
    return max(min(a[2], b[2]) - max(a[0], b[0]), 0.0) * max(min(a[3], b[3]) - max(a[1], b[1]), 0.0)


class _Words(Struct, frozen=True):
    words: str
    colour: str
    bold: bool
    wish: Wish


@lru_cache(maxsize=512)
def _size(words: str, bold: bool) -> tuple[float, float]:
    metrics = QFontMetrics(theme.font(bold=bold))
    return metrics.horizontalAdvance(words) + 6.0, float(metrics.height())


class Labels:
    """Gathers the words of one drawing and writes them when it is known what else stands there."""

    def __init__(self, painter: QPainter, within: Box) -> None:
        self._painter, self._within = painter, within
        self._words: list[_Words] = []
        self._things: list[Box] = []
        self._points: list[tuple[float, float]] = []

    def add(
        self,
        x: float,
        y: float,
        words: str,
        *,
        colour: str = "ink",
        bold: bool = False,
        gap: float = 8.0,
        sides: tuple[Side, ...] = _ROUND,
    ) -> None:
        """Words about the point (x, y); the first added choose first."""
        size = _size(words, bold)
        self._words.append(_Words(words, colour, bold, Wish((x, y), size, gap, sides)))

    def clear_of(self, left: float, top: float, right: float, bottom: float) -> None:
        """Keeps words off a thing where there is room."""
        self._things.append((left, top, right, bottom))

    def off_line(self, a: QPointF, b: QPointF) -> None:
        """Keeps words off a line where there is room."""
        count = max(int(max(abs(b.x() - a.x()), abs(b.y() - a.y())) / _STEP_PX), 1)
        if count > 2000:  # it runs far out of the sheet
            return
        self._points += [
            (a.x() + (b.x() - a.x()) * n / count, a.y() + (b.y() - a.y()) * n / count) for n in range(count + 1)
        ]

    def write(self) -> None:
        """Draws the words; of more than there is room for the first, and how many are left out."""
        count = with_room([one.wish.size for one in self._words], self._within)
        kept, left_out = self._words[:count], len(self._words) - count
        if left_out:
            right, bottom = self._within[2:]
            width, height = _size(more := f"{left_out} more", False)
            self._things.append((right - width, bottom - height, right, bottom))
            marks.text(self._painter, right - width + 3.0, bottom - height / 2, more, colour="soft", halo=True)
        boxes = place([one.wish for one in kept], self._within, things=self._things, points=self._points)
        for one, (left, top, right, bottom) in zip(kept, boxes, strict=True):
            at = QPointF(*one.wish.at)
            near = QPointF(min(max(at.x(), left), right), min(max(at.y(), top), bottom))
            if (near - at).manhattanLength() > one.wish.gap + _LED_PX:  # it had to move away
                self._painter.setPen(marks.pen("soft", 0.8))
                self._painter.drawLine(at, near)
            marks.text(
                self._painter, left + 3.0, (top + bottom) / 2, one.words, colour=one.colour, bold=one.bold, halo=True
            )

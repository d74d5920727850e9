"""Where the words of a chart stand: beside what they name, on no other words, off the lines where there is room."""

from collections.abc import Sequence
from typing import Literal

from msgspec import Struct
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainter

from glintor.desktop import theme
from glintor.desktop.charts import marks

Side = Literal["right", "left", "above", "below"]
Box = tuple[float, float, float, float]  # left, top, right, bottom

_ROUND: tuple[Side, ...] = ("right", "above", "left", "below")
_RINGS = (0.0, 12.0, 28.0, 50.0, 80.0, 120.0)  # how much farther off words may go, pixels
_WORDS, _OUTSIDE, _THING, _LINE = 40.0, 60.0, 2.0, 0.6  # what it costs to cover, by pixel of overlap or point of a line
_FAR, _ASIDE = 0.5, 1.5  # a pixel farther off, and along the side
_SIDE, _UNASKED = 3.0, 25.0  # a side that is less wanted; one that nobody asked for
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
    for wish in wishes:
        placed.append(
            min(_candidates(wish, within), key=lambda one: one[0] + _cost(one[1], placed, within, things, points))[1]
        )
    return placed


def _candidates(wish: Wish, within: Box) -> list[tuple[float, Box]]:
    """Boxes round the point, each with what its being far or on a less wanted side costs."""
    (x, y), (width, height) = wish.at, wish.size
    out: list[tuple[float, Box]] = []
    order = (*wish.sides, *(side for side in _ROUND if side not in wish.sides))
    for ring in _RINGS:
        for rank, side in enumerate(order):
            off = wish.gap + ring
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
    return out


def _held(box: Box, within: Box) -> Box:
    """The box moved as little as needed to lie within another."""
    dx = max(within[0] - box[0], 0.0) + min(within[2] - box[2], 0.0)
    dy = max(within[1] - box[1], 0.0) + min(within[3] - box[3], 0.0)
    return box[0] + dx, box[1] + dy, box[2] + dx, box[3] + dy


def _cost(
    box: Box, placed: Sequence[Box], within: Box, things: Sequence[Box], points: Sequence[tuple[float, float]]
) -> float:
    total = sum(_WORDS * _covered(box, other) for other in placed) + sum(
        _THING * _covered(box, thing) for thing in things
    )
    area = (box[2] - box[0]) * (box[3] - box[1])
    total += _OUTSIDE * (area - _covered(box, within))
    return total + _LINE * sum(box[0] <= x <= box[2] and box[1] <= y <= box[3] for x, y in points) * 10.0


def _covered(a: Box, b: Box) -> float:
    """Area that two boxes share, square pixels."""
    return max(min(a[2], b[2]) - max(a[0], b[0]), 0.0) * max(min(a[3], b[3]) - max(a[1], b[1]), 0.0)


class _Words(Struct, frozen=True):
    words: str
    colour: str
    bold: bool
    wish: Wish


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
        self._painter.setFont(theme.font(bold=bold))
        metrics = self._painter.fontMetrics()
        size = (metrics.horizontalAdvance(words) + 6.0, float(metrics.height()))
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
        boxes = place([one.wish for one in self._words], self._within, things=self._things, points=self._points)
        for one, (left, top, _, bottom) in zip(self._words, boxes, strict=True):
            marks.text(
                self._painter, left + 3.0, (top + bottom) / 2, one.words, colour=one.colour, bold=one.bold, halo=True
            )

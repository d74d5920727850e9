"""Carriers and people on a chart, as they look."""

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPolygonF

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.placement.outline import Outline
from glintor.placement.solids import DARK, HULL, RAIL

_DEEPER = {HULL: "line", DARK: "soft", RAIL: "line"}  # tones of materials; all others are of paper
_LEAST_PX = 1.2


def draw_carrier(p: QPainter, solids: Sequence[Outline], px: Callable[[float, float], QPointF]) -> None:
    """A carrier's solids, the farther ones first, in thin ink on tones of paper."""
    colours = theme.colours()
    p.setPen(marks.pen("soft", 0.8))
    for solid in solids:
        p.setBrush(colours[_DEEPER.get(solid.material, "paper")])
        p.drawPolygon(QPolygonF([px(a, b) for a, b in solid.corners.tolist()]))


def draw_person(p: QPainter, solids: Sequence[Outline], px: Callable[[float, float], QPointF], colour: str) -> None:
    """A person in one colour, the limbs told apart by a thin line of paper."""
    p.setBrush(theme.colours()[colour])
    p.setPen(marks.pen("sheet", 0.7))
    for solid in solids:
        corners = QPolygonF([px(a, b) for a, b in solid.corners.tolist()])
        if corners.boundingRect().width() < _LEAST_PX:
            p.setPen(Qt.PenStyle.NoPen)
        p.drawPolygon(corners)

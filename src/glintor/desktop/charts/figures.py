"""Carriers and people on a chart, as they look; the painter has the scale, corners stay in metres."""

from collections.abc import Sequence
from functools import lru_cache

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainter, QPen, QPolygonF, QTransform

from glintor.desktop import theme
from glintor.placement.carrier import Carrier
from glintor.placement.outline import Outline, Way, carrier_outlines
from glintor.placement.solids import DARK, HULL, RAIL

_DEEPER = {HULL: "line", DARK: "soft", RAIL: "line"}  # tones of materials; all others are of paper


def draw_carrier(
    p: QPainter, carrier: Carrier, way: Way, origin: QPointF, px_per_m: float, turn_deg: float = 0.0
) -> None:
    """A carrier's solids, the farther ones first, in thin ink on tones of paper. origin: where 0, 0 lies on the sheet."""
    p.save()
    _scaled(p, origin, px_per_m, turn_deg)
    p.setPen(_thin("soft", 0.8))
    for material, corners in _shapes(carrier, way):
        p.setBrush(theme.colours()[_DEEPER.get(material, "paper")])
        p.drawPolygon(corners)
    p.restore()


def draw_person(
    p: QPainter, solids: Sequence[Outline], colour: str, origin: QPointF, px_per_m: float, turn_deg: float = 0.0
) -> None:
    """A person in one colour, the limbs told apart by a thin line of paper."""
    p.save()
    _scaled(p, origin, px_per_m, turn_deg)
    p.setBrush(theme.colours()[colour])
    p.setPen(_thin("sheet", 0.7))
    for solid in solids:
        p.drawPolygon(_polygon(solid))
    p.restore()


def _scaled(p: QPainter, origin: QPointF, px_per_m: float, turn_deg: float) -> None:
    p.setTransform(QTransform().translate(origin.x(), origin.y()).rotate(turn_deg).scale(px_per_m, -px_per_m), True)


def _thin(colour: str, width: float) -> QPen:
    line = QPen(theme.colours()[colour], width)
    line.setCosmetic(True)
    return line


@lru_cache(maxsize=32)
def _shapes(carrier: Carrier, way: Way) -> list[tuple[int, QPolygonF]]:
    return [(solid.material, _polygon(solid)) for solid in carrier_outlines(carrier, way)]


def _polygon(solid: Outline) -> QPolygonF:
    return QPolygonF([QPointF(a, b) for a, b in solid.corners.tolist()])

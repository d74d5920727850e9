"""Marks that charts share: hatching for "beware", pennants, level signs, text on paper, pictures from arrays."""

from collections.abc import Sequence
from functools import cache

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QImage, QPainter, QPainterPath, QPen, QPixmap, QPolygonF, QTransform

from glintor.desktop import theme
from glintor.finding import Level

LEVEL_COLOUR = {Level.STOP: "stop", Level.CAUTION: "caution", Level.NOTE: "note"}


def hatch(colour: QColor, *, forward: bool = True) -> QBrush:
    """Slanting lines in a colour, as printed charts mark danger."""
    brush = QBrush(colour, Qt.BrushStyle.FDiagPattern if forward else Qt.BrushStyle.BDiagPattern)
    brush.setTransform(QTransform.fromScale(0.9, 0.9))
    return brush


def pen(name: str, width: float = 1.0, style: Qt.PenStyle = Qt.PenStyle.SolidLine) -> QPen:
    """A pen of one's own: it may be changed, and no other line with it."""
    return QPen(_pen(theme.colours(), name, width, style))


@cache
def _pen(colours: theme.Palette, name: str, width: float, style: Qt.PenStyle) -> QPen:
    line = QPen(colours[name], width, style)
    line.setCapStyle(Qt.PenCapStyle.RoundCap)
    return line


def text(
    painter: QPainter,
    x: float,
    y: float,
    words: str,
    *,
    colour: str = "ink",
    large: bool = False,
    bold: bool = False,
    align: str = "left",
    halo: bool = False,
) -> None:
    """Words with their middle height at y; `align` says what x is."""
    painter.setFont(theme.font(large=large, bold=bold))
    metrics = painter.fontMetrics()
    width = metrics.horizontalAdvance(words) if halo or align != "left" else 0  # measuring is half of the work
    left = x - {"left": 0.0, "middle": width / 2, "right": float(width)}[align]
    top = y - metrics.height() / 2
    if halo:
        paper = theme.colours().sheer("sheet", 225)
        painter.fillRect(QRectF(left - 2, top, width + 5, metrics.height()), paper)
    painter.setPen(theme.colours()[colour])
    painter.drawText(QPointF(left, top + metrics.ascent()), words)


def level_sign(painter: QPainter, x: float, y: float, level: Level, size: float = 11.0) -> None:
    """Stop octagon, caution triangle or note dot about a middle point."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colours()[LEVEL_COLOUR[level]])
    r = size / 2
    if level is Level.STOP:
        corners = [QPointF(x + r * np.cos(a), y + r * np.sin(a)) for a in np.radians(np.arange(22.5, 360, 45))]
        painter.drawPolygon(QPolygonF(corners))
    elif level is Level.CAUTION:
        painter.drawPolygon(
            QPolygonF([QPointF(x, y - r), QPointF(x + r * 1.05, y + r * 0.85), QPointF(x - r * 1.05, y + r * 0.85)])
        )
    else:
        painter.drawEllipse(QPointF(x, y), r * 0.8, r * 0.8)
    painter.restore()


def pennants(painter: QPainter, feet: Sequence[tuple[float, float]], *, chosen: bool) -> None:
    """Keyframes: small flags on their poles, with their feet at (x, y)."""
    if not feet:
        return
    flags = QPainterPath()
    flags.setFillRule(Qt.FillRule.WindingFill)
    for x, y in feet:
        flags.addPolygon(QPolygonF([QPointF(x, y - 17), QPointF(x + 11, y - 13), QPointF(x, y - 9)]))
    painter.setPen(pen("course", 1.6))
    painter.drawLines(*(QLineF(x, y, x, y - 17) for x, y in feet))
    painter.fillPath(flags, theme.colours()["subject" if chosen else "course"])


def band(painter: QPainter, side: NDArray[np.float64], other: NDArray[np.float64], joined: NDArray[np.bool_]) -> None:
    """Fills what lies between two lines of points (n, 2); joined (n - 1,): which of its pieces are there."""
    for piece in pieces_between(side, other, joined):
        painter.drawPolygon(piece, Qt.FillRule.WindingFill)


def pieces_between(side: NDArray[np.float64], other: NDArray[np.float64], joined: NDArray[np.bool_]) -> list[QPolygonF]:
    """What `band` fills."""
    out = []
    edges = np.flatnonzero(np.diff(np.concatenate([[False], joined, [False]]).astype(np.int8)))
    for first, last in zip(edges[::2], edges[1::2], strict=True):
        around = np.concatenate([side[first : last + 1], other[first : last + 1][::-1]])
        around = around[np.isfinite(around).all(axis=1)]
        out.append(QPolygonF([QPointF(x, y) for x, y in around.tolist()]))
    return out


def polyline(xs: NDArray[np.float64], ys: NDArray[np.float64], jump: float = np.inf) -> QPainterPath:
    """A path through points; broken where it leaps by more than `jump` or is not a number."""
    points = np.stack([xs, ys], axis=1).astype(np.float64)
    known = np.all(np.isfinite(points), axis=1)
    points[~known] = np.nan
    with np.errstate(invalid="ignore"):
        joined = np.all(np.abs(np.diff(points, axis=0, prepend=np.nan)) <= jump, axis=1)
    path = QPainterPath()
    for (x, y), join in zip(points[known].tolist(), joined[known], strict=True):
        if join:
            path.lineTo(x, y)
        else:
            path.moveTo(x, y)
    return path


def image(pixels: NDArray[np.generic]) -> QImage:
    """A picture from (H, W) 0xFFRRGGBB or (H, W, 3) RGB; the image owns a copy."""
    height, width = pixels.shape[:2]
    if pixels.ndim == 2:
        return QImage(
            np.ascontiguousarray(pixels).tobytes(), width, height, width * 4, QImage.Format.Format_RGB32
        ).copy()
    return QImage(np.ascontiguousarray(pixels).tobytes(), width, height, width * 3, QImage.Format.Format_RGB888).copy()


class Fitted:
    """A picture drawn into a box; scaled once for as long as both stay the same, since that is most of the work."""

    def __init__(self) -> None:
        self._key: object = None
        self._scaled = QPixmap()

    def draw(self, painter: QPainter, picture: QImage, box: QRectF, ratio: float) -> None:
        size = (box.size() * ratio).toSize()
        key = (picture.cacheKey(), size.width(), size.height())
        if key != self._key:
            way = Qt.TransformationMode.SmoothTransformation
            scaled = picture.scaled(size, Qt.AspectRatioMode.IgnoreAspectRatio, way)
            self._key, self._scaled = key, QPixmap.fromImage(scaled)
        painter.drawPixmap(box, self._scaled, QRectF(self._scaled.rect()))


def fitted(size: tuple[int, int], into: QRectF) -> QRectF:
    """The largest rectangle of that shape in the middle of another."""
    factor = min(into.width() / size[0], into.height() / size[1])
    width, height = size[0] * factor, size[1] * factor
    return QRectF(into.center().x() - width / 2, into.center().y() - height / 2, width, height)

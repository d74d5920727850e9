"""The way of the day from above, north up, its hills under it, and the shots on it where they are; a hand moves them along."""

from itertools import pairwise

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPolygonF
from PyQt6.QtWidgets import QWidget

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.labels import Labels
from glintor.project.track import Way

_EDGE_PX, _HILLS_PX, _TITLE_PX = 34, 120, 26
_KEPT_OFF = 120  # pieces of the way that words keep off
_REACH_PX, _STEP_M, _FAR_STEP_M = 12.0, 25.0, 250.0
_SCALES_M = (50, 100, 200, 500, 1000, 2000, 5000, 10000, 20000, 50000)


class TrackChart(QWidget):
    """`moved` gives a shot's id and metres along the way while a hand drags or keys step it; `ended` when it lets go."""

    moved = pyqtSignal(str, float)
    chosen = pyqtSignal(str)
    ended = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumSize(420, 320)
        self.setAccessibleName("The way of the day, with the shots on it")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setToolTip(
            "Drag a shot along the way, on the map or on the hills; arrow keys move the chosen one by 25 m, with Shift by 250 m"
        )
        self._way: Way | None = None
        self._shots: list[tuple[str, str, float]] = []
        self._places: list[tuple[str, float, float]] = []
        self._chosen = self._held = ""
        self._on_hills = False

    def show_way(
        self, way: Way | None, shots: list[tuple[str, str, float]], places: list[tuple[str, float, float]], chosen: str
    ) -> None:
        """shots: id, name and metres along; places: name and metres east and north of the first point."""
        self._way, self._shots, self._places, self._chosen = way, shots, places, chosen
        self.update()

    # Where things are
    @property
    def _map(self) -> QRectF:
        hills = _HILLS_PX if self._way is not None and self._way.up_m is not None else 0
        return QRectF(0, 0, self.width(), self.height() - hills)

    def _fitted(self) -> tuple[float, float, float]:
        """Pixels a metre, and the middle of the way: east and north."""
        assert self._way is not None
        low, high = self._way.plane_m.min(axis=0), self._way.plane_m.max(axis=0)
        room = self._map
        k = min(
            (room.width() - 2 * _EDGE_PX) / max(high[0] - low[0], 20.0),
            (room.height() - 2 * _EDGE_PX) / max(high[1] - low[1], 20.0),
        )
        return float(k), float(low[0] + high[0]) / 2, float(low[1] + high[1]) / 2

    def px(self, east_m: float, north_m: float) -> QPointF:
        k, east, north = self._fitted()
        return self._map.center() + QPointF((east_m - east) * k, -(north_m - north) * k)

    def _metres(self, at: QPointF) -> tuple[float, float]:
        k, east, north = self._fitted()
        off = at - self._map.center()
        return east + off.x() / k, north - off.y() / k

    def hill_px(self, along_m: float) -> QPointF:
        """Where a place of the way stands on the hills under the map."""
        way = self._way
        assert way is not None and way.up_m is not None
        low, high = float(way.up_m.min()), float(way.up_m.max())
        up = _at(way, along_m, low)
        top, foot = self.height() - _HILLS_PX + _TITLE_PX, self.height() - 20.0
        x = _EDGE_PX + (self.width() - 2 * _EDGE_PX) * along_m / max(way.length_m, 1.0)
        return QPointF(x, foot - (foot - top) * (up - low) / max(high - low, 20.0))

    # Drawing
    def paintEvent(self, _event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(self.rect(), theme.colours()["sheet"])
        marks.text(p, 10, 14, "The way from above, north up", bold=True)
        if self._way is None:
            marks.text(p, 10, 40, "No track yet: read a GPX file of the way, recorded or drawn.", colour="soft")
            return
        labels = Labels(p, (2.0, 24.0, self.width() - 2.0, self._map.bottom() - 2.0))
        points = [self.px(*point) for point in self._way.plane_m.tolist()]
        p.setPen(marks.pen("course", 2.2))
        p.drawPolyline(QPolygonF(points))
        step = max(len(points) // _KEPT_OFF, 1)
        for a, b in pairwise(points[::step]):
            labels.off_line(a, b)
        for name, east, north in self._places:
            at = self.px(east, north)
            p.setPen(marks.pen("ink"))
            p.setBrush(theme.colours()["sheet"])
            p.drawRect(QRectF(at.x() - 3.5, at.y() - 3.5, 7, 7))
            labels.add(at.x(), at.y(), name, colour="soft")
        for shot_id, name, along in self._shots:
            at = self.px(*self._way.position_m(along))
            self._marker(p, at, shot_id)
            labels.clear_of(at.x() - 8, at.y() - 8, at.x() + 8, at.y() + 8)
            labels.add(at.x(), at.y(), name, bold=shot_id == self._chosen, gap=11.0)
        self._scale(p, labels)
        labels.write()
        if self._way.up_m is not None:
            self._hills(p)

    def _marker(self, p: QPainter, at: QPointF, shot_id: str) -> None:
        chosen = shot_id == self._chosen
        p.setPen(marks.pen("course", 2.0))
        p.setBrush(theme.colours()["course" if chosen else "sheet"])
        p.drawEllipse(at, 7.0 if chosen else 5.5, 7.0 if chosen else 5.5)

    def _scale(self, p: QPainter, labels: Labels) -> None:
        k, _, _ = self._fitted()
        long = next((m for m in _SCALES_M if m * k > 60), _SCALES_M[-1])
        right, y = self.width() - 16.0, self._map.bottom() - 12.0
        p.setPen(marks.pen("ink"))
        p.drawLine(QPointF(right - long * k, y), QPointF(right, y))
        for x in (right - long * k, right):
            p.drawLine(QPointF(x, y - 4), QPointF(x, y))
        labels.add(right - long * k, y, f"{long} m" if long < 1000 else f"{long // 1000} km", sides=("left", "above"))

    def _hills(self, p: QPainter) -> None:
        way = self._way
        assert way is not None and way.up_m is not None
        foot = self.height() - 20.0
        points = [self.hill_px(along) for along in way.along_m.tolist()]
        path = QPainterPath(QPointF(points[0].x(), foot))
        for point in points:
            path.lineTo(point)
        path.lineTo(QPointF(points[-1].x(), foot))
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.colours()["paper"])
        p.drawPath(path)
        p.setPen(marks.pen("soft", 1.4))
        p.drawPolyline(QPolygonF(points))
        p.setPen(marks.pen("line"))
        p.drawLine(QPointF(_EDGE_PX, foot), QPointF(self.width() - _EDGE_PX, foot))
        low, high = float(way.up_m.min()), float(way.up_m.max())
        words = f"Hills from {low:.0f} to {high:.0f} m, {way.length_m / 1000:.1f} km long"
        marks.text(p, 10, self.height() - _HILLS_PX + 10, words, colour="soft")
        for shot_id, _, along in self._shots:
            at = self.hill_px(along)
            p.setPen(marks.pen("course"))
            p.drawLine(at, QPointF(at.x(), foot))
            self._marker(p, at, shot_id)

    # A hand on it
    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._way is None:
            return
        at, self._on_hills = event.position(), event.position().y() > self._map.bottom()
        reach = [(self._far(at, along), shot_id) for shot_id, _, along in self._shots]
        near = min(reach, default=(1e9, ""))
        if near[0] < _REACH_PX:
            self._held = near[1]
            self.chosen.emit(self._held)
        elif self._chosen and self._near_way(at):  # a click on the way brings the chosen shot there
            self._held = self._chosen
            self._drag(at)

    def _far(self, at: QPointF, along: float) -> float:
        assert self._way is not None
        there = self.hill_px(along) if self._on_hills else self.px(*self._way.position_m(along))
        off = there - at
        return float((off.x() ** 2 + off.y() ** 2) ** 0.5)

    def _near_way(self, at: QPointF) -> bool:
        assert self._way is not None
        return self._on_hills or self._far(at, self._way.nearest(*self._metres(at))) < 2 * _REACH_PX

    def _drag(self, at: QPointF) -> None:
        assert self._way is not None
        if self._on_hills:
            share = (at.x() - _EDGE_PX) / max(self.width() - 2 * _EDGE_PX, 1)
            along = min(max(share, 0.0), 1.0) * self._way.length_m
        else:
            along = self._way.nearest(*self._metres(at))
        self.moved.emit(self._held, along)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._held and event.buttons():
            self._drag(event.position())

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        if self._held:
            self._held = ""
            self.ended.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        ways = {Qt.Key.Key_Right: 1.0, Qt.Key.Key_Up: 1.0, Qt.Key.Key_Left: -1.0, Qt.Key.Key_Down: -1.0}
        now = next((along for shot_id, _, along in self._shots if shot_id == self._chosen), None)
        if event.key() not in ways or self._way is None or not self._chosen:
            super().keyPressEvent(event)
            return
        step = _FAR_STEP_M if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else _STEP_M
        along = 0.0 if now is None else now + ways[Qt.Key(event.key())] * step
        self.moved.emit(self._chosen, min(max(along, 0.0), self._way.length_m))
        self.ended.emit()


def _at(way: Way, along_m: float, otherwise: float) -> float:
    up = way.at(along_m).up_m
    return otherwise if up is None else up

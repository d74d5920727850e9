"""The light ladder: one vertical scale of EV; what the scene holds, and what the setting records as a window on it."""

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.labels import Labels
from glintor.desktop.charts.scale import Scale
from glintor.desktop.charts.sheet import Sheet
from glintor.exposure.metering import Light
from glintor.exposure.noise import HEADROOM_STOPS
from glintor.exposure.values import SCENES

_TOP, _BOTTOM = 34, 22
_SHORT_PX = 380  # narrower, only the first of the scenes' words has room


class Ladder(Sheet):
    """Drag the window up or down: the exposure follows in thirds of a stop."""

    window_dragged = pyqtSignal(float)  # EV100 wanted
    drag_ended = pyqtSignal()

    def __init__(self) -> None:
        super().__init__("Light ladder", (330, 300))
        self._light: Light | None = None
        self._setting_ev, self._stops = 13.0, 11.0
        self._grip: float | None = None
        self.setToolTip("Drag the window, or use Up and Down: the shutter follows")
        self.setCursor(Qt.CursorShape.SizeVerCursor)

    def show_light(self, light: Light, setting_ev: float, stops: float) -> None:
        self._light, self._setting_ev, self._stops = light, setting_ev, stops
        self.update()

    def _scale(self) -> Scale:
        assert self._light is not None
        low = min(self._light.low, self._setting_ev + HEADROOM_STOPS - self._stops, 5.0) - 1
        high = max(self._light.high, self._setting_ev + HEADROOM_STOPS, 16.0) + 1
        return Scale(low, high, self.height() - _BOTTOM, _TOP)

    def draw(self, p: QPainter) -> None:
        light = self._light
        if light is None:
            return
        scale, width = self._scale(), self.width()
        marks.text(p, 10, 15, "Light ladder, EV at ISO 100", bold=True)
        for ev in range(round(scale.low), round(scale.high) + 1):
            y = scale.px(ev)
            if not _TOP - 4 <= y <= self.height() - _BOTTOM + 4:
                continue
            p.setPen(marks.pen("line"))
            p.drawLine(QPointF(40, y), QPointF(width - 8, y))
            marks.text(p, 32, y, f"{ev}", align="right", colour="soft")
        labels = Labels(p, (40.0, 24.0, width - 8.0, self.height() - 2.0))
        self._window(p, scale, 176.0, labels)
        self._scene(p, scale, light, 62.0, labels)
        for words, scene_ev in SCENES:
            if scale.low < scene_ev < scale.high:
                shown = words.split(",")[0] if width < _SHORT_PX else words
                labels.add(width - 2.0, scale.px(scene_ev), shown, colour="soft", sides=("left",))
        labels.write()

    def _scene(self, p: QPainter, scale: Scale, light: Light, x: float, labels: Labels) -> None:
        top, bottom = scale.px(light.high), scale.px(light.low)
        p.setPen(marks.pen("sun", 1.4))
        p.setBrush(marks.hatch(theme.colours()["sun"]))
        p.drawRect(QRectF(x, top, 26, bottom - top))
        labels.clear_of(x, top, x + 26, bottom)
        for y, words in ((top, f"brightest {light.high:.1f}"), (bottom, f"darkest {light.low:.1f}")):
            labels.add(x + 26, y, words, colour="sun", gap=3.0, sides=("right",))
        for ev, words in sorted(((light.front, "front"), (light.rear, "rear")), reverse=True):
            y = scale.px(ev)
            p.setPen(marks.pen("ink", 1.6))
            p.drawLine(QPointF(x - 3, y), QPointF(x + 29, y))
            labels.add(x + 29, y, f"{words} {ev:.1f}", gap=1.0, sides=("right",))

    def _ends_px(self, scale: Scale) -> tuple[float, float]:
        """Top and bottom of what the setting holds."""
        most = self._setting_ev + HEADROOM_STOPS
        return scale.px(most), scale.px(most - self._stops)

    def _window(self, p: QPainter, scale: Scale, x: float, labels: Labels) -> None:
        top, bottom = self._ends_px(scale)
        fill = theme.colours().sheer("course_fill", 150)
        p.setPen(marks.pen("course", 2))
        p.setBrush(fill)
        p.drawRect(QRectF(x, top, 46, bottom - top))
        y = scale.px(self._setting_ev)
        p.drawLine(QPointF(x - 6, y), QPointF(x + 52, y))
        labels.clear_of(x - 6, top, x + 52, bottom)
        labels.add(x + 52, y, f"mid grey {self._setting_ev:.1f}", colour="course", bold=True, gap=1.0, sides=("right",))
        labels.add(x + 46, top, "clips above", colour="course", sides=("right",))
        labels.add(x + 46, bottom, "noise below", colour="course", sides=("right",))

    def _emit(self, ev: float) -> None:
        self.window_dragged.emit(round(ev * 3) / 3)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._light is not None:
            self._grip = self._scale().value(event.position().y()) - self._setting_ev
            self._held = self._scale()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._grip is not None:
            self._emit(self._held.value(event.position().y()) - self._grip)

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        self._grip = None
        self.drag_ended.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        step = {Qt.Key.Key_Up: 1 / 3, Qt.Key.Key_Down: -1 / 3}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        self._emit(self._setting_ev + step)
        self.drag_ended.emit()

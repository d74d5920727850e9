"""The light ladder: one vertical scale of EV; what the scene holds, and what the setting records as a window on it."""

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.scale import Scale
from glintor.desktop.charts.sheet import Sheet
from glintor.exposure.metering import Light
from glintor.exposure.solve import HEADROOM_STOPS
from glintor.exposure.values import SCENES

_TOP, _BOTTOM = 34, 22
_WORDS_PX = 14  # between two lines of words
_BESIDE_PX, _SHORT_PX = 450, 380  # narrower, the scenes' words reach those of the setting; or even its window


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
        marks.text(p, 10, 15, "Light ladder, EV at ISO 100", bold=True, size=10)
        for ev in range(round(scale.low), round(scale.high) + 1):
            y = scale.px(ev)
            if not _TOP - 4 <= y <= self.height() - _BOTTOM + 4:
                continue
            p.setPen(marks.pen("line"))
            p.drawLine(QPointF(40, y), QPointF(width - 8, y))
            marks.text(p, 32, y, f"{ev}", align="right", colour="soft")
        said = [scale.px(self._setting_ev), *self._ends_px(scale)]
        for words, scene_ev in SCENES:
            if scale.low < scene_ev < scale.high:
                y = _clear_of(scale.px(scene_ev), said) if width < _BESIDE_PX else scale.px(scene_ev)
                shown = words.split(",")[0] if width < _SHORT_PX else words
                marks.text(p, width - 10, y, shown, colour="soft", align="right", halo=True)
        self._scene(p, scale, light, 62.0)
        self._window(p, scale, 176.0)

    def _scene(self, p: QPainter, scale: Scale, light: Light, x: float) -> None:
        top, bottom = scale.px(light.high), scale.px(light.low)
        p.setPen(marks.pen("sun", 1.4))
        p.setBrush(marks.hatch(theme.colours()["sun"]))
        p.drawRect(QRectF(x, top, 26, bottom - top))
        marks.text(p, x + 32, top, f"brightest {light.high:.1f}", colour="sun", halo=True)
        marks.text(p, x + 32, bottom, f"darkest {light.low:.1f}", colour="sun", halo=True)
        apart = abs(scale.px(light.front) - scale.px(light.rear))
        nudge = max(15 - apart, 0) / 2 * (1 if light.front >= light.rear else -1)
        for ev, words, move in ((light.front, "front", -nudge), (light.rear, "rear", nudge)):
            y = scale.px(ev)
            p.setPen(marks.pen("ink", 1.6))
            p.drawLine(QPointF(x - 3, y), QPointF(x + 29, y))
            marks.text(p, x + 32, y + move, f"{words} {ev:.1f}", halo=True)

    def _ends_px(self, scale: Scale) -> tuple[float, float]:
        """Top and bottom of what the setting holds."""
        most = self._setting_ev + HEADROOM_STOPS
        return scale.px(most), scale.px(most - self._stops)

    def _window(self, p: QPainter, scale: Scale, x: float) -> None:
        top, bottom = self._ends_px(scale)
        fill = theme.colours().sheer("course_fill", 150)
        p.setPen(marks.pen("course", 2))
        p.setBrush(fill)
        p.drawRect(QRectF(x, top, 46, bottom - top))
        y = scale.px(self._setting_ev)
        p.drawLine(QPointF(x - 6, y), QPointF(x + 52, y))
        marks.text(p, x + 56, y, f"mid grey {self._setting_ev:.1f}", colour="course", bold=True, halo=True)
        marks.text(p, x + 56, top, "clips above", colour="course", halo=True)
        marks.text(p, x + 56, bottom, "noise below", colour="course", halo=True)

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


def _clear_of(y: float, others: list[float]) -> float:
    """A height for words at y, moved off the first of the others that is too near."""
    near = [other for other in others if abs(y - other) < _WORDS_PX]
    return y if not near else near[0] + _WORDS_PX * (1 if y >= near[0] else -1)

"""Two sounds one under the other on one clock; the lower one is dragged or nudged to where it fits."""

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QWheelEvent

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.scale import Scale
from glintor.desktop.charts.sheet import Sheet

_LEFT, _AXIS_PX = 12.0, 20.0
_NUDGE_S, _FINE_S = 0.01, 0.001
_MOST_PX = 1600


class Waves(Sheet):
    """`moved` says the new offset of the lower sound while it is dragged; `settled` when it is let go."""

    moved = pyqtSignal(float)
    settled = pyqtSignal(float)

    def __init__(self) -> None:
        super().__init__("Both sounds on one clock", (360, 150))
        self._upper: NDArray[np.float32] = np.zeros(0, np.float32)
        self._lower: NDArray[np.float32] = np.zeros(0, np.float32)
        self._step_s, self._offset_s, self._sure = 0.002, 0.0, True
        self._names = ("", "")
        self._span = (0.0, 1.0)
        self._grip: tuple[float, float] | None = None
        self.setToolTip(
            "Drag the lower sound, or nudge it with Left and Right (Shift: a thousandth of a second); the wheel zooms"
        )

    def show_sounds(
        self,
        names: tuple[str, str],
        upper: NDArray[np.float32],
        lower: NDArray[np.float32],
        step_s: float,
        offset_s: float,
    ) -> None:
        """Loudness (n,) of both at even steps."""
        self._names, self._upper, self._lower = names, _even(upper), _even(lower)
        self._step_s, self._offset_s = step_s, offset_s
        ends = [0.0, len(upper) * step_s, offset_s, offset_s + len(lower) * step_s]
        self._span = (min(ends), max(max(ends), min(ends) + 1.0))
        self.update()

    def show_offset(self, offset_s: float, *, sure: bool = True) -> None:
        self._offset_s, self._sure = offset_s, sure
        self.update()

    @property
    def _scale(self) -> Scale:
        return Scale(*self._span, _LEFT, self.width() - 12.0)

    def draw(self, p: QPainter) -> None:
        if not len(self._upper):
            marks.text(p, 12, self.height() / 2, "Choose what was recorded beside this take.", colour="soft")
            return
        time, half = self._scale, (self.height() - _AXIS_PX) / 2.0
        for number, (values, begins, colour) in enumerate(
            ((self._upper, 0.0, "ink"), (self._lower, self._offset_s, "course"))
        ):
            box = QRectF(_LEFT, number * half + 4, self.width() - _LEFT - 12, half - 8)
            self._wave(p, values, begins, box, time, colour)
            marks.text(p, box.left() + 6, box.top() + 9, self._names[number], colour=colour, halo=True)
        p.setPen(marks.pen("line", 1.0, Qt.PenStyle.DashLine))
        zero = time.px(self._offset_s)
        p.drawLine(QPointF(zero, 4), QPointF(zero, self.height() - _AXIS_PX))
        for tick in time.ticks(80):
            x = time.px(tick)
            marks.text(p, x, self.height() - 9, f"{tick:g} s", colour="soft", align="middle")

    def _wave(
        self, p: QPainter, values: NDArray[np.float32], begins: float, box: QRectF, time: Scale, colour: str
    ) -> None:
        first = max(int((self._span[0] - begins) / self._step_s), 0)
        last = min(int((self._span[1] - begins) / self._step_s) + 2, len(values))
        if last <= first:
            return
        part = values[first:last]
        group = max(len(part) // _MOST_PX, 1)
        tops = part[: len(part) // group * group].reshape(-1, group).max(axis=1)
        xs = time.px(np.asarray(begins + (first + np.arange(len(tops)) * group) * self._step_s, np.float64))
        middle, reach = box.center().y(), box.height() / 2.0
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.colours().sheer(colour, 150))
        path = marks.polyline(
            np.concatenate([xs, xs[::-1]]).astype(np.float64),
            np.concatenate([middle - tops * reach, (middle + tops * reach)[::-1]]).astype(np.float64),
        )
        p.drawPath(path)

    # Hands
    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton and len(self._lower):
            self._grip = event.position().x(), self._offset_s

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._grip is not None:
            x, began = self._grip
            self._offset_s = began + (event.position().x() - x) / self._scale.px_per_unit
            self.moved.emit(self._offset_s)
            self.update()

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        if self._grip is not None:
            self._grip = None
            self.settled.emit(self._offset_s)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        at = self._scale.value(event.position().x())
        factor = 0.8 ** (event.angleDelta().y() / 120.0)
        self._span = at + (self._span[0] - at) * factor, at + (self._span[1] - at) * factor
        self.update()
        event.accept()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        way = {Qt.Key.Key_Left: -1.0, Qt.Key.Key_Right: 1.0}.get(Qt.Key(event.key()))
        if way is None or not len(self._lower):
            super().keyPressEvent(event)
            return
        fine = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
        self._offset_s += way * (_FINE_S if fine else _NUDGE_S)
        self.settled.emit(self._offset_s)
        self.update()


def _even(values: NDArray[np.float32]) -> NDArray[np.float32]:
    """Loudness between 0 and 1: quiet things are still seen beside loud ones."""
    if not len(values):
        return values
    level = np.sqrt(values)
    return np.asarray(level / max(float(np.percentile(level, 99.5)), 1e-9), np.float32).clip(0.0, 1.0)

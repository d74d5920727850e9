"""The course under a hand: pennants, in, out, playhead and a marked part."""

import numpy as np
from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent

from glintor.desktop.reframe.course_chart import CourseChart
from glintor.desktop.reframe.course_sheet import TOP


class Course(CourseChart):
    """Draws a cut's path in its clip; pennants, in, out and the playhead can be dragged."""

    time_chosen = pyqtSignal(float)
    key_chosen = pyqtSignal(int)
    key_dragged = pyqtSignal(int, float)
    in_dragged = pyqtSignal(float)
    out_dragged = pyqtSignal(float)
    drag_ended = pyqtSignal()
    part_marked = pyqtSignal(object)  # (start, end) of the clip, or None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._cut is None:
            return
        at, (main, _, speed), time = event.position(), self._strips(), self._time()
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._grip, self._anchor_s = ("part", 0), self._when(at.x())
            self.part_marked.emit(None)
            return
        if self._lane(speed).contains(at):
            here = self._when(at.x())
            hit = next((s for s in self._cut.speeds if s.start_s <= here <= s.end_s), None)
            self.part_marked.emit((hit.start_s, hit.end_s) if hit is not None else None)
        for number in range(len(self._cut.keys)):
            x, y = self._foot(number, main, time)
            if QRectF(x - 5, y - 20, 19, 26).contains(at):
                self._grip = ("key", number)
                self.key_chosen.emit(number)
                return
        if at.y() < TOP:
            for name, value in (("in", self._cut.in_s), ("out", self._cut.out_s)):
                if abs(time.px(value) - at.x()) < 8:
                    self._grip = (name, 0)
                    return
        self._grip = ("time", 0)
        self._go(at.x())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._grip is None:
            return
        name, number = self._grip
        when = self._when(event.position().x())
        if name == "part":
            low, high = sorted((self._anchor_s, when))
            self.part_marked.emit((low, high) if high - low > 0.05 else None)
        elif name == "key":
            self.key_dragged.emit(number, when)
        elif name == "time":
            self._go(event.position().x())
        else:
            (self.in_dragged if name == "in" else self.out_dragged).emit(when)

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        self._grip = None
        self.drag_ended.emit()

    def _go(self, x: float) -> None:
        self.time_chosen.emit(self._when(x))

    def _when(self, x: float) -> float:
        return float(np.clip(self._time().value(x), 0.0, self._length_s))

"""The time of a recording as one line: where one looks, its marks, and what of it is worth keeping, taken by its ends."""

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPolygonF

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.sheet import Sheet

_EDGE, _GRIP_PX = 8, 7
_STEP_S = 1.0


class PartLine(Sheet):
    """`sought` says which moment is wanted; `part_dragged` what is to be kept, `ended` that the hand let go."""

    sought = pyqtSignal(float)
    part_dragged = pyqtSignal(float, float)
    ended = pyqtSignal()

    def __init__(self) -> None:
        super().__init__("Moment of the recording", (200, 34))
        self.setFixedHeight(34)
        self._length = 0.0
        self._now = 0.0
        self._part: tuple[float, float] | None = None
        self._marks: tuple[float, ...] = ()
        self._holds = ""  # now, in or out
        self.setToolTip("Click or drag to look at another moment; drag the ends of what is kept; arrows step a second")

    def show_take(self, length_s: float, part: tuple[float, float] | None, marks_s: tuple[float, ...]) -> None:
        self._length, self._part, self._marks = length_s, part, marks_s
        self.update()

    def show_now(self, now_s: float) -> None:
        self._now = now_s
        self.update()

    def _x(self, at_s: float) -> float:
        return _EDGE + (self.width() - 2 * _EDGE) * (at_s / self._length if self._length else 0.0)

    def _at(self, x: float) -> float:
        share = (x - _EDGE) / max(self.width() - 2 * _EDGE, 1)
        return min(max(share, 0.0), 1.0) * self._length

    def draw(self, p: QPainter) -> None:
        colours, middle = theme.colours(), self.height() / 2 + 3
        p.fillRect(QRectF(_EDGE, middle - 3, self.width() - 2 * _EDGE, 6), colours["line"])
        if not self._length:
            return
        if self._part is not None:
            left, right = self._x(self._part[0]), self._x(self._part[1])
            p.setPen(marks.pen("course", 1.4))
            p.setBrush(colours["course_fill"])
            p.drawRect(QRectF(left, middle - 7, right - left, 14))
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colours["subject"])
        for at in self._marks:
            x = self._x(at)
            p.drawPolygon(QPolygonF([QPointF(x - 5, middle - 14), QPointF(x + 5, middle - 14), QPointF(x, middle - 7)]))
        p.setPen(marks.pen("ink", 2.4))
        p.drawLine(QPointF(self._x(self._now), middle - 11), QPointF(self._x(self._now), middle + 11))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if not self._length or event.button() != Qt.MouseButton.LeftButton:
            return
        x, self._holds = event.position().x(), "now"
        if self._part is not None:
            for name, at in zip(("in", "out"), self._part, strict=True):
                if abs(x - self._x(at)) <= _GRIP_PX:
                    self._holds = name
        self._drag(x)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._holds:
            self._drag(event.position().x())

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        if self._holds in ("in", "out"):
            self.ended.emit()
        self._holds = ""

    def _drag(self, x: float) -> None:
        at = self._at(x)
        if self._holds == "now" or self._part is None:
            self.sought.emit(at)
            return
        begin, end = self._part
        part = (min(at, end - 0.1), end) if self._holds == "in" else (begin, max(at, begin + 0.1))
        self.part_dragged.emit(*(round(max(t, 0.0), 3) for t in part))
        self.sought.emit(part[0] if self._holds == "in" else part[1])

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        by = {Qt.Key.Key_Left: -_STEP_S, Qt.Key.Key_Right: _STEP_S}.get(Qt.Key(event.key()))
        if by is None:
            super().keyPressEvent(event)
        else:
            self.sought.emit(min(max(self._now + by, 0.0), self._length))

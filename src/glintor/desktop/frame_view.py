"""A flat frame on a neutral mat, which a hand can turn."""

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QEnterEvent, QImage, QMouseEvent, QPainter, QResizeEvent, QWheelEvent

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.sheet import Sheet
from glintor.sphere.angle import wrap_deg
from glintor.sphere.view import View, focal_px, within_limits

_WHEEL_RESTS_MS = 350
_EDGE_PX, _WORDS_PX = 6, 22  # of the mat round the frame, and the words under it


class FrameView(Sheet):
    """A flat frame. `view_turned` says which view the hand wants; `only_look` is true where nothing is to be set."""

    view_turned = pyqtSignal(object, bool)
    turn_ended = pyqtSignal()
    resized = pyqtSignal()

    def __init__(
        self, name: str, size_px: tuple[int, int], least: tuple[int, int] = (200, 120), *, hand: bool = True
    ) -> None:
        super().__init__(name, least, keyboard=hand)
        self._size, self._hand = size_px, hand
        self._image: QImage | None = None
        self._view = View()
        self._words = self._empty = self._hint = ""
        self._grip: tuple[QPointF, View] | None = None
        self._wheel_rests = QTimer(self)  # a wheel says nothing when it is let go
        self._wheel_rests.setSingleShot(True)
        self._wheel_rests.setInterval(_WHEEL_RESTS_MS)
        self._wheel_rests.timeout.connect(self._wheel_ended)
        if hand:
            self.setToolTip("Drag to turn, wheel to zoom, Shift+wheel to bend, Alt+drag to roll, Ctrl+drag only looks")

    def show_frame(self, picture: QImage | None, words: str = "") -> None:
        self._image, self._words = picture, words
        self.update()

    def show_view(self, view: View) -> None:
        """The view that the next gesture starts from; a hand that holds the frame keeps its own."""
        if self._grip is None:
            self._view = view

    def show_hint(self, words: str) -> None:
        """What a hand can do, over the picture, until it has done something."""
        self._hint = words
        self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.resized.emit()

    def show_shape(self, size_px: tuple[int, int]) -> None:
        self._size = size_px
        self.update()

    def show_empty(self, words: str) -> None:
        self._image, self._empty = None, words
        self.update()

    @property
    def screen_pixels(self) -> float:
        """How many of the screen's pixels the frame covers."""
        box = self.frame_box
        return box.width() * box.height() * self.devicePixelRatioF() ** 2

    @property
    def frame_box(self) -> QRectF:
        return marks.fitted(self._size, QRectF(self.rect()).adjusted(_EDGE_PX, _EDGE_PX, -_EDGE_PX, -_WORDS_PX))

    around_px = 2 * _EDGE_PX  # what the mat takes of the width

    @staticmethod
    def room_px(height: int) -> int:
        """How high a frame can be on a sheet of a height."""
        return height - _EDGE_PX - _WORDS_PX

    def draw(self, p: QPainter) -> None:
        p.fillRect(self.rect(), theme.colours()["mat"])
        box = self.frame_box
        if self._image is not None:
            p.drawImage(box, self._image)
        elif self._empty:
            p.fillRect(box, theme.colours()["sheet"])
            p.setPen(theme.colours()["ink"])
            p.setFont(theme.font())
            p.drawText(
                box.adjusted(20, 10, -20, -10), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self._empty
            )
        if self._hint and self._image is not None:
            self._draw_hint(p, box)
        p.setFont(theme.font())
        words = p.fontMetrics().elidedText(self._words, Qt.TextElideMode.ElideRight, self.width() - 12)
        p.setPen(QColor("#FFFFFF"))
        band = QRectF(0, self.height() - 20, self.width(), 20)
        p.fillRect(band, QColor("#4A4A49"))
        p.drawText(band.adjusted(7, 0, -6, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, words)

    def _draw_hint(self, p: QPainter, box: QRectF) -> None:
        p.setFont(theme.font())
        room = box.adjusted(16, 0, -16, -14)
        wrapped = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignBottom | Qt.TextFlag.TextWordWrap
        around = p.boundingRect(room, int(wrapped), self._hint).adjusted(-12, -7, 12, 7)
        p.fillRect(around, theme.colours().sheer("sheet", 235))
        p.setPen(theme.colours()["ink"])
        p.drawText(room, int(wrapped), self._hint)

    def enterEvent(self, _event: QEnterEvent | None) -> None:
        if self._hand:  # not before: Qt's first cursor takes 2 ms of the start
            self.setCursor(Qt.CursorShape.OpenHandCursor)

    def _deg_per_px(self) -> float:
        width = max(self.frame_box.width(), 1.0)
        return float(np.degrees(1.0 / focal_px(self._view, round(width))))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._hand and event.button() == Qt.MouseButton.LeftButton:
            self._grip = (event.position(), self._view)
            self.setCursor(Qt.CursorShape.ClosedHandCursor)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._grip is None:
            return
        start, view = self._grip
        moved = event.position() - start
        if event.modifiers() & Qt.KeyboardModifier.AltModifier:
            centre = self.frame_box.center()
            a, b = start - centre, event.position() - centre
            turn = np.degrees(np.arctan2(b.y(), b.x()) - np.arctan2(a.y(), a.x()))
            turn = wrap_deg(turn)
            wanted = within_limits(view, roll_deg=view.roll_deg - float(turn))
        else:
            roll, step = np.radians(view.roll_deg), self._deg_per_px()
            right = (moved.x() * np.cos(roll) - moved.y() * np.sin(roll)) * step
            down = (moved.x() * np.sin(roll) + moved.y() * np.cos(roll)) * step
            yaw = view.yaw_deg - right / max(np.cos(np.radians(view.pitch_deg)), 0.2)
            wanted = within_limits(view, yaw_deg=float(yaw), pitch_deg=float(view.pitch_deg + down))
        self._view = wanted
        self.view_turned.emit(wanted, bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))

    def _wheel_ended(self) -> None:
        if self._grip is None:
            self.turn_ended.emit()

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        if self._grip is not None:
            self._grip = None
            self.setCursor(Qt.CursorShape.OpenHandCursor)
            self.turn_ended.emit()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        if not self._hand:
            return
        turns = (event.angleDelta().y() or event.angleDelta().x()) / 120.0
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            wanted = within_limits(self._view, bend=self._view.bend + 0.05 * turns)
        else:
            wanted = within_limits(self._view, fov_deg=self._view.fov_deg * 0.94**turns)
        self._view = wanted
        self.view_turned.emit(wanted, bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))
        self._wheel_rests.start()
        event.accept()

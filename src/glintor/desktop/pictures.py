"""Pictures on a neutral mat: a flat frame that a hand can turn, and the sphere unrolled with marks on it."""

import numpy as np
from msgspec import Struct, field
from numpy.typing import NDArray
from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QEnterEvent, QImage, QMouseEvent, QPainter, QPen, QResizeEvent, QWheelEvent

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.labels import Labels
from glintor.desktop.charts.sheet import Sheet
from glintor.placement.seam import seam_circle
from glintor.sphere import equirect
from glintor.sphere.angle import wrap_deg
from glintor.sphere.view import View, focal_px, outline_lonlat_deg, within_limits

_WHEEL_RESTS_MS = 350


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
    def frame_box(self) -> QRectF:
        return marks.fitted(self._size, QRectF(self.rect()).adjusted(6, 6, -6, -22))

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


class SphereMarks(Struct):
    """What is drawn over an unrolled sphere; angles in its own frame."""

    outlines: list[tuple[View, tuple[int, int], str]] = field(default_factory=list)
    path_yaw: NDArray[np.float64] | None = None
    path_pitch: NDArray[np.float64] | None = None
    seam_deg: float | None = None
    seam_axis: tuple[float, float, float] = (1.0, 0.0, 0.0)  # of the front lens
    subject: tuple[float, float] | None = None
    subject_name: str = ""
    sun: tuple[float, float] | None = None
    foot: tuple[float, float] | None = None
    shadow: NDArray[np.float64] | None = None  # directions (n, 3)


class SphereView(Sheet):
    """The sphere unrolled. A click or drag says which way to look."""

    clicked = pyqtSignal(float, float)  # yaw, pitch of a press
    looked = pyqtSignal(float, float)  # the same while it is dragged
    look_ended = pyqtSignal()

    def __init__(self, name: str, least: tuple[int, int] = (240, 120), *, empty: str = "") -> None:
        super().__init__(name, least)
        self._empty = empty
        self._image: QImage | None = None
        self._marks = SphereMarks()

    def show_sphere(self, picture: QImage | None, over: SphereMarks) -> None:
        self._image, self._marks = picture, over
        self.update()

    def show_picture(self, picture: QImage) -> None:
        self._image = picture
        self.update()

    def show_marks(self, over: SphereMarks) -> None:
        self._marks = over
        self.update()

    @property
    def box(self) -> QRectF:
        return marks.fitted((2, 1), QRectF(self.rect()).adjusted(1, 1, -1, -1))

    def _at(
        self, lon: NDArray[np.float64], lat: NDArray[np.float64]
    ) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        box = self.box
        lon = wrap_deg(lon)
        return box.left() + (lon / 360 + 0.5) * box.width(), box.top() + (0.5 - np.asarray(lat) / 180) * box.height()

    def draw(self, p: QPainter) -> None:
        p.fillRect(self.rect(), theme.colours()["mat"])
        box = self.box
        if self._image is None:  # marks on a picture that is not there yet say nothing
            if self._empty:
                p.fillRect(box, theme.colours()["sheet"])
                marks.text(p, box.center().x(), box.center().y(), self._empty, colour="soft", align="middle")
            return
        p.drawImage(box, self._image)
        p.setClipRect(box)
        labels = Labels(p, box.getCoords())
        self._draw_seam(p, box)
        m = self._marks
        if m.shadow is not None and len(m.shadow):
            self._line(p, *equirect.lonlat_deg(m.shadow), QColor("#FFFFFF"), QColor("#22303A"), 2.0)
        if m.path_yaw is not None and m.path_pitch is not None:
            self._line(p, m.path_yaw, m.path_pitch, QColor("#FFFFFF"), theme.DAY["course"], 1.8)
        outlined: list[tuple[NDArray[np.float64], NDArray[np.float64], str]] = []
        for view, size, words in m.outlines:
            lon, lat = outline_lonlat_deg(view, size)
            self._line(p, lon, lat, QColor("#FFFFFF"), theme.DAY["course"], 2.4)
            if words:
                outlined.append((lon, lat, words))
        for at, colour, words in (
            (m.foot, "mat", "stick's foot"),
            (m.sun, "sun", "sun"),
            (m.subject, "subject", m.subject_name),
        ):
            if at is not None:
                self._spot(p, at, colour, words, labels)
        for lon, lat, words in outlined:
            xs, ys = self._at(lon, lat)
            top = int(np.nanargmin(ys))
            labels.add(float(xs[top]), float(ys[top]), words, gap=4.0, sides=("above", "below", "right"))
        labels.write()
        p.setClipping(False)

    def _draw_seam(self, p: QPainter, box: QRectF) -> None:
        if self._marks.seam_deg is None:
            return  # a plain picture, or nobody knows how the lenses lay
        half, axis = max(self._marks.seam_deg, 1.0), self._marks.seam_axis
        sides = [self._at(*equirect.lonlat_deg(seam_circle(axis, off))) for off in (-half, half)]
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(marks.hatch(QColor("#FFFFFF")))
        (x0, y0), (x1, y1) = sides
        corners = np.stack([x0[:-1], x0[1:], x1[1:], x1[:-1]])
        joined = np.ptp(corners, axis=0) < box.width() / 2  # a piece that leaps over the picture's edge is left out
        marks.band(p, np.stack([x0, y0], axis=1), np.stack([x1, y1], axis=1), joined)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(QColor(theme.DAY.seam), 1.2, Qt.PenStyle.DashLine))
        p.drawPath(marks.polyline(*self._at(*equirect.lonlat_deg(seam_circle(axis))), box.width() / 2))

    def _line(
        self, p: QPainter, lon: NDArray[np.float64], lat: NDArray[np.float64], under: QColor, over: QColor, width: float
    ) -> None:
        xs, ys = self._at(lon, lat)
        path = marks.polyline(xs, ys, self.box.width() / 2)
        p.setBrush(Qt.BrushStyle.NoBrush)
        for colour, size in ((under, width + 1.8), (over, width)):
            p.setPen(QPen(colour, size))
            p.drawPath(path)

    def _spot(self, p: QPainter, at: tuple[float, float], colour: str, words: str, labels: Labels) -> None:
        x, y = (float(v[0]) for v in self._at(np.array([at[0]]), np.array([at[1]])))
        p.setPen(QPen(QColor("#FFFFFF"), 1.5))
        p.setBrush(theme.DAY[colour])
        p.drawEllipse(QPointF(x, y), 4.5, 4.5)
        labels.clear_of(x - 6, y - 6, x + 6, y + 6)
        labels.add(x, y, words, sides=("right", "left"))

    def enterEvent(self, _event: QEnterEvent | None) -> None:
        self.setCursor(Qt.CursorShape.CrossCursor)

    def _look(self, event: QMouseEvent) -> None:
        box = self.box
        yaw = ((event.position().x() - box.left()) / box.width() - 0.5) * 360.0
        pitch = (0.5 - (event.position().y() - box.top()) / box.height()) * 180.0
        signal = self.clicked if event.type() == QEvent.Type.MouseButtonPress else self.looked
        signal.emit(float(np.clip(yaw, -180, 180)), float(np.clip(pitch, -90, 90)))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._look(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._look(event)

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        self.look_ended.emit()

"""The sphere unrolled on a neutral mat, with marks on it; a click says where to look."""

import numpy as np
from msgspec import Struct, field
from numpy.typing import NDArray
from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QEnterEvent, QImage, QMouseEvent, QPainter, QPainterPath, QPen, QPolygonF, QResizeEvent

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.labels import Labels
from glintor.desktop.charts.sheet import Sheet
from glintor.placement.seam import seam_circle
from glintor.sphere import equirect
from glintor.sphere.angle import wrap_deg
from glintor.sphere.view import View, outline_lonlat_deg

_ANY_PX = 16777215  # Qt's word for no limit
_SEAM_POINTS, _OUTLINE_POINTS = (
    73,
    20,
)  # round the seam, and a side of a frame: as many as a hand that drags leaves time for


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
    words: str = ""  # what the picture is


class SphereView(Sheet):
    """The sphere unrolled. A click or drag says which way to look."""

    clicked = pyqtSignal(float, float)  # yaw, pitch of a press
    looked = pyqtSignal(float, float)  # the same while it is dragged
    look_ended = pyqtSignal()

    def __init__(self, name: str, least: tuple[int, int] = (240, 120), *, empty: str = "") -> None:
        super().__init__(name, least)
        self._empty = empty
        self._image: QImage | None = None
        self._fitted = marks.Fitted()
        self._seam: tuple[object, list[QPolygonF], QPainterPath] | None = None  # as it was drawn last
        self._marks = SphereMarks()
        self._in_proportion = False

    def keep_proportion(self, kept: bool) -> None:
        """Whether it is never higher than its width lets the sphere be."""
        self._in_proportion = kept
        self._limit()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._limit()

    def _limit(self) -> None:
        most = self.width() // 2 + 2 if self._in_proportion else _ANY_PX
        if most != self.maximumHeight():
            self.setMaximumHeight(most)

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
        self._fitted.draw(p, self._image, box, self.devicePixelRatioF())
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
            lon, lat = outline_lonlat_deg(view, size, points=_OUTLINE_POINTS)
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
        if m.words:
            marks.text(p, box.left() + 8, box.bottom() - 12, m.words, halo=True)

    def _draw_seam(self, p: QPainter, box: QRectF) -> None:
        if self._marks.seam_deg is None:
            return  # a plain picture, or nobody knows how the lenses lay
        key = (self._marks.seam_deg, self._marks.seam_axis, box.getRect())
        if self._seam is None or self._seam[0] != key:
            self._seam = (key, *self._seam_shapes(box, max(self._marks.seam_deg, 1.0), self._marks.seam_axis))
        _, pieces, middle = self._seam
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(marks.hatch(QColor("#FFFFFF")))
        for piece in pieces:
            p.drawPolygon(piece, Qt.FillRule.WindingFill)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(QColor(theme.DAY.seam), 1.2, Qt.PenStyle.DashLine))
        p.drawPath(middle)

    def _seam_shapes(
        self, box: QRectF, half: float, axis: tuple[float, float, float]
    ) -> tuple[list[QPolygonF], QPainterPath]:
        """The seam's band and its middle; they stay the same while the view is turned."""
        sides = [self._at(*equirect.lonlat_deg(seam_circle(axis, off, _SEAM_POINTS))) for off in (-half, half)]
        (x0, y0), (x1, y1) = sides
        corners = np.stack([x0[:-1], x0[1:], x1[1:], x1[:-1]])
        joined = np.ptp(corners, axis=0) < box.width() / 2  # a piece that leaps over the picture's edge is left out
        pieces = marks.pieces_between(np.stack([x0, y0], axis=1), np.stack([x1, y1], axis=1), joined)
        middle = self._at(*equirect.lonlat_deg(seam_circle(axis, 0.0, _SEAM_POINTS)))
        return pieces, marks.polyline(*middle, box.width() / 2)

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

"""The sphere of a place, clicked on: what stands there has a bearing, and the land against the sky a height."""

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QDialog, QVBoxLayout, QWidget

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.labels import Labels
from glintor.desktop.controls import Chips, Number, button, label, row
from glintor.placement.scenery import horizon_words
from glintor.sphere.angle import wrap_deg

_NEAR_DEG = 4.0  # of a point that is clicked again: it is taken away


class Clicked(QWidget):
    """An unrolled sphere; `clicked` gives yaw and pitch, degrees."""

    clicked = pyqtSignal(float, float)

    def __init__(self, picture: NDArray[np.uint8]) -> None:
        super().__init__()
        self._image = marks.image(picture)
        self._points: list[tuple[float, float, str]] = []
        self.setAccessibleName("The sphere, unrolled; click on it")
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.setMinimumSize(480, 240)

    def sizeHint(self) -> QSize:
        return QSize(960, 480)

    def show_points(self, points: list[tuple[float, float, str]]) -> None:
        """Yaw, pitch and words of each."""
        self._points = points
        self.update()

    @property
    def _box(self) -> QRectF:
        wide = min(float(self.width()), 2.0 * self.height())
        return QRectF((self.width() - wide) / 2, (self.height() - wide / 2) / 2, wide, wide / 2)

    def px(self, yaw_deg: float, pitch_deg: float) -> QPointF:
        box = self._box
        return QPointF(
            box.left() + (yaw_deg / 360.0 + 0.5) * box.width(), box.top() + (0.5 - pitch_deg / 180.0) * box.height()
        )

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        p.fillRect(self.rect(), theme.colours()["mat"])
        p.drawImage(self._box, self._image)
        labels = Labels(p, (2.0, 2.0, self.width() - 2.0, self.height() - 2.0))
        spots = [(self.px(yaw, pitch), words) for yaw, pitch, words in sorted(self._points)]
        p.setPen(marks.pen("course", 2.0))
        for (a, _), (b, _) in pairwise(spots):
            p.drawLine(a, b)
        p.setBrush(theme.colours()["sheet"])
        for at, words in spots:
            p.drawEllipse(at, 5.0, 5.0)
            labels.add(at.x(), at.y(), words, sides=("above", "below", "right"))
        labels.write()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        box, at = self._box, event.position()
        if box.contains(at):
            yaw = ((at.x() - box.left()) / box.width() - 0.5) * 360.0
            self.clicked.emit(yaw, (0.5 - (at.y() - box.top()) / box.height()) * 180.0)


class SphereClicks(QDialog):
    """`taken` gives the bearing of the sphere's middle (None where nobody knows) and the horizon."""

    taken = pyqtSignal(object, object)

    def __init__(
        self,
        picture: NDArray[np.uint8],
        faces_deg: float | None,
        horizon: tuple[tuple[float, float], ...],
        parent: QWidget,
        *,
        turns: bool,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Bearings and horizon")
        self._given, self._horizon = faces_deg, list(horizon)
        self._known: list[tuple[float, float]] = []  # yaw and bearing of things that somebody knows
        self.sphere = Clicked(picture)
        self.mode = Chips("A click is", [("bearing", "a bearing I know"), ("horizon", "land against the sky")])
        self.bearing = Number("Its bearing", "°", 0, 359, 1, 0)
        self.words = label("", "soft")
        self.words.setWordWrap(True)
        self._mode = "bearing" if turns and faces_deg is None else "horizon"
        page = QVBoxLayout(self)
        page.setContentsMargins(18, 14, 18, 14)
        page.setSpacing(8)
        page.addWidget(self.sphere, 1)
        page.addLayout(row(self.mode, self.bearing, spacing=12))
        page.addWidget(self.words)
        take = button("Take over", self.take, main=True)
        clear = button("Clear the horizon", self._clear)
        page.addLayout(row(clear, None, button("Leave it", self.reject), take, stretch=False, spacing=8))
        self.mode.setVisible(turns)
        self.bearing.setVisible(turns)
        self.mode.chosen.connect(self._choose)
        self.sphere.clicked.connect(self._click)
        self._show()

    def _choose(self, mode: object) -> None:
        self._mode = str(mode)
        self._show()

    @property
    def faces_deg(self) -> float | None:
        """The bearing of the middle: by what was clicked (its mean), else as it was given."""
        if not self._known:
            return self._given
        turns = np.radians([bearing - yaw for yaw, bearing in self._known])
        return float(np.degrees(np.arctan2(np.sin(turns).mean(), np.cos(turns).mean()))) % 360.0

    @property
    def apart_deg(self) -> float:
        """How far the clicked bearings disagree."""
        faces = self.faces_deg or 0.0
        return max((abs(float(wrap_deg(bearing - yaw - faces))) for yaw, bearing in self._known), default=0.0)

    def _click(self, yaw: float, pitch: float) -> None:
        if self._mode == "bearing":
            near = [one for one in self._known if abs(float(wrap_deg(one[0] - yaw))) < _NEAR_DEG]
            self._known = (
                [one for one in self._known if one not in near]
                if near
                else [*self._known, (yaw, self.bearing.box.value())]
            )
        elif self.faces_deg is not None:
            there = (yaw + self.faces_deg) % 360.0
            near = [one for one in self._horizon if abs(float(wrap_deg(one[0] - there))) < _NEAR_DEG]
            kept = [one for one in self._horizon if one not in near]
            self._horizon = kept if near else [*kept, (round(there, 1), round(min(max(pitch, -5.0), 89.0), 1))]
        self._show()

    def _clear(self) -> None:
        self._horizon = []
        self._show()

    def _show(self) -> None:
        self.mode.show_value(self._mode)
        self.bearing.setEnabled(self._mode == "bearing")
        faces = self.faces_deg
        points = [(yaw, 0.0, f"{bearing:.0f}°") for yaw, bearing in self._known] if self._mode == "bearing" else []
        if self._mode == "horizon" and faces is not None:
            points = [(float(wrap_deg(at - faces)), high, f"{high:.0f}°") for at, high in self._horizon]
        self.sphere.show_points(points)
        told = (
            "Nobody knows yet which way its middle faces: click on things whose bearing you know."
            if faces is None
            else f"Its middle faces {faces:.0f}°."
        )
        if len(self._known) > 1:
            told += f" The bearings agree within {self.apart_deg:.1f}°."
        far = f" Horizon: {horizon_words(tuple(sorted(self._horizon)))}." if self._horizon else " Horizon: level."
        self.words.setText(told + far + " A click on a point takes it away.")

    def take(self) -> None:
        self.taken.emit(self.faces_deg, tuple(sorted(self._horizon)))
        self.accept()

"""A test frame measured: what is clipped in it, where its brightness lies, and the white of a patch that is clicked."""

from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QRectF, pyqtSignal
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QVBoxLayout, QWidget

from glintor.desktop.charts import marks
from glintor.desktop.charts.sheet import Sheet
from glintor.desktop.controls import Figures, button, label, row
from glintor.desktop.jobs import Jobs
from glintor.desktop.sphere_view import SphereMarks, SphereView
from glintor.exposure.frame_light import Frames, Reading, TestFrame, histogram, read_frame, reading_of, shown_in
from glintor.exposure.white import white_of_patch
from glintor.media.picture import shown
from glintor.pixels.curves import display_of

_WIDE_PX, _PATCH_DEG = 1440, 1.5
_USUAL_K = 5600.0
_RED = np.array([163, 38, 27], np.uint8)
_FIGURES = ("mean", "front", "rear", "clipped", "in the views", "keeps highlights")


class Histogram(Sheet):
    """Share of front and rear lens by code value, weighted by solid angle."""

    def __init__(self) -> None:
        super().__init__("Histogram by solid angle", (240, 90), keyboard=False)
        self._shares: NDArray[np.float64] | None = None

    def show_shares(self, shares: NDArray[np.float64]) -> None:
        self._shares = shares
        self.update()

    def draw(self, p: QPainter) -> None:
        if self._shares is None:
            return
        box = QRectF(self.rect()).adjusted(10, 8, -10, -20)
        top = max(float(np.sqrt(self._shares).max()), 1e-9)
        bins = self._shares.shape[1]
        for lens, colour in enumerate(("course", "subject", "ink")[: len(self._shares)]):
            x = box.left() + (np.arange(bins) + 0.5) / bins * box.width()
            y = box.bottom() - np.sqrt(self._shares[lens]) / top * box.height()
            p.setPen(marks.pen(colour, 1.8))
            p.drawPath(marks.polyline(x, y))
        p.setPen(marks.pen("line"))
        p.drawLine(box.bottomLeft(), box.bottomRight())
        marks.text(p, box.left(), self.height() - 9, "black", colour="soft")
        marks.text(p, box.right(), self.height() - 9, "white", colour="soft", align="right")
        marks.text(p, box.center().x() - 6, self.height() - 9, "front lens", colour="course", align="right")
        marks.text(p, box.center().x() + 6, self.height() - 9, "rear lens", colour="subject")
        if len(self._shares) > 2:
            marks.text(p, box.center().x() + 84, self.height() - 9, "planned views")


class FrameSheet(QDialog):
    """`used` gives the file as a source of light; `shift_wanted` stops that the setting is to move by; `white_wanted` kelvin."""

    used = pyqtSignal(object)
    shift_wanted = pyqtSignal(float)
    white_wanted = pyqtSignal(float)

    def __init__(self, file: Path, frames: Frames, jobs: Jobs, white_k: float | None, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"Test frame: {file.name}")
        self.resize(940, 640)
        self._file, self._white_k = file, white_k or _USUAL_K
        self._frame: TestFrame | None = None
        self.reading: Reading | None = None
        self._found_k: float | None = None
        self.sphere, self.histogram = SphereView("The test frame", (480, 240)), Histogram()
        self.sphere.clicked.connect(self.pick)
        self.figures = Figures(_FIGURES)
        self.words = label("Reading…", "soft")
        self.words.setWordWrap(True)
        self.white = label("Click on something grey or white: its white balance is found.")
        self.shift = button("Move the setting", self._shift)
        self.set_white = button("Set this white", self._set_white)
        self.use = button("Use as the light of the take", lambda: self.used.emit(file), main=True)
        for made in (self.shift, self.set_white, self.use):
            made.setEnabled(False)
        page = QVBoxLayout(self)
        page.setContentsMargins(18, 14, 18, 14)
        page.setSpacing(10)
        page.addWidget(self.sphere, 4)
        both = QHBoxLayout()
        both.addWidget(self.histogram, 1)
        page.addLayout(both, 1)
        page.addWidget(self.figures)
        page.addWidget(self.words)
        page.addLayout(row(self.white, None, self.set_white, stretch=False))
        page.addLayout(row(self.shift, None, button("Close", self.reject), self.use, stretch=False))
        jobs.start(
            f"Reading {file.name}",
            lambda _report, _stop: _looked_at(file, frames),
            self._read,
            failed=lambda error: self.words.setText(str(error)),
        )

    def _read(self, value: object) -> None:
        self._frame, self.reading, picture, shares = value  # type: ignore[misc]
        reading = self.reading
        assert reading is not None and self._frame is not None
        self.sphere.show_sphere(marks.image(picture), SphereMarks(words="hatched: clipped"))
        self.histogram.show_shares(shares)
        known = reading.ev100

        def told(stops: float) -> str:
            return f"{stops:+.1f} stops" if known is None else f"EV {known + stops:.1f}"

        show = self.figures.show_value
        show("mean", told(reading.mean_stops))
        show("front", told(reading.front_stops))
        show("rear", told(reading.rear_stops))
        show("clipped", f"{100 * reading.clipped_share:.1f} %")
        show("in the views", "no views" if reading.clipped_shown is None else f"{100 * reading.clipped_shown:.1f} %")
        least = "at least " if reading.shift_at_least else ""
        show(
            "keeps highlights",
            f"{least}{reading.shift_stops:+.1f} stops" if reading.shift_stops < -0.05 else "they are held",
        )
        exposed = (
            "its file does not say how it was exposed: stops are from mid grey"
            if known is None
            else f"exposed for EV {known:.1f}"
        )
        self.words.setText(f"Curve: {reading.curve}, {reading.known_by}; {exposed}.")
        self.shift.setEnabled(reading.shift_stops < -0.05)
        self.shift.setText(
            f"Move the setting by {reading.shift_stops:+.1f} stops"
            if reading.shift_stops < -0.05
            else "Move the setting"
        )
        self.use.setEnabled(known is not None)
        self.use.setToolTip(
            ""
            if known is not None
            else "Its file does not say how it was exposed: add it under Light… with what you typed"
        )

    def pick(self, yaw_deg: float, pitch_deg: float) -> None:
        """A click on the sphere: the white of the patch there."""
        if self._frame is None:
            return
        height, width = self._frame.linear.shape[:2]
        x, y = (yaw_deg / 360.0 + 0.5) * width, (0.5 - pitch_deg / 180.0) * height
        half = max(round(_PATCH_DEG / 360.0 * width), 1)
        rows = np.clip(np.arange(int(y) - half, int(y) + half + 1), 0, height - 1)
        columns = np.arange(int(x) - half, int(x) + half + 1) % width
        patch = self._frame.linear[np.ix_(rows, columns)].reshape(-1, 3)
        if not self._frame.light and float(patch.max()) > 0.98:
            self.white.setText("That patch is clipped: choose one that is not white.")
            return
        try:
            self._found_k, tint = white_of_patch(patch.mean(axis=0), self._white_k)
        except ValueError as error:
            self.white.setText(f"That patch is {error}: choose another.")
            return
        lean = "green" if tint > 1.0 else "magenta" if tint < -1.0 else "neither green nor magenta"
        self.white.setText(
            f"{self._found_k:.0f} K, tint {tint:+.0f} ({lean}), if the frame was set to {self._white_k:.0f} K"
        )
        self.set_white.setEnabled(2000.0 <= self._found_k <= 15000.0)
        self.sphere.show_marks(
            SphereMarks(subject=(yaw_deg, pitch_deg), subject_name="patch", words="hatched: clipped")
        )

    def _shift(self) -> None:
        assert self.reading is not None
        self.shift_wanted.emit(self.reading.shift_stops)

    def _set_white(self) -> None:
        if self._found_k is not None:
            self.white_wanted.emit(round(self._found_k / 50.0) * 50.0)


def _looked_at(file: Path, frames: Frames) -> tuple[TestFrame, Reading, NDArray[np.uint8], NDArray[np.float64]]:
    frame = read_frame(file)
    small: NDArray[Any] = cv2.resize(frame.linear, (_WIDE_PX, _WIDE_PX // 2), interpolation=cv2.INTER_AREA)
    picture = shown(small) if frame.light else (display_of(small) * 255.0 + 0.5).astype(np.uint8)
    shares = histogram(picture, shown_in(frames, _WIDE_PX, _WIDE_PX // 2))
    if not frame.light:
        rows, columns = np.mgrid[0 : _WIDE_PX // 2, 0:_WIDE_PX]
        picture[(small.max(axis=2) > 0.965) & ((rows + columns) % 7 < 2)] = _RED
    return frame, reading_of(frame, frames), np.ascontiguousarray(picture), shares

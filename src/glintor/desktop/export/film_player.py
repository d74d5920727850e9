"""A film of joined cuts looked at before it is made: small, as it will be shown and heard."""

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import QDialog, QLabel, QSlider, QVBoxLayout, QWidget

from glintor.desktop.charts import marks
from glintor.desktop.controls import button, label, row
from glintor.desktop.jobs import Newest
from glintor.desktop.sound_out import SoundOut
from glintor.export.soundtrack import sound_in_a_row
from glintor.export.strand import Strand
from glintor.media.read import Reader
from glintor.pixels import colour
from glintor.pixels.picture import drawn

SIZE_PX = (640, 360)
_TICK_MS, _A_SECOND = 15, 100  # of the slider


class FilmPlayer(QDialog):
    """Plays strands one after the other with their sound; a frame whose time is past is left out."""

    def __init__(self, name: str, strands: Sequence[Strand], failed: Callable[[object], object], over: QWidget) -> None:
        super().__init__(over)
        self.setWindowTitle(f"{name}, as it will be")
        self._strands = strands
        self._starts = np.concatenate([[0.0], np.cumsum([s.timeline.duration_s for s in strands])])
        self._readers: dict[object, Reader] = {}
        self.now_s, self._from_s = 0.0, 0.0
        self.picture = QLabel()
        self.picture.setFixedSize(*SIZE_PX)
        self.picture.setAccessibleName(f"{name}, playing")
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setAccessibleName("Moment of the film")
        self.slider.setRange(0, round(self.length_s * _A_SECOND))
        self.slider.sliderMoved.connect(lambda at: self.go_to(at / _A_SECOND, silently=True))
        self.slider.sliderReleased.connect(lambda: self.go_to(self.now_s))
        self.words = label("", "soft")
        self.play = button("Stop", self.turn, main=True)
        page = QVBoxLayout(self)
        page.addWidget(self.picture)
        page.addWidget(self.slider)
        page.addLayout(row(self.play, self.words, None, button("Close", self.reject), stretch=False))
        self._worker = Newest("film", failed)
        self._worker.finished.connect(self._show)
        self._out, self._heard = SoundOut(self), ""
        self._timer = QTimer(self)
        self._timer.setInterval(_TICK_MS)
        self._timer.timeout.connect(self._tick)
        self.go_to(0.0)

    @property
    def length_s(self) -> float:
        return float(self._starts[-1])

    def turn(self) -> None:
        """Plays, or stops; from the beginning where it had ended."""
        if self._timer.isActive():
            self._timer.stop()
            self._out.stop()
            self.play.setText("Play")
        else:
            self.go_to(0.0 if self.now_s >= self.length_s - 0.05 else self.now_s)

    def go_to(self, film_s: float, *, silently: bool = False) -> None:
        """Plays on from a moment of the film; silently while a hand seeks one."""
        self.now_s = self._from_s = film_s
        words = self._out.start(None if silently else sound_in_a_row(self._strands, film_s))
        self._heard = self._heard if silently else words
        self._timer.start()
        self.play.setText("Stop")

    def _tick(self) -> None:
        self.now_s = self._from_s + self._out.passed_s
        if self.now_s >= self.length_s:
            self.turn()
        elif self._worker.idle:
            film_s = self.now_s
            self._worker.ask(film_s, lambda: self._draw(film_s))

    def _draw(self, film_s: float) -> NDArray[np.uint32]:
        n = int(np.clip(np.searchsorted(self._starts, film_s, side="right") - 1, 0, len(self._strands) - 1))
        strand = self._strands[n]
        timeline, into_s = strand.timeline, film_s - self._starts[n]
        clip_s, path_s = float(timeline.clip_time(into_s)), float(timeline.path_time(into_s))
        reader = self._readers.get(strand.footage)
        if reader is None:
            reader = self._readers[strand.footage] = strand.footage.reader()
        return colour.rgb32(drawn(strand.pictures[0], strand.footage.sphere(reader.at(clip_s)), path_s))

    def _show(self, shown_s: float, pixels: NDArray[np.uint32]) -> None:
        self.picture.setPixmap(QPixmap.fromImage(marks.image(pixels)))
        self.slider.setValue(round(shown_s * _A_SECOND))
        heard = f"; {self._heard}" if self._heard else ""
        self.words.setText(f"{shown_s:.1f} of {self.length_s:.1f} s{heard}")

    def done(self, result: int) -> None:
        self._timer.stop()
        self._out.stop()
        self._worker.close()
        for reader in self._readers.values():
            reader.close()
        self._readers = {}
        super().done(result)

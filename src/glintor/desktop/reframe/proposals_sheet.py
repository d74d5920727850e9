"""First paths for a take, played small side by side; one is taken to begin from, or a part of it."""

from collections.abc import Callable, Sequence
from functools import partial

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QPixmap
from PyQt6.QtWidgets import QDialog, QGridLayout, QLabel, QVBoxLayout, QWidget

from glintor.desktop.charts import marks
from glintor.desktop.controls import button, label, row
from glintor.desktop.jobs import Newest
from glintor.media.footage import Footage
from glintor.pixels import colour
from glintor.pixels.picture import Flat, drawn
from glintor.pixels.reproject import Filter
from glintor.reframing.course import Course
from glintor.reframing.proposals import Proposal

_SIZE_PX, _STEP_S, _EVERY_MS, _ACROSS = (272, 152), 0.25, 125, 3  # twice as fast as it is


class ProposalsSheet(QDialog):
    """`taken` says which proposal is wanted, and whether only in the marked part."""

    taken = pyqtSignal(object, bool)

    def __init__(
        self,
        found: Sequence[Proposal],
        courses: Sequence[Course],
        footage: Footage,
        part_s: tuple[float, float] | None,
        failed: Callable[[object], object],
        over: QWidget,
    ) -> None:
        super().__init__(over)
        self.setWindowTitle("Paths to begin from")
        self.found, self._courses = list(found), list(courses)
        self._has_part = part_s is not None
        cut = found[0].cut
        self._clock = cut.clock
        self._from_s, self._to_s, self._now_s = cut.begins_s, cut.ends_s, cut.begins_s
        self.pictures: list[QLabel] = []
        self.shown_s = 0.0
        grid = self._grid = QGridLayout()
        grid.setHorizontalSpacing(18)
        grid.setVerticalSpacing(14)
        for n, one in enumerate(found):
            self._put(one, n)
        page = QVBoxLayout(self)
        page.setSpacing(12)
        page.addWidget(label("Each plays twice as fast as it is. Take one; undo takes it back.", "soft"))
        page.addLayout(grid)
        page.addStretch(1)
        self._said = label("Looking for what changes in the picture…", "soft")
        self._said.setWordWrap(True)
        foot = row(self._said, button("Close", self.reject), stretch=False)
        foot.setStretch(0, 1)
        page.addLayout(foot)
        self._footage = footage.draft() or footage
        self._reader = self._footage.reader()
        self._worker = Newest("proposals", failed)
        self._worker.finished.connect(self._show)
        self._timer = QTimer(self)
        self._timer.setInterval(_EVERY_MS)
        self._timer.timeout.connect(self._next)
        self._timer.start()
        self._next()

    def _card(self, one: Proposal, has_part: bool) -> QWidget:
        box = QWidget()
        column = QVBoxLayout(box)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        picture = QLabel()
        picture.setFixedSize(*_SIZE_PX)
        picture.setAccessibleName(f"{one.name}, playing")
        self.pictures.append(picture)
        reason = label(one.reason, "soft")
        reason.setWordWrap(True)
        reason.setFixedWidth(_SIZE_PX[0])
        reason.setMinimumHeight(reason.heightForWidth(_SIZE_PX[0]))
        whole = button("Take it", partial(self._take, one, False))
        whole.setAccessibleName(f"Take {one.name}")
        part = button("In the marked part", partial(self._take, one, True)) if has_part else None
        for thing in (picture, label(one.name, "head"), reason):
            column.addWidget(thing)
        column.addLayout(row(*[b for b in (whole, part) if b is not None], spacing=8))
        return box

    def _take(self, one: Proposal, part: bool) -> None:
        self.taken.emit(one, part)
        self.accept()

    def _put(self, one: Proposal, at: int) -> None:
        card = self._card(one, self._has_part)
        self._grid.addWidget(card, at // _ACROSS, at % _ACROSS, Qt.AlignmentFlag.AlignTop)

    def add(self, one: Proposal, course: Course) -> None:
        """One more, which plays along from now on."""
        self._put(one, len(self.found))
        self.found.append(one)
        self._courses = [*self._courses, course]
        self.say("")

    def say(self, words: str) -> None:
        """What is to be said of those that are not there."""
        self._said.setText(words)

    # Playing
    def _next(self) -> None:
        if not self._worker.idle:
            return
        time_s = self._now_s
        self._now_s = time_s + _STEP_S if time_s + _STEP_S < self._to_s else self._from_s
        self._worker.ask(time_s, lambda: self._draw(time_s))

    def _draw(self, time_s: float) -> list[NDArray[np.generic]]:
        sphere = self._footage.sphere(self._reader.at(float(self._clock.clip_s(time_s))))
        return [
            colour.rgb32(drawn(Flat(_SIZE_PX, course.sight, Filter.FAST, shows=self._footage.shows), sphere, time_s))
            for course in self._courses
        ]

    def _show(self, time_s: float, pictures: list[NDArray[np.generic]]) -> None:
        self.shown_s = time_s - self._from_s
        for place, pixels in zip(self.pictures, pictures, strict=False):
            place.setPixmap(QPixmap.fromImage(marks.image(pixels)))

    def done(self, result: int) -> None:
        self._stop()
        super().done(result)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self._stop()
        super().closeEvent(event)

    def _stop(self) -> None:
        if self._timer.isActive():
            self._timer.stop()
            self._worker.close()
            self._reader.close()

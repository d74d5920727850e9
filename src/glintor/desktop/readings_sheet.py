"""Asks what recordings show that nobody can tell for certain, with a small picture of each way to read them."""

from collections.abc import Callable, Sequence
from pathlib import Path

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QIcon, QPixmap
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QScrollArea, QToolButton, QVBoxLayout, QWidget

from glintor.desktop.charts import marks
from glintor.desktop.controls import button, label
from glintor.desktop.jobs import Jobs
from glintor.media.reading import Reading
from glintor.media.seen_as import SMALL_PX, seen_as, ways
from glintor.media.taken import WORDS, Told
from glintor.project.take import Take


class ReadingsSheet(QDialog):
    """`told` says what a person takes a recording for; what is not answered stays out."""

    told = pyqtSignal(object, str)  # the reading, and what it shows

    def __init__(self, readings: Sequence[Reading], jobs: Jobs, over: QWidget) -> None:
        super().__init__(over)
        self.setWindowTitle("What do these show?")
        self.setModal(False)
        self.resize(860, min(200 + 210 * len(readings), 640))
        self._left = list(readings)
        self._rows: dict[int, QWidget] = {}
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setSpacing(18)
        for reading in readings:
            column.addWidget(self._row(reading, jobs))
        column.addStretch(1)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(inside)
        area.setFrameShape(QScrollArea.Shape.NoFrame)
        page = QVBoxLayout(self)
        words = label(
            "Nothing was taken in of these yet. Choose the picture that looks right, or leave a recording out."
        )
        words.setWordWrap(True)
        page.addWidget(words)
        page.addWidget(area, 1)
        page.addWidget(button("Leave the rest out", self.reject), 0, Qt.AlignmentFlag.AlignRight)

    def _row(self, reading: Reading, jobs: Jobs) -> QWidget:
        row = QWidget()
        self._rows[id(reading)] = row
        column = QVBoxLayout(row)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(label(reading.files[0].name, "head"))
        why = label(f"Unsure: {reading.why}." if not reading.sure else f"Taken for a flat picture: {reading.why}.")
        why.setWordWrap(True)
        column.addWidget(why)
        line = QHBoxLayout()
        for told in ways(reading):
            choice = QToolButton()
            choice.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextUnderIcon)
            choice.setIconSize(QSize(*SMALL_PX))
            choice.setText(WORDS[told].capitalize())
            choice.setFixedSize(SMALL_PX[0] + 12, SMALL_PX[1] + 34)
            choice.setAccessibleName(f"{reading.files[0].name} shows {WORDS[told]}")
            choice.clicked.connect(self._answer(reading, told))
            line.addWidget(choice)
            self._draw(choice, reading, told, jobs)
        line.addStretch(1)
        column.addLayout(line)
        return row

    def _answer(self, reading: Reading, told: Told) -> Callable[[], None]:
        def answered() -> None:
            self._rows[id(reading)].hide()
            self._left.remove(reading)
            self.told.emit(reading, told)
            if not self._left:
                self.close()

        return answered

    def _draw(self, choice: QToolButton, reading: Reading, told: Told, jobs: Jobs) -> None:
        def done(picture: object) -> None:
            if picture is None:
                choice.setEnabled(False)
                choice.setToolTip("It cannot be read so")
            else:
                choice.setIcon(QIcon(QPixmap.fromImage(marks.image(picture))))  # type: ignore[arg-type]

        jobs.start(f"Looking at {reading.files[0].name}", lambda _report, _stop: seen_as(reading, told), done)


def ask_about(
    files: Sequence[Path], take: Take, jobs: Jobs, over: QWidget, told: Callable[[str], None]
) -> ReadingsSheet:
    """Asks what one take shows, with every way that there is."""
    others: tuple[Told, ...] = ("sphere", "half", "side", "under", "lens", "boxed", "over", "beside", "half-beside")
    kept = tuple(files)
    reading = Reading(
        reading="sphere",
        files=kept,
        why=take.why or "so it was read",
        told=take.told,
        lenses=take.lenses,
        sure=take.told_by == "person",
        also=tuple(o for o in others if o != take.told),
    )
    sheet = ReadingsSheet([reading], jobs, over)
    sheet.told.connect(lambda _reading, what: told(what))
    sheet.show()
    return sheet

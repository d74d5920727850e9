"""Asks what recordings show that nobody can tell for certain, with a small picture of each way to read them."""

from collections.abc import Callable, Sequence
from pathlib import Path

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QIcon, QPixmap
from PyQt6.QtWidgets import QDialog, QGridLayout, QScrollArea, QToolButton, QVBoxLayout, QWidget

from glintor.desktop.charts import marks
from glintor.desktop.controls import button, label
from glintor.desktop.jobs import Jobs
from glintor.media.reading import Reading
from glintor.media.seen_as import SMALL_PX, seen_as, ways
from glintor.media.taken import WORDS, Told
from glintor.project.take import Take

_IN_A_ROW = 3


def _why(reading: Reading) -> str:
    """What it is taken for, and why, as a sentence."""
    usual = ways(reading)
    taken = "a flat picture" if reading.reading == "flat" or not usual else WORDS[usual[0]]
    words = f"{f'Taken for {taken}' if reading.sure else 'Unsure'}: {reading.why}"
    return words if words.endswith(("?", ".")) else f"{words}."


class ReadingsSheet(QDialog):
    """`told` says what a person takes a recording for; what is not answered stays out."""

    told = pyqtSignal(object, str)  # the reading, and what it shows

    def __init__(self, readings: Sequence[Reading], jobs: Jobs, over: QWidget, *, taken: bool = False) -> None:
        """taken: whether they are in the day already and may be taken for something else."""
        super().__init__(over)
        self.setWindowTitle("What do these show?")
        self.setModal(False)
        rows = sum(-(-len(ways(reading)) // _IN_A_ROW) for reading in readings)
        self.resize(800, min(120 + 60 * len(readings) + (SMALL_PX[1] + 42) * rows, 640))
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
        new = "Nothing was taken in of these yet. Choose the picture that looks right, or leave a recording out."
        words = label("Choose the picture that looks right." if taken else new)
        words.setWordWrap(True)
        page.addWidget(words)
        page.addWidget(area, 1)
        page.addWidget(
            button("Leave it as it is" if taken else "Leave the rest out", self.reject), 0, Qt.AlignmentFlag.AlignRight
        )

    def _row(self, reading: Reading, jobs: Jobs) -> QWidget:
        row = QWidget()
        self._rows[id(reading)] = row
        column = QVBoxLayout(row)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(label(reading.files[0].name, "head"))
        why = label(_why(reading))
        why.setWordWrap(True)
        column.addWidget(why)
        choices = QGridLayout()
        choices.setHorizontalSpacing(8)
        choices.setColumnStretch(_IN_A_ROW, 1)
        for number, told in enumerate(ways(reading)):
            choice = QToolButton()
            choice.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextUnderIcon)
            choice.setIconSize(QSize(*SMALL_PX))
            choice.setText(WORDS[told].capitalize())
            choice.setFixedSize(SMALL_PX[0] + 12, SMALL_PX[1] + 34)
            choice.setAccessibleName(f"{reading.files[0].name} shows {WORDS[told]}")
            choice.clicked.connect(self._answer(reading, told))
            choices.addWidget(choice, *divmod(number, _IN_A_ROW))
            self._draw(choice, reading, told, jobs)
        column.addLayout(choices)
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
    sheet = ReadingsSheet([reading], jobs, over, taken=True)
    sheet.told.connect(lambda _reading, what: told(what))
    sheet.show()
    return sheet

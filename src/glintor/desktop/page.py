"""The window's page: day strip above, shots at the left, the desks under their names, findings and work line below."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from glintor.desktop.controls import Elided
from glintor.desktop.day_strip import DayStrip
from glintor.desktop.edges import Edges
from glintor.desktop.findings_strip import FindingsStrip
from glintor.desktop.jobs import Jobs
from glintor.desktop.seats import NAMES
from glintor.desktop.shot_column import ShotColumn
from glintor.desktop.work_line import WorkLine


class Page(QWidget):
    """Lays out the parts, folds the edges, and leaves everything away but one desk."""

    desk_asked = pyqtSignal(int)

    def __init__(self, seats: QStackedWidget, jobs: Jobs) -> None:
        super().__init__()
        self.setObjectName("page")
        self.day, self.shots = DayStrip(), ShotColumn()
        self.strip, self.work = FindingsStrip(), WorkLine(jobs)
        self.edges, self.title = Edges(), Elided("")
        self.names = QButtonGroup(self)
        self._line = self._named()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.day)
        middle, right = QHBoxLayout(), QVBoxLayout()
        for layout in (middle, right):
            layout.setSpacing(0)
        middle.addWidget(self.shots)
        right.addWidget(self._line)
        right.addWidget(seats, 1)
        right.addWidget(self.strip)
        middle.addLayout(right, 1)
        column.addLayout(middle, 1)
        column.addWidget(self.work)
        self.strip.fold_asked.connect(lambda: self.edges.turn("findings"))
        self.work.unfold_asked.connect(lambda: self.edges.turn("findings"))
        self.names.idClicked.connect(self.desk_asked)

    def _named(self) -> QWidget:
        line = QWidget()
        names = QHBoxLayout(line)
        names.setContentsMargins(14, 0, 16, 0)
        names.setSpacing(0)
        for number, desk_name in enumerate(NAMES):
            name = QPushButton(f"{number + 1} {desk_name.capitalize()}")
            name.setObjectName("deskname")
            name.setCheckable(True)
            name.setToolTip(f"Alt+{number + 1}")
            self.names.addButton(name, number)
            names.addWidget(name)
        names.addSpacing(10)
        names.addWidget(self.title, 1)
        self.names.button(0).setChecked(True)
        return line

    def show_desk(self, number: int) -> None:
        """Another desk is in sight, with its own edges."""
        self.names.button(number).setChecked(True)
        self.edges.show_desk(NAMES[number])

    def fold(self) -> None:
        """Folds and opens the edges as they are wanted on the desk in sight."""
        tall = self.names.checkedId() == NAMES.index("place")
        self.day.show_height("folded" if not self.edges.is_open("day") else "tall" if tall else "usual")
        self.shots.show_folded(not self.edges.is_open("shots"))
        self.strip.setVisible(self.edges.is_open("findings"))

    def show_alone(self, alone: bool) -> None:
        """Only the desk, or everything again."""
        for part in (self._line, self.work, self.day, self.shots, self.strip):
            part.setVisible(not alone)
        if not alone:
            self.fold()

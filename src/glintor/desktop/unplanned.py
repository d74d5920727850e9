"""What stands on the planning desks where a shot has no plan: recordings came in that nobody planned here."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from glintor.desktop.controls import button, label
from glintor.desktop.desk import Desk
from glintor.desktop.document import Document
from glintor.desktop.jobs import Jobs


class Unplanned(Desk):
    """Says that nothing is known, and offers to begin a plan."""

    plan_asked = pyqtSignal()
    site_asked = pyqtSignal()

    def __init__(self, document: Document, jobs: Jobs, parent: QWidget) -> None:
        super().__init__(document, jobs, parent)
        self.head, self.words = label("", "head"), label("")
        self.words.setWordWrap(True)
        self.words.setFixedSize(520, 64)  # three lines; a label that wraps asks for too little
        self.words.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        self.plan = button("Plan this shot", self.plan_asked.emit, main=True)
        self.site = button("Say where and when…", self.site_asked.emit, main=True)
        column = QVBoxLayout(self)
        column.addStretch(2)
        for part in (self.head, self.words, self.plan, self.site):
            column.addWidget(part, 0, Qt.AlignmentFlag.AlignHCenter)
        column.addStretch(3)
        column.setSpacing(14)

    def refresh(self) -> None:
        project, shot = self.document.project, self.document.shot
        known = project.site.known
        self.head.setText(
            f"{shot.name} was not planned here" if not shot.planned else "Where this is filmed is not known yet"
        )
        self.words.setText(
            "It holds recordings that came in by themselves. How the camera was placed and set is not known, so nothing is "
            "reckoned from it: no sun, no seam, no exposure. The desks Reframe and Export work as they are."
            if not shot.planned
            else "Sun, shadows, light and the order of the day follow from the place and the date."
        )
        self.plan.setVisible(not shot.planned and known)
        self.site.setVisible(not known)
        self.findings_changed.emit()

"""The bottom line: running work with progress, time left and cancel; and, where the findings are folded, the worst of them."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton

from glintor.desktop.controls import Elided, label
from glintor.desktop.findings_strip import Sign
from glintor.desktop.jobs import Job, Jobs
from glintor.finding import Finding, Level


class WorkLine(QFrame):
    """Shows the newest running job, and what was last done when none runs."""

    finding_clicked = pyqtSignal(object)
    cure_asked = pyqtSignal(object)
    unfold_asked = pyqtSignal()

    def __init__(self, jobs: Jobs) -> None:
        super().__init__()
        self.setObjectName("workline")
        self.setFixedHeight(30)
        self._jobs = jobs
        self._worst: Finding | None = None
        self._shown: Job | None = None
        self._words = Elided("Ready", "soft")
        self._cancel = QPushButton("Stop this")
        self._cancel.setAccessibleName("Stop the running work")
        self._cancel.clicked.connect(self._stop)
        self._sign = Sign(Level.NOTE)
        self._title, self._cure, self._count = QPushButton(), QPushButton(), QPushButton()
        self._title.setObjectName("worst")
        self._title.setToolTip("Show where it is")
        self._title.clicked.connect(lambda: self.finding_clicked.emit(self._worst))
        self._cure.setObjectName("cure")
        self._cure.setToolTip("Apply this cure; undo takes it back")
        self._cure.clicked.connect(lambda: self.cure_asked.emit(self._worst))
        self._count.setObjectName("cure")
        self._count.setToolTip("Open the findings (Ctrl+F)")
        self._count.clicked.connect(self.unfold_asked)
        self._measure = label("", "soft")
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 2, 8, 1)
        row.setSpacing(8)
        for part in (self._sign, self._title, self._measure, self._cure, self._count):
            row.addWidget(part)
        row.addWidget(self._words, 1)
        row.addWidget(self._cancel)
        jobs.changed.connect(self.refresh)
        self.refresh()

    def show_worst(self, findings: list[Finding] | None) -> None:
        """The worst first of findings that are folded; None where they have their own strip."""
        folded = findings is not None
        self._worst = worst = findings[0] if findings else None
        for part in (self._sign, self._title, self._measure):
            part.setVisible(worst is not None)
        self._cure.setVisible(worst is not None and worst.cure is not None)
        self._count.setVisible(folded)
        self._count.setText(f"{len(findings or [])} found" if folded and len(findings or []) != 1 else "1 found")
        if worst is not None:
            self._sign.show_level(worst.level)
            self._title.setText(worst.title)
            self._title.setAccessibleName(f"{worst.level.word}: {worst.title}")
            self._measure.setText(worst.measure)
            self._cure.setText(worst.cure.label if worst.cure is not None else "")

    def say(self, words: str) -> None:
        """Words to stand there until the next work."""
        self._jobs.last_words = words
        self.refresh()

    def refresh(self) -> None:
        running = self._jobs.running
        self._cancel.setVisible(bool(running))
        if not running:
            self._shown = None
            self._words.show_words(self._jobs.last_words)
            return
        self._shown = job = running[-1]
        left = job.seconds_left
        words = f"{job.title} · {job.share:.0%}" + (f" · {_span(left)} left" if left is not None else "")
        words = f"{job.title} · stopping" if job.stopping else words
        self._cancel.setEnabled(not job.stopping)
        self._words.show_words(words + (f" · {len(running) - 1} more running" if len(running) > 1 else ""))

    def _stop(self) -> None:
        """Stops what the line shows, which may not be the newest any more."""
        if self._shown is not None:
            self._shown.cancel()
            self.refresh()


def _span(seconds: float) -> str:
    return f"{seconds:.0f} s" if seconds < 90 else f"{seconds / 60:.0f} min"

"""Running work with progress, time left and cancel; nothing modal while something renders."""

from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton

from glintor.desktop.controls import Elided
from glintor.desktop.jobs import Jobs


class WorkLine(QFrame):
    """Shows the newest running job, and what was last done when none runs."""

    def __init__(self, jobs: Jobs) -> None:
        super().__init__()
        self.setObjectName("workline")
        self.setFixedHeight(27)
        self._jobs = jobs
        self._words = Elided("Ready")
        self._cancel = QPushButton("Stop this")
        self._cancel.setAccessibleName("Stop the running work")
        self._cancel.clicked.connect(self._stop)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 2, 8, 2)
        row.addWidget(self._words, 1)
        row.addWidget(self._cancel)
        jobs.changed.connect(self.refresh)
        self.refresh()

    def say(self, words: str) -> None:
        """Words to stand there until the next work."""
        self._jobs.last_words = words
        self.refresh()

    def refresh(self) -> None:
        running = self._jobs.running
        self._cancel.setVisible(bool(running))
        if not running:
            self._words.show_words(self._jobs.last_words)
            return
        job = running[-1]
        left = job.seconds_left
        words = f"{job.title} · {job.share:.0%}" + (f" · {_span(left)} left" if left is not None else "")
        self._words.show_words(words + (f" · {len(running) - 1} more running" if len(running) > 1 else ""))

    def _stop(self) -> None:
        if self._jobs.running:
            self._jobs.running[-1].cancel()


def _span(seconds: float) -> str:
    return f"{seconds:.0f} s" if seconds < 90 else f"{seconds / 60:.0f} min"

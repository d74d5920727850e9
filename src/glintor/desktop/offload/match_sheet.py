"""Which rolling a recording is: it on one side, the logs that come into question on the other, settled by one click."""

from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QImage, QPixmap
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from glintor.desktop.controls import button, label
from glintor.offload.known import rolled_words
from glintor.project.matching import Candidate


class MatchSheet(QDialog):
    """`settled` says which log a recording belongs to; "" and "" for none."""

    settled = pyqtSignal(str, str)

    def __init__(self, name: str, told: Sequence[str], picture: QImage | None, over: QWidget) -> None:
        super().__init__(over)
        self.setWindowTitle("Which rolling is this?")
        self.resize(820, 380)
        self._line = QVBoxLayout()
        self.heard = label("", "soft")
        self.buttons: list[QPushButton] = []
        left = QVBoxLayout()
        left.addWidget(label(name, "head"))
        if picture is not None:
            seen = QLabel()
            seen.setPixmap(QPixmap.fromImage(picture))
            seen.setAccessibleName(f"Picture of {name}")
            left.addWidget(seen)
        for words in told:
            left.addWidget(label(words, "soft"))
        left.addWidget(self.heard)
        left.addStretch(1)
        right = QVBoxLayout()
        right.addWidget(label("One click settles it", "head"))
        right.addLayout(self._line)
        right.addStretch(1)
        right.addWidget(button("None of these", lambda: self._settle("", "")), 0, Qt.AlignmentFlag.AlignRight)
        page = QHBoxLayout(self)
        page.setSpacing(20)
        page.addLayout(left)
        page.addLayout(right, 1)

    def show_candidates(self, candidates: Sequence[Candidate], heard: str = "") -> None:
        """The logs in their order, the likeliest first."""
        self.heard.setText(heard)
        for old in self.buttons:
            self._line.removeWidget(old)
            old.deleteLater()
        self.buttons = []
        for one in candidates:
            words = f"{one.shot.name}, {rolled_words(one.log)}\n{one.fits}"
            made = button(words, partial(self._settle, one.shot.id, one.log.id))
            made.setMinimumHeight(52)
            made.setStyleSheet("text-align: left;")
            self.buttons.append(made)
            self._line.addWidget(made)

    def _settle(self, shot_id: str, log_id: str) -> None:
        self.settled.emit(shot_id, log_id)
        self.accept()

"""Where copies go: folders by a pattern, shown with an example, and a second place."""

from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QDialog, QFileDialog, QLineEdit, QVBoxLayout, QWidget

from glintor.desktop.controls import Chips, button, label, row
from glintor.errors import InputError
from glintor.offload.naming import AS_ON_CARD, PATTERN, WORDS, filled
from glintor.project.model import Copying

_READY = ((PATTERN, "by day, shot and take"), ("{day}/{camera}", "by day and camera"), (AS_ON_CARD, "as on the card"))


class PlacesSheet(QDialog):
    """`chosen` gives the new `Copying`."""

    chosen = pyqtSignal(object)

    def __init__(self, copying: Copying, first: Path, example: dict[str, str], over: QWidget) -> None:
        super().__init__(over)
        self.setWindowTitle("Where copies go")
        self.resize(620, 330)
        self._first, self._facts = first, example
        self.second = copying.second
        self.line = QLineEdit(copying.pattern or PATTERN)
        self.line.setAccessibleName("Pattern of folders")
        self.ready = Chips("Folders", _READY)
        self.example, self.wrong = label("", "soft"), label("", "caution")
        self.place = label("")
        for words in (self.example, self.wrong, self.place):
            words.setWordWrap(True)
        self.use = button("Use these", self._choose, main=True)
        page = QVBoxLayout(self)
        page.setSpacing(10)
        page.addWidget(label(f"First: {first}", "head"))
        page.addLayout(
            row(self.place, None, button("Choose…", self._ask), button("None", lambda: self._second("")), stretch=False)
        )
        page.addWidget(self.ready)
        page.addWidget(self.line)
        known = label("Known: " + ", ".join(f"{{{name}}} {words}" for name, words in WORDS.items()), "soft")
        known.setWordWrap(True)
        page.addWidget(known)
        page.addWidget(self.example)
        page.addWidget(self.wrong)
        page.addStretch(1)
        page.addWidget(self.use, 0, Qt.AlignmentFlag.AlignRight)
        self.ready.chosen.connect(lambda pattern: self.line.setText(pattern))
        self.line.textChanged.connect(lambda _t: self._show())
        self._show()

    def _ask(self) -> None:
        folder = QFileDialog.getExistingDirectory(self, "The second place", self.second or str(Path.home()))
        if folder:
            self._second(folder)

    def _second(self, folder: str) -> None:
        self.second = folder
        self._show()

    def _show(self) -> None:
        self.place.setText(
            f"Second: {self.second}" if self.second else "Second: none. A card is safe to clear with two proven copies."
        )
        self.ready.show_value(self.line.text())
        try:
            inside = filled(self.line.text(), self._facts)
        except InputError as error:
            self.wrong.setText(str(error))
            self.use.setEnabled(False)
            return
        self.wrong.setText("")
        self.use.setEnabled(True)
        self.example.setText(f"For example: {self._first / inside / self._facts['name']}")

    def _choose(self) -> None:
        self.chosen.emit(Copying(pattern=self.line.text(), second=self.second))
        self.accept()

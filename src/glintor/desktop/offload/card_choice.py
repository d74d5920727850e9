"""Which card is in sight: those that are plugged in, folders that were chosen or dropped, and what is understood of each."""

from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QWidget

from glintor.desktop.controls import Chips, button
from glintor.desktop.document import Document
from glintor.desktop.jobs import Job, Jobs
from glintor.errors import GlintorError
from glintor.offload.contents import Contents, look_through
from glintor.offload.drives import drives

_WATCH_MS = 2000  # how often it is seen whether something was plugged in
_OWN = "the camera's card"


class CardChoice(QObject):
    """`opened` says that another card is in sight, `changed` that more is known of it, or that it was taken out or put back."""

    opened = pyqtSignal()
    changed = pyqtSignal()
    said = pyqtSignal(str)

    def __init__(self, document: Document, jobs: Jobs, over: QWidget) -> None:
        super().__init__(over)
        self._document, self._jobs, self._over = document, jobs, over
        self.chips = Chips("Card", (), titled=False)
        self.folder = button("folder…", self.ask, tip="Any card, disk or folder; one can also be dropped here")
        self.card: Path | None = None
        self._folders: list[Path] = []
        self._known: dict[Path, Contents] = {}
        self._reading: dict[Path, Job] = {}
        self._there = False
        self._watch = QTimer(self)
        self._watch.setInterval(_WATCH_MS)
        self._watch.timeout.connect(self.look)
        self.chips.chosen.connect(self.open)

    def watch(self, *, on: bool) -> None:
        if on:
            self._watch.start()
            self.look()
        else:
            self._watch.stop()

    def contents(self, card: Path | None = None) -> Contents | None:
        """What is understood of a card, by itself of the one in sight; only where it lies before it was looked at."""
        card = card or self.card
        return self._known.get(card, Contents(card)) if card is not None else None

    @property
    def own(self) -> bool:
        """Whether no other than the card of the day's own camera is in sight."""
        return self.card in (None, self._document.card)

    @property
    def reading_share(self) -> float | None:
        """How far the card in sight is looked at; None where that is done."""
        job = self._reading.get(self.card) if self.card is not None else None
        return job.share if job is not None else None

    @property
    def settled(self) -> bool:
        return not self._reading

    def look(self) -> None:
        """Offers what is plugged in; what is gone is no longer offered."""
        own = self._document.card
        found = [(own, _OWN)] if own.is_dir() else []
        found += [(drive.root, drive.words) for drive in drives()]
        found += [(folder, folder.name) for folder in self._folders if folder not in [root for root, _ in found]]
        self.chips.set_options(found)
        self.chips.setVisible(bool(found))
        if self.card is None and found:
            self.open(found[0][0])
        elif self.card is not None and self._there != self.card.is_dir():
            what = "put back" if self.card.is_dir() else "taken out"
            self.said.emit(f"{self.card.name} was {what}; what is proven is safe")
            self.changed.emit()
        self._there = self.card is not None and self.card.is_dir()
        self.chips.show_value(self.card)

    def ask(self) -> None:
        folder = QFileDialog.getExistingDirectory(self._over, "Which card or folder?", str(Path.home()))
        if folder:
            self.open(Path(folder))

    def open(self, card: Path) -> None:
        """Has a card, disk or folder in sight: at once what files there are, and as it is understood what they are."""
        if card != self.card:
            self.card, self._there = card, card.is_dir()
            self.opened.emit()
        if card != self._document.card and card not in self._folders and card not in [d.root for d in drives()]:
            self._folders.append(card)
        self.look()
        if card not in self._known and card not in self._reading and card.is_dir():
            file = self._document.file
            self._reading[card] = self._jobs.start(
                f"Looking at {card.name}",
                lambda report, _stop: look_through(file, card, report=report),
                self._understood,
                failed=lambda error: self._not_understood(card, error),
                cancelled=lambda: self._not_understood(card, None),
            )
        self.changed.emit()

    def _understood(self, contents: Contents) -> None:
        self._reading.pop(contents.root, None)
        self._known[contents.root] = contents
        self.changed.emit()

    def _not_understood(self, card: Path, error: GlintorError | None) -> None:
        self._reading.pop(card, None)
        if error is not None:
            self._jobs.trouble.emit(error)
        self.changed.emit()

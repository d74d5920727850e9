"""Two takes side by side, turned together and at the same share of their time."""

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QVBoxLayout, QWidget

from glintor.desktop.controls import Chips, Elided, button, choice, row
from glintor.desktop.offload.grid import length_words
from glintor.desktop.offload.part_line import PartLine
from glintor.desktop.offload.viewer import VERDICTS, Looker
from glintor.offload.contents import Entry
from glintor.sphere.view import View


class _Side(QWidget):
    """One of the two: which, its picture, its time, its verdict."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.which = choice(f"Take on the {name}")
        self.looker, self.line, self.words = Looker(f"Take on the {name}", (300, 170)), PartLine(), Elided("", "soft")
        self.verdict = Chips("", VERDICTS)
        self.entry: Entry | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.which)
        column.addWidget(self.looker, 1)
        column.addWidget(self.line)
        column.addLayout(row(self.verdict, self.words, stretch=False))
        self.looker.moved.connect(self.line.show_now)

    def show_entry(self, entry: Entry, view: View) -> None:
        self.entry, take = entry, entry.take
        assert take is not None, "only takes are compared"
        length = take.duration_s if take.kind in ("film", "lapse") else 0.0
        self.line.show_take(length, take.part_s, take.marks_s)
        self.verdict.show_value(take.verdict)
        self.words.show_words(" · ".join(filter(None, [length_words(entry.length_s), "★" * take.rating])))
        self.looker.words = lambda at: f"{at:.1f} of {length:.1f} s" if length else ""
        self.looker.open_entry(entry, view)


class CompareWindow(QDialog):
    """`judged` says which entry is to be kept, perhaps kept, or dropped."""

    judged = pyqtSignal(str, str)

    def __init__(self, entries: Sequence[Entry], left: Entry, right: Entry, view: View, over: QWidget) -> None:
        super().__init__(over)
        self.setWindowTitle("Two takes side by side")
        self.resize(1180, 520)
        self._entries = [entry for entry in entries if entry.take is not None and entry.files]
        self.left, self.right = _Side("left"), _Side("right")
        sides = QHBoxLayout()
        sides.setSpacing(14)
        for side, entry in ((self.left, left), (self.right, right)):
            sides.addWidget(side, 1)
            side.which.addItems([one.name for one in self._entries])
            side.which.setCurrentIndex(next(n for n, one in enumerate(self._entries) if one.key == entry.key))
            side.show_entry(entry, view)
            side.which.activated.connect(lambda at, s=side: s.show_entry(self._entries[at], s.looker.view))
            side.verdict.chosen.connect(lambda verdict, s=side: self.judged.emit(s.entry.key, verdict))
        for one, other in ((self.left, self.right), (self.right, self.left)):
            one.looker.turned.connect(other.looker.see)
            one.line.sought.connect(lambda at, a=one, b=other: self._seek(a, b, at))
        page = QVBoxLayout(self)
        page.addLayout(sides, 1)
        self.play = button("Play both", self.play_both, tip="From where they stand, or stop")
        page.addLayout(row(self.play, None, button("Done", self.accept), stretch=False))

    def _seek(self, one: _Side, other: _Side, at_s: float) -> None:
        """The other goes along by as many seconds."""
        by = at_s - one.looker.now_s
        one.looker.seek(at_s)
        other.looker.seek(other.looker.now_s + by)

    def play_both(self) -> None:
        playing = self.left.looker.playing or self.right.looker.playing
        for side in (self.left, self.right):
            side.looker.stop() if playing else side.looker.play()

    def done(self, result: int) -> None:
        for side in (self.left, self.right):
            side.looker.close_down()
        super().done(result)

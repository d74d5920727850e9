"""The row of controls for ready moves."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from glintor.desktop.controls import Elided, Number, button, choice
from glintor.reframing.cut import Move
from glintor.reframing.moves import KINDS

_SIDES = ((1, "to the right"), (-1, "to the left"))
_LONGEST_S = 36000.0


class MoveBar(QWidget):
    """Says which move is wanted, and how."""

    wanted = pyqtSignal(str)  # a kind
    changed = pyqtSignal(str, object)  # a field of the move, and its value
    lasting = pyqtSignal(float)  # so long from its beginning on
    dissolve_asked = pyqtSignal()
    remove_asked = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.kinds = choice("Ready move", [("", "Make a move…"), *((kind, how.words) for kind, how in KINDS.items())])
        self.kinds.setToolTip("Over the marked part, else from here on")
        self.amount = Number("turns", "", 0.0, 999.0, 1.0, 1, bare=True)
        self.lasts = Number("lasts", " s", 0.2, _LONGEST_S, 0.5, 1, bare=True)
        for number in (self.amount, self.lasts):
            number.box.setMinimumWidth(56)
            number.box.setMaximumWidth(70)
        self.way = choice("Which way", _SIDES)
        self.longer = button("", self._longer, tip="So that things in it can be seen")
        self.dissolve = button("Dissolve", self.dissolve_asked.emit, tip="Into plain keyframes, each for itself")
        self.remove = button("Remove", self.remove_asked.emit, tip="The move and its keyframes")
        self.words = Elided("", "soft")
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(7)
        self._how = (self.amount, self.way, self.lasts, self.longer, self.dissolve, self.remove)
        for thing in (self.kinds, *self._how):
            line.addWidget(thing)
        line.addWidget(self.words, 1)
        self._wants_s = 0.0
        self.kinds.activated.connect(self._chosen)
        self.amount.edited.connect(lambda v: self.changed.emit("amount", v))
        self.way.activated.connect(lambda at: self.changed.emit("way", self.way.itemData(at)))
        self.lasts.edited.connect(self.lasting)
        self.show_move(None, None)

    def _chosen(self, at: int) -> None:
        kind = str(self.kinds.itemData(at))
        if kind:
            self.wanted.emit(kind)

    def _longer(self) -> None:
        self.lasting.emit(self._wants_s)

    def show_move(self, move: Move | None, wants_s: float | None) -> None:
        """The move at hand, and how long it wants to be."""
        for thing in self._how:
            thing.setVisible(move is not None)
        self.kinds.setCurrentIndex(0 if move is None else self.kinds.findData(move.kind))
        if move is None:
            self.words.show_words("Over the marked part, else from here on; it can be changed until it is dissolved")
            return
        how = KINDS[move.kind]
        self.amount.name.setText(how.amount)
        self.amount.show_limits(how.least, how.most, how.unit)
        self.amount.show_value(move.amount)
        self.way.setVisible(how.sided)
        self.way.setCurrentIndex(self.way.findData(move.way))
        self.lasts.show_value(move.end_s - move.start_s)
        self._wants_s = wants_s or 0.0
        self.longer.setVisible(wants_s is not None)
        self.longer.setText(f"Give it {self._wants_s:.1f} s")
        self.words.show_words(how.tip)

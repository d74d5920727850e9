"""The row of controls for a keyframe: when, how long until the next, how it is come to and left, which way round."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QWidget

from glintor.desktop.controls import Elided, Number, choice
from glintor.reframing.arranging import stage_after
from glintor.reframing.cut import Cut

_COMES = (("flow", "comes in flow"), ("soft", "comes softly"), ("even", "comes evenly"))
_GOES = (("flow", "goes in flow"), ("soft", "goes softly"), ("even", "goes evenly"))
_WAYS = (("level", "level"), ("great", "great circle"), ("over", "over the top"))
_ROUND = (
    ("", "which way round"),
    ("short", "the short way"),
    ("long", "the long way"),
    ("more", "one turn more"),
    ("less", "one turn less"),
)
_LONGEST_S = 36000.0


class KeyBar(QWidget):
    """Says what the hand wants of the keyframe at hand."""

    time_typed = pyqtSignal(float)
    length_typed = pyqtSignal(float)
    ease_chosen = pyqtSignal(str, object)  # which of it, and how
    round_chosen = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.when = Number("At", " s", 0.0, _LONGEST_S, 0.1, 2, bare=True)
        self.lasts = Number("then", " s", 0.0, _LONGEST_S, 0.1, 2, bare=True)
        for number in (self.when, self.lasts):
            number.box.setMinimumWidth(62)
            number.box.setMaximumWidth(76)
        self.arrives, self.leaves = choice("How it is come to", _COMES), choice("How it is left", _GOES)
        self.way, self.round = choice("Way to it", _WAYS), choice("Which way round", _ROUND)
        self.back = QCheckBox("Draws back")
        self.back.setToolTip("Pan and zoom go together on the way to it, wider in between, as smoothly as can be seen")
        self.arrives.setToolTip("How it is come to: in the flow of its neighbours, softly to rest, or evenly")
        self.leaves.setToolTip("How it is left")
        self.way.setToolTip("The way from the keyframe before")
        self.words = Elided("", "soft")
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(7)
        for thing in (self.when, self.lasts, self.arrives, self.leaves, self.way, self.back, self.round):
            line.addWidget(thing)
        line.addWidget(self.words, 1)
        self.when.edited.connect(self.time_typed)
        self.lasts.edited.connect(self.length_typed)
        for name, box in (("arrives", self.arrives), ("leaves", self.leaves), ("way", self.way)):
            box.activated.connect(lambda at, name=name, box=box: self.ease_chosen.emit(name, box.itemData(at)))
        self.back.clicked.connect(lambda on: self.ease_chosen.emit("draws_back", on))
        self.round.activated.connect(self._go_round)

    def _go_round(self, at: int) -> None:
        how = str(self.round.itemData(at))
        self.round.setCurrentIndex(0)
        if how:
            self.round_chosen.emit(how)

    def show_key(self, cut: Cut | None, number: int, part: tuple[float, float] | None) -> None:
        """The keyframe at hand, and how long what follows it lasts; of a marked part how long that is."""
        self.setEnabled(cut is not None)
        if cut is None:
            return
        number = min(number, len(cut.keys) - 1)
        key = cut.keys[number]
        stage = stage_after(cut.keys, number)
        self.when.show_value(key.time_s)
        self.lasts.setEnabled(part is not None or stage is not None)
        length = part[1] - part[0] if part is not None else stage.end_s - stage.start_s if stage is not None else 0.0
        self.lasts.show_value(length)
        self.lasts.name.setText(
            "part" if part is not None else "" if stage is None else "hold" if stage.holds else "move"
        )
        for box, value in ((self.arrives, key.arrives), (self.leaves, key.leaves), (self.way, key.way)):
            box.setCurrentIndex(box.findData(value))
        self.back.setChecked(key.draws_back)
        self.round.setEnabled(number > 0)
        self.words.show_words(f"{number + 1} of {len(cut.keys)}")

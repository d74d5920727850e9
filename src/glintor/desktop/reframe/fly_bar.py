"""The row of controls for flying: how fast the take plays, and how what was flown becomes a path."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QWidget

from glintor.desktop.controls import Chips, Elided, Number, button

SPEEDS = ((0.25, "¼"), (0.5, "½"), (1.0, "×1"), (2.0, "×2"))


class FlyBar(QWidget):
    """Says how it is flown and how what was flown is smoothed."""

    fly_asked = pyqtSignal()
    smoothing_changed = pyqtSignal()
    raw_wanted = pyqtSignal(bool)  # what was flown is shown as it was flown

    def __init__(self) -> None:
        super().__init__()
        self.begin = button("Begin", self.fly_asked.emit, main=True, tip="Fly from here, or end it (Y)")
        self.speeds = Chips("plays at", SPEEDS)
        self.speeds.show_value(1.0)
        self.speed = 1.0
        self.zoom_alone = QCheckBox("Zoom alone")
        self.zoom_alone.setToolTip("The view goes where the path goes, on what it is held on; the hand leads its width")
        self.calm = Number("calm", " s", 0.0, 3.0, 0.1, 1, bare=True)
        self.within = Number("within", "°", 0.1, 10.0, 0.1, 1, bare=True)
        self.calm.show_value(0.5)
        self.within.show_value(1.0)
        self.calm.setToolTip("Over how long the hand's tremor is smoothed, before and after alike: nothing comes late")
        self.within.setToolTip("How far the keyframes may be off what was flown; more makes fewer")
        self.raw = QCheckBox("As flown")
        self.raw.setToolTip("Shows and plays what was flown, without smoothing")
        self.words = Elided("", "soft")
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(7)
        for thing in (self.begin, self.speeds, self.zoom_alone, self.calm, self.within, self.raw):
            line.addWidget(thing)
        line.addWidget(self.words, 1)
        self.speeds.chosen.connect(self._choose_speed)
        for number in (self.calm, self.within):
            number.edited.connect(lambda _v: self.smoothing_changed.emit())
        self.raw.clicked.connect(self.raw_wanted)
        self.show_flown(None)

    def _choose_speed(self, speed: float) -> None:
        self.speed = speed

    def show_flying(self, flying: bool) -> None:
        self.begin.setText("End" if flying else "Begin")
        for thing in (self.speeds, self.zoom_alone):
            thing.setEnabled(not flying)
        if flying:
            self.words.show_words(
                "Lead with pointer or arrow keys; + and - zoom, Page keys roll; Space ends, Escape forgets it"
            )

    def show_flown(self, words: str | None) -> None:
        """What became of the flight; None where nothing was flown here."""
        for thing in (self.calm, self.within, self.raw):
            thing.setEnabled(words is not None)
        if words is None:
            self.raw.setChecked(False)
        self.words.show_words(words or "The pointer's way from the middle leads the view while the take plays")

"""The row of controls for what the view is held on, and how."""

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QWidget

from glintor.desktop.controls import Elided, Number, choice, offer
from glintor.reframing.anchor import Anchor


class HoldBar(QWidget):
    """Says what the view is to be held on from the keyframe at hand on, and how."""

    wanted = pyqtSignal(object)  # (on, subjects), or None for nothing
    changed = pyqtSignal(str, object)  # a field of the anchor, and its value

    def __init__(self) -> None:
        super().__init__()
        self.on = choice("View held on", letters=13)
        self.on.setToolTip("From the keyframe at hand on, until the view is held on something else")
        self.right = Number("right", " %", -50.0, 50.0, 1.0, 0, bare=True)
        self.up = Number("up", " %", -50.0, 50.0, 1.0, 0, bare=True)
        self.lead = Number("lead", " %", 0.0, 40.0, 1.0, 0, bare=True)
        self.dead = Number("rests in", "°", 0.0, 60.0, 1.0, 0, bare=True)
        self.calm = Number("calm", " s", 0.0, 5.0, 0.1, 1, bare=True)
        self.bearing = Number("bearing", "°", 0.0, 360.0, 1.0, 0, bare=True)
        self.width_too = QCheckBox("Width too")
        tips = {
            self.right: "Where in the frame it is wanted, in hundredths of its width right of the middle; 17 is a third",
            self.up: "The same over the middle, in hundredths of its height",
            self.lead: "How far the frame runs ahead of what crosses it",
            self.dead: "How far it may move before the view goes with it",
            self.calm: "Over how long its motion is smoothed, before and after alike: nothing comes late",
            self.bearing: "Clockwise from north",
            self.width_too: "The frame's width goes with its size, or with how far two are apart",
        }
        for thing, words in tips.items():
            thing.setToolTip(words)
        self.words = Elided("", "soft")
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(7)
        self._how: tuple[QWidget, ...] = (
            self.bearing,
            self.right,
            self.up,
            self.lead,
            self.dead,
            self.calm,
            self.width_too,
        )
        for part in (self.on, *self._how):
            line.addWidget(part)
        line.addWidget(self.words, 1)
        self._place = (0.0, 0.0)
        self.on.activated.connect(lambda at: self.wanted.emit(self.on.itemData(at)))
        self.right.edited.connect(lambda v: self.changed.emit("place", (v / 100.0, self._place[1])))
        self.up.edited.connect(lambda v: self.changed.emit("place", (self._place[0], v / 100.0)))
        self.lead.edited.connect(lambda v: self.changed.emit("lead", v / 100.0))
        self.dead.edited.connect(lambda v: self.changed.emit("dead_deg", v))
        self.calm.edited.connect(lambda v: self.changed.emit("smooth_s", v))
        self.bearing.edited.connect(lambda v: self.changed.emit("bearing_deg", v))
        self.width_too.clicked.connect(lambda on: self.changed.emit("width", on))

    def show_hold(self, anchor: Anchor | None, offers: Sequence[tuple[object, str]], missing: Sequence[str]) -> None:
        """What the keyframe at hand is held on, what else it could be, and what of it nobody knows."""
        if [(self.on.itemData(n), self.on.itemText(n)) for n in range(self.on.count())] != list(offers):
            offer(self.on, offers)
        now = None if anchor is None else (anchor.on, anchor.subjects)
        self.on.setCurrentIndex(next((n for n, (value, _) in enumerate(offers) if value == now), 0))
        for thing in self._how:
            thing.setVisible(anchor is not None)
        if anchor is None:
            self.words.show_words(missing[0] if missing else "The view stays where its keyframes point")
            return
        self._place = anchor.place
        self.bearing.setVisible(anchor.on == "compass")
        self.lead.setVisible(anchor.on in ("subject", "pair", "point"))
        self.width_too.setVisible(anchor.on in ("subject", "pair"))
        for number, value in (
            (self.right, anchor.place[0] * 100),
            (self.up, anchor.place[1] * 100),
            (self.lead, anchor.lead * 100),
            (self.dead, anchor.dead_deg),
            (self.calm, anchor.smooth_s),
            (self.bearing, anchor.bearing_deg),
        ):
            number.show_value(value)
        self.width_too.setChecked(anchor.width)
        self.words.show_words(missing[0] if missing else "Keyframes are told from it")

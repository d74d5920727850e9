"""The row of controls for two or three views in one picture."""

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from glintor.desktop.controls import Elided, Number, choice, offer
from glintor.reframing.beside import Beside

_KINDS = (("", "one view"), ("inset", "an inset"), ("side", "side by side"), ("bands", "three bands"))
_CORNERS = tuple((corner, corner) for corner in ("lower right", "lower left", "upper right", "upper left"))


class BesideBar(QWidget):
    """Says what else the picture shows. Views are other cuts of the take; "" makes a new one that looks the other way."""

    kind_chosen = pyqtSignal(str)
    view_chosen = pyqtSignal(int, str)  # which of the others, and a cut
    changed = pyqtSignal(str, object)

    def __init__(self) -> None:
        super().__init__()
        self.kinds = choice("The picture shows", _KINDS)
        self.views = [choice("Second view", letters=10), choice("Third view", letters=10)]
        self.corner = choice("Corner of the inset", _CORNERS)
        self.share = Number("wide", " %", 10.0, 50.0, 1.0, 0, bare=True)
        self.words = Elided("", "soft")
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(7)
        for thing in (self.kinds, *self.views, self.corner, self.share):
            line.addWidget(thing)
        line.addWidget(self.words, 1)
        self.kinds.activated.connect(lambda at: self.kind_chosen.emit(str(self.kinds.itemData(at))))
        for number, box in enumerate(self.views):
            box.activated.connect(lambda at, n=number, b=box: self.view_chosen.emit(n, str(b.itemData(at))))
        self.corner.activated.connect(lambda at: self.changed.emit("corner", self.corner.itemData(at)))
        self.share.edited.connect(lambda v: self.changed.emit("share", v / 100.0))

    def show_beside(self, beside: Beside | None, cuts: Sequence[tuple[str, str]]) -> None:
        """What the cut at hand shows besides its own view; cuts: others of its take, by id and name."""
        self.kinds.setCurrentIndex(self.kinds.findData("" if beside is None else beside.kind))
        count = 0 if beside is None else len(beside.cuts)
        for number, box in enumerate(self.views):
            box.setVisible(number < count)
            if number < count and beside is not None:
                offer(box, [*cuts, ("", "new view")])
                box.setCurrentIndex(box.findData(beside.cuts[number]))
        inset = beside is not None and beside.kind == "inset"
        self.corner.setVisible(inset)
        self.share.setVisible(inset)
        if beside is None:
            self.words.show_words("Two or three views of the same moment, each with a course of its own")
            return
        self.corner.setCurrentIndex(self.corner.findData(beside.corner))
        self.share.show_value(beside.share * 100.0)
        self.words.show_words("Choose a view's cut above to change its course")

"""The first start: three ways in. What is dropped on it is taken in at once."""

from collections.abc import Callable, Sequence
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from glintor.desktop import incoming
from glintor.desktop.controls import button, label
from glintor.desktop.telling import Teller
from glintor.errors import GlintorError

_WAYS = (
    (
        "Own recordings…",
        "Films and photos of a 360 camera: look round in them, cut flat films out of them. They stay where they lie.",
    ),
    ("Plan a day…", "Say where and when; place the camera, see the sun, seam and picture before you leave home."),
    ("Look at the demo day", "An invented day on a canal, with everything filled in."),
)


class Welcome(QWidget):
    """Asks what to begin with; each answer is given to what opens a window, and this one goes when that is there."""

    def __init__(
        self, recordings: Callable[[Sequence[Path]], object], plan: Callable[[], None], demo: Callable[[], None]
    ) -> None:
        super().__init__()
        self.setObjectName("page")
        self.setWindowTitle("Glintor")
        self.setAcceptDrops(True)
        self.resize(640, 460)
        self._recordings = recordings
        column = QVBoxLayout(self)
        column.setContentsMargins(64, 40, 64, 40)
        column.setSpacing(6)
        column.addWidget(label("What do you want to begin with?", "head"))
        column.addSpacing(14)
        self.ways = [
            button(words, act, main=number == 0)
            for number, ((words, _), act) in enumerate(zip(_WAYS, (self._ask, plan, demo), strict=True))
        ]
        for way, (_, what) in zip(self.ways, _WAYS, strict=True):
            column.addWidget(way, 0, Qt.AlignmentFlag.AlignLeft)
            told = label(what, "soft")
            told.setWordWrap(True)
            column.addWidget(told)
            column.addSpacing(16)
        column.addStretch(1)
        column.addWidget(label("Files and folders can also be dropped here.", "soft"))

    def tell(self, error: GlintorError) -> None:
        """Shows what went wrong."""
        Teller(self).tell(error)

    def _ask(self) -> None:
        self._begin(incoming.ask_recordings(self))

    def _begin(self, places: Sequence[Path]) -> None:
        if places:
            self._recordings(places)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        incoming.accept(event)

    def dropEvent(self, event: QDropEvent | None) -> None:
        self._begin(incoming.dropped(event))

"""The findings of the cut at hand: at once for a short path, a moment after the hand rests for a long one."""

from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from glintor.desktop.document import Document
from glintor.desktop.reframe.hand import Hand
from glintor.desktop.reframe.known import Known
from glintor.finding import Finding
from glintor.project.take import Take
from glintor.reframing.cut import Cut
from glintor.review import reframing

_AT_ONCE, _REST_MS = 60, 120  # keyframes up to which a hand does not feel it; how long it rests


class Reviewing(QObject):
    """`found` says that what was found of a long path is known."""

    found = pyqtSignal()

    def __init__(self, document: Document, hand: Hand, known: Known) -> None:
        super().__init__()
        self._document, self._hand, self._known = document, hand, known
        self.findings: list[Finding] = []
        self._of: object = None
        self._late: Callable[[], list[Finding]] | None = None
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(_REST_MS)
        self._timer.timeout.connect(self._look)

    @property
    def waiting(self) -> bool:
        return self._timer.isActive()

    def forget(self) -> None:
        """Nothing is shown of which anything could be found."""
        self._timer.stop()
        self.findings, self._of = [], None

    def review(self, cut: Cut, take: Take) -> list[Finding]:
        """What is found of a cut; of a long one what was found before, until it is known."""
        hand, known = self._hand, self._known
        key = (cut, take, hand.shape, known.targets, known.track)
        if key == self._of:
            return self.findings
        self._of = key
        project, shot, shape = self._document.project, self._document.shot, hand.shape
        self._late = lambda: reframing(
            project, shot, cut, known.track, shape.name, shape.size_px, known.targets, known.missing
        )
        if len(cut.keys) <= _AT_ONCE:
            self._timer.stop()
            self.findings = self._late()
        else:
            self._timer.start()
        return self.findings

    def _look(self) -> None:
        if self._late is not None:
            self.findings = self._late()
            self.found.emit()

"""A border between two parts that a hand moves, and that stands there again the next time."""

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QSplitter

from glintor.desktop.settings import keep_settings, read_settings

_REST_MS = 400  # after which a border that was moved is kept


class Split(QSplitter):
    """Two parts; `usual` are their sizes until a hand moves the border, `by_hand` says whether one ever did."""

    def __init__(self, name: str, way: Qt.Orientation, usual: tuple[int, int], *, grows: int = 0) -> None:
        """grows: which part takes more where the window does."""
        super().__init__(way)
        self.name, self._usual, self._grows = name, usual, grows
        self.setAccessibleName(f"Border: {name}")
        self.setChildrenCollapsible(False)
        self.by_hand = False
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self.keep)
        self.splitterMoved.connect(lambda _at, _index: self._rest.start())

    def settle(self) -> None:
        """Puts the border where it was left, once the parts are in."""
        kept = read_settings().splits.get(self.name, ())
        self.by_hand = len(kept) == self.count() and min(kept) > 0
        for at in range(self.count()):
            self.setStretchFactor(at, 1 if at == self._grows else 0)
        self.setSizes(list(kept if self.by_hand else self._usual))

    def keep(self) -> None:
        """Remembers where the border stands."""
        self._rest.stop()
        self.by_hand = True
        keep_settings(splits={**read_settings().splits, self.name: tuple(self.sizes())})

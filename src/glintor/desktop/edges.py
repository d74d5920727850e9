"""The three edges of the window fold: the day strip, the shots and the findings. Which are open is kept desk by desk."""

from typing import Literal

from PyQt6.QtCore import QObject, pyqtSignal

from glintor.desktop.settings import keep_settings, read_settings

Edge = Literal["day", "shots", "findings"]
EDGES: tuple[Edge, ...] = ("day", "shots", "findings")
_OPEN = {"place": EDGES, "expose": EDGES, "record": ()}  # by themselves; later desks judge pictures


class Edges(QObject):
    """Knows which edges are open on the desk in sight; `changed` after a hand changed one."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._desk = "place"
        self._chosen = {desk: dict(edges) for desk, edges in read_settings().open_edges.items()}

    def is_open(self, edge: Edge) -> bool:
        return self._chosen.get(self._desk, {}).get(edge, edge in _OPEN.get(self._desk, ()))

    def show_desk(self, desk: str) -> None:
        """Another desk is in sight."""
        self._desk = desk

    def turn(self, edge: Edge) -> None:
        """Opens an edge, or folds it."""
        self._set({edge: not self.is_open(edge)})

    def turn_all(self) -> None:
        """Folds all three; opens them where all are folded."""
        some = any(self.is_open(edge) for edge in EDGES)
        self._set(dict.fromkeys(EDGES, not some))

    def _set(self, wanted: dict[Edge, bool]) -> None:
        self._chosen.setdefault(self._desk, {}).update({str(edge): there for edge, there in wanted.items()})
        keep_settings(open_edges=self._chosen)
        self.changed.emit()

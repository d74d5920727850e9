"""Looking through: all takes one after the other, a few seconds each, one key each; and two of them side by side."""

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QWidget

from glintor.desktop.controls import button
from glintor.desktop.offload.grid import Grid
from glintor.desktop.offload.viewer import PLAYS_S, Viewer
from glintor.offload.contents import Entry
from glintor.project.pictured import moment_of


class Through(QObject):
    """Goes along a grid with a viewer. judge(entry, verdict) is what a verdict does; `said` is a word for the person."""

    said = pyqtSignal(str)

    def __init__(self, grid: Grid, viewer: Viewer, judge: Callable[[Entry | None, str], object]) -> None:
        super().__init__()
        self._grid, self._viewer, self._judge = grid, viewer, judge
        self.goes_on = False
        self.entry: Entry | None = None  # in sight
        self.button = button("Look through", self.turn, tip="All of them, a few seconds each, one key each (L)")
        viewer.looker.played_out.connect(self._once_more)

    def turn(self) -> None:
        """Begins, or ends."""
        self.goes_on = not self.goes_on
        self.button.setText("Enough" if self.goes_on else "Look through")
        if not self.goes_on:
            self._viewer.looker.stop()
            self.said.emit("")
            return
        if self.entry is None or self.entry.take is None:
            self._grid.step(1)
        self._play()

    def end(self) -> None:
        if self.goes_on:
            self.turn()

    def skip(self) -> None:
        """The next one, without a word about this one."""
        if self._grid.step(1) and self.entry is not None and self.entry.take is not None:
            if self.goes_on:
                self._play()
        elif self.goes_on:
            self.turn()
            self.said.emit("Everything was looked through")

    def _play(self) -> None:
        takes = [e for e in self._grid.entries.shown if e.take is not None]
        at = next((n for n, e in enumerate(takes, 1) if self.entry is not None and e.key == self.entry.key), 0)
        self.said.emit(f"Looking through, {at} of {len(takes)}: K keep, O maybe, X drop, N skips, L ends")
        self._viewer.looker.play(PLAYS_S)

    def _once_more(self) -> None:
        """Until a key says what becomes of it, it is seen from its next side."""
        if self.goes_on and self.entry is not None and self.entry.take is not None:
            self._viewer.looker.seek(moment_of(self.entry.take))
            self._viewer.next_look()
            self._viewer.looker.play(PLAYS_S)

    def compare(self, over: QWidget) -> None:
        """Two takes side by side: those that are selected, else the one in sight and its neighbour."""
        from glintor.desktop.offload.compare import CompareWindow

        takes = [e for e in self._grid.entries.shown if e.take is not None and e.files]
        two = [e for e in self._grid.chosen() if e.take is not None and e.files][:2]
        if len(two) == 1:
            at = takes.index(two[0])
            two += takes[at + 1 : at + 2] or takes[max(at - 1, 0) : at]
        if len(two) < 2:
            self.said.emit("There are no two takes to compare")
            return
        self._viewer.looker.stop()
        sheet = CompareWindow(takes, two[0], two[1], self._viewer.looker.view, over)
        sheet.judged.connect(lambda key, verdict: self._judge(next((e for e in takes if e.key == key), None), verdict))
        sheet.show()

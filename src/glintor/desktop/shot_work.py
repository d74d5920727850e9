"""What is done to shots: begun, doubled, renamed, moved in the list and in the day, removed."""

from collections.abc import Callable

from msgspec.structs import replace
from PyQt6.QtWidgets import QInputDialog, QWidget

from glintor.desktop.document import Document
from glintor.project.fresh import next_shot
from glintor.project.model import Shot, fresh_id

_LAST_MIN = 1435.0


class ShotWork:
    """Edits of the shots of a document, each one undo step."""

    def __init__(self, document: Document, over: QWidget, say: Callable[[str], None]) -> None:
        self._document, self._over, self._say = document, over, say

    def move(self, shot_id: str, minute: float) -> None:
        """Puts a shot to another time of day; moves that follow each other are one step."""
        project = self._document.project.with_shot(
            shot_id, lambda s: replace(s, start_min=min(max(minute, 0.0), _LAST_MIN))
        )
        self._document.edit("Move the shot in time", project, ("drag-shot", shot_id))

    def new(self) -> None:
        """A new shot after the one at hand."""
        self._insert("New shot", next_shot(self._document.shot, self._document.project.shots))

    def double(self) -> None:
        """The shot at hand again, later, without its takes."""
        shot, shots = self._document.shot, self._document.project.shots
        new = replace(
            shot,
            id=fresh_id("shot", {s.id for s in shots}),
            name=f"{shot.name}, again",
            start_min=min(shot.start_min + shot.length_min, 1430),
            takes=(),
            cuts=(),
        )
        self._insert("Duplicate shot", new)

    def plan(self) -> None:
        """Begins a plan for a shot that has none."""
        self._document.edit_shot("Plan this shot", lambda s: replace(s, planned=True))

    def rename(self) -> None:
        shot = self._document.shot
        name, given = QInputDialog.getText(self._over, "Rename shot", "Name", text=shot.name)
        if given and name.strip():
            self._document.edit_shot("Rename shot", lambda s: replace(s, name=name.strip()))

    def shift(self, way: int) -> None:
        """One place up (-1) or down (1) in the list."""
        shots = list(self._document.project.shots)
        at = shots.index(self._document.shot)
        if 0 <= at + way < len(shots):
            shots[at], shots[at + way] = shots[at + way], shots[at]
            self._edit("Move shot", tuple(shots))

    def delete(self) -> None:
        shots = self._document.project.shots
        if len(shots) == 1:
            self._say("A day needs one shot; this is the last")
            return
        at = shots.index(self._document.shot)
        left = (*shots[:at], *shots[at + 1 :])
        self._edit("Remove shot", left, left[min(at, len(left) - 1)].id)

    def _insert(self, words: str, new: Shot) -> None:
        shots = self._document.project.shots
        at = shots.index(self._document.shot) + 1
        self._edit(words, (*shots[:at], new, *shots[at:]), new.id)

    def _edit(self, words: str, shots: tuple[Shot, ...], choose: str = "") -> None:
        self._document.edit(words, replace(self._document.project, shots=shots), choose=choose)

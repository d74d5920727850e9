"""Undo and redo as a list of (label, tree): nothing is ever half changed."""

from glintor.project.model import Project

LIMIT = 500


class History:
    """States of the document. One gesture is one step: changes with the same `gesture` replace one another."""

    def __init__(self, project: Project) -> None:
        self._steps: list[tuple[str, Project]] = [("Opened", project)]
        self._at = 0
        self._gesture: object = None

    @property
    def now(self) -> Project:
        return self._steps[self._at][1]

    @property
    def undo_label(self) -> str:
        """What undo would take back, empty where there is nothing."""
        return self._steps[self._at][0] if self._at else ""

    @property
    def redo_label(self) -> str:
        return self._steps[self._at + 1][0] if self._at + 1 < len(self._steps) else ""

    @property
    def in_gesture(self) -> bool:
        return self._gesture is not None

    def push(self, label: str, project: Project, gesture: object = None) -> None:
        """Adds a state; with the same gesture as the last one it takes its place."""
        merge = gesture is not None and gesture == self._gesture and self._at > 0
        del self._steps[self._at + (0 if merge else 1) :]
        self._steps.append((label, project))
        if len(self._steps) > LIMIT:
            del self._steps[1]
        self._at, self._gesture = len(self._steps) - 1, gesture

    def end_gesture(self) -> None:
        self._gesture = None

    def amend(self, project: Project) -> None:
        """Puts a state in place of the present one, as the same step."""
        self._steps[self._at] = (self._steps[self._at][0], project)

    def undo(self) -> None:
        self._gesture = None
        self._at = max(self._at - 1, 0)

    def redo(self) -> None:
        self._gesture = None
        self._at = min(self._at + 1, len(self._steps) - 1)

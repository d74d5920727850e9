"""The document in the window: the project as it is now, how to change it, and that it is kept."""

from collections.abc import Callable
from pathlib import Path

import msgspec
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from glintor.errors import GlintorError
from glintor.project.history import History
from glintor.project.model import Cut, Project, Shot, Take, take_of
from glintor.project.store import read_project, recovered, write_journal, write_project

_JOURNAL_MS, _SAVE_MS = 150, 1500


class Document(QObject):
    """One open project. `changed` comes after every edit, `shot_chosen` when another shot is worked on."""

    gesture_ended = pyqtSignal()
    changed = pyqtSignal()
    shot_chosen = pyqtSignal()
    trouble = pyqtSignal(object)  # a GlintorError
    saved = pyqtSignal()

    def __init__(self, file: Path) -> None:
        super().__init__()
        self.file = file
        kept = recovered(file)
        self.was_recovered = kept is not None
        self._history = History(kept if kept is not None else read_project(file))
        self._shot_id = self.project.shots[0].id if self.project.shots else ""
        self._cut_ids: dict[str, str] = {}
        self._clean = read_project(file) if file.exists() else None
        self._journal = self._timer(_JOURNAL_MS, self._write_journal)
        self._save = self._timer(_SAVE_MS, self.save)
        if self.was_recovered:
            self._save.start()

    def _timer(self, after_ms: int, act: Callable[[], None]) -> QTimer:
        timer = QTimer(self)
        timer.setSingleShot(True)
        timer.setInterval(after_ms)
        timer.timeout.connect(act)
        return timer

    @property
    def project(self) -> Project:
        return self._history.now

    @property
    def shot(self) -> Shot:
        return self.project.shot(self._shot_id)

    @property
    def cut(self) -> Cut | None:
        """The cut being worked on in this shot; its first where none was chosen."""
        cuts = self.shot.cuts
        wanted = self._cut_ids.get(self._shot_id)
        return next((c for c in cuts if c.id == wanted), cuts[0] if cuts else None)

    @property
    def take(self) -> Take | None:
        """The take of the cut, or the newest one."""
        shot, cut = self.shot, self.cut
        if cut is not None:
            return take_of(shot, cut.take_id)
        return shot.takes[-1] if shot.takes else None

    @property
    def card(self) -> Path:
        return self.file.parent / "card"

    @property
    def footage(self) -> Path:
        return self.file.parent / "footage"

    def choose_shot(self, shot_id: str) -> None:
        if shot_id != self._shot_id and any(s.id == shot_id for s in self.project.shots):
            self._shot_id = shot_id
            self._history.end_gesture()
            self.shot_chosen.emit()

    def choose_cut(self, cut_id: str) -> None:
        self._cut_ids[self._shot_id] = cut_id
        self.shot_chosen.emit()

    def edit(self, label: str, project: Project, gesture: object = None) -> None:
        """Makes `project` the present state; edits of one gesture are one undo step."""
        if project == self.project:
            return
        self._history.push(label, project, gesture)
        self._after_change()

    def edit_shot(self, label: str, change: Callable[[Shot], Shot], gesture: object = None) -> None:
        self.edit(label, self.project.with_shot(self._shot_id, change), gesture)

    def edit_placement(self, label: str, gesture: object = None, **values: object) -> None:
        self._edit_part("placement", label, gesture, values)

    def edit_exposure(self, label: str, gesture: object = None, **values: object) -> None:
        self._edit_part("exposure", label, gesture, values)

    def _edit_part(self, part: str, label: str, gesture: object, values: dict[str, object]) -> None:
        replace = msgspec.structs.replace
        self.edit_shot(label, lambda s: replace(s, **{part: replace(getattr(s, part), **values)}), gesture)

    @property
    def in_gesture(self) -> bool:
        """Whether the last edit belongs to a gesture that goes on."""
        return self._history.in_gesture

    def end_gesture(self) -> None:
        self._history.end_gesture()
        self.gesture_ended.emit()

    @property
    def undo_label(self) -> str:
        return self._history.undo_label

    @property
    def redo_label(self) -> str:
        return self._history.redo_label

    def undo(self) -> None:
        self._history.undo()
        self._after_change()

    def redo(self) -> None:
        self._history.redo()
        self._after_change()

    def save(self) -> None:
        """Writes the project if it changed since it was last written."""
        self._save.stop()
        self._journal.stop()
        if self.project == self._clean:
            return
        try:
            write_project(self.file, self.project)
        except GlintorError as error:
            self.trouble.emit(error)
            return
        self._clean = self.project
        self.saved.emit()

    def _write_journal(self) -> None:
        try:
            write_journal(self.file, self.project)
        except GlintorError as error:
            self.trouble.emit(error)

    def _after_change(self) -> None:
        if not any(s.id == self._shot_id for s in self.project.shots):
            self._shot_id = self.project.shots[0].id
            self.shot_chosen.emit()
        self._journal.start()
        self._save.start()
        self.changed.emit()

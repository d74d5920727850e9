"""The document in the window: the project as it is now, how to change it, and that it is kept."""

from collections.abc import Callable
from pathlib import Path

import msgspec
from PyQt6.QtCore import QObject, pyqtSignal

from glintor.errors import GlintorError, InputError
from glintor.project.films import tied
from glintor.project.fresh import with_a_shot
from glintor.project.history import History
from glintor.project.journal import opened, taken_up
from glintor.project.keeper import Keeper, TakenOver
from glintor.project.lock import Lock
from glintor.project.model import Camera, Project, Shot, take_of
from glintor.project.take import Take
from glintor.quantities import first_absurd
from glintor.recording.logbook import with_rolling
from glintor.reframing.cut import Cut


class Document(QObject):
    """One open project. `changed` comes after every edit, `shot_chosen` when another shot is worked on.

    looking    another window writes this day: nothing can be changed here
    take_over  pushes another window aside. Raises InUse where one works on the day, ProjectError where it cannot be read
    """

    gesture_ended = pyqtSignal()
    changed = pyqtSignal()
    shot_chosen = pyqtSignal()
    trouble = pyqtSignal(object)  # a GlintorError
    refused = pyqtSignal()  # an edit while only looking
    saved = pyqtSignal()
    _kept = pyqtSignal(object)  # from the keeper's thread: what went wrong, None where it is saved

    def __init__(self, file: Path, *, look: bool = False, take_over: bool = False) -> None:
        super().__init__()
        self.file, self.looking = file, look
        self._lock = Lock(file)
        if not look:
            self._lock.acquire(take_over=take_over)
        try:
            day, self.notice = (opened(file), "") if look else taken_up(file)
        except GlintorError:
            self._lock.release()
            raise
        self.was_recovered = day.recovered
        project = with_a_shot(day.project)
        self._history = History(project)
        self._shot_id = project.shots[0].id
        self._cut_ids: dict[str, str] = {}
        self._take_ids: dict[str, str] = {}
        self._kept.connect(self._tell)
        self._keeper = Keeper(file, day.digest, self._lock, self._kept.emit)
        if self.was_recovered and not look:
            self._keeper.keep(project)

    def _tell(self, error: GlintorError | None) -> None:
        if error is None:
            self.saved.emit()
            return
        if isinstance(error, TakenOver):
            self.looking = True
        self.trouble.emit(error)

    @property
    def project(self) -> Project:
        return self._history.now

    @property
    def shot(self) -> Shot:
        return self.project.shot(self._shot_id)

    @property
    def camera(self) -> Camera:
        """What the shot at hand is filmed with."""
        return self.project.camera_of(self.shot)

    @property
    def cut(self) -> Cut | None:
        """The cut being worked on in this shot; its first where none was chosen."""
        cuts = self.shot.cuts
        taken = self._take_ids.get(self._shot_id)
        if taken is not None and any(
            t.id == taken for t in self.shot.takes
        ):  # a take is looked at: only its cuts count
            cuts = tuple(c for c in cuts if c.take_id == taken)
        wanted = self._cut_ids.get(self._shot_id)
        return next((c for c in cuts if c.id == wanted), cuts[0] if cuts else None)

    @property
    def take(self) -> Take | None:
        """The take that was chosen, else that of the cut, else the newest one."""
        shot, cut = self.shot, self.cut
        chosen = next((t for t in shot.takes if t.id == self._take_ids.get(shot.id)), None)
        if chosen is not None:
            return chosen
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
        self._take_ids.pop(self._shot_id, None)
        self.shot_chosen.emit()

    def choose_take(self, take_id: str) -> None:
        """Works on a take of the shot at hand: on its first cut, or on none where it has none yet."""
        self.look_at_take(self._shot_id, take_id)

    def look_at_take(self, shot_id: str, take_id: str) -> None:
        """Has a take be the one in sight when its shot is worked on."""
        self._take_ids[shot_id] = take_id
        if shot_id == self._shot_id:
            self.shot_chosen.emit()

    def edit(self, label: str, project: Project, gesture: object = None, *, choose: str = "") -> None:
        """Makes `project` the present state (its films without what is gone); edits of one gesture are one undo step. choose: a shot to
        work on then."""
        project = tied(project)
        if project is self.project or project == self.project:
            return
        if self._only_looks():
            return
        wrong = first_absurd(project, self.project)
        if wrong is not None:  # no chart could draw it, and no file hold it
            self.trouble.emit(InputError(f"That cannot be: {wrong}.", unharmed="Nothing was changed."))
            self.changed.emit()
            return
        self._history.push(label, project, gesture)
        self._shot_id = choose or self._shot_id
        self._after_change()

    def edit_shot(self, label: str, change: Callable[[Shot], Shot], gesture: object = None) -> None:
        self.edit(label, self.project.with_shot(self._shot_id, change), gesture)

    def edit_placement(self, label: str, gesture: object = None, **values: object) -> None:
        self._edit_part("placement", label, gesture, values)

    def edit_subject(self, label: str, gesture: object = None, number: int = 0, **values: object) -> None:
        """Changes one of the shot's subjects."""
        replace = msgspec.structs.replace
        self.edit_shot(label, lambda s: replace(s, placement=s.placement.with_subject(number, **values)), gesture)

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
        if self._only_looks():
            return
        present = self.project
        self._history.undo()
        self._history.amend(with_rolling(self.project, present))
        self._after_change()

    def redo(self) -> None:
        if self._only_looks():
            return
        present = self.project
        self._history.redo()
        self._history.amend(with_rolling(self.project, present))
        self._after_change()

    def _only_looks(self) -> bool:
        if self.looking:
            self.refused.emit()
            self.changed.emit()  # what was moved on the screen springs back
        return self.looking

    @property
    def unsaved(self) -> bool:
        """Whether something is not on disk that this window has to keep."""
        return not self.looking and self._keeper.unsaved

    def save(self) -> bool:
        """Writes the project now, waiting for the disk; whether everything is saved. What goes wrong comes by `trouble`."""
        return self.looking or self._keeper.save()

    def keep_mine(self) -> None:
        """After another program changed the file: puts that aside and writes what is here."""
        self._keeper.keep_mine()

    def save_elsewhere(self, target: Path) -> None:
        """Writes the present state to another file. Raises WriteError."""
        self._keeper.elsewhere(target)

    def let_go(self) -> None:
        """Stops writing and only looks from now on; what was not saved stays in the journal."""
        self.looking = True
        self._keeper.close()
        self._lock.release()

    def close(self) -> None:
        """Ends the work on the day: saves what can be saved, gives the right to write back."""
        self.save()
        self._keeper.close()
        self._lock.release()

    def _after_change(self) -> None:
        if not any(s.id == self._shot_id for s in self.project.shots):
            self._shot_id = self.project.shots[0].id
        self._keeper.keep(self.project)
        self.changed.emit()

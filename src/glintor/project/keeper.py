"""Keeps the newest state of a day on disk, from a thread of its own: the window never waits for the disk.

A state is in the journal at once and then at an even pace, however fast edits follow one another; it is saved when the
hand pauses, and every few seconds while it does not. What cannot be written is said once and tried again.
"""

import contextlib
import threading
import time
from collections.abc import Callable
from pathlib import Path

from glintor.errors import GlintorError
from glintor.files import WriteError, free_name, same_file
from glintor.project.journal import digest_of, journal_file, write_journal
from glintor.project.lock import Lock
from glintor.project.model import Project
from glintor.project.store import ProjectError, encode, fault_of, read_bytes, write_project

JOURNAL_S = 0.1  # between two writes of the journal
PAUSE_S, LATEST_S = 1.5, 5.0  # after the last edit, and after the first that is not saved
RETRY_S = 1.0  # after something could not be written


class Changed(GlintorError):
    """The project file was changed by something else while it was open here."""

    def __init__(self, file: Path) -> None:
        super().__init__(
            f"{file.name} was changed by another program while it was open here.",
            unharmed="It was not overwritten, and your own changes are kept beside it.",
            advice="Keep yours or take what is there; the other one is put aside.",
        )


class NotKept(GlintorError):
    """A state that could not be read back, were it written."""

    def __init__(self, file: Path, fault: str) -> None:
        super().__init__(
            f"The last change cannot be kept: {fault}.",
            unharmed=f"What {file.name} held before is on disk, and stays.",
            advice="Undo the change; the next one is kept again.",
        )


class TakenOver(GlintorError):
    """Another window has taken the day over."""

    def __init__(self, file: Path, aside: Path | None) -> None:
        kept = f"Your last changes are in {aside.name}." if aside is not None else "All your changes were handed over."
        super().__init__(f"Another window has taken {file.name} over.", unharmed=kept, advice="Here you only look now.")


Told = Callable[[GlintorError | None], None]  # what went wrong; None: it is saved


class Keeper:
    """Takes states by `keep` in the window's thread; `told` is called in the keeper's. Its thread survives whatever a state or a disk
    does: that is told, and tried again. What could not be read back is never written."""

    def __init__(self, file: Path, digest: str, lock: Lock, told: Told) -> None:
        self.file, self._lock, self._told = file, lock, told
        self._digest = digest  # of the file as this session last read or wrote it
        self._newest: Project | None = None
        self._journaled: Project | None = None
        self._saved: Project | None = None
        self._sound: Project | None = None  # the newest of which is known that it can be read back
        self._edited_at = self._unsaved_since = self._journal_at = self._save_at = 0.0
        self._asked = self._closing = self._stopped = False
        self._said: set[str] = set()  # kinds of trouble that were told and are not over
        self._changed = threading.Condition()
        self._thread: threading.Thread | None = None

    # For the window's thread
    def keep(self, project: Project) -> None:
        """Has a state kept. Returns at once."""
        with self._changed:
            now = time.monotonic()
            if not self._unsaved:
                self._unsaved_since = now
            self._newest, self._edited_at = project, now
            self._begin()

    def save(self, timeout_s: float = 20.0) -> bool:
        """Saves now and waits for it; whether everything is saved."""
        with self._changed:
            if not self._unsaved:
                return True
            if self._stopped:
                return False
            self._asked, self._save_at = True, 0.0
            self._begin()
            self._changed.wait_for(lambda: not self._asked, timeout_s)
            return not self._unsaved

    @property
    def unsaved(self) -> bool:
        with self._changed:
            return self._unsaved

    def keep_mine(self) -> None:
        """After `Changed`: what lies there is put aside and this session's state written."""
        with self._changed:
            try:
                other = free_name(self.file.with_name(f"{self.file.stem} (from elsewhere){self.file.suffix}"))
                self.file.replace(other)
            except OSError:
                pass  # it went away meanwhile: nothing to put aside
            self._digest, self._stopped = "", False
            self._said.clear()
        self.save()

    def elsewhere(self, target: Path) -> None:
        """Writes the newest state to another file, which counts from now on. Raises WriteError, NotKept."""
        with self._changed:
            project = self._newest
            assert project is not None
        self._check(project)
        write_project(target, project, make_folder=True)
        with self._changed:
            if not same_file(target, self.file):
                with contextlib.suppress(OSError):
                    journal_file(self.file).unlink(missing_ok=True)
            self._saved = project

    def close(self) -> None:
        """Ends the thread; what is not saved stays in the journal."""
        with self._changed:
            self._closing = True
            self._changed.notify_all()
        if self._thread is not None:
            self._thread.join()

    # The thread
    @property
    def _unsaved(self) -> bool:
        return self._newest is not self._saved

    def _begin(self) -> None:
        if (self._thread is None or not self._thread.is_alive()) and not self._closing:
            self._thread = threading.Thread(target=self._run, name="keeper", daemon=True)
            self._thread.start()
        self._changed.notify_all()

    def _next(self) -> tuple[Callable[[Project], None] | None, float | None]:
        """What is due now, or after how many seconds something will be; None for nothing."""
        if self._stopped or not self._unsaved:
            return None, None
        now = time.monotonic()
        save_at = max(min(self._edited_at + PAUSE_S, self._unsaved_since + LATEST_S), self._save_at)
        if self._asked or now >= save_at:
            return self._save, None
        if self._newest is self._journaled:
            return None, save_at - now
        if now >= self._journal_at:
            return self._write_journal, None
        return None, min(save_at, self._journal_at) - now

    def _run(self) -> None:
        while True:
            with self._changed:
                work, wait_s = self._next()
                while work is None and not self._closing:
                    self._asked = False
                    self._changed.notify_all()
                    self._changed.wait(wait_s)
                    work, wait_s = self._next()
                if self._closing and not self._asked:
                    return
                project = self._newest
            if work is not None and project is not None:
                try:
                    work(project)
                except Exception as error:  # nobody foresaw it: the next state is kept all the same
                    kind, again = ("save", "_save_at") if work == self._save else ("journal", "_journal_at")
                    fault = f"{self.file.name} could not be kept: {error!r}."
                    self._trouble(kind, WriteError(fault, unharmed="What was saved before is on disk."), again)

    def _write_journal(self, project: Project) -> None:
        if self._lost(project):
            return
        try:
            self._check(project)
            write_journal(self.file, project, self._digest)
        except GlintorError as error:
            self._trouble("journal", error, "_journal_at")
            return
        with self._changed:
            self._journaled, self._journal_at = project, time.monotonic() + JOURNAL_S
            self._said.discard("journal")

    def _save(self, project: Project) -> None:
        try:
            if self._lost(project):
                return
            self._check(project)
            if self._changed_by_others():
                write_journal(self.file, project, self._digest)
                self._stop(Changed(self.file))
                return
            content = encode(project)
            write_project(self.file, content)
        except GlintorError as error:
            self._trouble("save", error, "_save_at")
            return
        finally:
            with self._changed:
                self._asked = False
                self._changed.notify_all()
        with self._changed:
            self._saved, self._digest = project, digest_of(content)
            self._said.clear()
            if self._newest is not project:
                self._unsaved_since = time.monotonic()
        self._told(None)

    def _check(self, project: Project) -> None:
        """Raises NotKept where a state could not be read back."""
        fault = fault_of(project, self._sound)
        if fault is not None:
            raise NotKept(self.file, fault)
        self._sound = project

    def _changed_by_others(self) -> bool:
        try:
            return bool(self._digest) and digest_of(read_bytes(self.file)) != self._digest
        except ProjectError:
            return False  # it went away: writing it brings it back, or says what is wrong with its folder

    def _lost(self, project: Project) -> bool:
        """Whether another window has taken over; then what it could not know is put beside the day, once."""
        if not self._lock.lost:
            return False
        aside = None
        if project is not self._journaled:
            aside = free_name(self.file.with_name(f"{self.file.stem} (before it was taken over){self.file.suffix}"))
            try:
                write_project(aside, project)
            except GlintorError:
                aside = None
        self._stop(TakenOver(self.file, aside))
        return True

    def _stop(self, error: GlintorError) -> None:
        with self._changed:
            self._stopped = True
            self._changed.notify_all()
        self._told(error)

    def _trouble(self, kind: str, error: GlintorError, again: str) -> None:
        with self._changed:
            setattr(self, again, time.monotonic() + RETRY_S)
            new = not self._said
            self._said.add(kind)
        if new:
            with contextlib.suppress(RuntimeError):  # whoever listened is gone
                self._told(error)

"""Work off the window's thread: jobs with progress and cancel, and a worker that only does the newest request."""

import threading
import time
from collections.abc import Callable
from functools import partial
from typing import Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from glintor.errors import Cancelled, GlintorError
from glintor.report import in_words
from glintor.types import Report

_SECOND_PICTURE_MS = 20  # by then the findings are painted
_PAINTED_MS = 12  # what was asked to be painted is painted by then
_LEFT_MS = 1500  # that a job may take to stop; one that takes longer is left to its last step, and nobody waits for it

Work = Callable[[Report, threading.Event], Any]


class Job(QObject):
    """One piece of work. Ends with exactly one of `succeeded`, `failed`, `cancelled`, in the window's thread.

    A work that is told to stop does so at its next report, if it does not look itself. left: it did not within the time that a person
    waits; it counts as stopped, and what it still gives is dropped.
    """

    progressed = pyqtSignal(float)
    succeeded = pyqtSignal(object)
    failed = pyqtSignal(object)
    cancelled = pyqtSignal()
    ended = pyqtSignal()

    def __init__(self, title: str, work: Work) -> None:
        super().__init__()
        self.title, self.share, self.began = title, 0.0, time.monotonic()
        self.left = False
        self._stop = threading.Event()
        self._over = threading.Lock()  # held by whoever says how it ended
        self._thread = threading.Thread(target=self._run, args=(work,), name=title)
        self._told = 0.0

    def start(self) -> None:
        self._thread.start()

    def cancel(self) -> None:
        if not self._stop.is_set():
            self._stop.set()
            QTimer.singleShot(_LEFT_MS, self.leave)

    @property
    def stopping(self) -> bool:
        return self._stop.is_set()

    def leave(self) -> None:
        """Waits no longer for what was told to stop."""
        if self._over.acquire(blocking=False):
            self.left = True
            self.cancelled.emit()
            self.ended.emit()

    def wait(self, timeout_s: float | None = None) -> None:
        self._thread.join(timeout_s)

    @property
    def seconds_left(self) -> float | None:
        """An estimate from what is done so far; None while there is too little to tell."""
        passed = time.monotonic() - self.began
        return passed * (1.0 / self.share - 1.0) if self.share > 0.02 and passed > 0.5 else None

    def _report(self, share: float) -> None:
        if self._stop.is_set():
            raise Cancelled
        self.share = share
        now = time.monotonic()
        if now - self._told > 0.1 or share >= 1.0:
            self._told = now
            self.progressed.emit(share)

    def _run(self, work: Work) -> None:
        outcome: Callable[[], object]
        try:
            value = work(self._report, self._stop)
            outcome = partial(self.succeeded.emit, value)
        except Cancelled:
            outcome = self.cancelled.emit
        except Exception as error:
            outcome = partial(self.failed.emit, in_words(self.title, error))
        if self._over.acquire(blocking=False):
            outcome()
            self.ended.emit()


class Jobs(QObject):
    """All running jobs; `changed` whenever one starts, advances or ends."""

    changed = pyqtSignal()
    trouble = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.running: list[Job] = []
        self.last_words = "Ready"
        self.held_back = self.closing = False
        self._after_first: list[Callable[[], object]] = []
        self._after_second: list[Callable[[], object]] = []
        self._turns: list[Callable[[], object]] = []
        self._turn = QTimer(self)
        self._turn.setSingleShot(True)
        self._turn.setInterval(_PAINTED_MS)
        self._turn.timeout.connect(self._take_turn)

    def hold_back(self) -> None:
        """Lets what `when_seen` is given wait until `go_on`: a window that is being made comes first."""
        self.held_back = True

    def go_on(self) -> None:
        """After the first picture: does what waited for it, lets that be painted too, and then does the rest, among which
        are the threads: beside them everything would take far longer."""
        try:
            _do_all(self._after_first)
        finally:
            QTimer.singleShot(_SECOND_PICTURE_MS, self._finish)

    def _finish(self) -> None:
        try:
            _do_all(self._after_first)
            _do_all(self._after_second)
        finally:
            self.held_back = False

    def when_seen(self, work: Callable[[], object], *, longer: bool = False) -> None:
        """Does it now, or just after the first picture of a window that is being made; or, for what can wait longer,
        after the second, which has the findings. In the window's thread."""
        waiting = self._after_second if longer else self._after_first
        if not self.held_back:
            work()
        elif work not in waiting:
            waiting.append(work)

    def by_turns(self, work: Callable[[], object], *, longer: bool = False) -> None:
        """Does it in a turn of the window's thread that is its own, once, after what was asked before it: the window is
        painted and hands are heard in between, so that no gesture has to wait for all that follows from it. While a window
        is being made as `when_seen` has it."""
        if self.held_back:
            self.when_seen(work, longer=longer)
        elif work not in self._turns:
            self._turns.append(work)
            if not self._turn.isActive():
                self._turn.start()

    @property
    def turns_wait(self) -> bool:
        return bool(self._turns)

    def _take_turn(self) -> None:
        if self._turns and not self.closing:
            try:
                self._turns.pop(0)()
            finally:
                if self._turns:
                    self._turn.start()

    def start(
        self,
        title: str,
        work: Work,
        done: Callable[[Any], None] = lambda _value: None,
        *,
        failed: Callable[[GlintorError], None] | None = None,
        cancelled: Callable[[], None] = lambda: None,
    ) -> Job:
        """Starts a job; `failed` may show the error in its own place instead of the window's."""
        job = Job(title, work)
        job.progressed.connect(lambda _share: self.changed.emit())
        job.succeeded.connect(lambda value: self._end(job, f"{title}: done", lambda: done(value)))
        job.cancelled.connect(lambda: self._end(job, f"{title}: {_stopped_words(job)}", cancelled))
        job.failed.connect(
            lambda error: self._end(job, f"{title}: failed", lambda: (failed or self.trouble.emit)(error))
        )
        self.running.append(job)
        job.start()
        self.changed.emit()
        return job

    def _end(self, job: Job, words: str, then: Callable[[], Any]) -> None:
        self.last_words = words
        if job in self.running:
            self.running.remove(job)
        then()
        self.changed.emit()

    def stop_all(self) -> None:
        """Cancels everything, because the window closes, and waits for it."""
        self.closing = True
        for job in list(self.running):
            job.cancel()
        until = time.monotonic() + _LEFT_MS / 1000.0
        for job in list(self.running):
            job.wait(max(until - time.monotonic(), 0.0))
            job.leave()


def _stopped_words(job: Job) -> str:
    return "stopped; its last step ends by itself" if job.left else "stopped, nothing half written is left"


def _do_all(works: list[Callable[[], object]]) -> None:
    while works:
        works.pop(0)()


class Newest(QObject):
    """A thread that always does the newest request and drops the ones before it."""

    finished = pyqtSignal(object, object)  # key, value
    failed = pyqtSignal(object)
    _told = pyqtSignal()  # comes after every slot of the answer

    def __init__(self, name: str, trouble: Callable[[object], object] | None = None) -> None:
        super().__init__()
        if trouble is not None:
            self.failed.connect(trouble)
        self._wanted: tuple[object, Callable[[], Any]] | None = None
        self._begin_at = 0.0
        self._changed = threading.Condition()
        self._closing = False
        self._busy = False
        self._on_the_way = 0  # answers given that the window's thread has not seen yet
        self._told.connect(self._arrived)
        self._thread = threading.Thread(target=self._run, name=name, daemon=True)

    @property
    def idle(self) -> bool:
        """Whether the newest request is answered and its answer has been seen."""
        with self._changed:
            return not self._busy and self._wanted is None and not self._on_the_way

    @property
    def begun(self) -> bool:
        """Whether its thread was ever needed."""
        return self._thread.ident is not None

    def _arrived(self) -> None:
        with self._changed:
            self._on_the_way -= 1

    def ask(self, key: object, work: Callable[[], Any], *, pause_s: float = 0.0) -> None:
        """pause_s: how long the thread lets the window's own go first, which then need not share the interpreter."""
        with self._changed:
            self._wanted, self._begin_at = (key, work), time.monotonic() + pause_s
            self._changed.notify()
        if self._thread.ident is None:
            self._thread.start()

    def close(self) -> None:
        with self._changed:
            self._closing = True
            self._wanted = None
            self._changed.notify()
        if self._thread.ident is not None:
            self._thread.join()

    def _run(self) -> None:
        while True:
            with self._changed:
                self._busy = False
                self._changed.wait_for(lambda: self._wanted is not None or self._closing)
                while not self._closing and (early_s := self._begin_at - time.monotonic()) > 0.0:
                    self._changed.wait(early_s)
                if self._closing or self._wanted is None:
                    return
                key, work = self._wanted
                self._wanted, self._busy = None, True
            try:
                value = work()
            except Exception as error:
                self._tell(self.failed, in_words(self._thread.name.capitalize(), error))
            else:
                self._tell(self.finished, key, value)

    def _tell(self, signal: Any, *values: object) -> None:
        with self._changed:
            if self._closing:
                return
            self._on_the_way += 1
        signal.emit(*values)
        self._told.emit()

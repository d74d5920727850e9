"""A camera that is held on the link: asked again and again how it is, told what to do; lost and found without a hand."""

import queue
import threading
import time
from collections.abc import Callable

from msgspec import Struct

from glintor.errors import GlintorError
from glintor.recording.link import CardFile, Options, State
from glintor.recording.settings import Difference, asked, differences
from glintor.recording.web_camera import WebCamera
from glintor.recording.wire import Lost
from glintor.report import in_words

ASK_EVERY_S, TRY_EVERY_S = 1.5, 2.0


class Seen(Struct, frozen=True):
    """What is known of a camera.

    state        as it said last, None before it said anything; lost_at: when it stopped answering (time.monotonic), None while it does
    differs      what it is set to otherwise than as planned, or does not tell; None before it was asked
    rolling_s    how long it has been rolling as far as is known, None where it is not
    """

    name: str = ""
    state: State | None = None
    lost_at: float | None = None
    differs: tuple[Difference, ...] | None = None
    rolling_s: float | None = None

    @property
    def lost(self) -> bool:
        return self.lost_at is not None

    @property
    def words(self) -> str:
        """How it is, in a line."""
        if self.state is None:
            return "does not answer yet" if self.lost else "being asked"
        rolls = "" if self.rolling_s is None else f"rolling {self.rolling_s:.0f} s"
        if self.lost_at is not None:
            since = f"no answer for {time.monotonic() - self.lost_at:.0f} s"
            return f"{since}; it was {rolls or 'standing by'} by then" + (", and goes on by itself" if rolls else "")
        return " · ".join(part for part in (rolls or "ready", self.state.words) if part)


class HeldLink:
    """Does one thing after the other on a thread of its own. changed() after every answer, told(what, value) for what was done:
    "started", "stopped" (with the file), "failed" (with the error), "lost", "back" (with whether it still rolls)."""

    def __init__(
        self, link: WebCamera, *, changed: Callable[[], object], told: Callable[[str, object], object]
    ) -> None:
        self.link, self.seen = link, Seen()
        self._changed, self._told = changed, told
        self._wanted: Options | None = None
        self._todo: queue.Queue[Callable[[], None] | None] = queue.Queue()
        self._thread = threading.Thread(target=self._run, name=f"camera at {link.wire.address.words}", daemon=True)
        self._thread.start()

    # What it is asked to do
    def plan(self, options: Options, *, put: bool = False) -> None:
        """How it should be set; put: it is set so, and read back."""
        self._wanted = options
        self._todo.put(lambda: self._set(options) if put else None)

    def start(self) -> None:
        self._todo.put(self._start)

    def stop(self) -> None:
        self._todo.put(self._stop)

    def close(self, *, wait_s: float = 0.0) -> None:
        """Ends it; what it is asked just now may take as long as a camera is waited for."""
        self._todo.put(None)
        self._thread.join(wait_s)

    # On its thread
    def _run(self) -> None:
        try:
            self._live()
        finally:
            self.link.close()

    def _live(self) -> None:
        self._look(first=True)
        while True:
            wait = TRY_EVERY_S if self.seen.lost else ASK_EVERY_S
            try:
                work = self._todo.get(timeout=wait)
            except queue.Empty:
                self._look()
                continue
            if work is None:
                return
            try:
                work()
            except Lost as error:
                self._lose()
                self._told("failed", error)
            except GlintorError as error:
                self._told("failed", error)
            except Exception as error:
                self._told("failed", in_words("Camera link", error))
            self._look()

    def _set(self, options: Options) -> None:
        self.link.set_options(options)

    def _start(self) -> None:
        self.link.start()
        self._told("started", None)

    def _stop(self) -> None:
        file: CardFile = self.link.stop()
        self._told("stopped", file)

    def _look(self, *, first: bool = False) -> None:
        before = self.seen
        try:
            name = self.link.info().model if first or not before.name else before.name
            state = self.link.state()
            differs = None if self._wanted is None else differences(asked(self._wanted), self.link.told())
        except Lost:
            self._lose()
            self._changed()
            return
        except GlintorError as error:
            self._lose()
            self._told("failed", error)
            self._changed()
            return
        ended = before.rolling_s is not None and not state.recording
        self.seen = Seen(name, state, None, differs, self.link.rolling_s if state.recording else None)
        if before.lost and before.state is not None:
            self._told("back", state.recording)
        elif ended and self.link.rolling_s is not None:
            self._told("ended", before.rolling_s)
        if not state.recording:
            self.link.forget_rolling()
        self._changed()

    def _lose(self) -> None:
        before = self.seen
        if before.lost:
            return
        self.seen = Seen(before.name, before.state, time.monotonic(), before.differs, self.link.rolling_s)
        if before.state is not None:
            self._told("lost", self.link.rolling_s)

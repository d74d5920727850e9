"""A camera that is held on the link: asked again and again how it is, told what to do; lost and found without a hand."""

import queue
import threading
import time
from collections.abc import Callable
from typing import Literal

from msgspec import Struct

from glintor.errors import GlintorError
from glintor.recording.link import Options, State
from glintor.recording.settings import Difference, asked, differences
from glintor.recording.web_camera import WebCamera
from glintor.recording.wire import Lost
from glintor.report import in_words

ASK_EVERY_S, TRY_EVERY_S = 1.5, 2.0
BEGINS_S = 4.0  # that a camera may take from saying yes to saying that it records (judgement)
_LET_GO_S = 1.0  # that what a camera is just asked may take when it is let go

Roll = Literal["idle", "asked", "rolls", "refused", "ended"]


class Seen(Struct, frozen=True):
    """What is known of a camera.

    state        as it said last, None before it said anything; lost_at: when it stopped answering (time.monotonic), None while it does
    differs      what it is set to otherwise than as planned, or does not tell; None before it was asked
    rolling_s    how long it has been rolling as far as is known, None where it is not
    roll         of what it was last asked to roll: it was asked and did not answer yet, it says that it rolls, it would not, it ended by
                 itself; why: in words
    """

    name: str = ""
    state: State | None = None
    lost_at: float | None = None
    differs: tuple[Difference, ...] | None = None
    rolling_s: float | None = None
    roll: Roll = "idle"
    why: str = ""

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
    "started", "stopped" and "ended" by itself (with the file, None where the camera names none), "failed" (with the error), "lost",
    "back" (with whether it still rolls). rolls_s: how long it has been rolling already, where it was asked to before it was held."""

    def __init__(
        self,
        link: WebCamera,
        *,
        changed: Callable[[], object],
        told: Callable[[str, object], object],
        rolls_s: float | None = None,
    ) -> None:
        self.link, self.seen = link, Seen(roll="idle" if rolls_s is None else "rolls")
        if rolls_s is not None:
            link.goes_on_rolling(rolls_s)
        self._changed, self._told = changed, told
        self._wanted: Options | None = None
        self._roll: Roll = self.seen.roll
        self._why, self._said = "", ""
        self._asked_at = 0.0
        self._todo: queue.Queue[Callable[[], None] | None] = queue.Queue()
        self._thread = threading.Thread(target=self._run, name=f"camera at {link.wire.address.words}", daemon=True)
        self._thread.start()

    # What it is asked to do
    def plan(self, options: Options, *, put: bool = False) -> None:
        """How it should be set; put: it is set so, and read back."""
        self._wanted = options
        self._todo.put(lambda: self._set(options) if put else None)

    def start(self) -> None:
        self._roll, self._why = "asked", ""
        self._show()
        self._todo.put(self._start)

    def stop(self) -> None:
        self._todo.put(self._stop)

    def close(self, *, wait_s: float = 0.0) -> None:
        """Ends it, after what it was asked to do; what a camera does not answer to is cut off."""
        self._todo.put(None)
        self._thread.join(min(wait_s, _LET_GO_S))
        if wait_s and self._thread.is_alive():
            self.link.close()
            self._thread.join(max(wait_s - _LET_GO_S, 0.1))

    # On its thread
    def _run(self) -> None:
        try:
            self._live()
        finally:
            self.link.close()

    def _live(self) -> None:
        self._look_and_tell(first=True)
        while True:
            wait = TRY_EVERY_S if self.seen.lost else ASK_EVERY_S
            try:
                work = self._todo.get(timeout=wait)
            except queue.Empty:
                self._look_and_tell()
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
            self._look_and_tell()

    def _set(self, options: Options) -> None:
        self.link.set_options(options)

    def _start(self) -> None:
        self._asked_at = time.monotonic()
        try:
            self.link.start()
        except Lost:
            raise  # it may have heard: what it says next tells
        except GlintorError as error:
            self._roll, self._why = "refused", error.what.rstrip(".")
            raise
        except Exception:
            self._roll, self._why = "refused", "something unforeseen"
            raise
        self._told("started", None)

    def _stop(self) -> None:
        if self._roll in ("refused", "ended"):  # there is nothing to stop, and its file is asked for already
            self._roll = "idle"
            return
        file = self.link.stop()
        self._roll = "idle"
        self._told("stopped", file)

    def _look_and_tell(self, *, first: bool = False) -> None:
        """Asks how it is; whatever comes back, the thread goes on, and what is wrong is told once."""
        try:
            self._look(first=first)
            self._said = ""
        except Lost:
            self._lose()
        except Exception as error:
            told = error if isinstance(error, GlintorError) else in_words("Camera link", error)
            self._lose()
            if str(told) != self._said:
                self._said = str(told)
                self._told("failed", told)
        self._changed()

    def _look(self, *, first: bool) -> None:
        before = self.seen
        name = self.link.info().model if first or not before.name else before.name
        state = self.link.state()
        differs = None if self._wanted is None else differences(asked(self._wanted), self.link.told())
        ended = self._follow(state.recording)
        if state.recording and self.link.rolling_s is None:
            self.link.goes_on_rolling(0.0)  # by a hand; since when nobody knows
        rolling_s = self.link.rolling_s if state.recording else None
        self.seen = Seen(name, state, None, differs, rolling_s, self._roll, self._why)
        if before.lost and before.state is not None:
            self._told("back", state.recording)
        if ended:
            self._told("ended", self.link.ended_file())
        elif not state.recording and self._roll not in ("asked", "rolls"):
            self.link.forget_rolling()

    def _follow(self, recording: bool) -> bool:
        """What it says of itself, beside what it was asked; whether that tells that a recording ended by itself."""
        if recording:
            if self._roll != "idle":
                self._roll = "rolls"
            return False
        if self._roll == "rolls":
            self._roll, self._why = "ended", "it stopped by itself"
            return True
        if self._roll == "asked" and self._asked_at and time.monotonic() - self._asked_at > BEGINS_S:
            self._roll, self._why = "refused", "it does not record"
        return False

    def _show(self) -> None:
        before = self.seen
        self.seen = Seen(
            before.name, before.state, before.lost_at, before.differs, before.rolling_s, self._roll, self._why
        )
        self._changed()

    def _lose(self) -> None:
        before = self.seen
        if before.lost:
            return
        self.seen = Seen(
            before.name, before.state, time.monotonic(), before.differs, self.link.rolling_s, self._roll, self._why
        )
        if before.state is not None:
            self._told("lost", self.link.rolling_s)

"""Frames of a film drawn before they are due, so that playing does not wait for the decoder."""

import threading
from collections import deque
from collections.abc import Callable
from typing import Generic, TypeVar

from glintor.errors import GlintorError
from glintor.report import in_words

T = TypeVar("T")

DEPTH = 6  # frames held ready


class Ahead(Generic[T]):
    """Draws film frames 0, 1, 2... on a thread of its own, a few ahead of the one that is due.

    A frame whose time is past when its turn comes is left out. draw(n) gives frame n, or None after the last one.
    """

    def __init__(
        self, draw: Callable[[int], T | None], failed: Callable[[GlintorError], None], depth: int = DEPTH
    ) -> None:
        self._draw, self._failed, self._depth = draw, failed, depth
        self._ready: deque[tuple[int, T]] = deque()
        self._due = 0
        self._closing = False
        self._changed = threading.Condition()
        self._thread = threading.Thread(target=self._run, name="ahead", daemon=True)
        self._thread.start()

    def take(self, due: int) -> T | None:
        """The newest frame that is due; None where none has come since the last call."""
        newest = None
        with self._changed:
            self._due = due
            while self._ready and self._ready[0][0] <= due:
                newest = self._ready.popleft()[1]
            if newest is not None:
                self._changed.notify()
        return newest

    def close(self) -> None:
        with self._changed:
            self._closing = True
            self._changed.notify()
        self._thread.join()

    def _run(self) -> None:
        number = 0
        while True:
            with self._changed:
                self._changed.wait_for(lambda: self._closing or len(self._ready) < self._depth)
                if self._closing:
                    return
                number = max(number, self._due)
            try:
                frame = self._draw(number)
            except Exception as error:
                self._failed(in_words("Playing", error))
                return
            if frame is None:
                return
            with self._changed:
                self._ready.append((number, frame))
            number += 1

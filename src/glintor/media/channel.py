"""A short queue between two threads that can be closed from either end, so that no stage waits for ever."""

import threading
from collections import deque
from collections.abc import Iterator
from typing import Generic, TypeVar

T = TypeVar("T")


class ChannelClosed(Exception):
    """The other side is gone."""


class Channel(Generic[T]):
    """Holds at most `room` items. `finish` lets the reader drain it; `abort` ends both sides at once."""

    def __init__(self, room: int = 2) -> None:
        self._items: deque[T] = deque()
        self._room = room
        self._changed = threading.Condition()
        self._finished = self._aborted = False

    def put(self, item: T) -> None:
        """Waits for room. Raises ChannelClosed after `abort`."""
        with self._changed:
            self._changed.wait_for(lambda: self._aborted or len(self._items) < self._room)
            if self._aborted:
                raise ChannelClosed
            self._items.append(item)
            self._changed.notify_all()

    def __iter__(self) -> Iterator[T]:
        while True:
            with self._changed:
                self._changed.wait_for(lambda: self._items or self._finished or self._aborted)
                if self._aborted:
                    raise ChannelClosed
                if not self._items:
                    return
                item = self._items.popleft()
                self._changed.notify_all()
            yield item

    def finish(self) -> None:
        with self._changed:
            self._finished = True
            self._changed.notify_all()

    def abort(self) -> None:
        with self._changed:
            self._aborted = True
            self._items.clear()
            self._changed.notify_all()

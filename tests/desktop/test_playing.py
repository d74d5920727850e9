import threading

import pytest

from glintor.desktop.reframe.ahead import Ahead
from glintor.errors import GlintorError


class Step:
    """A drawer that waits to be allowed each frame, so that nothing depends on time."""

    def __init__(self, last: int) -> None:
        self.drawn: list[int] = []
        self._allowed = threading.Semaphore(0)
        self._done = threading.Semaphore(0)
        self._last = last

    def __call__(self, number: int) -> str | None:
        self._allowed.acquire()
        self.drawn.append(number)
        self._done.release()
        return f"frame {number}" if number <= self._last else None

    def allow(self, count: int = 1) -> None:
        for _ in range(count):
            self._allowed.release()
            assert self._done.acquire(timeout=10)


def taken(ahead: Ahead[str], due: int) -> str | None:
    """The frame that is due, waiting until it has been handed over."""
    for _ in range(2000):
        frame = ahead.take(due)
        if frame is not None:
            return frame
        threading.Event().wait(0.005)
    return None


def test_frames_are_drawn_before_they_are_due_and_shown_in_order():
    step = Step(100)
    ahead = Ahead(step, pytest.fail)
    step.allow(4)
    assert taken(ahead, 0) == "frame 0"
    assert ahead.take(0) is None  # nothing new
    assert taken(ahead, 1) == "frame 1"
    assert step.drawn == [0, 1, 2, 3]
    step.allow()
    threading.Thread(target=ahead.close).start()
    step._allowed.release()


def test_frames_whose_time_is_past_are_left_out():
    step = Step(100)
    ahead = Ahead(step, pytest.fail)
    step.allow()
    assert taken(ahead, 0) == "frame 0"
    assert ahead.take(10) is None
    step.allow(2)  # the one that was begun meanwhile, and then the one that is due
    assert step.drawn[0] == 0 and step.drawn[-1] >= 10
    assert taken(ahead, step.drawn[-1]) is not None
    threading.Thread(target=ahead.close).start()
    step._allowed.release()


def test_an_error_ends_it_and_is_told():
    told: list[GlintorError] = []
    heard = threading.Event()

    def broken(_number: int) -> str | None:
        raise GlintorError("The clip is gone.")

    ahead = Ahead(broken, lambda error: (told.append(error), heard.set())[0])
    assert heard.wait(10) and told[0].what == "The clip is gone."
    assert ahead.take(5) is None
    ahead.close()

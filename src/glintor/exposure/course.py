"""The light along a take: how much of what is seen has which brightness, moment by moment, and from where that is known."""

from collections.abc import Callable, Sequence
from itertools import pairwise

import numpy as np
from msgspec import Struct

from glintor.exposure.metering import EVS, Measured
from glintor.types import Array

_STEADY_EV, _CLOSEST_S = 0.4, 0.08  # a step of the metered light that is looked at more closely, and down to where
HELD_LOW, HELD_HIGH = 0.02, 0.995  # share of the sphere under the lower and the upper end of what it holds


class Course(Struct, frozen=True, eq=False):
    """The light along a take.

    time_s    (n,) rising, from the take's beginning
    metered   (n, 3) EV100 that a meter reads of the whole sphere, of the front lens and of the rear one
    lenses    (n, 2, BINS) share of each lens's picture by brightness; shown: (n, BINS) of the planned views
    source    where it is known from, in words, and from which second on
    """

    time_s: Array
    metered: Array
    lenses: Array
    shown: Array
    source: tuple[tuple[float, str], ...]

    @property
    def whole(self) -> Array:
        """(n, BINS) of the whole sphere."""
        return np.asarray(self.lenses.mean(axis=1))

    @property
    def held(self) -> Array:
        """(n, 2) between which EV100 nearly all of what is seen lies."""
        share = np.cumsum(self.whole, axis=1)
        share = share / np.maximum(share[:, -1:], 1e-12)
        ends = [np.argmax(share >= q, axis=1) for q in (HELD_LOW, HELD_HIGH)]
        return np.stack([EVS[end] for end in ends], axis=1)

    def source_at(self, time_s: float) -> str:
        """Where the light of a moment is known from."""
        return next((words for begins, words in reversed(self.source) if time_s >= begins), self.source[0][1])

    def at(self, time_s: float) -> int:
        """The number of the moment nearest to a time."""
        return int(np.argmin(np.abs(self.time_s - time_s)))


def course_of(times_s: Sequence[float], moments: Sequence[Measured], source: tuple[tuple[float, str], ...]) -> Course:
    """A course of measured moments, in the order of their times."""
    order = np.argsort(times_s, kind="stable")
    at = [moments[n] for n in order]
    return Course(
        np.asarray(times_s, dtype=np.float64)[order],
        np.array([m.metered for m in at]),
        np.stack([m.lenses for m in at]),
        np.stack([m.shown for m in at]),
        source,
    )


def refined(
    times_s: list[float], moments: list[Measured], measure: Callable[[float], Measured], most: int
) -> tuple[list[float], list[Measured]]:
    """More moments, where the metered light changes most from one to the next: at most so many, the widest gap first."""
    times, found = list(times_s), list(moments)
    while len(times) < most:
        gaps = [
            (float(np.abs(np.subtract(b.metered, a.metered)).max()), n)
            for n, (a, b) in enumerate(pairwise(found))
            if times[n + 1] - times[n] > 2.0 * _CLOSEST_S
        ]
        step, at = max(gaps, default=(0.0, 0))
        if step < _STEADY_EV:
            break
        middle = (times[at] + times[at + 1]) / 2.0
        times.insert(at + 1, middle)
        found.insert(at + 1, measure(middle))
    return times, found

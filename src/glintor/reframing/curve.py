"""Curves through values at moments that never overshoot, and how each value is arrived at and left."""

from typing import Literal

import numpy as np
from numpy.typing import ArrayLike, NDArray

from glintor.types import Array

Ease = Literal["flow", "soft", "even"]
SAME_TIME_S = 0.005  # keyframes nearer than this are one moment
_REST_S = 1.0


class Curve:
    """Shape-preserving cubics through values (n, m) at times (n,), so that nothing overshoots: Fritsch & Butland's
    monotone piecewise cubic (SIAM J. Sci. Stat. Comput. 5, 1984).

    Before the first and after the last time it rests; where that rest is part of the film (`span`), it starts and ends
    gently, otherwise it enters and leaves in full motion. eases: how each value is arrived at and left, where that is not with the
    flow of its neighbours: softly, coming to rest, or evenly, in a straight line. A stretch that is soft at both its ends has no jump in
    its acceleration either.
    """

    def __init__(
        self,
        times: Array,
        values: Array,
        span: tuple[float, float],
        eases: "tuple[list[Ease], list[Ease]] | None" = None,
    ) -> None:
        before = bool(times[0] > span[0] + 2 * SAME_TIME_S)
        after = bool(times[-1] < span[1] - 2 * SAME_TIME_S)
        if before:
            times, values = np.concatenate([[times[0] - _REST_S], times]), np.concatenate([values[:1], values])
        if after:
            times, values = np.concatenate([times, [times[-1] + _REST_S]]), np.concatenate([values, values[-1:]])
        self._times, self._values = times, values
        slopes = _slopes(times, values)
        self._leave, self._arrive = slopes, slopes
        self._gentle: NDArray[np.bool_] | None = None
        if eases is not None and any(ease != "flow" for side in eases for ease in side) and len(times) > 1:
            self._ease(eases, before, after)

    def _ease(self, eases: "tuple[list[Ease], list[Ease]]", before: bool, after: bool) -> None:
        arrives, leaves = (np.array(["flow"] * before + list(side) + ["flow"] * after) for side in eases)
        rate = np.diff(self._values, axis=0) / np.diff(self._times)[:, None]
        coming, going = np.concatenate([rate[:1], rate]), np.concatenate([rate, rate[-1:]])
        self._leave, self._arrive = self._leave.copy(), self._arrive.copy()
        for slopes, side, even in ((self._arrive, arrives, coming), (self._leave, leaves, going)):
            slopes[side == "soft"] = 0.0
            slopes[side == "even"] = even[side == "even"]
        self._gentle = (leaves[:-1] == "soft") & (arrives[1:] == "soft")

    def at(self, times_s: ArrayLike) -> Array:
        """(k, m) values at each time: Hermite's cubic of values and slopes."""
        times = np.clip(np.atleast_1d(np.asarray(times_s, dtype=np.float64)), self._times[0], self._times[-1])
        if len(self._times) == 1:
            return np.tile(self._values[0], (len(times), 1))
        k = np.clip(np.searchsorted(self._times, times, side="right") - 1, 0, len(self._times) - 2)
        step = (self._times[k + 1] - self._times[k])[:, None]
        x = (times - self._times[k])[:, None] / step
        low, high = self._values[k], self._values[k + 1]
        rise = (self._leave[k] * (1 - x) - self._arrive[k + 1] * x) * step
        out = low + (high - low) * x * x * (3 - 2 * x) + rise * x * (1 - x)
        if self._gentle is not None and self._gentle.any():
            out = np.where(self._gentle[k][:, None], low + (high - low) * gently(x), out)
        return np.asarray(out)


def gently(share: Array) -> Array:
    """How far something has come, 0 to 1, that starts and ends at rest and jerks least on the way: Flash & Hogan, "The coordination
    of arm movements", J. Neurosci. 5, 1985."""
    return np.asarray(share**3 * (10.0 - 15.0 * share + 6.0 * share**2))


def _slopes(times: Array, values: Array) -> Array:
    """Slopes (n, m) at the keys that let nothing overshoot: weighted harmonic means of the slopes on both sides, 0 where
    those differ in sign; at the ends three-point slopes, held back. As scipy's PchipInterpolator, which is slow to load."""
    if len(times) < 2:
        return np.zeros_like(values)
    step = np.diff(times)[:, None]
    rate = np.diff(values, axis=0) / step
    if len(times) == 2:
        return np.vstack([rate, rate])
    a, b = 2 * step[1:] + step[:-1], step[1:] + 2 * step[:-1]
    level = np.sign(rate[:-1]) * np.sign(rate[1:]) <= 0
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        inner = np.where(level, 0.0, (a + b) / (a / rate[:-1] + b / rate[1:]))
    ends = [_end_slope(step[0], step[1], rate[0], rate[1]), _end_slope(step[-1], step[-2], rate[-1], rate[-2])]
    return np.vstack([ends[0], inner, ends[1]])


def _end_slope(near: Array, far: Array, rate: Array, next_: Array) -> Array:
    slope = ((2 * near + far) * rate - near * next_) / (near + far)
    slope = np.where(np.sign(slope) != np.sign(rate), 0.0, slope)
    return np.where((np.sign(rate) != np.sign(next_)) & (np.abs(slope) > 3 * np.abs(rate)), 3 * rate, slope)

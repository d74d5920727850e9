"""Where to look so that most of what changes round a still camera is seen, with holds that are long enough to be looked at."""

from itertools import pairwise

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.sphere.angle import nearest_turn_deg, wrap_deg
from glintor.types import Array

HALF_DEG = 35.0  # of a natural view, in which something is seen well
_HOLD_S = 2.4  # people hold about 2 s on a thing (common practice, no source)
_TURN_COSTS = 0.35  # of what changes in a hold: a turn must show so much more (judgement)
_LEAST = 0.5  # of 256, over the cells of a view: less is nothing (judgement)


class Watch(Struct, frozen=True):
    """A hold: from when to when, and what is looked at; yaw unwrapped from the hold before. share: how much of all that changes
    meanwhile is in sight."""

    start_s: float
    end_s: float
    yaw_deg: float
    pitch_deg: float
    share: float


def watched(time_s: Array, amount: Array, span_s: tuple[float, float]) -> list[Watch]:
    """Holds that follow what changes between two moments; none where nothing does. amount (n, heights, bearings): how much changes at
    moments (n,), rows from above to below and columns from left to right, all cells as high as they are wide.

    Of all ways to look at one bearing after another the one that sees most, less what its turns cost (Viterbi's dynamic programme)."""
    if not len(time_s):
        return []
    cell = 360.0 / amount.shape[2]
    bearings = -180.0 + cell * (np.arange(amount.shape[2]) + 0.5)
    heights = cell * (amount.shape[1] / 2.0 - 0.5 - np.arange(amount.shape[1]))
    count = max(int((span_s[1] - span_s[0]) / _HOLD_S), 1)
    edges = np.linspace(*span_s, count + 1)
    block = np.clip(np.searchsorted(edges, time_s, side="right") - 1, 0, count - 1)
    cells = np.stack([amount[block == n].mean(axis=0) if (block == n).any() else 0 * amount[0] for n in range(count)])
    near = np.abs(wrap_deg(bearings[:, None] - bearings)) <= HALF_DEG
    seen = cells.sum(axis=1) @ near  # (count, bearings)
    if seen.max() < _LEAST:
        return []
    best = _way(seen / seen.max())
    out = list[Watch]()
    starts = [0, *(np.flatnonzero(np.diff(best)) + 1).tolist(), count]
    for first, last in pairwise(starts):
        there = cells[first:last].sum(axis=0)
        inside = there * near[best[first]]
        off = wrap_deg(bearings - bearings[best[first]])
        yaw = bearings[best[first]] + float((inside.sum(axis=0) * off).sum() / max(inside.sum(), 1e-12))
        pitch = float((inside.sum(axis=1) * heights).sum() / max(inside.sum(), 1e-12))
        yaw = nearest_turn_deg(float(yaw), out[-1].yaw_deg) if out else float(wrap_deg(yaw))
        share = float(inside.sum() / max(there.sum(), 1e-12))
        out.append(Watch(float(edges[first]), float(edges[last]), yaw, pitch, share))
    return out


def _way(gain: Array) -> NDArray[np.int64]:
    """(n,) the columns of a gain (n, m) that give most, less a cost for each change."""
    total, back = gain[0], np.zeros(gain.shape, np.int64)
    for n in range(1, len(gain)):
        stay = np.arange(gain.shape[1])
        other = int(total.argmax())
        come = np.where(total >= total[other] - _TURN_COSTS, stay, other)
        back[n], total = come, gain[n] + np.maximum(total, total[other] - _TURN_COSTS)
    out = np.zeros(len(gain), np.int64)
    out[-1] = int(total.argmax())
    for n in range(len(gain) - 1, 0, -1):
        out[n - 1] = back[n, out[n]]
    return out

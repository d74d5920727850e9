"""What lenses followed through short runs of pictures, and how the whole camera turned in each."""

from collections.abc import Sequence

import numpy as np

from glintor.pixels.turning import small_turn, travelled
from glintor.sphere.lenses import Lenses, look_of_pixel
from glintor.types import Array

_WENT_DEG = 0.15  # travel that things moved so far by is taken out
_LEAST = 60  # points from which a way is known


class Followed:
    """What one lens followed: pixels in the first and the last picture of every burst, and which of them are sound."""

    def __init__(self, eye: int, bursts: Sequence[tuple[Array, Array]]) -> None:
        self.eye = eye
        self.counts = [len(a) for a, _ in bursts]
        self._a, self._b = (np.concatenate([pair[n] for pair in bursts]) for n in (0, 1))
        self.sound = np.ones(len(self._a), bool)

    def looks(self, lenses: Lenses, size: tuple[int, int]) -> tuple[Array, Array]:
        """Directions (n, 3) before and after."""
        eye = lenses.eyes[self.eye]
        before, after = (look_of_pixel(eye, size, p[:, 0], p[:, 1]) for p in (self._a, self._b))
        return before, after

    def of(self, burst: int) -> slice:
        first = sum(self.counts[:burst])
        return slice(first, first + self.counts[burst])


def of_burst(number: int, seen: Sequence[Followed], looks: Sequence[tuple[Array, Array]]) -> tuple[Array, Array, Array]:
    parts = [
        (before[s.of(number)], after[s.of(number)], s.sound[s.of(number)])
        for s, (before, after) in zip(seen, looks, strict=True)
    ]
    a, b, sound = (np.concatenate([part[n] for part in parts]) for n in range(3))
    return a, b, sound


def turn_between(a: Array, b: Array) -> Array:
    """(3, 3) that turns directions (n, 3) nearest to others: Kabsch's, by singular values (Acta Cryst. A32, 1976)."""
    u, _, vt = np.linalg.svd(b.T @ a)
    return np.asarray(u @ np.diag([1.0, 1.0, np.linalg.det(u @ vt)]) @ vt)


def unturned(number: int, seen: Sequence[Followed], looks: Sequence[tuple[Array, Array]], way: Array) -> Array:
    """(n, 3) what is left of one burst's sound points when the whole camera's turn is taken out; of a camera that went somewhere only
    what lies across great circles through its way, since things move along those however near they are."""
    a, b, sound = of_burst(number, seen, looks)
    a, b = a[sound], b[sound]
    if len(a) < 3:
        return np.zeros((len(a), 3))
    turn = turn_between(a, b)
    if not way.any():
        return b - a @ turn.T
    for _ in range(2):
        c = a @ turn.T
        across = np.cross(c, turn @ way)
        across /= np.maximum(np.linalg.norm(across, axis=1, keepdims=True), 1e-9)
        left = np.sum((b - c) * across, axis=1)
        rows = np.cross(c, across)
        step = np.linalg.lstsq(rows, left, rcond=None)[0]
        turn = small_turn(step) @ turn
    c = a @ turn.T
    return np.asarray(across * np.sum((b - c) * across, axis=1)[:, None])


def ways_of(seen: Sequence[Followed], lenses: Lenses, sizes: Sequence[tuple[int, int]]) -> list[Array]:
    """Where to the camera went in each burst, as far as the profile tells by now."""
    looks = [s.looks(lenses, sizes[s.eye]) for s in seen]
    found = []
    for number in range(len(seen[0].counts)):
        a, b, sound = of_burst(number, seen, looks)
        a, b = a[sound], b[sound]
        way = np.zeros(3) if len(a) < _LEAST else travelled(a, b, turn_between(a, b))[1]
        found.append(way / np.linalg.norm(way) if np.linalg.norm(way) > _WENT_DEG else np.zeros(3))
    return found


def judge(seen: Sequence[Followed], lenses: Lenses, sizes: Sequence[tuple[int, int]], scale: float) -> None:
    """Leaves out what does not turn with the rest: people, water, near things."""
    looks = [s.looks(lenses, sizes[s.eye]) for s in seen]
    for number in range(len(seen[0].counts)):
        a, b, sound = of_burst(number, seen, looks)
        if sound.sum() < 3:
            continue
        turn, way = travelled(a[sound], b[sound], turn_between(a[sound], b[sound]))
        left = b - a @ turn.T
        went = float(np.linalg.norm(way))
        if went > _WENT_DEG:  # what moves because the camera does fits as well
            across = np.cross(a @ turn.T, turn @ way / went)
            left = np.sum(left * across, axis=1, keepdims=True) / np.maximum(
                np.linalg.norm(across, axis=1, keepdims=True), 0.1
            )
        off = np.linalg.norm(left, axis=1) * scale
        fits = off < max(4.0 * float(np.median(off[sound])), 0.5)
        first = 0
        for s in seen:
            part = s.of(number)
            s.sound[part] = fits[first : first + s.counts[number]]
            first += s.counts[number]


def spin_deg(number: int, seen: Sequence[Followed], lenses: Lenses, sizes: Sequence[tuple[int, int]]) -> float:
    a, b, sound = of_burst(number, seen, [s.looks(lenses, sizes[s.eye]) for s in seen])
    if sound.sum() < 3:
        return 0.0
    turn = turn_between(a[sound], b[sound])
    return float(np.degrees(np.arccos(np.clip((np.trace(turn) - 1.0) / 2.0, -1.0, 1.0))))

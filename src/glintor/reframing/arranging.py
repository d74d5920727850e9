"""Edits of several keyframes at once, and of what lies between two: how long, which way round, how gently."""

from bisect import bisect_right
from collections.abc import Callable, Collection, Iterable, Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from glintor.reframing.cut import Cut
from glintor.reframing.path import Keyframe, key_index
from glintor.sphere import lens
from glintor.sphere.angle import nearest_turn_deg

_LEAST_HOLD_S = 0.5  # that is left of a hold which gives its time to a move (judgement)
_ALIKE_DEG, _ALIKE_SHARE = 0.3, 0.005  # views that differ by less are one that is held


class Stage(Struct, frozen=True):
    """What lies between a keyframe and the next: a hold or a move."""

    index: int
    start_s: float
    end_s: float
    holds: bool

    @property
    def words(self) -> str:
        """Such as "hold 2.0 s"."""
        return f"{'hold' if self.holds else 'move'} {self.end_s - self.start_s:.1f} s"


def stages(keys: Sequence[Keyframe]) -> list[Stage]:
    """Holds and moves in order. A view that is held on something that moves is a hold while it keeps its place."""
    return [stage for n in range(len(keys) - 1) if (stage := stage_after(keys, n)) is not None]


def stage_after(keys: Sequence[Keyframe], index: int) -> Stage | None:
    """The hold or move after a keyframe; None after the last."""
    if not 0 <= index < len(keys) - 1:
        return None
    a, b = keys[index], keys[index + 1]
    return Stage(index, a.time_s, b.time_s, _alike(a, b))


def _alike(a: Keyframe, b: Keyframe) -> bool:
    angles = max(abs(a.yaw_deg - b.yaw_deg), abs(a.pitch_deg - b.pitch_deg), abs(a.roll_deg - b.roll_deg))
    wide = abs(a.fov_deg - b.fov_deg) / max(a.fov_deg, 1e-6) + abs(a.bend - b.bend)
    return a.on == b.on and angles < _ALIKE_DEG and wide < _ALIKE_SHARE


def with_length(cut: Cut, index: int, length_s: float, step_s: float, duration_s: float) -> Cut:
    """A hold or move given another length; all that follows keeps its distance, inside a clip of that length."""
    keys = cut.keys
    if not 0 <= index < len(keys) - 1:
        return cut
    by = max(length_s, step_s) - (keys[index + 1].time_s - keys[index].time_s)
    by = min(by, duration_s - keys[-1].time_s) if by > 0 else by
    return _timed(cut, {n: keys[n].time_s + by for n in range(index + 1, len(keys))})


def lengthened(cut: Cut, part_s: tuple[float, float], length_s: float, step_s: float, duration_s: float) -> Cut:
    """A part given another length with the keyframes in it; all that follows keeps its distance, inside the clip."""
    start, end = part_s
    after = [key.time_s for key in cut.keys if key.time_s >= start]
    room = duration_s - max(after, default=duration_s)
    inside = sum(start <= key.time_s <= end for key in cut.keys)
    wanted = max(min(length_s, end - start + max(room, 0.0)), step_s * max(inside, 1))
    grow = wanted / max(end - start, 1e-6)
    times = {}
    for n, key in enumerate(cut.keys):
        if key.time_s > start:
            times[n] = start + (key.time_s - start) * grow if key.time_s <= end else key.time_s + wanted - (end - start)
            if n:
                times[n] = max(times[n], times.get(n - 1, cut.keys[n - 1].time_s) + step_s)
    return _timed(cut, times)


def _timed(cut: Cut, times: dict[int, float]) -> Cut:
    return replace(cut, keys=tuple(replace(k, time_s=round(times.get(n, k.time_s), 4)) for n, k in enumerate(cut.keys)))


def moved(cut: Cut, indices: Collection[int], by_s: float, step_s: float, duration_s: float) -> Cut:
    """Keyframes moved in time together, not past those that stay, nor out of the clip."""
    keys, low, high = cut.keys, -np.inf, np.inf
    for n in indices:
        before, after = n - 1, n + 1
        if before not in indices:
            low = max(low, (keys[before].time_s + step_s if before >= 0 else 0.0) - keys[n].time_s)
        if after not in indices:
            high = min(high, (keys[after].time_s - step_s if after < len(keys) else duration_s) - keys[n].time_s)
    by = float(np.clip(by_s, min(low, 0.0), max(high, 0.0)))
    return _timed(cut, {n: keys[n].time_s + by for n in indices})


def with_moves_spread(cut: Cut, start_s: float, end_s: float, length_s: float, duration_s: float) -> Cut | None:
    """What moves between two moments given another length. What follows keeps its distance; where a clip of that length has no room for
    it, the holds behind give what they can. Ready moves and what shapes have of their own go along. None where even so there is no
    room: nothing is ever left out."""
    old = np.array([key.time_s for key in cut.keys])
    new = np.array(spread(list(old), start_s, end_s, length_s))
    over = float(new[-1] - max(duration_s, old[-1]))
    moved_last = float(old[old >= end_s - 1e-6].min()) if (old >= end_s - 1e-6).any() else float(old[-1])
    for stage in reversed(stages(cut.keys)):
        if over <= 1e-9 or stage.start_s < moved_last - 1e-6:
            break
        if stage.holds:
            gives = min(max(stage.end_s - stage.start_s - _LEAST_HOLD_S, 0.0), over)
            new[stage.index + 1 :] -= gives
            over -= gives
    if over > 1e-6:
        return None

    def at(time_s: float) -> float:
        outside = min(time_s - old[0], 0.0) + max(time_s - old[-1], 0.0)
        return round(float(np.interp(time_s, old, new) + outside), 6)

    keys = tuple(replace(key, time_s=round(float(t), 6)) for key, t in zip(cut.keys, new, strict=True))
    moves = tuple(replace(move, start_s=at(move.start_s), end_s=at(move.end_s)) for move in cut.moves)
    own = tuple(
        replace(one, offsets=tuple(replace(offset, time_s=at(offset.time_s)) for offset in one.offsets))
        for one in cut.own
    )
    return replace(cut, keys=keys, moves=moves, own=own)


def spread(keys_times_s: list[float], start_s: float, end_s: float, needed_s: float) -> list[float]:
    """New times of keyframes so that the stretch around [start, end] lasts `needed_s`.

    A longer stretch moves what follows later; a shorter one leaves it where it is, as a hold.
    """
    inside = [t for t in keys_times_s if t <= start_s + 1e-6]
    first = max(inside) if inside else keys_times_s[0]
    after = [t for t in keys_times_s if t >= end_s - 1e-6]
    last = min(after) if after else keys_times_s[-1]
    if last <= first:
        return keys_times_s
    grow = needed_s / max(end_s - start_s, 1e-6)
    extra = max((last - first) * (grow - 1.0), 0.0)
    return [t if t <= first else first + (t - first) * grow if t <= last else t + extra for t in keys_times_s]


def turned(
    cut: Cut, indices: Collection[int], yaw_deg: float = 0.0, pitch_deg: float = 0.0, tighter: float = 1.0
) -> Cut:
    """Keyframes turned, tilted and tightened alike, each inside what the lens can show."""
    return _each(cut, indices, lambda key: _turned(key, yaw_deg, pitch_deg, tighter))


def _turned(key: Keyframe, yaw_deg: float, pitch_deg: float, tighter: float) -> Keyframe:
    fov = key.fov_deg
    if tighter != 1.0:
        focal = float(lens.focal_per_width(key.fov_deg, key.bend)) * tighter
        fov = float(np.clip(lens.fov_of_focal(focal, key.bend), lens.FOV_MIN_DEG, lens.fov_limit_deg(key.bend)))
    pitch = float(np.clip(key.pitch_deg + pitch_deg, -90.0, 90.0))
    return replace(key, yaw_deg=key.yaw_deg + yaw_deg, pitch_deg=pitch, fov_deg=fov)


def eased(cut: Cut, indices: Collection[int], **how: object) -> Cut:
    """Keyframes arrived at, left or come to in another way: any of `arrives`, `leaves`, `way`, `draws_back`."""
    return _each(cut, indices, lambda key: replace(key, **how))


def softened(cut: Cut) -> Cut:
    """Every move that sets off from rest or comes to it does so softly, and moves that follow each other go on flowing; no keyframe is
    moved, so that holds stay as they are. What is to go evenly stays so."""
    keys = list(cut.keys)
    for n, key in enumerate(keys):
        coming = keys[n - 1] if n and keys[n - 1].on == key.on else None
        going = keys[n + 1] if n + 1 < len(keys) and keys[n + 1].on == key.on else None
        if coming is not None and going is not None and not _rests(coming, key, going):
            continue
        keys[n] = replace(
            key,
            arrives="soft" if key.arrives == "flow" and coming is not None else key.arrives,
            leaves="soft" if key.leaves == "flow" and going is not None else key.leaves,
        )
    return replace(cut, keys=tuple(keys))


def _rests(before: Keyframe, key: Keyframe, after: Keyframe) -> bool:
    """Whether a view comes to rest at a keyframe: it is held before or after it, or turns round there."""
    turns = (
        (key.yaw_deg - before.yaw_deg, after.yaw_deg - key.yaw_deg),
        (key.pitch_deg - before.pitch_deg, after.pitch_deg - key.pitch_deg),
    )
    return all(a * b <= _ALIKE_DEG**2 and (a * b <= 0.0 or max(abs(a), abs(b)) < _ALIKE_DEG) for a, b in turns)


def _each(cut: Cut, indices: Collection[int], change: Callable[[Keyframe], Keyframe]) -> Cut:
    return replace(cut, keys=tuple(change(key) if n in indices else key for n, key in enumerate(cut.keys)))


def without(cut: Cut, indices: Collection[int]) -> Cut:
    """The cut without keyframes; one always stays, since a path needs it."""
    kept = tuple(key for n, key in enumerate(cut.keys) if n not in indices)
    return replace(cut, keys=kept or cut.keys[:1])


def pasted(cut: Cut, keys: Sequence[Keyframe], at_s: float, step_s: float, duration_s: float) -> Cut:
    """Keyframes of any cut set anew, the first at a moment, the others as far behind it as they were; those that stood between make
    room. What they were held on is only kept where this cut knows it."""
    known = {anchor.id for anchor in cut.anchors}
    first = keys[0].time_s
    new = [
        replace(k, time_s=round(k.time_s - first + at_s, 4), on=k.on if k.on in known else "", move="") for k in keys
    ]
    new = [k for k in new if k.time_s <= duration_s]
    if not new:
        return cut
    start, end = new[0].time_s - step_s / 2, new[-1].time_s + step_s / 2
    kept = [k for k in cut.keys if not start <= k.time_s <= end]
    before = next((k for k in reversed(kept) if k.time_s < start and k.on == new[0].on), None)
    if before is not None:  # the nearest turn, so that pasting spins nothing round
        by = nearest_turn_deg(new[0].yaw_deg, before.yaw_deg) - new[0].yaw_deg
        new = [replace(k, yaw_deg=k.yaw_deg + by) for k in new]
    return replace(cut, keys=tuple(sorted([*kept, *new], key=lambda k: k.time_s)))


def way_round(cut: Cut, index: int, turns: int, *, longer: bool = False) -> Cut:
    """The view comes to a keyframe the short way, or the longer one, and so many whole turns more (less than none: to the left); all
    that follows turns along."""
    if not 0 < index < len(cut.keys):
        return cut
    before, key = cut.keys[index - 1], cut.keys[index]
    short = nearest_turn_deg(key.yaw_deg, before.yaw_deg)
    by = short - before.yaw_deg
    if longer:
        by -= float(np.copysign(360.0, by)) if by else -360.0
    shift = before.yaw_deg + by + 360.0 * turns - key.yaw_deg
    return turned(cut, range(index, len(cut.keys)), shift)


def nearest(value: float, candidates: Iterable[float], within: float) -> float:
    """The candidate nearest to a value, or the value itself where none is near enough."""
    best = min(candidates, key=lambda c: abs(c - value), default=value)
    return best if abs(best - value) <= within else value


def key_before(cut: Cut, time_s: float, step_s: float) -> int:
    """Index of the keyframe at a moment, else of the last one before it."""
    there = key_index(cut.keys, time_s, 0.6 * step_s)
    if there is not None:
        return there
    return max(bisect_right(cut.keys, time_s, key=lambda key: key.time_s) - 1, 0)

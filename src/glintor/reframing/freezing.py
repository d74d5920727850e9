"""Edits of freezes: the picture held at a moment, and the view over it still or moving."""

from collections.abc import Callable

from msgspec.structs import replace

from glintor.reframing.course import NOTHING, Targets, shared
from glintor.reframing.cut import Cut, Move
from glintor.reframing.edits import key_at, with_view
from glintor.reframing.retime import Stretch, checked, with_stretch

HOLD_S = 2.0  # people hold about 2 s on a thing (common practice, no source)
_SAME_S = 1e-6
_KEY_S = 0.04  # between keyframes in a freeze
When = Callable[[float], float | None]


def freeze_span(cut: Cut, freeze: Stretch) -> tuple[float, float]:
    """From when to when of the path a freeze is: of no length where the view is still in it."""
    start = float(cut.clock.path_s(freeze.start_s))
    return start, start + (freeze.freeze_s if freeze.view_moves else 0.0)


def stretch_spans(cut: Cut) -> list[tuple[float, float, Stretch]]:
    """From when to when of the path each change of speed is."""
    out = []
    for s in cut.speeds:
        span = freeze_span(cut, s) if s.freeze_s else cut.clock.path_s((s.start_s, s.end_s)).tolist()
        out.append((*span, s))
    return out


def freeze_at(cut: Cut, time_s: float, step_s: float) -> Stretch | None:
    """The freeze at a moment of the path; step_s: one frame of the clip."""
    for freeze in cut.speeds:
        if freeze.freeze_s:
            start, end = freeze_span(cut, freeze)
            if start - step_s / 2 < time_s < end + step_s / 2:
                return freeze
    return None


def held(cut: Cut, time_s: float, step_s: float) -> Cut:
    """The picture frozen at a moment of the path, or a freeze there taken away with what moved in it."""
    there = freeze_at(cut, time_s, step_s)
    if there is not None:
        cut = with_still_view(cut, there)
        return replace(cut, speeds=tuple(s for s in cut.speeds if not _same(s, there)))
    at_s = float(cut.clock.clip_s(time_s))
    freeze = Stretch(start_s=at_s, end_s=at_s, freeze_s=HOLD_S)
    return replace(cut, speeds=with_stretch(cut.speeds, freeze))


def with_moving_view(cut: Cut, freeze: Stretch, step_s: float, targets: Targets = NOTHING) -> Cut:
    """The view may move in a freeze: the path has its length more there. At both its ends a keyframe shows what was seen: the view comes to
    rest there, and stays so until one of them is turned."""
    if freeze.view_moves:
        return cut
    start = freeze_span(cut, freeze)[0]
    cut = with_view(cut, start, shared(cut, targets).at(start), step_s, targets)
    index = key_at(cut, start, step_s)
    assert index is not None, "it was set"
    key, later = cut.keys[index], freeze.freeze_s
    opened = _retimed(cut, lambda t: t + later if t > key.time_s + _SAME_S else t)
    keys = sorted([*opened.keys, replace(key, time_s=round(key.time_s + later, 4), move="")], key=lambda k: k.time_s)
    return _changed(replace(opened, keys=tuple(keys)), freeze, replace(freeze, view_moves=True))


def with_still_view(cut: Cut, freeze: Stretch) -> Cut:
    """The view stands still in a freeze: what it did there goes, what follows comes nearer."""
    if not freeze.view_moves:
        return cut
    start, end = freeze_span(cut, freeze)

    def when(t: float) -> float | None:
        return t if t <= start + _SAME_S else None if t <= end + _SAME_S else t - (end - start)

    return _changed(_retimed(cut, when), freeze, replace(freeze, view_moves=False))


def with_freeze_length(cut: Cut, freeze: Stretch, length_s: float) -> Cut:
    """A freeze given another length, at least what its keyframes need; what moves in it is spread over that, what follows keeps its
    distance. Raises PaceError."""
    span = freeze_span(cut, freeze)
    length_s = max(length_s, _KEY_S * sum(span[0] < key.time_s <= span[1] for key in cut.keys))
    new = replace(freeze, freeze_s=length_s)
    checked([new])
    start, end = span
    if freeze.view_moves:
        grow = length_s / (end - start)
        cut = _retimed(
            cut,
            lambda t: (
                t if t <= start else start + (t - start) * grow if t <= end + _SAME_S else t + length_s - (end - start)
            ),
        )
    return _changed(cut, freeze, new)


def _same(one: Stretch, other: Stretch) -> bool:
    return bool(one.freeze_s) and abs(one.start_s - other.start_s) <= _SAME_S


def _changed(cut: Cut, freeze: Stretch, new: Stretch) -> Cut:
    return replace(cut, speeds=tuple(new if _same(s, freeze) else s for s in cut.speeds))


def _retimed(cut: Cut, when: When) -> Cut:
    """A cut whose path's moments are others; what has none goes, but for the last keyframe that there is."""

    def moved(t: float) -> float | None:
        new = when(t)
        return None if new is None else round(new, 4) if new != t else t

    keys = tuple(replace(k, time_s=t) for k in cut.keys if (t := moved(k.time_s)) is not None)
    own = []
    for one in cut.own:
        offsets = tuple(replace(o, time_s=t) for o in one.offsets if (t := moved(o.time_s)) is not None)
        own += [replace(one, offsets=offsets)] if offsets else []
    moves = tuple(m for move in cut.moves if (m := _moved(move, moved)) is not None)
    return replace(cut, keys=keys or cut.keys[:1], own=tuple(own), moves=moves)


def _moved(move: Move, when: When) -> Move | None:
    start, end = when(move.start_s), when(move.end_s)
    return None if start is None or end is None else replace(move, start_s=start, end_s=end)

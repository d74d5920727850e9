"""Edits of what a cut's view is held on."""

import numpy as np
from msgspec.structs import replace

from glintor.reframing.anchor import Anchor
from glintor.reframing.course import Course, Targets, key_showing, shared
from glintor.reframing.cut import Cut
from glintor.reframing.edits import key_at, with_view
from glintor.reframing.following import Following
from glintor.reframing.path import Keyframe
from glintor.sphere.angle import nearest_turn_deg
from glintor.sphere.equirect import direction

OVER_S = 1.2  # in which a view goes over to what it is held on, and back
_NEAR_DEG = 8.0  # a view that looks so near needs not go over


def anchor_of(cut: Cut, name: str) -> Anchor | None:
    """The anchor of that name."""
    return next((anchor for anchor in cut.anchors if anchor.id == name), None)


def stretch_of(cut: Cut, index: int) -> tuple[int, int]:
    """First and one past the last of the keyframes round one that are held on the same without a break."""
    on = cut.keys[index].on
    first = last = index
    while first > 0 and cut.keys[first - 1].on == on:
        first -= 1
    while last + 1 < len(cut.keys) and cut.keys[last + 1].on == on:
        last += 1
    return first, last + 1


def held_on(
    cut: Cut, index: int, anchor: Anchor | None, targets: Targets, *, centred: bool = False, last: int | None = None
) -> Cut:
    """The cut held on something, or on nothing, from a keyframe on until it is held on something else, or to a last one. Every keyframe
    shows what it showed; centred: it looks at the thing itself, as wide as it was. targets: with the new one's."""
    on = "" if anchor is None else anchor.id
    course = shared(cut, targets)
    keys: list[Keyframe] = list(cut.keys)
    end = stretch_of(cut, index)[1] if last is None else last + 1
    for n in range(index, end):
        key = keys[n]
        told = key_showing(key.time_s, course.at(key.time_s), on, targets)
        near = keys[n - 1].yaw_deg if n > index else 0.0 if on else key.yaw_deg
        angles = (0.0, 0.0) if centred and on else (nearest_turn_deg(told.yaw_deg, near), told.pitch_deg)
        keys[n] = replace(
            key,
            on=on,
            yaw_deg=angles[0],
            pitch_deg=angles[1],
            roll_deg=told.roll_deg,
            fov_deg=told.fov_deg,
            bend=told.bend,
        )
    kept = cut.anchors if anchor is None else (*(a for a in cut.anchors if a.id != on), anchor)
    return swept(replace(cut, keys=tuple(keys), anchors=kept))


def held_over(
    cut: Cut,
    start_s: float,
    end_s: float | None,
    anchor: Anchor,
    targets: Targets,
    step_s: float,
    *,
    centred: bool = False,
) -> Cut:
    """The cut held on something from a moment on, or over a part of it. Where the view looks elsewhere it goes over gently, and gently
    back to what it showed; what keyframes there are in between stay as they are, or centred on it."""
    course, limit = shared(cut, targets), cut.ends_s if end_s is None else end_s
    begins, ends = start_s, limit
    far = centred and _off_deg(course, targets[anchor.id], start_s) > _NEAR_DEG
    if far and start_s > cut.begins_s + step_s:
        begins = start_s + min(OVER_S, (limit - start_s) / 3.0)
    if end_s is not None:
        ends = limit - min(OVER_S, (limit - begins) / 3.0)
    stands = [start_s, begins, *([] if end_s is None else [ends, end_s])]
    kept = tuple(
        k for k in cut.keys if not (start_s < k.time_s < begins or (end_s is not None and ends < k.time_s < limit))
    )
    first = cut.keys[0]
    if kept and first.time_s > start_s:  # before the first keyframe the view rests as it has it
        first = replace(first, time_s=round(start_s, 4))
    out = replace(cut, keys=kept or (first,))
    for moment in dict.fromkeys(stands):
        out = with_view(out, moment, course.at(moment), step_s, targets)
    index = key_at(out, begins, step_s) or 0
    last = None if end_s is None else key_at(out, ends, step_s)
    return held_on(out, index, anchor, targets, centred=centred, last=last)


def let_go_at(cut: Cut, time_s: float, targets: Targets, step_s: float) -> Cut:
    """Held on nothing from a moment on: from there the view goes over gently to resting where it then looks."""
    course = shared(cut, targets)
    rests = min(time_s + OVER_S, max(cut.ends_s - step_s, time_s))
    kept = tuple(k for k in cut.keys if not time_s < k.time_s < rests)
    out = with_view(replace(cut, keys=kept), time_s, course.at(time_s), step_s, targets)
    if rests - time_s < 3.0 * step_s:
        return held_on(out, key_at(out, time_s, step_s) or 0, None, targets)
    out = with_view(out, rests, course.at(rests), step_s, targets)
    return held_on(out, key_at(out, rests, step_s) or 0, None, targets)


def _off_deg(course: Course, target: Following, time_s: float) -> float:
    """How far a view looks past something at a moment, degrees."""
    view, there = course.at(time_s), target.added(np.array([time_s]))[0]
    cosine = float(direction(view.yaw_deg, view.pitch_deg) @ direction(there[0], there[1]))
    return float(np.degrees(np.arccos(np.clip(cosine, -1.0, 1.0))))


def swept(cut: Cut) -> Cut:
    """Without anchors that no keyframe is held on."""
    used = {key.on for key in cut.keys}
    return replace(cut, anchors=tuple(anchor for anchor in cut.anchors if anchor.id in used))


def with_anchor(cut: Cut, anchor: Anchor) -> Cut:
    """An anchor changed: its keyframes stay as far from it as they were."""
    return replace(cut, anchors=tuple(anchor if a.id == anchor.id else a for a in cut.anchors))

"""Edits of a cut: each gives another cut, and knows nothing of a window."""

from collections.abc import Sequence

import numpy as np
from msgspec.structs import replace

from glintor.reframing.course import NOTHING, Targets, course_of, key_showing
from glintor.reframing.cut import Cut
from glintor.reframing.path import Keyframe, key_index, with_key
from glintor.reframing.retime import Stretch, with_stretch
from glintor.sphere.angle import nearest_turn_deg
from glintor.sphere.lens import Lens
from glintor.sphere.rotation import angles_of
from glintor.sphere.turn import TurnTrack
from glintor.sphere.view import View, as_set, within_limits

_TRIES, _EXACT = 6, 1e-6  # where a shape corrects, or wants the subject at a place, the view is found in a few steps
_NEAR_FRAMES = 0.6  # a keyframe within so many frames of a moment stands at it


def key_at(cut: Cut, time_s: float, step_s: float) -> int | None:
    """Index of the keyframe that stands at a moment; step_s: one frame of the clip."""
    return key_index(cut.keys, time_s, step_s * _NEAR_FRAMES)


def with_view(cut: Cut, time_s: float, view: View, step_s: float, targets: Targets = NOTHING) -> Cut:
    """A view, as 16:9 has it, set at a moment: its keyframe is updated, or made, so that no view is ever lost. It is held on what the
    path is held on there."""
    there = key_at(cut, time_s, step_s)
    when = round(time_s, 4)
    like = cut.keys[there] if there is not None else held_like(cut, when)
    seen = key_showing(when, view, like.on, targets)
    of_view = {name: getattr(seen, name) for name in View.__struct_fields__}
    key = replace(like, time_s=when, **of_view) if there is not None else replace(seen, on=like.on)
    return replace(cut, keys=with_key(cut.keys, key, within_s=step_s * _NEAR_FRAMES))


def with_shown(
    cut: Cut,
    shape: str,
    size_px: tuple[int, int],
    time_s: float,
    shown: View,
    step_s: float,
    targets: Targets = NOTHING,
) -> Cut:
    """What a frame of some shape shows at a moment set for all shapes: the shared path goes where that shape, with what it has of its
    own, shows it."""
    wanted, new = as_set(shown, size_px), cut
    for _ in range(_TRIES):
        new = with_view(cut, time_s, wanted, step_s, targets)
        off = course_of(new, shape, size_px, targets=targets).off(time_s, shown)
        if np.abs(off).max() < _EXACT:
            break
        tighter = wanted.lens.focal * float(np.exp(off[3]))
        wanted = within_limits(
            wanted,
            yaw_deg=wanted.yaw_deg + float(off[0]),
            pitch_deg=wanted.pitch_deg + float(off[1]),
            roll_deg=wanted.roll_deg + float(off[2]),
            fov_deg=Lens(tighter, wanted.bend).fov_deg,
        )
    return new


def held_like(cut: Cut, time_s: float) -> Keyframe:
    """The keyframe by which it is told what the view is held on at a moment: the last one before it, else the first."""
    return next((key for key in reversed(cut.keys) if key.time_s <= time_s), cut.keys[0])


def with_ends(
    cut: Cut, *, step_s: float, duration_s: float, in_s: float | None = None, out_s: float | None = None
) -> Cut:
    """In and out moved to whole frames of a clip of that length; as it was where that leaves no film."""
    first = round((cut.in_s if in_s is None else in_s) / step_s) * step_s
    last = round((cut.out_s if out_s is None else out_s) / step_s) * step_s
    if not 0.0 <= first <= last - step_s or last > duration_s + step_s / 2:
        return cut
    return replace(cut, in_s=first, out_s=min(last, duration_s))


def stretch_at(cut: Cut, time_s: float) -> Stretch | None:
    """The change of speed at a moment of the clip, freezes left out."""
    return next((s for s in cut.speeds if not s.freeze_s and s.start_s <= time_s < s.end_s), None)


def with_pace(cut: Cut, part: tuple[float, float] | None, time_s: float, **changes: object) -> tuple[Cut, Stretch]:
    """A speed laid over a marked part of the clip; without one over the change of speed at a moment, else over the whole cut. The cut
    and what was laid. Raises PaceError."""
    at_hand = stretch_at(cut, sum(part) / 2 if part is not None else time_s)
    start_s, end_s = part or ((at_hand.start_s, at_hand.end_s) if at_hand is not None else (cut.in_s, cut.out_s))
    base = at_hand or Stretch(start_s=start_s, end_s=end_s)
    new = replace(base, start_s=start_s, end_s=end_s, **changes)
    return replace(cut, speeds=with_stretch(cut.speeds, new)), new


def seen_as_before(cut: Cut, before: TurnTrack | None, after: TurnTrack | None) -> Cut:
    """The cut when its recording is held another way: every keyframe looks at its moment at what it looked at, and its roll is told
    against the horizon of the frame that it is held in. Both turns go from the picture to the frame that views are meant in;
    None where that is the picture's own."""
    keys: list[Keyframe] = []
    for key in cut.keys:
        if key.on:  # it is told from what it is held on, and that turns along
            keys.append(key)
            continue
        picture = key.view.matrix if before is None else before.at(key.time_s).T @ key.view.matrix
        yaw, pitch, _ = angles_of(picture if after is None else after.at(key.time_s) @ picture)
        near = keys[-1].yaw_deg + key.yaw_deg - cut.keys[len(keys) - 1].yaw_deg if keys else key.yaw_deg
        keys.append(replace(key, yaw_deg=round(nearest_turn_deg(yaw, near), 4), pitch_deg=round(pitch, 4)))
    return replace(cut, keys=tuple(keys))


def fresh_cut(
    cut_id: str,
    name: str,
    take_id: str,
    duration_s: float,
    *,
    opening: Keyframe | None = None,
    closing: Keyframe | None = None,
    subject: Sequence[float] = (0.0, 0.0),
) -> Cut:
    """A cut of a whole take: with the views that the shot was planned with, else looking at the subject (yaw and pitch)."""
    first = opening or Keyframe.of(0.0, within_limits(View(), yaw_deg=subject[0], pitch_deg=subject[1]))
    last = () if closing is None else (replace(closing, time_s=duration_s),)
    return Cut(id=cut_id, name=name, take_id=take_id, in_s=0.0, out_s=duration_s, keys=(first, *last))

"""What a shape has of its own on the path that all share: set at a moment, and taken back."""

import numpy as np
from msgspec.structs import replace

from glintor.reframing.course import NOTHING, Targets, course_of
from glintor.reframing.cut import Cut, Offset, Own
from glintor.sphere.view import View

_NEAR_FRAMES = 0.6


def own_of(cut: Cut, shape: str) -> tuple[Offset, ...]:
    """The corrections of a shape, in order of time."""
    return next((own.offsets for own in cut.own if own.shape == shape), ())


def with_own_view(
    cut: Cut,
    shape: str,
    size_px: tuple[int, int],
    time_s: float,
    shown: View,
    step_s: float,
    targets: Targets = NOTHING,
) -> Cut:
    """A view shown at a moment in one shape alone: a correction of the shared path is updated or made there. Bend is the shared path's."""
    plain = course_of(replace(cut, own=()), shape, size_px, targets=targets)
    yaw, pitch, roll, log_focal, _ = (float(v) for v in plain.off(time_s, shown))
    offset = Offset(
        time_s=round(time_s, 4),
        yaw_deg=yaw,
        pitch_deg=pitch,
        roll_deg=roll,
        tighter=float(np.clip(np.exp(log_focal), 0.02, 50.0)),
    )
    others = [o for o in own_of(cut, shape) if abs(o.time_s - time_s) > step_s * _NEAR_FRAMES]
    return _with(cut, shape, tuple(sorted([*others, offset], key=lambda o: o.time_s)))


def without_own(cut: Cut, shape: str) -> Cut:
    """A shape without anything of its own: it has the path that all share."""
    return _with(cut, shape, ())


def _with(cut: Cut, shape: str, offsets: tuple[Offset, ...]) -> Cut:
    others = tuple(own for own in cut.own if own.shape != shape)
    return replace(cut, own=(*others, Own(shape=shape, offsets=offsets)) if offsets else others)

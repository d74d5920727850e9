"""Paths fitted to something that moves, or that was flown: the fewest keyframes that stay within a tolerance of it."""

from collections.abc import Callable
from itertools import pairwise

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import ArrayLike

from glintor.errors import InputError
from glintor.reframing.course import NOTHING, Course, Targets, course_of, key_showing, shared
from glintor.reframing.cut import Cut
from glintor.reframing.path import Keyframe, as_view
from glintor.reframing.track import Track
from glintor.sphere import lens
from glintor.sphere.angle import nearest_turn_deg
from glintor.sphere.equirect import direction
from glintor.types import Array

TOLERANCE_DEG, SMOOTH_S = 1.5, 0.5
ZOOM_SHARE = 0.02  # of the width, that counts as much as a degree (judgement, no source)
_STEP_S, _MOST_KEYS = 0.08, 400
_AROUND_S = 2.0  # before and after the cut it may be known how it goes on


def along(cut: Cut, track: Track, *, tolerance_deg: float = TOLERANCE_DEG, smooth_s: float = SMOOTH_S) -> Cut:
    """A cut whose path goes with a subject, smoothed without lag, as wide as it was; over gaps in the track it goes on at an even pace.
    Raises InputError where the track knows nothing in the cut."""
    track = track.on(cut.clock)
    times = np.linspace(cut.begins_s, cut.ends_s, max(int((cut.ends_s - cut.begins_s) / _STEP_S), 2) + 1)
    step = times[1] - times[0]
    more = int(np.ceil(3.0 * smooth_s / step))  # what lies before and after the cut is smoothed with it
    around = np.concatenate(
        [times[0] - step * np.arange(more, 0, -1), times, times[-1] + step * np.arange(1, more + 1)]
    )
    known = track.sure & (track.time_s >= cut.begins_s - _AROUND_S) & (track.time_s <= cut.ends_s + _AROUND_S)
    if not known.any():
        raise InputError("The subject is not known anywhere in this cut.", advice="Track it first, or move in and out.")
    at = track.time_s[known]
    looks = np.stack([np.interp(around, at, column[known]) for column in (track.yaw_deg, track.pitch_deg)], axis=1)
    wanted = shared(cut).values(times)
    first = float(wanted[0, 0])
    wanted[:, :2] = smoothed(looks, smooth_s / step)[more : more + len(times)]
    wanted[:, 0] += nearest_turn_deg(float(wanted[0, 0]), first) - wanted[0, 0]

    def key(n: int) -> Keyframe:
        return Keyframe.of(round(float(times[n]), 4), as_view(wanted[n]))

    return fewest(cut, times, wanted, key, tolerance_deg)


def smoothed(values: Array, sigma: float) -> Array:
    """Gaussian means (n, m) of both sides, so that nothing comes late."""
    from scipy.ndimage import gaussian_filter1d

    return np.asarray(gaussian_filter1d(values, max(sigma, 1e-3), axis=0, mode="nearest"), np.float64)


def fewest(
    cut: Cut,
    times: Array,
    wanted: Array,
    key: Callable[[int], Keyframe],
    tolerance_deg: float,
    *,
    targets: Targets = NOTHING,
) -> Cut:
    """A cut with as few keyframes between the first and the last of times (n,) as it takes to stay near wanted values (n, 5: yaw, pitch,
    roll, field of view, bend): where it is worst, one more, until it does. key(n): the keyframe for a moment. Keyframes before and
    after stay."""
    outside = [k for k in cut.keys if k.time_s < times[0] - 1e-6 or k.time_s > times[-1] + 1e-6]
    chosen = {0, len(times) - 1}
    while True:
        inside = [key(n) for n in sorted(chosen)]
        keys = tuple(sorted([*outside, *inside], key=lambda k: k.time_s))
        new = replace(cut, keys=keys)
        off = off_deg(shared(new, targets).values(times), wanted)
        over = off > tolerance_deg
        edges = sorted(chosen)
        more = {
            a + 1 + int(np.argmax(off[a + 1 : b])) for a, b in pairwise(edges) if b - a > 1 and over[a + 1 : b].any()
        }
        if not more or len(chosen) >= _MOST_KEYS:
            return new
        chosen |= more


def off_deg(values: Array, wanted: Array) -> Array:
    """(n,) how far views are apart, in degrees: their axes, their roll, and their width as far as that counts."""
    a, b = direction(values[:, 0], values[:, 1]), direction(wanted[:, 0], wanted[:, 1])
    axis = np.degrees(np.arctan2(np.linalg.norm(np.cross(a, b), axis=1), (a * b).sum(axis=1)))
    roll = np.abs((values[:, 2] - wanted[:, 2] + 180.0) % 360.0 - 180.0)
    focal = [np.log(lens.focal_per_width(v[:, 3], v[:, 4])) for v in (values, wanted)]
    return np.asarray(np.maximum.reduce([axis, 0.5 * roll, np.abs(focal[0] - focal[1]) / ZOOM_SHARE]))


class Flight(Struct, frozen=True, eq=False):
    """What was flown by hand, as it was seen: times (n,) of the clip, rising, and values (n, 5) of yaw, unwrapped, pitch, roll, field of
    view (degrees) as 16:9 has it, and bend."""

    time_s: Array
    values: Array

    def through_lens(self, times_s: ArrayLike) -> Array:
        """As of a path."""
        times = np.atleast_1d(np.asarray(times_s, np.float64))
        columns = self.values.copy()
        columns[:, 3] = np.log(lens.focal_per_width(columns[:, 3], columns[:, 4]))
        return np.stack([np.interp(times, self.time_s, column) for column in columns.T], axis=1)

    @property
    def course(self) -> Course:
        """The flight as a course to be looked at."""
        return Course(self)

    def calmed(self, calm_s: float, step_s: float) -> "Flight":
        """The same on even steps with the hand's tremor smoothed out of both sides, so that nothing comes late; it starts and ends where
        it did."""
        times = np.arange(self.time_s[0], self.time_s[-1] + step_s / 4, step_s)
        even = self.course.values(times)
        calm, sigma = even.copy(), calm_s / step_s
        if sigma > 0.05 and len(times) > 2:
            more = min(int(np.ceil(4.0 * sigma)), len(times) - 1)
            odd = [2.0 * even[:1] - even[more:0:-1], even, 2.0 * even[-1:] - even[-2 : -more - 2 : -1]]
            calm = smoothed(np.concatenate(odd), sigma)[more : more + len(times)]
        calm[:, 1] = np.clip(calm[:, 1], -90.0, 90.0)
        limits = [lens.fov_limit_deg(float(b)) for b in np.clip(calm[:, 4], 0.0, lens.BEND_MAX)]
        calm[:, 3] = np.clip(calm[:, 3], lens.FOV_MIN_DEG, limits)
        return Flight(times, calm)


def flown(
    cut: Cut,
    flight: Flight,
    *,
    calm_s: float,
    tolerance_deg: float,
    step_s: float,
    zoom_alone: bool = False,
    targets: Targets = NOTHING,
) -> Cut:
    """A cut with what was flown in it, calmed, as the fewest keyframes within a tolerance; what lies before and after stays. zoom_alone:
    only its width is flown, and the view goes where the path went, held on what it was held on."""
    calm = flight.calmed(calm_s, step_s)
    times, wanted = calm.time_s, calm.values
    if not zoom_alone:
        return fewest(
            cut,
            times,
            wanted,
            lambda n: Keyframe.of(round(float(times[n]), 4), as_view(wanted[n])),
            tolerance_deg,
            targets=targets,
        )
    shown = course_of(cut, "16:9", (16, 9), targets=targets).values(times)
    shown[:, 3] = np.minimum(wanted[:, 3], [lens.fov_limit_deg(float(b)) for b in shown[:, 4]])
    inside = [k for k in cut.keys if k.time_s <= times[-1]]

    def zoomed(n: int) -> Keyframe:
        when = round(float(times[n]), 4)
        on = next((k.on for k in reversed(inside) if k.time_s <= when + 1e-6), cut.keys[0].on)
        key = key_showing(when, as_view(shown[n]), on, targets)
        return replace(key, on=on)

    return fewest(cut, times, shown, zoomed, tolerance_deg, targets=targets)

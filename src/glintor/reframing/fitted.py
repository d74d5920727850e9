"""A path fitted to something that moves: the fewest keyframes that stay within a tolerance of it."""

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from glintor.errors import InputError
from glintor.reframing.cut import Cut
from glintor.reframing.path import Keyframe, path_of
from glintor.reframing.track import Track
from glintor.sphere.angle import nearest_turn_deg
from glintor.sphere.equirect import direction
from glintor.sphere.view import within_limits

Array = NDArray[np.float64]
TOLERANCE_DEG, SMOOTH_S = 1.5, 0.5
_STEP_S, _MOST_KEYS = 0.08, 400
_AROUND_S = 2.0  # before and after the cut it may be known how it goes on


def along(cut: Cut, track: Track, *, tolerance_deg: float = TOLERANCE_DEG, smooth_s: float = SMOOTH_S) -> Cut:
    """A cut whose path goes with a subject, smoothed without lag, as wide as it was; over gaps in the track it goes on at an even pace.
    Raises InputError where the track knows nothing in the cut."""
    times = np.linspace(cut.in_s, cut.out_s, max(int((cut.out_s - cut.in_s) / _STEP_S), 2) + 1)
    step = times[1] - times[0]
    more = int(np.ceil(3.0 * smooth_s / step))  # what lies before and after the cut is smoothed with it
    around = np.concatenate(
        [times[0] - step * np.arange(more, 0, -1), times, times[-1] + step * np.arange(1, more + 1)]
    )
    known = track.known & (track.time_s >= cut.in_s - _AROUND_S) & (track.time_s <= cut.out_s + _AROUND_S)
    if not known.any():
        raise InputError("The subject is not known anywhere in this cut.", advice="Track it first, or move in and out.")
    at = track.time_s[known]
    wanted = np.stack([np.interp(around, at, column[known]) for column in (track.yaw_deg, track.pitch_deg)], axis=1)
    wanted = _smoothed(wanted, smooth_s / step)[more : more + len(times)]
    shown = path_of(cut.keys, cut.span_s).values(times)
    wanted[:, 0] += nearest_turn_deg(float(wanted[0, 0]), float(shown[0, 0])) - wanted[0, 0]
    return replace(cut, keys=_fewest(times, wanted, shown, cut.span_s, tolerance_deg))


def _smoothed(values: Array, sigma: float) -> Array:
    """Gaussian means of both sides, so that nothing comes late."""
    from scipy.ndimage import gaussian_filter1d

    return np.asarray(gaussian_filter1d(values, max(sigma, 1e-3), axis=0, mode="nearest"), np.float64)


def _fewest(
    times: Array, wanted: Array, shown: Array, span: tuple[float, float], tolerance_deg: float
) -> tuple[Keyframe, ...]:
    """Keyframes at those moments that a path needs to stay near what is wanted: where it is worst, one more, until it does."""
    chosen = [0, len(times) - 1]
    looks = direction(wanted[:, 0], wanted[:, 1])
    while True:
        keys = tuple(_key(float(times[n]), wanted[n], shown[n]) for n in sorted(chosen))
        there = path_of(keys, span).values(times)
        off = np.degrees(np.arccos(np.clip((direction(there[:, 0], there[:, 1]) * looks).sum(axis=1), -1.0, 1.0)))
        worst = int(np.argmax(off))
        if off[worst] <= tolerance_deg or worst in chosen or len(chosen) >= _MOST_KEYS:
            return keys
        chosen.append(worst)


def _key(time_s: float, wanted: Array, shown: Array) -> Keyframe:
    view = Keyframe(
        time_s=round(time_s, 4), roll_deg=float(shown[2]), fov_deg=float(shown[3]), bend=float(shown[4])
    ).view
    return Keyframe.of(round(time_s, 4), within_limits(view, yaw_deg=float(wanted[0]), pitch_deg=float(wanted[1])))

"""Keyframes and the smooth path between them."""

from collections.abc import Iterable, Sequence
from functools import lru_cache

import msgspec
import numpy as np
from numpy.typing import ArrayLike, NDArray

from glintor.errors import InputError
from glintor.sphere import lens
from glintor.sphere.angle import nearest_turn_deg
from glintor.sphere.view import View, within_limits

SAME_TIME_S = 0.005  # keyframes nearer than this are one moment
_REST_S = 1.0
_OPEN = (-np.inf, np.inf)  # a path without ends


class PathError(InputError):
    """Keyframes that make no path."""


class Keyframe(msgspec.Struct, frozen=True, kw_only=True):
    """The view at one moment. time_s counts from the clip's first frame; yaw is unwrapped (two turns are 720)."""

    time_s: float
    yaw_deg: float = 0.0
    pitch_deg: float = 0.0
    roll_deg: float = 0.0
    fov_deg: float = 100.0
    bend: float = 0.15

    @property
    def view(self) -> View:
        return View(
            yaw_deg=self.yaw_deg, pitch_deg=self.pitch_deg, roll_deg=self.roll_deg, fov_deg=self.fov_deg, bend=self.bend
        )

    def check(self) -> None:
        """Raises ViewError, which says what is wrong with it."""
        View(**{name: getattr(self, name) for name in View.__struct_fields__})

    @staticmethod
    def of(time_s: float, view: View) -> "Keyframe":
        return Keyframe(time_s=time_s, **{name: getattr(view, name) for name in View.__struct_fields__})


class Curve:
    """Shape-preserving cubics through values (n, m) at times (n,), so that nothing overshoots: Fritsch & Butland's
    monotone piecewise cubic (SIAM J. Sci. Stat. Comput. 5, 1984).

    Before the first and after the last time it rests; where that rest is part of the film (`span`), it starts and ends
    gently, otherwise it enters and leaves in full motion.
    """

    def __init__(self, times: NDArray[np.float64], values: NDArray[np.float64], span: tuple[float, float]) -> None:
        if times[0] > span[0] + 2 * SAME_TIME_S:
            times, values = np.concatenate([[times[0] - _REST_S], times]), np.concatenate([values[:1], values])
        if times[-1] < span[1] - 2 * SAME_TIME_S:
            times, values = np.concatenate([times, [times[-1] + _REST_S]]), np.concatenate([values, values[-1:]])
        self._times, self._values = times, values
        self._slopes = _slopes(times, values)

    def at(self, times_s: ArrayLike) -> NDArray[np.float64]:
        """(k, m) values at each time: Hermite's cubic of values and slopes."""
        times = np.clip(np.atleast_1d(np.asarray(times_s, dtype=np.float64)), self._times[0], self._times[-1])
        if len(self._times) == 1:
            return np.tile(self._values[0], (len(times), 1))
        k = np.clip(np.searchsorted(self._times, times, side="right") - 1, 0, len(self._times) - 2)
        step = (self._times[k + 1] - self._times[k])[:, None]
        x = (times - self._times[k])[:, None] / step
        low, high = self._values[k], self._values[k + 1]
        rise = (self._slopes[k] * (1 - x) - self._slopes[k + 1] * x) * step
        return low + (high - low) * x * x * (3 - 2 * x) + rise * x * (1 - x)


class ViewPath:
    """The view at every moment, as the 16:9 frame has it: a curve through the keyframes.

    Yaw, pitch, roll, bend and the logarithm of the focal length are interpolated: log f keeps the apparent speed of a
    zoom constant.
    """

    def __init__(self, keys: Sequence[Keyframe], span: tuple[float, float] = (-np.inf, np.inf)) -> None:
        if not keys:
            raise PathError("The path has no keyframe.", advice="Set one: turn the view and it is kept.")
        self.keys = tuple(sorted(keys, key=lambda key: key.time_s))
        times = np.array([key.time_s for key in self.keys])
        if not np.isfinite(times).all():
            raise PathError("A keyframe's time is not a number.", advice="Give it a time in seconds.")
        if (np.diff(times) < SAME_TIME_S).any():
            again = float(times[1:][np.diff(times) < SAME_TIME_S][0])
            raise PathError(f"Two keyframes stand at {again:.3f} s.", advice="Keep one of them.")
        values = np.array([[k.yaw_deg, k.pitch_deg, k.roll_deg, k.fov_deg, k.bend] for k in self.keys])
        if not _shown(values):
            for key in self.keys:
                key.check()
        values[:, 3] = np.log(lens.focal_per_width(values[:, 3], values[:, 4]))
        self._curve = Curve(times, values, span)

    def through_lens(self, times_s: ArrayLike) -> NDArray[np.float64]:
        """(n, 5) of yaw, pitch, roll (degrees), logarithm of the focal length in frame widths, and bend at each time."""
        return self._curve.at(times_s)

    def values(self, times_s: ArrayLike) -> NDArray[np.float64]:
        """(n, 5) of yaw, pitch, roll, field of view (degrees) and bend at each time."""
        return as_values(self.through_lens(times_s))

    def at(self, time_s: float) -> View:
        """The view at one moment, held inside the lens's limits."""
        return as_view(self.values(time_s)[0])


def as_values(through_lens: NDArray[np.float64]) -> NDArray[np.float64]:
    """(n, 5) with the field of view in degrees where the logarithm of the focal length stands."""
    yaw, pitch, roll, log_focal, bend = through_lens.T
    bend = np.clip(bend, 0.0, lens.BEND_MAX)
    return np.column_stack([yaw, np.clip(pitch, -90, 90), roll, lens.fov_of_focal(np.exp(log_focal), bend), bend])


def as_view(values: NDArray[np.float64]) -> View:
    """The view of one row of values (5,), held inside the lens's limits."""
    yaw, pitch, roll, fov, bend = (float(value) for value in values)
    return within_limits(View(yaw_deg=yaw, roll_deg=roll), pitch_deg=pitch, fov_deg=fov, bend=bend)


def _slopes(times: NDArray[np.float64], values: NDArray[np.float64]) -> NDArray[np.float64]:
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


def _end_slope(
    near: NDArray[np.float64], far: NDArray[np.float64], rate: NDArray[np.float64], next_: NDArray[np.float64]
) -> NDArray[np.float64]:
    slope = ((2 * near + far) * rate - near * next_) / (near + far)
    slope = np.where(np.sign(slope) != np.sign(rate), 0.0, slope)
    return np.where((np.sign(rate) != np.sign(next_)) & (np.abs(slope) > 3 * np.abs(rate)), 3 * rate, slope)


def _shown(values: NDArray[np.float64]) -> bool:
    """Whether a lens can show every one of these views (n, 5), all looked at together."""
    pitch, fov, bend = values[:, 1], values[:, 3], values[:, 4]
    rim = np.degrees(2.0 * np.arccos(-np.clip(bend, 0.0, 1.0)))
    widest = np.where(bend <= 1.0, rim - lens.LIMIT_MARGIN_DEG, 360.0)
    sound = (
        np.isfinite(values).all() and (np.abs(pitch) <= 90.0).all() and ((bend >= 0.0) & (bend <= lens.BEND_MAX)).all()
    )
    return bool(sound and ((fov >= lens.FOV_MIN_DEG) & (fov <= widest + 1e-9)).all())


@lru_cache(maxsize=32)
def path_of(keys: tuple[Keyframe, ...], span: tuple[float, float]) -> ViewPath:
    """The path through keyframes, made once while they stay the same."""
    return ViewPath(keys, span)


def key_index(keys: Sequence[Keyframe], time_s: float, within_s: float = SAME_TIME_S) -> int | None:
    """Index of the keyframe nearest to a time, if one stands within `within_s` of it."""
    gaps = [abs(key.time_s - time_s) for key in keys]
    best = int(np.argmin(gaps)) if gaps else -1
    return best if best >= 0 and gaps[best] <= within_s else None


def with_key(keys: Iterable[Keyframe], key: Keyframe, *, within_s: float = SAME_TIME_S) -> tuple[Keyframe, ...]:
    """The keyframes with `key` set, in order; one that stands at the same moment is replaced.

    Its yaw is taken on the turn nearest to the path there, so that a new key never spins the view round. This is the one
    place that resolves turns: the path and not the nearest keyframe counts, which may be half a turn and more away.
    """
    keys = tuple(keys)
    if keys:
        there = key_index(keys, key.time_s, within_s)
        on_path = keys[there].yaw_deg if there is not None else path_of(keys, _OPEN).at(key.time_s).yaw_deg
        key = msgspec.structs.replace(key, yaw_deg=nearest_turn_deg(key.yaw_deg, on_path))
    others = [k for k in keys if abs(k.time_s - key.time_s) > within_s]
    return tuple(sorted([*others, key], key=lambda k: k.time_s))


def without_key(keys: Sequence[Keyframe], index: int) -> tuple[Keyframe, ...]:
    """The keyframes without one of them."""
    return (*keys[:index], *keys[index + 1 :])


def moved_key(keys: Sequence[Keyframe], index: int, time_s: float, *, gap_s: float = 0.04) -> tuple[Keyframe, ...]:
    """The keyframes with one moved in time; it stops `gap_s` short of its neighbours and never changes their order."""
    low = keys[index - 1].time_s + gap_s if index > 0 else 0.0
    high = keys[index + 1].time_s - gap_s if index + 1 < len(keys) else np.inf
    moved = msgspec.structs.replace(keys[index], time_s=float(min(max(time_s, low), high)))
    return (*keys[:index], moved, *keys[index + 1 :])

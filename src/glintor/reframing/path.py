"""Keyframes and the smooth path between them."""

from bisect import bisect_left
from collections.abc import Iterable, Sequence
from functools import lru_cache
from itertools import takewhile
from typing import Literal

import msgspec
import numpy as np
from numpy.typing import ArrayLike, NDArray

from glintor.errors import InputError
from glintor.reframing.between import drawn_back, great_circle, over_the_top, progress
from glintor.reframing.curve import SAME_TIME_S, Curve, Ease
from glintor.sphere import lens
from glintor.sphere.angle import nearest_turn_deg
from glintor.sphere.equirect import direction
from glintor.sphere.view import View, within_limits

_OPEN = (-np.inf, np.inf)  # a path without ends


class PathError(InputError):
    """Keyframes that make no path."""


class Keyframe(msgspec.Struct, frozen=True, kw_only=True):
    """The view at one moment. time_s counts from the clip's first frame; yaw is unwrapped (two turns are 720).

    arrives, leaves  how its view is come to and gone from
    way              how it is come to from the keyframe before: level (bearing and height each for themselves), along a great
                     circle, or over the top; draws_back: pan and zoom go together on that way, wider in between
    on               what the view is held on, "" for nothing: then its angles and width are told from that
    move             the ready move that it belongs to, "" for none
    """

    time_s: float
    yaw_deg: float = 0.0
    pitch_deg: float = 0.0
    roll_deg: float = 0.0
    fov_deg: float = 100.0
    bend: float = 0.15
    arrives: Ease = "flow"
    leaves: Ease = "flow"
    way: Literal["level", "great", "over"] = "level"
    draws_back: bool = False
    on: str = ""
    move: str = ""

    @property
    def straight(self) -> bool:
        """Whether it is come to by the curve through all keyframes."""
        return self.way == "level" and not self.draws_back

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


def in_order(keys: Sequence[Keyframe]) -> tuple[tuple[Keyframe, ...], NDArray[np.float64], NDArray[np.float64]]:
    """The keyframes of a path by time, their times (n,), and their yaw, pitch, roll, field of view (degrees) and bend (n, 5). Raises
    PathError and ViewError, which say what no path can be laid through."""
    if not keys:
        raise PathError("The path has no keyframe.", advice="Set one: turn the view and it is kept.")
    keys = tuple(sorted(keys, key=lambda key: key.time_s))
    times = np.array([key.time_s for key in keys])
    if not np.isfinite(times).all():
        raise PathError("A keyframe's time is not a number.", advice="Give it a time in seconds.")
    steps = times[1:] - times[:-1]
    if (steps < SAME_TIME_S).any():
        again = float(times[1:][steps < SAME_TIME_S][0])
        raise PathError(f"Two keyframes stand at {again:.3f} s.", advice="Keep one of them.")
    values = np.array([[k.yaw_deg, k.pitch_deg, k.roll_deg, k.fov_deg, k.bend] for k in keys])
    if not _shown(values):
        for key in keys:
            key.check()
    return keys, times, values


class ViewPath:
    """The view at every moment, as the 16:9 frame has it: a curve through the keyframes.

    Yaw, pitch, roll, bend and the logarithm of the focal length are interpolated: log f keeps the apparent speed of a
    zoom constant. Where the bend changes the logarithm of the field of view is, since the same focal length shows more or less then: what
    is seen never grows past both its ends.
    """

    def __init__(self, keys: Sequence[Keyframe], span: tuple[float, float] = (-np.inf, np.inf)) -> None:
        self.keys, self._times, values = in_order(keys)
        times = self._times
        fov = values[:, 3].copy()
        values[:, 3] = np.log(lens.focal_per_width(fov, values[:, 4]))
        self._values = values
        self._bends = bool(np.ptp(values[:, 4]) > 1e-9)
        laid = np.column_stack([values[:, :3], np.log(fov), values[:, 4]]) if self._bends else values
        self._curve = Curve(times, laid, span, self._eases())
        self._ways = [n for n, key in enumerate(self.keys) if n and not key.straight]

    def _eases(self) -> tuple[list[Ease], list[Ease]]:
        """How each keyframe is arrived at and left; beside a way of its own, which rests at its ends, softly."""
        keys = self.keys
        arrives: list[Ease] = [key.arrives for key in keys]
        leaves: list[Ease] = [key.leaves for key in keys]
        for n in range(1, len(keys)):
            if not keys[n].straight:
                arrives[n - 1] = "soft" if arrives[n - 1] == "flow" else arrives[n - 1]
                leaves[n] = "soft" if leaves[n] == "flow" else leaves[n]
        return arrives, leaves

    def through_lens(self, times_s: ArrayLike) -> NDArray[np.float64]:
        """(n, 5) of yaw, pitch, roll (degrees), logarithm of the focal length in frame widths, and bend at each time."""
        out = self._curve.at(times_s)
        if self._bends:
            out[:, 3] = _log_focal(np.exp(out[:, 3]), out[:, 4])
        if self._ways:
            times = np.atleast_1d(np.asarray(times_s, np.float64))
            for n in self._ways:
                inside = (times > self._times[n - 1]) & (times < self._times[n])
                if inside.any():
                    out[inside] = self._on_its_way(n, times[inside])
        return out

    def _on_its_way(self, n: int, times: NDArray[np.float64]) -> NDArray[np.float64]:
        """Values (m, 5) between a keyframe and the one before, where that is a way of its own."""
        first, last, key = self._values[n - 1], self._values[n], self.keys[n]
        share = (times - self._times[n - 1]) / (self._times[n] - self._times[n - 1])
        done = progress(share, self.keys[n - 1].leaves, key.arrives)
        out = first + (last - first) * done[:, None]
        pan = done
        if first[4] != last[4] and not key.draws_back:
            a, b = (np.log(lens.fov_of_focal(np.exp(end[3]), end[4])) for end in (first, last))
            out[:, 3] = _log_focal(np.exp(a + (b - a) * done), out[:, 4])
        if key.draws_back:
            a, b = direction(first[0], first[1]), direction(last[0], last[1])
            angle = float(np.arctan2(np.linalg.norm(np.cross(a, b)), float(a @ b)))
            level = float(np.hypot(np.radians(last[0] - first[0]), np.radians(last[1] - first[1])))
            pan, out[:, 3] = drawn_back(level if key.way == "level" else angle, (first[3], last[3]), done)
        if key.way == "great":
            out[:, :2] = great_circle(first[:2], last[:2], pan)
        elif key.way == "over":
            out[:, :3] = over_the_top(first[:3], last[:3], pan)
        else:
            out[:, :2] = first[:2] + (last[:2] - first[:2]) * pan[:, None]
        return np.asarray(out)

    def values(self, times_s: ArrayLike) -> NDArray[np.float64]:
        """(n, 5) of yaw, pitch, roll, field of view (degrees) and bend at each time."""
        return as_values(self.through_lens(times_s))

    def at(self, time_s: float) -> View:
        """The view at one moment, held inside the lens's limits."""
        return as_view(self.values(time_s)[0])


def _log_focal(fov_deg: NDArray[np.float64], bend: NDArray[np.float64]) -> NDArray[np.float64]:
    """Logarithm of the focal length of fields of view, held inside what a lens of that bend can show."""
    bend = np.clip(bend, 0.0, lens.BEND_MAX)
    rim = np.degrees(2.0 * np.arccos(-np.clip(bend, 0.0, 1.0)))
    widest = np.where(bend <= 1.0, rim - lens.LIMIT_MARGIN_DEG, 360.0)
    return np.asarray(np.log(lens.focal_per_width(np.clip(fov_deg, lens.FOV_MIN_DEG, widest), bend)))


def as_values(through_lens: NDArray[np.float64]) -> NDArray[np.float64]:
    """(n, 5) with the field of view in degrees where the logarithm of the focal length stands."""
    yaw, pitch, roll, log_focal, bend = through_lens.T
    bend = np.clip(bend, 0.0, lens.BEND_MAX)
    return np.column_stack([yaw, np.clip(pitch, -90, 90), roll, lens.fov_of_focal(np.exp(log_focal), bend), bend])


def as_view(values: NDArray[np.float64]) -> View:
    """The view of one row of values (5,), held inside the lens's limits."""
    yaw, pitch, roll, fov, bend = (float(value) for value in values)
    return within_limits(View(yaw_deg=yaw, roll_deg=roll), pitch_deg=pitch, fov_deg=fov, bend=bend)


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
    """Index of the keyframe nearest to a time, if one stands within `within_s` of it; keys in order of time."""
    after = bisect_left(keys, time_s, key=lambda key: key.time_s)
    near = [n for n in (after - 1, after) if 0 <= n < len(keys) and abs(keys[n].time_s - time_s) <= within_s]
    return min(near, key=lambda n: abs(keys[n].time_s - time_s), default=None)


def with_key(keys: Iterable[Keyframe], key: Keyframe, *, within_s: float = SAME_TIME_S) -> tuple[Keyframe, ...]:
    """The keyframes with `key` set, in order; one that stands at the same moment is replaced.

    Its yaw and roll are taken on the turn nearest to the path there, so that a new key never spins the view round. This is the one
    place that resolves turns: the path and not the nearest keyframe counts, which may be half a turn and more away.
    """
    keys = tuple(keys)
    alike = run_of(keys, key)
    if alike:
        there = key_index(alike, key.time_s, within_s)
        on_path = alike[there] if there is not None else path_of(alike, _OPEN).at(key.time_s)
        key = msgspec.structs.replace(
            key,
            yaw_deg=nearest_turn_deg(key.yaw_deg, on_path.yaw_deg),
            roll_deg=nearest_turn_deg(key.roll_deg, on_path.roll_deg),
        )
    others = [k for k in keys if abs(k.time_s - key.time_s) > within_s]
    return tuple(sorted([*others, key], key=lambda k: k.time_s))


def run_of(keys: Sequence[Keyframe], key: Keyframe) -> tuple[Keyframe, ...]:
    """The keyframes round a moment that are held on the same as one that is to stand there, without a break."""
    before = [k for k in keys if k.time_s <= key.time_s]
    after = [k for k in keys if k.time_s > key.time_s]
    sides = (takewhile(lambda k: k.on == key.on, side) for side in (reversed(before), after))
    earlier, later = (list(side) for side in sides)
    return (*reversed(earlier), *later)

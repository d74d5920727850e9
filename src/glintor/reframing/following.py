"""Where something that a view is held on is at each moment, made calm, and a path whose keyframes are told from such things."""

from collections.abc import Mapping, Sequence
from itertools import groupby, pairwise

import numpy as np
from msgspec import Struct
from numpy.typing import ArrayLike, NDArray
from scipy.ndimage import gaussian_filter1d

from glintor.reframing.anchor import Anchor
from glintor.reframing.curve import gently
from glintor.reframing.path import Keyframe, ViewPath
from glintor.reframing.path_clock import PathClock
from glintor.sphere import lens
from glintor.sphere.angle import wrap_deg
from glintor.sphere.equirect import lonlat_deg
from glintor.sphere.rotation import view_matrix
from glintor.types import Array

_STEP_S = 0.04
_LEAD_DEG_S = 12.0  # what crosses so quickly is led by three quarters of what is asked (judgement, no source)
_LEAD_S = 0.8  # lead room comes and goes over so long
_SIZE_S = 1.0  # sizes are told less surely than places: they are smoothed longer


class Following(Struct, frozen=True, eq=False):
    """Something that a view is held on: what it adds to a path's angles and width, and where in the frame it is wanted.

    time_s (n,), rising; adds (n, 5): yaw, unwrapped, and pitch in degrees, 0, logarithm of a focal length, 0; place (n, 2): frame
    widths right of and frame heights over the middle
    """

    time_s: Array
    adds: Array
    place: Array

    def on(self, clock: PathClock) -> "Following":
        """The same in the time of a path over the clip."""
        if not clock.freezes:
            return self
        stands = clock.knots(self.time_s)
        at = clock.clip_s(stands)
        return Following(stands, self.added(at), self.wanted(at))

    def added(self, times_s: Array) -> Array:
        """(m, 5) at other times; held at its ends."""
        return np.stack([np.interp(times_s, self.time_s, column) for column in self.adds.T], axis=1)

    def wanted(self, times_s: Array) -> Array:
        """(m, 2) where it is wanted in the frame."""
        return np.stack([np.interp(times_s, self.time_s, column) for column in self.place.T], axis=1)


def followed(
    anchor: Anchor,
    time_s: Array,
    yaw_deg: Array,
    pitch_deg: Array,
    *,
    tightness: Array | None = None,
    known: NDArray[np.bool_] | None = None,
) -> Following:
    """What is held on, from directions (n,) at moments (n,): bridged over what is not known, calm, with its lead room. tightness (n,):
    logarithm by which the focal length goes along. Smoothing looks both ways, so that nothing comes late."""
    sure = np.ones(len(time_s), bool) if known is None else np.asarray(known, bool)
    yaw_deg = np.degrees(np.unwrap(np.radians(np.asarray(yaw_deg)[sure])))
    grid = np.arange(time_s[0], time_s[-1] + _STEP_S, _STEP_S)
    at = time_s[sure]
    columns = [_bridged(at, values, grid) for values in (yaw_deg, np.asarray(pitch_deg)[sure])]
    if anchor.dead_deg:
        columns = [taut(column, anchor.dead_deg) for column in columns]
    yaw, pitch = (_calm(column, anchor.smooth_s) for column in columns)
    adds = np.zeros((len(grid), 5))
    adds[:, 0], adds[:, 1] = yaw, np.clip(pitch, -90.0, 90.0)
    if tightness is not None and anchor.width:
        adds[:, 3] = _calm(_bridged(at, np.asarray(tightness)[sure], grid), max(anchor.smooth_s, _SIZE_S))
    place = np.tile(np.asarray(anchor.place, np.float64), (len(grid), 1))
    if anchor.lead:
        crossing = _calm(np.gradient(yaw, grid), _LEAD_S) * np.cos(np.radians(adds[:, 1]))
        place[:, 0] -= anchor.lead * np.tanh(crossing / _LEAD_DEG_S)
    return Following(grid, adds, np.clip(place, -0.48, 0.48))


def _bridged(times: Array, values: Array, grid: Array) -> Array:
    """Values on an even grid: over gaps a monotone curve, held at the ends."""
    if len(times) < 3:
        return np.interp(grid, times, values)
    from scipy.interpolate import PchipInterpolator

    return np.asarray(PchipInterpolator(times, values)(np.clip(grid, times[0], times[-1])), np.float64)


def _calm(values: Array, spread_s: float) -> Array:
    """Gaussian means of both sides; at the ends mirrored through the last value, so that motion there goes on."""
    sigma = spread_s / _STEP_S
    if sigma < 0.05 or len(values) < 3:
        return values
    more = min(int(np.ceil(4.0 * sigma)), len(values) - 1)
    padded = np.concatenate(
        [2.0 * values[0] - values[more:0:-1], values, 2.0 * values[-1] - values[-2 : -more - 2 : -1]]
    )
    return np.asarray(gaussian_filter1d(padded, sigma)[more : more + len(values)], np.float64)


def taut(values: Array, slack: float) -> Array:
    """The shortest line (n,) that is never further than a slack from values (n,): it rests as long as it may, and turns no sooner than
    it must. The string pulled tight in a tube, by its corners: Davies & Kovac, "Local extremes, runs, strings and multiresolution",
    Ann. Statist. 29, 2001."""
    low, high = (values - slack).tolist(), (values + slack).tolist()
    last, at, start = len(low) - 1, 0, float(values[0])
    corners = [(at, start)]
    while at < last:
        steepest, flattest, upper, lower = np.inf, -np.inf, at, at
        for n in range(at + 1, last + 1):
            over, under = (high[n] - start) / (n - at), (low[n] - start) / (n - at)
            if under > steepest:  # it bends up round an upper corner
                at, start = upper, high[upper]
                break
            if over < flattest:
                at, start = lower, low[lower]
                break
            if over <= steepest:
                steepest, upper = over, n
            if under >= flattest:
                flattest, lower = under, n
        else:  # nothing more in its way: it rests as soon as it may
            if steepest < 0.0:
                at, start = upper, high[upper]
            elif flattest > 0.0:
                at, start = lower, low[lower]
            else:
                at = last
        corners.append((at, start))
    where, what = zip(*corners, strict=True)
    return np.interp(np.arange(len(values)), where, what)


class HeldPath:
    """A path whose keyframes are told from what they are held on; from one such thing to another, and to none, it goes over
    smoothly between the last keyframe of the one and the first of the other. The view's directions are those that its `wanted` places
    look at. What is held on nothing known stays as its keyframes say."""

    def __init__(self, keys: Sequence[Keyframe], span: tuple[float, float], targets: Mapping[str, Following]) -> None:
        self.keys = tuple(sorted(keys, key=lambda key: key.time_s))
        runs = [tuple(run) for _, run in groupby(self.keys, key=lambda key: key.on)]
        self._paths, self._on = [], [targets.get(run[0].on) for run in runs]
        for number, run in enumerate(runs):
            ends = (span[0] if number == 0 else -np.inf, span[1] if number == len(runs) - 1 else np.inf)
            self._paths.append(ViewPath(run, ends))
        self._overs = [(a[-1].time_s, b[0].time_s) for a, b in pairwise(runs)]
        self._turns = [0.0]
        for number, (first, last) in enumerate(self._overs):
            middle = np.array([(first + last) / 2.0])
            before, after = (self._run(n, middle)[0, 0] for n in (number, number + 1))
            self._turns.append(360.0 * float(np.round((before + self._turns[-1] - after) / 360.0)))

    def _run(self, number: int, times: Array) -> Array:
        out, on = self._paths[number].through_lens(times), self._on[number]
        return out if on is None else out + on.added(times)

    def shares(self, times: Array) -> Array:
        """(runs, n) how much each run counts at each time."""
        out = np.zeros((len(self._paths), len(times)))
        done = [gently(np.clip((times - a) / max(b - a, 1e-6), 0.0, 1.0)) for a, b in self._overs]
        for number in range(len(self._paths)):
            come = done[number - 1] if number else np.ones(len(times))
            gone = done[number] if number < len(done) else np.zeros(len(times))
            out[number] = come * (1.0 - gone)
        return out

    def through_lens(self, times_s: ArrayLike) -> Array:
        """As of a ViewPath; its yaw and pitch are of the direction that `wanted` places look at."""
        times = np.atleast_1d(np.asarray(times_s, np.float64))
        out = np.zeros((len(times), 5))
        for number, share in enumerate(self.shares(times)):
            some = share > 0.0
            if some.any():
                values = self._run(number, times[some])
                values[:, 0] += self._turns[number]
                out[some] += share[some, None] * values
        return out

    def wanted(self, times: Array) -> Array:
        """(n, 2) where in the frame those directions are wanted."""
        out = np.zeros((len(times), 2))
        for on, share in zip(self._on, self.shares(times), strict=True):
            if on is not None:
                out += share[:, None] * on.wanted(times)
        return out


def aimed(values: Array, place: Array, height_share: float) -> Array:
    """Values (n, 5), through the lens, whose direction is that of the frame's middle, from such whose direction is seen at a place
    (n, 2) of the frame; height_share: height of the frame in widths."""
    if np.abs(place).max(initial=0.0) < 1e-9:
        return values
    out = values.copy()
    level = np.zeros(len(values))
    turned = np.einsum("nij,nj->ni", view_matrix(level, level, values[:, 2]), _local(values, place, height_share))
    rise = np.sin(np.radians(np.clip(values[:, 1], -90.0, 90.0)))
    flat = np.maximum(np.hypot(turned[:, 0], turned[:, 2]), 1e-9)
    tilt = np.degrees(np.arcsin(np.clip(rise / flat, -1.0, 1.0)) - np.arctan2(turned[:, 2], turned[:, 0]))
    yaw, _ = lonlat_deg(np.einsum("nij,nj->ni", view_matrix(level, tilt, level), turned))
    out[:, 0], out[:, 1] = values[:, 0] - yaw, tilt
    return out


def at_place(values: Array, place: Array, height_share: float) -> Array:
    """The inverse of `aimed`: the directions that are seen at places (n, 2) of the frame, their yaws near the middle's."""
    look = np.einsum(
        "nij,nj->ni", view_matrix(values[:, 0], values[:, 1], values[:, 2]), _local(values, place, height_share)
    )
    yaw, pitch = lonlat_deg(look)
    out = values.copy()
    out[:, 0], out[:, 1] = values[:, 0] + wrap_deg(yaw - values[:, 0]), pitch
    return out


def _local(values: Array, place: Array, height_share: float) -> Array:
    """(n, 3) the directions in the frames' own axes that are seen at places."""
    right, up = place[:, 0], place[:, 1] * height_share
    r = np.hypot(right, up)
    angle = lens.angle_deg(r / np.exp(values[:, 3]), np.clip(values[:, 4], 0.0, lens.BEND_MAX))
    t = np.radians(np.where(np.isfinite(angle), angle, 60.0))  # off the ball: well to the side
    side = np.sin(t) / np.maximum(r, 1e-12)
    return np.stack([np.cos(t), -right * side, up * side], axis=1)

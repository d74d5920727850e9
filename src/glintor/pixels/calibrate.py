"""The profile of lenses found from their own pictures: what both see must lie in one direction, and what one sees must turn
as a whole when the camera turns.

Overlap tells how the lenses lie to one another; a camera that turns tells how each bends its picture. Robust least
squares over both: scipy's `least_squares` (Branch, Coleman & Li, SIAM J. Sci. Comput. 21, 1999).
"""

from collections.abc import Sequence
from itertools import pairwise

import cv2
import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from glintor.errors import InputError
from glintor.pixels.bursts import Followed, judge, spin_deg, unturned, ways_of
from glintor.pixels.circle import circle_in
from glintor.pixels.join import band, band_looks
from glintor.pixels.yuv import Plane
from glintor.sphere.lenses import Eye, Lenses, look_of_pixel, pixel_of
from glintor.sphere.rotation import angles_of
from glintor.types import Array, Report

Frame = tuple[Plane, ...]  # luma of each lens's part at one moment
_HALVES_DEG = (91.5, 93.0, 95.0, 97.0, 100.0, 103.0, 106.0, 110.0)  # fields that are tried, half of each
_POINTS, _BAND_POINTS = 240, 500
_BACK_PX = 0.5  # a feature that is not found again so near where it was is no feature
_PRIOR = {
    "centre": 0.02,
    "circle": 0.0025,
    "focal": 0.04,
    "ratio": 0.005,
    "k3": 0.02,
    "k5": 0.008,
    "turn": np.radians(2.0),
}
_PRIOR_WEIGHT, _ALONE_WEIGHT = (
    0.3,
    2.0,
)  # of a prior against one point; of one lens alone, which can bend anything into anything
_HUBER_PX = 0.6
_TRAVELLED = 0.1  # how much a burst says in which the camera went somewhere
_CLEAN_PX = 0.15  # what is left of clean points
_NEARER = 0.25  # how much counts what near things are apart by
_LEAST_POINTS = 60
_SOUND_PX = 2.0
_ROUNDS, _MOST_STEPS = 3, 40
LEAST_TURN_DEG = 0.7  # from which turning tells how a lens bends
_ALONE = 5.0  # times as free is the focal length of one lens: no other tells of it


class Found(Struct, frozen=True):
    """A profile and how well it fits: residual_px of pixels of these very pictures, from so many points; turned_deg: how much
    the camera turned, which is what bending is known from; sound: the share of what was followed that turns as one."""

    lenses: Lenses
    residual_px: float
    points: int
    turned_deg: float
    sound: float

    @property
    def measured(self) -> bool:
        """Whether the camera turned enough for the profile to hold for other recordings: one that stands still tells of its lenses only what
        it sees itself."""
        return self.turned_deg >= LEAST_TURN_DEG


def first_guess(frames: Sequence[Frame], start: Lenses) -> Lenses:
    """Circles where they are seen, and of usual fields and ways to lie the one in which both lenses agree best."""
    eyes = []
    for number, eye in enumerate(start.eyes):
        height, width = frames[0][number].shape
        circle = circle_in([frame[number] for frame in frames])
        if circle is not None:
            x, y, radius = circle
            eye = replace(
                eye,
                centre=((x + 0.5) / width, (y + 0.5 + (width - height) / 2.0) / width),
                radius=min(radius / width, 0.74),
            )
        eyes.append(eye)
    if start.alone:
        return replace(start, eyes=tuple(eyes))
    even = sum(eye.radius for eye in eyes) / 2.0
    if max(abs(eye.radius - even) for eye in eyes) < 0.02:
        eyes = [replace(eye, radius=even) for eye in eyes]
    best, tried = -2.0, replace(start, eyes=tuple(eyes))
    some = frames[:: max(len(frames) // 3, 1)]
    for half in _HALVES_DEG:
        for roll in (0.0, 90.0, 180.0, -90.0):
            turned = (replace(eyes[0], half_deg=half), replace(eyes[1], half_deg=half, turn_deg=(180.0, 0.0, roll)))
            lenses = replace(start, eyes=turned)
            score = float(np.mean([_likeness(lenses, frame) for frame in some]))
            if score > best:
                best, tried = score, lenses
    return tried


def _likeness(lenses: Lenses, frame: Frame) -> float:
    """How alike both lenses show the middle of the band, -1 to 1, with room for how far they may yet be turned."""
    one, two = (p - cv2.blur(p, (61, 1)) for p in band(lenses, list(frame), 1.2, 8, 720))
    a, b = one.mean(axis=0), two.mean(axis=0)
    scores = [float(np.corrcoef(a, np.roll(b, shift))[0, 1]) for shift in range(-4, 5)]
    return max(s if np.isfinite(s) else -1.0 for s in scores)


def overlap_residual_px(lenses: Lenses, frames: Sequence[Frame]) -> float | None:
    """How far apart both lenses show the same things, in pixels of a sphere 5760 wide (median); None where nothing tells."""
    apart = []
    for frame in frames:
        a, b = _band_matches(lenses, frame)
        if len(a) >= 20:
            one, two = _looks(lenses, frame, (a, b))
            apart.append(np.linalg.norm(one - two, axis=1))
    return float(np.median(np.concatenate(apart)) * 5760.0 / (2.0 * np.pi)) if apart else None


def _looks(lenses: Lenses, frame: Frame, points: tuple[Array, Array]) -> tuple[Array, Array]:
    sizes = [(part.shape[1], part.shape[0]) for part in frame]
    one, two = (
        look_of_pixel(eye, size, p[:, 0], p[:, 1]) for eye, size, p in zip(lenses.eyes, sizes, points, strict=True)
    )
    return one, two


def _followed(a: Plane, b: Plane, points: NDArray[np.float32]) -> tuple[NDArray[np.float32], NDArray[np.bool_]]:
    """Where points of one picture are in another, and whether they lead back."""
    if len(points) == 0:
        return points, np.zeros(0, bool)
    there, ok = _tracked(a, b, points)
    back, again = _tracked(b, a, there)
    return there, (np.linalg.norm(back - points, axis=1) < _BACK_PX) & ok & again


def _tracked(a: Plane, b: Plane, points: NDArray[np.float32]) -> tuple[NDArray[np.float32], NDArray[np.bool_]]:
    there, ok, _ = cv2.calcOpticalFlowPyrLK(
        a, b, points[:, None], np.empty(0, np.float32), winSize=(15, 15), maxLevel=3
    )
    return np.asarray(there, np.float32)[:, 0], np.asarray(ok)[:, 0] == 1


def _features(picture: Plane, mask: NDArray[np.uint8] | None, most: int) -> NDArray[np.float32]:
    gap = max(picture.shape[1] / 60.0, 4.0)
    found = cv2.goodFeaturesToTrack(picture, most, 0.002, gap, mask=mask, blockSize=5)
    return np.zeros((0, 2), np.float32) if found is None else np.asarray(found, np.float32).reshape(-1, 2)


def _band_matches(lenses: Lenses, frame: Frame) -> tuple[Array, Array]:
    """(n, 2) pixels of the same things in both lenses' parts."""
    half = float(np.clip(lenses.overlap_deg / 2.0 - 0.7, 0.8, 9.0))
    width = frame[0].shape[1]
    per_deg = np.clip(width * lenses.eyes[0].radius / lenses.eyes[0].half_deg * 1.2, 3.0, 14.0)
    rows, columns = max(round(2.0 * half * per_deg), 16), round(360.0 * per_deg)
    one, two = (_even(p) for p in band(lenses, list(frame), half, rows, columns))
    points = _features(one, None, _BAND_POINTS)
    there, ok = _followed(one, two, points)
    if not ok.any():
        return np.zeros((0, 2)), np.zeros((0, 2))
    looks = band_looks(lenses, half, rows, columns)
    out = []
    for eye, at, part in zip(lenses.eyes, (points[ok], there[ok]), frame, strict=True):
        inside = np.clip(at, 0, [columns - 1, rows - 1]).astype(np.float32)
        way = cv2.remap(looks.astype(np.float32), inside[:, None, 0], inside[:, None, 1], cv2.INTER_LINEAR)[:, 0]
        u, v, _ = pixel_of(eye, (part.shape[1], part.shape[0]), way / np.linalg.norm(way, axis=1, keepdims=True))
        out.append(np.stack([u, v], axis=1))
    fits = (there[ok][:, 1] >= 1.0) & (there[ok][:, 1] <= rows - 2.0)
    return out[0][fits], out[1][fits]


def _even(picture: NDArray[np.float32]) -> NDArray[np.uint8]:
    """Contrast that does not tell which lens is lighter."""
    mean = cv2.GaussianBlur(picture, (0, 0), 12.0)
    spread = np.sqrt(cv2.GaussianBlur((picture - mean) ** 2, (0, 0), 12.0)) + 2.0
    return np.clip((picture - mean) / spread * 40.0 + 128.0, 0, 255).astype(np.uint8)


def followed(bursts: Sequence[Sequence[Frame]], lenses: Lenses) -> list[list[tuple[Array, Array]]]:
    """For each burst and lens pixels (n, 2) in its first and its last picture."""
    found = []
    for burst in bursts:
        of_burst = []
        for number, eye in enumerate(lenses.eyes):
            first = burst[0][number]
            height, width = first.shape
            y, x = np.mgrid[:height, :width].astype(np.float32)
            cx, cy = eye.centre[0] * width - 0.5, eye.centre[1] * width - (width - height) / 2.0 - 0.5
            mask = (np.hypot(x - cx, y - cy) < 0.97 * eye.radius * width).astype(np.uint8)
            begun = _features(first, mask, _POINTS)
            at, alive = begun, np.ones(len(begun), bool)
            for before, after in pairwise(burst):
                there, ok = _followed(before[number], after[number], at)
                at, alive = there, alive & ok
            of_burst.append((begun[alive].astype(np.float64), at[alive].astype(np.float64)))
        found.append(of_burst)
    return found


class _Unknowns:
    """Which numbers of a profile are sought, as one vector: steps away from where one begins, in units of what is usual."""

    def __init__(self, start: Lenses, *, bends: bool) -> None:
        """bends: whether a camera that only turned tells how its lenses bend; else they bend as usual."""
        self.start, self.two = start, not start.alone
        free = 1.0 if self.two else _ALONE
        # an image circle's middle is where the axis meets the picture, or nearly; without one it is the middle of the part
        near = [_PRIOR["centre" if eye.centre == (0.5, 0.5) else "circle"] for eye in start.eyes]
        self.prior = [near[0]] * 2 + [_PRIOR["focal"] * free, _PRIOR["k3"], _PRIOR["k5"]]
        if self.two:
            self.prior += [near[1]] * 2 + [_PRIOR["ratio"]] + [_PRIOR["turn"]] * 3
        self.scale = np.array(self.prior)
        usual = [1.5, 1.5, 1.5, 2.0, 2.0] + [1.5, 1.5, 2.0, 1.5, 1.5, 1.5] * self.two
        self.most = np.array(usual) * (1.0 if self.two else 2.0)  # no number goes farther from the first guess
        if not bends:
            self.most[2:5] = [0.25, 0.05, 0.05]

    def lenses(self, x: Array) -> Lenses:
        from scipy.spatial.transform import Rotation

        x = x * self.scale
        first = self._eye(self.start.eyes[0], x[0:2], x[2], x[3], x[4])
        if not self.two:
            return replace(self.start, eyes=(first,))
        old = self.start.eyes[1]
        second = self._eye(old, x[5:7], x[2] + x[7], x[3], x[4])
        turn = old.matrix @ Rotation.from_rotvec(x[8:11]).as_matrix()
        return replace(self.start, eyes=(first, replace(second, turn_deg=angles_of(turn))))

    @staticmethod
    def _eye(eye: Eye, centre: Array, focal: float, k3: float, k5: float) -> Eye:
        """focal: by what share the radius at the same angle is larger; the circle's own radius stays, its angle follows."""
        k3, k5 = float(np.clip(eye.k3 + k3, -0.2, 0.2)), float(np.clip(eye.k5 + k5, -0.1, 0.1))
        bent = replace(eye, k3=k3, k5=k5, centre=(float(eye.centre[0] + centre[0]), float(eye.centre[1] + centre[1])))
        per_rad = eye.focal * float(np.exp(focal))
        grid = np.linspace(0.2, 2.4, 400)
        half = float(np.interp(eye.radius, per_rad * bent.bent(grid), grid))
        return replace(bent, half_deg=float(np.clip(np.degrees(half), 30.0, 140.0)))


class _Task(Struct, frozen=True, eq=False):
    """What is left to be explained with some unknowns. pair: pixels of the same things in both lenses, none of one lens alone; ways:
    where to the camera went in each burst, zeros where it only turned."""

    unknowns: _Unknowns
    seen: Sequence[Followed]
    pair: Sequence[Array]
    sizes: Sequence[tuple[int, int]]
    ways: Sequence[Array]
    say: tuple[float, ...] = ()  # of each burst, and of the overlap: less where much is left that no profile explains

    def weighed(self, x: Array) -> "_Task":
        """The same with says by what is left at x."""
        turning, apart = self.left(x)
        counts = [sum(int(s.sound[s.of(n)].sum()) for s in self.seen) for n in range(len(self.ways))]
        parts = [*np.split(np.linalg.norm(turning, axis=1), np.cumsum(counts)[:-1]), np.linalg.norm(apart, axis=1)]
        say = tuple(
            float(np.clip(_CLEAN_PX / max(float(np.median(p)), 1e-6), 0.05, 1.0)) if len(p) else 1.0 for p in parts
        )
        slow = [_TRAVELLED if way.any() else 1.0 for way in self.ways]  # near things that pass are followed badly
        return replace(self, say=tuple(s * w for s, w in zip(say, [*slow, 1.0], strict=True)))

    def left(self, x: Array) -> tuple[Array, Array]:
        """(n, 3) of turning and of overlap, pixels."""
        now = self.unknowns.lenses(x)
        looks = [of_eye.looks(now, self.sizes[of_eye.eye]) for of_eye in self.seen]
        turning = [unturned(number, self.seen, looks, way) for number, way in enumerate(self.ways)]
        both = [look_of_pixel(e, s, p[:, 0], p[:, 1]) for e, s, p in zip(now.eyes, self.sizes, self.pair, strict=False)]
        apart = _apart(both[0], both[1], now.eyes[0].matrix[:, 0]) if both else np.zeros((0, 3))
        scale = now.eyes[0].focal * self.sizes[0][0]  # of this very lens: else a longer one would seem to err less
        return np.concatenate(turning) * scale, apart * scale

    def residuals(self, x: Array) -> Array:
        turning, apart = self.left(x)
        counts = [sum(int(s.sound[s.of(n)].sum()) for s in self.seen) for n in range(len(self.ways))]
        say = np.repeat(self.say[:-1], counts)[:, None]
        prior = x * (_PRIOR_WEIGHT if self.unknowns.two else _ALONE_WEIGHT)
        return np.concatenate([(turning * say).ravel(), (apart * self.say[-1]).ravel(), prior])


def _apart(one: Array, two: Array, axis: Array) -> Array:
    """(n, 3) how far apart two lenses see things. The nearer a thing, the more the lens that is ahead sees it behind where the other
    does: that way round counts little, so that far things tell how the lenses lie."""
    apart = one - two
    along = axis - one * (one @ axis)[:, None]
    along /= np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-9)
    off = np.sum(apart * along, axis=1, keepdims=True)
    return np.asarray(apart - np.where(off < 0.0, 1.0 - _NEARER, 0.0) * off * along)


def calibrate(bursts: Sequence[Sequence[Frame]], start: Lenses, *, report: Report = lambda _share: None) -> Found:
    """The profile that fits best; bursts: short runs of pictures, one after the other. Raises InputError where the pictures do not
    tell enough."""
    from scipy.optimize import least_squares

    frames = [burst[0] for burst in bursts]
    lenses = first_guess(frames, start)
    report(0.2)
    seen = [Followed(eye, of_eye) for eye, of_eye in enumerate(zip(*followed(bursts, lenses), strict=True))]
    report(0.45)
    part = frames[0][0]
    scale, sizes = float(lenses.eyes[0].focal * part.shape[1]), [(p.shape[1], p.shape[0]) for p in frames[0]]
    turned = over = np.zeros((0, 3))
    judge(seen, lenses, sizes, scale)
    ways = ways_of(seen, lenses, sizes)
    clean = [number for number, way in enumerate(ways) if not way.any()]
    turned_deg = max((spin_deg(number, seen, lenses, sizes) for number in clean), default=0.0)
    unknowns = _Unknowns(lenses, bends=lenses.alone or turned_deg > LEAST_TURN_DEG)
    x = np.zeros(len(unknowns.scale))
    for again in range(_ROUNDS):
        both_ends = [frame for burst in bursts for frame in (burst[0], burst[-1])]
        matches = [_band_matches(lenses, frame) for frame in both_ends] if not lenses.alone else []
        pair = [np.concatenate([m[n] for m in matches]) for n in (0, 1)] if matches else []
        task = _Task(unknowns, seen, pair, sizes, ways_of(seen, lenses, sizes)).weighed(x)
        result = least_squares(
            task.residuals,
            x,
            bounds=(
                -unknowns.most,
                unknowns.most,
            ),  # beyond, all would shrink into one point, and nothing be left to explain
            loss="soft_l1",
            f_scale=_HUBER_PX,
            max_nfev=_MOST_STEPS,
            xtol=1e-5,
        )
        x = result.x
        lenses, (turned, over) = unknowns.lenses(x), task.left(x)
        judge(seen, lenses, sizes, scale)
        report(0.45 + 0.55 * (again + 1) / _ROUNDS)
    told = over if len(over) else turned
    off = np.linalg.norm(told, axis=1)
    kept = off < max(3.0 * float(np.median(off)), 0.3) if len(off) else np.zeros(0, bool)
    spin = max((spin_deg(number, seen, lenses, sizes) for number in clean), default=0.0)
    if kept.sum() < _LEAST_POINTS:
        raise InputError(
            "These pictures do not tell how the lenses lie: too little is seen by both, or it is too dark.",
            unharmed="The recording was not changed.",
            advice="Try a part with more to see, or choose a profile.",
        )
    rms = float(np.sqrt((off[kept] ** 2).mean()))
    if rms > _SOUND_PX or kept.mean() < 0.5:
        raise InputError(
            f"No profile fits these pictures: what both lenses see lies {rms:.1f} pixels apart at best.",
            unharmed="The recording was not changed.",
            advice="If it is no pair of fisheyes, say what it is; else choose a profile.",
        )
    return Found(lenses, rms, int(kept.sum()), spin, float(np.concatenate([s.sound for s in seen]).mean()))

"""Following a subject in a sphere, picture after picture, on upright local patches, so that poles, seam and back do not matter.

Three witnesses who err in different ways are asked each time: how features in the subject moved (optical flow), where it looks like it did
(templates), and what colours are there (three bands of hue and saturation); people are besides found by a detector now and then. Where they
disagree nothing is claimed: the state becomes unsure, then lost, and a lost subject is looked for all around.
"""

import cv2
import numpy as np
from msgspec import Struct

from glintor.pixels.appearance import Corners, Looks, Patch
from glintor.pixels.people import SIDE_PX, Box, people_in
from glintor.pixels.reproject import Filter, Reprojector
from glintor.pixels.spheres import Sphere
from glintor.pixels.yuv import Yuv
from glintor.sphere.equirect import direction, lonlat_deg
from glintor.sphere.lenses import Projection
from glintor.sphere.rotation import view_matrix
from glintor.types import Array

LOST, UNSURE, SURE = 0, 1, 2  # as `reframing.track` writes them
_PATCH_PX, _PER_SIZE, _NARROW_DEG, _WIDE_DEG = 160, 3.0, 16.0, 100.0
_PATIENT, _IMPATIENT = 10, 4  # looks in vain for a person that goes on to look right, or does not
_HERE = 0.5  # colours at most of who stands alone where it was lost
_DETECT_S, _CONFIRMED_S, _GIVE_UP_S, _SEARCH_S = 0.6, 1.3, 1.0, 0.25
_LOOKS_LIKE, _AS_BEFORE = 0.42, 0.55  # Bhattacharyya distance of colours at most; correlation with a template at least
_ALONE_S, _IN_PLACE = 0.3, 0.62
_NO_DOUBT = 0.07  # by which the one must look more alike than the next
_WATCH_S, _WATCHED_S = 0.15, 1.5  # while somebody as alike is near, people are looked for so often, for so long
_MET, _NEARLY_MET, _PARTED = 0.9, 1.5, 2.6  # sizes between two that are as alike
_COURSE_S, _GONE_ON_S = 1.2, 6.0  # so much of its course tells how it went; it is thought to go on so for so long
_LIKE_AGAIN, _COLOURS_AGAIN = (
    0.7,
    0.3,
)  # of a lost thing: correlation with a template at least, distance of colours at most there
_SCALES = (1.0, 0.85, 1.2, 0.7, 1.4)  # sizes in which it is looked for
_SEARCH_DEG = (0.0, 60.0, -60.0, 120.0, -120.0, 180.0)


class Seen(Struct, frozen=True):
    """Where a subject is at a moment: yaw and pitch in the picture, how high it is, degrees; state: lost, unsure or sure."""

    time_s: float
    yaw_deg: float
    pitch_deg: float
    size_deg: float
    state: int


class SubjectTracker:
    """Follows one subject. person: whether a detector can confirm it, None to find that out; tall: width over height of its box."""

    def __init__(self, shows: Projection, *, person: bool | None = None) -> None:
        self._small = Reprojector((_PATCH_PX, _PATCH_PX), Filter.FAST, shows=shows)
        self._large = Reprojector((SIDE_PX, SIDE_PX), Filter.FAST, shows=shows)
        self.person = person
        self._tall = 0.45
        self._look, self._speed = np.array([1.0, 0.0, 0.0]), np.zeros(3)
        self._size = 10.0
        self._looks: Looks | None = None
        self._before: tuple[Sphere | Yuv, Array, float] | None = None  # the sphere before, its turn, its moment
        self._state, self._good_at, self._confirmed_at, self._asked_at = SURE, 0.0, 0.0, -1e9
        self._search = 0
        self._doubts = 0
        self._twin_at, self._twin_sizes = -1e9, 9.0  # somebody as alike: when last seen, and how many sizes away
        self._doubted_at = -1e9  # when the detector last missed it
        self._mixed = False  # the two met: nobody can say which is which
        self._course: list[tuple[float, Array]] = []  # where it was of late, while it was followed well
        self._anchor, self._share = (
            (0.0, 0.0),
            1.0,
        )  # of what was pointed at in the box, in its heights; its height in the box's

    # Beginning
    def begin(self, sphere: Sphere | Yuv, time_s: float, look: Array, size_deg: float, turn: Array) -> Seen:
        """Takes what is there for the subject: look is its middle in the held frame, size_deg its height."""
        self._look, self._size, self._speed = look / np.linalg.norm(look), max(size_deg, 1.0), np.zeros(3)
        self._state, self._good_at, self._confirmed_at = SURE, time_s, time_s
        self._anchor, self._share = (0.0, 0.0), 1.0
        self._twin_at, self._twin_sizes, self._mixed, self._doubted_at = -1e9, 9.0, False, -1e9
        self._course = []
        if self.person is not False:
            patch, boxes = self._people(sphere, turn, self._look, float(np.clip(4.0 * size_deg, 70.0, 95.0)))
            near = [b for b in boxes if self._holds(patch, b)]
            if near:
                best = min(near, key=lambda b: self._apart(patch, b))
                self.person = True
                self._tall = float(np.clip(best.w / best.h, 0.2, 1.2))
                at, middle = patch.place_of(self._look), best.middle
                self._anchor = (at[0] - middle[0]) / best.h, (at[1] - middle[1]) / best.h
                self._share = self._size / patch.deg_of(best.h)
                self._look, self._size = patch.look_at(*middle), patch.deg_of(best.h)
            elif self.person is None:
                self.person = False
                self._tall = 1.0
        patch = self._patch(sphere, turn, self._look)
        self._looks = Looks(patch, self._box(patch, self._look, self._size))
        self._before = (sphere, turn, time_s)
        self._asked_at = time_s
        return self._seen(time_s, turn)

    # Going on
    def step(self, sphere: Sphere | Yuv, time_s: float, turn: Array) -> Seen:
        """Where it is in the next picture, a moment before or after the last one."""
        assert self._looks is not None and self._before is not None, "it was begun"
        passed = abs(time_s - self._before[2])
        if self._state == LOST:
            self._look_around(sphere, time_s, turn)
        else:
            self._go_along(sphere, time_s, passed, turn)
        self._before = (sphere, turn, time_s)
        return self._seen(time_s, turn)

    def _go_along(self, sphere: Sphere | Yuv, time_s: float, passed: float, turn: Array) -> None:
        assert self._looks is not None and self._before is not None
        guess = _unit(self._look + self._speed * passed)
        patch = self._patch(sphere, turn, guess)
        look, size, share = self._by_flow(patch, guess)
        look, like = self._by_looks(patch, look, size)
        box = self._box(patch, look, size)
        unlike = self._looks.distance(patch, box)
        if not self.person:
            self._looks.follow(patch, box) if unlike < 0.25 else None
        good = unlike < _LOOKS_LIKE + 0.06 and (like > _AS_BEFORE or share > 0.5)
        watched = abs(time_s - self._twin_at) < _WATCHED_S
        due = abs(time_s - self._asked_at) >= (_WATCH_S if watched else _DETECT_S if good else _SEARCH_S)
        told: bool | None = None
        if self.person and due:
            self._asked_at = time_s
            told, where, high = self._confirmed(sphere, turn, look if good else guess, time_s)
            if told and where is not None:
                look, size = _unit(0.3 * look + 0.7 * where) if good else where, 0.6 * size + 0.4 * high
                good = True
        if told:
            self._confirmed_at, self._doubts = time_s, 0
        elif told is False:
            self._doubts += 1
            self._doubted_at = time_s
        if good:
            moved = (look - self._look) / max(passed, 1e-3)
            self._speed = 0.7 * self._speed + 0.3 * (moved - look * float(moved @ look))
            self._look, self._size, self._good_at = look, float(np.clip(size, 1.0, 150.0)), time_s
            self._course = [(at, was) for at, was in self._course if abs(time_s - at) <= _COURSE_S] + [(time_s, look)]
            if unlike < 0.3 and (told or not self.person):
                self._looks.learn(patch, self._box(patch, look, size))
        else:
            self._look, self._speed = guess, 0.9 * self._speed
        self._state = self._judged(good, like, unlike, time_s)

    def _judged(self, good: bool, like: float, unlike: float, time_s: float) -> int:
        if abs(time_s - self._good_at) > _GIVE_UP_S or self._doubts >= (_PATIENT if good else _IMPATIENT):
            self._search, self._doubts = 0, 0
            return LOST
        if self.person:
            fresh = abs(time_s - self._confirmed_at) <= _CONFIRMED_S and self._doubts == 0
            return SURE if good and fresh and not self._mixed else UNSURE
        return SURE if good and like > 0.6 and unlike < 0.35 else UNSURE

    def _by_flow(self, patch: Patch, guess: Array) -> tuple[Array, float, float]:
        """Where features of the subject went, how its size changed, and which share of them agree."""
        assert self._before is not None
        sphere, turn, _ = self._before
        old = Patch(self._small, sphere, guess, self._fov, turn)
        x, y, w, h = self._box(old, self._look, self._size)
        mask = np.zeros_like(old.gray)
        cv2.ellipse(mask, ((x + w / 2, y + h / 2), (0.8 * w, 0.9 * h), 0.0), 255, -1)
        corners = cv2.goodFeaturesToTrack(old.gray, 30, 0.01, 3, mask=mask)
        if corners is None or len(corners) < 4:
            return guess, self._size, 0.0
        window = (11, 11)
        there, ok, _ = cv2.calcOpticalFlowPyrLK(
            old.gray, patch.gray, corners, np.empty(0, np.float32), winSize=window, maxLevel=3
        )
        back, ok2, _ = cv2.calcOpticalFlowPyrLK(
            patch.gray, old.gray, there, np.empty(0, np.float32), winSize=window, maxLevel=3
        )
        kept = (ok.ravel() == 1) & (ok2.ravel() == 1) & (np.linalg.norm(back - corners, axis=2).ravel() < 1.0)
        if kept.sum() < 4:
            return guess, self._size, 0.0
        a, b = corners[kept, 0], there[kept, 0]
        moved = b - a
        middle = np.median(moved, axis=0)
        agrees = np.linalg.norm(moved - middle, axis=1) < max(2.0, 0.08 * h)
        share = float(agrees.sum()) / len(corners)
        spread = [np.linalg.norm(p - np.median(p, axis=0), axis=1).mean() for p in (a[agrees], b[agrees])]
        grown = float(np.clip(spread[1] / spread[0], 0.93, 1.07)) if agrees.sum() >= 6 and spread[0] > 2.0 else 1.0
        at = old.place_of(self._look)
        return patch.look_at(at[0] + middle[0], at[1] + middle[1]), self._size * grown, share

    def _by_looks(self, patch: Patch, look: Array, size: float) -> tuple[Array, float]:
        """Where near there it looks most as it did."""
        assert self._looks is not None
        x, y, w, h = self._box(patch, look, size)
        best, place = -1.0, (0.0, 0.0)
        reach_x, reach_y = max(0.15 * w, 2.0), max(0.06 * h, 2.0)
        for dx in (-reach_x, 0.0, reach_x):
            for dy in (-reach_y, 0.0, reach_y):
                like = self._looks.likeness(patch, (x + dx, y + dy, w, h)) - (0.02 if dx or dy else 0.0)
                if like > best:
                    best, place = like, (dx, dy)
        return patch.look_at(x + w / 2 + place[0], y + h / 2 + place[1]), best

    # People
    def _people(self, sphere: Sphere | Yuv, turn: Array, look: Array, fov_deg: float = 0.0) -> tuple[Patch, list[Box]]:
        fov = fov_deg or float(np.clip(3.6 * self._size, 40.0, 95.0))
        patch = Patch(self._large, sphere, look, fov, turn)
        return patch, people_in(patch.bgr)

    def _holds(self, patch: Patch, box: Box) -> bool:
        """Whether what was pointed at is in the box of a person."""
        x, y = patch.place_of(self._look)
        return box.x - 0.1 * box.w <= x <= box.x + 1.1 * box.w and box.y - 0.05 * box.h <= y <= box.y + 1.05 * box.h

    def _apart(self, patch: Patch, box: Box) -> float:
        """How far a person is from where the subject is thought to be, degrees."""
        return float(np.degrees(np.arccos(np.clip(patch.look_at(*box.middle) @ self._look, -1.0, 1.0))))

    def _confirmed(
        self, sphere: Sphere | Yuv, turn: Array, look: Array, time_s: float
    ) -> tuple[bool, Array | None, float]:
        """Whether the detector sees the subject there; if so where and how high."""
        assert self._looks is not None
        doubted = abs(time_s - self._doubted_at) < _WATCHED_S  # then it is looked round for somebody as alike
        patch, boxes = self._people(
            sphere, turn, look, float(np.clip(5.4 * self._size, 40.0, 95.0)) if doubted else 0.0
        )
        waited = abs(time_s - self._good_at)
        gate = (0.7 + 1.5 * waited) * self._size
        ranked = []
        for box in boxes:
            where = patch.look_at(*box.middle)
            apart = float(np.degrees(np.arccos(np.clip(where @ look, -1.0, 1.0))))
            unlike = self._looks.distance(patch, (box.x, box.y, box.w, box.h))
            if apart < gate and 0.55 < patch.deg_of(box.h) / self._size < 1.8:
                ranked.append((unlike + 0.15 * apart / self._size, apart, box))
        self._look_for_twins(patch, boxes, look, time_s)
        if not ranked:
            return False, None, 0.0
        ranked.sort(key=lambda r: r[0])
        if len(ranked) > 1 and ranked[1][0] - ranked[0][0] < _NO_DOUBT:
            return False, None, 0.0  # two that are as alike: nothing is claimed
        unlike, apart, box = ranked[0]
        alone = len(ranked) == 1 and waited < _ALONE_S and apart < 0.5 * self._size
        if unlike > (_IN_PLACE if alone else _LOOKS_LIKE):  # light and box may change, but not where it is
            return False, None, 0.0
        self._looks.follow(patch, (box.x, box.y, box.w, box.h))
        return True, patch.look_at(*box.middle), patch.deg_of(box.h)

    def _look_for_twins(self, patch: Patch, boxes: list[Box], look: Array, time_s: float) -> None:
        """Whether somebody as alike is about; once the two have met, nobody can say any more which of them it is."""
        assert self._looks is not None
        told = []
        for box in boxes:
            cosine = float(np.clip(patch.look_at(*box.middle) @ look, -1.0, 1.0))
            unlike = self._looks.distance(patch, (box.x, box.y, box.w, box.h))
            if 0.6 < patch.deg_of(box.h) / self._size < 1.6:
                told.append((float(np.degrees(np.arccos(cosine))) / self._size, unlike))
        told.sort()
        own = told[0][1] if told and told[0][0] < 0.5 else _LOOKS_LIKE
        twins = [sizes for sizes, unlike in told[1:] if unlike < own + _NO_DOUBT]
        if twins:
            unseen = abs(time_s - self._doubted_at) < _WATCHED_S and min(twins) < _PARTED  # it came from behind it
            self._mixed = self._mixed or unseen or min(twins) < _MET
            self._twin_at, self._twin_sizes = time_s, min(twins)
        elif abs(time_s - self._twin_at) < _WATCHED_S and self._twin_sizes < _NEARLY_MET:
            self._mixed = True  # the one went behind the other

    def _look_around(self, sphere: Sphere | Yuv, time_s: float, turn: Array) -> None:
        """Looks for a lost person, one direction after the other, those near where it was lost more often."""
        if not self.person or abs(time_s - self._asked_at) < _SEARCH_S:
            if not self.person:
                self._look_near(sphere, time_s, turn)
            return
        assert self._looks is not None
        self._asked_at = time_s
        yaw, pitch = (float(v) for v in lonlat_deg(self._look))
        by = (
            _SEARCH_DEG[self._search // 2 % len(_SEARCH_DEG)] if self._search % 2 else 0.0
        )  # every other time where it was
        self._search += 1
        fov = float(np.clip(4.5 * self._size, 60.0, 95.0))
        patch, boxes = self._people(sphere, turn, direction(yaw + by, np.clip(pitch, -40.0, 40.0)), fov)
        ranked = sorted((self._looks.distance(patch, (b.x, b.y, b.w, b.h)), n) for n, b in enumerate(boxes))
        if not ranked:
            return
        first = boxes[ranked[0][1]]
        same = 0.75 < patch.deg_of(first.h) / self._size < 1.33 and self._apart(patch, first) < 0.4 * self._size
        if ranked[0][0] > (_HERE if same and len(ranked) == 1 else _LOOKS_LIKE - 0.04):
            return
        if len(ranked) > 1 and ranked[1][0] - ranked[0][0] < _NO_DOUBT:
            return
        box = boxes[ranked[0][1]]
        self._look, self._size, self._speed = patch.look_at(*box.middle), patch.deg_of(box.h), np.zeros(3)
        self._state, self._good_at, self._doubts = UNSURE, time_s, 0
        self._confirmed_at = time_s - 10.0  # once more before it is sure
        self._asked_at = -1e9

    def _look_near(self, sphere: Sphere | Yuv, time_s: float, turn: Array) -> None:
        """Looks for a lost thing by its looks alone, from where it was lost on to where it would be by now had it gone on so."""
        assert self._looks is not None
        if abs(time_s - self._asked_at) < _SEARCH_S:
            return
        self._asked_at = time_s
        lost, ahead = self._gone(time_s)
        far_deg = float(np.degrees(np.arccos(np.clip(lost @ ahead, -1.0, 1.0))))
        middle = _unit(lost + ahead)
        fov = float(np.clip(far_deg + _PER_SIZE * self._size, self._fov, _WIDE_DEG))
        patch = Patch(self._large, sphere, middle, fov, turn)
        _, _, w, h = self._box(patch, middle, self._size)
        found: list[tuple[float, float, float, float]] = []  # how alike, where, and how large against what it was
        for scale in _SCALES:
            size = (scale * w, scale * h)
            for like, x, y in self._looks.places(patch, size, _LIKE_AGAIN):
                unlike = self._looks.distance(patch, (x - size[0] / 2, y - size[1] / 2, *size))
                if unlike < _COLOURS_AGAIN + 0.75 * (like - _LIKE_AGAIN):
                    found.append((like, x, y, scale))
        if not found:
            return
        best, at_x, at_y, scale = max(found)
        if any(like > best - _NO_DOUBT and np.hypot((x - at_x) / w, (y - at_y) / h) > 0.8 for like, x, y, _ in found):
            return  # of two that are as alike nothing is claimed
        self._look, self._state, self._good_at = patch.look_at(at_x, at_y), UNSURE, time_s
        self._size, self._speed = self._size * scale, np.zeros(3)

    def _gone(self, time_s: float) -> tuple[Array, Array]:
        """Where it was followed last, and where it would be now had it gone on as it went then."""
        if len(self._course) < 2:
            return self._look, self._look
        times = np.array([at for at, _ in self._course])
        looks = np.stack([look for _, look in self._course])
        middle = len(times) // 2
        rates = (looks[middle:] - looks[: len(times) - middle]) / (times[middle:] - times[: len(times) - middle])[
            :, None
        ]
        step = np.median(rates, axis=0) * np.clip(time_s - times[-1], -_GONE_ON_S, _GONE_ON_S)
        return looks[-1], _unit(looks[-1] + step)

    # Small things
    @property
    def _fov(self) -> float:
        return float(np.clip(_PER_SIZE * self._size, _NARROW_DEG, _WIDE_DEG))

    def _patch(self, sphere: Sphere | Yuv, turn: Array, look: Array) -> Patch:
        return Patch(self._small, sphere, look, self._fov, turn)

    def _box(self, patch: Patch, look: Array, size: float) -> Corners:
        x, y = patch.place_of(look)
        h = patch.px_of(size)
        w = h * self._tall
        return x - w / 2.0, y - h / 2.0, w, h

    def _seen(self, time_s: float, turn: Array) -> Seen:
        yaw, pitch = (float(v) for v in lonlat_deg(self._look))
        high = 2.0 * np.tan(np.radians(self._size) / 2.0)  # on a plane at distance 1 round the box's middle
        ray = view_matrix(yaw, pitch, 0.0) @ np.array([1.0, -self._anchor[0] * high, -self._anchor[1] * high])
        yaw, pitch = (float(v) for v in lonlat_deg(turn.T @ ray))
        return Seen(time_s, yaw, pitch, self._size * self._share, self._state)


def _unit(vector: Array) -> Array:
    return np.asarray(vector / np.linalg.norm(vector))

"""What a subject looks like on an upright patch of the sphere: colours in three bands, and small pictures of it."""

from itertools import pairwise

import cv2
import numpy as np
from numpy.typing import NDArray

from glintor.pixels import colour
from glintor.pixels.reproject import Reprojector
from glintor.pixels.spheres import Sphere
from glintor.pixels.yuv import Yuv
from glintor.sphere.equirect import lonlat_deg
from glintor.sphere.rotation import view_matrix
from glintor.sphere.turn import turned
from glintor.sphere.view import View
from glintor.types import Array

Image = NDArray[np.uint8]
Corners = tuple[float, float, float, float]  # left, top, width, height, px
_BINS = (12, 8)  # of hue and saturation
_GALLERY, _TEMPLATE = 4, (24, 48)  # appearances that are remembered; their size, px
_MOST_PLACES = 6  # that are looked at where something is looked for
_OTHER_LIGHT = 0.25  # by which colours must differ to be remembered besides


class Patch:
    """An upright flat picture round a direction of the held frame."""

    def __init__(self, drawer: Reprojector, sphere: Sphere | Yuv, look: Array, fov_deg: float, turn: Array) -> None:
        yaw, pitch = (float(v) for v in lonlat_deg(look))
        view = View(yaw_deg=yaw, pitch_deg=pitch, fov_deg=fov_deg, bend=0.0)
        drawn = drawer.draw(sphere, turned(view, turn))
        self.side = drawer.size_px[0]
        self.bgr: Image = np.ascontiguousarray(
            colour.rgb32(drawn).view(np.uint8).reshape(self.side, self.side, 4)[..., :3]
        )
        self.gray: Image = np.asarray(cv2.cvtColor(self.bgr, cv2.COLOR_BGR2GRAY), np.uint8)
        self.focal = self.side / 2.0 / np.tan(np.radians(fov_deg) / 2.0)
        self._axes = view_matrix(yaw, pitch, 0.0)

    def look_at(self, x: float, y: float) -> Array:
        """The direction of a place in it, px."""
        ray = np.array([self.focal, -(x - self.side / 2.0), -(y - self.side / 2.0)])
        look: Array = self._axes @ (ray / np.linalg.norm(ray))
        return look

    def place_of(self, look: Array) -> tuple[float, float]:
        ray = self._axes.T @ look
        ahead = max(float(ray[0]), 1e-3)
        return self.side / 2.0 - self.focal * ray[1] / ahead, self.side / 2.0 - self.focal * ray[2] / ahead

    def px_of(self, size_deg: float) -> float:
        return 2.0 * self.focal * np.tan(np.radians(size_deg) / 2.0)

    def deg_of(self, px: float) -> float:
        return float(2.0 * np.degrees(np.arctan(px / 2.0 / self.focal)))


class Looks:
    """What a subject looks like: colours in three bands, and templates of how it looked."""

    def __init__(self, patch: Patch, box: Corners) -> None:
        self.bands = _bands(patch.bgr, box)
        self.lights = [self.bands]  # the same in lights that it was seen in; the first stays
        self.templates: list[NDArray[np.float32]] = [_template(patch.gray, box)]

    def distance(self, patch: Patch, box: Corners) -> float:
        """How unlike the colours of a box are, 0 to 1."""
        there = _bands(patch.bgr, box)
        return min(_unlike(one, there) for one in (self.bands, *self.lights))

    def likeness(self, patch: Patch, box: Corners) -> float:
        """The best correlation of a box with what was remembered."""
        now = _template(patch.gray, box)
        return max(float((now * kept).mean()) for kept in self.templates)

    def places(self, patch: Patch, size: tuple[float, float], least: float) -> list[tuple[float, float, float]]:
        """Where in a patch something of a size (width, height, px) looks as was remembered: how alike, and its middle (x, y); the most alike
        first, none within a size of another."""
        wide, high = _TEMPLATE
        to = (round(patch.side * wide / size[0]), round(patch.side * high / size[1]))
        if min(to[0] - wide, to[1] - high) < 1:
            return []
        picture = cv2.resize(patch.gray, to, interpolation=cv2.INTER_AREA).astype(np.float32)
        alike = np.max([cv2.matchTemplate(picture, kept, cv2.TM_CCOEFF_NORMED) for kept in self.templates], axis=0)
        found: list[tuple[float, float, float]] = []
        while len(found) < _MOST_PLACES:
            _, best, _, (x, y) = cv2.minMaxLoc(alike)
            if best < least:
                break
            middle = (x + wide / 2) * patch.side / to[0], (y + high / 2) * patch.side / to[1]
            found.append((float(best), *middle))
            alike[max(y - high, 0) : y + high + 1, max(x - wide, 0) : x + wide + 1] = -1.0
        return found

    def follow(self, patch: Patch, box: Corners) -> None:
        """Its colours in the light of now."""
        there = _bands(patch.bgr, box)
        self.bands = [(0.75 * a + 0.25 * b).astype(np.float32) for a, b in zip(self.bands, there, strict=True)]
        if min(_unlike(one, self.bands) for one in self.lights) > _OTHER_LIGHT:
            self.lights = [self.lights[0], *self.lights[1:][-_GALLERY + 2 :], self.bands]

    def learn(self, patch: Patch, box: Corners) -> None:
        """Remembers how it looks now; the first look stays."""
        if self.likeness(patch, box) < 0.8:
            if len(self.templates) >= _GALLERY:
                self.templates.pop(1)
            self.templates.append(_template(patch.gray, box))


def _cut(picture: Image, box: Corners) -> Image:
    """What is in a box (left, top, width, height), as far as it is in the picture."""
    x, y, w, h = (round(v) for v in box)
    height, width = picture.shape[:2]
    left, top = min(max(x, 0), width - 2), min(max(y, 0), height - 2)
    right, low = min(max(x + w, left + 2), width), min(max(y + h, top + 2), height)
    return picture[top:low, left:right]


def _bands(bgr: Image, box: Corners) -> list[NDArray[np.float32]]:
    x, y, w, h = box
    inner = _cut(bgr, (x + 0.2 * w, y + 0.05 * h, 0.6 * w, 0.9 * h))
    hsv = cv2.cvtColor(inner, cv2.COLOR_BGR2HSV)
    rows = np.linspace(0, hsv.shape[0], 4).round().astype(int)
    found = []
    for a, b in pairwise(rows):
        part = hsv[a : max(b, a + 1)]
        hist = cv2.calcHist([part], [0, 1], None, list(_BINS), [0, 180, 0, 256]) + 0.02
        found.append((hist / hist.sum()).astype(np.float32))
    return found


def _unlike(one: list[NDArray[np.float32]], other: list[NDArray[np.float32]]) -> float:
    """Bhattacharyya's distance of two sets of bands, their mean."""
    return float(np.mean([cv2.compareHist(a, b, cv2.HISTCMP_BHATTACHARYYA) for a, b in zip(one, other, strict=True)]))


def _template(gray: Image, box: Corners) -> NDArray[np.float32]:
    small = cv2.resize(_cut(gray, box), _TEMPLATE, interpolation=cv2.INTER_AREA).astype(np.float32)
    small -= small.mean()
    return small / max(float(small.std()), 1.0)

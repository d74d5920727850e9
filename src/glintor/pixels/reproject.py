"""A flat frame out of a sphere: one path for preview, stills and export; they differ only in size and filter."""

from enum import Enum

import cv2
import numpy as np
from numpy.typing import NDArray

from glintor.pixels.yuv import MAT_GREY, Plane, Yuv, blank
from glintor.sphere.view import View, focal_px

_OFF_THE_BALL = -1e5
_SHRINK_FROM = 1.15  # source pixels per frame pixel above which plain sampling starts to alias visibly


class Filter(Enum):
    """How the source is sampled: bilinear for the moving preview, cubic for what is kept."""

    FAST = cv2.INTER_LINEAR
    FINE = cv2.INTER_CUBIC


def shrink(
    view: View, frame_width_px: int, source_width_px: int, radius_px: NDArray[np.float32]
) -> NDArray[np.float32]:
    """Source pixels per frame pixel at a distance from the frame's centre (the geometric mean of both directions).

    With k = r / (f (1 + d)): dt/dr and sin t / r of the lens give radial and tangential scale.
    """
    focal = focal_px(view, frame_width_px)
    d = view.bend
    k = radius_px / np.float32(focal * (1.0 + d))
    q2 = 1.0 + k * k
    cos_b = np.sqrt(np.maximum(1.0 - k * k * d * d / q2, 1e-6))
    radial = (1.0 / q2 + d / (q2 * np.sqrt(q2) * cos_b)) / (focal * (1.0 + d))
    tangential = (cos_b + d / np.sqrt(q2)) / np.sqrt(q2) / (focal * (1.0 + d))
    return (np.sqrt(radial * tangential) * source_width_px / (2.0 * np.pi)).astype(np.float32)


class _PlaneMap:
    """The map of one plane size, kept while the view stands still."""

    def __init__(self) -> None:
        self._key: tuple[object, ...] = ()
        self.u = self.v = np.empty((0, 0), np.float32)
        self.level: NDArray[np.float32] | None = None
        self.off: NDArray[np.bool_] | None = None

    def follow(
        self, view: View, frame: tuple[int, int], source: tuple[int, int], *, siting: float, edge: float
    ) -> None:
        key = (view, frame, source)
        if key == self._key:
            return
        from glintor.pixels.kernels import source_map

        width, height = frame
        if self.u.shape != (height, width):
            self.u, self.v = np.empty((height, width), np.float32), np.empty((height, width), np.float32)
        source_map(view.matrix, focal_px(view, width), view.bend, siting, *source, edge, self.u, self.v)
        self.off = None
        if view.bend > 1.0:
            self.off = self.u < _OFF_THE_BALL
            self.u[self.off] = 0.0
        self.level = self._levels(view, width, height, source[0])
        self._key = key

    @staticmethod
    def _levels(view: View, width: int, height: int, source_width: int) -> NDArray[np.float32] | None:
        corner = float(np.hypot(width, height) / 2.0)
        reach = shrink(view, width, source_width, np.linspace(0.0, corner, 64, dtype=np.float32))
        if reach.max() <= _SHRINK_FROM:
            return None
        right = np.arange(width, dtype=np.float32) + 0.5 - width / 2.0
        up = np.arange(height, dtype=np.float32) + 0.5 - height / 2.0
        return np.log2(np.maximum(shrink(view, width, source_width, np.hypot(right[None, :], up[:, None])), 1.0))


class Reprojector:
    """Draws frames of one size. Not for use by two threads at once: it keeps its maps and buffers."""

    def __init__(self, size_px: tuple[int, int], quality: Filter = Filter.FINE) -> None:
        self.size_px, self.quality = size_px, quality
        self._luma, self._chroma = _PlaneMap(), _PlaneMap()

    def draw(self, source: Yuv, view: View, out: Yuv | None = None) -> Yuv:
        """The frame that `view` gives of the sphere `source`, written to `out` where given.

        Colour differences, half as fine already, are always sampled bilinearly.
        """
        width, height = self.size_px
        target = out if out is not None else blank(width, height, source.tags)
        edge = 1.0 if self.quality is Filter.FINE else 0.0
        half, source_half = target.u.shape[::-1], source.u.shape[::-1]
        self._luma.follow(view, self.size_px, source.size_px, siting=0.0, edge=edge)
        self._chroma.follow(view, half, source_half, siting=0.25, edge=edge)
        grey = MAT_GREY if source.tags.full_range else round(16 + MAT_GREY * 219 / 255)
        self._plane(source.y, self._luma, target.y, grey, self.quality)
        self._plane(source.u, self._chroma, target.u, 128, Filter.FAST)
        self._plane(source.v, self._chroma, target.v, 128, Filter.FAST)
        return target

    def draw_rgb(self, source: NDArray[np.generic], view: View) -> NDArray[np.generic]:
        """The same for an interleaved picture (H, W, C) of any depth that OpenCV resamples."""
        out = np.empty((self.size_px[1], self.size_px[0], source.shape[2]), source.dtype)
        edge = 1.0 if self.quality is Filter.FINE else 0.0
        self._luma.follow(view, self.size_px, (source.shape[1], source.shape[0]), siting=0.0, edge=edge)
        for channel in range(source.shape[2]):
            grey = MAT_GREY if source.dtype == np.uint8 else 0
            plane = np.empty(out.shape[:2], out.dtype)
            self._plane(np.ascontiguousarray(source[..., channel]), self._luma, plane, grey, self.quality)
            out[..., channel] = plane
        return out

    def _plane(self, source: NDArray, where: _PlaneMap, out: NDArray, off_value: int, quality: Filter) -> None:
        if where.level is None or source.dtype != np.uint8:
            cv2.remap(source, where.u, where.v, quality.value, dst=out, borderMode=cv2.BORDER_WRAP)
        else:
            self._shrunk(source, where, out, quality)
        if where.off is not None:
            out[where.off] = off_value

    def _shrunk(self, source: Plane, where: _PlaneMap, out: Plane, quality: Filter) -> None:
        """Where the picture shrinks, each pixel reads the smaller copy of the source that fits its magnification."""
        from glintor.pixels.kernels import blend_levels

        assert where.level is not None
        top = max(1, min(int(np.ceil(where.level.max())), 5))
        stack = np.empty((top + 1, *out.shape), np.uint8)
        small: NDArray = source
        for level in range(top + 1):
            scale = np.float32(0.5**level)
            u, v = (
                (where.u + np.float32(0.5)) * scale - np.float32(0.5),
                (where.v + np.float32(0.5)) * scale - np.float32(0.5),
            )
            v = np.clip(v, 0.0, small.shape[0] - 1.0)
            method = quality.value if level == 0 else cv2.INTER_LINEAR
            cv2.remap(small, u, v, method, dst=stack[level], borderMode=cv2.BORDER_WRAP)
            if level < top:
                small = cv2.resize(
                    small, ((small.shape[1] + 1) // 2, (small.shape[0] + 1) // 2), interpolation=cv2.INTER_AREA
                )
        blend_levels(stack, where.level, out)

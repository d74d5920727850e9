"""Averaging pictures in time: what a speed-up needs to look smooth."""

import numpy as np
from numpy.typing import NDArray

from glintor.pixels.bands import in_bands
from glintor.pixels.spheres import Join, Sphere
from glintor.pixels.yuv import Plane, Yuv

_WHOLE = 1 << 16  # shares are counted in so many parts; 16-bit samples times these still fit 32 bits


class Blend:
    """A weighted mean being gathered. One picture alone passes through untouched."""

    def __init__(self) -> None:
        self._only: tuple[Sphere, int] | None = None
        self._sums: list[NDArray[np.uint32]] = []
        self._weight = 0
        self._like: Yuv | None = None
        self._join: Join | None = None

    @property
    def empty(self) -> bool:
        return self._weight == 0

    def add(self, sphere: Sphere, share: float) -> None:
        """Adds a picture that fills a share (0 to 1) of the frame's time."""
        weight = max(round(share * (_WHOLE - 1)), 1)
        if self._weight == 0:
            self._only = (sphere, weight)
        else:
            if self._only is not None:
                self._start(*self._only)
            self._gather(sphere.picture, weight)
        self._weight += weight

    def take(self) -> Sphere:
        """The mean of what was added; starts afresh."""
        if self._only is not None:
            out = self._only[0]
        else:
            out = self._mean()
        self._only, self._weight = None, 0
        return out

    def _start(self, sphere: Sphere, weight: int) -> None:
        picture = sphere.picture
        shapes = [p.shape for p in (picture.y, picture.u, picture.v)]
        if [s.shape for s in self._sums] != shapes:
            self._sums = [np.zeros(shape, np.uint32) for shape in shapes]
        for sums in self._sums:
            sums[:] = 0
        self._like, self._join, self._only = picture, sphere.join, None
        self._gather(picture, weight)

    def _gather(self, picture: Yuv, weight: int) -> None:
        from glintor.pixels.kernels import add_share

        for plane, sums in zip((picture.y, picture.u, picture.v), self._sums, strict=True):
            in_bands(plane.shape[0], lambda a, b, p=plane, s=sums: add_share(a, b, p, np.uint32(weight), s))  # type: ignore[misc]

    def _mean(self) -> Sphere:
        from glintor.pixels.kernels import mean_of_shares

        like = self._like
        assert like is not None
        planes: list[Plane] = []
        for sums in self._sums:
            out = np.empty(sums.shape, like.y.dtype)
            in_bands(sums.shape[0], lambda a, b, s=sums, o=out: mean_of_shares(a, b, s, np.uint32(self._weight), o))  # type: ignore[misc]
            planes.append(out)
        return Sphere(Yuv(planes[0], planes[1], planes[2], like.tags, like.bits), self._join)

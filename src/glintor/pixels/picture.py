"""A picture: what can be drawn of a sphere at a moment. Preview, stills and export draw the same ones."""

from collections.abc import Callable, Sequence
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from glintor.pixels.reproject import Filter, Reprojector
from glintor.pixels.spheres import Sphere
from glintor.pixels.yuv import Yuv, blank
from glintor.sphere.equirect import WHOLE
from glintor.sphere.lens import Lens
from glintor.sphere.lenses import Projection
from glintor.sphere.turn import Sight, Turned

Sights = Callable[[float], Sight]  # what is looked at, at a moment of the clip in seconds


class Picture(Protocol):
    """Draws itself into planes of its own size."""

    @property
    def size_px(self) -> tuple[int, int]: ...

    def draw(self, sphere: Sphere, time_s: float, out: Yuv) -> None:
        """What it shows of a sphere at a moment of the clip."""


class Flat:
    """A flat frame that looks where `sights` says."""

    def __init__(
        self, size_px: tuple[int, int], sights: Sights, quality: Filter = Filter.FINE, *, shows: Projection = WHOLE
    ) -> None:
        self._drawer, self._sights = Reprojector(size_px, quality, shows=shows), sights

    @property
    def size_px(self) -> tuple[int, int]:
        return self._drawer.size_px

    def draw(self, sphere: Sphere, time_s: float, out: Yuv) -> None:
        self._drawer.draw(sphere, self._sights(time_s), out=out)


class Dipped:
    """A picture that is darkened: left (0 to 1) is how much of it is left at a moment of the clip."""

    def __init__(self, base: Picture, left: Callable[[float], float]) -> None:
        self._base, self._left = base, left

    @property
    def size_px(self) -> tuple[int, int]:
        return self._base.size_px

    def draw(self, sphere: Sphere, time_s: float, out: Yuv) -> None:
        self._base.draw(sphere, time_s, out)
        left = self._left(time_s)
        if left >= 1.0:
            return
        black = 0 if out.tags.full_range else 16 << (out.bits - 8)
        for plane, nothing in ((out.y, black), (out.u, 128 << (out.bits - 8)), (out.v, 128 << (out.bits - 8))):
            plane[...] = np.rint(nothing + (plane.astype(np.float32) - nothing) * left)


class Smeared:
    """A picture whose view moves while a frame is exposed: the mean of what it shows at several moments; exposed(t) tells them."""

    def __init__(self, base: Picture, exposed: Callable[[float], NDArray[np.float64]]) -> None:
        self._base, self._exposed = base, exposed

    @property
    def size_px(self) -> tuple[int, int]:
        return self._base.size_px

    def draw(self, sphere: Sphere, time_s: float, out: Yuv) -> None:
        moments = self._exposed(time_s)
        if len(moments) == 1:
            self._base.draw(sphere, float(moments[0]), out)
            return
        sums = [np.zeros(plane.shape, np.float32) for plane in (out.y, out.u, out.v)]
        for moment in moments.tolist():
            self._base.draw(sphere, moment, out)
            for total, plane in zip(sums, (out.y, out.u, out.v), strict=True):
                total += plane
        for total, plane in zip(sums, (out.y, out.u, out.v), strict=True):
            plane[...] = np.rint(total / len(moments))


class Whole:
    """The whole sphere unrolled, as it lies in a fixed frame: `turns` says how the picture lies in it at a moment, (3, 3) from the
    picture's axes."""

    def __init__(
        self,
        size_px: tuple[int, int],
        turns: "Callable[[float], NDArray[Any]] | None" = None,
        quality: Filter = Filter.FINE,
        *,
        shows: Projection = WHOLE,
    ) -> None:
        self._drawer, self._turns = Reprojector(size_px, quality, shows=shows), turns

    @property
    def size_px(self) -> tuple[int, int]:
        return self._drawer.size_px

    def draw(self, sphere: Sphere, time_s: float, out: Yuv) -> None:
        turn = np.eye(3) if self._turns is None else self._turns(time_s).T
        self._drawer.draw(sphere, Turned(turn, Lens.unrolling()), out=out)


def steady(view: Sight) -> Sights:
    """Always the same sight."""
    return lambda _time_s: view


def drawn(picture: Picture, sphere: Sphere, time_s: float = 0.0, *, deep: bool = False) -> Yuv:
    """What a picture shows, in planes made for it: 8 bits at 4:2:0; deep: 16 bits with colour as fine as brightness."""
    width, height = picture.size_px
    tags = sphere.picture.tags
    if deep:
        planes = [np.empty((height, width), np.uint16) for _ in range(3)]
        out = Yuv(planes[0], planes[1], planes[2], tags, 16)
    else:
        out = blank(width, height, tags)
    picture.draw(sphere, time_s, out)
    return out


class Tiled:
    """A picture of parts, each drawn into its own place, later ones over earlier ones; their upper left corners lie at even pixels."""

    def __init__(self, size_px: tuple[int, int], parts: Sequence[tuple[Picture, tuple[int, int]]]) -> None:
        self._size = width, height = size_px
        self._parts = [(picture, (x // 2 * 2, y // 2 * 2)) for picture, (x, y) in parts]
        for picture, (x, y) in self._parts:
            inner, tall = picture.size_px
            if x < 0 or y < 0 or x + inner > width or y + tall > height:
                raise ValueError(f"A picture of {inner}x{tall} at {x}, {y} does not lie inside one of {width}x{height}")

    @property
    def size_px(self) -> tuple[int, int]:
        return self._size

    def draw(self, sphere: Sphere, time_s: float, out: Yuv) -> None:
        across, down = out.y.shape[1] // out.u.shape[1], out.y.shape[0] // out.u.shape[0]
        for picture, (x, y) in self._parts:
            width, height = picture.size_px
            luma = out.y[y : y + height, x : x + width]
            colour = (slice(y // down, (y + height) // down), slice(x // across, (x + width) // across))
            picture.draw(sphere, time_s, Yuv(luma, out.u[colour], out.v[colour], out.tags, out.bits))

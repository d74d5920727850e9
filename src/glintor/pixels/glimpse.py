"""A first, rough picture that needs no compiled kernel: those take most of a second to load, and a person waits."""

import cv2
import numpy as np
from numpy.typing import NDArray

from glintor.pixels import colour
from glintor.pixels.yuv import MAT_GREY, Yuv
from glintor.sphere import equirect
from glintor.sphere.equirect import WHOLE, Coverage
from glintor.sphere.lenses import Lenses, Projection, pixel_of
from glintor.sphere.turn import Sight
from glintor.sphere.view import frame_direction

_COARSE = 2  # drawn so many times smaller
_NEUTRAL = (MAT_GREY, 128, 128)


def glimpse(picture: Yuv, sight: Sight, size_px: tuple[int, int], shows: Projection = WHOLE) -> NDArray[np.uint32]:
    """A frame (h, w) of 0xFFRRGGBB: what `Reprojector` draws, at half its size and one sample a pixel."""
    width, height = (max(side // _COARSE, 2) for side in size_px)
    look = frame_direction(sight, (width, height), np.arange(width), np.arange(height)[:, None])
    planes = []
    for plane, around in zip((picture.y, picture.u, picture.v), _NEUTRAL, strict=True):
        u, v, there = _places(look, plane.shape[::-1], shows)
        at_u, at_v = (
            np.clip(np.nan_to_num(p), 0, side - 1).astype(np.float32)
            for p, side in ((u, plane.shape[1]), (v, plane.shape[0]))
        )
        drawn = np.asarray(cv2.remap(np.ascontiguousarray(plane), at_u, at_v, cv2.INTER_LINEAR), plane.dtype) >> (
            picture.bits - 8
        )
        planes.append(
            cv2.resize(np.where(there, drawn, around).astype(np.uint8), size_px, interpolation=cv2.INTER_LINEAR)
        )
    return colour.rgb32_plain(Yuv(planes[0], planes[1], planes[2], picture.tags))


Places = tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.bool_]]


def _places(look: NDArray[np.float64], size_px: tuple[int, int], shows: Projection) -> Places:
    """Where directions lie in a plane of that size, and whether anything is shown there; of two lenses the nearer one's."""
    if isinstance(shows, Coverage):
        lon, lat = equirect.lonlat_deg(look)
        across, down = (lon - shows.centre_lon_deg + 180.0) % 360.0 - 180.0, shows.centre_lat_deg - lat
        u, v = (
            (o / of + 0.5) * n - 0.5
            for o, of, n in zip((across, down), (shows.lon_deg, shows.lat_deg), size_px, strict=True)
        )
        return u, v, (np.abs(across) <= shows.lon_deg / 2.0) & (np.abs(down) <= shows.lat_deg / 2.0)
    return _in_lens(look, size_px, shows)


def _in_lens(look: NDArray[np.float64], size_px: tuple[int, int], lenses: Lenses) -> Places:
    part, found = lenses.part_px(size_px), []
    for number, eye in enumerate(lenses.eyes):
        (left, top), (u, v, theta) = lenses.corner_px(number, size_px), pixel_of(eye, part, np.nan_to_num(look))
        found.append((u + left, v + top, theta, theta <= eye.half_rad))
    one, two = found[0], found[-1]
    nearer = one[2] <= two[2]
    u, v, _, there = (np.where(nearer, a, b) for a, b in zip(one, two, strict=True))
    return u, v, there.astype(bool) & np.isfinite(look[..., 0])

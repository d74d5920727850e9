"""The whole sphere as one small picture: as it lies in its file, or in a fixed frame."""

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from glintor.pixels.reproject import Filter, Reprojector
from glintor.pixels.spheres import Sphere
from glintor.pixels.yuv import MAT_GREY, Plane, Yuv, blank
from glintor.sphere.equirect import WHOLE, Coverage
from glintor.sphere.lens import Lens
from glintor.sphere.lenses import Projection
from glintor.sphere.turn import Turned


def unrolled_level(sphere: Sphere, size_px: tuple[int, int], shows: Projection, turn: NDArray[Any] | None) -> Yuv:
    """The whole sphere, small, at 8 bits, as it lies in a fixed frame: turn (3, 3) goes from the picture's axes to it, None where
    they are the same. A sphere that lies as it is needs no kernel."""
    if turn is None and isinstance(shows, Coverage):
        return unrolled(sphere.picture, size_px, shows)
    whole = Turned(np.eye(3) if turn is None else turn.T, Lens.unrolling())
    return Reprojector(size_px, Filter.FAST, shows=shows).draw(sphere, whole)


def unrolled(picture: Yuv, size_px: tuple[int, int], coverage: Coverage = WHOLE) -> Yuv:
    """The whole sphere, equirectangular and small, at 8 bits; what the picture does not show is mat grey."""
    width, height = size_px
    out = blank(width, height, picture.tags)
    left = round((0.5 + (coverage.centre_lon_deg - coverage.lon_deg / 2) / 360.0) * width)
    top = round((0.5 - (coverage.centre_lat_deg + coverage.lat_deg / 2) / 180.0) * height)
    part = (max(round(coverage.lon_deg / 360.0 * width), 2), max(round(coverage.lat_deg / 180.0 * height), 2))
    for plane, small, around in ((picture.y, out.y, MAT_GREY), (picture.u, out.u, 128), (picture.v, out.v, 128)):
        half = width // small.shape[1]
        size = (part[0] // half, part[1] // half)
        shrunk: Plane = cv2.resize(plane, size, interpolation=cv2.INTER_AREA)
        shrunk = shrunk >> (picture.bits - 8)
        if size == small.shape[::-1]:
            small[:] = shrunk
            continue
        small[:] = around
        columns = (np.arange(size[0]) + left // half) % small.shape[1]
        rows = slice(max(top // half, 0), min(top // half + size[1], small.shape[0]))
        small[rows, columns] = shrunk[: rows.stop - rows.start]
    return out

"""A first, rough picture that needs no compiled kernel: those take most of a second to load, and a person waits."""

import cv2
import numpy as np
from numpy.typing import NDArray

from glintor.pixels import colour
from glintor.pixels.yuv import MAT_GREY, Yuv
from glintor.sphere import equirect
from glintor.sphere.equirect import WHOLE, Coverage
from glintor.sphere.turn import Sight
from glintor.sphere.view import frame_direction

_COARSE = 2  # drawn so many times smaller
_NEUTRAL = (MAT_GREY, 128, 128)


def glimpse(picture: Yuv, sight: Sight, size_px: tuple[int, int], coverage: Coverage = WHOLE) -> NDArray[np.uint32]:
    """A frame (h, w) of 0xFFRRGGBB: what `Reprojector` draws, at half its size and one sample a pixel."""
    width, height = (max(side // _COARSE, 2) for side in size_px)
    lon, lat = equirect.lonlat_deg(
        frame_direction(sight, (width, height), np.arange(width), np.arange(height)[:, None])
    )
    across = (lon - coverage.centre_lon_deg + 180.0) % 360.0 - 180.0
    down = coverage.centre_lat_deg - lat
    planes = []
    for plane, around in zip((picture.y, picture.u, picture.v), _NEUTRAL, strict=True):
        u = (across / coverage.lon_deg + 0.5) * plane.shape[1] - 0.5
        v = (down / coverage.lat_deg + 0.5) * plane.shape[0] - 0.5
        there = (np.abs(across) <= coverage.lon_deg / 2.0) & (np.abs(down) <= coverage.lat_deg / 2.0)
        u, v = (
            np.clip(np.nan_to_num(p), 0, side - 1).astype(np.float32)
            for p, side in ((u, plane.shape[1]), (v, plane.shape[0]))
        )
        drawn = np.asarray(cv2.remap(np.ascontiguousarray(plane), u, v, cv2.INTER_LINEAR), plane.dtype) >> (
            picture.bits - 8
        )
        planes.append(
            cv2.resize(np.where(there, drawn, around).astype(np.uint8), size_px, interpolation=cv2.INTER_LINEAR)
        )
    return colour.rgb32_plain(Yuv(planes[0], planes[1], planes[2], picture.tags))

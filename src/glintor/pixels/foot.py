"""What covers the stick and the mount at the foot of a picture: the surroundings mirrored into it, blurred, or a picture of one's own.

The foot is where the camera's own axis points down: its stick lies there however the picture is held.
"""

from functools import lru_cache
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from glintor.pixels.colour import LUMA_709
from glintor.pixels.yuv import Plane, Yuv
from glintor.sphere.equirect import Coverage, direction, lonlat_deg, lonlat_of_pixel
from glintor.sphere.foot import Patch
from glintor.sphere.lenses import Lenses, Projection, look_of_pixel, pixel_of
from glintor.types import Array

_RIM_DEG = 1.5  # over which it goes over into what is round it
_BLUR_SHARE = 0.25  # of the foot's radius


class _Region(Struct, frozen=True, eq=False):
    """A box of a plane with the share (h, w) of the cover in it, and where each of its pixels takes it from: places in the whole plane,
    and in a square picture laid over the foot."""

    box: tuple[slice, slice]
    share: NDArray[np.float32]
    source: tuple[NDArray[np.float32], NDArray[np.float32]]
    square: tuple[NDArray[np.float32], NDArray[np.float32]]
    blur_px: float


def patched(picture: Yuv, shows: Projection, patch: Patch) -> Yuv:
    """The picture with its foot covered; its own planes stay as they are, since a decoder may still need them."""
    own = _own(patch.file) if patch.kind == "picture" else None
    if patch.kind == "picture" and own is None:
        return picture
    if isinstance(shows, Lenses) and picture.tall == 2:  # a lens's circle lies in square samples
        half = (picture.u.shape[1], picture.u.shape[0] // 2)
        u, v = (np.asarray(cv2.resize(p, half, interpolation=cv2.INTER_AREA)) for p in (picture.u, picture.v))
        picture = replace(picture, u=u, v=v)
    planes = []
    for number, plane in enumerate((picture.y, picture.u, picture.v)):
        out = plane.copy()
        for region in _regions(shows, plane.shape[::-1], patch.radius_deg):
            planes_of_own = None if own is None else own[number].astype(np.float32) * 2.0 ** (picture.bits - 8)
            _cover(out, plane, region, patch, planes_of_own)
        planes.append(out)
    return replace(picture, y=planes[0], u=planes[1], v=planes[2])


def _cover(out: Plane, plane: Plane, region: _Region, patch: Patch, own: NDArray[np.float32] | None) -> None:
    laid: NDArray[Any]
    if own is not None:
        at = [m * np.float32(own.shape[0]) - np.float32(0.5) for m in region.square]
        laid = np.asarray(cv2.remap(own, at[0], at[1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE), np.float32)
    else:
        laid = cv2.remap(plane, *region.source, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE).astype(np.float32)
        if patch.kind == "blur":
            laid = cv2.GaussianBlur(laid, (0, 0), max(region.blur_px, 0.8), borderType=cv2.BORDER_REPLICATE)
    before = out[region.box].astype(np.float32)
    out[region.box] = np.clip(before + (laid - before) * region.share + 0.5, 0, np.iinfo(out.dtype).max).astype(
        out.dtype
    )


@lru_cache(maxsize=4)
def _own(file: str) -> tuple[Plane, Plane, Plane] | None:
    """Planes of a square picture of one's own at 8 bits, all of one size; None where it cannot be read."""
    read = cv2.imread(file, cv2.IMREAD_COLOR) if file and Path(file).is_file() else None
    if read is None:
        return None
    side = min(read.shape[:2])
    top, left = (read.shape[0] - side) // 2, (read.shape[1] - side) // 2
    square = cv2.resize(read[top : top + side, left : left + side], (512, 512), interpolation=cv2.INTER_AREA)
    blue, green, red = (square[..., n].astype(np.float32) for n in range(3))
    luma = LUMA_709[0] * red + LUMA_709[1] * green + LUMA_709[2] * blue
    y, u, v = luma * 219 / 255 + 16, (blue - luma) / 1.8556 * 224 / 255 + 128, (red - luma) / 1.5748 * 224 / 255 + 128
    one, two, three = (p.clip(0, 255).astype(np.uint8) for p in (y, u, v))
    return one, two, three


@lru_cache(maxsize=12)
def _regions(shows: Projection, size_px: tuple[int, int], radius_deg: float) -> tuple[_Region, ...]:
    width, height = size_px
    if isinstance(shows, Coverage):
        if shows.centre_lat_deg - shows.lat_deg / 2.0 > -90.0 + radius_deg:
            return ()
        u, v = np.meshgrid(np.arange(width, dtype=float), np.arange(height, dtype=float))
        lon, lat = lonlat_of_pixel(u, v, width, height)
        look = direction(
            lon * shows.lon_deg / 360.0 + shows.centre_lon_deg, lat * shows.lat_deg / 180.0 + shows.centre_lat_deg
        )
        return tuple(_region(shows, size_px, (0, 0), look, radius_deg))
    found: list[_Region] = []
    part = shows.part_px(size_px)
    for number, eye in enumerate(shows.eyes):
        u, v = np.meshgrid(np.arange(part[0], dtype=float), np.arange(part[1], dtype=float))
        look = look_of_pixel(eye, part, u, v)
        found += _region(shows, size_px, shows.corner_px(number, size_px), look, radius_deg)
    return tuple(found)


def _region(
    shows: Projection, size_px: tuple[int, int], corner: tuple[int, int], look: Array, radius_deg: float
) -> list[_Region]:
    off = np.degrees(np.arccos(np.clip(-look[..., 2], -1.0, 1.0)))
    inside = off < radius_deg + _RIM_DEG
    if not inside.any():
        return []
    rows, columns = np.flatnonzero(inside.any(axis=1)), np.flatnonzero(inside.any(axis=0))
    part = (slice(int(rows[0]), int(rows[-1]) + 1), slice(int(columns[0]), int(columns[-1]) + 1))
    look, off = look[part], off[part]
    share = np.clip((radius_deg + _RIM_DEG - off) / (2.0 * _RIM_DEG), 0.0, 1.0).astype(np.float32)
    mirrored = np.radians(np.maximum(2.0 * radius_deg - off, off))
    flat = np.hypot(look[..., 0], look[..., 1])
    side = np.sin(mirrored) / np.maximum(flat, 1e-9)
    there = np.stack([look[..., 0] * side, look[..., 1] * side, -np.cos(mirrored)], axis=-1)
    u, v = _places(shows, size_px, there)
    across = np.degrees(1.0) * flat / max(radius_deg + _RIM_DEG, 1e-6) * (off / np.maximum(np.degrees(flat), 1e-6))
    square = (
        0.5 - look[..., 1] / np.maximum(flat, 1e-9) * across / 2.0,
        0.5 - look[..., 0] / np.maximum(flat, 1e-9) * across / 2.0,
    )
    x, y = corner
    box = (slice(part[0].start + y, part[0].stop + y), slice(part[1].start + x, part[1].stop + x))
    per_deg = size_px[1] / 180.0
    maps = [np.ascontiguousarray(m, np.float32) for m in (u, v, *square)]
    return [_Region(box, share, (maps[0], maps[1]), (maps[2], maps[3]), per_deg * radius_deg * _BLUR_SHARE)]


def _places(shows: Projection, size_px: tuple[int, int], look: Array) -> tuple[Array, Array]:
    """Where directions lie in the whole picture; of two lenses in the one whose axis is nearer."""
    width, height = size_px
    if isinstance(shows, Coverage):
        lon, lat = lonlat_deg(look)
        u = ((lon - shows.centre_lon_deg + 180.0) % 360.0 - 180.0) / shows.lon_deg
        return (u + 0.5) * width - 0.5, ((shows.centre_lat_deg - lat) / shows.lat_deg + 0.5) * height - 0.5
    return _in_lenses(shows, size_px, look)


def _in_lenses(lenses: Lenses, size_px: tuple[int, int], look: Array) -> tuple[Array, Array]:
    found = []
    for number, eye in enumerate(lenses.eyes):
        (x, y), (u, v, theta) = lenses.corner_px(number, size_px), pixel_of(eye, lenses.part_px(size_px), look)
        found.append((u + x, v + y, theta))
    one, two = found[0], found[-1]
    nearer = one[2] <= two[2]
    return np.where(nearer, one[0], two[0]), np.where(nearer, one[1], two[1])

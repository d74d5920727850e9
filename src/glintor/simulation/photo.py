"""A photo sphere that stands for a place: its light, how it is turned, where the sun is in it."""

from contextlib import suppress
from datetime import datetime
from functools import lru_cache
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.media.exif import read_exif
from glintor.media.picture import picture_size, read_flat, read_sphere, sphere_size
from glintor.media.probe import ClipError
from glintor.media.spherical import photo_note
from glintor.pixels.curves import linear_of
from glintor.placement.scenery import Place
from glintor.placement.sun import local_time, sun_at
from glintor.project.site import Site
from glintor.sphere.equirect import Coverage, direction, lonlat_deg, lonlat_of_pixel, pixel, solid_angle_weight

WIDTH_PX = 1024
_CLIPPED, _SUN_DEG = 0.985, 12.0  # of full scale; how wide the sun and its glare are at most
_FITS_DEG = 8.0  # of the sun's height, with a camera held by hand (judgement)
_UNSEEN = 0.18  # shown where a photo shows nothing
_FLAT_PX = 700  # of a quarter turn of a flat photo, about what the sphere that it goes onto has
_DIAGONAL_MM = 43.27  # of 36 x 24 mm


class Photo(Struct, frozen=True, eq=False):
    """light (H, W, 3) in linear units, 1 where the picture is white, NaN where it shows nothing; cd_m2: of such a unit, None where the file does not say how
    it was exposed; taken: by its own clock, faces_deg: bearing of its middle, None where it does not say."""

    light: NDArray[np.float64]
    cd_m2: float | None
    taken: datetime | None
    faces_deg: float | None = None

    @property
    def whole(self) -> bool:
        """Whether it shows the whole sphere."""
        return bool(np.isfinite(self.light[..., 0]).all())


def read_photo(path: Path, wide_deg: float = 0.0) -> Photo:
    """The photo of a place, read again where the file changed. wide_deg: of a flat one, held level; 0 of a sphere. Raises ClipError
    where it cannot be used."""
    try:
        state = path.stat()
    except OSError:
        read_sphere(path)  # says what is wrong
        raise
    return _read(path, wide_deg, state.st_size, state.st_mtime_ns)


def flat_wide_deg(path: Path) -> tuple[float | None, float | None]:
    """How wide a flat photo sees, degrees, and the bearing of its middle, by its EXIF; None where that does not say.

    The focal length of the same diagonal on 36 x 24 mm gives the first (CIPA DC-008, tag 0xA405). Raises ClipError where
    it cannot be read.
    """
    from PIL import Image

    height, width = read_flat(path).shape[:2]
    with suppress(OSError, ValueError, SyntaxError), Image.open(path) as picture:
        exif = picture.getexif()
        focal, way = exif.get_ifd(0x8769).get(0xA405), exif.get_ifd(0x8825).get(0x11)
        wide = (
            2.0 * np.degrees(np.arctan(_DIAGONAL_MM / 2.0 * width / np.hypot(width, height) / float(focal)))
            if focal
            else None
        )
        return wide if wide is None else float(wide), None if way is None else float(way) % 360.0
    return None, None


def seen(photo: Photo) -> NDArray[np.uint8]:
    """The photo (H, W, 3) as one looks at it: its white at the brightest tenth, so that glare does not darken the rest."""
    white = max(float(np.nanpercentile(photo.light, 90.0)), 1e-6)
    return (255.0 * np.clip(np.nan_to_num(photo.light, nan=_UNSEEN) / white, 0.0, 1.0) ** (1.0 / 2.2)).astype(np.uint8)


def what_is_wrong(place: Place | None) -> str:
    """Why the photo that stands for a place cannot be used, by its header, which takes no time; "" where it can be, and for
    places without one."""
    if place is None or not place.photo:
        return ""
    try:
        if place.pictured:
            sphere_size(Path(place.photo))
        else:
            picture_size(Path(place.photo))
    except (ClipError, OSError) as error:
        return str(error)
    return ""


@lru_cache(maxsize=4)
def _read(path: Path, wide_deg: float, _size_bytes: int, _changed_ns: int) -> Photo:
    pixels, coverage = (read_flat(path), None) if wide_deg > 0.0 else read_sphere(path)
    top = 1.0 if pixels.dtype.kind == "f" else float(np.iinfo(pixels.dtype).max)
    whole = np.nan_to_num(pixels.astype(np.float32) / top, posinf=1e6, neginf=0.0)
    if coverage is None:
        part = round(_FLAT_PX * wide_deg / 90.0), round(_FLAT_PX * wide_deg / 90.0 * pixels.shape[0] / pixels.shape[1])
    else:
        part = round(WIDTH_PX * coverage.lon_deg / 360.0), round(WIDTH_PX / 2 * coverage.lat_deg / 180.0)
    small = cv2.resize(whole, (max(part[0], 2), max(part[1], 2)), interpolation=cv2.INTER_AREA)
    linear: NDArray[Any] = small if pixels.dtype.kind == "f" else linear_of(small, "display")
    note = photo_note(path) if coverage is not None else None
    light = _on_sphere(linear, wide_deg) if coverage is None else _unrolled(linear, coverage)
    if note is not None and note.level_turn is not None:
        light = _levelled(light, note.level_turn)
    told = read_exif(path)
    light.setflags(write=False)
    faces = note.pose_deg[0] if note is not None and note.pose_deg is not None and note.pose_deg[0] else None
    return Photo(light, told.cd_m2, told.taken, faces)


def _unrolled(linear: NDArray[np.float64], coverage: Coverage) -> NDArray[np.float64]:
    """Part of a sphere in its place on the whole one."""
    light = np.full((WIDTH_PX // 2, WIDTH_PX, 3), np.nan)
    high, wide = linear.shape[:2]
    left = round((0.5 + (coverage.centre_lon_deg - coverage.lon_deg / 2) / 360.0) * WIDTH_PX)
    above = round((0.5 - (coverage.centre_lat_deg + coverage.lat_deg / 2) / 180.0) * WIDTH_PX / 2)
    rows = slice(max(above, 0), min(above + high, WIDTH_PX // 2))
    light[rows, (np.arange(wide) + left) % WIDTH_PX] = linear[: rows.stop - rows.start]
    return light


def _levelled(light: NDArray[np.float64], turn: NDArray[np.float64]) -> NDArray[np.float64]:
    """The sphere as it lies level; turn (3, 3) from the photo's axes to level ones. What shows nothing is not mixed into what does."""
    height, width = light.shape[:2]
    look = direction(*lonlat_of_pixel(*np.meshgrid(np.arange(width), np.arange(height)), width, height)) @ turn
    u, v = pixel(*lonlat_deg(look), width, height)
    known = np.isfinite(light[..., :1])
    filled = np.dstack([np.where(known, light, 0.0), known]).astype(np.float32)
    round_it = np.concatenate([filled[:, -2:], filled, filled[:, :2]], axis=1)
    places = ((u + 2.0).astype(np.float32), v.astype(np.float32))
    found = cv2.remap(round_it, *places, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE).astype(np.float64)
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where(found[..., 3:] > 0.5, found[..., :3] / found[..., 3:], np.nan)


def _on_sphere(linear: NDArray[np.float64], wide_deg: float) -> NDArray[np.float64]:
    """A flat picture, held level, in the middle of the whole sphere."""
    light = np.full((WIDTH_PX, 2 * WIDTH_PX, 3), np.nan)
    high, wide = linear.shape[:2]
    look = direction(
        *lonlat_of_pixel(*np.meshgrid(np.arange(2 * WIDTH_PX), np.arange(WIDTH_PX)), 2 * WIDTH_PX, WIDTH_PX)
    )
    ahead = np.maximum(look[..., 0], 1e-6)
    focal = wide / 2.0 / np.tan(np.radians(wide_deg / 2.0))
    column, row = wide / 2.0 - 0.5 - focal * look[..., 1] / ahead, high / 2.0 - 0.5 - focal * look[..., 2] / ahead
    there = (
        (look[..., 0] > 0.05)
        & (np.abs(column - wide / 2.0 + 0.5) < wide / 2.0)
        & (np.abs(row - high / 2.0 + 0.5) < high / 2.0)
    )
    found = cv2.remap(
        linear.astype(np.float32),
        column.astype(np.float32),
        row.astype(np.float32),
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_REPLICATE,
    )
    light[there] = found[there]
    return light


def sun_in(photo: Photo) -> tuple[float, float] | None:
    """Yaw and pitch in degrees of the sun in a photo: the middle of the brightest small spot of the upper half; None where nothing
    there is white, or so much that it is a bright sky."""
    height, width = photo.light.shape[:2]
    bright = photo.light.min(axis=2) >= _CLIPPED
    bright[height // 2 :] = False
    if not bright.any():
        return None
    count, names, _, _ = cv2.connectedComponentsWithStats(bright.astype(np.uint8), connectivity=8)
    weight = solid_angle_weight(height)[:, None] * np.ones(width)
    sizes = [float(weight[names == n].sum()) for n in range(1, count)]
    largest = int(np.argmax(sizes)) + 1
    rows, columns = np.nonzero(names == largest)
    lon, lat = lonlat_of_pixel(columns, rows, width, height)
    ways = np.stack(
        [
            np.cos(np.radians(lat)) * np.cos(np.radians(lon)),
            np.cos(np.radians(lat)) * np.sin(np.radians(lon)),
            np.sin(np.radians(lat)),
        ]
    )
    middle = (ways * weight[rows, columns]).sum(axis=1)
    middle /= max(float(np.linalg.norm(middle)), 1e-9)
    if np.degrees(np.arccos(np.clip(middle @ ways, -1.0, 1.0))).max() > _SUN_DEG:
        return None
    return float(np.degrees(np.arctan2(middle[1], middle[0]))), float(np.degrees(np.arcsin(middle[2])))


def bearing_by_sun(photo: Photo, site: Site) -> tuple[float | None, str]:
    """The bearing of a photo's middle from the sun in it and the hour that it was taken, its clock set to the site's zone; None
    where that is not known, with the reason in words, which also say how well the sun's height fits."""
    seen = sun_in(photo)
    if (seen is None or photo.taken is None or not site.known) and photo.faces_deg is not None:
        return photo.faces_deg, "Turned as the photo itself says."
    if seen is None:
        return None, "No sun can be made out in the photo: say which bearing its middle faces."
    if photo.taken is None:
        return None, "The photo does not say when it was taken: say which bearing its middle faces."
    if not site.known:
        return (
            None,
            "Nobody said yet where this is, so the sun cannot be reckoned: say which bearing the photo's middle faces.",
        )
    minute = photo.taken.hour * 60.0 + photo.taken.minute + photo.taken.second / 60.0
    sun = sun_at(site.lat_deg, site.lon_deg, local_time(photo.taken.date().isoformat(), site.zone, minute))
    off = seen[1] - sun.elevation_deg
    fits = (
        f"its height fits within {abs(off):.0f} degrees"
        if abs(off) <= _FITS_DEG
        else (
            f"but it stands {abs(off):.0f} degrees {'higher' if off > 0 else 'lower'} than it should: another hour, place or tilt?"
        )
    )
    return float((sun.azimuth_deg - seen[0]) % 360.0), f"Turned by the sun of {photo.taken:%d %B, %H:%M}; {fits}."

"""Two fisheye lenses back to back, each with its own centre, and how their pictures become one sphere."""

import math
from functools import lru_cache

import cv2
import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.simulation.place import Scene, Seen, see
from glintor.simulation.pose import BACK, Array, Pose
from glintor.sphere.equirect import direction, lonlat_of_pixel
from glintor.sphere.fisheye import Fisheye
from glintor.sphere.view import View, frame_direction

Picture = NDArray[np.float32]
FRONT_BACK = (np.eye(3), BACK)
LEVEL = (1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0)  # no turn
_SINGLE_BEND = 0.6  # of wide frames of one lens (judgement)


class Drop(Struct, frozen=True):
    """A drop of water on a lens: its middle (x, y) and radius as shares of the image circle."""

    x: float
    y: float
    radius: float


def centres(pose: Pose, gap_m: float) -> tuple[Pose, Pose]:
    """Front and back lens of a camera: half the gap ahead of its middle and behind it."""
    ahead = pose.turn[:, 0] * gap_m / 2.0
    return Pose(pose.position_m + ahead, pose.turn), Pose(pose.position_m - ahead, pose.turn @ BACK)


def level_of(scene: Scene) -> tuple[float, ...]:
    """The turn from a scene's picture to its camera's own axes."""
    return tuple((scene.body.T @ scene.pose.turn).ravel().tolist())


@lru_cache(maxsize=4)
def _off_axis_rad(side_px: int, lens: Fisheye) -> Array:
    """(side, side) angle off the axis of each pixel of an image circle, as inside a guard."""
    y, x = np.mgrid[:side_px, :side_px] + 0.5 - side_px / 2.0
    share = np.hypot(x, y) / (side_px / 2.0)
    plain = Fisheye(lens.half_rad, lens.k3, lens.k5).angles()
    return np.interp(share, np.linspace(0.0, 1.0, len(plain)), plain)


def circles(
    scene: Scene, side_px: int, lens: Fisheye, gap_m: float, *, smooth: bool = True, drops: tuple[Drop, ...] = ()
) -> tuple[Seen, Seen]:
    """What front and back lens see, each from its own centre, on squares that hold their image circles."""
    angles, own = lens.angles(), Pose(scene.pose.position_m, scene.body)
    front, back = (see(scene, (side_px, side_px), angles, pose, smooth=smooth) for pose in centres(own, gap_m))
    share = lens.light(_off_axis_rad(side_px, lens)).astype(np.float32)[..., None]
    for seen in (front, back):
        seen.luminance[:] *= share
    for drop in drops:
        front.luminance[:] = wetted(front.luminance, drop)
    return front, back


def wetted(picture: Picture, drop: Drop) -> Picture:
    """A picture with a drop before it: inside, a small blurred picture of what lies round it, upside down."""
    side = picture.shape[0]
    middle = np.array([(drop.x + 1.0) * side / 2.0, (drop.y + 1.0) * side / 2.0])
    radius = drop.radius * side / 2.0
    y, x = np.mgrid[: picture.shape[0], : picture.shape[1]].astype(np.float32)
    dx, dy = x - np.float32(middle[0]), y - np.float32(middle[1])
    blurred = cv2.GaussianBlur(picture, (0, 0), max(radius / 6.0, 0.5))
    inside = cv2.remap(blurred, x - 3.0 * dx, y - 3.0 * dy, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REFLECT)
    share = np.clip((radius - np.hypot(dx, dy)) / max(radius * 0.2, 1.0), 0.0, 1.0)[..., None]
    return np.asarray(picture + (inside - picture) * share, np.float32)


def _places(look: Array, lens: Fisheye, side_px: int) -> tuple[Picture, Picture]:
    """Where directions (..., 3) in a lens's own frame are drawn on its square: x and y with pixel centres at integers."""
    across = np.hypot(look[..., 1], look[..., 2])
    off = np.arctan2(across, look[..., 0])
    radius = lens.radius(np.minimum(off, lens.half_rad)) * side_px / 2.0 / np.maximum(across, 1e-12)
    middle = side_px / 2.0 - 0.5
    return (middle - look[..., 1] * radius).astype(np.float32), (middle - look[..., 2] * radius).astype(np.float32)


@lru_cache(maxsize=4)
def _stitch_maps(
    width_px: int, side_px: int, lens: Fisheye, gap_m: float, far_m: float, level: tuple[float, ...] = LEVEL
) -> tuple[list[tuple[Picture, Picture]], Picture]:
    """Where each pixel of the sphere lies on the front and the back square, and the cosine of its angle off the front.

    The directions are those of things `far_m` away from the middle of the camera; a guard is not known to the stitch.
    level: rows of the turn from the picture's axes to the camera's own, where it levels its recordings.
    """
    height = width_px // 2
    columns, rows = np.meshgrid(np.arange(width_px, dtype=float), np.arange(height, dtype=float))
    look = direction(*lonlat_of_pixel(columns, rows, width_px, height)) @ np.array(level).reshape(3, 3).T
    maps = []
    for facing, ahead in zip(FRONT_BACK, (1.0, -1.0), strict=True):
        way = look.copy()
        if math.isfinite(far_m):
            way[..., 0] -= ahead * gap_m / 2.0 / far_m
        way = way @ facing  # into the frame of this lens
        maps.append(_places(way, lens, side_px))
    return maps, look[..., 0].astype(np.float32)


def stitch(
    front: Picture, back: Picture, width_px: int, lens: Fisheye, gap_m: float, *, far_m: float = math.inf,
    blend_deg: float = 0.0, level: tuple[float, ...] = LEVEL,
) -> Picture:  # fmt: skip
    """One sphere (W / 2, W, ...) of two image circles, right for things `far_m` away.

    blend_deg  half-width of the zone beside the seam in which both pictures are mixed; 0 cuts hard, so that what
               stays between the lenses vanishes
    level      rows of the turn from the picture's axes to the camera's own
    """
    flat = Fisheye(lens.half_rad, lens.k3, lens.k5, lens.falloff)
    maps, ahead = _stitch_maps(width_px, front.shape[0], flat, gap_m, far_m, level)
    drawn = [
        cv2.remap(picture, *places, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        for picture, places in zip((front, back), maps, strict=True)
    ]
    zone = math.sin(math.radians(blend_deg))
    share = np.clip(ahead / (2.0 * zone) + 0.5, 0.0, 1.0) if zone > 0 else (ahead > 0).astype(np.float32)
    share = share.reshape(share.shape + (1,) * (drawn[0].ndim - 2))
    return np.asarray(drawn[1] + (drawn[0] - drawn[1]) * share, np.float32)


def evened(picture: Picture, lens: Fisheye) -> Picture:
    """An image circle with the vignetting taken out, as a camera does before it stitches."""
    share = lens.light(_off_axis_rad(picture.shape[0], lens)).astype(np.float32)
    return picture / share[..., None]


def single(circle: Picture, lens: Fisheye, size_px: tuple[int, int], across_deg: float) -> Picture:
    """A flat frame out of one image circle: `across_deg` wide, with some bend, as wide single-lens modes have it."""
    view = View(fov_deg=across_deg, bend=_SINGLE_BEND)
    look = frame_direction(view, size_px, *np.meshgrid(np.arange(size_px[0]), np.arange(size_px[1])))
    places = _places(np.nan_to_num(look), lens, circle.shape[0])
    return np.asarray(cv2.remap(circle, *places, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT), np.float32)

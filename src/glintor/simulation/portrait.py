"""A carrier by itself, with who rides it, as an onlooker sees it: what an own one looks like."""

import math

import numpy as np
from numpy.typing import NDArray

from glintor.exposure.metering import meter
from glintor.exposure.solve import solve
from glintor.placement import solids as made
from glintor.placement.carrier import Carrier, parts_of
from glintor.placement.figures import rider
from glintor.placement.shapes import extent
from glintor.placement.solids import Parts
from glintor.placement.sun import Sun
from glintor.project.model import Camera, Exposure
from glintor.simulation.light import Light
from glintor.simulation.place import bare, see
from glintor.simulation.pose import Pose
from glintor.simulation.sensor import develop
from glintor.simulation.things import GROUND_Z

_FROM_DEG, _DOWN_DEG = (
    38.0,
    12.0,
)  # from ahead and to the left (from behind where what is to be seen lies behind), and a little from above
_BRIGHTER = 0.8  # stops: much of it is pale sky
_EDGE = 1.45  # how much of the picture is left free about it


def portrait(carrier: Carrier, size_px: tuple[int, int]) -> NDArray[np.uint8]:
    """(H, W, 3) the carrier with who rides it, on open ground or afloat, in the light of a fair afternoon."""
    up = min(carrier.floor_m, 6.0) if carrier.on != "air" else 3.0
    who = rider(carrier)
    groups = [*parts_of(carrier), *([who] if who is not None else [])]
    ground = made.WATER if carrier.afloat else made.GRAVEL
    return portrait_of(groups, size_px, up_m=up, ground=ground, behind=carrier.looks[0] <= 0.0)


def portrait_of(
    groups: list[Parts], size_px: tuple[int, int], *, up_m: float = 0.0, ground: int = made.GRAVEL, behind: bool = False
) -> NDArray[np.uint8]:
    """(H, W, 3) solids so far over the ground, from ahead or from behind; the bare ground where there are none."""
    base = np.array([0.0, 0.0, GROUND_Z + up_m])
    groups = [parts.moved(base) for parts in groups]
    corners = [extent(parts) for parts in groups] or [(base - 0.6, base + np.array([0.6, 0.6, 1.8]))]
    low, high = np.min([c[0] for c in corners], axis=0), np.max([c[1] for c in corners], axis=0)
    middle, radius = (low + high) / 2.0, float(np.linalg.norm(high - low)) / 2.0
    width, height = size_px
    half = math.radians(20.0)  # half of the picture's height; its width by its shape
    far = _EDGE * radius / math.tan(half * min(1.0, width / height)) / 1.35
    turn, down = math.radians(180.0 - _FROM_DEG if behind else _FROM_DEG), math.radians(_DOWN_DEG)
    out = np.array([math.cos(down) * math.cos(turn), math.cos(down) * math.sin(turn), math.sin(down)])
    eye = middle + far * out
    eye[2] = max(eye[2], GROUND_Z + 0.4)
    look = (middle - eye) / np.linalg.norm(middle - eye)
    left = np.cross([0.0, 0.0, 1.0], look)
    left /= np.linalg.norm(left)
    pose = Pose(eye, np.column_stack([look, left, np.cross(look, left)]))
    light = Light(Sun(250.0, 42.0), 110.0, cover=0.2)
    scene = bare(groups, pose, light, ground=ground)
    side = int(math.hypot(width, height)) // 2 * 2 + 2
    lens = np.linspace(0.0, half * side / height, 64)
    seen = see(scene, (side, side), lens).luminance
    top, begin = (side - height) // 2, (side - width) // 2
    picture = seen[top : top + height, begin : begin + width]
    camera = Camera()
    fit = solve(meter(picture).mean - _BRIGHTER, 24.0, camera.sensor)
    exposure = Exposure(shutter_s=fit.shutter_s, iso=fit.iso, nd_stops=fit.nd_stops)
    return develop(np.ascontiguousarray(picture), camera, exposure)

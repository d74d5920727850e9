"""Where the camera is in the scene and how it is turned: the body's x ahead (front lens), y left, z up."""

import math

import numpy as np
from msgspec import Struct

from glintor.types import Array

BACK = np.diag([-1.0, -1.0, 1.0])  # the back lens, turned half round the body's upright axis


class Pose(Struct, frozen=True, eq=False):
    """position_m (3,) in the scene; turn (3, 3) takes directions of the body to directions of the scene."""

    position_m: Array
    turn: Array

    def seen(self, place: Array) -> tuple[float, float, float]:
        """Yaw and pitch in degrees (right and up positive) and distance in metres of a place (3,) in the scene."""
        x, y, z = self.turn.T @ (np.asarray(place) - self.position_m)
        distance = math.sqrt(x * x + y * y + z * z)
        return math.degrees(math.atan2(-y, x)), math.degrees(math.asin(z / max(distance, 1e-9))), distance


def levelled(heading_deg: float) -> Array:
    """(3, 3) of an upright camera whose front lens points so far clockwise from the scene's way ahead."""
    c, s = math.cos(math.radians(heading_deg)), -math.sin(math.radians(heading_deg))
    return np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]])


def turned(vector_rad: Array) -> Array:
    """(3, 3) of a rotation about a vector by its length (Rodrigues)."""
    angle = float(np.linalg.norm(vector_rad))
    if angle < 1e-12:
        return np.eye(3)
    x, y, z = np.asarray(vector_rad) / angle
    skew = np.array([[0.0, -z, y], [z, 0.0, -x], [-y, x, 0.0]])
    return np.eye(3) + math.sin(angle) * skew + (1.0 - math.cos(angle)) * (skew @ skew)

"""Where up is in a picture, as the height of its middle over the horizon and its roll."""

import numpy as np

from glintor.types import Array

_LEAST_SINE = 0.17  # ten degrees between two points of the horizon, and from opposite ones


def horizon_of(up: Array) -> tuple[float, float]:
    """Pitch and roll in degrees of a picture in whose axes (x ahead, y left, z up) the world's up is `up` (3,)."""
    u = np.asarray(up, np.float64) / np.linalg.norm(up)
    return round(float(np.degrees(np.arcsin(np.clip(u[0], -1.0, 1.0)))), 3), round(
        float(np.degrees(np.arctan2(u[1], u[2]))), 3
    )


def horizon_through(a: Array, b: Array) -> tuple[float, float] | None:
    """Pitch and roll of a picture in which directions a and b lie on the horizon; up is taken to be above rather than below. None
    where the two tell nothing."""
    across = np.cross(a, b)
    size = float(np.linalg.norm(across))
    if size < _LEAST_SINE:
        return None
    up = across / size
    return horizon_of(up if up[2] >= 0.0 else -up)

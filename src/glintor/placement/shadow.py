"""Shadows of upright things on level ground."""

import numpy as np
from numpy.typing import NDArray

from glintor.placement.sun import Sun

_LOW_SUN_DEG = 1.0  # below, shadows are longer than any place


def shadow_reach_m(height_m: float, sun: Sun) -> float:
    """Length of the shadow of a point `height_m` above level ground: h / tan(elevation); inf with the sun down."""
    return float("inf") if sun.elevation_deg < _LOW_SUN_DEG else height_m / float(np.tan(np.radians(sun.elevation_deg)))


def shadow_offset_m(height_m: float, sun: Sun) -> NDArray[np.float64]:
    """(2,) metres east and north from the foot to the shadow of a point above it; away from the sun."""
    reach = min(shadow_reach_m(height_m, sun), 200.0)
    a = np.radians(sun.azimuth_deg)
    return -reach * np.array([np.sin(a), np.cos(a)])

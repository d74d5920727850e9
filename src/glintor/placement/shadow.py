"""Shadows of upright things on level ground."""

import numpy as np

from glintor.placement.sun import Sun

_LOW_SUN_DEG = 1.0  # below, shadows are longer than any place


def shadow_reach_m(height_m: float, sun: Sun) -> float:
    """Length of the shadow of a point `height_m` above level ground: h / tan(elevation); inf with the sun down."""
    return float("inf") if sun.elevation_deg < _LOW_SUN_DEG else height_m / float(np.tan(np.radians(sun.elevation_deg)))

"""Angles: wrapping, unwrapping and bearings in words."""

import numpy as np
from numpy.typing import ArrayLike, NDArray

_POINTS = ("N", "NE", "E", "SE", "S", "SW", "W", "NW")


def wrap_deg(angle_deg: ArrayLike) -> NDArray[np.float64]:
    """The same direction within -180 (included) to 180 degrees (excluded), any shape."""
    return (np.asarray(angle_deg, dtype=np.float64) + 180.0) % 360.0 - 180.0


def nearest_turn_deg(angle_deg: float, reference_deg: float) -> float:
    """`angle_deg` plus the whole turns that bring it within half a turn of `reference_deg`."""
    return reference_deg + float(wrap_deg(angle_deg - reference_deg))


def bearing_text(bearing_deg: float) -> str:
    """A bearing clockwise from north as three digits and a letter, such as "045 NE"."""
    whole = round(bearing_deg) % 360
    return f"{whole:03d} {_POINTS[round(whole / 45) % 8]}"

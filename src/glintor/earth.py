"""Short ways on the Earth's ellipsoid (WGS 84), by its radii of curvature where they lie."""

import math

import numpy as np

from glintor.types import Array

_EQUATOR_M, _FLATTENING = 6_378_137.0, 1.0 / 298.257223563  # WGS 84


def radii_m(lat_deg: float) -> tuple[float, float]:
    """Metres a radian of latitude, and of longitude, at a latitude."""
    lat = math.radians(lat_deg)
    e2 = _FLATTENING * (2.0 - _FLATTENING)
    w = math.sqrt(1.0 - e2 * math.sin(lat) ** 2)
    return _EQUATOR_M * (1.0 - e2) / w**3, _EQUATOR_M / w * math.cos(lat)


def moved_deg(lat_deg: float, lon_deg: float, bearing_deg: float, distance_m: float) -> tuple[float, float]:
    """Latitude and longitude after a short way along a bearing."""
    bearing, (north, east) = math.radians(bearing_deg), radii_m(lat_deg)
    return (
        lat_deg + math.degrees(distance_m * math.cos(bearing) / north),
        lon_deg + math.degrees(distance_m * math.sin(bearing) / east),
    )


def plane_m(lat_deg: Array, lon_deg: Array) -> Array:
    """(n, 2) metres east and north of the first place, each step measured where it lies: right to a few millimetres a
    kilometre along ways of a day's length."""
    middle = (lat_deg[1:] + lat_deg[:-1]) / 2.0
    scale = np.array([radii_m(lat) for lat in middle.tolist()]).reshape(-1, 2)
    east = np.radians((np.diff(lon_deg) + 180.0) % 360.0 - 180.0) * scale[:, 1]
    north = np.radians(np.diff(lat_deg)) * scale[:, 0]
    return np.concatenate([np.zeros((1, 2)), np.cumsum(np.stack([east, north], axis=1), axis=0)])

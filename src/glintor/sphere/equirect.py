"""The equirectangular picture: longitude 0 at the centre, positive right; pixel centres at half-integers."""

import numpy as np
from msgspec import Struct
from numpy.typing import ArrayLike

from glintor.types import Array


class Coverage(Struct, frozen=True):
    """What part of the sphere a picture shows: its spans and the middle of it, in degrees (right and up positive)."""

    lon_deg: float = 360.0
    lat_deg: float = 180.0
    centre_lon_deg: float = 0.0
    centre_lat_deg: float = 0.0

    @property
    def whole(self) -> tuple[bool, bool]:
        """Whether it runs all the way round, and from pole to pole."""
        return self.lon_deg >= 360.0 - 1e-6, self.lat_deg >= 180.0 - 1e-6

    @property
    def radians(self) -> tuple[float, float, float, float]:
        """(centre_lon, centre_lat, lon, lat)."""
        values = np.radians([self.centre_lon_deg, self.centre_lat_deg, self.lon_deg, self.lat_deg])
        return float(values[0]), float(values[1]), float(values[2]), float(values[3])


WHOLE = Coverage()
HALF = Coverage(lon_deg=180.0)  # one lens's half, unrolled


def direction(lon_deg: ArrayLike, lat_deg: ArrayLike) -> Array:
    """Unit vector (..., 3) in the body frame for longitude (right) and latitude (up)."""
    lon, lat = np.radians(np.asarray(lon_deg, dtype=np.float64)), np.radians(np.asarray(lat_deg, dtype=np.float64))
    return np.stack(np.broadcast_arrays(np.cos(lat) * np.cos(lon), -np.cos(lat) * np.sin(lon), np.sin(lat)), axis=-1)


def lonlat_deg(vector: ArrayLike) -> tuple[Array, Array]:
    """Longitude and latitude, each (...), of vectors (..., 3) of any length above zero."""
    v = np.asarray(vector, dtype=np.float64)
    return np.degrees(np.arctan2(-v[..., 1], v[..., 0])), np.degrees(
        np.arctan2(v[..., 2], np.hypot(v[..., 0], v[..., 1]))
    )


def pixel(lon_deg: ArrayLike, lat_deg: ArrayLike, width_px: int, height_px: int) -> tuple[Array, Array]:
    """Position (u, v) in a picture of W x H: u = (lon/360 + 0.5) W - 0.5, v = (0.5 - lat/180) H - 0.5."""
    lon, lat = np.asarray(lon_deg, dtype=np.float64), np.asarray(lat_deg, dtype=np.float64)
    return (lon / 360.0 + 0.5) * width_px - 0.5, (0.5 - lat / 180.0) * height_px - 0.5


def lonlat_of_pixel(u: ArrayLike, v: ArrayLike, width_px: int, height_px: int) -> tuple[Array, Array]:
    """Longitude and latitude in degrees of a position (u, v); the inverse of `pixel`."""
    u, v = np.asarray(u, dtype=np.float64), np.asarray(v, dtype=np.float64)
    return ((u + 0.5) / width_px - 0.5) * 360.0, (0.5 - (v + 0.5) / height_px) * 180.0


def solid_angle_weight(height_px: int) -> Array:
    """Weight (H,) of each row of the picture by the solid angle of its pixels: cos(latitude)."""
    _, lat = lonlat_of_pixel(0, np.arange(height_px), 2 * height_px, height_px)
    return np.cos(np.radians(lat))

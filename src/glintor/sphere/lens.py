"""The one lens family behind every look: a perspective azimuthal projection with shift d ("bend").

r = f (1 + d) sin t / (d + cos t) for the angle t off the axis. d = 0 keeps straight lines straight, d = 1 is
stereographic, d > 1 sees the sphere from outside as a ball. Source: Snyder, "Map Projections: A Working Manual",
USGS Professional Paper 1395 (1987), vertical perspective with P = -d.
"""

import math

import numpy as np
from msgspec import Struct
from numpy.typing import ArrayLike

from glintor.errors import InputError
from glintor.types import Array

BEND_MAX = 2.0
FOV_MIN_DEG = 5.0
LIMIT_MARGIN_DEG = 1.0  # a frame edge exactly at the limit lies at infinity


class ViewError(InputError):
    """A view angle, field of view or bend outside what the lens can show."""


class Lens(Struct, frozen=True):
    """One lens of the family: its focal length in frame widths, and its bend."""

    focal: float
    bend: float

    @staticmethod
    def of(fov_deg: float, bend: float) -> "Lens":
        """The lens that shows so many degrees across the frame. Raises ViewError."""
        return Lens(float(focal_per_width(fov_deg, bend)), bend)

    @staticmethod
    def unrolling() -> "Lens":
        """No lens: the frame unrolls the whole sphere round its middle."""
        return Lens(1.0 / (2.0 * math.pi), -1.0)

    @property
    def unrolls(self) -> bool:
        return self.bend < 0.0

    @property
    def fov_deg(self) -> float:
        """Full horizontal field of view."""
        return float(fov_of_focal(self.focal, self.bend))

    def scaled(self, factor: float) -> "Lens":
        """A lens that draws everything so many times as large."""
        return Lens(self.focal * factor, self.bend)


def shape_scale(size_px: tuple[int, int], reference: tuple[int, int] = (16, 9)) -> float:
    """How much tighter, in frame widths, a frame of this shape is than the reference frame of the same area.

    The same lens with the frame turned: 9:16 next to 16:9 gets 16/9, so what fills one fills the other.
    """
    return math.sqrt(reference[0] * size_px[1] / (reference[1] * size_px[0]))


def edge_deg(bend: float) -> float:
    """Full angle in degrees at which the projection ends: 2 acos(-d) up to d = 1, the ball's rim 2 acos(-1/d) above."""
    return float(np.degrees(2.0 * np.arccos(-bend if bend <= 1.0 else -1.0 / bend)))


def fov_limit_deg(bend: float) -> float:
    """Largest field of view in degrees that a frame can have at this bend.

    Above d = 1 the frame may be wider than the ball. There the numbers between the ball's rim and 360 mean a frame
    whose half width is 1 to 2 times the ball's radius, so that a whole ball can stand in a wide frame.
    """
    return edge_deg(bend) - LIMIT_MARGIN_DEG if bend <= 1.0 else 360.0


def radius(angle_deg: ArrayLike, bend: float) -> Array:
    """Distance from the centre for f = 1 of an angle off the axis, any shape. NaN where the lens cannot see."""
    t = np.radians(np.asarray(angle_deg, dtype=np.float64))
    seen = np.abs(t) <= np.radians(edge_deg(bend) / 2.0) + 1e-12
    with np.errstate(divide="ignore"):
        r = (1.0 + bend) * np.sin(t) / (bend + np.cos(t))
    return np.where(seen, r, np.nan)


def angle_deg(radius_f: ArrayLike, bend: ArrayLike) -> Array:
    """Angle off the axis in degrees of a distance from the centre for f = 1; NaN outside the ball (d > 1).

    With k = r / (1 + d): t = atan k + asin(k d / sqrt(1 + k^2)), the inverse of `radius`.
    """
    bend = np.asarray(bend, dtype=np.float64)
    k = np.asarray(radius_f, dtype=np.float64) / (1.0 + bend)
    s = k * bend / np.sqrt(1.0 + k * k)
    with np.errstate(invalid="ignore"):
        return np.degrees(np.arctan(k) + np.arcsin(np.where(np.abs(s) <= 1.0, s, np.nan)))


def focal_per_width(fov_deg: ArrayLike, bend: ArrayLike) -> Array:
    """Focal length in frame widths that gives the full horizontal field of view; broadcasts.

    Raises ViewError where the field of view is outside FOV_MIN_DEG to `fov_limit_deg`.
    """
    fov, d = np.broadcast_arrays(np.asarray(fov_deg, dtype=np.float64), np.asarray(bend, dtype=np.float64))
    rim = np.degrees(2.0 * np.arccos(np.where(d <= 1.0, -np.minimum(d, 1.0), -1.0 / np.maximum(d, 1.0))))
    limit = np.where(d <= 1.0, rim, 360.0)
    if not np.all((fov > 0.0) & (fov <= limit) & (d >= 0.0)):
        raise ViewError(
            f"A field of view of {np.max(fov):.0f} degrees cannot be shown at a bend of {np.min(d):.2f}.",
            advice=f"Choose 5 to {float(np.min(limit)) - LIMIT_MARGIN_DEG:.0f} degrees, or more bend.",
        )
    half = np.radians(np.minimum(fov, rim) / 2.0)
    beyond = np.where(d > 1.0, np.maximum(fov - rim, 0.0) / np.maximum(360.0 - rim, 1e-9), 0.0)
    return 0.5 * (d + np.cos(half)) / ((1.0 + d) * np.sin(half)) / (1.0 + beyond)


def fov_of_focal(focal_width: ArrayLike, bend: ArrayLike) -> Array:
    """Full horizontal field of view in degrees of a focal length in frame widths; the inverse of `focal_per_width`."""
    f, d = np.broadcast_arrays(np.asarray(focal_width, dtype=np.float64), np.asarray(bend, dtype=np.float64))
    outside = np.maximum(d, 1.0 + 1e-12)
    rim_deg = np.degrees(2.0 * np.arccos(-1.0 / outside))
    rim_radius = (1.0 + outside) / np.sqrt(outside * outside - 1.0)
    over = np.where(d > 1.0, 0.5 / f / rim_radius, 0.0)
    k = np.where(over > 1.0, 0.0, 0.5 / f / (1.0 + d))
    inside = np.degrees(2.0 * (np.arctan(k) + np.arcsin(np.minimum(k * d / np.sqrt(1.0 + k * k), 1.0))))
    return np.where(over > 1.0, rim_deg + np.minimum(over - 1.0, 1.0) * (360.0 - rim_deg), inside)

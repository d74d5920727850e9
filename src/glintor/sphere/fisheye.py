"""One fisheye: at which share of its image circle an angle off its axis is drawn, behind a guard or without."""

import math

import numpy as np
from msgspec import Struct

from glintor.errors import InputError
from glintor.types import Array

_STEPS = 512  # of the table of angles
_PUPIL_M = 0.004  # how far behind a guard's centre of curvature the lens's own centre lies (judgement, no source)


class Guard(Struct, frozen=True):
    """A clear dome over a lens: its inner radius, wall and refractive index (1.49, acrylic: handbook value)."""

    radius_m: float = 0.024
    wall_m: float = 0.0015
    index: float = 1.49

    def beyond(self, off_rad: Array, pupil_m: float = _PUPIL_M) -> Array:
        """Angles off the axis outside the dome of rays that leave the lens's centre at angles `off_rad` inside.

        Exact for a sphere: Snell at both surfaces, in the plane of ray and axis. The lens's centre lies `pupil_m`
        behind the dome's; with both in one place nothing is bent.
        """
        way = np.stack([np.cos(off_rad), np.sin(off_rad)], axis=-1)
        place = np.zeros_like(way)
        place[..., 0] = -pupil_m
        for radius, ratio in ((self.radius_m, 1.0 / self.index), (self.radius_m + self.wall_m, self.index)):
            along = np.sum(place * way, axis=-1)
            reach = -along + np.sqrt(along**2 - np.sum(place * place, axis=-1) + radius**2)
            place = place + reach[..., None] * way
            normal = place / radius
            inward = np.sum(way * normal, axis=-1)
            outward = np.sqrt(1.0 - ratio**2 * (1.0 - inward**2))
            way = ratio * way + (outward - ratio * inward)[..., None] * normal
        return np.asarray(np.arctan2(way[..., 1], way[..., 0]))


class Fisheye(Struct, frozen=True):
    """An equidistant-polynomial fisheye: radius = theta + k3 theta^3 + k5 theta^5, as a share of the image circle.

    half_rad   the angle off the axis at the edge of the image circle
    falloff    vignetting: light falls with cos(theta / 2) to this power towards the edge
    """

    half_rad: float
    k3: float = -0.012
    k5: float = 0.0015
    falloff: float = 1.6
    guard: Guard | None = None

    def __post_init__(self) -> None:
        if not math.pi / 2 < self.half_rad < math.radians(130.0):
            raise InputError("A lens of the pair must see more than 180 degrees.", advice="Choose 181 to 259 degrees.")

    def _bent(self, theta: Array) -> Array:
        return np.asarray(theta + self.k3 * theta**3 + self.k5 * theta**5)

    def radius(self, off_rad: Array) -> Array:
        """Share of the image circle at which an angle off the axis (as seen inside a guard) is drawn."""
        return self._bent(np.asarray(off_rad)) / self._bent(np.asarray(self.half_rad))

    def angles(self) -> Array:
        """(n,) angles off the axis in the scene at evenly spaced radii: what the renderer takes, guard included."""
        theta = np.linspace(0.0, self.half_rad, 4 * _STEPS)
        inside = np.interp(np.linspace(0.0, 1.0, _STEPS), self.radius(theta), theta)
        return self.guard.beyond(inside) if self.guard is not None else inside

    def light(self, off_rad: Array) -> Array:
        """Share of the light that reaches the sensor at an angle off the axis."""
        return np.asarray(np.cos(np.asarray(off_rad) / 2.0) ** self.falloff)

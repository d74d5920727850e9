"""The lenses of a camera as it left their pictures: fisheyes side by side, one over the other, or one alone.

All lengths are shares of the width of one lens's part of the picture, so that a small copy of a film has the same
profile. Axes: x ahead, y left, z up; the camera's own axes are those of its first lens where nothing else is known.
"""

from typing import Annotated, Literal

import numpy as np
from msgspec import Meta, Struct
from msgspec.structs import replace
from numpy.typing import ArrayLike

from glintor.sphere.equirect import Coverage
from glintor.sphere.rotation import view_matrix
from glintor.types import Array

Layout = Literal["side", "under", "one"]
_NEWTON = 5  # steps; the bending is slight, so each doubles the digits
Share = Annotated[float, Meta(gt=0, lt=2)]


class Eye(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """One fisheye: radius = focal (theta + k3 theta^3 + k5 theta^5) for the angle theta off its axis in radians.

    centre    where its axis meets the picture: shares of its part's width, from the part's upper left corner; for a part
              that is not square, the height is counted from where a square of that width, laid on its middle, would begin
    radius    of the image circle, at half_deg off the axis
    turn_deg  yaw, pitch, roll of its axis in the camera
    gain      red, green, blue: what its pictures are multiplied by, as they are coded, to look like the first lens's
    """

    centre: tuple[float, float] = (0.5, 0.5)
    radius: Share = 0.5
    half_deg: Annotated[float, Meta(ge=30, le=140)] = 95.0
    k3: Annotated[float, Meta(ge=-0.2, le=0.2)] = 0.0
    k5: Annotated[float, Meta(ge=-0.1, le=0.1)] = 0.0
    turn_deg: tuple[float, float, float] = (0.0, 0.0, 0.0)
    gain: tuple[float, float, float] = (1.0, 1.0, 1.0)

    @property
    def matrix(self) -> Array:
        """(3, 3) from its own axes to the camera's."""
        return view_matrix(*self.turn_deg)

    @property
    def half_rad(self) -> float:
        return float(np.radians(self.half_deg))

    def bent(self, theta: ArrayLike) -> Array:
        """theta + k3 theta^3 + k5 theta^5."""
        t = np.asarray(theta, np.float64)
        return t * (1.0 + self.k3 * t**2 + self.k5 * t**4)

    @property
    def focal(self) -> float:
        """Part widths a radian, on the axis."""
        return self.radius / float(self.bent(self.half_rad))

    def angle(self, radius: ArrayLike) -> Array:
        """Angle off the axis in radians at a distance from the centre; the inverse of focal times `bent`."""
        wanted = np.asarray(radius, np.float64) / self.focal
        t = wanted.copy()
        for _ in range(_NEWTON):
            slope = 1.0 + 3.0 * self.k3 * t**2 + 5.0 * self.k5 * t**4
            t = np.clip(t - (self.bent(t) - wanted) / np.maximum(slope, 0.1), 0.0, np.pi)
        return t

    def place(self, look: ArrayLike) -> tuple[Array, Array, Array]:
        """Where directions (..., 3) of the camera are drawn: x and y as shares of the part's width, and the angle off the
        axis in radians (beyond half_rad nothing is seen)."""
        own = np.asarray(look, np.float64) @ self.matrix
        across = np.hypot(own[..., 1], own[..., 2])
        theta = np.arctan2(across, own[..., 0])
        scale = self.focal * self.bent(theta) / np.maximum(across, 1e-12)
        return self.centre[0] - own[..., 1] * scale, self.centre[1] - own[..., 2] * scale, theta

    def look(self, x: ArrayLike, y: ArrayLike) -> Array:
        """Directions (..., 3) in the camera of positions; the inverse of `place`."""
        right, up = np.asarray(x, np.float64) - self.centre[0], self.centre[1] - np.asarray(y, np.float64)
        right, up = np.broadcast_arrays(right, up)
        r = np.hypot(right, up)
        theta = self.angle(r)
        scale = np.sin(theta) / np.maximum(r, 1e-12)
        return np.stack([np.cos(theta), -right * scale, up * scale], axis=-1) @ self.matrix.T


class Lenses(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A profile: the lenses of a camera with what is, or is not, in front of them.

    layout       how their pictures lie: side by side, one under the other, or one alone
    gap_m        between the two entrance pupils; None where nobody knows
    blend_deg    half the width in which both pictures are mixed
    residual_px  what was left when it was found, in pixels of a sphere 5760 wide; None of one that nobody measured
    found_from   the recording that it was found from
    """

    name: str = "generic"
    layout: Layout = "side"
    eyes: Annotated[tuple[Eye, ...], Meta(min_length=1, max_length=2)]
    gap_m: Annotated[float, Meta(gt=0, lt=1)] | None = None
    blend_deg: Annotated[float, Meta(ge=0.2, le=20)] = 3.0
    residual_px: float | None = None
    found_from: str = ""

    @property
    def alone(self) -> bool:
        return len(self.eyes) == 1

    @property
    def overlap_deg(self) -> float:
        """How much both lenses see, from one edge to the other; below zero where a gap is left."""
        return sum(eye.half_deg for eye in self.eyes) - 180.0

    @property
    def mixed_deg(self) -> float:
        """Half the width of the mixing, inside what both see."""
        return float(np.clip(self.overlap_deg / 2.0 - 0.4, 0.2, self.blend_deg))

    def part_px(self, size_px: tuple[int, int]) -> tuple[int, int]:
        """Width and height of one lens's part of a picture."""
        width, height = size_px
        return (
            (width // 2, height) if self.layout == "side" else (width, height // (2 if self.layout == "under" else 1))
        )

    def corner_px(self, eye: int, size_px: tuple[int, int]) -> tuple[int, int]:
        """Upper left corner of a lens's part."""
        width, height = self.part_px(size_px)
        return (width * eye, 0) if self.layout == "side" else (0, height * eye)

    def sphere_px(self, size_px: tuple[int, int]) -> int:
        """The width of the sphere that holds as many pixels a degree."""
        eye = self.eyes[0]
        return round(self.part_px(size_px)[0] * eye.radius / eye.half_rad * 2.0 * np.pi)

    def laid(self, layout: Layout) -> "Lenses":
        """The same lenses with their pictures laid another way."""
        return self if layout == self.layout else replace(self, layout=layout)


Projection = Coverage | Lenses  # what a picture shows of the sphere, and how

TWIN = Lenses(eyes=(Eye(k3=-0.012), Eye(k3=-0.012, turn_deg=(180.0, 0.0, 0.0))))
WIDE = Lenses(layout="one", eyes=(Eye(half_deg=80.0),))


def middle_px(eye: Eye, part_px: tuple[int, int]) -> tuple[float, float]:
    """Where a lens's axis meets its part, in pixels with centres at integers."""
    width, height = part_px
    return eye.centre[0] * width - 0.5, eye.centre[1] * width - (width - height) / 2.0 - 0.5


def pixel_of(eye: Eye, part_px: tuple[int, int], look: ArrayLike) -> tuple[Array, Array, Array]:
    """Pixel (u, v) of directions in a part of that size, and the angle off the lens's axis in radians."""
    x, y, theta = eye.place(look)
    (cx, cy), width = middle_px(eye, part_px), part_px[0]
    return cx + (x - eye.centre[0]) * width, cy + (y - eye.centre[1]) * width, theta


def look_of_pixel(eye: Eye, part_px: tuple[int, int], u: ArrayLike, v: ArrayLike) -> Array:
    """Directions (..., 3) in the camera of pixels of a part; the inverse of `pixel_of`."""
    (cx, cy), width = middle_px(eye, part_px), part_px[0]
    return eye.look(
        eye.centre[0] + (np.asarray(u, np.float64) - cx) / width,
        eye.centre[1] + (np.asarray(v, np.float64) - cy) / width,
    )


def share_of_first(lenses: Lenses, look: Array) -> Array:
    """(...) how much of the first lens's picture is mixed in, 0 to 1, for directions (..., 3)."""
    if lenses.alone:
        return np.ones(look.shape[:-1])
    ahead = look @ (lenses.eyes[0].matrix[:, 0] - lenses.eyes[1].matrix[:, 0])
    share = np.clip(0.5 + ahead / (4.0 * np.sin(np.radians(lenses.mixed_deg))), 0.0, 1.0)
    return np.asarray(share * share * (3.0 - 2.0 * share))

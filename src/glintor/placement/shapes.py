"""Simple solids as a file tells them, for carriers: each adds itself to a group of parts. Points are (ahead, left, up), metres."""

from itertools import pairwise
from typing import Annotated, Literal

import msgspec
import numpy as np
from msgspec import Meta

from glintor.errors import InputError
from glintor.placement import solids as made
from glintor.placement.solids import Parts

# What solids are made of, as a file says it, and the number that stands for it.
MADE_OF = {
    "hull": made.HULL,
    "cabin": made.CABIN,
    "roof": made.ROOF,
    "red": made.RAIL,
    "wood": made.WOOD,
    "brass": made.BRASS,
    "white": made.WHITE,
    "dark": made.DARK,
    "flowers": made.FLOWERS,
    "rope": made.ROPE,
    "rock": made.ROCK,
    "snow": made.SNOW,
    "steel": made.STEEL,
    "blue": made.BLUE,
    "yellow": made.YELLOW,
    "cloth": made.CLOTH,
    "fur": made.FUR,
}
Of = Literal[
    "hull",
    "cabin",
    "roof",
    "red",
    "wood",
    "brass",
    "white",
    "dark",
    "flowers",
    "rope",
    "rock",
    "snow",
    "steel",
    "blue",
    "yellow",
    "cloth",
    "fur",
]
Coordinate = Annotated[float, Meta(ge=-200, le=200)]
Place = tuple[Coordinate, Coordinate, Coordinate]
Thick = Annotated[float, Meta(gt=0, le=50)]
_LATHE_STEPS = 6  # of a turned thing between two stations of its profile
_AXES = {"ahead": 0, "left": 1, "up": 2}


def _check_corners(low: Place, high: Place, what: str) -> None:
    if not all(a < b for a, b in zip(low, high, strict=True)):
        raise InputError(f"{what} reaches from {low} to {high}.", advice="Its low corner is the smaller in all three.")


class Box(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="is", tag="box"):
    """An upright box between two corners."""

    low: Place
    high: Place
    of: Of

    def __post_init__(self) -> None:
        _check_corners(self.low, self.high, "A box")

    def add_to(self, parts: Parts) -> None:
        parts.box(self.low, self.high, MADE_OF[self.of])


class Limb(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="is", tag="limb"):
    """A round bar along points, as thick as its radius."""

    along: Annotated[tuple[Place, ...], Meta(min_length=2)]
    radius_m: Thick
    of: Of

    def add_to(self, parts: Parts) -> None:
        for a, b in pairwise(self.along):
            parts.limb(a, b, self.radius_m, MADE_OF[self.of])


class Blob(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="is", tag="blob"):
    """An ellipsoid with its three radii."""

    middle: Place
    radii_m: tuple[Thick, Thick, Thick]
    of: Of

    def add_to(self, parts: Parts) -> None:
        parts.blob(self.middle, self.radii_m, MADE_OF[self.of])


class Lathe(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="is", tag="lathe"):
    """Something turned: radii along an axis through a point; drawn as a row of ellipsoids."""

    middle: Place
    axis: Literal["ahead", "left", "up"]
    profile: Annotated[tuple[tuple[Coordinate, Thick], ...], Meta(min_length=2)]  # place along the axis, radius there
    of: Of

    def __post_init__(self) -> None:
        if any(b[0] <= a[0] for a, b in pairwise(self.profile)):
            raise InputError("The profile of a turned thing goes back.", advice="Write its stations from low to high.")

    def add_to(self, parts: Parts) -> None:
        k = _AXES[self.axis]
        for (at, r), (to, s) in pairwise(self.profile):
            half = (to - at) / _LATHE_STEPS / 2.0
            for n in range(_LATHE_STEPS):
                share = (n + 0.5) / _LATHE_STEPS
                middle, radii = list(self.middle), [r + (s - r) * share] * 3
                middle[k] += at + (to - at) * share
                radii[k] = 1.6 * half
                parts.blob((middle[0], middle[1], middle[2]), (radii[0], radii[1], radii[2]), MADE_OF[self.of])


class Slab(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="is", tag="slab"):
    """An outline seen from above, without hollows, between two heights."""

    outline: Annotated[tuple[tuple[Coordinate, Coordinate], ...], Meta(min_length=3, max_length=12)]
    low_m: Coordinate
    high_m: Coordinate
    of: Of

    def __post_init__(self) -> None:
        if self.high_m <= self.low_m:
            raise InputError(f"A slab ends at {self.high_m:g} m, below where it begins.")
        _turns_one_way(np.array(self.outline))

    def add_to(self, parts: Parts) -> None:
        corners = np.array(self.outline)
        if _area(corners) < 0.0:
            corners = corners[::-1]
        along = np.roll(corners, -1, axis=0) - corners
        out = np.stack([along[:, 1], -along[:, 0]], axis=1) / np.linalg.norm(along, axis=1, keepdims=True)
        faces = [(n[0], n[1], 0.0, float(n @ c)) for n, c in zip(out, corners, strict=True)]
        points = np.array([(*c, z) for c in self.outline for z in (self.low_m, self.high_m)])
        parts.prisms.append((np.array(faces + _round(points)), MADE_OF[self.of]))


class Sheet(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="is", tag="sheet"):
    """A flat piece with three corners or more, in their order, such as a sail or a wing."""

    corners: Annotated[tuple[Place, ...], Meta(min_length=3, max_length=8)]
    thick_m: Thick
    of: Of

    def __post_init__(self) -> None:
        self._flat()

    def _flat(self) -> tuple[np.ndarray, np.ndarray]:
        """Its corners and the direction at right angles to it."""
        points = np.array(self.corners)
        up = np.cross(points[1] - points[0], points[2] - points[0])
        size = float(np.linalg.norm(up))
        if size < 1e-6:
            raise InputError("The corners of a sheet lie on one line.")
        up = up / size
        if np.abs((points - points[0]) @ up).max() > 0.02:
            raise InputError(
                "The corners of a sheet do not lie in one plane.", advice="Use three corners, or two sheets."
            )
        one = (points[1] - points[0]) / np.linalg.norm(points[1] - points[0])
        _turns_one_way(np.stack([points @ one, points @ np.cross(up, one)], axis=1))
        return points, up

    def add_to(self, parts: Parts) -> None:
        points, up = self._flat()
        middle, half = points.mean(axis=0), self.thick_m / 2.0
        faces = [(*up, float(up @ points[0]) + half), (*-up, half - float(up @ points[0]))]
        for a, b in zip(points, np.roll(points, -1, axis=0), strict=True):
            out = np.cross(b - a, up)
            out = out / np.linalg.norm(out)
            out = out if float(out @ (a - middle)) > 0.0 else -out
            faces.append((*out, float(out @ a)))
        thick = np.concatenate([points + half * up, points - half * up])
        parts.prisms.append((np.array(faces + _round(thick)), MADE_OF[self.of]))


def _area(corners: np.ndarray) -> float:
    x, y = corners[:, 0], corners[:, 1]
    return float((x * np.roll(y, -1) - y * np.roll(x, -1)).sum() / 2.0)


def _turns_one_way(corners: np.ndarray) -> None:
    along = np.roll(corners, -1, axis=0) - corners
    after = np.roll(along, -1, axis=0)
    turns = along[:, 0] * after[:, 1] - along[:, 1] * after[:, 0]
    if not ((turns > -1e-9).all() or (turns < 1e-9).all()) or abs(_area(corners)) < 1e-6:
        raise InputError("An outline has a hollow, or its corners are out of order.", advice="Split it into two.")


def _round(points: np.ndarray) -> list[tuple[float, float, float, float]]:
    """Faces across each axis that just hold points: a renderer bounds a prism by them."""
    low, high = points.min(axis=0), points.max(axis=0)
    faces = []
    for k in range(3):
        for sign, at in ((1.0, high[k]), (-1.0, -low[k])):
            normal = [0.0, 0.0, 0.0]
            normal[k] = sign
            faces.append((normal[0], normal[1], normal[2], float(at)))
    return faces


Solid = Box | Limb | Blob | Lathe | Slab | Sheet


def extent(parts: Parts) -> tuple[np.ndarray, np.ndarray]:
    """The lowest and highest corner (3,) of the box round everything of a group."""
    lows: list[tuple[float, ...]] = [b[:3] for b in parts.boxes]
    highs: list[tuple[float, ...]] = [b[3:6] for b in parts.boxes]
    for c in parts.capsules:
        ends = tuple(zip(c[:3], c[3:6], strict=True))
        lows.append(tuple(min(e) - c[6] for e in ends))
        highs.append(tuple(max(e) + c[6] for e in ends))
    for e in parts.ellipsoids:
        lows.append(tuple(e[k] - e[k + 3] for k in range(3)))
        highs.append(tuple(e[k] + e[k + 3] for k in range(3)))
    for faces, _material in parts.prisms:  # a prism has a face across each axis on both sides; they bound it
        sides = [[float(f[3] * f[k]) for f in faces if abs(f[k]) > 0.999] for k in range(3)]
        lows.append(tuple(min(side) for side in sides))
        highs.append(tuple(max(side) for side in sides))
    return np.min(lows, axis=0), np.max(highs, axis=0)

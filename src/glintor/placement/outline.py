"""Solids as a draughtsman sees them: outlines from above and from the side, what is nearer over what is farther."""

from functools import lru_cache
from itertools import combinations
from typing import Literal

import numpy as np
from msgspec import Struct

from glintor.placement.carrier import Carrier, parts_of
from glintor.placement.solids import Parts
from glintor.types import Array

Way = Literal["above", "side"]

_ROUND = 20  # corners of a circle
_TURN = np.linspace(0.0, 2.0 * np.pi, _ROUND, endpoint=False)
_CIRCLE = np.stack([np.cos(_TURN), np.sin(_TURN)], axis=1)
# Which two axes of (ahead, left, up) are drawn, and the third with the sign that grows towards the eye: seen from the right.
_AXES: dict[Way, tuple[list[int], int, float]] = {"above": ([0, 1], 2, 1.0), "side": ([0, 2], 1, -1.0)}


class Outline(Struct, frozen=True, eq=False):
    """One solid: its corners (n, 2) ahead and left, or ahead and up, in metres; its material; how near the eye it lies."""

    corners: Array
    material: int
    near: float


def outlines(groups: list[Parts], way: Way) -> list[Outline]:
    """The outlines of solids seen from above or from the right-hand side, the farthest first."""
    (a, b), depth, sign = _AXES[way]
    found: list[Outline] = []
    for parts in groups:
        for box in parts.boxes:
            low, high = box[:3], box[3:6]
            corners = np.array([(low[a], low[b]), (high[a], low[b]), (high[a], high[b]), (low[a], high[b])])
            found.append(Outline(corners, int(box[6]), max(sign * low[depth], sign * high[depth])))
        if parts.capsules:
            limbs = np.array(parts.capsules)
            near = np.maximum(sign * limbs[:, depth], sign * limbs[:, 3 + depth]) + limbs[:, 6]
            rings = _thick(limbs[:, [a, b]], limbs[:, [3 + a, 3 + b]], limbs[:, 6])
            found += [Outline(ring, int(m), n) for ring, m, n in zip(rings, limbs[:, 7], near.tolist(), strict=True)]
        for blob in parts.ellipsoids:
            corners = np.array([blob[a], blob[b]]) + _CIRCLE * (blob[3 + a], blob[3 + b])
            found.append(Outline(corners, int(blob[6]), sign * blob[depth] + blob[3 + depth]))
        for faces, material in parts.prisms:
            points = _corners_of(faces)
            found.append(Outline(hull(points[:, [a, b]]), int(material), float((sign * points[:, depth]).max())))
    return sorted(found, key=lambda outline: outline.near)


@lru_cache(maxsize=32)
def carrier_outlines(carrier: Carrier, way: Way) -> list[Outline]:
    """The carrier itself, at rest."""
    return outlines(list(parts_of(carrier)), way)


def _thick(one: Array, other: Array, radius: Array) -> Array:
    """Lines (n, 2) to (n, 2) with round ends as rings (n, corners, 2): each corner belongs to the end that lies its way."""
    ahead = (other - one) @ _CIRCLE.T > 0.0
    return np.where(ahead[..., None], other[:, None], one[:, None]) + _CIRCLE * radius[:, None, None]


def _corners_of(faces: Array) -> Array:
    """The corners (n, 3) of a convex body of planes n . x <= d."""
    threes = np.array(list(combinations(range(len(faces)), 3)))
    normals, sides = faces[threes][:, :, :3], faces[threes][:, :, 3]
    meet = np.abs(np.linalg.det(normals)) > 1e-9
    points = np.linalg.solve(normals[meet], sides[meet][..., None])[..., 0]
    inside = (points @ faces[:, :3].T <= faces[:, 3] + 1e-7).all(axis=1)
    return points[inside]


def hull(points: Array) -> Array:
    """The corners of the convex hull of points (n, 2), all the way round (Andrew's monotone chain)."""
    ordered = sorted({(round(float(x), 9), round(float(y), 9)) for x, y in points})

    def half(run: list[tuple[float, float]]) -> list[tuple[float, float]]:
        out: list[tuple[float, float]] = []
        for x, y in run:
            while len(out) > 1 and (out[-1][0] - out[-2][0]) * (y - out[-2][1]) <= (out[-1][1] - out[-2][1]) * (
                x - out[-2][0]
            ):
                out.pop()
            out.append((x, y))
        return out[:-1]

    return np.array(half(ordered) + half(ordered[::-1]))

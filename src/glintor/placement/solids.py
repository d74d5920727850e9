"""Simple solids (boxes, limbs, blobs, convex prisms), what they are made of and whose they are; rays against them."""

from collections.abc import Iterable, Sequence

import numpy as np
from msgspec import Struct, field
from numpy.typing import NDArray

from glintor.types import Array

Point = tuple[float, float, float]

# What things are made of; the simulation's renderer gives each its looks.
WATER, GROUND, STONE, BRICK, LEAF, BARK = 1, 2, 3, 4, 5, 6
HULL, CABIN, ROOF, RAIL, WOOD, BRASS, WHITE, DARK = 10, 11, 12, 13, 14, 15, 16, 17
JEANS, JACKET, SKIN, HAIR, CAP, SCARF = 20, 21, 22, 23, 24, 25
STEEL, BLUE, YELLOW, CLOTH, FUR = 26, 27, 28, 29, 36
STICK, TILE, PLASTER, FLOWERS, ROPE, DUCK = 30, 31, 32, 33, 34, 35
GRASS, EARTH, GRAVEL, ASPHALT, PAVING, SAND, SNOW, ROCK, FLOOR, CONCRETE, PHOTO = (
    40,
    41,
    42,
    43,
    44,
    45,
    46,
    47,
    48,
    49,
    50,
)

PLACE, SUBJECT, MOUNT, PICTURED = 0, 1, 2, 3  # whose a group of solids is; the last: what a place's photo shows already
NOT_PICTURED = -2  # all owners but that last one
_NEAR = 1e-4  # metres: a ray does not meet what it starts on


class Parts(Struct):
    """Solids being gathered for one group: boxes (low, high), limbs (two ends, radius), blobs (middle, three radii),
    prisms (planes n . x <= d as rows of n and d); each with its material."""

    boxes: list[tuple[float, ...]] = field(default_factory=list)
    capsules: list[tuple[float, ...]] = field(default_factory=list)
    ellipsoids: list[tuple[float, ...]] = field(default_factory=list)
    prisms: list[tuple[Array, int]] = field(default_factory=list)
    shadow_only: bool = False
    owner: int = PLACE
    cluster: int = 0  # how many groups follow that these bounds hold; then it has no solids of its own

    def box(self, low: Point, high: Point, material: int) -> None:
        self.boxes.append((*low, *high, material))

    def limb(self, a: Point, b: Point, radius: float, material: int) -> None:
        self.capsules.append((*a, *b, radius, material))

    def blob(self, c: Point, r: Point, material: int) -> None:
        self.ellipsoids.append((*c, *r, material))

    def moved(self, by: Array) -> "Parts":
        """The same elsewhere."""
        s, n, z = (float(v) for v in by)
        return Parts(
            boxes=[(b[0] + s, b[1] + n, b[2] + z, b[3] + s, b[4] + n, b[5] + z, b[6]) for b in self.boxes],
            capsules=[(c[0] + s, c[1] + n, c[2] + z, c[3] + s, c[4] + n, c[5] + z, *c[6:]) for c in self.capsules],
            ellipsoids=[(e[0] + s, e[1] + n, e[2] + z, *e[3:]) for e in self.ellipsoids],
            prisms=[(np.column_stack([f[:, :3], f[:, 3] + f[:, :3] @ by]), m) for f, m in self.prisms],
            shadow_only=self.shadow_only,
            owner=self.owner,
            cluster=self.cluster,
        )

    @property
    def empty(self) -> bool:
        return not (self.boxes or self.capsules or self.ellipsoids or self.prisms)


class Solids:
    """Groups of solids as arrays, for rays by the hundred."""

    def __init__(self, groups: Iterable[Parts]) -> None:
        groups = [group for group in groups if not group.cluster]
        self._boxes = _rows([b for g in groups for b in g.boxes], 7)
        self._limbs = _rows([c for g in groups for c in g.capsules], 8)
        self._blobs = _rows([e for g in groups for e in g.ellipsoids], 7)
        self._prisms = [faces for g in groups for faces, _ in g.prisms]

    def distance(self, origins: Array, directions: Array) -> Array:
        """Metres along each ray (n,) to what it meets first, inf where nothing; unit directions (n, 3)."""
        out = np.full(len(origins), np.inf)
        for hits in (
            _box_hits(self._boxes, origins, directions),
            _blob_hits(self._blobs, origins, directions),
            _limb_hits(self._limbs, origins, directions),
        ):
            if hits.size:
                out = np.minimum(out, hits.min(axis=1))
        for faces in self._prisms:
            out = np.minimum(out, _prism_hits(faces, origins, directions))
        return out

    def room(self, points: Array) -> Array:
        """Metres (n,) from points (n, 3) to the nearest surface: below zero inside a solid, inf where there is none. Of blobs it is a
        good guess near their surface, of prisms outside a lower bound."""
        out = np.full(len(points), np.inf)
        for rooms in (_box_room(self._boxes, points), _blob_room(self._blobs, points), _limb_room(self._limbs, points)):
            if rooms.size:
                out = np.minimum(out, rooms.min(axis=1))
        for faces in self._prisms:
            far = np.maximum(np.linalg.norm(faces[:, :3], axis=1), 1e-12)
            out = np.minimum(out, ((points @ faces[:, :3].T - faces[:, 3]) / far).max(axis=1))
        return out

    def blocks(self, origins: Array, points: Array, *, slack_m: float | Array = 0.02) -> NDArray[np.bool_]:
        """Whether something stands between each origin and its point (n, 3)."""
        way = points - origins
        far = np.linalg.norm(way, axis=1)
        return self.distance(origins, way / np.maximum(far, 1e-9)[:, None]) < far - slack_m


def _rows(items: Sequence[tuple[float, ...]], width: int) -> Array:
    return np.array(items, dtype=np.float64).reshape(-1, width)


def _box_room(boxes: Array, points: Array) -> Array:
    beyond = np.maximum(boxes[None, :, :3] - points[:, None], points[:, None] - boxes[None, :, 3:6])
    outside = np.linalg.norm(np.maximum(beyond, 0.0), axis=2)
    return np.asarray(outside + np.minimum(beyond.max(axis=2, initial=-np.inf), 0.0))


def _blob_room(blobs: Array, points: Array) -> Array:
    p, radii = points[:, None] - blobs[None, :, :3], blobs[None, :, 3:6]
    share, steep = np.linalg.norm(p / radii, axis=2), np.linalg.norm(p / radii**2, axis=2)
    middle = -np.broadcast_to(blobs[None, :, 3:6].min(axis=2, initial=np.inf), share.shape)
    return np.where(steep > 1e-9, share * (share - 1.0) / np.maximum(steep, 1e-9), middle)


def _limb_room(limbs: Array, points: Array) -> Array:
    along = limbs[None, :, 3:6] - limbs[None, :, :3]
    p = points[:, None] - limbs[None, :, :3]
    share = (p * along).sum(axis=2) / np.maximum((along * along).sum(axis=2), 1e-12)
    near = along * np.clip(share, 0.0, 1.0)[..., None]
    return np.asarray(np.linalg.norm(p - near, axis=2) - limbs[None, :, 6])


def _box_hits(boxes: Array, o: Array, d: Array) -> Array:
    inverse = 1.0 / np.where(np.abs(d) > 1e-12, d, 1e-12)
    a = (boxes[None, :, :3] - o[:, None]) * inverse[:, None]
    b = (boxes[None, :, 3:6] - o[:, None]) * inverse[:, None]
    enter, leave = np.minimum(a, b).max(axis=2, initial=-np.inf), np.maximum(a, b).min(axis=2, initial=np.inf)
    return np.where((enter > _NEAR) & (enter <= leave), enter, np.inf)


def _blob_hits(blobs: Array, o: Array, d: Array) -> Array:
    p = (o[:, None] - blobs[None, :, :3]) / blobs[None, :, 3:6]
    q = d[:, None] / blobs[None, :, 3:6]
    a, b, c = (q * q).sum(axis=2), (p * q).sum(axis=2), (p * p).sum(axis=2) - 1.0
    return _first_root(a, b, c)


def _first_root(a: Array, b: Array, c: Array) -> Array:
    h = b * b - a * c
    with np.errstate(invalid="ignore", divide="ignore"):
        t = (-b - np.sqrt(h)) / a
    return np.where((h >= 0.0) & (t > _NEAR), t, np.inf)


def _limb_hits(limbs: Array, o: Array, d: Array) -> Array:
    a, along, r = limbs[None, :, :3], (limbs[:, 3:6] - limbs[:, :3])[None], limbs[None, :, 6]
    p = o[:, None] - a
    bb, bd, bp = (along * along).sum(axis=2), (along * d[:, None]).sum(axis=2), (along * p).sum(axis=2)
    dp, pp = (p * d[:, None]).sum(axis=2), (p * p).sum(axis=2)
    t = _first_root(bb - bd * bd, bb * dp - bp * bd, bb * pp - bp * bp - r * r * bb)
    with np.errstate(invalid="ignore"):
        y = bp + t * bd
        best = np.where(np.isfinite(t) & (y > 0.0) & (y < bb), t, np.inf)
    for end in (a, a + along):
        q = o[:, None] - end
        best = np.minimum(best, _first_root(np.ones_like(r), (q * d[:, None]).sum(axis=2), (q * q).sum(axis=2) - r * r))
    return best


def _prism_hits(faces: Array, o: Array, d: Array) -> Array:
    along, off = d @ faces[:, :3].T, faces[:, 3] - o @ faces[:, :3].T
    with np.errstate(divide="ignore", invalid="ignore"):
        t = off / along
    enter = np.where(along < -1e-12, t, -np.inf).max(axis=1)
    leave = np.where(along > 1e-12, t, np.inf).min(axis=1)
    beside = ((np.abs(along) <= 1e-12) & (off < 0.0)).any(axis=1)
    return np.where(~beside & (enter <= leave) & (enter > _NEAR), enter, np.inf)

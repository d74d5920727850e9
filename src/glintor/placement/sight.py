"""What of a subject the lenses see: it is sampled as points, and rays are cast at it past all that may stand before it."""

import math
from functools import lru_cache

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.placement import solids as rt
from glintor.placement.figures import being_solids, carrier_solids, carrying_person, subject_person
from glintor.placement.layout import Layout
from glintor.placement.shapes import extent
from glintor.placement.solids import Parts, Solids
from glintor.placement.standing import Box, wall_solids
from glintor.sphere.view import View, frame_position
from glintor.types import Array

FACE, CLOTHES, LEGS = 0, 1, 2  # what of a person a viewer looks at first: face and hands, then clothes, legs last
_KINDS = {rt.SKIN: FACE, rt.HAIR: FACE, rt.CAP: FACE, rt.SCARF: FACE, rt.JACKET: CLOTHES}
_SKIN_M = 0.02  # that a ray may end in what it is cast at
_SMALL_M, GRIP_M = 0.03, 0.2  # parts smaller than this are left out; within this of the stick's foot a hand grips it
_FACE_POINTS = 4  # along each side of a face of something flat
_NEAR_WALL_M = 6.0  # a wall so near stands before a view, farther it is part of it (judgement)
_OUT_OF_SIGHT_M = 500.0
_RAYS = 600  # over a subject that is partly hidden
_SAMPLE_M = 0.07  # between points along a limb
_FAR_DEG = 6.0  # of a view or the way ahead, round its middle: what must be seen of it (judgement)
_STEP_S = 0.25  # when somebody's legs are apart


class Body(Struct, frozen=True, eq=False):
    """The subject as points (n, 3) inside its solids, each with the radius of the solid there, its weight by area,
    what it is, whether nothing of the body itself stands before it, and whether it is seen
    past the carrier and its people too. by_kind: the solids of its face, clothes and legs."""

    points: Array
    radius_m: Array
    weight: Array
    kind: NDArray[np.int64]
    faces: NDArray[np.bool_]
    seen: NDArray[np.bool_]
    by_kind: tuple[Solids, ...]


@lru_cache(maxsize=64)
def body_of(plan: Layout) -> Body:
    """The subject of a placement, sampled. A hand that grips the camera's stick counts as the legs do: it lies where the
    stick points, and nobody looks there."""
    parts, _ = subject_person(plan)
    table = np.array([*(_far_rows(plan) if plan.filmed[0].subject.far else []), *samples(parts)])
    points, kind = table[:, :3], table[:, 5].astype(np.int64)
    if plan.setup.hand is not None:
        grips = np.linalg.norm(points - plan.foot, axis=1) < GRIP_M
        kind = np.where(grips, LEGS, kind)
    if plan.filmed[0].subject.what != "person":
        kind = np.where(kind == LEGS, CLOTHES, kind)
    eyes = np.repeat(plan.camera[None], len(points), axis=0)
    front = _towards(points, plan.camera, table[:, 3])
    seen = faces = ~Solids([parts]).blocks(eyes, front, slack_m=0.03)
    for one in _obstacles(plan):
        seen = seen & ~one.blocks(plan.camera, front)
    by_kind = tuple(_of_kind(parts, k, LEGS if plan.filmed[0].subject.what == "person" else CLOTHES) for k in range(3))
    return Body(points, table[:, 3], table[:, 4], kind, faces, seen, by_kind)


def samples(parts: Parts) -> list[tuple[float, ...]]:
    """Points spread over solids: where, the radius of the solid there, how much of the area each stands for, its kind."""
    rows = _flat_rows(parts)
    for x0, y0, z0, x1, y1, z1, radius, material in parts.capsules:
        length = math.dist((x0, y0, z0), (x1, y1, z1))
        count = max(math.ceil(length / _SAMPLE_M), 2)
        for n in range(count):
            t = (n + 0.5) / count
            point = (x0 + (x1 - x0) * t, y0 + (y1 - y0) * t, z0 + (z1 - z0) * t)
            rows.append((*point, radius, 2.0 * radius * length / count, _KINDS.get(int(material), LEGS)))
    covered: list[tuple[float, ...]] = []  # hair and cap lie on the head, and are no second and third head
    for x, y, z, rx, ry, rz, material in sorted(parts.ellipsoids, key=lambda blob: -blob[3] * blob[5]):
        if min(rx, ry, rz) >= _SMALL_M:
            own = not any(math.dist((x, y, z), other[:3]) < other[3] for other in covered)
            covered.append((x, y, z, max(rx, ry, rz)))
            rows.append((x, y, z, max(rx, ry), math.pi * rx * rz * own, _KINDS.get(int(material), LEGS)))
    return rows


def _towards(points: Array, eye: Array, by_m: Array) -> Array:
    """Points (n, 3) moved so far towards an eye, not past it: onto the skin of the solids that they are the middle of."""
    way = eye - points
    far = np.maximum(np.linalg.norm(way, axis=1), 1e-9)
    return np.asarray(points + way * (np.minimum(by_m, 0.9 * far) / far)[:, None])


def _of_kind(parts: Parts, kind: int, other: int) -> Solids:
    """What of a subject is of a kind, for rays; other: the kind of whatever is no face and no clothes."""
    mine = Parts(
        boxes=parts.boxes if kind == other else [],
        prisms=parts.prisms if kind == other else [],
        capsules=[limb for limb in parts.capsules if _KINDS.get(int(limb[-1]), other) == kind],
        ellipsoids=[blob for blob in parts.ellipsoids if _KINDS.get(int(blob[-1]), other) == kind],
    )
    return Solids([mine])


def _far_rows(plan: Layout) -> list[tuple[float, ...]]:
    """Points over what must be seen of a view or of the way ahead."""
    far = float(np.linalg.norm(plan.subject - plan.camera))
    look = (plan.subject - plan.camera) / far
    side = np.cross(look, [0.0, 0.0, 1.0])
    side = side / max(float(np.linalg.norm(side)), 1e-6)
    rise, reach = np.cross(side, look), far * math.tan(math.radians(_FAR_DEG))
    size = 0.1 * reach
    return [
        (*(plan.subject + a * reach * side + b * reach * rise), size, 1.0, LEGS)
        for a in np.linspace(-1.0, 1.0, 7).tolist()
        for b in np.linspace(-0.3, 0.6, 5).tolist()
    ]


def _flat_rows(parts: Parts) -> list[tuple[float, ...]]:
    """Points on the faces of boxes and prisms, each standing for its share of them."""
    bodies = [(np.array(box[:3]), np.array(box[3:6])) for box in parts.boxes]
    bodies += [extent(Parts(prisms=[prism])) for prism in parts.prisms]
    rows = []
    for low, high in bodies:
        size = high - low
        for across, end in ((0, 0.0), (0, 1.0), (1, 0.0), (1, 1.0), (2, 1.0)):  # nobody sees what it stands on
            one, other = (axis for axis in range(3) if axis != across)
            for a, b in np.ndindex(_FACE_POINTS, _FACE_POINTS):
                share = np.zeros(3)
                share[across], share[one], share[other] = end, (a + 0.5) / _FACE_POINTS, (b + 0.5) / _FACE_POINTS
                rows.append((*(low + size * share), 0.0, float(size[one] * size[other]) / _FACE_POINTS**2, LEGS))
    return rows


def visible_share(plan: Layout) -> float:
    """Share of the subject, as large as the lenses draw it, that they see past the carrier's solids and who carries the camera. Where
    points spread over its body tell neither all nor nothing, by rays over all of its outline."""
    body = body_of(plan)
    large = body.weight / np.maximum(((body.points - plan.camera) ** 2).sum(axis=1), 1e-6)
    share = float(large[body.seen].sum() / max(large[body.faces].sum(), 1e-9))
    return share if plan.filmed[0].subject.far or share in (0.0, 1.0) else _share_by_rays(plan)


@lru_cache(maxsize=64)
def _share_by_rays(plan: Layout) -> float:
    body, eye = body_of(plan), plan.camera
    ways = body.points - eye
    far = np.maximum(np.linalg.norm(ways, axis=1), 1e-6)
    middle = (ways / far[:, None]).mean(axis=0)
    middle = middle / max(float(np.linalg.norm(middle)), 1e-9)
    off = np.arccos(np.clip(ways @ middle / far, -1.0, 1.0)) + np.arcsin(np.minimum(body.radius_m / far, 1.0))
    rays = _spread(middle, float(off.max()))
    met = Solids([subject_person(plan)[0]]).distance(np.repeat(eye[None], len(rays), axis=0), rays)
    points = eye + (rays * np.where(np.isfinite(met), met, 0.0)[:, None])[np.isfinite(met)]
    hidden = np.zeros(len(points), bool)
    for one in _obstacles(plan):
        hidden |= one.blocks(eye, points)
    return float(1.0 - hidden.mean()) if len(points) else 1.0


def _spread(middle: Array, within_rad: float) -> Array:
    """(n, 3) unit vectors, each for as much of a cone about another: a spiral by the golden angle."""
    number = np.arange(_RAYS) + 0.5
    along = 1.0 - (1.0 - math.cos(within_rad)) * number / _RAYS
    side = np.cross(middle, np.eye(3)[int(np.argmin(np.abs(middle)))])
    side = side / np.linalg.norm(side)
    turn, out = math.pi * (1.0 + math.sqrt(5.0)) * number, np.sqrt(1.0 - along * along)
    rise = np.cross(middle, side)
    return np.asarray(
        along[:, None] * middle + (out * np.cos(turn))[:, None] * side + (out * np.sin(turn))[:, None] * rise
    )


def drawn_px(plan: Layout, view: View, size_px: tuple[int, int]) -> float:
    """How high a frame draws the subject, pixels, through its lens; what lies outside the frame counts too, what the lens
    cannot see does not."""
    body = body_of(plan)
    look = body.points - plan.camera
    x, y, z = (look / np.maximum(np.sqrt((look * look).sum(axis=1)), 1e-6)[:, None]).T
    flat = np.maximum(np.hypot(x, y), 1e-6)
    a, b = y / flat, -x / flat  # level, at right angles to each look; then what stands on both
    side = np.stack([a, b, 0.0 * a], axis=1)
    rise, radius = np.stack([b * z, -a * z, a * y - b * x], axis=1), body.radius_m[:, None]
    rim = np.concatenate([body.points + radius * way for way in (rise, -rise, side, -side)])
    row = frame_position(view, size_px, plan.directions(rim))[1]
    return float(np.nanmax(row) - np.nanmin(row)) if np.isfinite(row).any() else 0.0


def _near_walls(plan: Layout) -> tuple[Box, ...]:
    return tuple(w for w in plan.walls if float(wall_solids((w,)).room(plan.camera[None])[0]) < _NEAR_WALL_M)


def obstacles(plan: Layout) -> list[Solids]:
    """What may stand before the subject: the carrier, what one cannot see through of the place (of a view only what is near: the rest is
    part of it), the other subjects, and who carries the camera where that is somebody else."""
    return [one.solids for one in _obstacles(plan)]


def what_hides(plan: Layout) -> list[str]:
    """What of `obstacles` stands before any of the subject, in words."""
    body = body_of(plan)
    front = _towards(body.points, plan.camera, body.radius_m)[body.faces]
    return [one.words for one in _obstacles(plan) if one.blocks(plan.camera, front).any()]


def what_is_before(plan: Layout, way: Array) -> str:
    """What of `obstacles` the camera has before it in a direction (3,), in words; "" where nothing."""
    far = (plan.camera + _OUT_OF_SIGHT_M * way)[None]
    return next((one.words for one in _obstacles(plan) if one.blocks(plan.camera, far).any()), "")


class _Obstacle(Struct, frozen=True, eq=False):
    """What may stand before the subject, in words; within_m: of the camera, farther off it hides nothing."""

    words: str
    solids: Solids
    within_m: float = math.inf

    def blocks(self, eye: Array, points: Array) -> NDArray[np.bool_]:
        """(n,) whether it stands between an eye and points (n, 3)."""
        way = points - eye
        far = np.maximum(np.linalg.norm(way, axis=1), 1e-9)
        ends = eye + way * np.minimum(self.within_m / far, 1.0)[:, None]
        return self.solids.blocks(np.repeat(eye[None], len(points), axis=0), ends, slack_m=_SKIN_M)


def _obstacles(plan: Layout) -> list[_Obstacle]:
    out = [_Obstacle(f"the {plan.carrier.words}", carrier_solids(plan.carrier))]
    far = plan.filmed[0].subject.far
    walls = _near_walls(plan) if far else plan.walls
    if walls:
        out.append(_Obstacle("what stands about", wall_solids(walls), _NEAR_WALL_M if far else math.inf))
    others = [being_solids(plan, being, _STEP_S)[0] for being in plan.filmed[1:] if not being.subject.far]
    if others:
        out.append(_Obstacle("another subject", Solids(others)))
    if plan.carrier_apart:
        carrying = carrying_person(plan)
        assert carrying is not None
        out.append(_Obstacle("who carries the camera", Solids([carrying[0]])))
    return out

"""Who and what stands about a placement as solids, in the carrier's axes: the carrier, who carries the camera, the subject,
the camera on its stick. Findings cast rays at them, and the simulation draws them."""

import math
from functools import lru_cache

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.placement import boat, vehicles
from glintor.placement import solids as rt
from glintor.placement.layout import Layout
from glintor.placement.person import add_person
from glintor.placement.solids import Parts, Point, Solids
from glintor.sphere.view import View, frame_position

Array = NDArray[np.float64]
STRIDE_RAD = 0.42
WALK_M_S = 1.25  # a stroll (common practice, no source)
_AT_HELM_M, _AT_SEAT_M = 0.7, 0.4  # within this of its usual place somebody steers


def carrier_parts(carrier_id: str, time_s: float = 0.0) -> list[Parts]:
    """The carrier itself; nothing for who walks and for the ground."""
    if carrier_id == "boat":
        return boat.boat_parts(0.0, 0.0, -boat.ROOF_Z, time_s)
    if carrier_id == "cycle":
        return [vehicles.cycle_parts(0.0, 0.0, 0.0)]
    return [vehicles.car_parts(0.0, 0.0, 0.0)] if carrier_id == "car" else []


@lru_cache(maxsize=8)
def carrier_solids(carrier_id: str) -> Solids:
    """The carrier for rays, at rest."""
    return Solids(carrier_parts(carrier_id))


def _point(place: Array) -> Point:
    return float(place[0]), float(place[1]), float(place[2])


def carrying_person(plan: Layout, time_s: float = 0.0) -> tuple[Parts, Point] | None:
    """Who wears or holds the camera and the middle of the head; None where nobody does."""
    return None if plan.carrying is None else _carrying(plan, plan.carrying, time_s)


def _carrying(plan: Layout, feet: Array, time_s: float) -> tuple[Parts, Point]:
    parts = Parts()
    held = _point(plan.foot) if plan.setup.hand is not None else None
    walks = STRIDE_RAD if plan.carrier.speed_m_s > 0.0 else 0.0
    head = add_person(parts, _point(feet), 0.0, time_s, stride=walks, right_hand=held)
    return parts, head


def subject_person(plan: Layout, time_s: float = 0.0) -> tuple[Parts, Point]:
    """The subject and the middle of the head: who carries the camera where they are one, steering at the helm, the wheel or
    the bar, else standing towards the camera or walking along its way."""
    if plan.carrying is not None and not plan.carrier_apart:
        parts, head = _carrying(plan, plan.subject, time_s)
        parts.owner = rt.SUBJECT
        return parts, head
    parts = Parts(owner=rt.SUBJECT)
    feet = _point(plan.subject)
    usual = float(np.hypot(feet[0] - plan.carrier.subject_m[0], feet[1] - plan.carrier.subject_m[1]))
    kind = plan.carrier.id
    if kind == "car" and usual < _AT_SEAT_M:
        grips = [(0.30, side, 0.92) for side in (0.48, 0.22)]
        return parts, add_person(parts, feet, 0.0, time_s, left_hand=grips[0], right_hand=grips[1], pose="sits")
    if kind == "cycle" and usual < _AT_SEAT_M:
        grips = [(vehicles.GRIP_S, side * vehicles.GRIP_N, vehicles.GRIP_Z) for side in (1.0, -1.0)]
        return parts, add_person(parts, feet, 0.0, time_s, left_hand=grips[0], right_hand=grips[1], pose="rides")
    if kind == "boat":
        grip, wave = None, None
        if usual < _AT_HELM_M:
            a, n, z = boat.TILLER_GRIP
            grip = (a, n + 0.06 * math.sin(time_s * 0.5), z + 0.03 - boat.ROOF_Z)
            if math.sin(time_s * 0.42) > 0.75:  # now and then she points ahead
                wave = (feet[0] + 0.45, feet[1] + 0.25, feet[2] + 1.35 + 0.05 * math.sin(time_s * 3))
        return parts, add_person(parts, feet, 0.0, time_s, right_hand=grip, left_hand=wave)
    goes = math.hypot(*plan.goes_m) > 0.1 and plan.walked < 1.0
    to = plan.goes_m if goes else (float(plan.camera[0]) - feet[0], float(plan.camera[1]) - feet[1])
    moves = goes or kind == "walker"  # beside somebody who walks, everybody does
    facing = math.atan2(to[1], to[0]) if goes or kind != "walker" else 0.0
    return parts, add_person(parts, feet, facing, time_s, stride=STRIDE_RAD if moves else 0.0)


def mount_points(plan: Layout, count: int = 40) -> Array:
    """(n, 3) along the stick from its foot to the camera's top; the camera alone without a stick."""
    top = plan.camera + np.array([0.0, 0.0, 0.05])
    if plan.stick_m <= 0.0:
        return np.stack([plan.camera, top])
    share = np.linspace(0.0, 1.0, count)[:, None]
    return np.concatenate([plan.foot + (plan.camera - plan.foot) * share, top[None]])


FACE, CLOTHES, LEGS = 0, 1, 2  # what of a person a viewer looks at first: face and hands, then clothes, legs last
_KINDS = {rt.SKIN: FACE, rt.HAIR: FACE, rt.CAP: FACE, rt.SCARF: FACE, rt.JACKET: CLOTHES}
_SMALL_M, _GRIP_M = 0.03, 0.2  # parts smaller than this are left out; within this of the stick's foot a hand grips it
_SAMPLE_M = 0.07  # between points along a limb


class Body(Struct, frozen=True, eq=False):
    """The subject as points (n, 3) inside its solids, each with the radius of the solid there, how far it reaches along the
    lenses' axis, its weight by area, what it is, whether nothing of the body itself stands before it, and whether it is seen
    past the carrier and its people too."""

    points: Array
    radius_m: Array
    reach_m: Array
    weight: Array
    kind: NDArray[np.int64]
    faces: NDArray[np.bool_]
    seen: NDArray[np.bool_]


@lru_cache(maxsize=64)
def body_of(plan: Layout) -> Body:
    """The subject of a placement, sampled. A hand that grips the camera's stick counts as the legs do: it lies where the
    stick points, and nobody looks there."""
    parts, _ = subject_person(plan)
    rows: list[tuple[float, ...]] = []
    ax, ay, az = (float(v) for v in plan.axes[:, 0])
    for x0, y0, z0, x1, y1, z1, radius, material in parts.capsules:
        length = math.dist((x0, y0, z0), (x1, y1, z1))
        count = max(math.ceil(length / _SAMPLE_M), 2)
        for n in range(count):
            t = (n + 0.5) / count
            point = (x0 + (x1 - x0) * t, y0 + (y1 - y0) * t, z0 + (z1 - z0) * t)
            rows.append((*point, radius, radius, 2.0 * radius * length / count, _KINDS.get(int(material), LEGS)))
    for x, y, z, rx, ry, rz, material in parts.ellipsoids:
        if min(rx, ry, rz) >= _SMALL_M:
            reach = math.sqrt((rx * ax) ** 2 + (ry * ay) ** 2 + (rz * az) ** 2)
            rows.append((x, y, z, max(rx, ry), reach, math.pi * rx * rz, _KINDS.get(int(material), LEGS)))
    table = np.array(rows)
    points, kind = table[:, :3], table[:, 6].astype(np.int64)
    if plan.setup.hand is not None:
        grips = np.linalg.norm(points - plan.foot, axis=1) < _GRIP_M
        kind = np.where(grips, LEGS, kind)
    eyes = np.repeat(plan.camera[None], len(points), axis=0)
    seen = faces = ~Solids([parts]).blocks(eyes, points, slack_m=table[:, 3] + 0.03)
    for solids in obstacles(plan):
        seen = seen & ~solids.blocks(eyes, points, slack_m=table[:, 3] + 0.02)
    return Body(points, table[:, 3], table[:, 4], table[:, 5], kind, faces, seen)


def visible_share(plan: Layout) -> float:
    """Share of the subject, by area, that the lenses see past the carrier's solids and who carries the camera: rays from
    the lenses to points spread over its body."""
    body = body_of(plan)
    return float(body.weight[body.seen].sum() / max(body.weight[body.faces].sum(), 1e-9))


def drawn_px(plan: Layout, view: View, size_px: tuple[int, int]) -> float:
    """How high a frame draws the subject, pixels, through its lens; what lies outside the frame counts too, what the lens
    cannot see does not."""
    body = body_of(plan)
    look = body.points - plan.camera
    far = np.maximum(np.linalg.norm(look, axis=1, keepdims=True), 1e-6)
    side = np.cross(look / far, [0.0, 0.0, 1.0])
    side = side / np.maximum(np.linalg.norm(side, axis=1, keepdims=True), 1e-6)
    rise, radius = np.cross(side, look / far), body.radius_m[:, None]
    rim = np.concatenate([body.points + radius * way for way in (rise, -rise, side, -side)])
    y = frame_position(view, size_px, plan.directions(rim))[1]
    return float(np.nanmax(y) - np.nanmin(y)) if np.isfinite(y).any() else 0.0


def obstacles(plan: Layout) -> list[Solids]:
    """What may stand before the subject: the carrier, and who carries the camera where that is somebody else."""
    out = [carrier_solids(plan.carrier.id)]
    if plan.carrier_apart:
        carrying = carrying_person(plan)
        assert carrying is not None
        out.append(Solids([carrying[0]]))
    return out

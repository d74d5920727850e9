"""Who and what stands about a placement as solids, in the carrier's axes: the carrier, who carries the camera, the subjects,
the camera on its stick. Findings cast rays at them, and the simulation draws them."""

import math
from functools import lru_cache

import numpy as np

from glintor.placement import solids as rt
from glintor.placement.carrier import Carrier, Seat, parts_of
from glintor.placement.layout import Layout
from glintor.placement.person import STRIDES_RAD, add_person
from glintor.placement.solids import Parts, Point, Solids
from glintor.placement.subject import Being
from glintor.types import Array

STRIDE_RAD = STRIDES_RAD["walks"]
WALK_M_S = 1.25  # a stroll (common practice, no source)
_FOOT_M, _CAMERA_M = 0.08, 0.04  # of a stick that may touch something at its foot; room that a camera needs beyond it
_HANGS_M = 0.8  # over the ground, from where on the underside of a box is overhead and no wall's foot
_STEP_S = 0.25  # when somebody's legs are apart


@lru_cache(maxsize=32)
def carrier_solids(carrier: Carrier) -> Solids:
    """The carrier for rays, at rest."""
    return Solids(parts_of(carrier))


def _point(place: Array) -> Point:
    return float(place[0]), float(place[1]), float(place[2])


def carrying_person(plan: Layout, time_s: float = 0.0) -> tuple[Parts, Point] | None:
    """Who wears or holds the camera and the middle of the head; None where nobody does."""
    return None if plan.carrying is None else _carrying(plan, plan.carrying, time_s)


def _carrying(plan: Layout, feet: Array, time_s: float) -> tuple[Parts, Point]:
    parts = Parts()
    held = _point(plan.foot) if plan.setup.hand is not None else None
    return parts, _seated(parts, plan, plan.carrying_seat, _point(feet), time_s, holds=held)


def _seated(
    parts: Parts, plan: Layout, seat: Seat | None, feet: Point, time_s: float, *, holds: Point | None = None
) -> Point:
    """Somebody of the carrier's, in the pose and with the grips of the seat; one hand may hold the camera's stick."""
    if seat is None:
        return add_person(parts, feet, 0.0, time_s, right_hand=holds)
    left, right = (*seat.grips, None, None)[:2]
    stride = STRIDES_RAD.get(seat.pose, 0.0) if plan.carrier.moves else 0.0
    return add_person(
        parts,
        feet,
        -math.radians(seat.faces_deg),
        time_s,
        stride=stride,
        left_hand=left,
        right_hand=holds or right,
        pose=seat.pose,
        helmet=seat.helmet,
    )


def subject_person(plan: Layout, time_s: float = 0.0) -> tuple[Parts, Point]:
    """The subject that findings speak of, as solids, and what of it one looks at: of a person the middle of the head."""
    return being_solids(plan, plan.filmed[0], time_s)


def cast(plan: Layout, time_s: float = 0.0) -> list[tuple[Being, Parts, Point]]:
    """Every subject with its solids (none of a direction) and what of it one looks at."""
    return [(being, *being_solids(plan, being, time_s)) for being in plan.filmed]


def being_solids(plan: Layout, being: Being, time_s: float) -> tuple[Parts, Point]:
    feet = _point(plan.feet_of(being))
    if being.subject.far:
        return Parts(owner=rt.SUBJECT), feet
    if being.subject.what == "person":
        return _person(plan, being, feet, time_s)
    return alone(being, feet, plan.facing(being)), _point(plan.middle_of(being))


def alone(being: Being, feet: Point = (0.0, 0.0, 0.0), facing: float = 0.0) -> Parts:
    """A subject by itself, facing an angle from ahead to the left; nothing of a direction."""
    parts = Parts(owner=rt.SUBJECT)
    one = being.subject
    if one.what == "person":
        stride = STRIDES_RAD.get(one.pose, 0.0)
        add_person(parts, feet, facing, _STEP_S, pose=one.pose, height_m=one.height_m, stride=stride)
    elif being.carrier is not None:
        _carrier_with_people(parts, being.carrier, np.array(feet))
    elif one.what == "animal":
        _animal(parts, being, feet, facing)
    elif one.what == "thing":
        half, tall = (one.long_m or one.height_m) / 2.0, one.height_m
        low, high = (feet[0] - half, feet[1] - half, feet[2]), (feet[0] + half, feet[1] + half, feet[2] + tall)
        parts.box(low, high, rt.YELLOW)
    return parts


def _person(plan: Layout, being: Being, feet: Point, time_s: float) -> tuple[Parts, Point]:
    """A person: who carries the camera where they are one, in a seat of the carrier, else standing towards the camera or
    moving along."""
    first = being is plan.filmed[0]
    if first and plan.carrying is not None and not plan.carrier_apart:
        parts, head = _carrying(plan, plan.subject, time_s)
        parts.owner = rt.SUBJECT
        return parts, head
    parts = Parts(owner=rt.SUBJECT)
    seat = plan.seat_of(being)
    if seat is not None and (plan.carrier.solids or plan.carrier.moves):
        return parts, _seated(parts, plan, seat, feet, time_s)
    one = being.subject
    goes = math.hypot(one.goes_ahead_m, one.goes_left_m) > 0.1 and plan.walked < 1.0
    moves = goes or plan.carrier.step_hz > 0.0  # beside somebody who walks, everybody does
    stride = STRIDES_RAD.get(one.pose, STRIDE_RAD) if moves else 0.0
    facing = plan.facing(being)
    return parts, add_person(parts, feet, facing, time_s, stride=stride, pose=one.pose, height_m=being.height_m)


def rider(carrier: Carrier) -> Parts | None:
    """Who is in its first seat, in the middle of a step; None where it has none."""
    if not carrier.seats:
        return None
    seat, who = carrier.seats[0], Parts()
    left, right = (*seat.grips, None, None)[:2]
    add_person(
        who,
        seat.feet,
        -math.radians(seat.faces_deg),
        _STEP_S,
        stride=STRIDES_RAD.get(seat.pose, 0.0),
        left_hand=left,
        right_hand=right,
        pose=seat.pose,
        helmet=seat.helmet,
    )
    return who


def _carrier_with_people(parts: Parts, carrier: Carrier, feet: Array) -> None:
    up = feet + np.array([0.0, 0.0, carrier.floor_m if carrier.on != "air" else 0.0])
    who = rider(carrier)
    for group in [*parts_of(carrier), *([who] if who is not None else [])]:
        there = group.moved(up)
        parts.boxes += there.boxes
        parts.capsules += there.capsules
        parts.ellipsoids += there.ellipsoids
        parts.prisms += there.prisms


def _animal(parts: Parts, being: Being, feet: Point, facing: float) -> None:
    """Four legs, a body and a head, all by its height at the back."""
    tall, long = being.height_m, being.subject.long_m or 1.25 * being.height_m
    c, s = math.cos(facing), math.sin(facing)

    def at(ahead: float, left: float, up: float) -> Point:
        return feet[0] + ahead * c - left * s, feet[1] + ahead * s + left * c, feet[2] + up

    for ahead in (-0.34 * long, 0.34 * long):
        for left in (-0.12 * tall, 0.12 * tall):
            parts.limb(at(ahead, left, 0.03 * tall), at(ahead, left, 0.55 * tall), 0.06 * tall, rt.FUR)
    parts.limb(at(-0.30 * long, 0.0, 0.76 * tall), at(0.32 * long, 0.0, 0.76 * tall), 0.22 * tall, rt.FUR)
    parts.limb(at(0.34 * long, 0.0, 0.84 * tall), at(0.50 * long, 0.0, 1.06 * tall), 0.11 * tall, rt.FUR)
    parts.limb(at(0.50 * long, 0.0, 1.10 * tall), at(0.64 * long, 0.0, 1.04 * tall), 0.10 * tall, rt.HAIR)
    parts.limb(at(-0.36 * long, 0.0, 0.84 * tall), at(-0.50 * long, 0.0, 0.70 * tall), 0.03 * tall, rt.FUR)


def mount_points(plan: Layout, count: int = 40) -> Array:
    """(n, 3) along the stick from its foot to the camera's top; the camera alone without a stick."""
    top = plan.camera + np.array([0.0, 0.0, 0.05])
    if plan.stick_m <= 0.0:
        return np.stack([plan.camera, top])
    share = np.linspace(0.0, 1.0, count)[:, None]
    return np.concatenate([plan.foot + (plan.camera - plan.foot) * share, top[None]])


@lru_cache(maxsize=16)
def roofed(plan: Layout) -> bool:
    """Whether the carrier itself is over the camera: what it drives under does not come near."""
    up = np.array([[0.0, 0.0, 1.0]])
    return bool(np.isfinite(carrier_solids(plan.carrier).distance(plan.camera[None], up))[0])


def over_m(plan: Layout) -> float | None:
    """The lowest underside, over ground or water, of what of its place hangs over the camera's way; over the camera itself where that
    stands still. None where nothing is described there."""
    ahead, left = float(plan.camera[0]), float(plan.camera[1])
    found = [
        box[2] + plan.carrier.floor_m
        for box in plan.walls
        if box[2] > _HANGS_M - plan.carrier.floor_m
        and box[1] <= left <= box[4]
        and (plan.carrier.moves or box[0] <= ahead <= box[3])
    ]
    return min(found, default=None)


@lru_cache(maxsize=16)
def goes_through(plan: Layout) -> bool:
    """Whether the stick would have to go through the carrier: what lies close to its foot does not count."""
    way = plan.camera - plan.foot
    far = float(np.linalg.norm(way))
    if plan.stick_m <= 0.0 or far <= _FOOT_M:
        return False
    begins = plan.foot + way / far * _FOOT_M
    met = carrier_solids(plan.carrier).distance(begins[None], way[None] / far)[0]
    return bool(met < far - _FOOT_M + _CAMERA_M)

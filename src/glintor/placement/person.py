"""A person as limbs and blobs: standing, walking, sitting, riding, climbing or lying, alive enough to be tracked."""

import math
from collections.abc import Callable
from typing import Literal

from glintor.placement import solids as rt
from glintor.placement.solids import Parts, Point

HEIGHT_M = 1.70  # of the person that all lengths here are for; others are larger or smaller in proportion
HIP_M, SHOULDER_M, HEAD_M = 0.86, 1.36, 1.58
Pose = Literal["stands", "walks", "runs", "sits", "rides", "skis", "climbs", "lies"]
# How far the trunk leans ahead, in degrees; who lies hangs or lies on the belly with the head ahead.
LEANS_DEG: dict[Pose, float] = {"skis": 32.0, "climbs": -4.0, "lies": 88.0, "runs": 8.0}
STRIDES_RAD: dict[Pose, float] = {"walks": 0.42, "runs": 0.75}
_STEPS_HZ = 0.9  # double steps a second of a stroll


def along(pose: Pose, up_m: float, height_m: float = HEIGHT_M) -> Point:
    """Where a height of somebody standing is in a pose, from the feet: (ahead, left, up)."""
    k = height_m / HEIGHT_M
    lean, up = math.radians(LEANS_DEG.get(pose, 0.0)), up_m / k
    hip = _hip(pose)
    far = up - HIP_M
    if far < 0.0 and pose != "lies":
        return hip[0] * k, 0.0, up * k
    return k * (hip[0] + far * math.sin(lean)), 0.0, k * (hip[2] + far * math.cos(lean))


def _hip(pose: Pose) -> Point:
    if pose == "lies":
        return -0.36, 0.0, 1.22
    return (-0.15, 0.0, 0.74) if pose == "skis" else (0.0, 0.0, HIP_M)


def _legs(pose: Pose, side: int, swing: float, stride: float) -> tuple[Point, Point]:
    """Knee and heel from the point under the hip, sideways of the middle; heights over the feet."""
    hip = _hip(pose)[2]
    if pose == "sits":  # on a seat: thighs forward, shins down and ahead
        return (0.42, 0.11 * side, hip + 0.06), (0.72, 0.10 * side, hip - 0.22)
    if pose == "rides":  # feet on the pedals, one up, one down
        return (0.36, 0.09 * side, hip - 0.22 + 0.06 * side), (0.10, 0.09 * side, hip - 0.68 + 0.10 * side)
    if pose == "skis":
        return (0.20, 0.13 * side, 0.45), (-0.02, 0.15 * side, 0.06)
    if pose == "climbs":
        return (0.26, 0.24 * side, hip - 0.20 + 0.12 * side), (0.20, 0.26 * side, hip - 0.62 + 0.18 * side)
    if pose == "lies":
        return (-0.42, 0.10 * side, hip - 0.02), (-0.84, 0.10 * side, hip)
    knee = (0.44 * math.sin(swing + 0.05), 0.10 * side, hip - 0.42)
    return knee, (0.44 * math.sin(swing) + 0.40 * math.sin(swing - stride * 0.5), 0.10 * side, 0.06)


def add_person(
    parts: Parts,
    foot: Point,
    facing_rad: float,
    time_s: float,
    *,
    stride: float = 0.0,
    left_hand: Point | None = None,
    right_hand: Point | None = None,
    pose: Pose = "stands",
    height_m: float = HEIGHT_M,
    helmet: bool = False,
) -> Point:
    """Adds a person at `foot`, facing an angle from the s axis; returns the middle of the head.

    stride   half-angle of the legs' swing in radians; 0 stands still. A hand without a place swings or rests.
    pose     who sits or rides has trunk and head where somebody standing at `foot` has them, the legs before it
    """
    fs, fn, fz = foot
    k = height_m / HEIGHT_M
    sway = 0.02 * math.sin(time_s * 0.9)
    phase = time_s * 2.0 * math.pi * _STEPS_HZ
    bob = 0.02 * abs(math.sin(phase)) if stride else 0.0
    lean = math.radians(LEANS_DEG.get(pose, 0.0))
    hip_ahead, _, hip = _hip(pose)
    hip += bob
    rise, forth = math.cos(lean), math.sin(lean)

    def at(ahead: float, left: float, up: float) -> Point:
        c, s = math.cos(facing_rad), math.sin(facing_rad)
        return fs + k * (ahead * c - left * s), fn + k * (ahead * s + left * c), fz + k * up

    def trunk(ahead: float, left: float, up: float) -> Point:
        """A point of the trunk, up along it from the hip and ahead of it."""
        return at(hip_ahead + up * forth + ahead * rise, left, hip + up * rise - ahead * forth)

    for side in (-1, 1):
        swing = stride * math.sin(phase) * side
        (ka, kn, kz), (ha, hn, hz) = _legs(pose, side, swing, stride)
        lift = bob if hz > 0.1 else 0.0
        knee, heel = at(hip_ahead + ka, kn, kz + bob), at(hip_ahead + ha, hn, hz + lift)
        parts.limb(at(hip_ahead, 0.09 * side, hip), knee, 0.085 * k, rt.JEANS)
        parts.limb(knee, heel, 0.065 * k, rt.JEANS)
        toe = (heel[0] + k * 0.15 * math.cos(facing_rad), heel[1] + k * 0.15 * math.sin(facing_rad), heel[2])
        parts.limb(heel, toe if pose != "lies" else heel, 0.055 * k, rt.DARK)
    shoulder = SHOULDER_M - HIP_M
    parts.limb(trunk(0.0, 0.0, 0.06), trunk(sway, sway, shoulder - 0.08), 0.165 * k, rt.JACKET)
    parts.limb(trunk(sway, -0.13, shoulder), trunk(sway, 0.13, shoulder), 0.085 * k, rt.JACKET)
    swung = stride * math.sin(phase)
    for side, hand in ((1, left_hand), (-1, right_hand)):
        _arm(parts, trunk, side, hand, pose, time_s, k=k, sway=sway, swung=swung)
    return _head(parts, trunk, facing_rad, time_s, k=k, sway=sway, helmet=helmet)


def _arm(
    parts: Parts,
    trunk: Callable[[float, float, float], Point],
    side: int,
    hand: Point | None,
    pose: Pose,
    time_s: float,
    *,
    k: float,
    sway: float,
    swung: float,
) -> None:
    """An arm to a hand's place, or as the pose has it. side: 1 left, -1 right; swung: of the legs, radians."""
    shoulder = SHOULDER_M - HIP_M
    top = trunk(sway, 0.20 * side, shoulder)
    if hand is None and pose in ("climbs", "lies", "skis"):
        reach = {"climbs": (0.42, 0.22, 0.45 + 0.12 * side), "lies": (0.45, 0.16, 0.12), "skis": (0.42, 0.30, 0.02)}
        ahead, left, up = reach[pose]
        elbow = trunk(0.5 * ahead, (left + 0.08) * side, shoulder + 0.3 * (up - 0.4))
        hand = trunk(ahead, left * side, shoulder + up - (0.3 if pose == "skis" else 0.0))
    elif hand is None:
        swing = -0.6 * swung * side + 0.10 + 0.05 * math.sin(time_s * 0.7 + side)
        elbow = trunk(0.28 * math.sin(swing), 0.26 * side, shoulder - 0.28)
        hand = trunk(0.28 * math.sin(swing) + 0.24 * math.sin(swing + 0.4), 0.25 * side, shoulder - 0.53)
    else:
        middle = [(p + q) / 2 for p, q in zip(top, hand, strict=True)]
        elbow = (middle[0], middle[1], middle[2] - 0.10 * k)
    parts.limb(top, elbow, 0.058 * k, rt.JACKET)
    parts.limb(elbow, hand, 0.048 * k, rt.JACKET)
    parts.blob(hand, (0.05 * k, 0.05 * k, 0.05 * k), rt.SKIN)


def _head(
    parts: Parts,
    trunk: Callable[[float, float, float], Point],
    facing_rad: float,
    time_s: float,
    *,
    k: float,
    sway: float,
    helmet: bool,
) -> Point:
    """Neck, head and what is on it, looking ahead whatever the trunk does."""
    shoulder = SHOULDER_M - HIP_M
    turn = facing_rad + 0.35 * math.sin(time_s * 0.55) + 0.12 * math.sin(time_s * 1.7)
    ch, sh = math.cos(turn), math.sin(turn)
    head = trunk(sway + 0.01, sway, shoulder + HEAD_M - SHOULDER_M)

    def face(ahead: float, left: float, up: float) -> Point:
        return head[0] + k * (ahead * ch - left * sh), head[1] + k * (ahead * sh + left * ch), head[2] + k * up

    def blob(at: Point, radii: Point, material: int) -> None:
        parts.blob(at, (radii[0] * k, radii[1] * k, radii[2] * k), material)

    parts.limb(trunk(sway, sway, shoulder + 0.04), head, 0.055 * k, rt.SKIN)
    parts.limb(
        trunk(sway + 0.02, -0.06, shoulder + 0.06), trunk(sway + 0.02, 0.06, shoulder + 0.06), 0.075 * k, rt.SCARF
    )
    blob(head, (0.098, 0.092, 0.118), rt.SKIN)  # the crown is as high as the person is told to be, cap and all
    blob(face(-0.025, 0.0, 0.008), (0.098, 0.100, 0.111), rt.HAIR)
    blob(face(-0.09, 0.0, -0.08), (0.05, 0.06, 0.09), rt.HAIR)
    if helmet:
        blob(face(-0.01, 0.0, 0.055), (0.142, 0.125, 0.105), rt.WHITE)
    blob(face(-0.005, 0.0, 0.060), (0.112, 0.110, 0.060), rt.CAP)
    parts.limb(face(0.09, -0.05, 0.050), face(0.09, 0.05, 0.050), 0.016 * k, rt.CAP)
    blob(face(0.098, 0.0, -0.005), (0.022, 0.016, 0.024), rt.SKIN)
    for side in (-1, 1):
        blob(face(0.084, 0.034 * side, 0.028), (0.014, 0.015, 0.010), rt.DARK)
    return head

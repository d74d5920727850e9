"""A person as limbs and blobs: standing, walking with a stick, sitting or riding, alive enough to be tracked."""

import math
from typing import Literal

from glintor.placement import solids as rt
from glintor.placement.solids import Parts, Point

HEIGHT_M = 1.70
Pose = Literal["stands", "sits", "rides"]


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
) -> Point:
    """Adds a person at `foot`, facing an angle from the s axis; returns the middle of the head.

    stride   half-angle of the legs' swing in radians; 0 stands still. A hand without a place swings or rests.
    pose     who sits or rides has trunk and head where somebody standing at `foot` has them, the legs before it
    """
    fs, fn, fz = foot
    sway = 0.02 * math.sin(time_s * 0.9)
    phase = time_s * 2.0 * math.pi * 0.9
    bob = 0.02 * abs(math.sin(phase)) if stride else 0.0

    def at(ahead: float, left: float, up: float) -> Point:
        c, s = math.cos(facing_rad), math.sin(facing_rad)
        return fs + ahead * c - left * s, fn + ahead * s + left * c, fz + up

    hip = 0.86 + bob
    for side in (-1, 1):
        swing = stride * math.sin(phase) * side
        if pose == "sits":  # on a car's seat: thighs forward, shins down and ahead
            knee, heel = at(0.42, 0.11 * side, hip + 0.06), at(0.72, 0.10 * side, hip - 0.22)
        elif pose == "rides":  # feet on the pedals, one up, one down
            knee = at(0.36, 0.09 * side, hip - 0.22 + 0.06 * side)
            heel = at(0.10, 0.09 * side, hip - 0.68 + 0.10 * side)
        else:
            knee = at(0.44 * math.sin(swing + 0.05), 0.10 * side, hip - 0.42)
            heel = at(0.44 * math.sin(swing) + 0.40 * math.sin(swing - stride * 0.5), 0.10 * side, 0.06)
        parts.limb(at(0.0, 0.09 * side, hip), knee, 0.085, rt.JEANS)
        parts.limb(knee, heel, 0.065, rt.JEANS)
        parts.limb(
            heel,
            (heel[0] + 0.15 * math.cos(facing_rad), heel[1] + 0.15 * math.sin(facing_rad), heel[2]),
            0.055,
            rt.DARK,
        )
    shoulder = 1.36 + bob
    parts.limb(at(0.0, 0.0, hip + 0.06), at(sway, sway, shoulder - 0.08), 0.165, rt.JACKET)
    parts.limb(at(sway, -0.13, shoulder), at(sway, 0.13, shoulder), 0.085, rt.JACKET)
    for side, hand in ((1, left_hand), (-1, right_hand)):
        top = at(sway, 0.20 * side, shoulder)
        if hand is None:
            swing = -0.6 * stride * math.sin(phase) * side + 0.10 + 0.05 * math.sin(time_s * 0.7 + side)
            elbow = at(0.28 * math.sin(swing), 0.26 * side, shoulder - 0.28)
            hand = at(0.28 * math.sin(swing) + 0.24 * math.sin(swing + 0.4), 0.25 * side, shoulder - 0.53)
        else:
            middle = [(p + q) / 2 for p, q in zip(top, hand, strict=True)]
            elbow = (middle[0], middle[1], middle[2] - 0.10)
        parts.limb(top, elbow, 0.058, rt.JACKET)
        parts.limb(elbow, hand, 0.048, rt.JACKET)
        parts.blob(hand, (0.05, 0.05, 0.05), rt.SKIN)
    turn = facing_rad + 0.35 * math.sin(time_s * 0.55) + 0.12 * math.sin(time_s * 1.7)
    ch, sh = math.cos(turn), math.sin(turn)
    head = at(sway + 0.01, sway, shoulder + 0.22)

    def face(ahead: float, left: float, up: float) -> Point:
        return head[0] + ahead * ch - left * sh, head[1] + ahead * sh + left * ch, head[2] + up

    parts.limb(at(sway, sway, shoulder + 0.04), head, 0.055, rt.SKIN)
    parts.limb(at(sway + 0.02, -0.06, shoulder + 0.06), at(sway + 0.02, 0.06, shoulder + 0.06), 0.075, rt.SCARF)
    parts.blob(head, (0.098, 0.092, 0.125), rt.SKIN)
    parts.blob(face(-0.025, 0.0, 0.015), (0.098, 0.100, 0.125), rt.HAIR)
    parts.blob(face(-0.09, 0.0, -0.08), (0.05, 0.06, 0.09), rt.HAIR)
    parts.blob(face(-0.005, 0.0, 0.085), (0.112, 0.110, 0.062), rt.CAP)
    parts.limb(face(0.09, -0.05, 0.065), face(0.09, 0.05, 0.065), 0.016, rt.CAP)
    parts.blob(face(0.098, 0.0, -0.005), (0.022, 0.016, 0.024), rt.SKIN)
    for side in (-1, 1):
        parts.blob(face(0.084, 0.034 * side, 0.028), (0.014, 0.015, 0.010), rt.DARK)
    return head

"""How long an arm holds a stick out."""

import math

from glintor.placement.stick import HOLDS_KG, generic_stick

GRAVITY_M_S2 = 9.80665  # standard gravity (CGPM 1901)
STRENGTH_NM = 40.0  # of one shoulder, an average adult (judgement, no source; editable with the kit)
_ARM_KG, _ARM_MIDDLE_M, _ARM_M = (
    3.5,
    0.28,
    0.60,
)  # arm with hand, its centre, and the grip (handbook body segments, from memory)


def shoulder_moment_nm(stick_m: float, out_m: float, *, tip_kg: float = HOLDS_KG) -> float:
    """Moment about the shoulder of arm, stick and camera; out_m is how far the camera is from the shoulder sideways."""
    arm_out = min(_ARM_M, out_m)
    moment = _ARM_KG * _ARM_MIDDLE_M * arm_out / _ARM_M + tip_kg * out_m
    if stick_m > 0.0:
        moment += sum(s.mass_kg for s in generic_stick(stick_m)) * (arm_out + out_m) / 2.0
    return moment * GRAVITY_M_S2


def endurance_min(share: float) -> float:
    """Minutes of holding at a share of the greatest strength; inf below 15 %.

    T = -1.5 + 2.1/f - 0.6/f^2 + 0.1/f^3. Source: Rohmert (1960), from memory.
    """
    if share < 0.15:
        return math.inf
    f = min(share, 1.0)
    return max(-1.5 + 2.1 / f - 0.6 / f**2 + 0.1 / f**3, 0.0)

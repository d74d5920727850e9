"""A bicycle and an open car as plain solids; local s = 0 in the middle, ahead at +, on the ground at z."""

from glintor.placement import solids as rt
from glintor.placement.solids import Parts, Point

GRIP_S, GRIP_N, GRIP_Z = 0.44, 0.27, 1.02  # the handlebar's grips


def cycle_parts(s: float, n: float, z: float) -> Parts:
    """Two wheels, a frame, saddle and bar."""
    parts = Parts()

    def p(ahead: float, left: float, up: float) -> Point:
        return s + ahead, n + left, z + up

    for axle in (-0.52, 0.52):
        parts.blob(p(axle, 0.0, 0.35), (0.35, 0.018, 0.35), rt.DARK)
    hub, crank, seat, head = p(-0.52, 0.0, 0.35), p(-0.05, 0.0, 0.30), p(-0.22, 0.0, 0.88), p(0.36, 0.0, 0.86)
    for a, b in ((hub, crank), (crank, seat), (seat, head), (crank, head), (hub, seat), (head, p(0.52, 0.05, 0.35))):
        parts.limb(a, b, 0.018, rt.RAIL)
    parts.limb(p(-0.34, 0.0, 0.92), p(-0.10, 0.0, 0.92), 0.055, rt.DARK)
    parts.limb(head, p(0.40, 0.0, GRIP_Z), 0.016, rt.DARK)
    parts.limb(p(GRIP_S, -GRIP_N, GRIP_Z), p(GRIP_S, GRIP_N, GRIP_Z), 0.016, rt.DARK)
    return parts


def car_parts(s: float, n: float, z: float) -> Parts:
    """Body, bonnet, windscreen frame, wheel and seats; open to the sky, so that the driver is seen."""
    parts = Parts()

    def p(ahead: float, left: float, up: float) -> Point:
        return s + ahead, n + left, z + up

    parts.box(p(-1.9, -0.80, 0.28), p(1.9, 0.80, 0.72), rt.RAIL)
    parts.box(p(0.65, -0.76, 0.72), p(1.85, 0.76, 0.90), rt.RAIL)
    parts.box(p(-1.85, -0.76, 0.72), p(-0.75, 0.76, 0.86), rt.RAIL)
    for side in (-1.0, 1.0):
        low, high = sorted((0.72 * side, 0.80 * side))
        parts.box(p(-0.75, low, 0.72), p(0.65, high, 0.86), rt.RAIL)
        parts.limb(p(0.72, 0.70 * side, 0.88), p(0.45, 0.64 * side, 1.26), 0.02, rt.DARK)
        for axle in (-1.25, 1.25):
            parts.blob(p(axle, 0.80 * side, 0.31), (0.31, 0.10, 0.31), rt.DARK)
    parts.limb(p(0.45, -0.64, 1.26), p(0.45, 0.64, 1.26), 0.02, rt.DARK)
    parts.box(p(-0.62, -0.62, 0.72), p(-0.48, 0.62, 1.06), rt.WOOD)
    parts.limb(p(0.30, 0.20, 0.92), p(0.30, 0.50, 0.92), 0.02, rt.DARK)
    return parts

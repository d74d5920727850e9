"""The narrowboat Tansy: hull, cabin, roof with rails and what lies on it, tiller. Local s = 0 amidships, bow at +."""

import math

import numpy as np

from glintor.placement import solids as rt
from glintor.placement.carriers import CARRIERS
from glintor.placement.solids import Parts

LENGTH_M, HALF_BEAM_M = 15.0, 1.05
STERN_S, BOW_S = -7.3, 7.5
ROOF_Z, RAIL_Z, RAIL_N = CARRIERS["boat"].surface_m, 1.70, 0.74
CABIN_S = (-5.2, 4.6)
HELM_S, HELM_N = -6.15, 0.30
TILLER_GRIP = (-6.05, 0.02, 1.52)


def boat_parts(at_s: float, at_n: float, water_z: float, time_s: float) -> list[Parts]:
    """The boat, with her middle at (at_s, at_n), floating on water_z, in groups that lie close together."""
    parts, aft, fore, helm = Parts(), Parts(), Parts(), Parts()
    rails = {-1: Parts(), 1: Parts()}

    def p(s: float, n: float, z: float) -> tuple[float, float, float]:
        return at_s + s, at_n + n, water_z + z

    bow = [(1.0, 0.0), (0.86, 0.51), (0.58, 0.81)]
    sides = [(0.0, 1.0, HALF_BEAM_M), (0.0, -1.0, HALF_BEAM_M), (-1.0, 0.0, -STERN_S)]
    sides += [(-0.8, 0.6 * k, -STERN_S * 0.8 + 0.34) for k in (-1, 1)]
    sides += [(a, b * k, BOW_S * a - (0.0 if b == 0 else 0.10)) for a, b in bow for k in ((1,) if b == 0 else (-1, 1))]
    planes = [(a / math.hypot(a, b), b / math.hypot(a, b), 0.0, c / math.hypot(a, b)) for a, b, c in sides]
    planes += [(0.0, 0.0, 1.0, 0.76), (0.0, 0.0, -1.0, 0.5)]
    world = [(a, b, c, d + a * at_s + b * at_n + c * water_z) for a, b, c, d in planes]
    parts.prisms.append((np.array(world), rt.HULL))
    parts.box(p(STERN_S + 0.45, -0.85, 0.70), p(CABIN_S[0], 0.85, 0.775), rt.WOOD)
    parts.box(p(CABIN_S[0], -0.86, 0.72), p(CABIN_S[1], 0.86, ROOF_Z - 0.03), rt.CABIN)
    parts.box(p(CABIN_S[0] - 0.12, -0.90, ROOF_Z - 0.04), p(CABIN_S[1] + 0.1, 0.90, ROOF_Z), rt.ROOF)
    helm.box(p(CABIN_S[0] - 0.02, -0.36, 0.80), p(CABIN_S[0] + 0.9, 0.36, ROOF_Z + 0.06), rt.RAIL)
    parts.box(p(CABIN_S[1], -0.78, 0.72), p(CABIN_S[1] + 0.05, 0.78, 1.35), rt.CABIN)
    fore.box(p(5.0, -0.55, 0.70), p(6.4, 0.55, 1.0), rt.DARK)
    for side in (-1, 1):
        rails[side].limb(
            p(CABIN_S[0] + 0.2, RAIL_N * side, RAIL_Z), p(CABIN_S[1] - 0.2, RAIL_N * side, RAIL_Z), 0.018, rt.RAIL
        )
        for post in np.arange(CABIN_S[0] + 0.4, CABIN_S[1], 1.35):
            rails[side].limb(p(post, RAIL_N * side, ROOF_Z), p(post, RAIL_N * side, RAIL_Z), 0.014, rt.RAIL)
    fore.limb(p(1.1, 0.42, ROOF_Z), p(1.1, 0.42, ROOF_Z + 0.42), 0.07, rt.DARK)
    fore.limb(p(1.1, 0.42, ROOF_Z + 0.30), p(1.1, 0.42, ROOF_Z + 0.33), 0.075, rt.BRASS)
    for s, group in ((-1.7, aft), (3.6, fore)):
        group.blob(p(s, 0.0, ROOF_Z + 0.03), (0.13, 0.13, 0.07), rt.BRASS)
    fore.box(p(1.9, -0.30, ROOF_Z), p(3.0, 0.30, ROOF_Z + 0.20), rt.WOOD)
    fore.blob(p(2.45, 0.0, ROOF_Z + 0.20), (0.55, 0.30, 0.17), rt.FLOWERS)
    aft.limb(p(-1.2, -0.48, ROOF_Z + 0.05), p(3.4, -0.48, ROOF_Z + 0.05), 0.03, rt.WOOD)
    aft.box(p(-1.4, -0.62, ROOF_Z), p(1.6, -0.54, ROOF_Z + 0.07), rt.WOOD)
    aft.blob(p(0.3, 0.30, ROOF_Z + 0.03), (0.22, 0.22, 0.05), rt.ROPE)
    fore.blob(p(5.9, 0.0, 1.05), (0.20, 0.20, 0.07), rt.ROPE)
    push = 0.06 * math.sin(time_s * 0.5)
    helm.limb(p(-7.15, 0.0, 0.6), p(-7.10, 0.0, 1.30), 0.035, rt.DARK)
    helm.limb(p(-7.10, 0.0, 1.30), p(-6.75, push * 0.5, 1.48), 0.035, rt.RAIL)
    helm.limb(p(-6.75, push * 0.5, 1.48), p(TILLER_GRIP[0], TILLER_GRIP[1] + push, TILLER_GRIP[2]), 0.024, rt.BRASS)
    return [parts, aft, fore, helm, *rails.values()]

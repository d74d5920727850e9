"""The Hollin Cut, stage by stage: what stands at the wharf, on the towpath, before Cobdale and at the lock."""

import math

import numpy as np

from glintor.errors import InputError
from glintor.placement.carrier import GROUND, Carrier, parts_of, ready_carriers
from glintor.placement.layout import Layout
from glintor.placement.scenery import CANAL
from glintor.simulation import table as rt
from glintor.simulation import things
from glintor.simulation.builder import Builder, Stand
from glintor.simulation.rig import Rig, carrier_s
from glintor.simulation.things import GROUND_Z
from glintor.types import Array

LOCK_RISE_M, LOCK_FILL_S = 2.0, 300.0
_HALF_BEAM_M, _STERN_S, _BOW_S = 1.05, -7.3, 7.5  # of the boat in the lock
_LOCK_GROUND_N = 3.6  # where the ground's middle lies beside the lock


def set_up(rig: Rig, plan: Layout, site: Array, builder: Builder, time_s: float, _bearing_deg: float) -> Stand:
    """Puts a stage of the canal into the head and the groups. Raises InputError for one that there is not."""
    if rig.stage not in CANAL:
        raise InputError(f"Nobody described the place {rig.stage}.", advice=f"Choose another: {', '.join(CANAL)}.")
    origin, tansy = carrier_s(rig, time_s), ready_carriers()["boat"]
    boat_s, boat_n, boat_z = 0.0, 0.0, 0.0
    afloat = rig.carrier.afloat
    surface = GROUND_Z + rig.carrier.floor_m
    if rig.stage == "cobdale":
        site[rt.BRIDGE_S], site[rt.TUNNEL_S] = 9.0, 21.0
        boat_s = origin if afloat else -12.0
    elif rig.stage == "lock":
        level = _lock_level(time_s)
        site[rt.LOCK_S0], site[rt.LOCK_S1], site[rt.LOCK_WATER], site[rt.LOW_WATER] = -9.2, 9.2, level, -LOCK_RISE_M
        boat_s, boat_z = 0.4, level
        builder.cluster(things.lock())
        things.house(builder.group(), -2.0, 17.5, 9.0, 5.5, 2.6)
    elif rig.stage == "towpath":
        site[rt.BRIDGE_S] = 46.0
        boat_s, boat_n = 24.0, 3.3
        things.ducks(builder.group(), 7.0, 1.0, time_s)
    else:
        boat_s, boat_n = 1.0, 3.4
        site[rt.BRIDGE_S] = -48.0
        things.house(builder.group(), 4.0, 14.5, 12.0, 6.0, 4.6)
        things.passer_by(builder.group(), 9.0, 8.2, time_s)
        _float(builder, tansy, -17.5, 3.4, 0.0)
        things.ducks(builder.group(), -3.0, -1.0, time_s)
    if afloat:
        surface = boat_z + rig.carrier.floor_m
        cs, cn = boat_s, boat_n
    elif rig.carrier.moves:
        cs, cn = origin, walker_n(time_s)
    else:
        cs, cn = 0.0, 6.0 if rig.stage != "lock" else _LOCK_GROUND_N
    _float(builder, rig.carrier if afloat else tansy, boat_s, boat_n, boat_z)
    base = np.array([cs + _out_of_bridge(site, plan, cs, cn), cn, surface])
    return Stand(base, things.rows(rig.stage), boat_s=boat_s, lift_m=_lift(rig, time_s))


def _float(builder: Builder, carrier: Carrier, s: float, n: float, water_z: float) -> None:
    """Puts a boat on the water."""
    by = np.array([s, n, water_z + carrier.floor_m])
    builder.cluster([parts.moved(by) for parts in parts_of(carrier)])


def walker_n(time_s: float) -> float:
    """The walker's place across the towpath."""
    return 6.2 + 0.08 * math.sin(time_s * 0.45)


def _out_of_bridge(site: Array, plan: Layout, s: float, n: float) -> float:
    """How far along everything is moved so that neither camera nor people stand inside the bridge's masonry: who walks stops
    before it."""
    bridge, room = float(site[rt.BRIDGE_S]), rt.BRIDGE_HALF + 0.6
    who = [plan.camera, plan.subject, *([plan.carrying] if plan.carrying is not None else [])]
    beside = [s + float(p[0]) - bridge for p in who if abs(n + float(p[1])) > rt.ARCH_HALF - 0.8]
    if not any(abs(off) < room for off in beside):
        return 0.0
    back, on = -room - max(beside), room - min(beside)
    return back if abs(back) <= abs(on) else on


def _lock_level(time_s: float) -> float:
    return -LOCK_RISE_M * (1.0 - min(max(time_s / LOCK_FILL_S, 0.0), 1.0)) ** 1.5


def _lift(rig: Rig, time_s: float) -> float:
    """How far a subject that stands on the boat in the lock has been lifted since the shot began."""
    s, n = (float(v) for v in rig.plan.subject[:2])
    on_boat = rig.stage == "lock" and rig.carrier.id == GROUND and abs(n + _LOCK_GROUND_N) < _HALF_BEAM_M
    return _lock_level(time_s) - _lock_level(0.0) if on_boat and _STERN_S < s < _BOW_S else 0.0

"""Whether a lens, the stick, its foot or a subject would be inside something solid: by how far each is from all surfaces, not by rays, which know
only what they enter."""

from functools import lru_cache

import numpy as np
from msgspec import Struct

from glintor.placement.figures import carrier_solids, cast, mount_points
from glintor.placement.layout import Layout
from glintor.placement.sight import samples
from glintor.placement.solids import Solids
from glintor.placement.standing import wall_solids

_GRIP_M, _SAT_UPON_M = 0.08, 0.25  # of a stick at its foot, where it touches what holds it; where a body holds it down
_GRAZE_M = 0.03  # that a stick may touch something along its way: solids are drawn so roughly (judgement)
_SEAT_M = 0.15  # that a foot, hand or body may lie in what it is on: a jaw round a tube, a seat that gives (judgement)

_DEEP_M, _MUCH = (
    0.25,
    0.25,
)  # of a subject, or so much of it, that cannot be in a wall: clothes and a seat may (judgement)


class Stuck(Struct, frozen=True):
    """What is inside what, and how deep, metres."""

    what: str
    where: str
    deep_m: float


@lru_cache(maxsize=64)
def stuck_in(plan: Layout) -> Stuck | None:
    """The worst that is inside a solid of the carrier or the place; None where nothing is."""
    found = [*_stuck(plan, carrier_solids(plan.carrier), f"the {plan.carrier.words}", _SEAT_M)]
    if plan.walls:
        found += _stuck(plan, wall_solids(plan.walls), "a wall or roof of the place", _GRAZE_M)
    return max(found, key=lambda one: one.deep_m, default=None)


@lru_cache(maxsize=64)
def subject_in(plan: Layout) -> Stuck | None:
    """The subject that is deepest inside what stands about it; None where all stand free. Where they are as the shot begins."""
    found = []
    for being, parts, _ in cast(plan):
        if being.subject.far:
            continue
        table = np.array(samples(parts))
        over = table[:, 2] + plan.carrier.floor_m - table[:, :2] @ np.array(plan.slope)
        rooms = {"a wall, hedge or bank": wall_solids(plan.walls).room(table[:, :3])} if plan.walls else {}
        if not plan.carrier.afloat:  # who swims is in the water
            rooms["the ground"] = np.where(plan.shore.dry(table[:, 0], table[:, 1]), over, np.inf)
        for where, room in rooms.items():
            share = float(table[room < -_GRAZE_M, 4].sum() / max(table[:, 4].sum(), 1e-9))
            if room.min() < -_DEEP_M or share > _MUCH:
                found.append(Stuck(being.subject.name, where, -float(room.min())))
    return max(found, key=lambda one: one.deep_m, default=None)


def _stuck(plan: Layout, solids: Solids, where: str, seat_m: float) -> list[Stuck]:
    points = mount_points(plan)[:-1] if plan.stick_m > 0.0 else plan.camera[None]
    rooms = solids.room(np.concatenate([plan.camera[None], plan.foot[None], points]))
    camera, foot = float(rooms[0]), float(rooms[1])
    grip = _SAT_UPON_M if plan.setup.takes == "body" else _GRIP_M
    along = rooms[2:][np.linalg.norm(points - plan.foot, axis=1) > grip]
    stick = float(along.min(initial=np.inf))
    out = [Stuck("The camera", where, -camera)] if camera < 0.0 else []
    if plan.stick_m > 0.0:
        out += [Stuck("The stick", where, -stick)] if stick < -_GRAZE_M else []
        out += [Stuck("The foot of the stick", where, -foot)] if foot < -seat_m else []
    return out

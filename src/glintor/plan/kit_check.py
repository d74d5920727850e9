"""What the day's shots need, against what is in the bag."""

import math

from msgspec import Struct

from glintor.placement.mounts import setup_by_id
from glintor.project.kit import Camera, Item, Kit, Mount, Stick
from glintor.project.model import Project


class Need(Struct, frozen=True):
    """One line: what, how much of it, how much there is, for which shots."""

    what: str
    wanted: float
    there: float
    unit: str
    why: str

    @property
    def missing(self) -> bool:
        return self.there < self.wanted - 1e-9


def needs(project: Project) -> list[Need]:
    """Everything the shots ask for, missing things first."""
    kit, shots = project.kit, project.planned
    found: list[Need] = []
    for length in sorted({s.placement.stick_m for s in shots if s.placement.stick_m > 0.0}):
        stick = kit.stick_for(length)
        users = _names([s.name for s in shots if s.placement.stick_m == length])
        found.append(
            Need(
                f"stick of {length:g} m"
                + (f" ({stick.words})" if stick and f"{length:g} m" not in stick.words else ""),
                1,
                1 if stick else 0,
                "",
                users,
            )
        )
    for setup in {s.placement.setup: setup_by_id(s.placement.setup) for s in shots}.values():
        users = _names([s.name for s in shots if s.placement.setup == setup.id])
        if setup.family != "held":
            found.append(Need(setup.words, 1, 1 if kit.mount_for(setup.id) else 0, "", users))
        for kind in setup.needs:
            if all(need.what != kind for need in found):
                found.append(Need(kind, 1, sum(i.count for i in kit.of_kind(kind)), "", users))
    for stops in sorted({s.exposure.nd_stops for s in shots if s.exposure.nd_stops >= 0.5}):
        near = [i for i in kit.of_kind("filter") if abs(i.value - stops) <= 0.5]
        users = _names([s.name for s in shots if s.exposure.nd_stops == stops])
        found.append(Need(f"grey filter of {stops:g} stops", 1, 1 if near else 0, "", users))
    minutes = sum(s.length_min for s in shots)
    batteries = sum(i.count * i.value for i in kit.of_kind("battery"))
    found.append(Need("battery", round(minutes), round(batteries), "min", "all shots, without the cold"))
    gigabytes = sum(s.length_min * 60.0 * project.camera_of(s).mbit_s / 8000.0 for s in shots)
    cards = sum(i.count * i.value for i in kit.of_kind("card"))
    rates = ", ".join(f"{rate:g}" for rate in sorted({project.camera_of(s).mbit_s for s in shots}))
    found.append(Need("card", math.ceil(gigabytes), math.floor(cards), "GB", f"all shots at {rates} Mbit/s"))
    return sorted(found, key=lambda need: not need.missing)


def masses_kg(kit: Kit) -> dict[str, float]:
    """What everybody carries, "" for oneself."""
    out = {"": 0.0}
    things: list[Camera | Stick | Mount | Item] = [*kit.cameras, *kit.sticks, *kit.mounts, *kit.items]
    for thing in things:
        count = 1 if isinstance(thing, Camera) else thing.count
        out[thing.whose] = out.get(thing.whose, 0.0) + count * thing.mass_kg
    return out


def mass_kg(kit: Kit) -> float:
    """What the whole bag weighs, whoever carries it."""
    return sum(masses_kg(kit).values())


def _names(names: list[str]) -> str:
    return ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")

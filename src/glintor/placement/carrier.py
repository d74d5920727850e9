"""What carries camera and people, as data: its solids, what a mount finds to hold on to, its seats, and how it moves.

Points are (ahead, left, up) in metres from its own middle on the surface that counts as its floor.
"""

from functools import lru_cache
from pathlib import Path
from typing import Annotated, Literal

import msgspec
import numpy as np
from msgspec import Meta

from glintor.errors import InputError
from glintor.placement.person import Pose
from glintor.placement.shapes import Place, Solid, extent
from glintor.placement.solids import Parts, Point
from glintor.placement.told import read_told, write_told

FOLDER = Path(__file__).parent / "rides"
GROUND = "ground"  # the carrier of what stands

Id = Annotated[str, Meta(min_length=1, max_length=64, pattern="^[A-Za-z0-9_-]+$")]
Words = Annotated[str, Meta(min_length=1, max_length=80)]
_LONG_M, _TOGETHER = 3.0, 6  # what is longer stands in a group of its own; the rest in groups of so many


class Tube(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """Round bars that a clamp takes, all of one thickness. lines: their ends; straight: a bent one turns in the jaw."""

    id: Id
    words: Words
    lines: Annotated[tuple[tuple[Place, Place], ...], Meta(min_length=1)]
    diameter_mm: Annotated[float, Meta(gt=0, le=1000)]
    straight: bool = True


class Surface(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """Flat pieces that something can be stuck to or stood on: low and high corners; level ones have one height."""

    id: Id
    words: Words
    areas: Annotated[tuple[tuple[Place, Place], ...], Meta(min_length=1)]
    of: Literal["glass", "metal", "wood", "plastic", "stone", "cloth"]
    inside: bool = False

    def __post_init__(self) -> None:
        for low, high in self.areas:
            if not all(a <= b for a, b in zip(low, high, strict=True)) or sum(
                a == b for a, b in zip(low, high, strict=True)
            ) not in (0, 1):
                raise InputError(f"A surface reaches from {low} to {high}.", advice="Its low corner comes first.")

    @property
    def level(self) -> bool:
        return all(low[2] == high[2] for low, high in self.areas)


class Seat(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """Where somebody rides, stands or sits. feet: where the feet of somebody standing would be whose trunk and head are as in
    this pose. grips: what hands hold, the left first; needs_hands: how many of them that takes under way."""

    id: Id
    words: Words
    feet: Place
    pose: Pose = "stands"
    faces_deg: Annotated[float, Meta(ge=-180, le=180)] = 0.0
    grips: Annotated[tuple[Place, ...], Meta(max_length=2)] = ()
    needs_hands: Annotated[int, Meta(ge=0, le=2)] = 0
    helmet: bool = False


class Sway(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """One motion: how fast, how far (ahead, left, up) and how much it turns about those axes."""

    hz: Annotated[float, Meta(gt=0, le=200)]
    offset_mm: Place = (0.0, 0.0, 0.0)
    turn_deg: Place = (0.0, 0.0, 0.0)


class Carrier(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A carrier.

    known     who says so: a person, or a ready-made file
    on        what it goes on; floor_m: how high its floor is over that
    speed_m_s what it usually does; lean_deg: how far it leans or rolls; bump_m_s2: at the foot of a mount
    busy      whether who moves it needs hands or eyes for that all the time
    subject   where somebody beside it would stand; looks: the way to what is worth seeing from it
    drive_m_s2  what sets a stick on it swaying; engine_hz: firing strokes a second, step_hz: of feet
    """

    id: Id
    words: Words
    about: str = ""
    known: Literal["said", "ready-made"] = "said"
    on: Literal["land", "water", "air"] = "land"
    floor_m: Annotated[float, Meta(ge=0, le=200)] = 0.0
    speed_m_s: Annotated[float, Meta(ge=0, le=60)] = 0.0
    lean_deg: Annotated[float, Meta(ge=0, le=45)] = 3.0
    bump_m_s2: Annotated[float, Meta(ge=0, le=100)] = 3.0
    drive_m_s2: Annotated[float, Meta(ge=0, le=50)] = 0.03
    engine_hz: Annotated[float, Meta(ge=0, le=200)] = 0.0
    step_hz: Annotated[float, Meta(ge=0, le=10)] = 0.0
    busy: bool = False
    subject: Place = (2.0, 0.5, 0.0)
    looks: Place = (1.0, 0.0, -0.02)
    solids: tuple[Solid, ...] = ()
    tubes: tuple[Tube, ...] = ()
    surfaces: tuple[Surface, ...] = ()
    seats: tuple[Seat, ...] = ()
    sways: tuple[Sway, ...] = ()

    def __post_init__(self) -> None:
        named = [*(t.id for t in self.tubes), *(s.id for s in self.surfaces), *(s.id for s in self.seats)]
        twice = next((name for n, name in enumerate(named) if name in named[:n]), None)
        if twice is not None:
            raise InputError(
                f"Two things of it are called {twice}.", advice="Give each tube, surface and seat its own id."
            )

    @property
    def moves(self) -> bool:
        return self.speed_m_s > 0.0

    @property
    def afloat(self) -> bool:
        return self.on == "water"

    @property
    def usual(self) -> Place:
        """Where the usual subject's feet are: who drives, else in front of it."""
        return self.seats[0].feet if self.seats else self.subject

    def seat(self, feet: Point, within_m: float) -> Seat | None:
        """The seat that somebody with feet there is in."""
        near = [(float(np.hypot(feet[0] - s.feet[0], feet[1] - s.feet[1])), s) for s in self.seats]
        near = [(far, s) for far, s in near if far < within_m and abs(feet[2] - s.feet[2]) < 0.6]
        return min(near, key=lambda pair: pair[0])[1] if near else None


@lru_cache(maxsize=64)
def parts_of(carrier: Carrier) -> tuple[Parts, ...]:
    """Its solids in groups that lie close together: what is long by itself, the rest from back to front."""
    long, short = Parts(), []
    for solid in carrier.solids:
        one = Parts()
        solid.add_to(one)
        low, high = extent(one)
        if float((high - low).max()) > _LONG_M:
            _join(long, one)
        else:
            short.append((float(low[0] + high[0]), one))
    out = [] if long.empty else [long]
    short.sort(key=lambda pair: pair[0])
    for first in range(0, len(short), _TOGETHER):
        group = Parts()
        for _, one in short[first : first + _TOGETHER]:
            _join(group, one)
        out.append(group)
    return tuple(out)


def _join(into: Parts, other: Parts) -> None:
    into.boxes += other.boxes
    into.capsules += other.capsules
    into.ellipsoids += other.ellipsoids
    into.prisms += other.prisms


@lru_cache(maxsize=1)
def ready_carriers() -> dict[str, Carrier]:
    """The ready-made carriers by their ids, in the order of their words. Each is open JSON in `FOLDER`."""
    found = [read_carrier(file.read_bytes(), file.name) for file in sorted(FOLDER.glob("*.json"))]
    found.sort(key=lambda carrier: carrier.words)
    return {carrier.id: msgspec.structs.replace(carrier, known="ready-made") for carrier in found}


def read_carrier(content: bytes, name: str) -> Carrier:
    """A carrier in JSON. Raises InputError with what is wrong and where."""
    return read_told(content, Carrier, name, "carrier")


def write_carrier(carrier: Carrier) -> bytes:
    """A carrier as indented JSON."""
    return write_told(carrier)

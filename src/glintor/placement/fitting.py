"""What of a carrier a set-up can go on, and why not: by hands that are free, tubes, surfaces, bodies and reach."""

from functools import lru_cache
from typing import TypeVar

import numpy as np
from msgspec.structs import replace

from glintor.placement.carrier import GROUND, Carrier, Seat, Surface, Tube
from glintor.placement.mounts import SETUPS, Setup
from glintor.placement.person import LEANS_DEG, along
from glintor.placement.solids import Point

_Thing = TypeVar("_Thing", Seat, Tube, Surface)
_SMOOTH = ("glass", "metal", "plastic")
_ALONG, _BESIDE_M = 0.8, 1.2  # where a clamp begins on its tube, and what stands beside something (judgement)
_OVERHEAD_M = 1.6  # over the floor, from where on something can be hung from a tube (judgement)


@lru_cache(maxsize=1024)
def fit(setup: Setup, carrier: Carrier, on: str = "") -> Setup:
    """The set-up on a tube, surface or seat of a carrier (its usual one, or the first that takes it, where `on` is empty).
    Where it cannot be, `why_not` says so and it stands on the ground."""
    found = [name for name, _ in holds(setup, carrier)]
    named = on or (setup.on if setup.on in found else found[0] if found else "")
    if setup.takes in ("hand", "body"):
        seat, why = _seat_for(setup, carrier, named)
        return replace(setup, why_not=why) if seat is None else _held_by(setup, seat)
    if setup.takes == "tube":
        tube, why = _tube_for(setup, carrier, named)
        return replace(setup, why_not=why) if tube is None else replace(setup, on=tube.id, lines=tube.lines)
    if setup.takes == "surface" or named:
        surface, why = _surface_for(setup, carrier, named)
        if surface is None:
            tube = next((t for t in carrier.tubes if t.id == named), None) if setup.takes == "hang" else None
            return replace(setup, why_not=why) if tube is None else replace(setup, on=tube.id, lines=tube.lines)
        if setup.takes == "ground":  # its legs add to the surface's height
            areas = tuple((_up(low, setup.base_m), _up(high, setup.base_m)) for low, high in surface.areas)
            return replace(setup, on=surface.id, areas=areas)
        return replace(setup, on=surface.id, areas=surface.areas)
    why = "" if _still(carrier) else f"{_cap(carrier.words)} moves: on the ground it would be left behind."
    floor = -carrier.floor_m if carrier.id != GROUND else 0.0
    return replace(setup, base_m=setup.base_m + floor, why_not=why)


def holds(setup: Setup, carrier: Carrier) -> list[tuple[str, str]]:
    """The ids and words of what of a carrier this set-up can go on; "" is the ground."""
    found: list[tuple[str, str]] = []
    if setup.takes in ("hand", "body"):
        found = [(s.id, s.words) for s in carrier.seats if not _why_no_seat(setup, carrier, s)]
    if setup.takes in ("tube", "hang"):
        found += [(t.id, t.words) for t in carrier.tubes if not _why_no_tube(setup, t)]
    if setup.takes in ("surface", "ground"):
        found += [(s.id, s.words) for s in carrier.surfaces if not _why_no_surface(setup, s)]
    if setup.takes in ("ground", "hang") and _still(carrier):
        found.insert(0, ("", "the ground" if setup.takes == "ground" else "a beam overhead"))
    return found


def why_not(setup: Setup, carrier: Carrier) -> str:
    """Why a set-up cannot go on a carrier; empty where it can."""
    found = holds(setup, carrier)
    if setup.on and setup.carrier != carrier.id and not any(name == setup.on for name, _ in found):
        return f"{_cap(carrier.words)} has nothing like it."
    return "" if found else fit(setup, carrier).why_not or "Nothing of it takes this."


def possible(carrier: Carrier) -> list[tuple[Setup, str]]:
    """Every set-up with the reason why it cannot go on this carrier, "" where it can."""
    return [(setup, why_not(setup, carrier)) for setup in SETUPS]


def begins_at(setup: Setup, carrier: Carrier) -> tuple[float, float]:
    """Where a camera on a fitted set-up begins: ahead and left."""
    if setup.grip is not None and setup.place is not None:
        feet = setup.feet or (0.0, 0.0, 0.0)
        if setup.takes == "hand":
            ahead, left, _ = _turned((setup.place[0], setup.place[1], 0.0), setup.faces_deg)
            return feet[0] + ahead, feet[1] + left
        return setup.grip[0], setup.grip[1]
    if setup.place is not None:
        return setup.place
    if setup.lines:
        a, b = setup.lines[0]
        return a[0] + (b[0] - a[0]) * _ALONG, a[1] + (b[1] - a[1]) * _ALONG
    if setup.areas:
        low, high = setup.areas[0]
        return (low[0] + high[0]) / 2.0, (low[1] + high[1]) / 2.0
    return (0.0, -_BESIDE_M) if carrier.solids else (0.0, 0.0)


def _still(carrier: Carrier) -> bool:
    return not carrier.moves and carrier.on == "land"


def _cap(words: str) -> str:
    return words[:1].upper() + words[1:]


def _up(point: Point, by: float) -> Point:
    return point[0], point[1], point[2] + by


def _turned(point: Point, faces_deg: float) -> Point:
    turn = -np.radians(faces_deg)
    c, s = float(np.cos(turn)), float(np.sin(turn))
    return point[0] * c - point[1] * s, point[0] * s + point[1] * c, point[2]


def _held_by(setup: Setup, seat: Seat) -> Setup:
    """On who is in a seat: where the hand or the part of the body is in that pose."""
    ahead, left = setup.hand if setup.hand is not None else setup.place or (0.0, 0.0)
    lean = np.radians(LEANS_DEG.get(seat.pose, 0.0))
    up = along(seat.pose, setup.base_m)
    own = (up[0] + ahead * float(np.cos(lean)), left, up[2] - ahead * float(np.sin(lean)))
    there = _turned(own, seat.faces_deg)
    grip = tuple(float(a + b) for a, b in zip(there, seat.feet, strict=True))
    return replace(setup, on=seat.id, grip=grip, feet=seat.feet, faces_deg=seat.faces_deg)


def _why_no_seat(setup: Setup, carrier: Carrier, seat: Seat) -> str:
    if setup.poses and seat.pose not in setup.poses:
        return f"{_cap(seat.words)} does not sit."
    if setup.hands > 2 - seat.needs_hands:
        return f"{_cap(seat.words)} needs {'both hands' if seat.needs_hands == 2 else 'a hand'} for {carrier.words}."
    return ""


def _why_no_tube(setup: Setup, tube: Tube) -> str:
    if setup.tube_mm is not None and not setup.tube_mm[0] <= tube.diameter_mm <= setup.tube_mm[1]:
        low, high = setup.tube_mm
        wrong = "thin" if tube.diameter_mm < low else "thick"
        return f"{_cap(tube.words)}: {tube.diameter_mm:g} mm is too {wrong} for a jaw of {low:g} to {high:g} mm."
    if (setup.hangs or setup.slides_m) and _upright(tube):
        return f"{_cap(tube.words)} stands upright: nothing {'slides along' if setup.slides_m else 'hangs from'} it."
    if not tube.straight:
        return f"{_cap(tube.words)} is bent: a clamp turns on it."
    if setup.takes == "hang" and max(end[2] for line in tube.lines for end in line) < _OVERHEAD_M:
        return f"{_cap(tube.words)} is too low to hang it from."
    return ""


def _upright(tube: Tube) -> bool:
    """Whether every part of a tube is nearer to upright than to level."""
    ways = [np.subtract(b, a) for a, b in tube.lines]
    return all(abs(way[2]) > float(np.hypot(way[0], way[1])) for way in ways)


def _why_no_surface(setup: Setup, surface: Surface) -> str:
    if not setup.legs:
        return f"It is pushed into soft ground, not set on {surface.words}."
    if setup.takes == "ground":
        return "" if surface.level and surface.of != "glass" else f"{_cap(surface.words)} is not level."
    return "" if surface.of in _SMOOTH else f"{_cap(surface.words)} is of {surface.of}: suction does not hold on it."


def _seat_for(setup: Setup, carrier: Carrier, on: str) -> tuple[Seat | None, str]:
    seats = [seat for seat in carrier.seats if not on or seat.id == on]
    return _first(seats, [_why_no_seat(setup, carrier, seat) for seat in seats], "Nobody is there to hold it.")


def _tube_for(setup: Setup, carrier: Carrier, on: str) -> tuple[Tube | None, str]:
    tubes = [tube for tube in carrier.tubes if not on or tube.id == on]
    return _first(
        tubes, [_why_no_tube(setup, tube) for tube in tubes], f"{_cap(carrier.words)} has no tube to clamp on."
    )


def _surface_for(setup: Setup, carrier: Carrier, on: str) -> tuple[Surface | None, str]:
    flats = [flat for flat in carrier.surfaces if not on or flat.id == on]
    return _first(
        flats, [_why_no_surface(setup, flat) for flat in flats], f"{_cap(carrier.words)} has no such surface."
    )


def _first(things: list[_Thing], whys: list[str], none: str) -> tuple[_Thing | None, str]:
    """The first without a reason against it, else None and the first reason."""
    good = next((thing for thing, why in zip(things, whys, strict=True) if not why), None)
    return good, "" if good is not None else (whys[0] if whys else none)

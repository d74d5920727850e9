"""What stands in the place beside carrier and people: houses, ducks, who passes by, rows of trees, the lock's walls."""

import math

import numpy as np
from numpy.typing import NDArray

from glintor.placement import person
from glintor.placement import solids as made
from glintor.placement.scenery import BANK_M
from glintor.placement.shapes import extent
from glintor.placement.solids import Parts

GROUND_Z = BANK_M


def house(parts: Parts, s: float, n: float, long: float, deep: float, eaves: float) -> None:
    """A cottage with a ridged roof along s, and a chimney."""
    g = GROUND_Z
    parts.box((s - long / 2, n - deep / 2, g), (s + long / 2, n + deep / 2, g + eaves), made.PLASTER)
    rise, half = deep * 0.42, deep / 2 + 0.25
    slope = math.hypot(rise, half)
    ridge = g + eaves + rise
    faces = [(0.0, k * rise / slope, half / slope, (half * ridge + k * rise * n) / slope) for k in (-1, 1)]
    faces += [(k, 0.0, 0.0, k * s + long / 2 + 0.2) for k in (-1.0, 1.0)]
    faces += [(0.0, k, 0.0, k * n + half) for k in (-1.0, 1.0)] + [
        (0.0, 0.0, k, k * (g + eaves) + (0 if k < 0 else rise)) for k in (-1.0, 1.0)
    ]
    parts.prisms.append((np.array(faces, dtype=np.float64), made.TILE))
    parts.box((s - long / 2 + 0.3, n - 0.3, g), (s - long / 2 + 0.9, n + 0.3, ridge + 0.8), made.BRICK)


def ducks(parts: Parts, s: float, n: float, time_s: float) -> None:
    """Four that drift."""
    for k in range(4):
        ds, dn = (
            s + 0.9 * k + 0.25 * math.sin(time_s * 0.4 + k),
            n + 0.5 * math.sin(k * 2.1) + 0.1 * math.sin(time_s * 0.6 + 2 * k),
        )
        parts.blob((ds, dn, 0.05), (0.19, 0.10, 0.09), made.DUCK)
        parts.blob((ds + 0.15, dn, 0.20), (0.06, 0.045, 0.055), made.DUCK)


def passer_by(parts: Parts, s: float, n: float, time_s: float) -> None:
    """Somebody who comes along the towpath."""
    person.add_person(parts, (s - 1.1 * time_s, n, GROUND_Z), math.pi, time_s + 1.7, stride=0.38)


def rows(stage: str) -> NDArray[np.float64]:
    """Hedges, trees and reeds: n, spacing, radius, crown height, spread, from s, to s, seed."""
    out = [
        (9.0, 0.80, 0.80, 0.9, 0.18, -400.0, 400.0, 11),
        (-7.6, 0.95, 0.85, 0.75, 0.35, -400.0, 400.0, 23),
        (14.5, 9.5, 2.7, 5.0, 2.2, -400.0, 400.0, 37),
        (-12.5, 8.0, 2.5, 4.6, 2.0, -400.0, 400.0, 41),
        (-24.0, 12.0, 3.6, 6.0, 4.0, -400.0, 400.0, 53),
        (30.0, 15.0, 3.6, 6.2, 6.0, -400.0, 400.0, 67),
    ]
    if stage == "cobdale":
        out.append((0.0, 5.5, 2.2, 3.6, 4.5, 36.0, 200.0, 71))
    if stage in ("lock", "wharf"):
        out[0] = (12.5, 0.80, 0.80, 0.9, 0.18, -400.0, 400.0, 11)
        out[2] = (24.0, 9.5, 2.9, 5.0, 2.2, -400.0, 400.0, 37)
    return np.array(out)


def lock() -> list[Parts]:
    """Walls, gates and posts of the lock."""
    walls = Parts()
    for side in (-1, 1):
        low, high = sorted((side * 2.25, side * 4.7))
        walls.box((-9.2, low, -3.2), (9.2, high, GROUND_Z), made.STONE)
    out = [walls]
    for s, top in ((-9.2, GROUND_Z + 0.15), (9.2, GROUND_Z + 0.15)):
        gate = Parts()
        gate.box((s - 0.18, -2.3, -3.2), (s + 0.18, 2.3, top), made.DARK)
        for side in (-1, 1):
            low, high = sorted((side * 0.4, side * 5.4))
            gate.box((s - 0.14, low, 1.15), (s + 0.14, high, 1.42), made.DARK)
            low, high = sorted((side * 5.4, side * 6.0))
            gate.box((s - 0.15, low, 1.14), (s + 0.15, high, 1.43), made.WHITE)
            gate.limb((s, side * 2.4, GROUND_Z), (s, side * 2.4, 1.4), 0.06, made.DARK)
        out.append(gate)
    for n in (3.1, -3.1):
        posts = Parts()
        for s in (-5.0, 0.0, 5.0):
            posts.limb((s, n, GROUND_Z), (s, n, GROUND_Z + 0.42), 0.09, made.DARK)
        out.append(posts)
    return out


def bounds(parts: Parts) -> tuple[float, ...]:
    """The box round everything of it: lowest and highest corner."""
    low, high = extent(parts)
    return (*low, *high)

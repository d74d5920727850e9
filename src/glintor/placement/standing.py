"""What stands about a place as solids, over its ground and from the middle of its way: findings cast rays at them, and the
simulation draws them."""

from functools import lru_cache

import numpy as np
from msgspec.structs import replace

from glintor.placement import solids as made
from glintor.placement.scenery import Place, Side, Standing
from glintor.placement.shapes import extent
from glintor.placement.solids import Parts, Point, Solids

Box = tuple[float, ...]
OFF_SHORE_M = 3.0  # from the shore to the middle of a boat
_LONG_M, _STEP_M = 160.0, 6.0  # of a wall to either side; of its steps where it goes uphill (judgement)
_DEEP_M = {"wall": 0.4, "cliff": 30.0, "houses": 8.0, "hedge": 1.0, "wood": 8.0, "trees": 8.0}
_OF = {"wall": made.BRICK, "cliff": made.ROCK}
_OPAQUE = ("wall", "cliff", "houses", "hedge", "bridge", "roof", "tunnel", "cabin")

_OPPOSITE: dict[Side, Side] = {"left": "right", "right": "left", "ahead": "behind", "behind": "ahead"}


def long_of(one: Standing) -> Parts:
    """Something that stands along a side, as one long box."""
    parts = Parts()
    parts.box(*_beside(one.side, one.away_m, _DEEP_M[one.what], one.height_m), _OF.get(one.what, made.LEAF))
    return parts


def _beside(side: Side, away: float, deep: float, top: float) -> tuple[Point, Point]:
    """The box of something long on a side of the way: lowest and highest corner."""
    if side == "left":
        return (-_LONG_M, away, -1.0), (_LONG_M, away + deep, top)
    if side == "right":
        return (-_LONG_M, -away - deep, -1.0), (_LONG_M, -away, top)
    if side == "ahead":
        return (away, -_LONG_M, -1.0), (away + deep, _LONG_M, top)
    return (-away - deep, -_LONG_M, -1.0), (-away, _LONG_M, top)


def over(one: Standing, place: Place) -> list[Parts]:
    """A bridge across the way, a roof over it, a tunnel or a cabin round it."""
    top = one.height_m
    if one.what == "cabin":
        return _cabin(one)
    half = max(place.way_m / 2.0 + 0.8, one.away_m) if one.what == "tunnel" else max(place.way_m / 2.0 + 1.0, 4.0)
    slab = Parts()
    if one.what == "roof":
        reach = max((s.away_m for s in place.around if s.side != "over"), default=12.0)
        slab.box((-reach - 6.0, -reach - 1.0, top), (reach + 6.0, reach + 1.0, top + 0.3), made.PLASTER)
        return [slab]
    begins, ends = (one.away_m - 4.0, one.away_m + 4.0) if one.what == "bridge" else (-30.0, 60.0)
    wide = _LONG_M if one.what == "bridge" else half + 1.0
    slab.box((begins, -wide, top), (ends, wide, top + 0.9), made.CONCRETE)
    out = [slab]
    for side in (-1.0, 1.0):
        low, high = sorted((side * half, side * (half + 1.0)))
        out.append(Parts())
        out[-1].box((begins, low, -1.0), (ends, high, top), made.CONCRETE)
    return out


def _cabin(one: Standing) -> list[Parts]:
    """The cabin of a vehicle round the shot, as it looks from inside: floor, sides up to the windows, posts, roof, and two rows
    of seats; the windows are open to see through."""
    side, top, sill = max(one.away_m, 0.5), one.height_m, min(0.8, 0.62 * one.height_m)
    front, rear, low = 1.15 * side + 0.6, -1.35 * side - 0.9, -0.25
    shell, seats = Parts(), Parts()
    shell.box((rear, -side, low), (front, side, 0.005), made.DARK)
    shell.box((rear, -side, top), (front, side, top + 0.05), made.PLASTER)
    for left in (-1.0, 1.0):
        inner, outer = sorted((left * side, left * (side + 0.06)))
        shell.box((rear, inner, low), (front, outer, sill), made.STEEL)
        for ahead in (rear, -0.15, front - 0.08):
            shell.box((ahead, inner, sill), (ahead + 0.08, outer, top), made.DARK)
    for ahead in (rear - 0.06, front):
        shell.box((ahead, -side, low), (ahead + 0.06, side, sill), made.STEEL)
    shell.box((front - 0.35, -side, sill - 0.12), (front, side, sill), made.DARK)
    wide = 0.32 * side
    for ahead in (0.35, -0.75):
        for left in (-0.5 * side, 0.5 * side):
            seats.box((ahead - 0.5, left - wide, 0.0), (ahead, left + wide, 0.32), made.JEANS)
            seats.box((ahead - 0.6, left - wide, 0.3), (ahead - 0.48, left + wide, 0.85), made.JEANS)
    return [shell, seats]


def stepped(parts: Parts, slope: tuple[float, float]) -> Parts:
    """Boxes longer than a step cut into steps, each as high as sloping ground is under it; the rest as it was."""
    if slope == (0.0, 0.0) or not parts.boxes or parts.capsules or parts.ellipsoids or parts.prisms:
        return parts
    low, high = extent(parts)
    long = int(np.argmax((high - low)[:2]))
    if (high - low)[long] <= _STEP_M:
        return parts
    middle, out = (low + high) / 2.0, replace(parts, boxes=[])
    for x0, y0, z0, x1, y1, z1, material in parts.boxes:
        begins, ends = (x0, x1) if long == 0 else (y0, y1)
        for a in np.arange(begins, ends, _STEP_M).tolist():
            b = min(a + _STEP_M, ends)
            up = slope[long] * ((a + b) / 2.0 - float(middle[long]))
            at, to = ((a, y0), (b, y1)) if long == 0 else ((x0, a), (x1, b))
            out.box((*at, z0 + up), (*to, z1 + up), int(material))
    return out


def lifted(parts: Parts, slope: tuple[float, float]) -> Parts:
    """As high as sloping ground is under its middle; what is long in steps."""
    if slope == (0.0, 0.0) or parts.empty:
        return parts
    parts = stepped(parts, slope)
    low, high = extent(parts)
    up = slope[0] * float(low[0] + high[0]) / 2.0 + slope[1] * float(low[1] + high[1]) / 2.0
    return parts.moved(np.array([0.0, 0.0, up]))


def to_water(place: Place) -> np.ndarray:
    """(3,) from the middle of the way to where a boat floats: beside it where the water begins there."""
    water = [one for one in place.around if one.what == "water"]
    if place.way == "water" or not water:
        return np.zeros(3)
    off, down = water[0].away_m + OFF_SHORE_M, -max(water[0].height_m, 0.02)
    ahead, left = {"left": (0.0, off), "right": (0.0, -off), "ahead": (off, 0.0), "behind": (-off, 0.0)}[water[0].side]
    return np.array([ahead, left, down])


def _banks(place: Place) -> list[Parts]:
    """The land beside which a boat floats, where the water lies lower, as a box as high as the ground."""
    out = []
    for one in place.around:
        if one.what == "water" and place.way != "water" and one.height_m > 0.02:
            other: Side = _OPPOSITE[one.side]
            low, high = _beside(other, -one.away_m, _LONG_M, 0.0)
            out.append(Parts())
            out[-1].box((low[0], low[1], -one.height_m - 1.0), high, made.CONCRETE)
    return out[:1]  # of the water that it floats on


@lru_cache(maxsize=64)
def walls_of(place: Place | None, slope: tuple[float, float], floor_m: float, afloat: bool) -> tuple[Box, ...]:
    """What of a place one cannot see through, as boxes from the origin of a carrier as the shot begins; none of the canal."""
    if place is None:
        return ()
    base = np.array([0.0, 0.0, floor_m]) + (to_water(place) if afloat else np.zeros(3))
    groups: list[Parts] = []
    for one in place.around:
        if one.what in _OPAQUE:
            groups += over(one, place) if one.side == "over" else [long_of(one)]
    if afloat:
        groups += _banks(place)
    return tuple(tuple(box) for parts in groups for box in lifted(parts, slope).moved(-base).boxes)


@lru_cache(maxsize=16)
def wall_solids(walls: tuple[Box, ...]) -> Solids:
    """For rays."""
    return Solids([Parts(boxes=list(walls))])

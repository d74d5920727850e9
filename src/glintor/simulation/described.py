"""A place that somebody described: its ground, what stands about it, who is there, its lamps."""

import math
from pathlib import Path

import msgspec
import numpy as np

from glintor.placement import person
from glintor.placement import solids as made
from glintor.placement.carrier import parts_of, ready_carriers
from glintor.placement.layout import Layout
from glintor.placement.scenery import Place, Standing, horizon_deg
from glintor.placement.solids import Parts
from glintor.placement.standing import lifted, long_of, over, to_water
from glintor.simulation import table as rt
from glintor.simulation import things
from glintor.simulation.builder import Builder, Stand
from glintor.simulation.photo import read_photo, what_is_wrong
from glintor.simulation.rig import Rig, carrier_s
from glintor.simulation.things import GROUND_Z
from glintor.sphere.equirect import solid_angle_weight
from glintor.types import Array

GROUNDS = {
    "grass": made.GRASS, "path": made.EARTH, "gravel": made.GRAVEL, "road": made.ASPHALT, "paving": made.PAVING, "sand": made.SAND,
    "snow": made.SNOW, "rock": made.ROCK, "water": made.WATER, "floor": made.FLOOR,
}  # fmt: skip
_FAR, _UP = 1e6, np.array([0.0, 0.0, GROUND_Z])
_LAMP_CD, _HALL_CD = 1200.0, 2600.0  # of a street lamp, and of one under a roof (judgement)
_LAMP_M = 5.0  # over the ground, unless a roof is lower
_SEED = 101
_MID_GREY = 0.18
_CLOTHES: tuple[dict[int, int], ...] = (
    {made.JACKET: made.DARK, made.SCARF: made.DARK},
    {made.JACKET: made.JEANS, made.JEANS: made.DARK, made.CAP: made.HAIR},
    {made.JACKET: made.WHITE, made.SCARF: made.RAIL, made.CAP: made.WOOD},
)
_SKYLINE = 180  # directions in which the horizon is looked up


def set_up(rig: Rig, plan: Layout, head: Array, builder: Builder, time_s: float, bearing_deg: float) -> Stand:
    """Puts the place into the head and the groups."""
    place = rig.place
    assert place is not None
    way, half = place.way, place.way_m / 2.0 or _FAR
    level_ground(head, GROUNDS[place.beside])
    if place.covered:
        head[rt.HAZE] = _FAR  # the air under a roof is clear
    head[rt.WAY_HALF], head[rt.WAY_OF], head[rt.COVERED] = half, GROUNDS[way], float(place.covered)
    head[[rt.SLOPE_AHEAD, rt.SLOPE_LEFT]] = plan.slope
    if place.photo and not what_is_wrong(place):  # else level ground stands for it, and a finding says so
        _photographed(place, head, builder, bearing_deg)
    begins = carrier_s(rig, time_s)
    rows: list[tuple[float, ...]] = []
    made_before = len(builder.groups)
    for number, one in enumerate(place.around):
        if place.pictured:
            _shades(one, place, builder)
        else:
            _put(one, place, head, builder, rows, _SEED + 17 * number)
    if place.horizon:
        turns = np.arange(_SKYLINE) * 360.0 / _SKYLINE
        builder.horizon = [math.tan(math.radians(horizon_deg(place.horizon, bearing_deg - turn))) for turn in turns]
    _people(place, builder, time_s)
    _lamps(place, builder)
    for number in range(made_before, len(builder.groups)):
        builder.groups[number] = lifted(builder.groups[number], plan.slope)
    a, b = plan.slope
    builder.lamps = [(s, n, z + a * s + b * n, cd) for s, n, z, cd in builder.lamps]
    base = np.array([begins, 0.0, GROUND_Z]) + (to_water(place) if rig.carrier.afloat else np.zeros(3))
    base[2] += rig.carrier.floor_m + plan.slope[0] * float(base[0]) + plan.slope[1] * float(base[1])
    if rig.carrier.solids:
        builder.cluster([parts.moved(base) for parts in parts_of(rig.carrier)])
    return Stand(base, np.array(rows).reshape(-1, rt.ROW_SIZE), boat_s=begins)


def level_ground(head: Array, material: int) -> None:
    """A place that is nothing but level ground of one material."""
    head[rt.HILLS], head[rt.DESCRIBED] = 0.0, 1.0
    head[rt.WAY_HALF], head[rt.WAY_OF], head[rt.BESIDE_OF] = _FAR, material, material
    head[[rt.EDGE_LEFT, rt.EDGE_RIGHT, rt.EDGE_AHEAD, rt.EDGE_BEHIND]] = _FAR
    head[rt.WATER_Z], head[rt.COVERED] = GROUND_Z - 0.5, 0.0


def _photographed(place: Place, head: Array, builder: Builder, bearing_deg: float) -> None:
    """The photo as sky and ground: its light by its own exposure, else so that its lower half is as bright as mid grey in the
    day's light."""
    photo = read_photo(Path(place.photo), place.photo_wide_deg)
    faces = bearing_deg if place.photo_faces_deg is None else place.photo_faces_deg
    head[rt.PHOTO_PART] = not photo.whole
    if photo.whole:
        head[[rt.WAY_OF, rt.BESIDE_OF]], head[rt.HAZE], head[rt.WAY_HALF] = made.PHOTO, _FAR, _FAR
    builder.photo = photo.light if photo.whole else np.nan_to_num(photo.light, nan=-1.0)  # what the renderer knows
    sun_lux, sky_lux = float(head[rt.LUX]) * max(float(head[rt.SUN + 2]), 0.0), float(head[rt.LUX + 1])
    if photo.cd_m2 is not None:
        gain = photo.cd_m2
    else:
        half = photo.light.shape[0] // 2
        green, weight = photo.light[half:, :, 1], solid_angle_weight(2 * half)[half:, None]
        there = np.isfinite(green)
        mean = float(np.where(there, green, 0.0).ravel() @ (there * weight).ravel() / max((there * weight).sum(), 1e-9))
        gain = _MID_GREY * (sun_lux + sky_lux) / math.pi / max(mean, 1e-4)
    head[[rt.PHOTO_GAIN, rt.PHOTO_TURN, rt.PHOTO_Z]] = (
        gain,
        math.radians(bearing_deg - faces),
        GROUND_Z + place.photo_height_m,
    )
    head[rt.PHOTO_SHADE] = sky_lux / max(sun_lux + sky_lux, 1e-9)


def _put(one: Standing, place: Place, head: Array, builder: Builder, rows: list[tuple[float, ...]], seed: int) -> None:
    if one.what in ("wood", "trees", "hedge"):
        rows += _growth(one, seed)
    elif one.what == "water":
        edge = {"left": rt.EDGE_LEFT, "right": rt.EDGE_RIGHT, "ahead": rt.EDGE_AHEAD, "behind": rt.EDGE_BEHIND}[
            one.side
        ]
        head[edge], head[rt.WATER_Z] = one.away_m, GROUND_Z - max(one.height_m, 0.02)
    elif one.what == "houses":
        _houses(one, builder)
    elif one.what in ("wall", "cliff"):
        builder.groups.append(long_of(one).moved(_UP))
    else:
        builder.groups += [parts.moved(_UP) for parts in over(one, place)]


def _shades(one: Standing, place: Place, builder: Builder) -> None:
    """What a photo sphere shows by itself: it keeps the sun off what is drawn into it, and is not drawn."""
    for parts in [] if one.what == "water" else over(one, place) if one.side == "over" else [long_of(one)]:
        builder.groups.append(parts.moved(_UP))
        builder.groups[-1].shadow_only, builder.groups[-1].owner = True, made.PICTURED


def _growth(one: Standing, seed: int) -> list[tuple[float, ...]]:
    """Rows of crowns, as `raytrace` takes them: n, spacing, radius, crown height, spread, from s, to s, seed."""
    if one.what == "hedge":
        radius, spacing, middle, spread, count = 0.45 * one.height_m, 0.5 * one.height_m, 0.5 * one.height_m, 0.12, 1
    else:
        radius, middle = 0.28 * one.height_m, 0.68 * one.height_m
        spacing, spread = (1.5 * radius, 0.8 * radius) if one.what == "wood" else (4.2 * radius, 1.2 * radius)
        count = 4 if one.what == "wood" else 1
    step = 2.0 * radius
    if one.side in ("left", "right"):
        sign = 1.0 if one.side == "left" else -1.0
        first = one.away_m + radius + spread
        return [
            (sign * (first + k * step), spacing, radius, middle, spread, -400.0, 400.0, seed + k) for k in range(count)
        ]
    near, deep = one.away_m + radius, count * step
    begins, ends = (near, near + deep) if one.side == "ahead" else (-near - deep, -near)
    across = 12 if one.what != "hedge" else 24
    return [
        ((k - across / 2) * step, max(spacing * 0.7, 0.4), radius, middle, spread, begins, ends, seed + k)
        for k in range(across + 1)
    ]


def _houses(one: Standing, builder: Builder) -> None:
    """A row of houses of unlike lengths, their fronts at the given distance."""
    long, deep = 9.0, 8.0
    for k in range(-4, 5):
        along, size = k * (long + 1.2), long * (0.9 + 0.2 * ((k * 7) % 3) / 2.0)
        eaves = one.height_m * (0.72 + 0.08 * ((k * 5) % 3))
        away = one.away_m + deep / 2.0
        if one.side in ("left", "right"):
            things.house(builder.group(), along, away if one.side == "left" else -away, size, deep, eaves)
        else:
            things.house(builder.group(), away if one.side == "ahead" else -away, along, deep, size, eaves)


def _people(place: Place, builder: Builder, time_s: float) -> None:
    """People who go by and vehicles that drive, beside the way."""
    for k in range(place.people):
        side, forth = (1.0 if k % 2 else -1.0), (1.0 if k % 3 else -1.0)
        n = side * (max(place.way_m / 2.0, 1.5) + 0.9 + 0.35 * (k % 3))
        s = -9.0 + 7.3 * k + forth * 1.1 * time_s
        parts = Parts()
        person.add_person(parts, (s, n, GROUND_Z), 0.0 if forth > 0 else math.pi, time_s + 1.3 * k, stride=0.38)
        builder.groups.append(_dressed(parts, _CLOTHES[k % len(_CLOTHES)]))
    for k in range(place.traffic):
        side = 1.0 if k % 2 else -1.0
        n = side * max(place.way_m / 4.0, 1.6)
        by = np.array([14.0 + 17.0 * k - side * 8.0 * time_s, n, GROUND_Z])
        builder.cluster([parts.moved(by) for parts in parts_of(ready_carriers()["car"])])


def _dressed(parts: Parts, clothes: dict[int, int]) -> Parts:
    """A person in other clothes than the subject's, so that nobody is taken for another."""
    return msgspec.structs.replace(
        parts,
        capsules=[(*limb[:-1], clothes.get(int(limb[-1]), limb[-1])) for limb in parts.capsules],
        ellipsoids=[(*blob[:-1], clothes.get(int(blob[-1]), blob[-1])) for blob in parts.ellipsoids],
    )


def _lamps(place: Place, builder: Builder) -> None:
    """Lamps in a row on either side, or under the roof."""
    room = min((one.height_m for one in place.around if one.side == "over"), default=_LAMP_M + 0.5)
    high = min(_LAMP_M, room - 0.4)
    for k in range(place.lamps):
        side = 1.0 if k % 2 else -1.0
        n = side * (max(place.way_m / 2.0, 2.5) + 0.6)
        s = (k // 2) * 16.0 - 8.0
        builder.lamps.append((s, n, GROUND_Z + high, _HALL_CD if place.covered else _LAMP_CD))
        parts = builder.group()
        parts.blob((s, n, GROUND_Z + high + 0.12), (0.14, 0.14, 0.08), made.WHITE)
        if not place.covered:
            parts.limb((s, n, GROUND_Z), (s, n, GROUND_Z + high), 0.05, made.DARK)

"""Shadows: from the solids that throw them, on the surfaces that catch them, as the camera sees them."""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from glintor.placement.figures import carrier_solids, carrying_person, mount_points, subject_person
from glintor.placement.layout import LEVEL, Layout
from glintor.placement.sight import obstacles
from glintor.placement.solids import Parts, Solids
from glintor.sphere.view import View, in_frame
from glintor.types import Array

LOW_SUN_DEG = 1.0  # below, shadows are longer than any place
FAR_M = 60.0  # farther away nobody sees the shadow of a stick
_LEAP = 8.0  # times the usual step between landed points, from where on they are on two surfaces
_POINTS = 160  # along a stick, so that its end in a frame's corner is not taken for more than it is


def thrown(plan: Layout, points: Array) -> Array:
    """(n, 3) where the shadows of points fall: on the carrier's solids, its ground, or the water past the shore; NaN where
    farther than FAR_M, where the carrier keeps the sun off, and for points under the surface that would catch them."""
    way = -plan.to_sun
    rays = np.repeat(way[None], len(points), axis=0)
    both = carrier_solids(plan.carrier).distance(np.tile(points, (2, 1)), np.concatenate([rays, -rays]))
    reach, unlit = both[: len(points)], np.isfinite(both[len(points) :])  # what the carrier shades throws none
    fall = float(-way[2])
    a, b = plan.slope
    over = points[:, 2] + plan.carrier.floor_m - points[:, :2] @ np.array([a, b])
    sinks = fall + float(a * way[0] + b * way[1])  # how fast a ray nears the ground, which may rise towards it
    ground = np.where((over >= 0.0) & (sinks > 1e-6), over / max(sinks, 1e-6), np.inf)
    land = points + rays * np.where(np.isfinite(ground), ground, 0.0)[:, None]
    ground = np.where(plan.shore.dry(land[:, 0], land[:, 1]), ground, np.inf)
    water = (
        (points[:, 2] + plan.carrier.floor_m + plan.shore.down_m) / fall
        if plan.slope == LEVEL
        else np.full(len(points), np.inf)
    )
    reach = np.minimum(reach, np.minimum(ground, np.where(water > 0.0, water, np.inf)))
    out = points + rays * np.where(np.isfinite(reach), reach, 0.0)[:, None]
    return np.where((~unlit & (reach <= FAR_M))[:, None], out, np.nan)


def shines(plan: Layout) -> bool:
    """Whether the sun throws shadows at all; a grey sky is told by a sun that is not there."""
    return plan.sun.elevation_deg >= LOW_SUN_DEG and plan.sun.shines


@lru_cache(maxsize=8)  # a layout is a value of its own; both charts ask
def stick_shadow(plan: Layout) -> Array:
    """(n, 3) points of the shadow of stick and camera, foot first; of who wears the camera from the ground up. (0, 3)
    without a sun that shines."""
    if not shines(plan):
        return np.zeros((0, 3))
    points = mount_points(plan)
    if plan.wearer_apart:
        points = np.concatenate([_wearer_points(plan), points])
    found = thrown(plan, points)
    return found[np.isfinite(found[:, 0])]


def _wearer_points(plan: Layout) -> Array:
    """(n, 3) over the width and height of who wears the camera."""
    feet = plan.carrying
    assert feet is not None
    across = np.array([-plan.to_sun[1], plan.to_sun[0], 0.0])
    across = across / max(float(np.linalg.norm(across)), 1e-9)
    up = np.linspace(0.05, 1.65, 14)
    wide = np.where(up > 1.45, 0.09, np.where(up > 0.85, 0.2, 0.13))
    rise = np.stack([0.0 * up, 0.0 * up, up], axis=1) + feet
    edge = across * wide[:, None]
    return np.concatenate([rise - edge, rise[::-1], rise + edge])  # up one side, down the middle, up the other


@lru_cache(maxsize=8)
def subject_shadow(plan: Layout, points: int = 12) -> Array:
    """(n, 3) points of the subject's shadow, feet first; (0, 3) without a sun that shines."""
    if not shines(plan):
        return np.zeros((0, 3))
    if plan.filmed[0].subject.far:
        return np.zeros((0, 3))
    up = np.linspace(0.02, plan.filmed[0].height_m, points)
    found = thrown(plan, plan.subject + np.stack([0.0 * up, 0.0 * up, up], axis=1))
    return found[np.isfinite(found[:, 0])]


def seen_shadow_m(plan: Layout, view: View, size_px: tuple[int, int]) -> float:
    """How much of the camera's shadow a frame shows, metres of its length: what the carrier, its people or the subject hide
    is not seen. Of who wears the camera the shadow counts as well; what falls on the subject does not."""
    if not shines(plan):
        return 0.0
    points = mount_points(plan, _POINTS)
    length = sum(_seen_length_m(plan, landed, view, size_px) for landed in _caught(plan, points, thrown(plan, points)))
    return length + (_seen_m(plan, thrown(plan, _wearer_points(plan)), view, size_px) if plan.wearer_apart else 0.0)


def _caught(plan: Layout, points: Array, landed: Array) -> tuple[Array, Array]:
    """(n, 3) of the shadows that would land there, those that do, and those that fall on who carries the camera, where that is not the
    subject; NaN for others, and for what falls on the subject."""
    carrying = carrying_person(plan) if plan.carrier_apart else None
    ways = np.repeat(-plan.to_sun[None], len(points), axis=0)
    far = np.nan_to_num(np.linalg.norm(landed - points, axis=1), nan=FAR_M)
    on_subject = Solids([_of_subject(plan)]).distance(points, ways)
    on_other = Solids([carrying[0]] if carrying is not None else []).distance(points, ways)
    past = on_subject >= np.minimum(far, on_other)
    body = points + ways * np.where(np.isfinite(on_other), on_other, 0.0)[:, None]
    on_body = past & (on_other < far)
    return np.where((past & ~on_body)[:, None], landed, np.nan), np.where(on_body[:, None], body, np.nan)


def _seen_length_m(plan: Layout, landed: Array, view: View, size_px: tuple[int, int]) -> float:
    """How long the line through points is that a frame shows; where they leap from one surface to another there is none."""
    there = np.flatnonzero(np.isfinite(landed[:, 0]))
    if len(there) < 2:
        return 0.0
    seen = _seen(plan, landed[there], view, size_px)
    steps = np.linalg.norm(np.diff(landed[there], axis=0), axis=1)
    drawn = seen[1:] & seen[:-1] & (np.diff(there) == 1) & (steps <= _LEAP * np.median(steps))
    return float(steps[drawn].sum())


def _seen_m(plan: Layout, landed: Array, view: View, size_px: tuple[int, int]) -> float:
    """The share of points that a frame shows, times how far they reach."""
    points = landed[np.isfinite(landed[:, 0])]
    if not len(points):
        return 0.0
    reach = float(np.linalg.norm(points.max(axis=0) - points.min(axis=0)))
    return float(_seen(plan, points, view, size_px).sum() / len(landed)) * reach


def _seen(plan: Layout, points: Array, view: View, size_px: tuple[int, int]) -> NDArray[np.bool_]:
    """(n,) which of the points (n, 3) a frame shows: nothing stands before them."""
    seen = in_frame(view, size_px, plan.directions(points))
    if seen.any():
        near = np.flatnonzero(seen)
        eyes = np.repeat(plan.camera[None], len(near), axis=0)
        for solids in [*obstacles(plan), Solids([_of_subject(plan)])]:
            seen[near] &= ~solids.blocks(eyes, points[near], slack_m=0.05)
    return np.asarray(seen)


def _of_subject(plan: Layout) -> Parts:
    return subject_person(plan)[0]

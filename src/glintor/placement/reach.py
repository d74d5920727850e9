"""Where a set-up's foot can hold on, and where its camera is then: by hand, body, tubes, surfaces or the ground."""

import math

import numpy as np

from glintor.placement.mounts import Setup
from glintor.placement.solids import Point
from glintor.types import Array


def _nearest(setup: Setup, ahead_m: float, left_m: float) -> Point:
    """The place nearest to (ahead, left), seen from above, that this set-up's foot can hold on to."""
    if not setup.spans:
        return ahead_m, left_m, setup.base_m
    best = (float("inf"), (ahead_m, left_m, setup.base_m))
    for a, b in setup.lines:
        dx, dy = b[0] - a[0], b[1] - a[1]
        flat = dx * dx + dy * dy
        share = 1.0  # upright: its end
        if flat >= 1e-4:
            share = min(max(((ahead_m - a[0]) * dx + (left_m - a[1]) * dy) / flat, 0.0), 1.0)
        at = (a[0] + share * dx, a[1] + share * dy, a[2] + share * (b[2] - a[2]))
        best = min(best, (math.hypot(at[0] - ahead_m, at[1] - left_m), at))
    for low, high in setup.areas:
        at = (min(max(ahead_m, low[0]), high[0]), min(max(left_m, low[1]), high[1]), (low[2] + high[2]) / 2.0)
        best = min(best, (math.hypot(at[0] - ahead_m, at[1] - left_m), at))
    return best[1]


def _sideways(stick_m: float, heading_deg: float, lean_deg: float) -> Array:
    """(2,) from the camera to the foot of a leaning stick, seen from above: sideways of the front lens."""
    turn = -np.radians(heading_deg)
    return np.array([-np.sin(turn), np.cos(turn)]) * stick_m * float(np.sin(np.radians(lean_deg)))


def foot_of(
    setup: Setup, stick_m: float, ahead_m: float, left_m: float, heading_deg: float = 0.0, lean_deg: float = 0.0
) -> Point:
    """Where the stick stands, is clamped or held, for a camera at (ahead, left): the hand or body that has it; else under
    the camera as the stick leans, at the height of what it can hold on to next to there."""
    if setup.hand is not None and setup.grip is not None:
        return setup.grip
    aside = _sideways(stick_m, heading_deg, lean_deg)
    ahead, left = ahead_m + float(aside[0]), left_m + float(aside[1])
    return ahead, left, setup.grip[2] if setup.grip is not None else _nearest(setup, ahead, left)[2]


def lens_height_m(setup: Setup, stick_m: float, ahead_m: float, left_m: float, foot: Point, lean_deg: float) -> float:
    """Height of the lenses over the carrier's floor.

    A held stick runs from the hand to the camera: the farther out the camera, the nearer its height to the hand's.
    Others lean.
    """
    if setup.hand is None:
        rise = stick_m * float(np.cos(np.radians(lean_deg)))
    else:
        out = min(float(np.hypot(ahead_m - foot[0], left_m - foot[1])), 0.98 * stick_m)
        rise = float(np.sqrt(max(stick_m**2 - out**2, 0.0)))
    return foot[2] - rise if setup.hangs else foot[2] + rise


def held_in_reach(
    setup: Setup, stick_m: float, ahead_m: float, left_m: float, lean_deg: float, heading_deg: float = 0.0
) -> tuple[float, float]:
    """The camera's place (ahead, left) brought to where this set-up can hold it: in reach of the hand; with its foot on the
    body, or on the part of the carrier that takes it."""
    if setup.hand is not None and setup.grip is not None:
        hand = np.array(setup.grip[:2])
        way = np.array([ahead_m, left_m]) - hand
        out = float(np.hypot(*way))
        if out > 0.98 * stick_m:
            way *= 0.98 * stick_m / out
        return float(hand[0] + way[0]), float(hand[1] + way[1])
    aside = _sideways(stick_m, heading_deg, lean_deg)
    if setup.grip is not None:
        foot: Point = setup.grip
    else:
        foot = _nearest(setup, ahead_m + float(aside[0]), left_m + float(aside[1]))
    return float(foot[0] - aside[0]), float(foot[1] - aside[1])


def out_of_reach_m(setup: Setup, foot: Point) -> float:
    """How far a foot is from where this set-up can hold on, seen from above."""
    if setup.grip is not None:
        return float(np.hypot(foot[0] - setup.grip[0], foot[1] - setup.grip[1]))
    near = _nearest(setup, foot[0], foot[1])
    return float(np.hypot(foot[0] - near[0], foot[1] - near[1]))


def along_spans(setup: Setup, step_m: float) -> list[tuple[float, float]]:
    """Places (ahead, left) spread over what its foot can hold on to, so far apart; empty where it stands anywhere."""
    out: list[tuple[float, float]] = []
    for a, b in setup.lines:
        count = max(round(float(np.hypot(b[0] - a[0], b[1] - a[1])) / step_m), 1) + 1
        out += [(a[0] + (b[0] - a[0]) * k, a[1] + (b[1] - a[1]) * k) for k in np.linspace(0.0, 1.0, count).tolist()]
    for low, high in setup.areas:
        counts = [max(round((high[k] - low[k]) / step_m), 1) + (high[k] > low[k]) for k in (0, 1)]
        out += [
            (ahead, left)
            for ahead in np.linspace(low[0], high[0], counts[0]).tolist()
            for left in np.linspace(low[1], high[1], counts[1]).tolist()
        ]
    return out

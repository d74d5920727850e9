"""A mended seam against the view from the middle of two lenses: a made world of a near pillar before a far wall, every pixel a ray.

What a filmer expects: the pillar is as wide as it is, stands still while it stands, and does not swim while it walks."""

from functools import cache

import cv2
import numpy as np
import pytest

from glintor.pixels import colour
from glintor.pixels.join import Joiner
from glintor.pixels.picture import Flat, drawn, steady
from glintor.pixels.spheres import Sphere
from glintor.sphere.lenses import Eye, Lenses, look_of_pixel
from glintor.sphere.view import View, frame_direction

LENSES = Lenses(eyes=(Eye(half_deg=96), Eye(half_deg=96, turn_deg=(180, 0, 0))))
LENS_PX, SIZE, VIEW = 720, (640, 360), View(yaw_deg=-90, fov_deg=60)
GAP_M, WALL_M, PILLAR_M = 0.03, 15.0, 0.25


@cache
def _stuff(seed, size, blur, low, high):
    made = cv2.GaussianBlur(np.random.default_rng(seed).uniform(0, 1, size).astype(np.float32), (0, 0), blur)
    return low + (high - low) * (made - made.min()) / np.ptp(made)


def _read(stuff, across, up):
    """Luma of a stuff at shares across (it runs round) and up."""
    rows, columns = stuff.shape
    at = (((across % 1.0) * columns).astype(np.float32), (np.clip(up, 0, 1) * (rows - 1)).astype(np.float32))
    return cv2.remap(stuff, *at, cv2.INTER_LINEAR, borderMode=cv2.BORDER_WRAP)


def _world(look, ahead_m, bearing_deg, away_m):
    """Luma along rays (..., 3) from `ahead_m` before the middle of the camera."""
    x, y, z = np.moveaxis(look, -1, 0)
    left, right = ahead_m - away_m * np.cos(np.radians(bearing_deg)), -away_m * np.sin(np.radians(bearing_deg))
    a, b = x * x + y * y, left * x + right * y
    inside = b * b - a * (left**2 + right**2 - PILLAR_M**2)
    far = (-b - np.sqrt(np.maximum(inside, 0))) / np.maximum(a, 1e-9)
    hit = (inside > 0) & (far > 0) & (np.abs(far * z) < 1.2)
    around = np.arctan2(right + far * y, left + far * x) / (2 * np.pi)
    pillar = _read(_stuff(1, (400, 800), 5.0, 150.0, 240.0), around, 0.5 + far * z / 2.4)
    far = -ahead_m * x + np.sqrt((ahead_m * x) ** 2 + WALL_M**2 - ahead_m**2)
    bearing = np.arctan2(far * y, ahead_m + far * x) / (2 * np.pi)
    wall = _read(
        _stuff(2, (800, 4000), 6.0, 20.0, 110.0), bearing, 0.5 + np.arcsin(np.clip(far * z / WALL_M, -1, 1)) / np.pi
    )
    return np.where(hit, pillar, wall)


def _grey(luma):
    return colour.yuv(np.repeat(luma.clip(0, 255).astype(np.uint8)[..., None], 3, axis=2))


def _filmed(bearing_deg, away_m, noise):
    y, x = np.mgrid[:LENS_PX, :LENS_PX].astype(float)
    looks = [look_of_pixel(eye, (LENS_PX, LENS_PX), x, y) for eye in LENSES.eyes]
    both = [_world(look, side * GAP_M, bearing_deg, away_m) for look, side in zip(looks, (0.5, -0.5), strict=True)]
    return _grey(np.hstack(both) + noise)


def _from_the_middle(bearing_deg, away_m):
    look = frame_direction(VIEW, SIZE, np.arange(SIZE[0]), np.arange(SIZE[1])[:, None])
    return _grey(_world(look, 0.0, bearing_deg, away_m)).y.astype(float)


def _as_drawn(picture, join):
    return drawn(Flat(SIZE, steady(VIEW), shows=LENSES), Sphere(picture, join)).y.astype(float)


def _width_px(frame):
    lit = cv2.GaussianBlur(frame[140:220], (0, 0), 1) > 128
    return float(np.median(lit.shape[1] - np.argmax(lit[:, ::-1], axis=1) - np.argmax(lit, axis=1)))


@pytest.mark.parametrize("away_m", [1.2, 2.0])
@pytest.mark.parametrize("bearing_deg", [87.0, 90.0, 93.0])
def test_a_near_thing_at_the_seam_is_as_wide_as_it_is(bearing_deg, away_m):
    """Without mending the two lenses take 6 % of it away, at either distance; so did laying one picture on the other."""
    picture, joiner = _filmed(bearing_deg, away_m, 0.0), Joiner(LENSES)
    joins = [joiner.join(picture, n / 24) for n in range(8)]
    true = _width_px(_from_the_middle(bearing_deg, away_m))
    torn = Joiner(LENSES, mends=False).join(picture, 0.0)
    assert _width_px(_as_drawn(picture, torn)) < 0.96 * true
    assert _width_px(_as_drawn(picture, joins[-1])) == pytest.approx(true, rel=0.02)


@pytest.mark.parametrize(("speed_deg", "most"), [(0.0, 1.02), (10.0, 0.3)])
def test_a_thing_that_stands_or_walks_through_the_seam_flickers_no_more_than_the_scene(speed_deg, most):
    """How much the error changes from one frame to the next, as a share of what it changes without mending: sensor noise when it stands."""
    rng, changes = np.random.default_rng(7), {True: [], False: []}
    joiners, last = {mends: Joiner(LENSES, mends=mends) for mends in changes}, {}
    for n in range(12):
        bearing_deg = 90.0 + speed_deg * (n / 24 - 0.25)
        picture, true = (
            _filmed(bearing_deg, 1.2, rng.normal(0, 2, (LENS_PX, 2 * LENS_PX))),
            _from_the_middle(bearing_deg, 1.2),
        )
        for mends, joiner in joiners.items():
            error = cv2.GaussianBlur(_as_drawn(picture, joiner.join(picture, n / 24)) - true, (0, 0), 1.5)
            if mends in last:
                changes[mends].append(np.abs(error - last[mends])[60:300, 180:460].mean())
            last[mends] = error
    assert np.mean(changes[True][4:]) < most * np.mean(changes[False][4:])

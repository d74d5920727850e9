"""What covers stick and mount at the foot of a picture, on the sphere and straight on fisheyes."""

import cv2
import numpy as np
import pytest

from glintor.pixels import colour
from glintor.pixels.foot import patched
from glintor.pixels.picture import Flat, drawn, steady
from glintor.pixels.spheres import Sphere
from glintor.sphere.equirect import HALF, WHOLE, Coverage
from glintor.sphere.foot import Patch
from glintor.sphere.lenses import Eye, Lenses, look_of_pixel
from glintor.sphere.view import View
from tests.conftest import smooth_at, smooth_sphere

DOWN = View(pitch_deg=-90.0, fov_deg=110.0, bend=0.0)
PAIR = Lenses(eyes=(Eye(half_deg=97), Eye(half_deg=97, turn_deg=(180, 0, 0))))


def with_stick(shows):
    """The smooth world with a black stick that ends 12 degrees off the foot."""
    if isinstance(shows, Coverage):
        rgb = smooth_sphere(1024)
        rgb[round(512 * (1 - 12 / 180)) :] = 0
        return colour.yuv(rgb)
    y, x = np.mgrid[:480, :480].astype(float)
    parts = []
    for eye in shows.eyes:
        look = look_of_pixel(eye, (480, 480), x, y)
        part = smooth_at(look)
        part[look[..., 2] < -np.cos(np.radians(12))] = 0
        parts.append(part)
    return colour.yuv(np.hstack(parts))


def seen(picture, shows):
    return colour.rgb(drawn(Flat((320, 320), steady(DOWN), shows=shows), Sphere(picture))).astype(int)


@pytest.mark.parametrize("shows", [WHOLE, PAIR])
@pytest.mark.parametrize("kind", ["mirror", "blur"])
def test_the_stick_is_gone_and_all_else_is_as_it_was(shows, kind):
    picture = with_stick(shows)
    before = picture.y.copy()
    covered = patched(picture, shows, Patch(kind=kind, radius_deg=16.0))
    assert np.array_equal(picture.y, before)  # a decoder may still need it
    plain, done = seen(picture, shows), seen(covered, shows)
    off = np.hypot(*(np.mgrid[:320, :320] - 159.5))
    foot, rest = off < 320 / 2 / np.tan(np.radians(55)) * np.tan(np.radians(11)), off > 70
    assert plain[foot].max() < 30 and done[foot].min() > 30
    assert np.abs(plain[rest] - done[rest]).max() <= 2


def test_a_mirrored_foot_shows_what_lies_round_it():
    """At half the radius stands what is one and a half radii out, the same way round."""
    covered = seen(patched(with_stick(WHOLE), WHOLE, Patch(radius_deg=20.0)), WHOLE)
    plain = seen(with_stick(WHOLE), WHOLE)
    per = 320 / 2 / np.tan(np.radians(55))
    for around in np.radians([20, 110, 250]):
        inner, outer = (per * np.tan(np.radians(d)) for d in (10.0, 30.0))
        a, b = ((round(159.5 + r * np.sin(around)), round(159.5 + r * np.cos(around))) for r in (inner, outer))
        assert np.abs(covered[a] - plain[b]).max() < 14


def test_a_picture_of_ones_own_lies_on_it_and_one_that_is_gone_changes_nothing(tmp_path):
    file = tmp_path / "own.png"
    cv2.imwrite(str(file), np.full((90, 160, 3), (0, 0, 255), np.uint8))
    covered = seen(patched(with_stick(WHOLE), WHOLE, Patch(kind="picture", radius_deg=16.0, file=str(file))), WHOLE)
    assert covered[160, 160, 0] > 200 and covered[160, 160, 1:].max() < 60
    gone = Patch(kind="picture", file=str(tmp_path / "gone.png"))
    picture = with_stick(WHOLE)
    assert patched(picture, WHOLE, gone) is picture
    half = colour.yuv(np.ascontiguousarray(smooth_sphere(512)[:128]))  # the upper part only: it has no foot
    upper = Coverage(lat_deg=90.0, centre_lat_deg=45.0)
    assert np.array_equal(patched(half, upper, Patch()).y, half.y) and HALF.lat_deg == 180.0

"""A trail of copies from a camera that stands still: a patch that walks over a photograph."""

import cv2
import numpy as np
import pytest

from glintor.errors import InputError
from glintor.export.trail import write_trail
from glintor.media.footage import open_footage
from glintor.pixels.trail import spaced
from glintor.reframing.track import SURE, found_track
from glintor.sphere.view import View
from tests import foreign
from tests.conftest import smooth_sphere

WIDTH, RATE, LENGTH_S = 1024, 10, 5.0


def yaw_at(time_s):
    return -50.0 + 20.0 * time_s


def film_with_a_walker(path):
    """Somebody red, 5 by 18 degrees, walks to the right before slow waves; a speck flickers elsewhere."""
    base = smooth_sphere(WIDTH)

    def frames():
        for n in range(round(RATE * LENGTH_S)):
            picture = base[..., ::-1].copy()
            x, y = round((yaw_at(n / RATE) / 360.0 + 0.5) * WIDTH), WIDTH // 4
            w, h = round(5 / 360 * WIDTH), round(18 / 180 * WIDTH / 2)
            picture[y - h // 2 : y + h // 2, x - w // 2 : x + w // 2] = (30, 30, 200)
            if n % 2:
                picture[100:103, 300:303] = 255
            yield picture

    return foreign.film(path, frames(), RATE, "-crf", 10)


def is_red(picture):
    return (np.abs(picture - np.array([200, 30, 30])).max(axis=2) < 45).astype(np.uint8)


def track():
    times = np.arange(0.0, LENGTH_S, 0.08)
    return found_track([(t, yaw_at(t), 0.0, 18.0, SURE) for t in times])


def test_the_walker_stands_in_the_picture_as_often_as_it_fits_and_nothing_else_is_changed(tmp_path):
    footage = open_footage(film_with_a_walker(tmp_path / "walk.mp4"))
    view, size = View(fov_deg=120.0, bend=0.0), (640, 360)
    count = write_trail(tmp_path / "trail.png", footage, view, size, track(), (0.0, 4.8), overlap=0.0)
    picture = cv2.imread(str(tmp_path / "trail.png"))[..., ::-1].astype(int)
    red = is_red(picture)
    _, _, stats, _ = cv2.connectedComponentsWithStats(red)
    bodies = [s for s in stats[1:] if s[cv2.CC_STAT_AREA] > 150]
    assert len(bodies) == count >= 6
    with footage.reader() as reader:
        from glintor.pixels.colour import rgb
        from glintor.pixels.picture import Flat, drawn, steady

        plain = rgb(drawn(Flat(size, steady(view), shows=footage.shows), footage.sphere(reader.at(0.0)), 0.0)).astype(
            int
        )
    grown = cv2.dilate(red, np.ones((25, 25), np.uint8)) > 0
    grown |= cv2.dilate(is_red(plain), np.ones((25, 25), np.uint8)) > 0
    assert np.abs(picture - plain)[~grown].mean() < 2.0
    closer = write_trail(tmp_path / "close.png", footage, view, size, track(), (0.0, 4.8), overlap=0.6)
    assert closer > 1.7 * count


def test_a_camera_that_moved_and_a_subject_elsewhere_are_refused(tmp_path):
    shaken = open_footage(foreign.shaken(tmp_path / "shaken.mp4", foreign.World(), width=768, frames=40, big=3.0))
    still = found_track([(t, 4.0 * t, 0.0, 15.0, SURE) for t in np.arange(0.0, 2.0, 0.08)])
    with pytest.raises(InputError, match="camera moved"):
        write_trail(tmp_path / "a.png", shaken, View(), (320, 180), still, (0.0, 1.8))
    with pytest.raises(InputError, match="not tracked in this frame"):
        write_trail(tmp_path / "a.png", shaken, View(yaw_deg=180.0, fov_deg=40.0), (320, 180), still, (0.0, 1.8))
    assert not (tmp_path / "a.png").exists()


def test_copies_are_as_far_apart_as_asked():
    places = np.stack([np.arange(0.0, 100.0, 2.0), np.zeros(50)], axis=1)
    assert np.diff(spaced(places, np.full(50, 10.0), 0.0)).min() * 2.0 >= 10.0
    assert len(spaced(places, np.full(50, 10.0), 0.5)) == 17

"""Rows that a sensor reads one after the other, in films whose every row was drawn from where the camera lay just then."""

import subprocess

import cv2
import numpy as np
import pytest
from msgspec.structs import replace
from scipy.spatial.transform import Rotation

from glintor.media.footage import open_footage
from glintor.media.inertial import inertial_file, write_inertial
from glintor.media.kept_rows import known_rows
from glintor.media.orientation import orientation_of
from glintor.media.rolling import told_since
from glintor.media.taken import TakenAs
from glintor.pixels.reproject import Filter, Reprojector
from glintor.sphere.foot import Patch
from glintor.sphere.lenses import Eye, Lenses
from glintor.sphere.rolling import Moment, as_read, late_s
from glintor.sphere.turn import turned
from glintor.sphere.view import View
from tests import foreign
from tests.conftest import psnr
from tests.media.test_orientation import log_of, walk_at

RATE, READOUTS_S = 15, (0.024, 0.016)


def true_lenses() -> Lenses:
    n = foreign.LENS["size"]
    eyes = []
    for side in ("front", "rear"):
        (cx, cy), angles, gain = foreign.LENS[side]
        eyes.append(
            Eye(
                centre=((cx + 0.5) / n, (cy + 0.5) / n),
                radius=foreign.LENS["radius"],
                half_deg=foreign.LENS["half_deg"],
                k3=foreign.LENS["k3"],
                turn_deg=angles,
                gain=(1 / gain,) * 3,
            )
        )
    return Lenses(eyes=tuple(eyes))


@pytest.fixture(scope="module")
def rolled(tmp_path_factory):
    file = foreign.rolled(tmp_path_factory.mktemp("rolled") / "walk.mp4", foreign.World(), READOUTS_S)
    log = log_of(walk_at, 2.6)
    write_inertial(inertial_file(file), np.column_stack([log.time_s, log.gyro_rad_s, log.accel_m_s2]))
    return file


def test_rows_are_found_from_a_log_and_put_right(rolled):
    taken = TakenAs("side", true_lenses())
    before = open_footage(rolled, taken)
    found = orientation_of(before)
    assert "its rows, read in 2" in found.made_by
    assert told_since(before)
    footage = open_footage(rolled, taken)
    assert footage.rows.readouts_s == pytest.approx(np.array([[0.0, 0.024], [-0.016, 0.0]]), abs=0.001)

    world = foreign.World()
    rng, worse, better = np.random.default_rng(5), [], []
    with footage.reader() as reader:
        for k in rng.choice(np.arange(4, 34), 5, replace=False):
            decoded = reader.at(k / RATE)
            turn = walk_at(decoded.time)[0].as_matrix()
            for yaw, pitch in ((0, 40), (0, -40), (180, 40), (140, 0), (90, 10)):
                view = View(yaw_deg=yaw, pitch_deg=pitch, fov_deg=70.0, bend=0.0)
                drawer = Reprojector((320, 180), Filter.FINE, shows=footage.shows)
                images = [drawer.draw(f.sphere(decoded), turned(view, turn)).y for f in (before, footage)]
                truth = cv2.cvtColor(seen(world, view).astype(np.uint8), cv2.COLOR_BGR2GRAY)
                off = [np.linalg.norm(shift_px(truth, image)) for image in images]
                worse.append(off[0])
                better.append(off[1])
    px_per_deg = 320 / 70.0
    assert np.max(worse) / px_per_deg > 0.09  # degrees by which they were off
    assert np.max(better) / px_per_deg < 0.04 and np.median(better) < np.median(worse) / 2


def seen(world, view):
    """The world through a flat view, by plain trigonometry."""
    focal = 160 / np.tan(np.radians(view.fov_deg / 2))
    x, y = np.meshgrid(np.arange(320) - 159.5, 89.5 - np.arange(180))
    look = np.stack([x, y, np.full_like(x, focal)], -1)
    look /= np.linalg.norm(look, axis=-1, keepdims=True)
    return world.at(look @ foreign.turn(view.yaw_deg, view.pitch_deg, 0.0).T)


def shift_px(a, b):
    window = cv2.createHanningWindow(a.shape[::-1], cv2.CV_32F)
    return np.array(cv2.phaseCorrelate(a.astype(np.float32), b.astype(np.float32), window)[0])


def test_a_camera_that_hardly_turns_tells_nothing_of_its_rows(tmp_path):
    world = foreign.World()
    file = foreign.film(
        tmp_path / "still.mp4", (np.hstack(foreign.lens_pictures(world, k, big=0.0)) for k in range(12)), 15
    )
    log = log_of(lambda t: walk_at(0.0 * np.atleast_1d(t)), 1.2)
    write_inertial(inertial_file(file), np.column_stack([log.time_s, log.gyro_rad_s, log.accel_m_s2]))
    footage = open_footage(file, TakenAs("side", true_lenses()))
    assert "rows" not in orientation_of(footage).made_by and known_rows(footage.files) is None


def test_what_is_caught_is_where_it_lies_when_its_own_row_is_read():
    eye = Eye(half_deg=95.0, k3=-0.02)
    moment = Moment(np.array([[0.3, -2.0, 1.5], [4.0, 3.0, -5.0]]), np.array([[0.004, 0.02]]))
    look = np.array([[0.6, 0.5, 0.62], [0.2, -0.7, -0.68]])
    look /= np.linalg.norm(look, axis=1, keepdims=True)
    caught = as_read(eye, 0, moment, look)
    x, y, _ = eye.place(caught)
    late = late_s(eye, moment.readouts_s[0], x, y)
    for one, to, by in zip(look, caught, late, strict=True):
        assert Rotation.from_rotvec(moment.spin[0] * by + moment.spin[1] * by**2).inv().apply(one) == pytest.approx(
            to, abs=3e-6
        )


@pytest.mark.parametrize("pixels", ["yuv420p10le", "yuv422p10le", "yuv444p"])
def test_colour_of_two_lenses_lies_where_luma_does_however_it_is_sampled(rolled, tmp_path, pixels):
    other = tmp_path / "other.mov"
    command = [
        "ffmpeg",
        "-v",
        "error",
        "-i",
        rolled,
        "-frames:v",
        "2",
        "-c:v",
        "libx264",
        "-crf",
        "10",
        "-pix_fmt",
        pixels,
    ]
    subprocess.run([*map(str, command), str(other)], check=True)
    drawn = []
    for file in (rolled, other):
        footage = open_footage(file, TakenAs("side", true_lenses(), patch=Patch(kind="mirror")))
        with footage.reader() as reader:
            sphere = replace(footage, rows=None).sphere(reader.at(0.0))
        drawer = Reprojector((640, 360), Filter.FINE, shows=footage.shows)
        drawn.append(drawer.draw(sphere, View(yaw_deg=100.0, pitch_deg=-20.0, fov_deg=110.0, bend=0.0)))
    for own, same in zip((drawn[0].u, drawn[0].v), (drawn[1].u, drawn[1].v), strict=True):
        apart = own.astype(float) - same.astype(float)
        assert np.abs(apart).mean() < 1.0 and psnr(own, same) > 38.0

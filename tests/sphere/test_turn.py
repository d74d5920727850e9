"""Turns in time, held against closed formulas: an even turn about an axis, and a picture that was turned for real."""

import numpy as np
import pytest

from glintor.errors import InputError
from glintor.pixels.reproject import Reprojector
from glintor.sphere.equirect import direction
from glintor.sphere.rotation import view_matrix
from glintor.sphere.steady import Orientation, held
from glintor.sphere.turn import TurnTrack, turned
from glintor.sphere.view import View, frame_direction
from tests.conftest import smooth_sphere


def about(axis, angle_deg):
    """x, y, z, w of a turn about a unit axis (Hamilton's half-angle form)."""
    half = np.radians(angle_deg) / 2
    return [*(np.sin(half) * np.asarray(axis)), np.cos(half)]


def test_between_two_turns_it_goes_the_short_way_at_an_even_rate():
    """Rodrigues' formula (1840) for the matrix of a turn about an axis."""
    axis = np.array([1.0, 2.0, 2.0]) / 3.0
    track = TurnTrack([1.0, 3.0], [about(axis, 0.0), -np.array(about(axis, 120.0))])  # q and -q are one turn
    skew = np.array([[0, -axis[2], axis[1]], [axis[2], 0, -axis[0]], [-axis[1], axis[0], 0]])
    for time, angle in ((0.0, 0.0), (1.5, 30.0), (2.0, 60.0), (9.0, 120.0)):
        a = np.radians(angle)
        assert track.at(time) == pytest.approx(np.eye(3) + np.sin(a) * skew + (1 - np.cos(a)) * skew @ skew, abs=1e-12)
    assert track.at(np.zeros((2, 5))).shape == (2, 5, 3, 3)
    assert TurnTrack([5.0], [about(axis, 40.0)]).at(0.0) == pytest.approx(track.at(1.0 + 2.0 / 3.0), abs=1e-12)


@pytest.mark.parametrize(
    ("times", "turns"), [([], []), ([0, 0], [[0, 0, 0, 1]] * 2), ([0], [[0, 0, 0, 0]]), ([0], [[0, 0, np.nan, 1]]), ([0], [[0, 1]])]
)  # fmt: skip
def test_what_is_no_turn_in_time_is_refused(times, turns):
    with pytest.raises(InputError):
        TurnTrack(times, turns)


def test_a_view_meant_for_the_world_finds_its_place_in_a_picture_that_leans():
    """A camera that turned right by 40 and leans: what lies ahead in the world is found where its matrix says."""
    camera = view_matrix(40.0, 5.0, 10.0)
    north = turned(View(), camera)
    seen = frame_direction(north, (101, 101), 50, 50)
    assert camera @ seen == pytest.approx(direction(0.0, 0.0), abs=1e-12)
    assert frame_direction(turned(View(yaw_deg=40.0, pitch_deg=5.0, roll_deg=10.0), camera), (101, 101), 50, 50) == (
        pytest.approx(direction(0.0, 0.0), abs=1e-12)
    )


def test_turning_the_sight_draws_what_turning_the_picture_would():
    sphere = smooth_sphere(512)
    shifted = np.roll(sphere, -512 * 90 // 360, axis=1)  # the camera turned right by 90: everything lies 90 to the left
    there = Reprojector((160, 90)).draw_rgb(sphere, View(yaw_deg=20.0, pitch_deg=15.0))
    turn = view_matrix(90.0, 0.0, 0.0)
    seen = Reprojector((160, 90)).draw_rgb(shifted, turned(View(yaw_deg=20.0, pitch_deg=15.0), turn))
    assert np.abs(there.astype(int) - seen).max() <= 1


@pytest.mark.parametrize("bearing", [30.0, -75.0, 170.0])
def test_a_view_that_goes_with_the_way_looks_where_that_leads(bearing):
    """Still camera, level; the way leads `bearing` degrees clockwise of its front lens: in the held frame that lies ahead."""
    times = np.arange(0.0, 4.0, 0.1)
    still = Orientation(
        times, np.tile([0.0, 0.0, 0.0, 1.0], (len(times), 1)), np.ones(len(times)), np.array([0.0, 0.0, 1.0]), np.full(len(times), bearing)
    )  # fmt: skip
    way = held(still, "heading").at(2.0) @ direction(bearing, 0.0)
    assert way == pytest.approx([1.0, 0.0, 0.0], abs=1e-6)

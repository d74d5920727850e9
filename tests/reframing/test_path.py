import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from glintor.reframing.looks import LOOKS, nearest_look
from glintor.reframing.path import Keyframe, PathError, ViewPath, key_index, with_key
from glintor.sphere import lens
from glintor.sphere.view import View

COLUMNS = ("yaw_deg", "pitch_deg", "roll_deg", "fov_deg", "bend")


@st.composite
def keyframes(draw):
    """Two to six keyframes with lenses of every kind, in order."""
    gaps = draw(st.lists(st.floats(0.1, 5.0), min_size=2, max_size=6))
    keys = []
    for time in np.cumsum(gaps):
        bend = draw(st.floats(0.0, 1.0))
        fov = draw(st.floats(10.0, min(300.0, lens.fov_limit_deg(bend) - 5)))
        view = {
            "yaw_deg": draw(st.floats(-720, 720)),
            "pitch_deg": draw(st.floats(-90, 90)),
            "roll_deg": draw(st.floats(-90, 90)),
        }
        keys.append(Keyframe(time_s=float(time), fov_deg=fov, bend=bend, **view))
    return keys


@settings(deadline=None)
@given(keyframes())
def test_the_path_goes_through_its_keyframes_and_never_overshoots(keys):
    path = ViewPath(keys)
    for key in keys:
        view = path.at(key.time_s)
        assert [getattr(view, c) for c in COLUMNS] == pytest.approx(
            [getattr(key, c) for c in COLUMNS], rel=1e-5, abs=1e-5
        )
    for before, after in itertools.pairwise(keys):
        values = path.values(np.linspace(before.time_s, after.time_s, 25))
        for column, name in enumerate(COLUMNS):
            low, high = sorted((getattr(before, name), getattr(after, name)))
            slack = 1e-6 * max(abs(high), 1.0)
            assert low - slack <= values[:, column].min() and values[:, column].max() <= high + slack, name


def test_a_zoom_without_a_change_of_bend_keeps_the_logarithm_of_the_focal_length_even():
    keys = [
        Keyframe(time_s=0, fov_deg=100, bend=0.4, leaves="even"),
        Keyframe(time_s=4, fov_deg=40, bend=0.4, arrives="even"),
    ]
    values = ViewPath(keys, (0.0, 4.0)).values(np.linspace(0.0, 4.0, 9))
    steps = np.diff(np.log(lens.focal_per_width(values[:, 3], 0.4)))
    assert steps == pytest.approx(steps.mean(), rel=1e-6) and steps.mean() > 0.05


@pytest.mark.parametrize(("roll", "goes"), [(-170.0, 190.0), (175.0, 175.0), (10.0, 10.0)])
def test_a_roll_goes_the_short_way(roll, goes):
    keys = with_key((Keyframe(time_s=0.0, roll_deg=170.0),), Keyframe(time_s=2.0, roll_deg=roll))
    assert keys[-1].roll_deg == pytest.approx(goes)


def test_one_keyframe_is_a_still_view():
    path = ViewPath([Keyframe(time_s=3.0, yaw_deg=20.0)])
    assert path.at(0.0) == path.at(99.0)
    assert path.at(0.0).yaw_deg == 20.0 and path.at(0.0).fov_deg == pytest.approx(100.0)


def test_zoom_keeps_its_apparent_speed():
    """Between two keyframes that fill the film the picture grows by the same factor in every frame."""
    path = ViewPath([Keyframe(time_s=0, fov_deg=120, bend=0), Keyframe(time_s=4, fov_deg=30, bend=0)], (0.0, 4.0))
    focal = lens.focal_per_width(path.values(np.linspace(0, 4, 41))[:, 3], 0.0)
    growth = focal[1:] / focal[:-1]
    assert growth == pytest.approx(np.full(40, growth[0]), rel=1e-6)
    assert np.prod(growth) == pytest.approx(np.tan(np.radians(60)) / np.tan(np.radians(15)))


def test_inside_the_film_a_move_starts_and_ends_gently():
    keys = [Keyframe(time_s=2, yaw_deg=0), Keyframe(time_s=4, yaw_deg=90)]
    yaw = ViewPath(keys, (0.0, 6.0)).values(np.array([1.0, 2.02, 3.0, 3.98, 5.0]))[:, 0]
    assert yaw[[0, 4]] == pytest.approx([0, 90]) and yaw[2] == pytest.approx(45.0)
    assert yaw[1] < 0.1 and yaw[3] > 89.9
    moving = ViewPath(keys, (2.0, 4.0)).values(np.array([2.02]))[0, 0]
    assert moving == pytest.approx(0.9)


def test_a_hold_is_still_and_two_turns_are_two_turns():
    keys = [Keyframe(time_s=0), Keyframe(time_s=2), Keyframe(time_s=6, yaw_deg=720)]
    path = ViewPath(keys)
    assert np.ptp(path.values(np.linspace(0, 2, 20))[:, 0]) == pytest.approx(0.0, abs=1e-9)
    assert path.at(4.0).yaw_deg > 180 and path.at(6.0).yaw_deg == pytest.approx(720)


@pytest.mark.parametrize(
    ("keys", "words"),
    [
        ([], "no keyframe"),
        ([Keyframe(time_s=1), Keyframe(time_s=1.001)], "stand at"),
        ([Keyframe(time_s=float("nan"))], "not a number"),
    ],
)
def test_what_is_no_path_is_said(keys, words):
    with pytest.raises(PathError, match=words):
        ViewPath(keys)


def test_setting_a_key_keeps_the_turn():
    keys = (Keyframe(time_s=0, yaw_deg=350.0),)
    keys = with_key(keys, Keyframe(time_s=2, yaw_deg=10.0))
    assert [k.yaw_deg for k in keys] == [350.0, 370.0]
    keys = with_key(keys, Keyframe(time_s=2.001, yaw_deg=20.0))
    assert [k.yaw_deg for k in keys] == [350.0, 380.0]


def test_a_key_is_found_by_its_time():
    keys = tuple(Keyframe(time_s=float(t)) for t in (0, 1, 2))
    assert key_index(keys, 1.2, 0.3) == 1 and key_index(keys, 1.5, 0.3) is None and key_index((), 0.0) is None


def test_another_shape_gets_its_own_correction():
    assert lens.shape_scale((1920, 1080)) == pytest.approx(1.0)
    assert lens.shape_scale((1080, 1920)) == pytest.approx(16 / 9)
    assert lens.shape_scale((1080, 1080)) == pytest.approx(4 / 3)


def test_looks_are_values_on_one_lens_family():
    """Source: the starting values in docs/guide/reframe.md."""
    table = {look.name: (look.fov_deg, look.bend) for look in LOOKS}
    assert table["Globe"] == (280, 1.0) and table["Sweep"] == (140, 0.5) and table["Eye"] == (100, 0.15)
    assert table["Ruled"] == (90, 0.0) and table["Reach"] == (55, 0.0) and table["Marble"][1] > 1.0
    for look in LOOKS:
        view = look.on(View(yaw_deg=33.0, pitch_deg=5.0))
        assert nearest_look(view) is look and view.yaw_deg == 33.0
    assert LOOKS[0].on(View(pitch_deg=20)).pitch_deg == -90.0
    assert nearest_look(View(fov_deg=77)) is None


ANGLES = st.floats(-1e4, 1e4).map(lambda angle: round(angle, 6))  # scipy's own divides by finer steps and warns


@given(st.lists(ANGLES, min_size=3, max_size=7), st.lists(st.floats(0.01, 9), min_size=7, max_size=7))
def test_the_curve_is_scipys(yaws, gaps):
    """Reference: scipy's PchipInterpolator, the same published method."""
    from scipy.interpolate import PchipInterpolator

    times = np.cumsum(gaps)[: len(yaws)]
    keys = [Keyframe(time_s=float(t), yaw_deg=y) for t, y in zip(times, yaws, strict=True)]
    at = np.linspace(times[0], times[-1], 40)
    theirs = PchipInterpolator(times, yaws)(at)
    assert ViewPath(keys, (float(times[0]), float(times[-1]))).values(at)[:, 0] == pytest.approx(theirs, abs=1e-6)


@pytest.mark.parametrize("turn", [200.0, 270.0, 360.0, 540.0, 720.0, -400.0])
@pytest.mark.parametrize("share", [0.1, 0.35, 0.5, 0.75, 0.97])
def test_a_key_set_inside_a_long_turn_keeps_the_turn(turn, share):
    """A key that is set where the path already is changes nothing, however far the turn; a nudge is only a nudge."""
    keys = (Keyframe(time_s=0.0, yaw_deg=0.0), Keyframe(time_s=10.0, yaw_deg=turn))
    now = 10.0 * share
    there = ViewPath(keys).at(now)
    for nudge in (0.0, 15.0, -15.0):
        shown = (there.yaw_deg + nudge + 180.0) % 360.0 - 180.0  # as a hand or a click gives it
        new = with_key(keys, Keyframe(time_s=now, yaw_deg=shown))
        assert new[1].yaw_deg == pytest.approx(there.yaw_deg + nudge)
        moved = with_key(new, Keyframe(time_s=now, yaw_deg=shown + 5.0))
        assert moved[1].yaw_deg == pytest.approx(there.yaw_deg + nudge + 5.0) and len(moved) == 3


def test_a_key_that_goes_out_and_comes_back_is_changed_on_its_own_turn():
    keys = tuple(Keyframe(time_s=t, yaw_deg=y) for t, y in ((0.0, 0.0), (5.0, 340.0), (10.0, 10.0)))
    assert with_key(keys, Keyframe(time_s=5.0, yaw_deg=-15.0))[1].yaw_deg == pytest.approx(345.0)

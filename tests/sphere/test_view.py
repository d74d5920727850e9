import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from glintor.sphere import lens
from glintor.sphere.equirect import direction, lonlat_deg
from glintor.sphere.lens import ViewError
from glintor.sphere.view import (
    View,
    frame_direction,
    frame_position,
    in_frame,
    outline_lonlat_deg,
    true_width_px,
    vertical_fov_deg,
    within_limits,
)

SIZE = (1920, 1080)
BENDS = st.sampled_from([0.0, 0.15, 0.5, 1.0])


@st.composite
def views(draw):
    """Views all over the sphere, looking at the seam and the poles too, 5 to 340 degrees wide."""
    bend = draw(BENDS)
    fov = draw(st.floats(5.0, min(lens.fov_limit_deg(bend), 340.0)))
    yaw = draw(st.one_of(st.floats(-720, 720), st.sampled_from([180.0, -180.0, 179.99])))
    pitch = draw(st.one_of(st.floats(-90, 90), st.sampled_from([90.0, -90.0])))
    return View(yaw_deg=yaw, pitch_deg=pitch, roll_deg=draw(st.floats(-180, 180)), fov_deg=fov, bend=bend)


@given(views(), st.floats(0, 1919), st.floats(0, 1079))
def test_pixel_to_direction_and_back(view, x, y):
    vector = frame_direction(view, SIZE, x, y)
    assume(np.isfinite(vector).all())
    assert np.linalg.norm(vector) == pytest.approx(1.0)
    x2, y2 = frame_position(view, SIZE, vector)
    scale = max(1.0, lens.radius(min(view.fov_deg / 2, 170), view.bend) if view.bend == 1.0 else 1.0)
    assert (x2, y2) == (pytest.approx(x, abs=1e-4 * scale), pytest.approx(y, abs=1e-4 * scale))


@given(views())
def test_the_field_of_view_is_the_full_horizontal_angle(view):
    left = frame_direction(view, SIZE, -0.5, 539.5)
    right = frame_direction(view, SIZE, 1919.5, 539.5)
    angle = np.degrees(np.arccos(np.clip(left @ right, -1, 1)))
    assert angle == pytest.approx(view.fov_deg if view.fov_deg <= 180 else 360 - view.fov_deg, abs=1e-3)


@given(views())
def test_the_middle_of_the_frame_is_the_axis(view):
    assert frame_direction(view, SIZE, 959.5, 539.5) == pytest.approx(view.matrix[:, 0], abs=1e-9)


def test_right_in_the_frame_is_right_on_the_sphere():
    lon, lat = lonlat_deg(frame_direction(View(fov_deg=90, bend=0), SIZE, 1919.5, 539.5))
    assert (lon, lat) == (pytest.approx(45.0), pytest.approx(0.0, abs=1e-9))
    lon, lat = lonlat_deg(frame_direction(View(fov_deg=90, bend=0), SIZE, 959.5, -0.5))
    assert lat > 25.0
    # Rolled clockwise, what was at the right edge of the world comes to the top of the picture's left side.
    x, y = frame_position(View(fov_deg=90, bend=0, roll_deg=90), SIZE, direction(20.0, 0.0))
    assert x == pytest.approx(959.5) and y < 539.5


def test_footprint_contains_what_the_frame_shows():
    view = View(yaw_deg=170, fov_deg=100)
    assert in_frame(view, SIZE, direction(-150.0, 5.0))
    assert not in_frame(view, SIZE, direction(0.0, 0.0))
    lon, lat = outline_lonlat_deg(view, SIZE, points=9)
    assert len(lon) == 36 and np.isfinite(lat).all()


def test_a_ball_has_an_outside():
    view = View(fov_deg=346, bend=1.25)
    assert np.isnan(frame_direction(view, SIZE, 5, 5)).all()
    assert np.isfinite(frame_direction(view, SIZE, 959.5, 300)).all()
    assert vertical_fov_deg(view, SIZE) == pytest.approx(lens.edge_deg(1.25))


@pytest.mark.parametrize(
    "bad", [{"pitch_deg": 91}, {"bend": -0.1}, {"fov_deg": 190, "bend": 0}, {"yaw_deg": float("nan")}, {"fov_deg": 2}]
)
def test_bad_views_are_refused_in_words(bad):
    with pytest.raises(ViewError) as caught:
        View(**bad)
    assert caught.value.advice


@given(st.floats(-200, 200), st.floats(0, 500), st.floats(-1, 4))
def test_a_hand_can_never_make_a_bad_view(pitch, fov, bend):
    view = within_limits(View(), pitch_deg=pitch, fov_deg=fov, bend=bend)
    widest = 2.0 * np.degrees(np.arccos(-min(view.bend, 1.0))) if view.bend <= 1.0 else 360.0
    assert -90.0 <= view.pitch_deg <= 90.0 and view.bend >= 0.0 and 5.0 <= view.fov_deg <= widest
    if -90.0 <= pitch <= 90.0 and 0.0 <= bend <= 1.0 and 5.0 <= fov <= widest - 20.0:
        assert (view.pitch_deg, view.fov_deg, view.bend) == pytest.approx((pitch, fov, bend))  # what is sound stays


def test_true_width_of_an_ordinary_view():
    # Common practice, no source: a 5.7K sphere cropped to about 110 degrees is about 1080p; 5760 x 110 / 360 = 1760.
    assert true_width_px(View(fov_deg=110), SIZE, 5760) == 1760
    assert true_width_px(View(fov_deg=110), (1280, 720), 5760) == 1280
    # A ball seen from outside shows no more of the sphere than to its rim, however wide the frame: 2 arccos(-1 / 1.25).
    rim = 2 * np.degrees(np.arccos(-1 / 1.25))
    assert true_width_px(View(fov_deg=346, bend=1.25), (8000, 4500), 5760) == round(5760 * rim / 360)

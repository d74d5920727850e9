import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from glintor.demo.day import SITE
from glintor.finding import Level
from glintor.placement import review_picture, seam
from glintor.placement.subject import Subject
from glintor.project.placed import layout_of
from glintor.project.site import Placement
from glintor.sphere.equirect import direction
from glintor.sphere.view import frame_position, in_frame


def test_worked_example():
    """Source: docs/science.md, seam: b = 25 mm, D = 0.5 m, stitched for far away: 2.9 degrees, 46 px at W = 5760."""
    assert seam.seam_offset_px(0.5, gap_m=0.025, width_px=5760) == pytest.approx(45.8, abs=0.1)
    assert np.degrees(0.025 / 0.5) == pytest.approx(2.9, abs=0.05)


@pytest.mark.parametrize("distance", [0.3, 0.5, 1.0, 2.0, 5.0])
def test_the_offset_is_the_parallax_of_two_lenses(distance):
    """Against plain trigonometry: directions to a point on the seam plane from both lens centres, b apart."""
    gap, width = 0.026, 5760
    front, rear = np.array([gap / 2, 0]), np.array([-gap / 2, 0])
    point = np.array([0.0, distance])
    angles = [np.arctan2(*(point - lens)[::-1]) for lens in (front, rear)]
    offset = abs(angles[0] - angles[1]) * width / (2 * np.pi)
    assert seam.seam_offset_px(distance, gap_m=gap, width_px=width) == pytest.approx(offset, rel=0.003)


def test_stitched_for_its_distance_nothing_breaks():
    assert seam.seam_offset_px(1.2, gap_m=0.026, width_px=5760, stitched_at_m=1.2) == 0.0


def test_near_limit_is_where_the_offset_meets_it():
    near = seam.near_limit_m(gap_m=0.026, width_px=5760)
    assert seam.seam_offset_px(near, gap_m=0.026, width_px=5760) == pytest.approx(seam.SEAM_LIMIT_PX)


@given(st.floats(-180, 180), st.floats(-60, 60), st.floats(-80, 80))
def test_the_seam_of_a_leaning_camera_is_one_great_circle(yaw, rise, pitch):
    """Directions on it are at right angles to the lens; at each height of the picture it has two yaws, or none."""
    axis = tuple(direction(yaw, rise).tolist())
    assert seam.seam_circle(axis) @ np.array(axis) == pytest.approx(0.0, abs=1e-9)
    assert seam.seam_circle(axis, 5.0) @ np.array(axis) == pytest.approx(np.sin(np.radians(5.0)))
    found = seam.seam_yaws_deg(pitch, axis)[0]
    if abs(pitch) + abs(rise) < 90.0 - 1e-6:
        assert [float(direction(y, pitch) @ np.array(axis)) for y in found] == pytest.approx([0.0, 0.0], abs=1e-9)
    elif abs(pitch) + abs(rise) > 90.0 + 1e-6:
        assert np.isnan(found).all()
    assert seam.seam_yaws_deg(pitch, (1.0, 0.0, 0.0))[0] == pytest.approx([90.0, -90.0])  # a level camera


def test_a_tear_is_the_parallax_in_the_pixels_of_the_film():
    """26 mm / 1.3 m = 0.02 rad; at 864 px a radian 17.3 px, of which an aligning stitch leaves a third (judgement)."""
    plain = seam.tear_px(1.3, gap_m=0.026, px_per_rad=864.0, left_share=seam.STITCHES["plain"])
    assert plain == pytest.approx(17.28)
    aligned = seam.tear_px(1.3, gap_m=0.026, px_per_rad=864.0, left_share=seam.STITCHES["aligning"])
    assert aligned == pytest.approx(plain / 3)


def test_the_band_is_empty_far_away_and_as_wide_as_the_overlap_near_by():
    common = {"gap_m": 0.026, "width_px": 5760, "overlap_deg": 8.0}
    assert seam.seam_band_deg(50.0, **common) == 0.0
    assert seam.seam_band_deg(0.4, **common) == 8.0
    assert 0.0 < seam.seam_band_deg(5.95, **common) < 8.0


def test_a_straight_stick_vanishes_and_a_tilted_one_to_its_length():
    """(b/2 - h) / tan(angle): 13 mm - 9 mm = 4 mm over tan 1 degree = 0.229 m."""
    assert seam.hidden_length_m(0.0, gap_m=0.026, half_thickness_m=0.009) == float("inf")
    assert seam.hidden_length_m(1.0, gap_m=0.026, half_thickness_m=0.009) == pytest.approx(
        0.004 / np.tan(np.radians(1.0))
    )
    assert seam.hidden_length_m(1.0, gap_m=0.026, half_thickness_m=0.02) == 0.0


@given(st.floats(0.1, 3.0))
def test_the_limit_angle_hides_just_the_whole_stick(length):
    limit = seam.hidden_tilt_deg(length, gap_m=0.026, half_thickness_m=0.009)
    assert seam.hidden_length_m(limit, gap_m=0.026, half_thickness_m=0.009) == pytest.approx(length, rel=1e-6)


@pytest.mark.parametrize("half", [0.03, 0.05, 0.06])
@pytest.mark.parametrize("far", [0.12, 0.25, 0.7])
@pytest.mark.parametrize("joint", [0.0, 5.0, -20.0])
def test_what_is_wider_than_the_gap_shows_by_its_excess(half, far, joint):
    """Against rays from the lens of that side to the corners of a block as long as wide at the end of the stick."""
    lens, turn = np.array([0.013, 0.0]), np.radians(abs(joint))
    middle = far * np.array([np.sin(turn), np.cos(turn)])  # across the seam, and down
    corners = middle + half * np.array([[1, 1], [1, -1]])
    down = np.degrees(np.arctan2(*(corners - lens).T))
    assert seam.excess_deg(half, far, gap_m=0.026, tilt_deg=joint) == pytest.approx(max(down.max(), 0.0), abs=1e-6)
    assert seam.excess_deg(0.010, 0.7, gap_m=0.026) == 0.0


def test_a_tear_is_told_in_the_pixels_of_where_it_lies():
    """Two lens centres projected by the frame itself, at twelve places of the subject: no scale of the middle stands for its edge."""
    site, checked = SITE, 0
    for ahead, left in [(a, b) for a in (0.9, 1.6, 2.5) for b in (-1.1, 0.4, 1.3)]:
        placement = Placement(
            stage="plain", setup="weighted_foot", ahead_m=0, left_m=0, stick_m=1.2, heading_deg=90.0,
            subjects=(Subject(name="s", what="person", ahead_m=ahead, left_m=left),),
        )  # fmt: skip
        plan = layout_of(site, placement, 720.0)
        looks = seam.seam_circle(plan.lens_axis)[:-1]
        looks = looks[in_frame(plan.start_view, (1920, 1080), looks)]
        told = review_picture._across_px(plan, looks, (1920, 1080))
        at = 3.0 * looks  # three metres away
        ends = [
            frame_position(plan.start_view, (1920, 1080), (at + s * 0.013 * plan.lens_axis) / np.linalg.norm(at + s * 0.013 * plan.lens_axis, axis=1)[:, None])
            for s in (-1, 1)
        ]  # fmt: skip
        apart = np.hypot(ends[1][0] - ends[0][0], ends[1][1] - ends[0][1])
        assert seam.tear_px(3.0, gap_m=0.026, px_per_rad=told, left_share=1.0) == pytest.approx(apart, rel=0.002)
        checked += len(looks)
    assert checked > 100


@pytest.mark.parametrize(
    ("px", "level"), [(2.9, Level.NOTE), (3.1, Level.CAUTION), (9.9, Level.CAUTION), (10.1, Level.STOP)]
)
def test_a_tear_under_three_pixels_is_a_note_and_over_ten_a_stop(px, level):
    assert review_picture._tear_level(px) is level

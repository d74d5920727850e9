import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pyproj import Proj

from glintor.sphere import lens

BENDS = st.floats(0.0, 2.0)


@given(BENDS, st.floats(0.0, 1.0))
def test_radius_and_angle_are_inverse(bend, share):
    angle = share * (lens.edge_deg(bend) / 2 - 0.6)
    assert lens.angle_deg(lens.radius(angle, bend), bend) == pytest.approx(angle, abs=1e-6)


@given(BENDS, st.floats(0.0, 1.0))
def test_field_of_view_and_focal_length_are_inverse(bend, share):
    fov = 5.0 + share * (min(lens.fov_limit_deg(bend), 340.0) - 5.0)
    assert lens.fov_of_focal(lens.focal_per_width(fov, bend), bend) == pytest.approx(fov, rel=1e-6)


@pytest.mark.parametrize(("bend", "proj"), [(0.0, "gnom"), (1.0, "stere")])
def test_matches_proj_on_the_unit_sphere(bend, proj):
    """Reference: PROJ's gnomonic and stereographic projections through pyproj, radius 1, centred on the pole."""
    project = Proj(f"+proj={proj} +lat_0=90 +R=1")
    for angle in (1.0, 20.0, 45.0, 70.0, 85.0):
        x, y = project(33.0, 90.0 - angle)
        assert lens.radius(angle, bend) == pytest.approx(np.hypot(x, y), rel=1e-9)


def test_matches_proj_seen_from_outside():
    """Reference: PROJ's nsper sees the near side from h radii above: P = 1 + h = -d on the far side of ours.

    A point at angle t from our axis lies at 180 - t from the point under a viewer behind it, at distance d > 1.
    """
    for height in (0.25, 0.6, 1.0):
        project, d = Proj(f"+proj=nsper +h={height} +lat_0=90 +R=1"), 1.0 + height
        assert lens.edge_deg(d) / 2.0 == pytest.approx(
            90.0 + np.degrees(np.arcsin(1.0 / d))
        )  # where its rays touch the ball
        for from_axis in (5.0, 30.0, 60.0, lens.edge_deg(d) / 2.0 - 0.5):
            # The far side through the ball: nsper's viewer at -d, its near side mirrored to our axis.
            k = lens.radius(from_axis, d) / (1.0 + d)  # tangent of the angle at the viewer
            x, y = project(10.0, 90.0 - _near_angle_deg(np.arctan(k), d))
            assert np.hypot(x, y) / height == pytest.approx(k, rel=1e-9)


def _near_angle_deg(off_rad: float, d: float) -> float:
    """Where a ray that leaves a viewer d from the middle at an angle first meets the unit ball, from the point under it."""
    return float(np.degrees(np.arcsin(d * np.sin(off_rad)) - off_rad))


def test_gnomonic_numbers_of_the_handbook():
    """Source: Snyder, "Map Projections: A Working Manual" (1987), eq. 22-3 (gnomonic): k' = 1 / cos c, rho = R tan c."""
    assert lens.radius(45.0, 0.0) == pytest.approx(1.0)
    assert lens.radius(60.0, 0.0) == pytest.approx(np.sqrt(3.0))


def test_stereographic_numbers_of_the_handbook():
    """Source: Snyder (1987), eq. 21-1 ff. (stereographic on the sphere): rho = 2 R tan(c/2)."""
    assert lens.radius([60.0, 90.0, 120.0], 1.0) == pytest.approx(2 * np.tan(np.radians([30.0, 45.0, 60.0])))


def test_limits_of_the_family():
    assert lens.fov_limit_deg(0.0) < 180.0
    assert 340.0 <= lens.fov_limit_deg(1.0) < 360.0
    assert np.isnan(lens.radius(120.0, 0.0))
    assert np.isnan(lens.angle_deg(10.0, 1.25))
    with pytest.raises(lens.ViewError, match="cannot be shown"):
        lens.focal_per_width(200.0, 0.0)


@given(st.floats(1.05, 2.0))
def test_beyond_the_rim_the_frame_grows_wider_than_the_ball(bend):
    rim = lens.edge_deg(bend)
    at_rim, beyond = lens.focal_per_width([rim, 360.0], bend)
    assert beyond == pytest.approx(at_rim / 2, rel=1e-6)

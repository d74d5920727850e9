import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from glintor.sphere.equirect import lonlat_deg
from glintor.sphere.rotation import view_matrix

ANGLES = st.tuples(st.floats(-400, 400), st.floats(-90, 90), st.floats(-180, 180))


@given(ANGLES)
def test_matches_scipy(angles):
    """Reference: scipy.spatial.transform, extrinsic rotations about x (roll), y (-pitch), z (-yaw) in that order."""
    yaw, pitch, roll = angles
    ours = view_matrix(yaw, pitch, roll)
    assert ours == pytest.approx(Rotation.from_euler("xyz", [roll, -pitch, -yaw], degrees=True).as_matrix(), abs=1e-9)
    assert ours @ ours.T == pytest.approx(np.eye(3), abs=1e-12)


@given(ANGLES)
def test_the_axis_looks_where_yaw_and_pitch_say(angles):
    yaw, pitch, roll = angles
    lon, lat = lonlat_deg(view_matrix(yaw, pitch, roll) @ [1.0, 0.0, 0.0])
    assert lat == pytest.approx(pitch, abs=1e-6)
    if abs(pitch) < 89.9:
        assert np.cos(np.radians(lon - yaw)) == pytest.approx(1.0)


def test_signs_of_yaw_pitch_and_roll():
    right, up = np.array([0.0, -1.0, 0.0]), np.array([0.0, 0.0, 1.0])
    assert view_matrix(90, 0, 0)[:, 0] == pytest.approx(right, abs=1e-12)
    assert view_matrix(0, 90, 0)[:, 0] == pytest.approx(up, abs=1e-12)
    # The camera turned clockwise: its own top points to the right.
    assert view_matrix(0, 0, 90)[:, 2] == pytest.approx(right, abs=1e-12)

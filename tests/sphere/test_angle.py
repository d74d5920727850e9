import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from glintor.sphere.angle import bearing_text, nearest_turn_deg, wrap_deg


@given(st.floats(-1e6, 1e6))
def test_wrapping_keeps_the_direction(angle_deg):
    assert np.cos(np.radians(wrap_deg(angle_deg) - angle_deg)) == pytest.approx(1.0)
    assert -180.0 <= wrap_deg(angle_deg) < 180.0


@given(st.floats(-2000, 2000), st.floats(-2000, 2000))
def test_nearest_turn_is_the_same_direction_within_half_a_turn(angle_deg, reference_deg):
    near = nearest_turn_deg(angle_deg, reference_deg)
    assert abs(near - reference_deg) <= 180.0 + 1e-9
    assert np.cos(np.radians(near - angle_deg)) == pytest.approx(1.0)


@pytest.mark.parametrize(
    ("bearing", "words"),
    [(0, "000 N"), (45, "045 NE"), (110, "110 E"), (359.6, "000 N"), (-90, "270 W"), (202, "202 S")],
)
def test_bearings_are_three_digits_and_a_letter(bearing, words):
    assert bearing_text(bearing) == words

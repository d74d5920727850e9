import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from glintor.sphere import equirect

LON, LAT = st.floats(-180, 180), st.floats(-90, 90)


@given(LON, LAT)
def test_direction_and_back(lon, lat):
    lon2, lat2 = equirect.lonlat_deg(equirect.direction(lon, lat))
    assert lat2 == pytest.approx(lat, abs=1e-6)
    if abs(lat) < 89.999:
        assert np.cos(np.radians(lon2 - lon)) == pytest.approx(1.0, abs=1e-9)


@given(LON, LAT)
def test_pixel_and_back(lon, lat):
    u, v = equirect.pixel(lon, lat, 5760, 2880)
    assert equirect.lonlat_of_pixel(u, v, 5760, 2880) == (pytest.approx(lon, abs=1e-9), pytest.approx(lat, abs=1e-9))


def test_pixel_centres_lie_at_half_integers():
    """The convention of the package: u = (lon/360 + 0.5) W - 0.5, v = (0.5 - lat/180) H - 0.5."""
    assert equirect.pixel(0.0, 0.0, 8, 4) == (3.5, 1.5)
    assert equirect.lonlat_of_pixel(0, 0, 8, 4) == (-157.5, 67.5)
    assert equirect.pixel(-180.0, 90.0, 8, 4) == (-0.5, -0.5)


def test_axes_of_the_body_frame():
    assert equirect.direction(0, 0) == pytest.approx([1, 0, 0])
    assert equirect.direction(90, 0) == pytest.approx([0, -1, 0], abs=1e-12)
    assert equirect.direction(-90, 0) == pytest.approx([0, 1, 0], abs=1e-12)
    assert equirect.direction(123, 90) == pytest.approx([0, 0, 1], abs=1e-12)


def test_solid_angle_of_the_rows_adds_up_to_the_sphere():
    height = 400
    pixel = (np.pi / height) ** 2
    assert (equirect.solid_angle_weight(height) * pixel * 2 * height).sum() == pytest.approx(4 * np.pi, rel=1e-5)

"""Named limits and signs of paths, joins, clocks and tracks, each by numbers written here."""

import numpy as np
import pytest

from glintor.export.soundtrack import _going_on
from glintor.project.clocks import same_moment
from glintor.project.take import Heard, Take, TakeFile
from glintor.reframing.between import drawn_back
from glintor.reframing.joins import Join, Seam
from glintor.reframing.retime import Timeline
from glintor.reframing.track import LOST, SURE, UNSURE, found_track
from glintor.sphere.lenses import Eye


def test_a_whip_is_smeared_and_nothing_else_is():
    """A whip of half a second at the end of four: its frames are the mean of moments from its own on, over half the frame's time
    (180 degrees of shutter)."""
    seam = Seam(Timeline(0.0, 4.0), None, Join(kind="whip", length_s=0.5))
    assert seam.exposed(3.7, 0.04).tolist() == [3.7]
    there = seam.exposed(3.8, 0.04)
    assert len(there) >= 5 and there[0] == pytest.approx(3.8) and there[-1] == pytest.approx(3.82)
    assert Seam(Timeline(0.0, 4.0), None, Join(kind="dip", length_s=0.5)).exposed(3.9, 0.04).tolist() == [3.9]


def test_carried_sound_is_what_comes_after_the_end():
    asked = []

    class Strand:
        ends_s, sound, plain = 3.0, "pitch", True
        footage = type("Footage", (), {"duration_s": 10.0})

        @staticmethod
        def track(start_s, end_s):
            asked.append((start_s, end_s))
            yield np.full((2, 4), start_s, np.float32)

    assert (_going_on(Strand(), 1.5) == 3.0).all() and asked == [(3.0, 4.5)]
    assert _going_on(Strand(), 0.0) is None


def test_how_much_is_zoomed_for_how_much_is_panned():
    """Source: van Wijk & Nuij (2003), equation 9: half way of a pan u between equal widths w, the width is w cosh(r0), with r0 = asinh of
    rho^2 u / (2 w); what people liked best was rho = sqrt 2 (1.42 in their trial)."""
    for angle, focal in ((1.0, 1.0), (2.0, 1.5)):
        width = 1.0 / focal
        r0 = np.arcsinh(1.42**2 * angle / (2.0 * width))
        _, log_focal = drawn_back(angle, (np.log(focal), np.log(focal)), np.array([0.5]))
        assert np.exp(-log_focal[0]) == pytest.approx(width * np.cosh(r0), rel=0.01)


@pytest.mark.parametrize(
    ("k3", "k5", "theta", "bent"), [(0.01, 0.0, 1.0, 1.01), (0.0, 0.02, 1.0, 1.02), (-0.05, 0.01, 1.5, 1.40719)]
)
def test_a_lens_bends_by_the_third_and_the_fifth_power(k3, k5, theta, bent):
    """theta + k3 theta^3 + k5 theta^5: 1.5 - 0.05 x 3.375 + 0.01 x 7.59375."""
    assert float(Eye(k3=k3, k5=k5).bent(theta)) == pytest.approx(bent, abs=1e-5)


def take(name, *heard):
    return Take(
        id=name, name=name, files=(TakeFile(lies=name),), duration_s=5000.0, width_px=5760, rate_fps=30.0, heard=heard
    )


def test_a_clock_that_drifts_is_led_there_and_back():
    """The other runs 1000 millionths faster and its zero lies at 10 s: at 1010 s of this one it shows 1001 s."""
    clock = Heard(of="b", offset_s=10.0, drift_ppm=1000.0)
    assert same_moment(take("a", clock), take("b"), 1010.0) == pytest.approx(1001.0)
    assert same_moment(take("b"), take("a", clock), 1001.0) == pytest.approx(1010.0)
    by_recorder = (
        take("c", Heard(of="r", offset_s=10.0, drift_ppm=1000.0)),
        take("d", Heard(of="r", offset_s=4.0, drift_ppm=-500.0)),
    )
    assert same_moment(*by_recorder, 1010.0) == pytest.approx(4.0 + 1001.0 / 0.9995)


def test_between_two_moments_a_track_is_as_sure_as_the_less_sure():
    track = found_track([(0.0, 0, 0, 10, SURE), (1.0, 0, 0, 10, UNSURE), (2.0, 0, 0, 10, SURE), (3.0, 0, 0, 10, LOST)])
    assert track.at(np.array([0.5, 1.5, 2.5])).state.tolist() == [UNSURE, UNSURE, LOST]

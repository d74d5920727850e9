import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from glintor.exposure import flicker, motion
from glintor.exposure.metering import Light, meter
from glintor.exposure.review import exposure_findings
from glintor.exposure.solve import ND_STOPS, Sensor, solve
from glintor.exposure.values import (
    SettingError,
    ev100,
    ev_of_luminance,
    luminance_cd_m2,
    nd_text,
    shutter_s,
    shutter_text,
)
from glintor.finding import Level

SENSOR = Sensor(f_number=2.0)
SUNNY = Light(mean=14.0, front=14.3, rear=13.7, low=10.5, high=16.0)


@pytest.mark.parametrize(
    ("n", "t", "ev"), [(16, 1 / 125, 15), (2.8, 1 / 60, 9), (1.0, 1.0, 0), (8, 1 / 60, 12), (2, 1 / 8, 5)]
)
def test_ev100_matches_apex_table(n, t, ev):
    # Source: Exif (CIPA DC-008), APEX table. Marked stops are rounded (1/60 is 1/64): allow an eighth of a stop.
    assert ev100(n, t) == pytest.approx(ev, abs=0.125)


def test_full_sun_at_f2():
    """Source: docs/science.md, exposure check: f/2.0, ISO 100, EV 15: 1/8192 s; 30 fps 1.3 degrees; 7.1 stops of ND."""
    time = shutter_s(15.0, 2.0)
    assert time == pytest.approx(1 / 8192)
    assert motion.shutter_angle_deg(30.0, time) == pytest.approx(1.3, abs=0.02)
    assert np.log2((1 / 60) / time) == pytest.approx(7.1, abs=0.01)


def test_sunny_sixteen():
    # Common practice, no source: f/16 at 1/ISO in distinct sun, which is EV 15 in the exposure guide.
    assert ev100(16.0, 1 / 125, iso=125) == pytest.approx(14.6, abs=0.1)


def test_luminance_of_the_meter_equation():
    """Source: ISO 2720:1974, L = K N^2 / (t S) with K = 12.5: EV 0 at ISO 100 is 0.125 cd/m2."""
    assert luminance_cd_m2(0.0) == pytest.approx(0.125)
    assert luminance_cd_m2(15.0) == pytest.approx(4096.0)


@given(st.floats(-5, 20))
def test_luminance_and_back(ev):
    assert ev_of_luminance(luminance_cd_m2(ev)) == pytest.approx(ev, abs=1e-9)


@given(st.floats(1.0, 22.0), st.floats(1e-4, 10.0), st.floats(50, 6400), st.floats(0, 10))
def test_setting_and_time_are_inverse(n, t, iso, nd):
    assert shutter_s(float(ev100(n, t, iso=iso, nd_stops=nd)), n, iso=iso, nd_stops=nd) == pytest.approx(t)


@pytest.mark.parametrize("bad", [(0, 1, 100), (2, 0, 100), (2, 1, -1)])
def test_settings_that_cannot_be_are_refused(bad):
    with pytest.raises(SettingError, match="above zero"):
        ev100(bad[0], bad[1], iso=bad[2])


def test_words_for_shutter_and_filter():
    assert (shutter_text(1 / 50), shutter_text(2.0), nd_text(6), nd_text(0)) == ("1/50 s", "2 s", "ND64", "none")


def test_blur_and_stutter_at_180_degrees_are_equal():
    """A steady motion at 180 degrees smears over half of each step and leaves the other half as a gap."""
    blur = motion.blur_px(30.0, 1 / 48, 19.2)
    assert blur == pytest.approx(12.0)
    assert motion.stutter_px(30.0, 24.0, 1 / 48, 19.2) == pytest.approx(blur)
    assert motion.stutter_px(30.0, 24.0, 1 / 24, 19.2) == 0.0
    assert motion.shutter_for_angle_s(24.0, 180.0) == pytest.approx(1 / 48)


def test_the_panning_rule_at_its_own_point():
    # Common practice, no source: 7 s to cross the frame at 24 fps and 180 degrees.
    assert motion.pan_limit_deg_s(70.0, 24.0, 180.0) == pytest.approx(10.0)
    assert motion.pan_limit_deg_s(70.0, 48.0, 180.0) == pytest.approx(20.0)
    assert motion.pan_limit_deg_s(70.0, 24.0, 1.0) < 5.1


def test_safe_times_on_both_mains():
    """Source: docs/science.md, flicker: 1/100 and 1/50 at 50 Hz; 1/120 and 1/60 at 60 Hz."""
    assert flicker.safe_times_s(50.0, 1 / 25) == pytest.approx([1 / 100, 1 / 50, 3 / 100, 1 / 25])
    assert flicker.safe_times_s(60.0, 1 / 60) == pytest.approx([1 / 120, 1 / 60])
    assert flicker.is_safe(50.0, 1 / 50) and not flicker.is_safe(50.0, 1 / 60) and not flicker.is_safe(50.0, 1 / 2000)


@pytest.mark.parametrize(("mains", "rate", "beat"), [(50, 25, 0), (50, 30, 10), (60, 30, 0), (60, 25, 5), (50, 24, 4)])
def test_residual_beat(mains, rate, beat):
    assert flicker.beat_hz(mains, rate) == pytest.approx(beat)


def sphere(front: float, rear: float, height: int = 90) -> np.ndarray:
    """A sphere of two even halves, in EV."""
    lon = (np.arange(2 * height) + 0.5) / (2 * height) * 360 - 180
    luma = np.where(np.abs(lon) < 90, luminance_cd_m2(front), luminance_cd_m2(rear))
    return np.repeat(np.broadcast_to(luma, (height, 2 * height))[..., None], 3, axis=-1)


def test_an_even_sphere_meters_at_its_own_light():
    light = meter(sphere(12.0, 12.0))
    assert (light.mean, light.front, light.rear) == (pytest.approx(12.0), pytest.approx(12.0), pytest.approx(12.0))
    assert light.span == pytest.approx(0.0, abs=1e-6)


def test_the_two_lenses_are_metered_apart():
    light = meter(sphere(14.0, 10.0))
    assert (light.front, light.rear) == (pytest.approx(14.0), pytest.approx(10.0))
    assert light.mean == pytest.approx(12.0) and light.step == pytest.approx(4.0)


def test_pixels_near_the_poles_count_by_their_solid_angle():
    """The cap above 60 degrees is (1 - sin 60)/2 = 6.7 % of the sphere, though a sixth of the rows."""
    picture = sphere(10.0, 10.0, 180)
    picture[:30] = luminance_cd_m2(15.0)
    assert meter(picture).mean == pytest.approx(10.0 + 5.0 * (1 - np.sin(np.radians(60))) / 2, abs=0.01)


@given(st.floats(2.0, 17.0), st.sampled_from([24.0, 25.0, 30.0, 50.0]))
def test_the_solver_exposes_right_wherever_the_camera_can(ev, rate):
    best = solve(ev, rate, SENSOR)
    reached = float(ev100(SENSOR.f_number, best.shutter_s, iso=best.iso, nd_stops=best.nd_stops))
    assert ev - reached == pytest.approx(best.error_stops, abs=1e-6)
    assert SENSOR.shutter_min_s * 0.999 <= best.shutter_s <= 1.001 / rate
    assert SENSOR.iso_min <= best.iso <= SENSOR.iso_max and best.nd_stops in ND_STOPS
    if ev > 3.0:
        assert abs(best.error_stops) < 0.01


def test_in_sun_the_solver_takes_a_filter_rather_than_a_short_shutter():
    best = solve(14.0, 24.0, SENSOR)
    assert best.nd_stops == 6.0 and 90 < motion.shutter_angle_deg(24.0, best.shutter_s) < 200
    assert solve(14.0, 24.0, SENSOR, filters=(0.0,)).shutter_s < 1 / 2000


def test_under_lamps_the_solver_keeps_to_whole_pulses():
    assert flicker.is_safe(50.0, solve(6.0, 24.0, SENSOR, mains_hz=50.0).shutter_s)


def review(light=SUNNY, **changes):
    setting = {"rate_fps": 24.0, "shutter_s": 1 / 50, "iso": 100.0, "nd_stops": 6.0, "mains_hz": 50.0} | changes
    return {f.kind: f for f in exposure_findings(light, SENSOR, **setting)}


def test_a_fitting_setting_has_nothing_to_mend():
    assert max(f.level for f in review().values()) is Level.NOTE


@pytest.mark.parametrize(
    ("changes", "kind", "level"),
    [
        ({"nd_stops": 4.0}, "brightness", Level.STOP),
        ({"shutter_s": 1 / 120, "nd_stops": 6.0}, "brightness", Level.NOTE),
        ({"nd_stops": 0.0, "shutter_s": 1 / 4000}, "stutter", Level.CAUTION),
        ({"shutter_s": 1 / 20}, "shutter", Level.STOP),
    ],
)
def test_bad_settings_are_found(changes, kind, level):
    assert review(**changes)[kind].level is level


def test_lamps_two_lights_and_wide_scenes_are_found():
    dim = Light(mean=6.0, front=6.0, rear=6.0, low=4.0, high=8.0)
    found = review(dim, shutter_s=1 / 60, iso=800.0, nd_stops=0.0)
    assert found["flicker"].value == pytest.approx(100 / 60) and found["flicker"].cure.value == pytest.approx(1 / 50)
    assert "rolls 4.0 times" in found["flicker"].reason
    still = review(dim, rate_fps=25.0, shutter_s=1 / 60, iso=800.0, nd_stops=0.0)["flicker"]
    assert "stand still" in still.reason and "0.0" not in still.measure  # 25 frames and 100 pulses keep step
    assert "flicker" not in review(dim, shutter_s=1 / 50, iso=800.0, nd_stops=0.0)
    split = Light(mean=12.0, front=14.0, rear=10.0, low=3.0, high=17.0)
    assert {"step", "span"} <= set(review(split))


def test_a_time_lapse_may_expose_longer_than_a_frame():
    assert "shutter" not in review(shutter_s=0.5, interval_s=1.0)


@pytest.mark.parametrize(("short_stops", "filter_stops"), [(0.3, 0.0), (0.6, 0.0), (0.75, 2.0), (1.2, 2.0)])
def test_a_stop_of_iso_weighs_half_of_a_stop_of_shutter_angle(short_stops, filter_stops):
    """Without a filter the time is so many stops too short; one of 2 stops brings it back and ISO makes up for the rest. The
    two cost the same at 2/3 of a stop: 0.5 x (2 - 2/3) = 2/3 (judgement of the solver, docs/science.md)."""
    ev = np.log2(4.0 * 48.0) + short_stops
    found = solve(ev, 24.0, SENSOR, filters=(0.0, 2.0))
    assert found.nd_stops == filter_stops and found.error_stops == pytest.approx(0.0, abs=1e-6)
    assert found.iso == pytest.approx(100.0 * 2.0 ** (2.0 - short_stops if filter_stops else 0.0))


@pytest.mark.parametrize(
    ("mains_hz", "rate_fps", "beat"),
    [(50.0, 24.0, 4.0), (50.0, 30.0, 10.0), (60.0, 25.0, 5.0), (50.0, 25.0, 0.0), (50.0, 240.0, 140.0)],
)
def test_the_beat_is_counted_from_the_nearest_whole_number_of_frames(mains_hz, rate_fps, beat):
    """|n x rate - 2 f| for the nearest n of at least one: at 240 frames a second a pulse of 100 Hz lasts 2.4 of them."""
    assert flicker.beat_hz(mains_hz, rate_fps) == pytest.approx(beat)

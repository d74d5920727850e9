import msgspec
import numpy as np
import pytest
from msgspec.structs import replace

from glintor.demo.day import CAMERA
from glintor.exposure.metering import meter
from glintor.exposure.noise import MID_GREY
from glintor.exposure.program import Follower, setting_for, shown_ev
from glintor.exposure.values import luminance_cd_m2
from glintor.project.model import Exposure
from glintor.recording.link import options_for
from glintor.simulation.camera import Roll
from glintor.simulation.sensor import CURVES, Finish, develop, white_gains
from tests.simulation.test_body import ROOF, recording

E = Exposure(rate_fps=24.0, shutter_s=1 / 50, iso=100.0, nd_stops=0.0)


def grey(ev: float, shape: tuple[int, int] = (8, 16)) -> np.ndarray:
    return np.full((*shape, 3), float(luminance_cd_m2(ev)), np.float32)


@pytest.mark.parametrize("program", ["auto", "iso", "shutter"])
@pytest.mark.parametrize("ev", [6.0, 9.0, 12.0])
def test_a_metered_grey_lands_on_the_curves_mid_grey(program, ev):
    exposure = msgspec.structs.replace(E, nd_stops=ev - 6.0 if program == "shutter" else 0.0)
    exposure = msgspec.structs.replace(exposure, iso=1600.0 if program == "iso" and ev < 8 else 100.0)
    setting = setting_for(program, meter(grey(ev)).mean, exposure.held, CAMERA.sensor)
    assert shown_ev(setting, exposure.held, CAMERA.sensor) == pytest.approx(ev, abs=1e-6)
    exposed = msgspec.structs.replace(exposure, shutter_s=setting.shutter_s, iso=setting.iso)
    for name, curve in CURVES.items():
        code = develop(grey(ev), CAMERA, msgspec.structs.replace(exposed, curve=name))
        assert code[0, 0, 1] == pytest.approx(255 * curve(np.full((1, 3), MID_GREY, np.float32))[0, 1], abs=1.0)


def test_priorities_keep_what_they_promise_and_offsets_brighten():
    assert setting_for("iso", 12.0, E.held, CAMERA.sensor).iso == 100.0
    assert setting_for("shutter", 8.0, E.held, CAMERA.sensor).shutter_s == 1 / 50
    bright = setting_for("auto", 12.0, E.held, CAMERA.sensor, offset_stops=1.0)
    assert bright.shutter_s == pytest.approx(2.0 * setting_for("auto", 12.0, E.held, CAMERA.sensor).shutter_s)
    dark = setting_for("auto", -2.0, E.held, CAMERA.sensor)
    assert (dark.shutter_s, dark.iso) == (1 / 48, CAMERA.iso_max)  # all that it has
    assert setting_for("iso", -2.0, E.held, CAMERA.sensor).shutter_s == 1 / 24  # a frame has no more time
    assert setting_for("auto", 5.0, E.held, CAMERA.sensor).shutter_s == 1 / 48  # before ISO rises, half of it
    assert setting_for("manual", 3.0, E.held, CAMERA.sensor) == setting_for("manual", 15.0, E.held, CAMERA.sensor)


def test_the_lag_is_of_first_order():
    follower = Follower(0.5)
    assert follower.follow(14.0, 0.0) == 14.0
    assert follower.follow(4.0, 0.5) == pytest.approx(14.0 - 10.0 * (1.0 - np.exp(-1.0)))


def test_auto_pumps_where_the_tunnel_swallows_the_light():
    """Into the dark, a lagging exposure is too dark at first and comes up again; a locked one stays as dark as it is."""
    shots = {}
    for program in ("manual", "auto"):
        roll = Roll(
            replace(
                recording("sphere-5k7", width_px=160), begins_s=8.0, options=options_for(ROOF.exposure, program=program)
            )
        )
        shots[program] = [roll.frame(n).picture.mean() for n in range(0, 240, 24)]
    auto, locked = np.array(shots["auto"]), np.array(shots["manual"])
    assert locked[-1] < 0.35 * locked[0] and auto[-1] > 2.0 * locked[-1]
    assert auto.min() < 0.9 * auto[-1] or auto.min() < 0.9 * auto[0]


def test_one_exposure_for_each_lens_leaves_a_step_at_the_seam():
    options = options_for(ROOF.exposure, program="auto", each_lens=True)
    frame = Roll(replace(recording("sphere-5k7", width_px=320), begins_s=7.0, options=options)).frame(0)
    front, back = frame.settings
    assert front != back
    together = Roll(
        replace(recording("sphere-5k7", width_px=320), begins_s=7.0, options=replace(options, each_lens=False))
    ).frame(0)
    assert together.settings[0] == together.settings[1]
    assert np.abs(frame.picture[:, 160].astype(int) - together.picture[:, 160]).mean() != 0.0


def test_white_balance_is_daylights():
    """Source: CIE 15:2004: D65 (6504 K) has x 0.3127, y 0.3290."""
    from glintor.exposure.white import daylight_xy
    from glintor.simulation.sensor import NATURAL_K

    assert daylight_xy(6504.0) == pytest.approx((0.3127, 0.3290), abs=2e-4)
    assert white_gains(NATURAL_K) == pytest.approx([1.0, 1.0, 1.0])
    cool, warm = white_gains(4000.0), white_gains(9000.0)
    assert cool[2] > 1.2 > cool[0] and warm[0] > 1.05 > warm[2]  # balanced for warm light, daylight turns blue


def test_sharpening_lifts_edges_and_hdr_holds_highlights():
    edge = np.repeat(np.where(np.arange(32) < 16, 40.0, 160.0)[None, :, None], 16, 0).repeat(3, 2).astype(np.float32)
    exposure = msgspec.structs.replace(E, shutter_s=1 / 400)
    plain, sharp = (develop(edge, CAMERA, exposure, finish=Finish(sharpen=s))[8, :, 1].astype(int) for s in (0.0, 1.0))
    assert sharp[16] > plain[16] and sharp[15] < plain[15] and (sharp[:12] == plain[:12]).all()
    ramp = (100.0 * 2.0 ** np.linspace(-4, 7, 300)).astype(np.float32)[None, :, None].repeat(3, 2)
    codes = {stops: develop(ramp, CAMERA, exposure, finish=Finish(hdr_stops=stops))[0, :, 1] for stops in (0.0, 3.0)}
    clipped = {stops: (code >= 254).sum() for stops, code in codes.items()}
    assert clipped[3.0] < 5 < 40 < clipped[0.0] and (np.diff(codes[3.0].astype(int)) >= 0).all()

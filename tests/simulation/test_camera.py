import colorsys
import threading

import msgspec
import numpy as np
import pytest

from glintor.demo.day import CAMERA, SHOTS, SITE
from glintor.errors import Cancelled, InputError
from glintor.exposure.noise import FULL_SCALE, HEADROOM_STOPS, MID_GREY
from glintor.exposure.values import ev100, luminance_cd_m2
from glintor.media.probe import probe
from glintor.media.read import ClipReader
from glintor.project.model import Exposure
from glintor.recording.link import CardGone
from glintor.reframing.track import read_track, track_file
from glintor.simulation.foresight import foresight
from glintor.simulation.onto_card import next_clip, record
from glintor.simulation.recording import Recording
from glintor.simulation.sensor import CURVES, develop, exposed, noisy, standard_curve

ROOF = next(s for s in SHOTS if s.id == "roof-cobdale")
SETTING = Exposure(shutter_s=1 / 50, iso=100.0, nd_stops=6.0)


def even(luminance: float) -> np.ndarray:
    return np.full((40, 80, 3), luminance, np.float32)


def test_the_metered_luminance_lands_on_mid_grey():
    ev = float(ev100(CAMERA.f_number, SETTING.shutter_s, iso=100.0, nd_stops=6.0))
    assert exposed(even(float(luminance_cd_m2(ev))), CAMERA, SETTING)[0, 0, 0] == pytest.approx(MID_GREY, rel=1e-5)


def test_doubling_the_time_doubles_linear_values_until_they_clip():
    longer = msgspec.structs.replace(SETTING, shutter_s=1 / 25)
    one, two = (exposed(even(1500.0), CAMERA, e) for e in (SETTING, longer))
    assert two == pytest.approx(2 * one)
    assert noisy(two * 100, 100.0, np.random.default_rng(0)).max() <= FULL_SCALE * 1.0001
    assert pytest.approx(np.log2(FULL_SCALE / MID_GREY)) == HEADROOM_STOPS


def test_noise_is_shot_noise_and_grows_with_iso():
    """Variance = signal + read^2 electrons: at mid grey 9375 electrons at ISO 100, a relative spread of 1.03 %."""
    grey = np.full((400, 400, 3), MID_GREY, np.float32)
    spreads = [noisy(grey, iso, np.random.default_rng(1)).std() / MID_GREY for iso in (100.0, 1600.0)]
    electrons = 150_000 / 2**HEADROOM_STOPS
    assert spreads[0] == pytest.approx(np.sqrt(electrons + 81) / electrons, rel=0.02)
    assert spreads[1] == pytest.approx(np.sqrt(electrons / 16 + 81) / (electrons / 16), rel=0.02)


@pytest.mark.parametrize("name", CURVES)
def test_curves_rise_from_black_to_white(name):
    ramp = np.repeat(np.linspace(0, FULL_SCALE, 400, dtype=np.float32)[:, None], 3, axis=1)
    codes = CURVES[name](ramp)
    assert (np.diff(codes[:, 1]) >= -1e-6).all() and codes.min() >= 0.0
    assert codes[-1, 1] == pytest.approx(1.0 if name != "log" else (np.log2(FULL_SCALE) + 9.72) / 17.52, abs=0.01)


def test_mid_grey_is_a_middle_code_and_log_holds_equal_stops():
    assert 0.38 < standard_curve(np.full((1, 3), MID_GREY, np.float32))[0, 0] < 0.50
    stops = MID_GREY * 2.0 ** np.arange(-4, 4, dtype=np.float32)
    log = CURVES["log"](np.repeat(stops[:, None], 3, 1))[:, 0]
    assert np.diff(log) == pytest.approx(np.full(7, 1 / 17.52), abs=1e-5)
    assert log[4] == pytest.approx(0.4135884, abs=1e-5)  # source: Academy S-2016-001, table of 18 % grey
    colour = np.array([[0.3, 0.1, 0.1]], np.float32)
    saturation = {n: colorsys.rgb_to_hsv(*map(float, CURVES[n](colour)[0]))[1] for n in ("standard", "vivid")}
    assert saturation["vivid"] > saturation["standard"]


def test_an_unknown_curve_is_refused():
    with pytest.raises(InputError, match="standard"):
        develop(even(100.0), CAMERA, msgspec.structs.replace(SETTING, curve="film"))


def recording(film_s: float = 0.25, **exposure) -> Recording:
    shot = msgspec.structs.replace(ROOF, exposure=msgspec.structs.replace(ROOF.exposure, **exposure))
    return Recording(shot, SITE, CAMERA, film_s, 320, seed=5)


def test_a_take_is_a_film_with_sound_and_its_track(tmp_path):
    shares = []
    file = record(recording(), tmp_path, report=shares.append)
    clip = tmp_path / file.path
    info = probe(clip)
    assert (info.width_px, info.height_px, info.frames, info.has_sound) == (
        320,
        160,
        6,
        True,
    ) and info.coverage is not None
    assert file.size_bytes == clip.stat().st_size and file.exposure.shutter_s == ROOF.exposure.shutter_s
    track = read_track(track_file(clip))
    assert len(track.time_s) == 6 and track.distance_m == pytest.approx(np.full(6, 3.25), abs=0.1)
    assert shares[-1] == 1.0
    assert next_clip(tmp_path).name == "clip-0002.mp4"


def test_the_chosen_setting_is_the_one_that_is_recorded(tmp_path):
    """Two stops more filter: the recorded picture gets darker by what the curve makes of two stops."""
    means = []
    for nd in (6.0, 8.0):
        file = record(recording(1 / 24, nd_stops=nd), tmp_path)
        with ClipReader(tmp_path / file.path) as reader:
            means.append(float(next(reader.frames()).picture.y.mean()))
    assert means[0] > 1.5 * means[1]


def test_a_take_can_be_recorded_again_exactly(tmp_path):
    files = [record(recording(2 / 24), tmp_path) for _ in range(2)]
    frames = []
    for file in files:
        with ClipReader(tmp_path / file.path) as reader:
            frames.append([d.picture.y.copy() for d in reader.frames()])
    assert all((a == b).all() for a, b in zip(*frames, strict=True))


def test_a_time_lapse_leaps_by_its_interval():
    lapse = recording(interval_s=2.0)
    assert [lapse.moment_s(n) for n in (0, 1, 5)] == [0.0, 2.0, 10.0]
    assert recording().moment_s(12) == pytest.approx(0.5)


def test_cancel_leaves_nothing_on_the_card(tmp_path):
    stop = threading.Event()
    with pytest.raises(Cancelled):
        record(recording(1.0), tmp_path, report=lambda share: stop.set() if share > 0.1 else None, stop=stop)
    assert [p for p in tmp_path.rglob("*") if p.is_file()] == []


def test_no_card_is_said(tmp_path):
    with pytest.raises(CardGone, match="no card"):
        record(recording(), tmp_path / "none")


def test_foresight_shows_what_would_be_recorded(tmp_path):
    picture, luminance, truth = foresight(ROOF, SITE, CAMERA, 320)
    file = record(recording(1 / 24), tmp_path)
    from glintor.pixels import colour

    with ClipReader(tmp_path / file.path) as reader:
        recorded = colour.rgb(next(reader.frames()).picture)
    assert np.abs(recorded.astype(int) - picture.astype(int)).mean() < 6.0
    assert luminance.shape == (160, 320, 3) and abs(truth.subject_yaw_deg) < 15

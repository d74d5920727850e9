import shutil

import numpy as np
import pytest
from msgspec.structs import replace

from glintor.demo.day import CAMERA, SHOTS, SITE
from glintor.exposure.modes import MODES
from glintor.media.picture import read_sphere
from glintor.media.probe import probe
from glintor.offload.copy import file_hash
from glintor.recording.link import BatteryLow, Busy, CardFull, CardGone, NotPossible, Options, TooHot, options_for
from glintor.recording.power import HOT_C, Body, battery_min, card_min
from glintor.simulation.body import Faults, SimulatedCamera
from glintor.simulation.recording import Recording

ROOF = next(s for s in SHOTS if s.id == "roof-cobdale")


def recording(mode: str = "sphere-5k7", *, film_s: float = 0.25, width_px: int = 160, **fields: object) -> Recording:
    rated = replace(ROOF.exposure, rate_fps=(MODES[mode].rates_fps or (24.0,))[0])
    options = options_for(rated, MODES[mode])
    return Recording(ROOF, SITE, CAMERA, film_s, width_px, seed=5, options=options, **fields)


@pytest.fixture
def card(tmp_path):
    folder = tmp_path / "card"
    folder.mkdir()
    return folder


def test_a_take_from_start_to_fetch(card, tmp_path):
    camera = SimulatedCamera(recording(), card, card_bytes=1e8)  # less than any disk has: others write there meanwhile
    before = camera.state()
    camera.start()
    file = camera.wait()
    assert not camera.state().recording and camera.ended_because == ""
    assert [f.name for f in camera.list()] == ["clip-0001.mp4"] and file.film_s == 0.25
    after = camera.state()
    assert after.battery_share < before.battery_share and after.card_left_min <= before.card_left_min
    copy = camera.fetch("clip-0001.mp4", tmp_path / "safe")
    assert probe(copy).duration_s == pytest.approx(0.25, abs=0.05)
    for suffix in (".track.csv", ".inertial.csv", ".gpx"):
        assert copy.with_suffix(suffix).read_bytes() == (card / "clips" / copy.name).with_suffix(suffix).read_bytes()
    with pytest.raises(CardGone, match="no clip-0009"):
        camera.fetch("clip-0009.mp4", tmp_path)


def test_stop_keeps_what_was_recorded_and_busy_is_said(card):
    camera = SimulatedCamera(recording(film_s=60.0), card)
    camera.start()
    with pytest.raises(Busy):
        camera.start()
    with pytest.raises(Busy):
        camera.set_options(Options())
    file = camera.stop()
    assert file.size_bytes > 0 and camera.ended_because == "it was stopped"
    assert probe(card / "clips" / file.name).duration_s < 59.0


def test_the_same_take_can_be_recorded_again_exactly(card):
    hashes = set()
    for _ in range(2):
        camera = SimulatedCamera(recording(), card)
        camera.start()
        hashes.add(file_hash(card / camera.wait().path))
    assert len(hashes) == 1


@pytest.mark.parametrize(
    ("words", "changes"),
    [
        ("the card is full", {"card_bytes": 201_000}),
        ("the battery ran flat", {"body": Body(charge=0.0201), "air_c": -10.0}),
        ("it grew too hot", {"body": Body(inner_c=HOT_C), "air_c": 40.0}),
    ],
)
def test_card_battery_and_heat_end_a_recording_and_keep_it(card, words, changes):
    camera = SimulatedCamera(recording("lapse", film_s=4.0), card, **changes)
    if "card_bytes" in changes:
        camera._recording = replace(camera._recording, camera=_slow())
    camera.set_options(options_for(replace(ROOF.exposure, interval_s=1.0), MODES["lapse"]))
    camera.start()
    file = camera.wait()
    assert camera.state().ended == words and 0 < file.film_s < 4.0
    assert (card / file.path).exists()


def _slow():
    import msgspec

    return msgspec.structs.replace(CAMERA, mbit_s=0.1)


def test_a_pulled_card_and_write_errors_leave_no_half_clip(card):
    for faults, words in ((Faults(card_pulled_s=0.1), "pulled"), (Faults(card_refuses_s=0.1), "refuses")):
        camera = SimulatedCamera(recording(), card, faults=faults)
        camera.start()
        with pytest.raises(CardGone, match=words) as told:
            camera.wait()
        assert told.value.unharmed and told.value.advice and camera.list() == ()
        assert list((card / "clips").iterdir()) == []
    shutil.rmtree(card)
    assert camera.state().card_free_bytes == 0.0
    with pytest.raises(CardGone):
        camera.list()


def test_what_a_camera_refuses(card):
    with pytest.raises(BatteryLow):
        SimulatedCamera(recording(), card, body=Body(charge=0.0)).start()
    with pytest.raises(CardFull):
        SimulatedCamera(recording(), card, card_bytes=1000).start()
    camera = SimulatedCamera(recording(), card)
    for options, words in (
        (Options(MODES["sphere-3k"]), "24 fps"),
        (Options(MODES["single-150"], program="auto", each_lens=True), "one exposure"),
        (Options(offset_stops=1.0), "offset"),
        (Options(MODES["bracket"], bracket_frames=4), "bracket"),
        (options_for(replace(ROOF.exposure, interval_s=500.0), MODES["lapse"]), "interval"),
    ):
        with pytest.raises(NotPossible, match=words):
            camera.set_options(options)
    with pytest.raises(NotPossible, match="takes no pictures"):
        camera.take_picture()
    camera.set_options(options_for(ROOF.exposure, MODES["photo"]))
    with pytest.raises(NotPossible, match="no films"):
        camera.start()
    camera._body = Body(inner_c=61.0, hot=True)
    with pytest.raises(TooHot):
        camera.take_picture()
    camera.rest(60.0)
    assert len(camera.take_picture()) == 1


def test_a_bracket_is_photos_whole_stops_apart(card):
    camera = SimulatedCamera(recording("bracket", width_px=320), card)
    files = camera.take_picture()
    means = [read_sphere(card / "photos" / f.name)[0].mean() for f in files]
    assert len(files) == 3 and means == sorted(means) and means[2] > 1.5 * means[0]
    rows = (card / "photos" / "bracket-0001.csv").read_text().splitlines()
    times = [float(row.split(",")[1]) for row in rows[1:]]
    assert np.log2(np.divide(times[1:], times[:-1])) == pytest.approx([2.0, 2.0])
    camera.set_options(
        options_for(replace(ROOF.exposure, shutter_s=1 / 1000), MODES["bracket"], bracket_frames=9, bracket_stops=1.0)
    )
    with pytest.raises(NotPossible, match="shortest is 1/8000 s"):
        camera.take_picture()
    assert len(camera.list()) == 3


def test_budgets():
    """Common practice, no source: about 80 minutes on a full battery, less in the cold and with wireless on."""
    assert battery_min(20.0, wireless=False) == 80.0
    assert battery_min(0.0, wireless=True) == pytest.approx(80 * 0.75 * 0.85)
    assert card_min(128e9, 100.0) == pytest.approx(170.67, abs=0.01)  # GB x 8000 / Mbit/s / 60
    hour = Body().after(40.0, 20.0, recording=True, wireless=False)
    assert hour.charge == pytest.approx(0.5) and hour.inner_c < HOT_C
    hot = Body().after(40.0, 38.0, recording=True, wireless=False)
    assert hot.inner_c > HOT_C and hot.hot and hot.after(3.0, 20.0, recording=False, wireless=False).hot
    assert not hot.after(60.0, 20.0, recording=False, wireless=False).hot

"""One take from the button to the log, with the simulated camera and with one that is nothing but answers."""

import threading

import numpy as np
import pytest
from msgspec.structs import replace

from glintor.demo.day import CAMERA, SHOTS, SITE
from glintor.errors import Cancelled
from glintor.media.read import ClipReader
from glintor.recording.link import BatteryLow, CardFile, Options, State, options_for
from glintor.recording.session import roll
from glintor.simulation.body import Faults, SimulatedCamera
from glintor.simulation.recording import Recording

ROOF = replace(next(s for s in SHOTS if s.id == "roof-cobdale"), takes=())


class Answering:
    """A camera over a wire that tells little: a name and a size, and its clock two minutes ahead."""

    def __init__(self, program="manual", ends_after=3):
        self.asked, self.kept, self.ends_after = 0, True, ends_after
        self._options = options_for(ROOF.exposure, program=program)

    def options(self) -> Options:
        return self._options

    def start(self):
        self.asked = 0

    def state(self) -> State:
        self.asked += 1
        return State(
            self.asked < self.ends_after, 0.8, 60.0, 30.0, 1e9, 10.0, 120.0, self.asked * 0.5, "its card is full"
        )

    def stop(self) -> CardFile:
        return CardFile("DCIM/A1.MP4", 1234, began_min=722.0)

    def discard(self):
        self.kept = False


@pytest.mark.parametrize(("program", "exposure"), [("manual", ROOF.exposure), ("auto", None)])
def test_a_camera_that_tells_little_gives_a_take_that_says_no_more(program, exposure):
    shares = []
    rolled = roll(Answering(program), ROOF, CAMERA, film_s=2.0, report=shares.append)
    take = rolled.take
    assert rolled.ended == "its card is full" and shares == [0.25, 0.5, 1.0]
    assert (take.files[0].card, take.files[0].size_bytes, take.camera) == ("DCIM/A1.MP4", 1234, "camera")
    assert take.exposure == exposure and take.began_min == 720.0 and take.start_min == 722.0
    assert take.width_px == 5760 and take.placement == ROOF.placement


def test_ending_keeps_a_take_and_cancelling_does_not():
    end, stop = threading.Event(), threading.Event()
    end.set()
    assert roll(Answering(ends_after=10**9), ROOF, CAMERA, film_s=9.0, end=end).take.files
    stop.set()
    link = Answering(ends_after=10**9)
    with pytest.raises(Cancelled):
        roll(link, ROOF, CAMERA, film_s=9.0, stop=stop)
    assert not link.kept


def test_the_camera_records_with_what_it_was_set_to_and_the_log_says_so(tmp_path):
    """Not with the shot's own exposure: two stops less light, another rate, another curve."""
    luma, logged = [], []
    for exposure in (ROOF.exposure, replace(ROOF.exposure, nd_stops=8.0, rate_fps=25.0)):
        camera = SimulatedCamera(Recording(ROOF, SITE, CAMERA, 0.08, 160, seed=5), tmp_path)
        camera.set_options(options_for(exposure))
        shown = camera.preview(160).mean()
        take = roll(camera, ROOF, CAMERA, film_s=0.08).take
        with ClipReader(tmp_path / take.files[0].card) as reader:
            luma.append((float(next(reader.frames()).picture.y.mean()), shown))
        logged.append((take.exposure, take.rate_fps, take.kind))
    assert np.all(np.array(luma[0]) > 1.5 * np.array(luma[1]))
    assert [one[1:] for one in logged] == [(24.0, "film"), (25.0, "film")] and logged[1][0].nd_stops == 8.0


def test_a_time_lapse_is_logged_as_one_and_what_ends_a_take_is_raised(tmp_path):
    lapse = replace(ROOF.exposure, interval_s=2.0)
    camera = SimulatedCamera(Recording(replace(ROOF, exposure=lapse), SITE, CAMERA, 0.1, 160, seed=5), tmp_path)
    take = roll(camera, ROOF, CAMERA, film_s=0.1).take
    assert take.kind == "lapse" and take.exposure.interval_s == 2.0
    camera = SimulatedCamera(
        Recording(ROOF, SITE, CAMERA, 0.5, 160, seed=5), tmp_path, faults=Faults(card_pulled_s=0.1)
    )
    with pytest.raises(Exception, match="pulled out"):
        roll(camera, ROOF, CAMERA, film_s=0.5)
    camera._body = replace(camera.body, charge=0.0)
    with pytest.raises(BatteryLow):
        roll(camera, ROOF, CAMERA, film_s=0.5)

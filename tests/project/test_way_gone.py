"""The way of travel by a GPX beside a clip: bearings against PROJ's geodesics, and used where north is known."""

from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from msgspec.structs import replace
from pyproj import Geod

from glintor.errors import InputError
from glintor.project.followed import Around
from glintor.project.take import Take, TakeFile
from glintor.project.way_gone import way_gone
from glintor.reframing.anchor import Spot
from glintor.sphere.steady import Orientation
from tests.conftest import make_clip

START = datetime(2026, 3, 4, 1, 2, 3, tzinfo=UTC)


def walk(folder, name, legs, *, noise_m=0.0, begins=START):
    """A GPX of a place a second along legs of (bearing, metres a second, seconds); places by PROJ."""
    geod, rng = Geod(ellps="WGS84"), np.random.default_rng(4)
    lon, lat, at, points = 174.7, -41.2, begins, []
    for bearing, speed, seconds in legs:
        for _ in range(seconds):
            lon, lat, _ = geod.fwd(lon, lat, bearing, speed)
            seen = (
                geod.fwd(lon, lat, float(rng.uniform(0, 360)), float(abs(rng.normal(0.0, noise_m))))
                if noise_m
                else (lon, lat)
            )
            points.append(
                f'<trkpt lat="{seen[1]:.8f}" lon="{seen[0]:.8f}"><time>{at:%Y-%m-%dT%H:%M:%SZ}</time></trkpt>'
            )
            at += timedelta(seconds=1)
    (folder / name).write_text(
        '<gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>'
        + "".join(points)
        + "</trkseg></trk></gpx>"
    )


@pytest.fixture
def take(tmp_path):
    clip = make_clip(tmp_path / "REC_0012_001.mp4", frames=4)
    file = TakeFile(copy=str(clip), size_bytes=clip.stat().st_size)
    return Take(id="t", name="t", files=(file,), duration_s=40.0, width_px=320, rate_fps=24.0, began=START.isoformat())


def test_it_is_the_bearing_that_was_walked_whatever_the_receiver_jumps(tmp_path, take):
    project = tmp_path / "day.glintor"
    assert way_gone(project, take) is None
    walk(tmp_path, "REC_0012.GPX", [(350.0, 1.4, 20), (80.0, 1.4, 20)])
    (tmp_path / "REC_0012.GPX").rename(tmp_path / "rec_0012.gpx")
    assert way_gone(project, take) is not None  # in any case of letters
    (tmp_path / "rec_0012.gpx").rename(tmp_path / "REC_0012.GPX")
    gone = way_gone(project, take)
    at = lambda t: float(np.interp(t, gone.time_s, gone.bearing_deg)) % 360.0  # noqa: E731
    assert (at(8.0), at(32.0)) == pytest.approx((350.0, 80.0), abs=0.5)
    assert -10.0 < np.interp(20.0, gone.time_s, gone.bearing_deg) < 80.0  # over north, not all the way back
    walk(tmp_path, "REC_0012.GPX", [(350.0, 1.4, 20), (80.0, 1.4, 20)], noise_m=0.8)
    gone = way_gone(project, take)
    off = (np.interp(np.arange(5.0, 15.0), gone.time_s, gone.bearing_deg) - 350.0 + 180.0) % 360.0 - 180.0
    assert np.sqrt((off**2).mean()) < 25.0
    walk(tmp_path, "REC_0012.GPX", [(0.0, 0.0, 40)], noise_m=0.3)
    assert way_gone(project, take) is None  # who stands goes nowhere
    (tmp_path / "REC_0012.GPX").write_text("no track")
    assert way_gone(project, take) is None


def test_its_clock_is_laid_on_the_clips_and_it_is_used_where_north_is_known(tmp_path, take):
    project = tmp_path / "day.glintor"
    walk(tmp_path, "REC_0012.GPX", [(10.0, 2.0, 30), (100.0, 2.0, 40)], begins=START - timedelta(seconds=15))
    still = Orientation(np.array([0.0, 40.0]), np.tile([0.0, 0.0, 0.0, 1.0], (2, 1)), np.ones(2), made_by="hand")
    north = replace(take, north=Spot(time_s=0.0, yaw_deg=30.0, pitch_deg=0.0))
    around = Around(project, north, orientation=still)
    way = around.travel_deg - 30.0  # the picture's middle is 30 degrees left of north
    at = lambda t: float(np.interp(t, around.times, way)) % 360.0  # noqa: E731
    assert (at(5.0), at(30.0)) == pytest.approx((10.0, 100.0), abs=1.0)  # it turns 15 s into the clip
    for wrong, words in (
        (Around(project, take, orientation=still), "where north is"),
        (Around(project, north), "not known yet"),
    ):
        with pytest.raises(InputError, match=words):
            _ = wrong.travel_deg

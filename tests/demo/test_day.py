import errno
from xml.etree import ElementTree

import msgspec
import pytest
from scipy.signal import correlate, correlation_lags

from glintor.demo.day import BRACKET, CLIPS, DAY_CLIPS, SECOND_CLOCK, SHOTS, SITE, record_clip, write_demo_day
from glintor.files import WriteError, file_hash
from glintor.finding import Level
from glintor.media.inertial import inertial_file, read_log
from glintor.media.probe import probe
from glintor.media.sound import whole_sound
from glintor.project.store import ProjectError, read_project, write_project
from glintor.recording.power import card_min
from glintor.reframing.track import read_track, track_file
from glintor.review import findings
from glintor.simulation.route import route_file


@pytest.mark.parametrize("clip", DAY_CLIPS, ids=lambda clip: str(clip.number))
def test_the_shipped_clips_are_whole(clip):
    info = probe(clip.file)
    assert info.width_px == clip.width_px and info.coverage is not None
    assert info.frames == round(clip.film_s * clip.shot.exposure.rate_fps) and info.duration_s >= 6.0
    assert whole_sound(clip.file).shape[1] == pytest.approx(info.duration_s * 48000, abs=2048)
    assert len(read_track(track_file(clip.file)).time_s) == info.frames
    route = ElementTree.parse(route_file(clip.file)).getroot().findall(".//{*}trkpt")
    assert len(route) >= 6 and float(route[0].get("lat")) == pytest.approx(SITE.lat_deg, abs=0.01)
    if clip.shot.exposure.interval_s == 0:
        assert len(read_log(inertial_file(clip.file)).time_s) == round(info.duration_s * 200) + 1


def test_the_day_is_filmed_from_six_places_by_two_cameras():
    assert len({(c.shot_id, c.card) for c in DAY_CLIPS}) >= 6 and {c.card for c in DAY_CLIPS} == {"card", "card-2"}
    assert all((CLIPS / name).exists() for name in BRACKET)


def test_the_horn_is_in_both_films_of_the_lock():
    """Two cameras with their own clocks: the horn lies where each began, by correlation of the shipped sound."""
    first, second = (next(c for c in DAY_CLIPS if c.number == n) for n in (5, 101))
    sounds = [whole_sound(c.file).mean(axis=0) for c in (first, second)]
    peak = correlate(*sounds, method="fft").argmax()
    found = correlation_lags(len(sounds[0]), len(sounds[1]))[peak] / 48000
    assert found == pytest.approx(second.begins_s - first.begins_s, abs=1 / 24 / 20)
    clocks = [c.clock.shown_s(c.begins_s) for c in (first, second)]
    assert clocks[1] - clocks[0] - found == pytest.approx(SECOND_CLOCK.offset_s, abs=1 / 24)


def test_the_clips_stay_small():
    assert sum(p.stat().st_size for p in CLIPS.iterdir()) < 25e6


def test_the_shipped_clips_are_what_the_simulation_records(tmp_path):
    """The first moment of a shipped clip against the same moment recorded now, small."""
    import cv2

    from glintor.media.read import ClipReader

    clip = next(c for c in DAY_CLIPS if c.shot_id == "roof-cobdale")
    file = record_clip(clip, tmp_path, width_px=640, film_s=1 / 24)
    with ClipReader(tmp_path / file.path) as now, ClipReader(clip.file) as shipped:
        a, b = next(now.frames()).picture.y, next(shipped.frames()).picture.y
        small = cv2.resize(b, (640, 320), interpolation=cv2.INTER_AREA)
        assert abs(a.astype(int) - small.astype(int)).mean() < 8.0


def test_the_day_has_something_on_every_desk(day):
    project = read_project(day)
    assert [s.id for s in project.shots] == [s.id for s in SHOTS] and len(project.shots) == 6
    takes = [t for s in project.shots for t in s.takes]
    assert len(takes) == len(DAY_CLIPS) and sum(not t.files[0].copy for t in takes) == 2
    for take in takes:
        if take.files[0].copy and take.files[0].card:
            assert (
                file_hash(day.parent / take.files[0].copy)
                == take.files[0].xxh64
                == file_hash(day.parent / "card" / take.files[0].card)
            )
    assert {c.name for s in project.shots for c in s.cuts} == {"Down to earth", "Into the dark"}
    assert list((day.parent / "footage" / "ascmhl").glob("*.mhl"))


def test_the_day_shows_findings_of_every_kind(day):
    project = read_project(day)
    found = [f for s in project.shots for f in findings(project, s, day)]
    kinds = {f.kind for f in found}
    assert {"seam", "tilt", "shadow", "clearance", "brightness", "pan", "unsafe"} <= kinds
    assert {f.level for f in found} == set(Level)


def test_writing_the_day_again_keeps_what_is_there(demo_folder):
    before = {p: p.stat().st_mtime_ns for p in demo_folder.rglob("*.mp4")}
    write_demo_day(demo_folder)
    assert {p: p.stat().st_mtime_ns for p in demo_folder.rglob("*.mp4")} == before


def test_minutes_on_a_card():
    """Source: docs/science.md, budgets: minutes = GB x 8000 / Mbit/s / 60; 128 GB at 100 Mbit/s is 171 minutes."""
    assert card_min(128e9, 100.0) == pytest.approx(170.7, abs=0.1)


def test_a_day_that_somebody_worked_on_is_never_reset(day):
    project = read_project(day)
    write_project(day, msgspec.structs.replace(project, shots=project.shots[:2]))
    before = day.read_bytes()
    assert write_demo_day(day.parent) == day and day.read_bytes() == before
    day.write_bytes(b"damaged")
    with pytest.raises(ProjectError):
        write_demo_day(day.parent)
    assert day.read_bytes() == b"damaged"


def test_a_full_disk_is_said_and_leaves_no_half_clip(tmp_path, monkeypatch):
    def full(_origin, target):
        target.write_bytes(b"half")
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr("glintor.demo.day.shutil.copyfile", full)
    with pytest.raises(WriteError, match="No space left"):
        write_demo_day(tmp_path / "day")
    assert not [p for p in (tmp_path / "day").rglob("*") if p.is_file()]

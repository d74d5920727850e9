import pytest

from glintor.demo.day import CLIPS, FILM_S, SHOTS, record_clip, write_demo_day
from glintor.finding import Level
from glintor.media.probe import probe
from glintor.media.sound import whole_sound
from glintor.offload.copy import file_hash
from glintor.project.store import read_project
from glintor.recording.checks import card_minutes, pre_roll
from glintor.reframing.track import read_track, track_file
from glintor.review import findings, placing


@pytest.mark.parametrize("shot_id", FILM_S)
def test_the_shipped_clips_are_whole(shot_id):
    clip = CLIPS / f"clip-{list(FILM_S).index(shot_id) + 1:04d}.mp4"
    info = probe(clip)
    assert info.width_px >= 1920 and info.coverage is not None and info.duration_s >= 12.0
    assert info.frames == round(FILM_S[shot_id] * 24)
    assert whole_sound(clip).shape[1] == pytest.approx(info.duration_s * 48000, abs=2048)
    assert len(read_track(track_file(clip)).time_s) == info.frames


def test_the_clips_stay_small():
    assert sum(p.stat().st_size for p in CLIPS.iterdir()) < 25e6


def test_the_shipped_clips_are_what_the_simulation_records(tmp_path, monkeypatch):
    """The first moment of a shipped clip against the same moment recorded now, small."""
    import cv2

    from glintor.media.read import ClipReader

    monkeypatch.setitem(FILM_S, "roof-cobdale", 1 / 24)
    take = record_clip("roof-cobdale", tmp_path, width_px=640)
    with ClipReader(tmp_path / take.card_file) as now, ClipReader(CLIPS / "clip-0002.mp4") as shipped:
        a, b = next(now.frames()).picture.y, next(shipped.frames()).picture.y
        small = cv2.resize(b, (640, 320), interpolation=cv2.INTER_AREA)
        assert abs(a.astype(int) - small.astype(int)).mean() < 8.0


def test_the_day_has_something_on_every_desk(day):
    project = read_project(day)
    assert [s.id for s in project.shots] == [s.id for s in SHOTS] and len(project.shots) == 6
    takes = [t for s in project.shots for t in s.takes]
    assert len(takes) == 3 and [bool(t.safe_file) for t in takes] == [True, True, False]
    for take in takes:
        if take.safe_file:
            assert (
                file_hash(day.parent / take.safe_file) == take.xxh64 == file_hash(day.parent / "card" / take.card_file)
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


def test_the_pre_roll_list_is_made_for_the_shot(day):
    project = read_project(day)
    shot = project.shot("stern-third-person")
    checks = pre_roll(placing(project, shot), day.parent / "card", project.camera, 1.0)
    assert checks[0].what == "Card" and checks[0].level is Level.NOTE
    assert any(c.level is Level.STOP for c in checks[1:])
    gone = pre_roll([], day.parent / "nowhere", project.camera, 1.0)
    assert gone[0].level is Level.STOP and "No card" in gone[0].words


def test_minutes_on_a_card():
    """Source: docs/science.md, budgets: minutes = GB x 8000 / Mbit/s / 60; 128 GB at 100 Mbit/s is 171 minutes."""
    assert card_minutes(128e9, 100.0) == pytest.approx(170.7, abs=0.1)

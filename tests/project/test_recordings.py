"""Recordings that nobody planned: found, told apart, taken in where they lie; nothing is made up about them."""

import shutil

import pytest
from msgspec.structs import replace
from PIL import Image

from glintor.cli import main
from glintor.demo.day import write_demo_day
from glintor.errors import InputError
from glintor.media.picture import write_picture
from glintor.media.together import recordings_in
from glintor.project.facts import UNKNOWN, facts_of
from glintor.project.identity import proven_clips
from glintor.project.placed import layout_of_take
from glintor.project.recordings import begin_day, look_at, with_recordings, without_take
from glintor.project.store import clip_files, read_project, write_project
from glintor.review import findings
from tests.conftest import DATA, make_clip, smooth_sphere


@pytest.fixture
def own(tmp_path):
    """A folder with what a stranger has: a film, a photo, bare lenses, sound, a flat film, a broken one, notes."""
    folder = tmp_path / "own"
    (folder / ".thumbs").mkdir(parents=True)
    make_clip(folder / "walk.MP4", frames=12)
    write_picture(folder / "place.png", smooth_sphere(256))
    make_clip(folder / "flat.mp4", width=320, height=180, frames=4)
    for name in ("pair-1.mp4", "pair-2.mp4"):
        shutil.copy(DATA / name, folder)
    (folder / "voice.flac").write_bytes(b"fLaC")
    (folder / "torn.mov").write_bytes(b"no film")
    (folder / "notes.txt").write_text("mine")
    shutil.copy(folder / "walk.MP4", folder / ".thumbs" / "hidden.mp4")
    return folder


@pytest.fixture
def begun(monkeypatch, tmp_path):
    from datetime import date

    monkeypatch.setenv("XDG_DOCUMENTS_DIR", str(tmp_path / "documents"))
    return begin_day(date(2026, 11, 27))


def test_a_folder_is_looked_through_and_each_kind_is_told_by_name(own, tmp_path):
    files = recordings_in([own, own / "walk.MP4"])
    assert [f.name for f in files] == [
        "flat.mp4",
        "pair-1.mp4",
        "pair-2.mp4",
        "place.png",
        "torn.mov",
        "voice.flac",
        "walk.MP4",
    ]
    found = look_at(tmp_path / "day.glintor", files)
    assert {(t.name, t.kind, t.told) for t in found.takes} == {
        ("walk", "film", ""),
        ("place", "photo", ""),
        ("pair-1", "film", "side"),
        ("pair-2", "film", "streams"),
    }
    assert [r.files[0].name for r in found.flat] == ["flat.mp4"] and not found.unsure
    said = " ".join(e.what for e in found.refused)
    assert "voice.flac cannot be read as sound" in said and "torn.mov cannot be read" in said
    half = look_at(tmp_path / "day.glintor", [own / "flat.mp4"], told="half").takes[0]
    assert half.told == "half" and half.width_px == 640  # of the whole sphere


def test_a_dark_sphere_is_not_taken_for_two_lenses(tmp_path):
    dark = (smooth_sphere(256) // 12).astype("uint8")
    write_picture(tmp_path / "night.png", dark)
    shutil.copy(DATA / "forest-sphere.jpg", tmp_path)
    assert len(look_at(tmp_path / "d.glintor", recordings_in([tmp_path])).takes) == 2


def test_nothing_is_known_that_nobody_said(own, begun, capsys):
    project = read_project(begun)
    takes = look_at(begun, [own / "walk.MP4", own / "place.png"]).takes
    project, first = with_recordings(project, takes)
    assert [s.name for s in project.shots] == ["walk", "place"] and first == ("shot", project.shots[0].takes[0].id)
    assert not project.planned and not project.site.known
    for shot in project.shots:
        take, cut = shot.takes[0], shot.cuts[0]
        assert (take.placement, take.exposure, take.start_min, layout_of_take(project, take)) == (None,) * 4
        assert cut.take_id == take.id and cut.out_s == take.duration_s and len(cut.keys) == 1
        known = {fact.name: fact for fact in facts_of(project, take)}
        for name in ("Filmed at", "Place", "Camera held", "Set to"):
            assert known[name].words == UNKNOWN and known[name].origin == "unknown"
        assert known["Picture"].origin == "told by the file"
        assert {f.desk for f in findings(project, shot, begun)} <= {"reframe"}
    write_project(begun, project)
    assert main(["check", str(begun)]) == 0
    said = capsys.readouterr().out
    assert said.count("not planned") == 2 and "place " not in said and "expose " not in said


def test_a_recording_is_taken_once_and_lies_relative_under_the_days_folder(begun, own):
    inside = begun.parent / "raw" / "walk.mp4"
    inside.parent.mkdir()
    shutil.copy(own / "walk.MP4", inside)
    project, first = with_recordings(read_project(begun), look_at(begun, [inside]).takes)
    assert project.shots[0].takes[0].files[0].lies == "raw/walk.mp4"
    again, there = with_recordings(project, look_at(begun, [own / "walk.MP4"]).takes)
    assert again == project and there == first
    moved = begun.parent.rename(begun.parent.with_name("moved"))
    assert clip_files(moved / begun.name, project.shots[0].takes[0]) == (moved / "raw" / "walk.mp4",)


def test_a_recording_that_was_changed_is_noticed_by_head_and_tail(begun, own):
    project, _ = with_recordings(read_project(begun), look_at(begun, [own / "walk.MP4"]).takes)
    take = project.shots[0].takes[0]
    assert proven_clips(begun, take) == (own / "walk.MP4",)
    content = bytearray((own / "walk.MP4").read_bytes())
    content[-3] ^= 1
    (own / "walk.MP4").write_bytes(content)
    with pytest.raises(InputError, match="another one now"):
        proven_clips(begun, take)
    (own / "walk.MP4").unlink()
    with pytest.raises(InputError, match="not where it was"):
        clip_files(begun, take)


def test_takes_join_a_planned_shot_and_leave_it_with_their_cuts(own, tmp_path):
    day = write_demo_day(tmp_path / "day")
    project = read_project(day)
    before = project.shot("pell-lock")
    more, (shot_id, take_id) = with_recordings(
        project, look_at(day, [own / "walk.MP4", own / "place.png"]).takes, "pell-lock"
    )
    shot = more.shot(shot_id)
    assert len(shot.takes) == len(before.takes) + 2 and len(shot.cuts) == len(before.cuts) + 2
    for take in shot.takes[-2:]:
        shot = without_take(shot, take.id)
    assert shot == before and take_id.startswith("pell-lock-take")
    assert replace(more, shots=project.shots) == project


def test_a_bracket_is_no_film_and_tells_what_its_exif_tells(begun, tmp_path):
    """Five exposures two stops apart round 1/60 s; the blocks are written by Pillow, not by Glintor."""
    for n, stops in enumerate((0, -2, 2, -4, 4)):
        exif = Image.Exif()
        exif[0x010F], exif[0x0110] = "Maker", "Round One"
        exif.get_ifd(0x8769).update(
            {0x829A: 2.0**stops / 60.0, 0x829D: 2.0, 0x8827: 200, 0x9003: f"2026:03:04 14:12:{n:02d}"}
        )
        Image.fromarray(smooth_sphere(256)).save(tmp_path / f"B_{n + 1:04d}.JPG", exif=exif, quality=92)
    project = read_project(begun)
    taken = look_at(begun, recordings_in([tmp_path / f"B_{n + 1:04d}.JPG" for n in range(5)]))
    (take,) = taken.takes
    told = {fact.name: (fact.words, fact.origin) for fact in facts_of(project, take)}
    assert told["Picture"] == ("256 x 128 px, bracket of 5 photos", "told by the file")
    assert told["Exposed"] == ("1/960 to 1/4 s, f/2, ISO 200", "told by the file")
    assert told["Camera"] == ("Maker Round One", "told by the file")

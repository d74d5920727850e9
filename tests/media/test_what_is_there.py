"""What lies on a card under endings nobody knows, small copies beside films, sound of four channels, tripods; films made with ffmpeg."""

import shutil
import subprocess

import numpy as np
import pytest
from PIL import Image

from glintor.media.first_bytes import sort_of
from glintor.media.orientation import wanted_share
from glintor.media.together import read_all, recordings_in
from glintor.offload.card import files_of, units_of
from glintor.pixels.calibrate import Found
from glintor.project.recordings import look_at
from glintor.sphere.lenses import TWIN
from tests.conftest import DATA, make_clip


def ffmpeg(*words):
    subprocess.run(["ffmpeg", "-v", "error", "-y", *map(str, words)], check=True)


@pytest.mark.parametrize(
    ("ending", "sort"),
    [("mp4", "film"), ("mkv", "film"), ("avi", "film"), ("wav", "sound"), ("flac", "sound"), ("ogg", "sound")],
)
def test_a_recording_under_an_unknown_ending_is_known_by_its_first_bytes(tmp_path, ending, sort):
    made, odd = tmp_path / f"a.{ending}", tmp_path / "card" / "REC_0001.XYZ"
    odd.parent.mkdir()
    films = ["-f", "lavfi", "-i", "testsrc2=s=320x160:d=1"] if sort == "film" else ["-f", "lavfi", "-i", "sine=d=1"]
    ffmpeg(*films, made)
    shutil.copy(made, odd)
    assert sort_of(odd) == sort and recordings_in([odd.parent]) == (odd,)
    (read,) = read_all([odd])
    assert read.reading != "broken" and (read.reading == "sound") == (sort == "sound")


def test_photos_too_and_what_is_none_is_left_alone(tmp_path):
    for name, kind in (("a.XYZ", "JPEG"), ("b.XYZ", "PNG"), ("c.XYZ", "TIFF"), ("d.XYZ", "WEBP")):
        Image.fromarray(np.full((100, 200, 3), 90, np.uint8)).save(tmp_path / name, kind)
        assert sort_of(tmp_path / name) == "photo", kind
    (tmp_path / "e.XYZ").write_bytes(b"settings of a camera")
    (tmp_path / "f.gpx").write_bytes(b"<gpx/>")
    assert [file.name for file in recordings_in([tmp_path])] == ["a.XYZ", "b.XYZ", "c.XYZ", "d.XYZ"]
    assert {r.reading for r in read_all(recordings_in([tmp_path]))[:2]} <= {"photo", "flat"}


def test_a_small_copy_beside_a_film_is_its_companion_and_no_take(tmp_path):
    make_clip(tmp_path / "REC_1.MP4", width=640, height=320, frames=24)
    ffmpeg("-i", tmp_path / "REC_1.MP4", "-vf", "scale=320:160", "-f", "mp4", tmp_path / "REC_1.LOW")
    make_clip(tmp_path / "REC_2.MP4", width=640, height=320, frames=12)
    ffmpeg(
        "-i", tmp_path / "REC_1.MP4", "-vf", "scale=320:160", "-f", "mp4", tmp_path / "REC_2.LOW"
    )  # twice as long: another
    read = {one.files[0].name: one for one in read_all(recordings_in([tmp_path]))}
    assert "REC_1.LOW" not in read and "REC_2.LOW" in read
    assert tmp_path / "REC_1.LOW" in read["REC_1.MP4"].companions


def test_two_films_of_one_name_and_other_endings_both_come_home(tmp_path):
    for name in ("REC.mp4", "REC.mov", "rec.MKV", "REC.gpx"):
        (tmp_path / name).write_bytes(name.encode())
    units = units_of(files_of(tmp_path))
    assert sorted(file.name for unit in units for file in unit.files) == ["REC.gpx", "REC.mov", "REC.mp4", "rec.MKV"]


@pytest.mark.parametrize(("channels", "told"), [(2, False), (4, True)])
def test_sound_of_four_channels_is_never_dropped_without_a_word(tmp_path, channels, told):
    film = make_clip(tmp_path / "plain.mp4", frames=24)
    noise = f"anoisesrc=d=1,aformat=channel_layouts={ {2: 'stereo', 4: '4.0'}[channels] }"
    packed = ["-map", "0:v", "-map", "1:a", "-c:v", "copy", "-c:a", "aac"]
    ffmpeg("-i", film, "-f", "lavfi", "-i", noise, *packed, tmp_path / "amb.mp4")
    found = look_at(tmp_path / "d.glintor", [tmp_path / "amb.mp4"], told="")
    notes = " ".join(found.notes) + " ".join(fault for one in found.readings for fault in one.faults)
    assert ("4 channels of sound" in notes) == told


@pytest.mark.parametrize(("moves", "joined"), [(False, False), (True, True)])
def test_two_films_from_a_tripod_are_not_joined_where_no_time_tells(tmp_path, moves, joined):
    """A still camera sees the same at the end of one film and the beginning of the next. Made with ffmpeg, without times."""
    whole, turn = tmp_path / "whole.mp4", "scroll=horizontal=0.004" if moves else "null"
    still = DATA / "forest-sphere.jpg"
    ffmpeg(
        "-loop",
        "1",
        "-framerate",
        "25",
        "-t",
        "8",
        "-i",
        still,
        "-vf",
        f"scale=640:320,{turn},format=yuv420p",
        "-g",
        "25",
        whole,
    )
    for number, start in ((1, 0), (2, 4)):
        part = tmp_path / f"REC_000{number}.mp4"
        ffmpeg("-ss", start, "-t", 4, "-i", whole, "-c", "copy", "-map_metadata", "-1", "-fflags", "+bitexact", part)
    read = read_all(sorted(tmp_path.glob("REC_*.mp4")))
    assert (len(read) == 1) == joined


@pytest.mark.parametrize(("turned_deg", "measured"), [(0.69, False), (0.71, True)])
def test_lenses_are_measured_only_by_a_camera_that_turned(turned_deg, measured):
    assert Found(TWIN, 0.3, 900, turned_deg, 0.9).measured == measured


@pytest.mark.parametrize(
    ("lines", "share", "sure"),
    [
        # As three spheres showed (two of them CC0 photographs in shared/testdata), up to 6 stops under: all that was wrong, and what was right.
        (123, 0.19, False), (62, 0.22, False), (55, 0.27, False), (11, 0.63, False), (118, 0.21, False), (46, 0.26, False),
        (508, 0.67, True), (171, 0.65, True), (85, 0.57, True), (89, 0.63, True),
    ],
)  # fmt: skip
def test_verticals_are_believed_only_beyond_chance(lines, share, sure):
    assert (share > wanted_share(lines)) == sure

"""Footage: whatever lies behind a take is read, heard, drawn and exported in one way."""

import subprocess
from fractions import Fraction

import numpy as np
import pytest

from glintor.export.film import Output, film_of
from glintor.export.render import render, render_films
from glintor.export.still import still
from glintor.media.footage import PHOTO_S, open_footage
from glintor.media.picture import read_sphere, write_picture
from glintor.media.probe import ClipError, probe
from glintor.media.read import ClipReader
from glintor.media.sound import RATE_HZ, whole_sound
from glintor.pixels import colour
from glintor.reframing.course import Course
from glintor.reframing.path import Keyframe, ViewPath
from glintor.reframing.retime import Stretch
from glintor.sphere.turn import TurnTrack
from tests.conftest import frame_number, make_clip, smooth_sphere

STILL = Course(ViewPath([Keyframe(time_s=0.0)]))
PAN = Course(ViewPath([Keyframe(time_s=0.0), Keyframe(time_s=1.0, yaw_deg=60.0)]))


def output(target, course=STILL):
    return Output(target=target, size_px=(160, 90), course=course)


@pytest.fixture
def parts(tmp_path):
    """One recording of 1.8 s at 15000/1001, and the same in three files that follow each other, as cameras write them."""
    whole, step = make_clip(tmp_path / "whole.mp4", frames=27, rate=Fraction(15000, 1001)), 1001 / 15000
    for n in range(3):
        cut = (
            f"[0:v]trim=start_frame={9 * n}:end_frame={9 * n + 9},setpts=PTS-STARTPTS[v];"
            f"[0:a]atrim={9 * n * step}:{9 * (n + 1) * step},asetpts=PTS-STARTPTS[a]"
        )
        packing = [
            "-map",
            "[v]",
            "-map",
            "[a]",
            "-c:v",
            "libx264",
            "-crf",
            "4",
            "-c:a",
            "pcm_s16le",
            tmp_path / f"part{n}.mov",
        ]
        subprocess.run(["ffmpeg", "-v", "error", "-i", whole, "-filter_complex", cut, *packing], check=True)
    return whole, sorted(tmp_path.glob("part?.mov"))


@pytest.mark.parametrize(
    "options",
    ["-c:v libx264 -bf 5 -x264-params b-pyramid=2", "-c:v libx264 -pix_fmt yuv422p10le", "-c:v libx265 -x265-params log-level=none",
     "-c:v mpeg4 -bf 2", "-c:v prores_ks"],
)  # fmt: skip
def test_opened_by_its_header_a_film_gives_the_frames_that_a_decoder_counts(tmp_path, options):
    """Against ffprobe's own list of the frames' time stamps."""
    film = tmp_path / "a.mov"
    source = ["-f", "lavfi", "-i", "testsrc2=s=320x160:r=24:d=1.5"]
    subprocess.run(["ffmpeg", "-v", "error", *source, *options.split(), film], check=True)
    listed = subprocess.run(
        ["ffprobe", "-v", "error", "-select_streams", "v", "-show_entries", "frame=pts_time", "-of", "csv=p=0", film],
        capture_output=True, text=True, check=True,
    ).stdout.split()  # fmt: skip
    with ClipReader(film) as reader:
        times = [float(decoded.time) for decoded in reader.frames()]
    assert times == pytest.approx([float(t.strip(",")) for t in listed], abs=1e-6) and len(times) == 36
    assert probe(film).rate == 24 and probe(film).duration_s == pytest.approx(1.5)


def test_the_parts_of_a_recording_are_one_with_exact_time_and_sound_across_the_joins(parts):
    whole, files = parts
    one, joined = open_footage(whole), open_footage(files)
    assert len(files) == 3 and joined.duration_s == pytest.approx(27 * 1001 / 15000, abs=1e-9)
    with one.reader() as a, joined.reader() as b:
        first, second = list(a.frames()), list(b.frames())
        assert [float(d.time) for d in second] == pytest.approx([float(d.time) for d in first], abs=1e-6)
        assert [frame_number(d.picture.y) for d in second] == [frame_number(d.picture.y) for d in first]
        assert frame_number(b.at(1.7).picture.y) == frame_number(a.at(1.7).picture.y)
        across = [frame_number(d.picture.y) for d in b.runs(0.7, 0.9, backwards=True)]
        assert across == [frame_number(d.picture.y) for d in a.runs(0.7, 0.9, backwards=True)]
    heard = np.concatenate(list(joined.sound(0.0, 1.75)), axis=1)
    assert abs(heard.shape[1] - 1.75 * RATE_HZ) <= 2
    middle = slice(round(0.5 * RATE_HZ), round(1.7 * RATE_HZ))
    assert np.corrcoef(heard[0, middle], whole_sound(whole)[0, middle])[0, 1] > 0.98


def test_a_film_of_joined_parts_is_the_film_of_the_whole(parts, tmp_path):
    whole, files = parts
    for name, source in (("a", whole), ("b", files)):
        footage, fast = open_footage(source), Stretch(start_s=0, end_s=27 * 1001 / 15000, speed=3.0)
        film = film_of(footage, [output(tmp_path / f"{name}.mp4", PAN)], start_s=0.2, end_s=1.75)
        slow, quick = render_films([film, film_of(footage, [output(tmp_path / f"{name}-fast.mp4")], stretches=(fast,))])
        assert slow.frames == 23 and quick.frames == 9 and not slow.notes
    with ClipReader(tmp_path / "a.mp4") as a, ClipReader(tmp_path / "b.mp4") as b:
        for one, two in zip(a.frames(), b.frames(), strict=True):
            assert one.time == two.time and np.abs(one.picture.y.astype(int) - two.picture.y).mean() < 0.5


def test_parts_that_do_not_belong_together_are_refused(parts, tmp_path):
    other = make_clip(tmp_path / "other.mp4", width=640, height=320)
    with pytest.raises(ClipError, match="does not go on"):
        open_footage([parts[1][0], other])


@pytest.mark.parametrize("kind", [".jpg", ".png", ".tif", ".webp"])
def test_a_photo_is_a_film_that_stands_still(tmp_path, kind):
    photo = tmp_path / f"sphere{kind}"
    if kind == ".webp":
        write_picture(tmp_path / "a.png", smooth_sphere(512))
        subprocess.run(["ffmpeg", "-v", "error", "-i", tmp_path / "a.png", "-quality", "100", photo], check=True)
    else:
        write_picture(photo, smooth_sphere(512))
    footage = open_footage(photo)
    assert (footage.kind, footage.size_px, footage.duration_s, footage.has_sound) == (
        "photo",
        (512, 256),
        PHOTO_S,
        False,
    )
    result = render(footage, [output(tmp_path / "out.mp4", PAN)], start_s=0.0, end_s=1.0)
    assert result.frames == 30 and probe(tmp_path / "out.mp4").duration_s == pytest.approx(1.0)
    still(footage, PAN.at(0.5), (160, 90), tmp_path / "still.png")
    drawn = read_sphere(tmp_path / "still.png", footage.shows)[0]
    drawn = drawn >> 8 if drawn.dtype == np.uint16 else drawn
    with ClipReader(tmp_path / "out.mp4") as reader:
        seen = colour.rgb(reader.at(0.5).picture)
    assert np.abs(seen.astype(int) - drawn).mean() < 2.0  # the film went through 4:2:0 and x264


def test_a_broken_photo_is_refused_in_words(tmp_path):
    (tmp_path / "torn.jpg").write_bytes(b"\xff\xd8\xff\xe0not a picture")
    with pytest.raises(ClipError, match="cannot be read as a picture"):
        open_footage(tmp_path / "torn.jpg")


def test_footage_that_turned_is_drawn_level_by_its_turns_alone(tmp_path):
    """A sphere that yaws by 90 degrees in a second, as pixels; its turns given, the film stands still."""
    sphere = smooth_sphere(512)
    for number in range(25):
        write_picture(tmp_path / f"f{number:02d}.png", np.roll(sphere, -round(512 * number / 96), axis=1))
    source = tmp_path / "turning.mp4"
    subprocess.run(
        ["ffmpeg", "-v", "error", "-framerate", "24", "-i", tmp_path / "f%02d.png", "-crf", "4", source], check=True
    )
    half = np.sin(np.pi / 4)
    turns = TurnTrack([0.0, 1.0], [[0, 0, 0, 1], [0, 0, -half, half]])
    render(source, [output(tmp_path / "level.mp4", Course(ViewPath([Keyframe(time_s=0.0)]), turns=turns))])
    render(source, [output(tmp_path / "as-it-is.mp4")])

    def swing(name):
        with ClipReader(tmp_path / name) as reader:
            frames = [d.picture.y.astype(int) for d in reader.frames()]
        return max(np.abs(f - frames[0]).mean() for f in frames)

    assert swing("level.mp4") < 2.0 and swing("as-it-is.mp4") > 20.0


def test_a_view_of_a_photo_is_exact(tmp_path):
    write_picture(tmp_path / "a.png", smooth_sphere(512))
    with open_footage(tmp_path / "a.png").reader() as reader:
        again = colour.rgb(reader.at(3.0).picture)
    assert np.abs(again.astype(int) - smooth_sphere(512)).max() <= 2

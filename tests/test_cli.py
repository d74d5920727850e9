import json
import subprocess
import sys

import msgspec
import pytest

from glintor.cli import Asked, asked, main
from glintor.cli.options import size_px
from glintor.errors import InputError
from glintor.media.probe import probe
from glintor.project.model import Film, Piece, Project
from glintor.project.recordings import look_at, with_recordings
from glintor.project.site import Site
from glintor.project.store import read_project, write_project
from tests.conftest import cut_off, ffprobe, make_clip

HEAD = "time_s,yaw_deg,pitch_deg,roll_deg,fov_deg,bend\n"


@pytest.fixture
def path_csv(tmp_path):
    file = tmp_path / "path.csv"
    file.write_text(HEAD + "0,0,0,0,100,0.15\n1,60,0,0,80,0.15\n")
    return file


def reframe(source, path_csv, target, *options):
    return main(["reframe", str(source), "--path", str(path_csv), "--size", "320x180", *options, str(target)])


def test_reframe_writes_a_film_and_says_so(clip, path_csv, tmp_path, capsys):
    assert reframe(clip, path_csv, tmp_path / "o.mp4", "--in", "0.25", "--out", "0.75", "--crf", "23") == 0
    assert "12 frames, 0.500 s" in capsys.readouterr().out
    assert ffprobe(tmp_path / "o.mp4", "stream=codec_name,width,height,nb_read_frames") == ["h264", "320", "180", "12"]


def test_reframe_keeps_the_bit_rate(path_csv, tmp_path):
    import numpy as np

    from glintor.media.encoding import Encoding
    from glintor.media.write import FilmWriter

    noise = tmp_path / "noise.mp4"
    from fractions import Fraction

    writer = FilmWriter(noise, (640, 320), rate=Fraction(24), time_base=Fraction(1, 24), encoding=Encoding(crf=10))
    rng = np.random.default_rng(0)
    for number in range(72):
        frame, planes = writer.new_frame()
        planes.y[:] = rng.integers(0, 255, planes.y.shape)
        planes.u[:], planes.v[:] = 128, 128
        writer.write(frame, number, Fraction(1, 24))
    writer.close(3.0)
    assert (
        main(
            [
                "reframe",
                str(noise),
                "--path",
                str(path_csv),
                "--size",
                "640x360",
                "--bitrate",
                "4M",
                str(tmp_path / "o.mp4"),
            ]
        )
        == 0
    )
    assert (tmp_path / "o.mp4").stat().st_size * 8 / 3.0 == pytest.approx(4e6, rel=0.25)


def test_still_writes_a_picture(clip, tmp_path, capsys):
    target = tmp_path / "o.png"
    assert main(["still", str(clip), "--yaw", "30", "--at", "0.5", "--size", "300x200", str(target)]) == 0
    import cv2

    assert cv2.imread(str(target)).shape == (200, 300, 3)


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda s, p: s.unlink(), "There is no file"),
        (lambda s, p: s.write_bytes(b""), "is empty"),
        (lambda s, p: s.write_text("words " * 500), "cannot be read as a film"),
        (lambda s, p: p.write_text(HEAD + "0,nan,0,0,100,0\n"), "line 2"),
        (lambda s, p: p.write_text(HEAD + "1,0,0,0,100,0\n0,0,0,0,100,0\n"), "line 3"),
        (lambda s, p: p.write_text(HEAD + "1,0,0,0,100,0\n1,0,0,0,100,0\n"), "same time"),
        (lambda s, p: make_clip(s, width=320, height=180), "--as-sphere"),
    ],
)
def test_bad_input_is_exit_code_2_with_words(clip, path_csv, tmp_path, capsys, change, words):
    change(clip, path_csv)
    assert reframe(clip, path_csv, tmp_path / "o.mp4") == 2
    assert words in capsys.readouterr().err
    assert not (tmp_path / "o.mp4").exists()


def test_one_keyframe_and_a_clip_cut_off_are_fine(path_csv, tmp_path, capsys):
    path_csv.write_text(HEAD + "3,10,0,0,100,0.15\n")
    whole = make_clip(tmp_path / "whole.mp4", frames=120, sound=False)
    whole.write_bytes(cut_off(whole))
    assert reframe(whole, path_csv, tmp_path / "o.mp4") == 0
    said = capsys.readouterr()
    assert "ends at" in said.err and "frames" in said.out


def test_as_sphere_takes_any_shape(path_csv, tmp_path):
    flat = make_clip(tmp_path / "flat.mp4", width=320, height=180)
    assert reframe(flat, path_csv, tmp_path / "o.mp4", "--as-sphere") == 0


def test_a_place_that_cannot_be_written_is_exit_code_1(clip, path_csv, tmp_path, capsys):
    (tmp_path / "in-the-way").write_text("")
    assert reframe(clip, path_csv, tmp_path / "in-the-way" / "o.mp4") == 1
    assert "is not a folder" in capsys.readouterr().err


@pytest.mark.parametrize("text", ["1920", "x", "10x10", "1920x99999", "axb"])
def test_sizes_that_are_none_are_refused(text):
    with pytest.raises(InputError):
        size_px(text)


def test_an_odd_size_is_refused(clip, path_csv, tmp_path, capsys):
    assert main(["reframe", str(clip), "--path", str(path_csv), "--size", "321x181", str(tmp_path / "o.mp4")]) == 2
    assert "even" in capsys.readouterr().err


def test_check_prints_findings_in_words_and_as_json(day, capsys):
    assert main(["check", str(day)]) == 0
    words = capsys.readouterr().out
    assert "Roof through Cobdale" in words and "stop" in words
    assert main(["check", str(day), "--json"]) == 0
    table = json.loads(capsys.readouterr().out)
    first = table["roof-cobdale"][0]
    assert {"level", "title", "value", "limit", "unit", "reason", "cure"} <= set(first)
    assert first["level"] == "stop"


def test_export_renders_one_cut_in_one_format(day, tmp_path, capsys):
    from glintor.project.store import read_project

    project = read_project(day)
    short = lambda s: msgspec.structs.replace(s, cuts=tuple(msgspec.structs.replace(c, out_s=0.25) for c in s.cuts))  # noqa: E731
    write_project(day, project.with_shot("roof-cobdale", short))
    assert (
        main(["export", str(day), "--cut", "Into the dark", "--format", "9:16", "--to", str(tmp_path / "films")]) == 0
    )
    assert [p.name for p in (tmp_path / "films").iterdir()] == ["hollin-cut-roof-cobdale-cut-9x16.mp4"]
    assert main(["export", str(day), "--cut", "Nothing", "--to", str(tmp_path)]) == 2
    assert "Into the dark" in capsys.readouterr().err


def test_a_film_joins_cuts_of_recordings_made_elsewhere(tmp_path, capsys):
    clips = [make_clip(tmp_path / "a.mp4", frames=24), make_clip(tmp_path / "b.mp4", width=640, height=320, frames=30)]
    day = tmp_path / "day.glintor"
    site = Site(name="mine", known=False, day="2026-11-01", zone="UTC", lat_deg=0, lon_deg=0)
    project, _ = with_recordings(Project(site=site), look_at(day, clips).takes)
    pieces = tuple(Piece(shot_id=s.id, cut_id=s.cuts[0].id) for s in (*project.shots, project.shots[0]))
    film = Film(id="film", name="Both", pieces=pieces)
    write_project(day, msgspec.structs.replace(project, films=(film,)))
    assert main(["export", str(day), "--film", "Both", "--format", "1:1", "--to", str(tmp_path)]) == 0
    made = probe(tmp_path / "day-film-1x1.mp4")
    assert made.frames == 24 + 30 + 24 and made.width_px == made.height_px
    assert main(["export", str(day), "--film", "None", "--to", str(tmp_path)]) == 2
    assert "no film None" in capsys.readouterr().err


def test_a_newer_project_is_refused(day, capsys):
    day.write_text(day.read_text().replace('"glintor": ', '"glintor": 9'))
    assert main(["check", str(day)]) == 2
    assert "newer Glintor" in capsys.readouterr().err


def test_demo_writes_the_day(tmp_path, capsys):
    assert main(["demo", str(tmp_path / "day")]) == 0
    assert (tmp_path / "day" / "hollin-cut.glintor").exists()


@pytest.mark.parametrize("command", ["", "demo", "reframe", "still", "export", "check"])
def test_every_command_has_help(command, capsys):
    with pytest.raises(SystemExit) as ended:
        main([*command.split(), "--help"])
    assert ended.value.code == 0 and "usage: glintor" in capsys.readouterr().out


def test_the_window_is_asked_for_with_and_without_a_parser(capsys):
    assert asked([]) == Asked() and asked(["a day.glintor"]) == Asked(("a day.glintor",))
    assert asked(["--demo", "--close-after", "2"]) == Asked(demo=True, close_after=2.0)
    assert asked(["a.glintor", "--close-after", "0.5"]) == Asked(("a.glintor",), close_after=0.5)
    assert asked(["one.mp4", "a folder"]) == Asked(("one.mp4", "a folder"))
    assert main(["one.glintor", "two.glintor"]) == 2 and "shows one day" in capsys.readouterr().err


def test_commands_never_import_the_window():
    """The scriptable commands work on a machine without Qt's libraries."""
    code = (
        "import sys; from glintor.cli import main; main(['check', 'none.glintor']); assert 'PyQt6' not in sys.modules"
    )
    assert subprocess.run([sys.executable, "-c", code], capture_output=True).returncode == 0


def test_a_path_goes_out_of_a_day_and_into_it(day, tmp_path, capsys):
    project = read_project(day)
    cut = next(c for s in project.shots for c in s.cuts if c.name == "Into the dark")
    assert main(["path", str(day), "Into the dark", str(tmp_path / "p.csv")]) == 0
    assert len((tmp_path / "p.csv").read_text().splitlines()) == len(cut.keys) + 1
    assert main(["path", str(day), cut.id, str(tmp_path / "p.json")]) == 0
    assert main(["path", str(day), cut.id, str(tmp_path / "every.csv"), "--every", "0.5"]) == 0
    assert len((tmp_path / "every.csv").read_text().splitlines()) == 1 + int((cut.out_s - cut.in_s) / 0.5) + 1
    (tmp_path / "p.csv").write_text("time_s,yaw_deg,pitch_deg,roll_deg,fov_deg,bend\n1,10,0,0,80,0.1\n")
    assert main(["path", str(day), cut.id, "--from", str(tmp_path / "p.csv")]) == 0
    again = next(c for s in read_project(day).shots for c in s.cuts if c.id == cut.id)
    assert [(k.time_s, k.yaw_deg) for k in again.keys] == [(1.0, 10.0)]
    assert main(["path", str(day), cut.id, "--from", str(tmp_path / "p.json")]) == 0
    assert next(c for s in read_project(day).shots for c in s.cuts if c.id == cut.id).keys == cut.keys
    capsys.readouterr()
    for wrong, words in (
        (["nobody", str(tmp_path / "x.csv")], "no cut nobody"),
        ([cut.id], "not clear what to do"),
        ([cut.id, str(tmp_path / "x.txt")], "written as .csv or .json"),
        ([cut.id, "--from", str(tmp_path / "gone.json")], "no path file"),
    ):
        assert main(["path", str(day), *wrong]) == 2
        assert words in capsys.readouterr().err

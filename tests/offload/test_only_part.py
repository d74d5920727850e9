"""Only the good part: packets carried over as they are, against ffmpeg's own decoder; what lies beside is trimmed alike."""

import subprocess
from datetime import UTC, datetime

import gpxpy
import numpy as np
import pytest

from glintor.errors import Cancelled, InputError
from glintor.files import SourceError
from glintor.media.inertial import read_log, write_inertial
from glintor.media.probe import probe
from glintor.media.spherical import mark_film
from glintor.media.trim import trim_film
from glintor.offload.only_part import only_part, part_take
from glintor.project.take import Horizon, Take, TakeFile
from tests.conftest import ffprobe


def pictures(file, *more):
    """A digest of each decoded picture, by ffmpeg."""
    command = ["ffmpeg", "-v", "error", "-i", str(file), "-map", "0:v:0", *more, "-f", "framemd5", "-"]
    out = subprocess.run(command, capture_output=True, check=True, text=True).stdout
    return [line.split(",")[-1].strip() for line in out.splitlines() if not line.startswith("#")]


@pytest.fixture(scope="module")
def film(tmp_path_factory):
    """12 s with a key frame each second, pictures between that lean on both sides, sound, and what it says of itself."""
    file = tmp_path_factory.mktemp("film") / "REC_0001.MP4"
    made = (
        "ffmpeg -v error -f lavfi -i testsrc2=s=320x160:r=30:d=12 -f lavfi -i sine=f=440:d=12 -c:v libx264 -g 30 -bf 3"
    )
    told = "-pix_fmt yuv420p -c:a aac -metadata creation_time=2026-10-14T08:00:00Z -metadata title=Hollin"
    subprocess.run([*made.split(), *told.split(), str(file)], check=True)
    mark_film(file)
    return file


def test_a_part_is_the_same_pictures_with_the_same_words(film, tmp_path):
    shares = []
    made = trim_film(film, tmp_path / "part.mp4", 3.5, 7.2, report=shares.append)
    assert (made.begin_s, made.end_s, made.left_out) == (3.0, 8.0, ())
    assert pictures(made.file, "-fps_mode", "passthrough") == pictures(film, "-fps_mode", "passthrough")[90:240]
    info = probe(made.file)
    assert info.note is not None and info.note.coverage.whole == (True, True) and info.has_sound
    assert info.began == datetime(2026, 10, 14, 8, 0, 3, tzinfo=UTC)
    assert ffprobe(made.file, "format_tags=title") == ["Hollin"]
    assert [abs(float(v) - 5.0) < 0.03 for v in ffprobe(made.file, "stream=duration", "a:0")] == [True]
    assert "equirectangular" in "".join(ffprobe(made.file, "stream_side_data=projection")) and shares[-1] == 1.0
    whole = trim_film(film, tmp_path / "whole.mp4", 0.0, 99.0)
    assert pictures(whole.file) == pictures(film)


def test_what_lies_beside_is_trimmed_alike(film, tmp_path):
    card = tmp_path / "card"
    card.mkdir()
    for name in ("REC_0001.MP4", "REC_0002.MP4"):
        (card / name).write_bytes(film.read_bytes())
    log, gpx, titles, own = (card / name for name in ("REC_0002.inertial.csv", "REC.GPX", "REC_0001.SRT", "REC.json"))
    rows = np.column_stack([np.arange(0, 12, 0.01), *np.tile(np.arange(1200) % 7 / 10.0, (6, 1))])
    write_inertial(log, rows)
    points = "".join(
        f'<trkpt lat="52.9" lon="{-1.9 + n / 1e4}"><time>2026-10-14T08:00:{n:02d}Z</time></trkpt>' for n in range(24)
    )
    gpx.write_text(
        f'<gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>{points}</trkseg></trk></gpx>'
    )
    titles.write_text(
        "1\n00:00:02,000 --> 00:00:04,000\nbefore\n\n2\n00:00:09,500 --> 00:00:10,500\nturns\n\n"
        "3\n00:00:11,000 --> 00:00:11,500\nlock\n"
    )
    own.write_text("{}")
    part = only_part(
        [card / "REC_0001.MP4", card / "REC_0002.MP4"], [log, gpx, titles, own], (9.7, 14.2), tmp_path / "out"
    )
    assert (part.begin_s, part.end_s) == (9.0, 15.0) and "REC.json tells no times" in part.words
    assert [probe(f).duration_s for f in part.films] == [3.0, 3.0]
    by = {file.suffix.lower(): file for file in part.beside}
    assert by[".csv"].name == "REC_0002-from-0m00s.inertial.csv"
    kept = read_log(by[".csv"])
    assert kept.time_s[0] == 0.0 and kept.time_s[-1] == pytest.approx(2.99)
    assert kept.gyro_rad_s[5, 0] == pytest.approx(rows[5, 1])
    times = [p.time for p in gpxpy.parse(by[".gpx"].read_text()).tracks[0].segments[0].points]
    assert (times[0].second, times[-1].second) == (9, 15)
    assert by[".srt"].read_text().startswith("1\n00:00:00,500 --> 00:00:01,500\nturns\n\n2\n00:00:02,000")
    again = only_part([card / "REC_0001.MP4"], [], (9.7, 11.0), tmp_path / "out")
    assert again.films[0].name == "REC_0001-from-0m09s-2.MP4" and part.films[0].exists()

    take = Take(
        id="roof-1", name="Roof", files=(TakeFile(card="x"),), duration_s=24.0, width_px=320, rate_fps=30.0,
        began="2026-10-14T08:00:00+00:00", start_min=480.0, marks_s=(3.0, 10.5), part_s=(9.7, 14.2),
        horizon=Horizon(pitch_deg=1, roll_deg=2, by="hand", at_s=11.0),
    )  # fmt: skip
    own_take = part_take(take, part, tmp_path / "day.glintor")
    assert own_take.marks_s == (1.5,) and own_take.horizon.at_s == 2.0 and own_take.start_min == pytest.approx(480.15)
    assert own_take.began == "2026-10-14T08:00:09+00:00" and own_take.files[0].copy.startswith("out/")


def test_nothing_is_left_of_a_part_that_did_not_come_about(film, tmp_path):
    class Stops:
        def is_set(self):
            return True

    for wrong, error in (((40.0, 50.0), InputError), ((2.0, 3.0), Cancelled)):
        with pytest.raises(error):
            only_part([film], [], wrong, tmp_path / "out", stop=Stops())
    assert not list((tmp_path / "out").glob("*")) if (tmp_path / "out").exists() else True
    with pytest.raises(SourceError):
        trim_film(film, film, 0.0, 3.0)

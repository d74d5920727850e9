"""What films say of themselves to other programs: colours in every frame of ProRes, rates that players know."""

import struct
import subprocess
from fractions import Fraction

import pytest

from glintor.export.film import Output, even_rate, film_of
from glintor.export.render import render_films
from glintor.media.encoding import Encoding
from glintor.media.footage import open_footage
from glintor.reframing.retime import Stretch
from tests.conftest import ffprobe, make_clip
from tests.export.test_retimed import STILL, film


def test_every_frame_of_prores_says_its_colours(tmp_path):
    """Source: SMPTE RDD 36:2015, 5.1: of a frame header, after its size and version, creator, width, height and flags, the bytes 14 to 16
    are colour primaries, transfer characteristic and matrix coefficients (ITU-T H.273 codes; 1 is BT.709)."""
    clip = make_clip(tmp_path / "in.mp4", frames=6, sound=False)
    output = Output(target=tmp_path / "o.mov", size_px=(160, 90), course=STILL, encoding=Encoding(codec="prores"))
    render_films([film_of(open_footage(clip), [output])])
    content = (tmp_path / "o.mov").read_bytes()
    at, frames = content.find(b"icpf"), 0
    while at >= 0:
        header = content[at + 4 :]
        size = struct.unpack(">H", header[:2])[0]
        assert size >= 20 and tuple(header[14:17]) == (1, 1, 1), tuple(header[14:17])
        frames, at = frames + 1, content.find(b"icpf", at + 4)
    assert frames == 6


@pytest.mark.parametrize(
    ("mean", "even"),
    [
        (Fraction(29870, 1000), (30000, 1001)), (Fraction(2999, 100), (30, 1)), (Fraction(30), (30, 1)), (Fraction(24000, 1001), (24000, 1001)),
        (Fraction(15), (15, 1)), (Fraction(58.3), (60000, 1001)), (Fraction(31), (31, 1)), (Fraction(25, 2), (25, 2)),
    ],
)  # fmt: skip
def test_a_mean_rate_becomes_the_one_that_is_meant(mean, even):
    assert even_rate(mean) == Fraction(*even)


def test_a_phones_film_of_uneven_frames_keeps_a_known_rate_where_its_speed_changes(tmp_path):
    """Made with ffmpeg: each fourth frame comes 6 ms late, and 29.5 a second are the mean."""
    even = make_clip(tmp_path / "even.mp4", rate=Fraction(30), frames=60, sound=False)
    odd = tmp_path / "odd.mp4"
    late = "setpts='PTS+if(eq(mod(N,4),3),0.006/TB,0)+N*0.0005/TB'"
    subprocess.run(
        ["ffmpeg", "-v", "error", "-i", even, "-vf", late, "-fps_mode", "vfr", "-video_track_timescale", "90000", odd],
        check=True,
    )
    assert ffprobe(odd, "stream=avg_frame_rate")[0] not in ("30/1", "30000/1001")
    render_films([film(odd, tmp_path / "o.mp4", Stretch(start_s=0.5, end_s=1.5, speed=2.0))])
    assert ffprobe(tmp_path / "o.mp4", "stream=avg_frame_rate")[0] in ("30/1", "30000/1001")

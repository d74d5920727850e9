import subprocess
import sys

import msgspec
import numpy as np
import pytest

from glintor.errors import InputError
from glintor.export.cut import Form, Wanted, render_cuts, target_file
from glintor.export.formats import FORMATS, USUAL, course_for, forecast, format_by_name
from glintor.export.probe import probed_bytes
from glintor.export.queue import Job, Queue
from glintor.media.encoding import Encoding
from glintor.project.identity import proven_clips
from glintor.project.model import take_of
from glintor.project.store import clip_files, read_project
from glintor.sphere.view import focal_px, frame_position
from tests.conftest import ffprobe


@pytest.fixture
def roof(day):
    shot = read_project(day).shot("roof-cobdale")
    return shot, shot.cuts[0]


def test_upright_and_wide_are_the_same_lens_turned(roof):
    """The frames have the same area, so the same focal length in pixels: things are drawn equally large."""
    wide, tall = (course_for(roof[1], shape).at(5.0) for shape in USUAL)
    assert focal_px(wide, 1920) == pytest.approx(focal_px(tall, 1080), rel=1e-6)
    assert (wide.yaw_deg, wide.pitch_deg) == (tall.yaw_deg, tall.pitch_deg)
    away = wide.matrix @ [np.cos(0.1), -np.sin(0.1), 0.0]
    right = [frame_position(v, s.size_px, away)[0] - s.size_px[0] / 2 for v, s in zip((wide, tall), USUAL, strict=True)]
    assert right[0] == pytest.approx(right[1], rel=1e-6)


def test_forecast_at_a_bit_rate_is_plain_arithmetic(roof):
    ahead = forecast(roof[1], FORMATS[0], Encoding(mbit_s=50.0), source_width_px=1920, rate_fps=24.0)
    assert (ahead.frames, ahead.duration_s, ahead.about) == (360, 15.0, False)
    assert ahead.size_bytes == round((50e6 * 15 + 256_000 * 15) / 8)
    low, high = ahead.true_width_px
    assert low == pytest.approx(62 / 360 * 1920, abs=2) and low < high < 1920


def test_forecast_at_a_quality_is_near_what_comes_out(day, roof, tmp_path):
    """Unmeasured it may be a quarter or four times of it; measured on pieces it is within 15 %."""
    shot, cut = roof
    project, encoding = read_project(day), Encoding(crf=26)
    longer = msgspec.structs.replace(cut, in_s=1.0, out_s=9.0)
    films = [Wanted(longer, Form(shape, target_file(tmp_path, day, cut, shape), encoding)) for shape in USUAL]
    told = probed_bytes(day, project, shot, longer, USUAL, encoding)
    assert render_cuts(day, shot, films, project=project)[longer.id].frames == 192
    for shape in USUAL:
        target = target_file(tmp_path, day, cut, shape)
        plain = forecast(longer, shape, encoding, source_width_px=1920, rate_fps=24.0)
        assert (
            plain.about and not plain.measured and plain.size_bytes / 4 < target.stat().st_size < plain.size_bytes * 4
        )
        ahead = forecast(longer, shape, encoding, source_width_px=1920, rate_fps=24.0, measured_bytes=told[shape.name])
        assert ahead.measured and ahead.size_bytes == pytest.approx(target.stat().st_size, rel=0.15)
        assert ffprobe(target, "stream=codec_name,width,height") == ["h264", *map(str, shape.size_px)]
        assert ffprobe(target, "stream=codec_name", "a:0") == ["aac"]


def test_the_safe_copy_is_used_before_the_card(day, roof):
    take = take_of(*[roof[0], roof[1].take_id])
    assert clip_files(day, take)[0].parent.name == "footage"
    (day.parent / take.files[0].copy).unlink()
    assert clip_files(day, take)[0].parent.name == "clips"
    (day.parent / "card" / take.files[0].card).unlink()
    with pytest.raises(InputError, match="not where it was"):
        clip_files(day, take)


def test_formats_are_known_by_name():
    assert format_by_name("9x16") is format_by_name("9:16") is FORMATS[1]
    with pytest.raises(InputError, match="12:5"):
        format_by_name("5:4")


def job(**values) -> Job:
    base = {"id": "", "project_file": "/day", "shot_id": "a", "cut_id": "c", "format": "16:9", "target": "/t/a.mp4"}
    return Job(**(base | values))


def test_the_queue_survives_a_restart(tmp_path):
    file = tmp_path / "queue.json"
    queue = Queue(file)
    first, second = queue.add(job(), job(format="9:16", target="/t/b.mp4"))
    queue.add(job(shot_id="other", target="/t/c.mp4"))
    assert {j.id for j in queue.next_batch()} == {first.id, second.id}
    assert [j.state for j in Queue(file).jobs] == ["running", "running", "waiting"]  # this program lives
    queue._runner = "1-0"  # a program that is gone, its number another's by now
    queue.mark({first.id, second.id}, "running")
    again = Queue(file)  # as after a kill: what was running waits again
    assert [j.state for j in again.jobs] == ["waiting"] * 3
    again.mark({first.id}, "done", "24 frames")
    assert [j.state for j in Queue(file).jobs] == ["done", "waiting", "waiting"]


def test_asking_twice_for_a_film_queues_it_once(tmp_path):
    queue = Queue(tmp_path / "queue.json")
    queue.add(job(crf=19))
    queue.add(job(crf=23))
    assert [j.crf for j in queue.jobs] == [23]
    queue.drop(lambda j: True)
    assert queue.next_batch() == ()


@pytest.mark.parametrize("content", [b"{broken", b"\xff\xfe", b"[" * 50_000])
def test_a_broken_queue_is_set_aside_and_said(tmp_path, content):
    (tmp_path / "queue.json").write_bytes(content)
    queue = Queue(tmp_path / "queue.json")
    assert queue.jobs == () and "kept as" in queue.words
    assert (tmp_path / "queue.json.unreadable").read_bytes() == content
    queue.add(job())
    assert len(Queue(tmp_path / "queue.json").jobs) == 1


def test_two_windows_never_drop_each_others_films_nor_render_one_twice(tmp_path):
    one, two = Queue(tmp_path / "queue.json"), Queue(tmp_path / "queue.json")
    one.add(job())
    two.add(job(target="/t/b.mp4", shot_id="b"))
    one.add(job(target="/t/c.mp4", shot_id="c"))
    assert [j.target for j in Queue(tmp_path / "queue.json").jobs] == ["/t/a.mp4", "/t/b.mp4", "/t/c.mp4"]
    assert [q.next_batch()[0].shot_id for q in (one, two, one)] == ["a", "b", "c"] and not two.next_batch()
    code = (
        "import sys; from pathlib import Path; from glintor.export.queue import *; q = Queue(Path(sys.argv[1]));\n"
        "for n in range(40): q.add(Job(id='', project_file='p', shot_id='s', cut_id='c', format='16:9', target=f'/{sys.argv[2]}/{n}'))"
    )
    command = [sys.executable, "-c", code, str(tmp_path / "queue.json")]
    both = [subprocess.Popen([*command, name]) for name in ("x", "y")]
    assert [process.wait() for process in both] == [0, 0]
    jobs = Queue(tmp_path / "queue.json").jobs
    assert len(jobs) == 83 and len({j.id for j in jobs}) == 83


def test_another_clip_under_a_takes_name_is_noticed_before_rendering(day, roof):
    shot, cut = roof
    take = take_of(shot, cut.take_id)
    clip = day.parent / take.files[0].copy
    assert proven_clips(day, take) == (clip,)
    content = bytearray(clip.read_bytes())
    content[len(content) // 2] ^= 1
    clip.write_bytes(content)
    wanted = [Wanted(cut, Form(FORMATS[0], day.parent / "out.mp4", Encoding()))]
    with pytest.raises(InputError, match=r"its content is another"):
        render_cuts(day, shot, wanted)
    clip.write_bytes(content + b"x")
    with pytest.raises(InputError, match=r"is not the clip of .* bytes"):
        render_cuts(day, shot, wanted)
    assert not (day.parent / "out.mp4").exists()

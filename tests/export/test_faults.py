"""What goes wrong while rendering: said in words, nothing half written under a film's name."""

import errno
import signal
import subprocess
import sys
import time

import numpy as np
import pytest

from glintor.cli import main
from glintor.export.film import Output
from glintor.export.queue import Job, Queue
from glintor.export.render import RenderError, render
from glintor.export.still import still
from glintor.files import SourceError, WriteError
from glintor.media.encoding import Encoding
from glintor.media.picture import write_picture
from glintor.media.read import ClipReader
from glintor.media.write import FilmWriter
from glintor.reframing.course import Course
from glintor.reframing.path import Keyframe, ViewPath
from glintor.sphere.view import View
from tests.conftest import frame_number, make_clip, smooth_sphere

STILL = Course(ViewPath([Keyframe(time_s=0.0)]))


def output(target, size=(160, 90)):
    return Output(target=target, size_px=size, course=STILL, encoding=Encoding(crf=6, preset="ultrafast"))


def test_a_damaged_middle_is_skipped_marked_and_said(tmp_path):
    """Zeros over part of the pictures: what comes before and after is right and at its own time."""
    source = make_clip(tmp_path / "in.mp4", width=640, height=320, frames=96, sound=False)
    content = bytearray(source.read_bytes())
    first = content.index(b"mdat")
    length = len(content) - first
    content[first + length * 4 // 10 : first + length * 5 // 10] = bytes(length // 10)
    source.write_bytes(content)
    result = render(source, [output(tmp_path / "out.mp4")])
    assert 70 < result.frames < 96 and "damaged at 0.9" in " ".join(result.notes)
    with ClipReader(tmp_path / "out.mp4") as reader:
        decoded = list(reader.frames())
    assert float(decoded[-1].time) == pytest.approx(95 / 24, abs=1e-3)
    for d in decoded:
        assert frame_number(d.picture.y) == pytest.approx((round(d.time * 24) * 7 % 200) / 7, abs=0.5)


def test_an_encoder_that_fails_is_said_and_leaves_nothing(tmp_path, clip, monkeypatch):
    import av.error

    def refuse(self, frame, pts, time_base):
        raise av.error.ExternalError(1, "encoder said no")

    monkeypatch.setattr(FilmWriter, "write", refuse)
    (tmp_path / "to").mkdir()
    with pytest.raises(RenderError, match=r"encoder of [ab].mp4 stopped"):
        render(clip, [output(tmp_path / "to" / "a.mp4"), output(tmp_path / "to" / "b.mp4", (90, 160))])
    assert list((tmp_path / "to").iterdir()) == []


def test_a_full_disk_names_the_folder_that_is_full(tmp_path, clip, monkeypatch):
    write = FilmWriter.write

    def full(self, frame, pts, time_base):
        if "second" in self._container.name:
            raise OSError(errno.ENOSPC, "No space left on device")
        write(self, frame, pts, time_base)

    monkeypatch.setattr(FilmWriter, "write", full)
    with pytest.raises(WriteError, match=r"No space left in .*/second for b.mp4"):
        render(clip, [output(tmp_path / "first" / "a.mp4"), output(tmp_path / "second" / "b.mp4", (90, 160))])


@pytest.mark.parametrize("link", [None, "symlink_to", "hardlink_to"])
def test_nothing_is_written_over_its_own_source(tmp_path, clip, link):
    target, before = clip, clip.read_bytes()
    if link:
        target = tmp_path / "other.mp4"
        getattr(target, link)(clip)
    with pytest.raises(SourceError, match="is footage itself"):
        render(clip, [output(target)])
    photo = tmp_path / "photo.png"
    write_picture(photo, smooth_sphere(64))
    with pytest.raises(SourceError):
        still(photo, View(), (32, 18), tmp_path / "x" / ".." / "photo.png")
    with pytest.raises(SourceError):
        still(photo, View(), (32, 18), target.with_suffix(".mp4"), keep=[clip])
    assert main(["reframe", str(clip), "--path", str(path_file(tmp_path)), str(target)]) == 2
    assert clip.read_bytes() == before == target.read_bytes()


def path_file(folder):
    file = folder / "path.csv"
    file.write_text("time_s,yaw_deg,pitch_deg,roll_deg,fov_deg,bend\n0,0,0,0,100,0.15\n")
    return file


def test_killed_in_the_middle_it_leaves_no_film_and_the_next_try_cleans_up(tmp_path):
    """kill -9 while pictures are written; the queue on disk has the job waiting again."""
    source = make_clip(tmp_path / "in.mp4", width=1280, height=640, frames=240, sound=False)
    queue, target = Queue(tmp_path / "queue.json"), tmp_path / "to" / "out.mp4"
    (job,) = queue.add(Job(id="", project_file="p", shot_id="s", cut_id="c", format="16:9", target=str(target)))
    queue._runner = "1-0"  # a program that is gone
    queue.mark({job.id}, "running")
    code = (
        "import sys; from pathlib import Path; from tests.export.test_faults import output; "
        "from glintor.export.render import render; render(Path(sys.argv[1]), [output(Path(sys.argv[2]), (1920, 1080))])"
    )
    process = subprocess.Popen([sys.executable, "-c", code, str(source), str(target)])
    deadline = time.monotonic() + 60
    while not list(target.parent.glob(".out.*")) and time.monotonic() < deadline and process.poll() is None:
        time.sleep(0.02)
    process.send_signal(signal.SIGKILL)
    process.wait()
    assert not target.exists() and list(target.parent.glob(".out.*.part.mp4"))
    assert [j.state for j in Queue(tmp_path / "queue.json").jobs] == ["waiting"]
    render(source, [output(target)], end_s=0.5)
    assert [p.name for p in target.parent.iterdir()] == ["out.mp4"]


def test_sound_stays_in_step_over_an_hour(tmp_path):
    """Clicks each ten minutes in an hour of sound: in the stream that is encoded they stand where they stood, within the resampler's reach."""
    import av

    from glintor.media.sound import RATE_HZ, sound_cut

    source, slow_hz = tmp_path / "hour.mov", 8000
    with av.open(str(source), "w") as container:
        pictures, track = container.add_stream("mjpeg", rate=1), container.add_stream("pcm_s16le", rate=slow_hz)
        pictures.width, pictures.height, pictures.pix_fmt = 64, 32, "yuvj420p"
        for second in range(3600):
            container.mux(pictures.encode(av.VideoFrame(64, 32, "yuvj420p")))
            block = np.zeros((1, slow_hz), np.int16)
            block[0, 100] = 30000 if second % 600 == 0 else 0
            sound = av.AudioFrame.from_ndarray(block, format="s16", layout="mono")
            sound.sample_rate, sound.pts = slow_hz, second * slow_hz
            container.mux(track.encode(sound))
        container.mux(pictures.encode(None))
    at, clicks = 0, []
    for block in sound_cut(source, 7.0, 3600.0):
        clicks += [at + int(i) for i in np.flatnonzero(block[0] > 0.4)]
        at += block.shape[1]
    assert at == 3593 * RATE_HZ
    wanted = [(t - 7) * RATE_HZ + 100 * RATE_HZ // slow_hz for t in range(600, 3600, 600)]
    assert all(min(abs(c - w) for w in wanted) <= 12 for c in clicks)
    assert all(min(abs(c - w) for c in clicks) <= 2 for w in wanted)


def test_variable_rate_sources_keep_their_own_times(tmp_path):
    from fractions import Fraction

    path, stamps = tmp_path / "vfr.mp4", [0, 30, 90, 100, 250, 251, 400]
    writer = FilmWriter(
        path, (320, 160), rate=Fraction(25), time_base=Fraction(1, 1000), encoding=Encoding(crf=6, preset="ultrafast")
    )
    for number, stamp in enumerate(stamps):
        frame, planes = writer.new_frame()
        planes.y[:], planes.u[:], planes.v[:] = 30 + 7 * number, 128, 128
        writer.write(frame, stamp, Fraction(1, 1000))
    writer.close(0.44)
    render(path, [output(tmp_path / "out.mp4")])
    with ClipReader(tmp_path / "out.mp4") as reader:
        got = [(round(float(d.time) * 1000), frame_number(d.picture.y)) for d in reader.frames()]
    assert [t for t, _ in got] == pytest.approx(stamps, abs=1)
    assert [n for _, n in got] == pytest.approx(range(7), abs=0.4)

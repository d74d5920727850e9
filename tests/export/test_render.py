import resource
import threading
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from glintor.errors import Cancelled, GlintorError
from glintor.export.film import Output
from glintor.export.render import RenderError, render
from glintor.export.still import still
from glintor.files import WriteError
from glintor.media.channel import Channel, ChannelClosed
from glintor.media.encoding import Encoding
from glintor.media.probe import ClipError
from glintor.media.read import ClipReader
from glintor.media.taken import TakenAs
from glintor.pixels import colour
from glintor.pixels.reproject import Reprojector
from glintor.reframing.course import Course
from glintor.reframing.path import Keyframe, ViewPath
from glintor.sphere.view import View
from tests.conftest import cut_off, ffprobe, frame_number, make_clip, psnr, smooth_sphere

PATH = Course(ViewPath([Keyframe(time_s=0.0), Keyframe(time_s=1.0, yaw_deg=60.0, fov_deg=70.0)]))


def output(target: Path, size=(320, 180), **options) -> Output:
    return Output(
        target=target,
        size_px=size,
        course=options.pop("course", PATH),
        encoding=Encoding(crf=4, preset="ultrafast"),
        **options,
    )


@pytest.mark.parametrize(
    ("rate", "frames"),
    [
        (Fraction(24000, 1001), 48),
        (Fraction(24), 24),
        (Fraction(25), 25),
        (Fraction(30000, 1001), 60),
        (Fraction(30), 30),
        (Fraction(50), 50),
        (Fraction(100), 100),
    ],
)
def test_frame_count_and_length_are_exact(tmp_path, rate, frames):
    source = make_clip(tmp_path / "in.mp4", rate=rate, frames=frames)
    result = render(source, [output(tmp_path / "out.mp4")])
    assert result.frames == frames and result.notes == ()
    count, shown = ffprobe(tmp_path / "out.mp4", "stream=nb_read_frames,r_frame_rate")[::-1]
    assert int(count) == frames and Fraction(shown) == rate
    assert float(ffprobe(tmp_path / "out.mp4", "stream=duration")[0]) == pytest.approx(float(frames / rate), abs=1e-6)
    assert float(ffprobe(tmp_path / "out.mp4", "stream=duration", "a:0")[0]) == pytest.approx(
        float(frames / rate), abs=0.03
    )


def test_a_cut_begins_and_ends_on_the_asked_frames(tmp_path, clip):
    result = render(clip, [output(tmp_path / "out.mp4")], start_s=6 / 24, end_s=18 / 24)
    with ClipReader(tmp_path / "out.mp4") as reader:
        decoded = list(reader.frames())
    assert result.frames == len(decoded) == 12 and result.duration_s == pytest.approx(0.5)
    assert [d.time for d in decoded] == [Fraction(n, 24) for n in range(12)]
    assert [frame_number(d.picture.y) for d in decoded] == pytest.approx(range(6, 18), abs=0.5)


def test_each_frame_shows_the_path_at_its_time(tmp_path, smooth_clip):
    render(smooth_clip, [output(tmp_path / "out.mp4", (640, 360))])
    drawn = colour.yuv(smooth_sphere(1024))
    with ClipReader(tmp_path / "out.mp4") as reader:
        for decoded in reader.frames():
            wanted = Reprojector((640, 360)).draw(drawn, PATH.at(float(decoded.time)))
            assert psnr(decoded.picture.y, wanted.y) > 54.0


def test_several_outputs_from_one_pass_match_single_ones(tmp_path, smooth_clip):
    both = [output(tmp_path / "wide.mp4"), output(tmp_path / "tall.mp4", (180, 320))]
    render(smooth_clip, both)
    render(smooth_clip, [output(tmp_path / "alone.mp4", (180, 320))])
    frames = []
    for name in ("tall.mp4", "alone.mp4"):
        with ClipReader(tmp_path / name) as reader:
            frames.append(np.stack([d.picture.y.copy() for d in reader.frames()]))
    assert (frames[0] == frames[1]).all()


def test_no_sound_track_gives_a_silent_film(tmp_path):
    source = make_clip(tmp_path / "in.mp4", sound=False)
    render(source, [output(tmp_path / "out.mp4")])
    assert ffprobe(tmp_path / "out.mp4", "stream=codec_name", "a:0") == [""]


def test_a_clip_cut_off_is_rendered_as_far_as_it_goes_and_said(tmp_path):
    whole = make_clip(tmp_path / "whole.mp4", frames=120, sound=False)
    cut = tmp_path / "cut.mp4"
    cut.write_bytes(cut_off(whole))
    result = render(cut, [output(tmp_path / "out.mp4")])
    assert 20 < result.frames < 120
    assert "ends at" in " ".join(result.notes)
    assert int(ffprobe(tmp_path / "out.mp4", "stream=nb_read_frames")[0]) == result.frames


def test_flat_clips_are_refused_and_nothing_is_written(tmp_path):
    source = make_clip(tmp_path / "flat.mp4", width=320, height=180)
    with pytest.raises(ClipError):
        render(source, [output(tmp_path / "out.mp4")])
    assert sorted(p.name for p in tmp_path.iterdir()) == ["flat.mp4"]
    assert render(source, [output(tmp_path / "out.mp4")], taken_as=TakenAs("sphere")).frames == 24


@pytest.mark.parametrize(("start", "end"), [(2.0, 3.0), (0.5, 0.5), (-1.0, 0.5)])
def test_a_part_outside_the_clip_is_refused(tmp_path, clip, start, end):
    with pytest.raises(RenderError, match="is not in"):
        render(clip, [output(tmp_path / "out.mp4")], start_s=start, end_s=end)


def test_cancel_leaves_nothing_behind(tmp_path):
    source = make_clip(tmp_path / "in.mp4", frames=240)
    (tmp_path / "to").mkdir()
    stop = threading.Event()

    def report(share: float) -> None:
        if share > 0.1:
            stop.set()

    with pytest.raises(Cancelled):
        render(source, [output(tmp_path / "to" / "a.mp4"), output(tmp_path / "to" / "b.mp4")], report=report, stop=stop)
    assert list((tmp_path / "to").iterdir()) == []


def test_an_old_film_stays_when_the_new_one_fails(tmp_path, clip):
    (tmp_path / "out.mp4").write_bytes(b"the old film")
    stop = threading.Event()
    stop.set()
    with pytest.raises(Cancelled):
        render(clip, [output(tmp_path / "out.mp4")], stop=stop)
    assert (tmp_path / "out.mp4").read_bytes() == b"the old film"


def test_no_space_left_is_said_and_leaves_nothing(tmp_path, smooth_clip):
    """A real write error from the system: the process may not write files larger than 2 kB for a moment."""
    soft, hard = resource.getrlimit(resource.RLIMIT_FSIZE)
    resource.setrlimit(resource.RLIMIT_FSIZE, (2048, hard))
    try:
        with pytest.raises(WriteError, match="No space left") as caught:
            render(smooth_clip, [output(tmp_path / "to" / "out.mp4")])
    finally:
        resource.setrlimit(resource.RLIMIT_FSIZE, (soft, hard))
    assert "unharmed" in caught.value.unharmed and list((tmp_path / "to").iterdir()) == []


def test_a_folder_that_cannot_be_made_is_said(tmp_path, clip):
    (tmp_path / "file").write_text("in the way")
    with pytest.raises(GlintorError):
        render(clip, [output(tmp_path / "file" / "out.mp4")])


def test_stills_from_clip_and_picture_agree(tmp_path, smooth_clip):
    import cv2

    cv2.imwrite(str(tmp_path / "sphere.png"), smooth_sphere(1024)[..., ::-1])
    view = View(yaw_deg=100, pitch_deg=15, fov_deg=90, bend=0.2)
    still(tmp_path / "sphere.png", view, (320, 180), tmp_path / "a.png")
    still(smooth_clip, view, (320, 180), tmp_path / "b.png", at_s=0.2)
    assert psnr(cv2.imread(str(tmp_path / "a.png")), cv2.imread(str(tmp_path / "b.png"))) > 46.0


def test_a_flat_picture_is_no_sphere(tmp_path):
    import cv2

    cv2.imwrite(str(tmp_path / "flat.png"), np.zeros((90, 160, 3), np.uint8))
    with pytest.raises(ClipError, match="160x90"):
        still(tmp_path / "flat.png", View(), (320, 180), tmp_path / "a.png")
    still(tmp_path / "flat.png", View(), (320, 180), tmp_path / "a.png", taken_as=TakenAs("sphere"))
    with pytest.raises(GlintorError, match="not written as"):
        still(tmp_path / "flat.png", View(), (320, 180), tmp_path / "a.bmp", taken_as=TakenAs("sphere"))


def test_channels_end_from_either_side():
    channel: Channel[int] = Channel(2)
    thread = threading.Thread(target=lambda: (channel.put(1), channel.put(2), channel.put(3), channel.finish()))
    thread.start()
    assert list(channel) == [1, 2, 3]
    thread.join()
    aborted: Channel[int] = Channel(1)
    aborted.put(1)
    caught = []

    def push() -> None:
        try:
            aborted.put(2)
        except ChannelClosed as error:
            caught.append(error)

    thread = threading.Thread(target=push)
    thread.start()
    aborted.abort()
    thread.join()
    assert caught
    with pytest.raises(ChannelClosed):
        next(iter(aborted))

"""What the window shows of a cut is what its film shows: followed, corrected, with an inset, frozen and at joins."""

import cv2
import numpy as np
import pytest

from glintor.desktop.reframe.screen import Request
from glintor.export.cut import Form, Wanted, others_of, render_cuts
from glintor.export.formats import Format
from glintor.media.encoding import Encoding
from glintor.media.footage import open_footage
from glintor.media.read import ClipReader
from glintor.pixels.picture import drawn
from glintor.project.followed import around_footage, targets_of
from glintor.project.model import take_of, with_cut
from glintor.project.store import clip_files, read_project
from glintor.reframing.anchor import Anchor
from glintor.reframing.arranging import turned
from glintor.reframing.beside import Beside, parts_of
from glintor.reframing.course import course_of
from glintor.reframing.cut import Cut
from glintor.reframing.freezing import with_moving_view
from glintor.reframing.own import with_own_view
from glintor.reframing.path import Keyframe
from glintor.reframing.retime import Stretch
from glintor.sphere.view import View

SHAPES = (Format("16:9", (640, 360), "small"), Format("9:16", (360, 640), "small"))


def psnr(one, other):
    return 10 * np.log10(255.0**2 / max(float(((one.astype(float) - other) ** 2).mean()), 1e-9))


@pytest.mark.parametrize("shape", SHAPES, ids=["wide", "upright"])
def test_a_followed_corrected_cut_with_an_inset_and_a_freeze_is_the_same_in_the_window_and_in_the_film(
    day, tmp_path, shape
):
    project = read_project(day)
    shot = next(s for s in project.shots if s.id == "roof-cobdale")
    take = take_of(shot, shot.cuts[0].take_id)
    anchor = Anchor(id="a", on="subject", place=(0.1, 0.0))
    rear = Cut(
        id="rear", name="rear", take_id=take.id, in_s=0.0, out_s=10.0, keys=(Keyframe(time_s=0.0, yaw_deg=170.0),)
    )
    cut = Cut(
        id="held",
        name="held",
        take_id=take.id,
        in_s=2.0,
        out_s=3.5,
        keys=(Keyframe(time_s=2.0, fov_deg=70.0, on="a"), Keyframe(time_s=3.5, yaw_deg=12.0, fov_deg=60.0, on="a")),
        anchors=(anchor,),
        beside=Beside(kind="inset", cuts=("rear",), corner="upper left"),
        speeds=(Stretch(start_s=3.0, end_s=3.0, freeze_s=0.5),),
    )
    footage = open_footage(clip_files(day, take), take.taken_as)
    around = around_footage(day, project, take, footage, None)
    targets, missing = targets_of(cut, around)
    assert not missing
    cut = with_own_view(cut, "9:16", (360, 640), 2.5, View(pitch_deg=4.0, fov_deg=40.0), 1 / 24, targets)
    cut = with_moving_view(cut, cut.speeds[0], 1 / 24, targets)  # and the view goes on over the held picture
    middle = cut.keys.index(next(k for k in cut.keys if k.time_s == 3.5))
    cut = turned(cut, {middle}, yaw_deg=25.0)
    targets, _ = targets_of(cut, around)
    shot = with_cut(with_cut(shot, rear), cut)
    project = project.with_shot(shot.id, lambda _s: shot)
    form = Form(shape, tmp_path / "film.mp4", Encoding(crf=1, preset="veryfast"))
    result = render_cuts(day, shot, [Wanted(cut, form)], project=project)["held"]
    assert result.frames == 48  # a second and a half at 24, and half a second held
    course = course_of(cut, shape.name, shape.size_px, targets=targets)
    others = others_of(shot, cut)
    own, inner = parts_of(cut.beside, shape.size_px)
    with ClipReader(form.target) as film, footage.reader() as reader:
        frames = list(film.frames())
        for number in (3, 20, 30, 40):
            clip_s = float(cut.timeline.clip_time(number / 24.0))
            decoded = reader.at(clip_s)
            at = float(cut.timeline.path_time(number / 24.0))
            parts = ((course.at(at), own), (course_of(others[0], "", inner.size_px).at(clip_s), inner))
            request = Request(clip_s, course.at(at), shape.size_px, parts=parts)
            window = drawn(request.picture_at(clip_s, footage.shows), footage.sphere(decoded), clip_s)
            scaled = [
                cv2.resize(p, None, fx=0.4, fy=0.4, interpolation=cv2.INTER_AREA)
                for p in (window.y, frames[number].picture.y)
            ]
            assert psnr(*scaled) > 45.0
    turns = course.values(cut.timeline.path_time(np.arange(24, 36) / 24.0))[:, 0]
    assert turns[-1] - turns[0] > 20.0 and np.ptp(cut.timeline.clip_time(np.arange(24, 36) / 24.0)) == 0.0

"""Joins of a film: what is drawn and heard round them."""

import numpy as np
import pytest
from msgspec.structs import replace

from glintor.export.cut import Form, render_joined, strands_of
from glintor.export.formats import FORMATS, Format, course_for
from glintor.export.soundtrack import crossed, sound_in_a_row
from glintor.media.encoding import Encoding
from glintor.media.footage import Footage
from glintor.media.read import ClipReader
from glintor.media.sound import RATE_HZ, whole_sound
from glintor.project.films import angles, film_findings
from glintor.project.model import Film, Piece, with_cut
from glintor.project.store import read_project
from glintor.reframing.cut import Cut
from glintor.reframing.joins import Join, Seam
from glintor.reframing.path import Keyframe
from glintor.reframing.retime import Stretch, Timeline
from glintor.sphere.equirect import direction

SMALL = Format("16:9", (320, 180), "small")


def cut_of(name, yaw, in_s=1.0, out_s=3.0, **more):
    return Cut(
        id=name, name=name, take_id="t", in_s=in_s, out_s=out_s, keys=(Keyframe(time_s=0.0, yaw_deg=yaw),), **more
    )


def look(course, time_s):
    view = course.at(time_s)
    return direction(view.yaw_deg, view.pitch_deg)


def test_a_whip_leaves_and_comes_in_at_one_speed_and_nothing_else_moves():
    join, first, second = Join(kind="whip", length_s=0.6), cut_of("a", 0.0), cut_of("b", 100.0)
    out = course_for(first, FORMATS[0]).joined(Seam(first.timeline, None, join), first.in_s)
    into = course_for(second, FORMATS[0]).joined(Seam(second.timeline, join, None), second.in_s)
    assert out.at(2.6).yaw_deg == pytest.approx(0.0) and into.at(1.4).yaw_deg == pytest.approx(100.0)
    h = 1e-3
    leaving = (out.at(3.0 - h).yaw_deg - out.at(3.0 - 2 * h).yaw_deg) / h
    coming = (into.at(1.0 + 2 * h).yaw_deg - into.at(1.0 + h).yaw_deg) / h
    assert leaving == pytest.approx(coming, rel=0.02) and leaving > 700.0
    seam = Seam(first.timeline, None, join)
    assert len(seam.exposed(2.0, 0.04)) == 1 and len(seam.exposed(2.9, 0.04)) > 5


def test_a_view_goes_on_from_the_cut_before_and_arrives_at_its_own():
    join, first, second = Join(kind="match", length_s=1.0), cut_of("a", 350.0), cut_of("b", 40.0)
    seen = course_for(first, FORMATS[0]).through_lens(np.array([3.0]))[0]
    course = course_for(second, FORMATS[0]).joined(Seam(second.timeline, join, None, seen), second.in_s)
    assert look(course, 1.0) == pytest.approx(direction(350.0, 0.0), abs=1e-9)
    assert look(course, 2.0) == pytest.approx(direction(40.0, 0.0), abs=1e-9)
    turn = np.unwrap(np.radians(course.values(np.linspace(1.0, 2.0, 50))[:, 0]))
    assert np.degrees(np.ptp(turn)) == pytest.approx(50.0, abs=0.1)  # the short way


def test_a_dip_is_dark_at_the_join_in_film_time_whatever_the_speed():
    timeline = Timeline(0.0, 8.0, (Stretch(start_s=0.0, end_s=8.0, speed=4.0),))
    seam = Seam(timeline, Join(kind="dip", length_s=0.8), None)
    assert (seam.brightness(0.0), seam.brightness(1.6)) == pytest.approx((0.0, 1.0))
    assert 0.3 < seam.brightness(0.8) < 0.7


def test_sound_before_dies_away_under_what_follows_as_loud_as_each_alone():
    rng = np.random.default_rng(3)
    before, after = (rng.normal(0.0, 0.1, (2, RATE_HZ)).astype(np.float32) for _ in range(2))
    mixed = np.concatenate(list(crossed(before, iter([after[:, :30000], after[:, 30000:]]))), axis=1)
    assert mixed.shape == after.shape
    loud = [float(mixed[:, a : a + 4800].std()) for a in range(0, RATE_HZ, 4800)]
    assert min(loud) > 0.09 and max(loud) < 0.11
    assert (
        np.abs(mixed[:, :200] - before[:, :200]).max() < 0.02 and np.abs(mixed[:, -200:] - after[:, -200:]).max() < 0.02
    )


def test_a_film_with_joins_is_rendered_as_its_cuts_with_the_joins_in_them(day, tmp_path, monkeypatch):
    project = read_project(day)
    shot = next(s for s in project.shots if s.cuts)
    cut = replace(shot.cuts[0], in_s=1.0, out_s=2.5, speeds=(), moves=(), id="one")
    other = replace(cut, id="two", in_s=4.0, out_s=5.5)
    project = project.with_shot(shot.id, lambda s: with_cut(with_cut(s, cut), other))
    pieces = tuple(
        Piece(shot_id=shot.id, cut_id=c, join=j)
        for c, j in (("one", Join()), ("two", Join(kind="dip", length_s=0.5, carry_s=0.3)))
    )
    film = Film(id="f", name="f", pieces=pieces, wanted_s=10.0)
    plain = replace(film, pieces=tuple(replace(p, join=Join()) for p in pieces))
    written = []
    for name, made in (("joined", film), ("plain", plain)):
        form = Form(SMALL, tmp_path / f"{name}.mp4", Encoding(crf=8))
        result = render_joined(day, project, made, [form])
        assert result.duration_s == pytest.approx(3.0, abs=0.05)
        with ClipReader(form.target) as reader:
            written.append([f.picture.y.astype(float).copy() for f in reader.frames()])
    at = len(written[0]) // 2
    assert written[0][at].max() < 40 and written[1][at].max() > 100
    for n in (2, at - 9, at + 9, -3):
        assert np.abs(written[0][n] - written[1][n]).mean() < 1.5
    heard = [whole_sound(tmp_path / f"{name}.mp4") for name in ("joined", "plain")]
    start = round(1.5 * RATE_HZ)
    assert np.abs(heard[0][:, start : start + 4800] - heard[1][:, start : start + 4800]).max() > 1e-3
    strands = strands_of(day, project, film, SMALL)  # as it is heard before it is made
    before = np.concatenate(list(sound_in_a_row(strands)), axis=1)
    n = min(before.shape[1], heard[0].shape[1])
    assert abs(before.shape[1] - 3 * RATE_HZ) <= 1 and np.abs(before[:, :n] - heard[0][:, :n]).mean() < 2e-3
    for from_s in (0.7, 1.9):
        rest, at = np.concatenate(list(sound_in_a_row(strands, from_s)), axis=1), round(from_s * RATE_HZ)
        assert rest.shape[1] == before.shape[1] - at
        assert (
            np.corrcoef(rest[0], before[0, at:])[0, 1] > 0.97
        )  # not to the bit: the decoder makes some noise of its own
    monkeypatch.setattr(
        Footage, "draft", lambda self: replace(self, files=(tmp_path / "small.mp4",))
    )  # its stand-in is silent
    small = np.concatenate(list(sound_in_a_row(strands_of(day, project, film, SMALL))), axis=1)
    assert small.shape == before.shape and np.corrcoef(small[0], before[0])[0, 1] > 0.97
    assert "7.0 s too short" in film_findings(project, film)
    assert angles(project, film)[0][1] <= 1.0 and sum(share for _, share in angles(project, film)) == pytest.approx(1.0)

"""Freezes in which the view moves: the path's time against the clip's and the film's."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from glintor.reframing import freezing, moves
from glintor.reframing.course import shared
from glintor.reframing.cut import Cut, Offset, Own
from glintor.reframing.path import Keyframe
from glintor.reframing.path_clock import PathClock
from glintor.reframing.retime import PaceError, Stretch, Timeline, with_stretch
from glintor.reframing.track import track_of

STEP = 1 / 25
KEYS = (Keyframe(time_s=0.0), Keyframe(time_s=4.0, yaw_deg=40.0), Keyframe(time_s=8.0, yaw_deg=0.0))
CUT = Cut(id="c", name="c", take_id="t", in_s=1.0, out_s=9.0, keys=KEYS)
freezes = st.lists(
    st.tuples(st.integers(0, 40).map(lambda n: n / 4), st.integers(1, 20).map(lambda n: n / 5)),
    max_size=4,
    unique_by=lambda one: one[0],
)


@given(freezes)
def test_a_path_clock_counts_every_freeze_once_and_comes_back(held):
    clock = PathClock(tuple(sorted(held)))
    fine = np.arange(
        0.0, 10.001, 0.001
    )  # by counting: each step of the clip is one of the path, each freeze its length more
    counted = fine + np.array([sum(length for at, length in held if at < t - 1e-6) for t in fine])
    assert np.allclose(clock.path_s(fine), counted)
    assert np.allclose(clock.clip_s(clock.path_s(fine)), fine) and np.allclose(
        clock.clip_s(clock.path_s(fine, after=True)), fine
    )
    path = np.linspace(-1.0, 30.0, 500)
    assert (np.diff(clock.clip_s(path)) >= -1e-9).all()


@settings(max_examples=30)
@given(freezes, st.booleans(), st.floats(0.5, 4.0))
def test_film_path_and_clip_agree_on_every_moment(held, backwards, speed):
    stretches = tuple(Stretch(start_s=at, end_s=at, freeze_s=length, view_moves=True) for at, length in held)
    stretches = with_stretch(stretches, Stretch(start_s=2.0, end_s=6.0, speed=speed, backwards=backwards))
    timeline = Timeline(1.0, 8.0, stretches)
    film = np.linspace(0.0, timeline.duration_s, 300)
    path, clip = timeline.path_time(film), timeline.clip_time(film)
    assert np.allclose(timeline.clock.clip_s(path), clip, atol=1e-6)
    for moment, where in zip(film[:-1].tolist(), path[:-1].tolist(), strict=True):
        found = timeline.film_of_path(where)
        assert timeline.path_time(found) == pytest.approx(where, abs=1e-6)
        assert backwards or found == pytest.approx(moment, abs=1e-6)
    assert np.array_equal(timeline.schedule(25.0).path_s, timeline.path_time(np.arange(timeline.frames(25.0)) / 25.0))


def test_in_an_opened_freeze_the_view_rests_until_it_is_turned():
    held = freezing.held(CUT, 5.0, STEP)
    before = shared(held).values([0.0, 4.0, 5.0, 8.0])
    cut = freezing.with_moving_view(held, held.speeds[0], STEP)
    assert cut.span_s == (1.0, 11.0) and cut.timeline.duration_s == held.timeline.duration_s == 10.0
    after = shared(cut).values([0.0, 4.0, 5.0, 10.0])
    assert np.allclose(after, before) and np.ptp(shared(cut).values(np.linspace(5.0, 7.0, 20))[:, 0]) < 1e-9
    assert freezing.with_still_view(cut, cut.speeds[0]).keys[-1].time_s == 8.0
    gone = freezing.held(cut, 6.0, STEP)  # anywhere in it
    assert gone.speeds == () and [k.time_s for k in gone.keys] == [0.0, 4.0, 5.0, 8.0]


def test_what_lies_behind_and_in_a_freeze_goes_along_with_its_length():
    cut = replace(CUT, own=(Own(shape="9:16", offsets=(Offset(time_s=2.0), Offset(time_s=7.0))),))
    cut = moves.make_move(cut, "pendulum", (6.0, 7.5), name="swing")
    cut = freezing.held(cut, 5.0, STEP)
    cut = freezing.with_moving_view(cut, cut.speeds[0], STEP)
    cut = replace(cut, keys=tuple(sorted([*cut.keys, Keyframe(time_s=6.0, yaw_deg=90.0)], key=lambda k: k.time_s)))
    longer = freezing.with_freeze_length(cut, cut.speeds[0], 4.0)
    assert {6.0: 7.0, 7.0: 9.0, 10.0: 12.0}.items() <= dict(
        zip([k.time_s for k in cut.keys], [k.time_s for k in longer.keys], strict=True)
    ).items()
    assert [o.time_s for o in longer.own[0].offsets] == [2.0, 11.0]
    assert (longer.moves[0].start_s, longer.moves[0].end_s) == (10.0, 11.5) and moves.settled(longer) == longer
    shortest = freezing.with_freeze_length(cut, cut.speeds[0], 0.01)
    assert shared(shortest).at(5.0) and shortest.speeds[0].freeze_s >= STEP
    with pytest.raises(PaceError):
        freezing.with_freeze_length(cut, cut.speeds[0], 900.0)


def test_what_is_known_of_the_clip_rests_in_a_freeze():
    track = track_of([(t, 10.0 * t, 0.0, 3.0) for t in range(11)])
    told = track.on(PathClock(((5.0, 2.0),)))
    assert told.at(np.array([4.0, 5.0, 6.0, 7.0, 8.0])).yaw_deg.tolist() == pytest.approx([40, 50, 50, 50, 60])

"""The course of a cut in each shape, and edits that give another cut."""

import numpy as np
import pytest
from msgspec.structs import replace

from glintor.reframing import arranging, edits, freezing
from glintor.reframing.anchor import Anchor
from glintor.reframing.course import course_of
from glintor.reframing.cut import Cut, Move, Offset, Own
from glintor.reframing.following import followed
from glintor.reframing.path import Keyframe
from glintor.reframing.retime import Stretch
from glintor.sphere.rotation import view_matrix
from glintor.sphere.turn import TurnTrack
from glintor.sphere.view import View, as_set, focal_px, for_shape

KEYS = (Keyframe(time_s=0.0), Keyframe(time_s=4.0, yaw_deg=90.0, fov_deg=60.0))
CUT = Cut(id="c", name="c", take_id="t", in_s=0.0, out_s=8.0, keys=KEYS)
STEP = 1 / 24
UPRIGHT = ("9:16", (1080, 1920))


def test_a_shape_has_the_same_lens_turned_and_its_own_corrections_only():
    own = Own(shape="9:16", offsets=(Offset(time_s=2.0), Offset(time_s=4.0, yaw_deg=10.0, pitch_deg=-5.0, tighter=2.0)))
    cut = replace(CUT, own=(own,))
    wide, plain, upright = (
        course_of(c, *s) for c, s in ((cut, ("16:9", (1920, 1080))), (CUT, UPRIGHT), (cut, UPRIGHT))
    )
    for time in (0.0, 1.0, 3.0, 6.0):
        assert focal_px(wide.at(time), 1920) == pytest.approx(focal_px(plain.at(time), 1080), rel=1e-9)
    assert upright.at(1.0) == plain.at(1.0)  # before the first offset it rests there
    assert upright.at(6.0).yaw_deg == pytest.approx(100.0) and upright.at(6.0).pitch_deg == pytest.approx(-5.0)
    assert focal_px(upright.at(6.0), 1080) == pytest.approx(2 * focal_px(plain.at(6.0), 1080), rel=1e-6)
    assert 90.0 < upright.at(3.0).yaw_deg + 90.0 - plain.at(3.0).yaw_deg < 100.0


def test_a_view_goes_to_a_shape_and_back():
    view = View(yaw_deg=12.0, fov_deg=80.0, bend=0.3)
    assert as_set(for_shape(view, (1080, 1920)), (1080, 1920)).fov_deg == pytest.approx(80.0, rel=1e-9)
    assert for_shape(view, (1920, 1080)).fov_deg == pytest.approx(80.0, rel=1e-9)


def test_a_followed_target_carries_the_path_and_a_turning_footage_turns_the_sight():
    times = np.linspace(0.0, 8.0, 201)
    passing = followed(Anchor(id="a", on="travel", smooth_s=0.0), times, 30.0 * times, np.full(201, -4.0))
    cut = replace(CUT, keys=(Keyframe(time_s=0.0, yaw_deg=5.0, on="a"),))
    course = course_of(cut, *UPRIGHT, targets={"a": passing})
    assert (course.at(2.0).yaw_deg, course.at(2.0).pitch_deg) == pytest.approx((65.0, -4.0))
    half = np.sin(np.pi / 4)
    turns = TurnTrack([0.0, 1.0], [[0, 0, 0, 1], [0, 0, -half, half]])  # right by 90 in a second
    sight = course_of(CUT, *UPRIGHT, turns=turns).sight(1.0)
    assert sight.matrix == pytest.approx(view_matrix(-90.0 + course_of(CUT, *UPRIGHT).at(1.0).yaw_deg, 0, 0), abs=1e-9)


def test_a_view_is_set_at_a_moment_and_no_other_keyframe_changes():
    cut = edits.with_view(CUT, 2.0, View(yaw_deg=-350.0), STEP)
    assert len(cut.keys) == 3 and cut.keys[1].yaw_deg == 10.0  # on the turn of the path
    assert edits.key_at(cut, 2.01, STEP) == 1 and edits.key_at(cut, 2.5, STEP) is None
    again = edits.with_view(cut, 2.01, View(yaw_deg=20.0), STEP)
    assert len(again.keys) == 3 and again.keys[1].yaw_deg == 20.0 and again.keys[::2] == KEYS
    assert arranging.without(again, {1}) == CUT
    one = replace(CUT, keys=KEYS[:1])
    assert arranging.without(one, {0}) == one
    assert arranging.moved(CUT, {1}, -9.0, STEP, 8.0).keys[1].time_s == pytest.approx(STEP, abs=1e-4)


def test_ends_stand_on_whole_frames_and_leave_a_film():
    moved = edits.with_ends(CUT, step_s=STEP, duration_s=8.0, in_s=1.01)
    assert moved.in_s == pytest.approx(24 * STEP) and moved.out_s == 8.0
    for wrong in ({"in_s": 8.0}, {"out_s": 0.0}, {"out_s": 9.0}, {"in_s": -1.0}):
        assert edits.with_ends(CUT, step_s=STEP, duration_s=8.0, **wrong) == CUT


def test_speed_is_laid_over_the_part_the_change_at_hand_or_all():
    cut, laid = edits.with_pace(CUT, (2.0, 4.0), 0.0, speed=4.0)
    assert laid.words == "×4" and cut.timeline.duration_s == pytest.approx(6.5)
    again, _ = edits.with_pace(cut, None, 3.0, speed=2.0)
    assert again.speeds == (Stretch(start_s=2.0, end_s=4.0, speed=2.0),)
    whole, _ = edits.with_pace(CUT, None, 3.0, backwards=True)
    assert whole.speeds[0].start_s == 0.0 and whole.speeds[0].end_s == 8.0
    frozen = freezing.held(cut, 1.0, STEP)
    assert frozen.timeline.duration_s == pytest.approx(8.5) and freezing.held(frozen, 1.01, STEP) == cut


def test_spreading_leaves_nothing_out_and_takes_along_what_belongs_to_it():
    """Holds behind give their time down to half a second; where even that is too little it is refused."""
    times = (0.0, 2.0, 4.0, 7.0, 8.0)
    yaws = (0.0, 0.0, 60.0, 60.0, 90.0)
    keys = tuple(replace(KEYS[0], time_s=t, yaw_deg=y) for t, y in zip(times, yaws, strict=True))
    own = (Own(shape="9:16", offsets=(Offset(time_s=3.0), Offset(time_s=7.5))),)
    moves = (Move(id="m", kind="drift", start_s=4.0, end_s=7.0, amount=1.0, opening=View(), closing=View()),)
    cut = replace(CUT, keys=keys, own=own, moves=moves)
    roomy = arranging.with_moves_spread(cut, 2.0, 4.0, 4.0, 20.0)
    assert [k.time_s for k in roomy.keys] == [0.0, 2.0, 6.0, 9.0, 10.0]
    assert [o.time_s for o in roomy.own[0].offsets] == [4.0, 9.5] and roomy.moves[0].start_s == 6.0
    tight = arranging.with_moves_spread(cut, 2.0, 4.0, 4.0, 8.0)
    assert [k.time_s for k in tight.keys] == [0.0, 2.0, 6.0, 7.0, 8.0] and len(tight.keys) == 5
    assert (tight.moves[0].start_s, tight.moves[0].end_s) == (6.0, 7.0) and tight.own[0].offsets[1].time_s == 7.5
    assert arranging.with_moves_spread(cut, 2.0, 4.0, 4.5, 8.0) is not None
    assert arranging.with_moves_spread(cut, 2.0, 4.0, 4.51, 8.0) is None


def test_a_spread_move_keeps_its_start_and_a_fresh_cut_has_the_planned_views():
    assert [k.time_s for k in arranging.with_moves_spread(CUT, 0.0, 4.0, 6.0, 8.0).keys] == [0.0, pytest.approx(6.0)]
    fresh = edits.fresh_cut("n", "N", "t", 5.0, subject=(40.0, -3.0))
    assert (fresh.keys[0].yaw_deg, fresh.keys[0].pitch_deg, fresh.span_s) == (40.0, -3.0, (0.0, 5.0))
    planned = edits.fresh_cut("n", "N", "t", 5.0, opening=KEYS[0], closing=KEYS[1])
    assert planned.keys == (KEYS[0], replace(KEYS[1], time_s=5.0))

"""Ways from view to view, paths held on something that moves, what a shape has of its own, and several keyframes at once."""

import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from scipy.integrate import solve_ivp
from scipy.spatial.transform import Rotation, Slerp

from glintor.reframing import arranging, edits, freezing
from glintor.reframing.anchor import Anchor
from glintor.reframing.beside import Beside
from glintor.reframing.between import RHO, drawn_back, great_circle, over_the_top
from glintor.reframing.course import course_of, shared
from glintor.reframing.curve import Curve
from glintor.reframing.cut import Cut, Move
from glintor.reframing.following import followed, taut
from glintor.reframing.holding import held_on, held_over, let_go_at
from glintor.reframing.motion import motion_of
from glintor.reframing.own import own_of, with_own_view, without_own
from glintor.reframing.path import Keyframe, PathError, ViewPath
from glintor.reframing.path_file import with_path_of, write_path_of
from glintor.reframing.retime import Stretch
from glintor.sphere.equirect import direction
from glintor.sphere.rotation import view_matrix
from glintor.sphere.view import View, frame_position

STEP = 1 / 25
WIDE, UPRIGHT = ("16:9", (1920, 1080)), ("9:16", (1080, 1920))
TIMES = np.linspace(0.0, 12.0, 301)


def cut_of(*keys, **more):
    return Cut(id="c", name="c", take_id="t", in_s=0.0, out_s=12.0, keys=keys, **more)


def key(time_s, yaw=0.0, pitch=0.0, fov=90.0, **more):
    return Keyframe(time_s=time_s, yaw_deg=yaw, pitch_deg=pitch, fov_deg=fov, **more)


def walker(anchor="a", **how):
    """Somebody who passes behind the camera, over the turn at 180 degrees, weaving."""
    yaw = 120.0 + 14.0 * TIMES + 4.0 * np.sin(1.5 * TIMES)
    return followed(
        Anchor(id=anchor, on="subject", **how), TIMES, yaw, -3.0 + 0.0 * TIMES, tightness=np.log(1 + TIMES / 12)
    ), yaw


# Ways
def test_a_great_circle_is_scipys_slerp_of_the_axis():
    done = np.linspace(0.0, 1.0, 41)
    start, end = np.array([20.0, 10.0]), np.array([150.0, 55.0])
    got = great_circle(start, end, done)
    a, b = direction(*start), direction(*end)
    axis = np.cross(a, b) / np.linalg.norm(np.cross(a, b))
    turn = Slerp([0, 1], Rotation.concatenate([Rotation.identity(), Rotation.from_rotvec(axis * np.arccos(a @ b))]))
    assert direction(got[:, 0], got[:, 1]) == pytest.approx(turn(done).apply(a), abs=1e-9)
    assert np.abs(np.diff(got[:, 0])).max() < 15.0


@pytest.mark.parametrize("end", [[180.0, 0.0, 0.0], [160.0, -10.0, 5.0], [-120.0, 20.0, 0.0]])
def test_over_the_top_goes_through_straight_up_and_arrives_upright(end):
    done, start, end = np.linspace(0.0, 1.0, 401), np.array([0.0, 5.0, 0.0]), np.array(end)
    got = over_the_top(start, end, done)
    turns = view_matrix(*got.T)
    assert turns[0] == pytest.approx(view_matrix(*start), abs=1e-9)
    assert turns[-1] == pytest.approx(view_matrix(*end), abs=1e-9)
    assert turns[:, 2, 0].max() > np.cos(np.radians(1.0))
    steps = Rotation.from_matrix(turns[1:] @ np.swapaxes(turns[:-1], 1, 2)).magnitude()
    assert np.degrees(steps).max() < 1.6  # no sudden spin on the way: 401 steps of at most 180 + 180 degrees and more


def test_drawing_back_is_van_wijk_and_nuijs_shortest_way():
    """Their path is the shortest in the metric ds^2 = (rho^2 du^2 + dw^2 / rho^2) / w^2 (from memory of the paper), solved by scipy."""
    u1, w0, w1 = 2.0, 0.5, 0.8
    done = np.linspace(0.0, 1.0, 201)
    u, log_focal = drawn_back(u1, (-np.log(w0), -np.log(w1)), done)
    u, w = u * u1, np.exp(-log_focal)
    du, dw = np.gradient(u, done), np.gradient(w, done)
    ds = np.sqrt(RHO**2 * du**2 + dw**2 / RHO**2) / w  # what a viewer sees of it
    inner = slice(2, -2)
    assert ds[inner] == pytest.approx(ds[inner].mean(), rel=2e-3)  # it looks even all along
    assert (u[0], u[-1], w[0], w[-1]) == pytest.approx((0.0, u1, w0, w1))
    assert w.max() > 1.2 * max(w0, w1)

    def geodesic(_s, y):  # of the metric (rho^2 du^2 + dw^2 / rho^2) / w^2
        w_, up, wp = y[1:]
        return [up, wp, 2 * up * wp / w_, (wp**2 - RHO**4 * up**2) / w_]

    just_after = drawn_back(u1, (-np.log(w0), -np.log(w1)), np.array([1e-6]))
    begin = [u[0], w[0], just_after[0][0] * u1 / 1e-6, (np.exp(-just_after[1][0]) - w0) / 1e-6]
    solved = solve_ivp(geodesic, (0.0, 1.0), begin, t_eval=done, rtol=1e-10, atol=1e-12)
    assert solved.y[0] == pytest.approx(u, abs=2e-4) and solved.y[1] == pytest.approx(w, abs=2e-4)


def test_eases_hold_their_promise():
    times, values = np.array([0.0, 1.0, 3.0, 4.0]), np.array([[0.0], [1.0], [5.0], [6.0]])
    flow = ["flow"] * 4
    soft = Curve(times, values, (0.0, 4.0), (flow, ["flow", "soft", "flow", "flow"]))
    even = Curve(times, values, (0.0, 4.0), (["flow", "flow", "even", "flow"], ["flow", "even", "flow", "flow"]))

    def slope(curve, at):
        return float((curve.at(at + 1e-5) - curve.at(at - 1e-5))[0, 0] / 2e-5)

    assert slope(soft, 1.0 + 2e-5) == pytest.approx(0.0, abs=1e-2)
    assert [slope(even, t) for t in (1.2, 2.0, 2.8)] == pytest.approx([2.0] * 3, abs=1e-6)
    gentle = Curve(times, values, (0.0, 4.0), (["flow", "flow", "soft", "flow"], ["flow", "soft", "flow", "flow"]))
    half = gentle.at(np.array([1.0, 2.0, 3.0]))[:, 0]
    assert half == pytest.approx([1.0, 3.0, 5.0])
    assert np.diff(gentle.at(np.linspace(1.0, 3.0, 99))[:, 0]).min() >= 0.0


def test_a_gentle_move_jerks_less_than_one_in_full_flow():
    rough = cut_of(key(2.0), key(3.5, 90.0))
    gentle = arranging.eased(arranging.eased(rough, {0}, leaves="soft"), {1}, arrives="soft")
    times = np.linspace(1.0, 5.0, 400)
    jerks = [motion_of(shared(cut), times).jerk_deg_s3.max() for cut in (rough, gentle)]
    assert jerks[1] < 0.75 * jerks[0]
    peak = 60.0 * 90.0 / 1.5**3  # of the least jerk at its ends: Flash & Hogan (1985)
    assert motion_of(shared(gentle), np.array([2.04])).jerk_deg_s3[0] == pytest.approx(peak, rel=0.25)


# Held on
def test_calm_looks_both_ways_and_a_dead_zone_lets_it_rest():
    at = np.linspace(3.0, 9.0, 61)
    moves, yaw = walker(smooth_s=0.3)
    assert moves.added(at)[:, 0] == pytest.approx(np.interp(at, TIMES, yaw), abs=0.5)  # no lag at 14 degrees a second
    sway = 5.0 * np.sin(2.0 * TIMES)
    rests = followed(Anchor(id="a", on="subject", dead_deg=6.0), TIMES, sway, 0 * TIMES)
    assert np.ptp(rests.adds[:, 0]) < 0.5
    line = taut(sway + 3.0 * TIMES, 2.0)
    assert np.abs(line - sway - 3.0 * TIMES).max() <= 2.0 + 1e-9


@given(st.lists(st.floats(-50, 50), min_size=2, max_size=40), st.floats(0.1, 20))
def test_a_string_pulled_tight_stays_in_its_tube_and_none_is_shorter(values, slack):
    values = np.array(values)
    line = taut(values, slack)
    assert np.abs(line - values).max() <= slack + 1e-6
    length = np.sqrt(1 + np.diff(line) ** 2).sum()
    lazy = values * 1.0  # the tube's own middle is one way through it
    assert length <= np.sqrt(1 + np.diff(lazy) ** 2).sum() + 1e-6


@pytest.mark.parametrize("shape", [WIDE, UPRIGHT])
def test_what_is_followed_stands_where_in_the_frame_it_is_wanted(shape):
    target, yaw = walker(smooth_s=0.25, place=(0.17, -0.1))
    cut = cut_of(key(0.0, fov=70.0, on="a"), anchors=(Anchor(id="a", on="subject"),))
    course, (width, height) = course_of(cut, *shape, targets={"a": target}), shape[1]
    for time in (2.0, 5.5, 9.0):
        x, y = frame_position(course.at(time), (width, height), direction(np.interp(time, TIMES, yaw), -3.0))
        assert x / width - 0.5 == pytest.approx(0.17, abs=0.05 * (1 if width > height else height / width))
        assert 0.5 - y / height == pytest.approx(-0.1, abs=0.05)


def test_lead_room_lies_ahead_of_what_crosses():
    target, yaw = walker(smooth_s=0.25, lead=0.2)
    cut = cut_of(key(0.0, fov=90.0, on="a"))
    x, _ = frame_position(
        course_of(cut, *WIDE, targets={"a": target}).at(6.0), WIDE[1], direction(np.interp(6.0, TIMES, yaw), -3.0)
    )
    assert 0.25 < x / 1920 < 0.40  # it crosses to the right and stands left of the middle


def test_going_over_to_a_followed_subject_and_back_is_smooth_and_ends_where_it_should():
    target, yaw = walker()
    cut = cut_of(
        key(0.0), key(2.0), key(4.0, on="a"), key(8.0, on="a"), key(10.0, 30.0), anchors=(Anchor(id="a", on="subject"),)
    )
    course, at = shared(cut, {"a": target}), np.linspace(0.0, 12.0, 1201)
    values = course.values(at)
    assert course.at(1.0).yaw_deg == pytest.approx(0.0, abs=1e-9)
    seen = course.values(np.array([5.0, 7.0]))[:, 0]
    assert np.abs((seen - np.interp([5.0, 7.0], TIMES, yaw) + 180) % 360 - 180).max() < 1.0
    assert (values[-1, 0] - 30.0 + 180) % 360 - 180 == pytest.approx(0.0, abs=1e-6)
    speed = np.diff(values[:, 0]) / np.diff(at)
    assert np.abs(np.diff(speed)).max() < 6.0  # no kink: at most 600 degrees a second squared


def test_holding_on_and_letting_go_changes_nothing_at_the_keyframes():
    target, _ = walker(width=True, place=(0.1, 0.05))
    anchor = Anchor(id="a", on="subject", width=True, place=(0.1, 0.05))
    cut = cut_of(key(1.0, 100.0, 5.0), key(5.0, 170.0, -4.0, 60.0), key(9.0, 260.0))
    on = held_on(cut, 1, anchor, {"a": target})
    assert [k.on for k in on.keys] == ["", "a", "a"] and on.anchors == (anchor,)
    off = held_on(on, 1, None, {"a": target})
    assert not off.anchors and not any(k.on for k in off.keys)
    for one in (on, off):
        course = shared(one, {"a": target})
        for k in cut.keys:
            view = course.at(k.time_s)
            assert (view.yaw_deg - k.yaw_deg + 180) % 360 - 180 == pytest.approx(0.0, abs=1e-5)
            assert (view.pitch_deg, view.fov_deg) == pytest.approx((k.pitch_deg, k.fov_deg), abs=1e-4)
    set_ = edits.with_view(on, 7.0, View(yaw_deg=200.0, pitch_deg=2.0, fov_deg=80.0), STEP, {"a": target})
    view = shared(set_, {"a": target}).at(7.0)
    assert (view.yaw_deg % 360, view.pitch_deg, view.fov_deg) == pytest.approx((200.0, 2.0, 80.0), abs=1e-4)
    centred = held_on(cut, 1, anchor, {"a": target}, centred=True)
    assert (centred.keys[1].yaw_deg, centred.keys[1].pitch_deg) == pytest.approx((0.0, 0.0))


# A shape's own
def test_a_shape_has_its_own_until_it_is_taken_back():
    target, _ = walker(place=(0.17, 0.0))
    cut = cut_of(key(0.0, on="a"), key(8.0, 20.0, on="a"), anchors=(Anchor(id="a", on="subject"),))
    targets = {"a": target}
    shown = replace(course_of(cut, *UPRIGHT, targets=targets).at(4.0), pitch_deg=11.0, roll_deg=3.0)
    own = with_own_view(cut, *UPRIGHT, 4.0, shown, STEP, targets)
    got = course_of(own, *UPRIGHT, targets=targets).at(4.0)
    assert (got.pitch_deg, got.roll_deg, got.fov_deg) == pytest.approx((11.0, 3.0, shown.fov_deg), abs=1e-6)
    assert course_of(own, *WIDE, targets=targets).at(4.0) == course_of(cut, *WIDE, targets=targets).at(4.0)
    wanted = replace(got, pitch_deg=-20.0)  # now for all: this shape shows it, with what it has of its own
    all_ = edits.with_shown(own, *UPRIGHT, 6.0, wanted, STEP, targets)
    assert course_of(all_, *UPRIGHT, targets=targets).at(6.0).pitch_deg == pytest.approx(-20.0, abs=1e-4)
    assert own_of(all_, "9:16") == own_of(own, "9:16") and without_own(own, "9:16") == cut


# Several keyframes
KEYS = (key(1.0), key(3.0), key(4.0, 90.0), key(6.0, 90.0, fov=50.0))


def test_holds_and_moves_are_told_and_can_be_lengthened():
    cut = cut_of(*KEYS)
    assert [s.words for s in arranging.stages(cut.keys)] == ["hold 2.0 s", "move 1.0 s", "move 2.0 s"]
    longer = arranging.with_length(cut, 1, 2.5, STEP, 12.0)
    assert [k.time_s for k in longer.keys] == pytest.approx([1.0, 3.0, 5.5, 7.5])
    assert [k.time_s for k in arranging.with_length(cut, 1, 90.0, STEP, 12.0).keys] == pytest.approx(
        [1.0, 3.0, 10.0, 12.0]
    )
    part = arranging.lengthened(cut, (2.0, 5.0), 6.0, STEP, 12.0)
    assert [k.time_s for k in part.keys] == pytest.approx([1.0, 4.0, 6.0, 9.0])


def test_way_round_turns_along_what_follows():
    cut = cut_of(key(0.0), key(2.0, 90.0), key(4.0, 100.0))
    assert [k.yaw_deg for k in arranging.way_round(cut, 1, 0, longer=True).keys] == pytest.approx([0, -270, -260])
    assert [k.yaw_deg for k in arranging.way_round(cut, 1, 2).keys] == pytest.approx([0, 810, 820])
    long_way = arranging.way_round(cut, 1, 0, longer=True)
    assert arranging.way_round(long_way, 1, 0) == cut


def test_copied_keyframes_go_into_another_cut_on_the_nearest_turn():
    other = replace(cut_of(key(0.0, 725.0), key(11.0, 700.0)), id="o")
    new = arranging.pasted(other, KEYS[1:3], 5.0, STEP, 12.0)
    assert [k.time_s for k in new.keys] == pytest.approx([0.0, 5.0, 6.0, 11.0])
    assert [k.yaw_deg for k in new.keys] == pytest.approx([725.0, 720.0, 810.0, 700.0])


PASSING = {"a": walker()[0]}


def frozen(cut, value, change):
    """A cut with one of its freezes changed."""
    freezes = [s for s in cut.speeds if s.freeze_s]
    return change(freezes[int(abs(value)) % len(freezes)]) if freezes else cut


EDITS = {
    "move": lambda cut, n, v: arranging.moved(cut, {n}, v, STEP, 12.0),
    "turn": lambda cut, n, v: arranging.turned(cut, {n}, 40 * v, 20 * v, 1.5),
    "drop": lambda cut, n, v: arranging.without(cut, {n}),
    "length": lambda cut, n, v: arranging.with_length(cut, n, v, STEP, 12.0),
    "part": lambda cut, n, v: arranging.lengthened(cut, (1.0, 5.0), abs(v) + 0.2, STEP, 12.0),
    "over": lambda cut, n, v: arranging.eased(cut, {n}, arrives="soft", way="over", draws_back=v > 0),
    "great": lambda cut, n, v: arranging.eased(cut, {n}, leaves="even", way="great", draws_back=v > 0),
    "round": lambda cut, n, v: arranging.way_round(cut, n, int(v)),
    "paste": lambda cut, n, v: arranging.pasted(cut, cut.keys[: n + 1], abs(v), STEP, 12.0),
    "set": lambda cut, n, v: edits.with_view(cut, round(abs(v) / STEP) * STEP, View(yaw_deg=50 * v), STEP, PASSING),
    "hold": lambda cut, n, v: held_on(cut, n, Anchor(id="a", on="subject") if v > 0 else None, PASSING),
    "freeze": lambda cut, n, v: freezing.held(cut, abs(v), STEP),
    "open": lambda cut, n, v: frozen(cut, v, lambda f: freezing.with_moving_view(cut, f, STEP, PASSING)),
    "still": lambda cut, n, v: frozen(cut, v, lambda f: freezing.with_still_view(cut, f)),
    "stay": lambda cut, n, v: frozen(cut, v, lambda f: freezing.with_freeze_length(cut, f, abs(v) + 0.1)),
    "own": lambda cut, n, v: with_own_view(cut, *UPRIGHT, abs(v), View(yaw_deg=v), STEP, PASSING),
}


@given(st.lists(st.tuples(st.sampled_from(sorted(EDITS)), st.integers(0, 5), st.floats(-3, 9)), max_size=12))
def test_any_order_of_edits_leaves_a_valid_path(steps):
    cut = cut_of(*KEYS)
    for what, n, value in steps:
        cut = EDITS[what](cut, min(n, len(cut.keys) - 1), value)
    ViewPath(cut.keys)  # says what is wrong with it
    for shape in (WIDE, UPRIGHT):
        assert np.isfinite(course_of(cut, *shape, targets=PASSING).values(TIMES)).all()
    assert all(0.0 <= k.time_s <= cut.clock.path_s(12.0, after=True) + STEP for k in cut.keys)


# Files
def test_a_path_goes_out_and_in_to_a_millionth(tmp_path):
    target, _ = walker()
    cut = held_on(cut_of(*KEYS), 2, Anchor(id="a", on="subject"), {"a": target})
    cut = with_own_view(cut, *UPRIGHT, 4.0, View(yaw_deg=5.0), STEP, {"a": target})
    write_path_of(tmp_path / "p.json", cut)
    assert with_path_of(cut_of(key(0.0)), tmp_path / "p.json") == cut
    with pytest.raises(PathError, match="more than plain keyframes"):
        write_path_of(tmp_path / "p.csv", cut)
    write_path_of(tmp_path / "p.csv", cut, every_s=STEP, targets={"a": target})
    back = shared(with_path_of(cut_of(key(0.0)), tmp_path / "p.csv"))
    at = np.arange(0.0, 12.0, STEP)
    assert back.values(at) == pytest.approx(shared(cut, {"a": target}).values(at), abs=1e-6)
    (tmp_path / "p.json").write_text('{"keys":[{"time_s":0,"on":"b"}]}')
    with pytest.raises(PathError, match="does not tell"):
        with_path_of(cut, tmp_path / "p.json")
    (tmp_path / "p.json").write_text('{"keys":[]}')
    with pytest.raises(PathError, match="is no path"):
        with_path_of(cut, tmp_path / "p.json")


def test_a_path_file_holds_moves_speeds_and_views_beside_or_says_what_it_leaves_out(tmp_path):
    cut = cut_of(*KEYS)
    move = Move(id="m", kind="drift", start_s=1.0, end_s=2.0, amount=1.0, opening=View(), closing=View())
    speeds = (Stretch(start_s=2.0, end_s=4.0, speed=2.0),)
    whole = replace(cut, moves=(move,), speeds=speeds)
    assert write_path_of(tmp_path / "p.json", whole) == "" and with_path_of(cut, tmp_path / "p.json") == whole
    whole = replace(whole, beside=Beside(kind="side", cuts=("other",)))
    assert "views beside" in write_path_of(tmp_path / "p.json", whole)
    assert with_path_of(whole, tmp_path / "p.json") == whole  # what the file does not tell stays
    words = write_path_of(tmp_path / "p.csv", whole)
    assert all(told in words for told in ("speed", "ready move", "what else the picture shows"))
    assert with_path_of(whole, tmp_path / "p.csv").moves == ()  # none stays behind without its keyframes
    assert write_path_of(tmp_path / "p.csv", cut) == ""
    old = json.loads((tmp_path / "p.json").read_text()) | {"version": 1, "speeds": []}
    (tmp_path / "p.json").write_text(json.dumps(old))
    assert with_path_of(whole, tmp_path / "p.json").speeds == speeds  # a file of version 1 does not speak of them
    (tmp_path / "p.json").write_text(json.dumps(old | {"version": 3}))
    with pytest.raises(PathError, match="version 3"):
        with_path_of(cut, tmp_path / "p.json")


def test_taking_hold_goes_over_gently_and_back_again_over_a_part():
    target, yaw = walker()
    anchor, targets = Anchor(id="a", on="subject"), {"a": target}
    cut = cut_of(key(0.0, -60.0), key(4.9, -60.0), key(11.0, 0.0))
    before = shared(cut)
    on = held_over(cut, 5.0, None, anchor, targets, STEP, centred=True)
    assert [bool(k.on) for k in on.keys] == [False, False, False, True, True]
    part = held_over(cut, 5.0, 9.0, anchor, targets, STEP, centred=True)
    assert [bool(k.on) for k in part.keys] == [False, False, False, True, True, False, False]
    for held, ends in ((on, 12.0), (part, 7.7)):
        course = shared(held, targets)
        at = np.linspace(6.3, ends, 60)
        seen, there = course.values(at), np.interp(at, TIMES, yaw)
        assert np.abs((seen[:, 0] - there + 180) % 360 - 180).max() < 2.0
        for time in (0.0, 2.0, 4.9, 5.0):
            assert look_of(course, time) == pytest.approx(look_of(before, time), abs=1e-6)
        speed = motion_of(course, np.linspace(4.0, 9.5, 400)).speed_deg_s
        assert speed.max() < 2.2 * 180.0 / 1.2 and np.abs(np.diff(speed)).max() < 12.0  # no jump
    assert look_of(shared(part, targets), 10.0) == pytest.approx(look_of(before, 10.0), abs=0.2)
    off = let_go_at(on, 8.0, targets, STEP)
    assert [k.on for k in off.keys if k.time_s > 8.1] == ["", ""]
    course = shared(off, targets)
    assert look_of(course, 7.5) == pytest.approx(look_of(shared(on, targets), 7.5), abs=2e-2)
    assert np.abs(np.diff(motion_of(course, np.linspace(6.5, 10.0, 400)).speed_deg_s)).max() < 6.0
    near = held_over(cut_of(key(0.0, 120.0)), 0.0, None, anchor, targets, STEP, centred=True)
    assert len(near.keys) == 1 and near.keys[0].on == "a"


def look_of(course, time_s):
    view = course.at(time_s)
    return direction(view.yaw_deg, view.pitch_deg)

"""Ready moves: what they show, that they leave the rest of the path alone, and that they stay moves until a hand changes a keyframe."""

import numpy as np
import pytest
from msgspec.structs import replace

from glintor.reframing import arranging
from glintor.reframing.anchor import Anchor
from glintor.reframing.course import shared
from glintor.reframing.cut import Cut
from glintor.reframing.following import followed
from glintor.reframing.moves import KINDS, dissolved, make_move, move_of, settled, with_move, without_move
from glintor.reframing.moves_weighed import seam_cost, wanted_s
from glintor.reframing.path import Keyframe
from glintor.sphere.equirect import direction

TIMES = np.linspace(0.0, 20.0, 401)
CUT = Cut(
    id="c",
    name="c",
    take_id="t",
    in_s=0.0,
    out_s=20.0,
    keys=(
        Keyframe(time_s=0.0, yaw_deg=10.0),
        Keyframe(time_s=3.0, yaw_deg=20.0, pitch_deg=4.0),
        Keyframe(time_s=18.0, yaw_deg=40.0),
    ),
)


def look(course, time_s):
    view = course.at(time_s)
    return direction(view.yaw_deg, view.pitch_deg)


@pytest.mark.parametrize("kind", list(KINDS))
def test_every_move_leaves_what_lies_outside_it_and_can_be_changed_dissolved_and_removed(kind):
    cut = make_move(CUT, kind, (5.0, 11.0), name="m", subject=(-70.0, -5.0))
    assert settled(cut) == cut and {k.move for k in cut.keys} == {"", "m"}
    assert all(5.0 <= k.time_s <= 11.0 for k in cut.keys if k.move)
    course, before = shared(cut), shared(CUT)
    values = course.values(TIMES)
    assert np.isfinite(values).all()
    for time in (0.0, 3.0, 18.0):
        a, b = course.at(time), before.at(time)
        assert look(course, time) == pytest.approx(look(before, time), abs=1e-9)
        assert (a.roll_deg - b.roll_deg) % 360.0 == pytest.approx(0.0, abs=1e-6)
    longer = with_move(cut, replace(move_of(cut, "m"), end_s=14.0))
    assert settled(longer) == longer and max(k.time_s for k in longer.keys if k.move) == pytest.approx(14.0)
    plain = dissolved(cut, "m")
    assert not plain.moves and shared(plain).values(TIMES) == pytest.approx(values, abs=1e-12)
    gone = without_move(cut, "m")
    assert [k.time_s for k in gone.keys] == [0.0, 3.0, 18.0] and not gone.moves
    assert [k.yaw_deg for k in gone.keys] == pytest.approx([k.yaw_deg for k in CUT.keys])
    number = next(n for n, k in enumerate(cut.keys) if k.move)
    last = max(n for n, k in enumerate(cut.keys) if k.move)
    touched = settled(arranging.turned(cut, {number, last}, 5.0))
    assert not touched.moves and not any(k.move for k in touched.keys)
    shifted = settled(arranging.with_length(cut, 0, 4.0, 0.04, 30.0))
    assert (shifted.moves[0].start_s, shifted.moves[0].end_s) == pytest.approx((6.0, 12.0))


def test_looking_round_comes_back_and_the_corkscrew_ends_upright():
    course = shared(make_move(CUT, "round", (5.0, 11.0), name="m"))
    assert look(course, 5.0) == pytest.approx(look(course, 11.0), abs=1e-6)
    turn = course.at(11.0).yaw_deg - course.at(5.0).yaw_deg
    assert abs(turn) == pytest.approx(360.0, abs=1e-6)
    rolls = shared(make_move(CUT, "corkscrew", (5.0, 11.0), name="m")).values(TIMES)[:, 2]
    assert np.ptp(rolls) == pytest.approx(360.0) and rolls[-1] % 360.0 == pytest.approx(0.0, abs=1e-6)


def test_reveals_end_on_the_subject_and_the_globe_opens():
    there = direction(-70.0, -5.0)
    for kind in ("turn", "tilt", "back"):
        course = shared(make_move(CUT, kind, (5.0, 9.0), name="m", subject=(-70.0, -5.0)))
        assert look(course, 9.0) == pytest.approx(there, abs=1e-9)
    assert float(look(shared(make_move(CUT, "turn", (5.0, 9.0), name="m", subject=(-70.0, -5.0))), 5.0) @ there) < 0.0
    globe = shared(make_move(CUT, "from_globe", (0.0, 4.0), name="m")).at(0.0)
    assert (globe.pitch_deg, globe.bend) == (-90.0, 1.0) and globe.fov_deg > 250.0


def test_a_move_over_a_held_part_goes_with_what_it_is_held_on():
    target = followed(Anchor(id="a", on="subject", smooth_s=0.1), TIMES, 15.0 * TIMES, 0.0 * TIMES)
    held = replace(
        CUT, keys=tuple(replace(k, on="a", yaw_deg=0.0) for k in CUT.keys), anchors=(Anchor(id="a", on="subject"),)
    )
    cut = make_move(held, "whip", (5.0, 9.0), name="m", targets={"a": target})
    course = shared(cut, {"a": target})
    for time, off in ((5.5, 0.0), (8.7, 180.0)):
        assert abs((course.at(time).yaw_deg - 15.0 * time - off + 180.0) % 360.0 - 180.0) < 0.5


def test_the_side_is_chosen_by_the_seam_and_a_hurried_move_says_how_long_it_wants():
    cost = seam_cost((0.0, -1.0, 0.0), 20.0)  # the seam lies ahead and behind
    start = replace(CUT, keys=(Keyframe(time_s=0.0, yaw_deg=60.0),))
    for kind in ("turn", "whip"):
        both = [
            with_move(start, replace(move_of(make_move(start, kind, (2.0, 8.0), name="m"), "m"), way=w))
            for w in (1, -1)
        ]
        chosen = make_move(start, kind, (2.0, 8.0), name="m", cost=cost)
        assert cost(chosen) == min(map(cost, both))
    hurried = make_move(CUT, "round", (5.0, 11.0), name="m")
    wants = wanted_s(hurried, "m", 0.15)
    assert wants is not None and wants > 20.0
    slow = with_move(hurried, replace(move_of(hurried, "m"), end_s=5.0 + wants * 1.01))
    assert wanted_s(slow, "m", 0.15) is None
    assert wanted_s(make_move(CUT, "whip", (5.0, 9.0), name="m"), "m", 0.15) is None


def test_the_ends_of_a_move_are_turned_on_the_frame():
    cut = make_move(CUT, "turn", (5.0, 9.0), name="m", subject=(-70.0, -5.0))
    end = next(n for n, k in enumerate(cut.keys) if k.time_s == 9.0)
    turned = settled(arranging.turned(cut, {end}, 12.0))
    assert turned.moves[0].closing.yaw_deg == pytest.approx(cut.moves[0].closing.yaw_deg + 12.0)
    assert [k.yaw_deg - j.yaw_deg for k, j in zip(turned.keys, cut.keys, strict=True) if k.move] == pytest.approx(
        [12.0, 12.0]
    )
    whip = make_move(CUT, "whip", (5.0, 9.0), name="m")
    start = next(n for n, k in enumerate(whip.keys) if k.move)
    assert settled(arranging.turned(whip, {start}, 8.0)).moves[0].opening.yaw_deg == whip.moves[0].opening.yaw_deg + 8.0
    round_ = make_move(CUT, "round", (5.0, 9.0), name="m")  # its end is made of its opening
    last = max(n for n, k in enumerate(round_.keys) if k.move)
    assert not settled(arranging.turned(round_, {last}, 8.0)).moves


def test_third_person_looks_behind_where_nobody_knows_who_films():
    for subject, wanted in ((None, -180.0), ((-70.0, 5.0), -90.0)):
        cut = make_move(CUT, "third", (5.0, 13.0), name="m", subject=subject)
        course = shared(cut)
        ahead, there, back = (course.at(t).yaw_deg for t in (5.0, 9.0, 13.0))
        assert abs((there - ahead - wanted + 180.0) % 360.0 - 180.0) < 12.0
        assert (back - ahead + 180.0) % 360.0 - 180.0 == pytest.approx(0.0, abs=12.0)

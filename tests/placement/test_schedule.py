from itertools import pairwise, permutations

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from glintor.demo.day import SHOTS, SITE
from glintor.placement.schedule import (
    EXACT,
    Day,
    Order,
    Task,
    _order,
    _State,
    _then,
    earliest,
    least_change,
    plan_day,
    why_left_out,
)
from glintor.placement.windows import Wanted, holds, merged, spans
from glintor.project.placed import layout_of

SPAN = st.tuples(st.integers(0, 60), st.integers(10, 60)).map(lambda s: (s[0] * 10.0, s[0] * 10.0 + s[1] * 5.0))
TASK = st.builds(
    lambda place, length, fit, windows: Task(id="", place=place, length_min=length, fit_min=fit, windows=windows),
    st.integers(0, 3), st.sampled_from([20.0, 35.0, 60.0]), st.sampled_from([0.0, 10.0]), st.lists(SPAN, min_size=1, max_size=2).map(tuple),
)  # fmt: skip
DAY = Day(begins_min=60.0, battery_min=70.0, card_min=100.0)


def brute_force(tasks, day) -> Order:
    """Every subset in every order."""
    best = _order(tasks, _State(0, day.begins_min, 0.0, 0.0, ()))
    for count in range(1, len(tasks) + 1):
        for some in permutations(tasks, count):
            states, last = [_State(0, day.begins_min, 0.0, 0.0, ())], None
            for task in some:
                states = [after for state in states for after in _then(state, last, task, day)]
                last = task
            best = min([best, *(_order(tasks, state) for state in states)], key=lambda o: o.cost)
    return best


@settings(max_examples=40, deadline=None)
@given(st.lists(TASK, min_size=1, max_size=5))
def test_no_order_betters_the_one_found(tasks):
    from msgspec.structs import replace

    tasks = [replace(t, id=f"t{n}") for n, t in enumerate(tasks)]
    found = plan_day(tasks, DAY)
    assert found.cost == brute_force(tasks, DAY).cost
    by_id = {t.id: t for t in tasks}
    for slot in found.slots:
        task = by_id[slot.id]
        assert any(a <= slot.start_min and slot.start_min + task.length_min <= b + 1e-6 for a, b in task.windows)


def test_a_day_by_hand():
    def task(name, place, window, length=30.0):
        return Task(id=name, place=place, length_min=length, fit_min=5.0, windows=(window,))

    # Wharf only in the morning, lock any time, tunnel only late: battery of 70 min is changed before the third.
    tasks = [task("tunnel", 2, (300, 600)), task("wharf", 0, (60, 120)), task("lock", 1, (0, 600))]
    order = plan_day(tasks, Day(begins_min=60.0, battery_min=70.0))
    assert [(s.id, s.start_min, s.swap) for s in order.slots] == [
        ("wharf", 65.0, False), ("lock", 65.0 + 30 + 15 + 5, False), ("tunnel", 300.0, True),
    ]  # fmt: skip
    assert order.legs_back == 0 and order.ends_min == 330.0
    small = plan_day(tasks, Day(begins_min=60.0, battery_min=70.0, card_min=40.0))
    assert [s.card for s in small.slots] == [False, True, True]
    assert earliest(tasks[0], 580.0) == float("inf")
    shut = task("late", 0, (0, 20))
    assert plan_day([*tasks, shut], DAY).left_out == ("late",) and "lasts 20 min" in why_left_out(shut)
    assert "does not come" in why_left_out(Task(id="", place=0, length_min=1, fit_min=0, windows=()))


def test_a_thousand_shots_are_filled_in_quickly_and_without_overlap():
    tasks = [Task(id=f"s{n}", place=0, length_min=1.0, fit_min=0.0, windows=((0.0, 1440.0),)) for n in range(1000)]
    order = plan_day(tasks, Day(begins_min=0.0))
    starts = [s.start_min for s in order.slots]
    assert len(starts) == 1000 > EXACT and all(b - a >= 1.0 for a, b in pairwise(starts))


def test_windows_hold_where_the_moment_holds():
    shot = SHOTS[0]
    at = lambda minute: layout_of(SITE, shot.placement, minute)  # noqa: E731
    for wanted in (Wanted(sun="behind"), Wanted(shadow_out=True, not_after_min=900.0), Wanted(golden=True)):
        found = spans(wanted, at, (420.0, 1130.0))
        inside = [m for m in range(420, 1130, 5) if any(a <= m < b for a, b in found)]
        allowed = [m for m in range(420, 1130, 5) if m < wanted.not_after_min and holds(at(float(m)), wanted)]
        assert inside == allowed
    assert spans(Wanted(not_before_min=500.0), at, (420.0, 1130.0)) == ((500.0, 1130.0),)
    assert merged([10.0, 15.0, 25.0], 28.0) == ((10.0, 20.0), (25.0, 28.0))


def test_golden_light_is_low_and_the_sun_behind_is_behind():
    shot = SHOTS[0]
    assert holds(layout_of(SITE, shot.placement, 18 * 60 + 40.0), Wanted(golden=True))
    assert not holds(layout_of(SITE, shot.placement, 13 * 60.0), Wanted(golden=True))
    # Common practice, no source: the sun behind the filmer. A camera turned round finds it ahead.
    sun = layout_of(SITE, shot.placement, 13 * 60.0).sun.azimuth_deg - SITE.way_bearing_deg
    import math

    a = math.radians(sun)
    away = msgspec.structs.replace(shot.placement, ahead_m=0.0, left_m=0.0)
    away = away.with_subject(ahead_m=-4 * math.cos(a), left_m=4 * math.sin(a))
    toward = away.with_subject(ahead_m=4 * math.cos(a), left_m=-4 * math.sin(a))
    noon = 13 * 60.0
    assert layout_of(SITE, away, noon).sun_off_back_deg == pytest.approx(0.0, abs=0.5)
    assert holds(layout_of(SITE, away, noon), Wanted(sun="behind"))
    assert holds(layout_of(SITE, toward, noon), Wanted(sun="ahead"))


def task(name, place=0.0, length=30.0, windows=((360.0, 1200.0),), **more):
    return Task(id=name, place=place, length_min=length, fit_min=0.0, windows=windows, **more)


def starts(order):
    return {slot.id: slot.start_min for slot in order.slots}


def test_ways_rests_the_way_there_and_home_take_their_time():
    """By hand: set out at 6:00, 40 min to the first, 30 min film, 60 min way; 7:30 to 8:00 is a rest."""
    day = Day(begins_min=360.0, to_first_min=40.0, ways_min=lambda a, b: 60.0, rests=((450.0, 480.0),))
    order = plan_day([task("a"), task("b", after=("a",))], day)
    assert starts(order) == {"a": 400.0, "b": 520.0}  # 430 + 60, of which 30 are rested
    assert plan_day([task("a"), task("b", after=("a",))], replace(day, home_min=30.0, home_by_min=570.0)).left_out == (
        "b",
    )
    assert (
        starts(plan_day([task("a", windows=((440.0, 600.0),))], replace(day, to_first_min=60.0)))["a"] == 480.0
    )  # no film in a rest


def test_fixed_hours_and_what_comes_after_what_are_kept():
    day = Day(begins_min=360.0)
    tasks = [task("noon", fixed_min=720.0), task("first", after=()), task("last", after=("noon", "first"))]
    found = starts(plan_day(tasks, day))
    assert found["noon"] == 720.0 and found["first"] < 720.0 and found["last"] >= 750.0
    assert plan_day([task("x", fixed_min=300.0)], day).left_out == ("x",)
    many = [task(f"t{n}", place=n) for n in range(12)] + [task("end", after=("t3",), place=0.5)]
    assert starts(plan_day(many, day))["end"] > starts(plan_day(many, day))["t3"]


def test_the_order_of_the_way_never_goes_back_and_the_order_of_light_may():
    late = task("near", place=100.0, windows=((900.0, 960.0),))
    early = task("far", place=5000.0, windows=((400.0, 460.0),))
    light = plan_day([late, early], Day(begins_min=360.0, leg_min=0.01))
    way = plan_day([late, early], Day(begins_min=360.0, leg_min=0.01, order="way"))
    assert len(light.slots) == 2 and light.legs_back == 4900.0
    assert len(way.slots) == 1 and way.legs_back == 0.0
    assert (
        least_change(way.left_out[0], [late, early], Day(begins_min=360.0, leg_min=0.01, order="way"))
        == "go back along the way for it"
    )


@pytest.mark.parametrize(
    ("tasks", "changes", "words"),
    [
        ((task("a", length=100, windows=((400, 480),)),), {}, "film it in 70 min"),
        ((task("a", windows=(), anytime=((360, 1200),)),), {}, "ask nothing of its light"),
        ((task("a", fixed_min=370, length=30), task("b", fixed_min=380, length=30)), {}, "let it move from its hour"),
        ((task("a", windows=((450, 470),), length=20),), {"rests": ((440, 475),)}, "leave out the rest of 35 min"),
        ((task("a", length=30, windows=((700, 800),)),), {"home_by_min": 740, "home_min": 60}, "be back 60 min later"),
        ((task("a", windows=((360, 380),), length=20),), {"to_first_min": 40}, "set out 60 min earlier"),
        ((task("a", windows=((400, 430),)), task("b", windows=((400, 430),))), {"leg_min": 0}, "leave out a"),
    ],
)
def test_what_finds_no_room_is_told_the_least_change_that_would_give_it(tasks, changes, words):
    """Each told change is tried: with it alone the shot has room."""
    day = replace(Day(begins_min=360.0), **changes)
    left = plan_day(tasks, day).left_out
    assert left and least_change(left[-1], tasks, day) == words


def test_a_battery_is_changed_while_one_waits_and_not_in_a_hurry():
    """Found by the property above: what is less used is not better where it must be changed later, in less time."""

    def task(name, length, *window):
        return Task(id=name, place=0, length_min=length, fit_min=0.0, windows=(window,))

    tasks = [task("a", 20, 0, 145), task("b", 20, 200, 250), task("c", 20, 200, 250), task("d", 35, 160, 210)]
    order = plan_day([*tasks, task("e", 60, 0, 145)], DAY)
    assert order.ends_min == 240.0 and order.left_out == ()
    fewer = plan_day(tasks[:1], DAY)
    assert [slot.swap for slot in fewer.slots] == [False]  # and no more often than it needs

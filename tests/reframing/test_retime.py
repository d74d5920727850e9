"""Film time against clip time. Steady change of speed is uniform acceleration: s = v t + a t^2 / 2 (any mechanics text)."""

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from glintor.reframing.retime import PaceError, Stretch, Timeline, checked, with_stretch


def test_the_usual_speeds_give_the_usual_lengths():
    """Common practice, no source: at 64 times 32 s are gone in half a second."""
    for speed, length in ((64, 0.5), (16, 2.0), (4, 8.0), (0.25, 128.0)):
        line = Timeline(0, 32, [Stretch(start_s=0, end_s=32, speed=speed)])
        assert line.duration_s == pytest.approx(length) and line.frames(24) == round(length * 24)
    assert Timeline(2, 7).plain and Timeline(2, 7).duration_s == 5


def test_a_ramp_is_uniform_acceleration():
    line = Timeline(0, 10, [Stretch(start_s=0, end_s=10, speed=1, end_speed=4)])
    assert line.duration_s == pytest.approx(4.0)  # mean speed 2.5
    t = np.linspace(0, 4, 9)
    assert line.clip_time(t) == pytest.approx(t + 0.5 * (3 / 4) * t**2)


def test_backwards_and_frozen_parts():
    line = Timeline(
        0, 6, [Stretch(start_s=2, end_s=4, speed=2, backwards=True), Stretch(start_s=5, end_s=5, freeze_s=1.5)]
    )
    assert line.duration_s == pytest.approx(2 + 1 + 1 + 1.5 + 1)
    assert line.clip_time([1.0, 2.25, 2.75, 3.5, 4.0, 5.4, 6.0]) == pytest.approx([1, 3.5, 2.5, 4.5, 5, 5, 5.5])


speeds = st.floats(0.25, 64)


@example(a=0.25, b=0.25000000000000006, start=0.0, length=1.0, back=False)  # nearly even
@given(a=speeds, b=speeds, start=st.floats(0, 4), length=st.floats(0.1, 5), back=st.booleans())
def test_film_and_clip_time_are_inverse(a, b, start, length, back):
    line = Timeline(0, 10, [Stretch(start_s=start, end_s=start + length, speed=a, end_speed=b, backwards=back)])
    for clip in np.linspace(0.01, 9.99, 23):
        found = float(line.clip_time(line.film_time(clip)))
        # A backward part begins and ends with a leap: both of its ends are shown at one moment of the film.
        leaps = back and min(abs(clip - start), abs(clip - start - length)) < 1e-3
        assert found == pytest.approx(clip, abs=1e-4) or leaps
    assert line.clip_time(line.duration_s) == pytest.approx(10.0)
    schedule = line.schedule(25.0)
    assert len(schedule.opens_s) == line.frames(25.0)
    assert (np.abs(schedule.closes_s - schedule.opens_s) <= 64 / 25 + 1e-6).all()


@given(start=st.floats(0, 8), length=st.floats(0.2, 2), speed=speeds)
def test_laying_a_stretch_over_others_leaves_the_rest_as_it_was(start, length, speed):
    first = (Stretch(start_s=2, end_s=8, speed=1, end_speed=9),)
    laid = with_stretch(first, Stretch(start_s=start, end_s=start + length, speed=speed))
    assert checked(laid) == laid
    old, new = Timeline(0, 10, first), Timeline(0, 10, laid)
    for part in (s for s in laid if s.speeds != (speed, speed)):
        assert new.film_time(part.end_s) - new.film_time(part.start_s) == pytest.approx(
            old.film_time(part.end_s) - old.film_time(part.start_s), abs=1e-4
        )
    plain = with_stretch(laid, Stretch(start_s=0, end_s=12))
    assert plain == ()


def test_a_freeze_stays_where_a_speed_is_laid_over_it():
    hold = Stretch(start_s=4, end_s=4, freeze_s=2)
    laid = with_stretch((hold,), Stretch(start_s=2, end_s=6, speed=2))
    assert [(s.start_s, s.end_s, s.freeze_s) for s in laid] == [(2, 4, 0), (4, 4, 2), (4, 6, 0)]
    assert Timeline(0, 10, laid).duration_s == pytest.approx(2 + 1 + 2 + 1 + 4)
    longer = with_stretch(laid, Stretch(start_s=4, end_s=4, freeze_s=3))
    assert [s.freeze_s for s in longer] == [0, 3, 0]


@pytest.mark.parametrize(
    "bad",
    [
        Stretch(start_s=0, end_s=1, speed=65), Stretch(start_s=0, end_s=1, speed=0.2), Stretch(start_s=1, end_s=1),
        Stretch(start_s=0, end_s=1, speed=float("nan")), Stretch(start_s=1, end_s=1, freeze_s=700),
    ],
)  # fmt: skip
def test_what_cannot_be_is_said(bad):
    with pytest.raises(PaceError):
        Timeline(0, 10, [bad])


def test_overlaps_are_said():
    with pytest.raises(PaceError, match="overlap"):
        checked([Stretch(start_s=0, end_s=2, speed=2), Stretch(start_s=1, end_s=3, speed=2)])


def test_a_backward_ramp_begins_at_its_end_with_the_first_speed():
    """From 8 s back to 4 s, 1 to 3 times: the first tenth of a second shows 0.1 s of the clip, the last one 0.3 s."""
    ramp = Stretch(start_s=4, end_s=8, speed=1, end_speed=3, backwards=True)
    line = Timeline(4, 8, [ramp])
    assert line.duration_s == pytest.approx(2.0)  # 4 s at a mean speed of 2
    shown = line.clip_time([0.0, 0.1, 1.9, 2.0])
    assert shown == pytest.approx([8.0, 7.895, 4.295, 4.0], abs=1e-6)
    half = with_stretch((ramp,), Stretch(start_s=4, end_s=6))  # what is left of it keeps its own ends
    kept = next(s for s in half if s.backwards)
    assert (kept.start_s, kept.end_s, kept.speed) == (6, 8, 1) and kept.end_speed == pytest.approx(np.sqrt(5.0))

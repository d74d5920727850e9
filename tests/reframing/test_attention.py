"""Holds on what changes: chosen from amounts, found in films that other code made, and told where it cannot be."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from glintor.media.changing import changing
from glintor.media.footage import open_footage
from glintor.reframing.attention import _TURN_COSTS, _way, watched
from glintor.reframing.cut import Cut
from glintor.reframing.path import Keyframe, path_of
from glintor.reframing.proposals import Given, proposals
from glintor.sphere.view import View
from tests import foreign
from tests.export.test_trail import LENGTH_S, film_with_a_walker, yaw_at


def amounts(*busy):
    """Cells of 10 degrees over so many moments a second apart, still but for (from, to, column, row, how much)."""
    out = np.zeros((12, 8, 36))
    for start, end, column, row, much in busy:
        out[start:end, row, column] = much
    return np.arange(12.0), out


def test_it_looks_from_one_thing_to_the_next_and_not_at_a_flicker():
    holds = watched(*amounts((0, 6, 9, 3, 5.0), (6, 12, 33, 4, 5.0), (2, 3, 20, 3, 4.0)), (0.0, 12.0))
    assert [round(hold.yaw_deg) for hold in holds] == [-85, -205]  # the short way round
    assert holds[0].end_s == pytest.approx(6.0, abs=1.3) and holds[0].pitch_deg == pytest.approx(5.0)
    assert watched(*amounts(), (0.0, 12.0)) == []


@settings(max_examples=40)
@given(st.lists(st.lists(st.floats(0, 1), min_size=3, max_size=3), min_size=1, max_size=6))
def test_no_other_way_to_look_gives_more(gain):
    gain = np.array(gain)

    def worth(way):
        return sum(gain[n, at] for n, at in enumerate(way)) - _TURN_COSTS * sum(
            a != b for a, b in itertools.pairwise(way)
        )

    every = itertools.product(range(3), repeat=len(gain))
    assert worth(_way(gain).tolist()) == pytest.approx(max(worth(way) for way in every))


def test_somebody_who_walks_through_a_still_picture_is_looked_at(tmp_path):
    footage = open_footage(film_with_a_walker(tmp_path / "walk.mp4"))
    found = changing(footage, (0.0, LENGTH_S))
    assert not found.everywhere
    cut = Cut(id="c", name="c", take_id="t", in_s=0.0, out_s=LENGTH_S, keys=(Keyframe(time_s=0.0),))
    made = {p.name: p for p in proposals(Given(cut, View(), changes=(found.time_s, found.amount)))}
    path = path_of(made["What changes"].cut.keys, cut.span_s)
    off = [abs(path.at(t).yaw_deg - yaw_at(t)) for t in np.arange(0.0, LENGTH_S, 0.2)]
    assert max(off) < 45.0  # in the frame all the time
    assert "in sight" in made["What changes"].reason
    assert "What changes" not in {p.name for p in proposals(Given(cut, View()))}


def test_a_camera_that_moves_sees_everything_change(tmp_path):
    footage = open_footage(foreign.shaken(tmp_path / "walk.mp4", foreign.World(), width=512, frames=40))
    assert changing(footage, (0.0, footage.duration_s)).everywhere

"""Charts that are given what no chart can draw: nothing of it reaches what paints."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from glintor.desktop.charts.marks import pieces_between, polyline
from glintor.desktop.charts.scale import Scale

ANY = st.floats(allow_nan=True, allow_infinity=True)


@given(ANY, ANY, ANY)
def test_a_place_on_a_chart_is_always_one(low, high, value):
    at = Scale(low, high, 10.0, 500.0).px(value)
    assert math.isfinite(at) and abs(at) <= 1_000_000.0
    array = Scale(low, high, 10.0, 500.0).px(np.array([value]))
    assert np.isnan(array[0]) or abs(array[0]) <= 1_000_000.0
    assert all(map(math.isfinite, Scale(low, high, 10.0, 500.0).ticks()[:50])) or not math.isfinite(low + high)


def test_what_is_a_number_lies_where_it_did():
    scale = Scale(0.0, 10.0, 100.0, 0.0)
    assert scale.px(2.5) == 75.0 and scale.px(np.array([0.0, 10.0])).tolist() == [100.0, 0.0]
    assert scale.ticks(30.0) == [0.0, 5.0, 10.0] and Scale(3.0, 3.0, 0.0, 9.0).px(3.0) == 0.0


def test_lines_and_bands_leave_out_what_is_no_number():
    ys = np.array([1.0, np.nan, 3.0, np.inf, 5.0, 6.0])
    path = polyline(np.arange(6.0), ys)
    drawn = [(path.elementAt(n).x, path.elementAt(n).y) for n in range(path.elementCount())]
    assert all(math.isfinite(a) and math.isfinite(b) for a, b in drawn) and (5.0, 6.0) in drawn
    side = np.column_stack([np.arange(6.0), ys])
    (piece,) = pieces_between(side, side + [0.0, 1.0], np.ones(6, bool))
    assert len(piece) == 8 and all(math.isfinite(p.y()) for p in piece)


@pytest.mark.parametrize("yaw", [-1e308, float("inf")])
def test_a_document_refuses_what_no_chart_could_draw(window, settle, yaw):
    from msgspec.structs import replace

    from glintor.project.model import with_cut

    window.show_desk(4)
    settle()
    document, told = window.document, []
    document.trouble.connect(told.append)
    before, cut = document.project, document.cut
    wrong = replace(cut, keys=(replace(cut.keys[0], yaw_deg=yaw), *cut.keys[1:]))
    document.edit_shot("Turn", lambda s: with_cut(s, wrong))
    settle()
    assert document.project is before and "yaw_deg" in str(told[0])

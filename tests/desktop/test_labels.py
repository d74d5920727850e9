"""Words on charts never lie on one another where there is room; the earlier ones choose first."""

import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st

from glintor.desktop.charts.labels import Wish, _covered, place, with_room

SHEET = (0.0, 0.0, 400.0, 300.0)
spots = st.tuples(st.floats(0, 400), st.floats(0, 300))


def overlap(boxes):
    return max((_covered(a, b) for n, a in enumerate(boxes) for b in boxes[:n]), default=0.0)


@settings(max_examples=60, deadline=None)
@given(st.lists(spots, min_size=1, max_size=6))
@example([(0.0, 50.0), (10.03125, 20.0), (0.0, 0.0)])  # a sliver of an overlap was cheaper than a better place
def test_no_words_lie_on_others_or_outside_however_close_their_points(points):
    boxes = place([Wish(at, (70.0, 18.0)) for at in points], SHEET)
    assert overlap(boxes) == 0.0
    assert all(_covered(box, SHEET) > 70 * 18 - 1e-6 for box in boxes)


def test_alone_they_stand_on_the_side_that_was_asked_for():
    for side, middle in (("right", (243, 150)), ("left", (157, 150)), ("above", (200, 133)), ("below", (200, 167))):
        (left, top, right, bottom) = place([Wish((200, 150), (70, 18), sides=(side,))], SHEET)[0]
        assert np.allclose(((left + right) / 2, (top + bottom) / 2), middle)


def test_they_keep_off_things_and_lines_where_there_is_room():
    wish, bar = Wish((200, 150), (70, 18)), (205.0, 100.0, 300.0, 200.0)
    assert _covered(place([wish], SHEET, things=[bar])[0], bar) == 0.0
    line = [(x, 150.0) for x in range(0, 400, 6)]
    box = place([Wish((200, 150), (70, 18), sides=("right", "above"))], SHEET, points=line)[0]
    assert not box[1] <= 150.0 <= box[3]


def test_words_of_a_line_move_along_it_before_they_leave_it():
    one, other = place(
        [Wish((400, 100), (30, 18), sides=("left",)), Wish((400, 104), (30, 18), sides=("left",))], SHEET
    )
    assert one[2] == 392.0 and other[2] < one[0] and abs((other[1] + other[3]) / 2 - 104) < 10


def test_words_that_are_too_long_keep_their_beginning_in_sight():
    left, _, right, _ = place([Wish((200, 100), (600.0, 18.0), sides=("left",))], SHEET)[0]
    assert left == 0.0 and right == 600.0


def test_a_pen_that_one_chart_changes_is_not_changed_in_another():
    from PyQt6.QtCore import Qt

    from glintor.desktop.charts import marks

    marks.pen("ink", 1.6).setStyle(Qt.PenStyle.DashLine)
    assert marks.pen("ink", 1.6).style() == Qt.PenStyle.SolidLine


def test_of_more_words_than_fit_only_the_first_are_written():
    """A chart of 600 x 100 px has room for 24 words of 50 x 20 at four tenths; the 24th fits, a narrower chart has one less."""
    sizes = [(50.0, 20.0)] * 2500
    assert with_room(sizes, (0.0, 0.0, 600.0, 100.0)) == 24 and with_room(sizes, (0.0, 0.0, 599.0, 100.0)) == 23
    assert with_room(sizes[:5], (0.0, 0.0, 600.0, 100.0)) == 5 and with_room(sizes, (0.0, 0.0, 10.0, 10.0)) == 12

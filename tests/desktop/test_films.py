"""Films from cuts on the Export desk."""

import pytest
from msgspec.structs import replace
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from glintor.project.cameras_beside import cameras_beside
from glintor.project.clocks import same_moment
from glintor.project.films import length_s
from glintor.project.take import Heard


def test_a_film_is_built_joined_ordered_played_and_rendered(window, settle, qtbot, monkeypatch):
    window.show_desk(5)
    settle()
    strip, document = window.export.films, window.document
    assert strip.film is None and "choose New film" in strip.words._words
    strip.films.activated.emit(strip.films.findData(""))
    first = strip.film
    assert first is not None and document.project.films == (first,) and len(strip._cards) == 1
    keys = [(s.id, c.id) for s in document.project.shots for c in s.cuts]
    for at in range(1, 3):
        strip.add.activated.emit(at)
    assert [(p.shot_id, p.cut_id) for p in strip.film.pieces][1:] == keys[:2] and len(strip._joins) == 2
    strip.set_join(1, "whip")
    assert strip.film.pieces[1].join.kind == "whip" and strip.film.pieces[1].join.length_s > 0
    strip.wanted.edited.emit(20.0)
    assert "too long" in strip.words._words and f"{length_s(document.project, strip.film):.1f} s" in strip.words._words
    strip._cards[2].setFocus()
    strip.choose(2)
    QTest.keyClick(strip, Qt.Key.Key_Left, Qt.KeyboardModifier.ControlModifier)
    assert [(p.shot_id, p.cut_id) for p in strip.film.pieces][1] == keys[1]
    QTest.keyClick(strip, Qt.Key.Key_Delete)
    assert len(strip.film.pieces) == 2
    document.undo()
    assert len(strip.film.pieces) == 3
    settle()
    QTest.mouseClick(strip.look, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: window.export.player is not None, timeout=60000)
    player = window.export.player
    assert player.length_s == pytest.approx(length_s(document.project, strip.film))
    seen = set()
    for at in (1.0, player.length_s - 1.0):
        player.go_to(at)
        qtbot.waitUntil(
            lambda at=at: abs(player.slider.value() / 100 - at) < 0.6 and not player.picture.pixmap().isNull(),
            timeout=60000,
        )
        seen.add(player.picture.pixmap().toImage().pixelColor(320, 180).name())
    assert len(seen) == 2
    player.turn()
    player.reject()
    queued = []
    monkeypatch.setattr(window.export.rendering, "add", lambda *jobs: queued.extend(jobs))
    strip.make.click()
    assert [(j.film_id, j.format) for j in queued] == [(strip.film.id, "16:9"), (strip.film.id, "9:16")]
    assert all(strip.film.id in j.target for j in queued)
    strip.choose(0)
    for _ in range(3):
        strip.take_out()
    assert document.project.films == () and strip.film is None


def test_several_views_in_one_picture_are_chosen_and_the_other_camera_takes_over(window, settle, qtbot):
    window.show_desk(4)
    settle()
    reframe, document = window.reframe, window.document
    before = document.shot
    reframe.go_to(4.0)
    QTest.keyClick(window, "i")
    bar = reframe.board.beside_bar
    assert bar.isVisible()
    bar.kind_chosen.emit("inset")
    settle()
    assert document.cut.beside.kind == "inset" and len(document.shot.cuts) == 2
    view = reframe.hand.shown_view()
    parts = reframe.hand.parts(document.cut, 4.0, view, (640, 360))
    assert [part.size_px for _, part in parts] == [(640, 360), (192, 108)]
    assert abs((parts[1][0].yaw_deg - view.yaw_deg + 180) % 360 - 180) == 180.0
    bar.changed.emit("corner", "upper left")
    assert document.cut.beside.corner == "upper left"
    bar.kind_chosen.emit("side")
    settle()
    assert reframe.hand.frame_px == (960, 1080)
    reframe.work.nudge("fov_deg", -5.0)
    assert reframe.hand.shown_view().fov_deg < view.fov_deg
    while document.shot != before:
        document.undo()
    with qtbot.waitSignal(reframe.said) as said:
        reframe.beside_work.other_camera()
    assert "No other take" in said.args[0]


def test_the_other_camera_takes_over_at_the_same_moment(window, settle):
    window.show_desk(4)
    settle()
    reframe, document = window.reframe, window.document
    first = document.take
    other = replace(first, id="second", name="Second camera", heard=(Heard(of=first.id, offset_s=-1.5),))
    document.edit_shot("Another take", lambda s: replace(s, takes=(*s.takes, other)))
    settle()
    shown = reframe.course.plot.cameras[0]  # at the strip's foot: they stood at one place
    assert (shown.start_s, shown.end_s, shown.look) == (1.5, first.duration_s, None)
    apart = replace(first.placement, ahead_m=first.placement.ahead_m - 1.0)  # the boat's camera looks back along it
    farther = replace(other, placement=apart)
    (seen,) = cameras_beside(document.project, replace(document.shot, takes=(first, farther)), first)
    assert seen.look == pytest.approx((0.0, 0.0), abs=1.0)
    ahead = replace(farther, placement=replace(apart, ahead_m=apart.ahead_m + 2.0))
    (seen,) = cameras_beside(document.project, replace(document.shot, takes=(first, ahead)), first)
    assert abs(seen.look[0]) == pytest.approx(180.0, abs=1.0)
    early = replace(other, heard=(Heard(of=first.id, offset_s=20.0),))  # it ran when the first was over
    assert cameras_beside(document.project, replace(document.shot, takes=(first, early)), first) == ()
    cut, bearing = document.cut, None
    reframe.go_to(4.0)
    bearing = reframe.hand.path_view().yaw_deg
    wanted = same_moment(first, other, 4.0)
    QTest.keyClick(window, "o")
    settle()
    ended = next(c for c in document.shot.cuts if c.id == cut.id)
    assert ended.out_s == pytest.approx(4.0) and document.take.id == "second"
    assert document.cut.in_s == pytest.approx(wanted) and reframe.hand.now_s == pytest.approx(wanted, abs=0.05)
    assert document.cut.keys[0].yaw_deg == pytest.approx(bearing)

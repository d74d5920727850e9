"""The course taken in the hand, views held on what moves, a shape's own corrections, and flying: in the real window."""

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest

from glintor.export.formats import FORMATS, course_for
from glintor.media.changing import Changing
from glintor.reframing.fitted import Flight
from glintor.reframing.motion import motion_of
from glintor.reframing.path import Keyframe
from glintor.sphere.equirect import direction
from glintor.sphere.view import frame_position
from tests.desktop.test_desks import drag, pan_with_room, wheel

CONTROL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def reframe(window, settle):
    window.show_desk(4)
    settle()
    window.activateWindow()
    return window.reframe


def keys(window):
    return window.document.cut.keys


def foot(course, number):
    return course._foot(number, course._strips()[0], course._time())


def test_pennants_turn_snap_go_together_and_are_undone_step_by_step(window, reframe, settle):
    course, before = reframe.course, window.document.cut
    x, y = foot(course, 2)
    drag(course, QPointF(x + 3, y - 12), QPointF(x + 3, y - 32))  # up: to the right
    turned = keys(window)[2].yaw_deg - before.keys[2].yaw_deg
    assert turned > 20.0 and [k.time_s for k in keys(window)] == [k.time_s for k in before.keys]
    assert [k.yaw_deg for k in keys(window)][3:] == [k.yaw_deg for k in before.keys][3:]
    window.document.undo()
    x, y = foot(course, 4)
    scale = course._bearing(course._strips()[0])
    subject = scale.px(float(reframe.known.track.at(np.array([before.keys[4].time_s])).yaw_deg[0]))
    drag(course, QPointF(x + 3, y - 12), QPointF(x + 3, y - 12 + 25))
    drag(course, QPointF(x + 3, foot(course, 4)[1] - 12), QPointF(x + 3, subject - 12 + 3))  # near enough
    off = keys(window)[4].yaw_deg - float(reframe.known.track.at(np.array([keys(window)[4].time_s])).yaw_deg[0])
    assert (off + 180) % 360 - 180 == pytest.approx(0.0, abs=0.01)
    window.document.undo()
    window.document.undo()
    assert window.document.cut == before
    for number, held in ((2, Qt.KeyboardModifier.NoModifier), (3, CONTROL)):
        x, y = foot(course, number)
        QTest.mouseClick(course, Qt.MouseButton.LeftButton, held, QPointF(x + 3, y - 12).toPoint())
    assert reframe.hand.several == {2, 3}
    x, y = foot(course, 3)
    drag(course, QPointF(x + 3, y - 12), QPointF(x + 33, y - 12))
    moved = [a.time_s - b.time_s for a, b in zip(keys(window), before.keys, strict=True)]
    assert moved[2] == pytest.approx(moved[3]) and moved[2] > 0.3 and moved[0] == moved[1] == moved[4] == 0.0
    window.actions_by_id["key.delete"].trigger()
    assert len(keys(window)) == len(before.keys) - 2
    window.document.undo()
    window.document.undo()
    assert window.document.cut == before


def test_holds_and_moves_are_lengthened_by_hand_and_typed(window, reframe, settle):
    course, before = reframe.course, window.document.cut
    stage = course._stages[0]
    box = course._stage_box(stage, course._strips()[0], course._time())
    drag(course, QPointF(box.right(), box.center().y()), QPointF(box.right() - 30, box.center().y()))
    shorter = [a.time_s - b.time_s for a, b in zip(keys(window), before.keys, strict=True)]
    assert shorter[0] == 0.0 and shorter[1] < -0.3 and shorter[1:] == pytest.approx([shorter[1]] * 5)
    window.document.undo()
    reframe.go_to(0.0)
    QTest.keyClick(window, "k")
    bar = reframe.board.key_bar
    assert bar.isVisible() and bar.lasts.name.text() == "hold" and bar.lasts.box.value() == pytest.approx(2.2)
    bar.lasts.edited.emit(1.0)
    assert keys(window)[1].time_s == pytest.approx(1.0)
    reframe.go_to(keys(window)[2].time_s)
    bar.ease_chosen.emit("arrives", "soft")
    bar.ease_chosen.emit("draws_back", True)
    assert (keys(window)[2].arrives, keys(window)[2].draws_back) == ("soft", True)
    widest = (
        course_for(window.document.cut, FORMATS[0]).values(np.linspace(1.0, keys(window)[2].time_s, 60))[:, 3].max()
    )
    assert widest > before.keys[2].fov_deg + 3.0
    bar.round_chosen.emit("long")
    assert keys(window)[2].yaw_deg == pytest.approx(before.keys[2].yaw_deg + 360.0)


def test_the_course_is_looked_into_and_told_from_elsewhere_and_compared(window, reframe, settle):
    course = reframe.course
    wheel(course, 3)
    low, high = course.seen_s
    assert high - low < 0.6 * window.document.take.duration_s
    reframe.go_to(0.0)
    assert course.seen_s[0] == 0.0
    for _ in range(8):
        QTest.keyClick(window, Qt.Key.Key_Minus, CONTROL)
    assert course.seen_s == (0.0, pytest.approx(window.document.take.duration_s))
    QTest.keyClick(window, "b")
    assert course.plot.frame.name == "from north"  # the demo's take was placed: its heading is known
    bearing = float(course._told(np.array([0.0]), np.array([0.0]))[0]) % 360
    plan = reframe.known.around.front_bearing_deg
    assert bearing == pytest.approx(plan, abs=1e-6)
    QTest.keyClick(window, "b")
    reframe.go_to(7.0)
    reframe.work.type_angle("yaw_deg", 30.0)
    QTest.keyClick(window, "c")
    assert course.plot.other is not None and course.plot.other_words == "how it was"
    off = course.plot.other.values(np.array([7.0]))[0, 0] - course.plot.course.values(np.array([7.0]))[0, 0]
    assert abs(off) > 50.0
    settle()


def test_a_click_on_the_course_lands_where_it_was_made(window, reframe, settle):
    """Wherever that is: also on the band's edge, on a hold or on a ready move, which could be pulled there."""
    course = reframe.course
    main = course._strips()[0]
    grips = set()
    for share in (0.2, 0.35, 0.5, 0.65, 0.8):
        for height in np.linspace(main.top() + 2, main.bottom() - 2, 13):
            at = QPointF(main.left() + share * main.width(), height)
            what = course._taken(at, Qt.KeyboardModifier.NoModifier).what
            if what == "key":
                continue
            grips.add(what)
            before = window.document.cut
            QTest.mouseClick(course, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at.toPoint())
            assert reframe.hand.now_s == pytest.approx(course._when(at.toPoint().x()), abs=reframe.hand.step_s)
            assert window.document.cut == before, what
    assert {"time", "width"} <= grips


def test_one_shape_is_corrected_alone_and_taken_back_by_one_key(window, reframe, settle, qtbot):
    before = window.document.cut
    reframe.shapes.button(FORMATS[1]).click()
    reframe.go_to(4.0)
    settle()
    QTest.keyClick(window, "a")
    assert reframe.board.alone.isChecked() and reframe.hand.edits_own
    reframe.work.nudge("yaw_deg", 12.0)
    reframe.work.nudge("fov_deg", -10.0)
    cut = window.document.cut
    assert cut.keys == before.keys and cut.own[0].shape == "9:16"
    assert reframe.course.plot.own is not None
    wide, own, was = (course_for(c, f).at(4.0) for c, f in ((cut, FORMATS[0]), (cut, FORMATS[1]), (before, FORMATS[1])))
    assert wide == course_for(before, FORMATS[0]).at(4.0)
    assert own.yaw_deg == pytest.approx(was.yaw_deg + 12.0) and own.fov_deg == pytest.approx(
        was.fov_deg - 10.0, abs=1e-4
    )
    with qtbot.waitSignal(reframe.said) as said:
        reframe.work.nudge("bend", 0.2)
    assert "of all shapes" in said.args[0]
    QTest.keyClick(window, "a", Qt.KeyboardModifier.ShiftModifier)
    assert window.document.cut == before
    QTest.keyClick(window, "a")
    reframe.shapes.button(FORMATS[0]).click()
    settle()


def test_the_view_is_held_on_the_subject_at_a_third_with_the_keyboard(window, reframe, settle):
    before, track = window.document.cut, reframe.known.track
    reframe.go_to(6.0)
    QTest.keyClick(window, "f")
    assert reframe.board.hold_bar.isVisible()
    QTest.keyClick(window, "f", Qt.KeyboardModifier.ShiftModifier)
    settle()
    cut = window.document.cut
    assert cut.anchors[0].on == "subject" and [bool(k.on) for k in cut.keys][:3] == [False] * 3
    for name, value in (("place", (0.17, 0.0)), ("smooth_s", 0.2)):
        reframe.hold_work.change(name, value)
    cut = window.document.cut
    assert all((k.yaw_deg, k.pitch_deg) == (0.0, 0.0) for k in cut.keys if k.on)
    for shape in FORMATS[:2]:
        course, (width, height) = course_for(cut, shape, targets=reframe.known.targets), shape.size_px
        for time in (7.4, 9.0, 13.0):
            there = track.at(np.array([time]))
            x, _ = frame_position(course.at(time), (width, height), direction(there.yaw_deg, there.pitch_deg))
            assert float(x[0]) / width - 0.5 == pytest.approx(0.17, abs=0.05)
    reframe.go_to(9.0)
    shown = reframe.hand.shown_view()
    reframe.work.nudge("pitch_deg", 2.0)  # a keyframe, told from the subject
    assert keys(window)[edits_at(window, 9.0)].on and reframe.hand.shown_view().pitch_deg == pytest.approx(
        shown.pitch_deg + 2, abs=1e-3
    )
    QTest.keyClick(window, "f", Qt.KeyboardModifier.ShiftModifier)
    assert not keys(window)[-1].on
    while window.document.cut != before:
        window.document.undo()


def edits_at(window, time_s):
    return next(n for n, k in enumerate(keys(window)) if abs(k.time_s - time_s) < 0.03)


def test_a_view_is_held_on_a_bearing_and_a_point_and_says_what_it_does_not_know(window, reframe, settle, qtbot):
    work, before = reframe.hold_work, window.document.cut
    reframe.go_to(3.0)
    work.hold(("compass", ("",)))
    cut, around = window.document.cut, reframe.known.around
    bearing = around.bearing_at(reframe.hand.path_view().yaw_deg, 3.0) % 360
    assert cut.anchors[0].bearing_deg == pytest.approx(bearing, abs=0.06)
    work.hold(None)
    work.hold(("point", ("",)))
    assert len(window.document.cut.anchors[0].spots) == 1
    with qtbot.waitSignal(reframe.said) as said:
        work.hold(("travel", ("",)))
    assert "is being found" in said.args[0] and window.document.cut.anchors[0].on == "point"
    qtbot.waitUntil(lambda: not window.jobs.running and window.settled, timeout=180000)
    assert reframe.known.turning_known
    work.hold(("travel", ("",)))
    settle()
    assert window.document.cut.anchors[-1].on == "travel"
    ahead = (
        -window.document.take.placement.heading_deg
    )  # the boat goes ahead, the front lens looks so far right of that
    assert np.abs((reframe.known.travel.yaw_deg[20:-20] - ahead + 180) % 360 - 180).max() < 20.0
    while window.document.cut != before:
        window.document.undo()


# Flown
def test_a_take_is_flown_by_keys_smoothed_anew_and_undone_in_one_step(window, reframe, settle, qtbot):
    before, bar = window.document.cut, reframe.board.fly_bar
    reframe.go_to(5.0)
    reframe.toggle_play()
    qtbot.waitUntil(lambda: reframe.hand.now_s > 5.1, timeout=30000)
    reframe.go_to(2.0)
    settle()
    QTest.keyClick(window, "y")
    assert reframe.flying.running and bar.isVisible()
    frame = reframe.frame
    QTest.keyPress(frame, Qt.Key.Key_Right)
    qtbot.waitUntil(lambda: len(reframe.flying._seen) > 12, timeout=30000)
    assert (
        abs(reframe.flying._seen[-1][0] - reframe.hand.now_s) < 1.5
    )  # whatever played before, the view is of this moment
    QTest.keyRelease(frame, Qt.Key.Key_Right)
    box = frame.frame_box
    QTest.mouseMove(frame, QPointF(box.center().x() - box.width() * 0.4, box.center().y()).toPoint())
    qtbot.waitUntil(lambda: len(reframe.flying._seen) > 30, timeout=30000)
    QTest.keyClick(frame, Qt.Key.Key_Space)
    settle()
    flight, cut = reframe.flying.flight, window.document.cut
    assert not reframe.flying.running and flight is not None and cut != before
    yaws = flight.values[:, 0]
    assert yaws.max() > yaws[0] + 5.0 and yaws[-1] < yaws.max() - 5.0
    bar.within.box.setValue(6.0)
    fewer = window.document.cut
    assert len(fewer.keys) <= len(cut.keys) and fewer != cut
    bar.raw.click()
    assert reframe.hand.course(fewer).at(float(flight.time_s[9])).yaw_deg == pytest.approx(float(yaws[9]), abs=1e-6)
    bar.raw.click()
    settle()
    assert reframe.hand.ghost is not None
    window.document.undo()
    assert window.document.cut == before and reframe.hand.ghost is None  # its line goes along
    QTest.keyClick(window, "y")
    qtbot.waitUntil(lambda: len(reframe.flying._seen) > 3, timeout=30000)
    QTest.keyClick(frame, Qt.Key.Key_Escape)
    settle()
    assert window.document.cut == before


def test_a_shaky_flight_is_fitted_within_its_tolerance_with_a_tenth_of_the_jerk_and_no_lag(window):
    from glintor.reframing.course import shared
    from glintor.reframing.cut import Cut
    from glintor.reframing.fitted import flown, off_deg

    rng, times = np.random.default_rng(5), np.arange(1.0, 11.0, 1 / 25)
    lead = 60.0 * np.tanh((times - 5.0) / 1.2)
    tremor = np.cumsum(rng.normal(0.0, 0.35, (len(times), 2)), axis=0)
    tremor -= np.stack([np.convolve(c, np.ones(15) / 15, mode="same") for c in tremor.T], axis=1)  # a hand's, quick
    values = np.zeros((len(times), 5))
    values[:, 0], values[:, 1] = lead + tremor[:, 0], tremor[:, 1]
    values[:, 3], values[:, 4] = 80.0 - 2.0 * times, 0.15
    flight = Flight(times, values)
    cut = Cut(id="c", name="c", take_id="t", in_s=0.0, out_s=12.0, keys=(Keyframe(time_s=0.0), Keyframe(time_s=11.9)))
    new = flown(cut, flight, calm_s=0.3, tolerance_deg=1.0, step_s=1 / 25)
    calm, course = flight.calmed(0.3, 1 / 25), shared(new)
    assert off_deg(course.values(calm.time_s), calm.values).max() <= 1.0 + 1e-6
    rms = [float(np.sqrt((motion_of(c, times[5:-5]).jerk_deg_s3 ** 2).mean())) for c in (flight.course, course)]
    assert rms[0] > 10.0 * rms[1] and len(new.keys) < 25
    shown, shifts = course.values(times)[:, 0], np.arange(-5, 6)
    misfit = [np.abs(shown[10:-10] - np.interp(times[10:-10] - s / 25, times, lead)).mean() for s in shifts]
    assert abs(int(shifts[int(np.argmin(misfit))])) <= 1
    assert new.keys[0] == cut.keys[0] and new.keys[-1] == cut.keys[-1]


# Ready moves and looks
def test_a_ready_move_is_made_pulled_changed_and_dissolved(window, reframe, settle):
    before, course = window.document.cut, reframe.course
    reframe.go_to(5.6)
    QTest.keyClick(window, "v")
    bar = reframe.board.move_bar
    assert bar.isVisible() and bar.kinds.hasFocus()
    bar.wanted.emit("third")
    settle()
    move = window.document.cut.moves[0]
    assert (move.start_s, move.end_s) == pytest.approx((5.6, 13.6), abs=0.03) and move.closing.fov_deg > 0
    assert bar.amount.box.value() == pytest.approx(95.0) and bar.amount.name.text() == "view"
    box = course._span_box(move.start_s, move.end_s, course._strips()[0], course._time())
    drag(course, QPointF(box.right() - 2, box.center().y()), QPointF(box.right() - 80, box.center().y()))
    pulled = window.document.cut.moves[0]
    assert pulled.end_s < 12.9 and pulled.start_s == move.start_s
    assert max(k.time_s for k in keys(window) if k.move) == pytest.approx(pulled.end_s)
    bar.changed.emit("amount", 70.0)
    assert 70.0 in [round(k.fov_deg, 3) for k in keys(window) if k.move]
    bar.wanted.emit("pendulum")
    assert [m.kind for m in window.document.cut.moves] == ["pendulum"]
    reframe.go_to(pulled.start_s)
    reframe.work.nudge("yaw_deg", 3.0)  # a hand on its beginning: it is a handle
    assert [m.kind for m in window.document.cut.moves] == ["pendulum"]
    reframe.go_to([k.time_s for k in keys(window) if k.move][2])
    reframe.work.nudge("yaw_deg", 3.0)  # on one of its keyframes
    assert not window.document.cut.moves and not any(k.move for k in keys(window))
    while window.document.cut != before:
        window.document.undo()


def test_a_look_of_ones_own_is_kept_in_the_kit_and_forgotten(window, reframe, settle):
    reframe.go_to(3.0)
    reframe.work.type_angle("bend", 0.7)
    reframe.work.type_angle("fov_deg", 150.0)
    reframe.work.keep_look("Barrel")
    settle()
    own = window.document.project.kit.looks
    assert [(k.name, k.fov_deg, k.bend) for k in own] == [("Barrel", 150.0, 0.7)]
    reframe.go_to(8.0)
    reframe.looks.button(own[0]).click()
    assert (reframe.hand.path_view().fov_deg, reframe.hand.path_view().bend) == pytest.approx((150.0, 0.7))
    reframe.work.forget_look()
    assert not window.document.project.kit.looks


# Cures and proposals
def test_a_cure_is_looked_at_before_it_is_taken_and_left_by_escape(window, reframe, settle):
    finding = pan_with_room(window)
    before = window.document.cut
    reframe.apply(finding.cure)
    settle()
    assert window.document.cut == before and reframe.trial.running and reframe.course.plot.other is not None
    shown = reframe.hand.course(before)
    assert shown is reframe.hand.instead
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert not reframe.trial.running and reframe.hand.instead is None
    reframe.apply(finding.cure)
    again = next(f for f in reframe.findings() if f.cure is not None and f.cure.label.startswith("Take it"))
    reframe.apply(again.cure)
    settle()
    assert window.document.cut != before and not reframe.trial.running
    assert finding.start_s not in [f.start_s for f in reframe.findings() if f.kind == "pan"]
    window.document.undo()
    assert window.document.cut == before


def test_proposals_play_side_by_side_and_one_is_taken_whole_or_in_part(window, reframe, settle, qtbot):
    before = window.document.cut
    QTest.keyClick(window, "q")
    sheet = reframe.proposing.sheet
    assert sheet is not None and len(sheet.found) >= 4
    qtbot.waitUntil(
        lambda: all(p.pixmap() is not None and not p.pixmap().isNull() for p in sheet.pictures), timeout=60000
    )
    qtbot.waitUntil(lambda: not window.jobs.running, timeout=60000)
    assert "the camera moves" in sheet._said.text() and len(sheet.found) == 5  # a boat: all of its picture changes
    changes = Changing(np.arange(15.0), np.zeros((15, 8, 36)), False)
    changes.amount[:, 3, 30] = 4.0
    reframe.proposing.known(sheet, before, changes)
    assert sheet.found[-1].name == "What changes" and len(sheet.pictures) == 6
    sheet.taken.emit(sheet.found[0], False)
    sheet.reject()
    settle()
    assert window.document.cut.anchors[0].on == "subject" and window.document.undo_label.endswith("Follow")
    window.document.undo()
    reframe.work.mark_part((4.0, 8.0))
    QTest.keyClick(window, "q")
    sheet = reframe.proposing.sheet
    planet = next(p for p in sheet.found if p.name == "Planet")
    sheet.taken.emit(planet, True)
    sheet.reject()
    settle()
    outside = [k for k in before.keys if not 4.0 <= k.time_s <= 8.0]
    assert [k for k in keys(window) if not 4.0 <= k.time_s <= 8.0] == outside
    window.document.undo()
    reframe.work.mark_part(None)


def test_a_path_is_saved_and_brought_in_and_the_whole_sphere_is_a_still(window, reframe, settle, qtbot, tmp_path):
    before = window.document.cut
    window.clip_work.write_path(tmp_path / "path.json")
    reframe.go_to(8.0)
    reframe.work.nudge("yaw_deg", 25.0)
    assert window.document.cut != before
    window.clip_work.read_path(tmp_path / "path.json")
    assert window.document.cut == before
    reframe.hold_work.turn()
    settle()
    window.clip_work.write_path(tmp_path / "seen.csv")  # held: the view of every frame
    assert len((tmp_path / "seen.csv").read_text().splitlines()) > 300
    window.clip_work.save_still(tmp_path / "sphere.png", whole=True)
    qtbot.waitUntil(lambda: (tmp_path / "sphere.png").exists() and not window.jobs.running, timeout=60000)
    import cv2

    picture = cv2.imread(str(tmp_path / "sphere.png"))
    assert picture.shape[:2] == (960, 1920) and picture.std() > 20
    (tmp_path / "wrong.json").write_text("{")
    told = []
    window.tell = told.append
    window.clip_work.read_path(tmp_path / "wrong.json")
    assert "is no path" in str(told[0])

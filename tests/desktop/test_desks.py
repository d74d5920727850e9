"""Each desk driven through its real widgets."""

from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtTest import QTest

from glintor.export.queue import Queue
from glintor.finding import Level
from glintor.offload.copy import file_hash
from tests.conftest import ffprobe
from tests.desktop.conftest import pictured

LEFT = Qt.MouseButton.LeftButton


def drag(widget, start: QPointF, end: QPointF, modifiers=Qt.KeyboardModifier.NoModifier) -> None:
    QTest.mousePress(widget, LEFT, modifiers, start.toPoint())
    for share in (0.3, 0.7, 1.0):
        from PyQt6.QtCore import QEvent
        from PyQt6.QtGui import QMouseEvent
        from PyQt6.QtWidgets import QApplication

        at = start + (end - start) * share
        QApplication.sendEvent(
            widget, QMouseEvent(QEvent.Type.MouseMove, at, widget.mapToGlobal(at), LEFT, LEFT, modifiers)
        )
    QTest.mouseRelease(widget, LEFT, modifiers, end.toPoint())


def wheel(widget, notches: int, modifiers=Qt.KeyboardModifier.NoModifier) -> None:
    from PyQt6.QtWidgets import QApplication

    at = QPointF(widget.rect().center())
    event = QWheelEvent(
        at,
        widget.mapToGlobal(at),
        QPoint(),
        QPoint(0, 120 * notches),
        Qt.MouseButton.NoButton,
        modifiers,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(widget, event)


# Place


def test_dragging_the_camera_moves_everything_as_one_step(window, settle):
    settle()
    desk, plan = window.place, window.place.plan
    before = window.document.shot.placement
    at = plan.px(*plan.plan.camera[:2])
    drag(plan, at, at + QPointF(80, 0))
    after = window.document.shot.placement
    assert after.ahead_m > before.ahead_m + 0.5 and after.left_m == 0.74  # the clamp stays on its rail
    assert desk.side._plan.camera[0] == pytest.approx(after.ahead_m)
    settle()
    assert desk.sphere._marks.subject[0] == pytest.approx(plan.plan.chest_yaw_pitch_deg[0])
    window.document.undo()
    assert window.document.shot.placement == before


def test_dragging_the_sun_changes_the_time(window, settle):
    settle()
    plan = window.place.plan
    dial = plan.dial()
    west = np.radians(250.0 - 110.0)
    drag(plan, plan.sun_point(), dial + QPointF(np.cos(west) * 34, np.sin(west) * 34))
    assert 16 * 60 < window.document.shot.start_min < 18 * 60
    assert plan.plan.sun.azimuth_deg == pytest.approx(250.0, abs=3.0)


def test_subject_and_lens_can_be_dragged(window, settle):
    settle()
    plan, shot = window.place.plan, lambda: window.document.shot.placement
    who, ahead = plan.px(*plan.plan.subject[:2]), plan.plan.subject[:2] + (0.9, -0.2)
    drag(plan, who, plan.px(*ahead))
    assert shot().subject.ahead_m > -6.0
    lens, at = plan.lens_point(), plan.px(*plan.plan.camera[:2])
    aside = np.radians(plan.plan.heading_deg + plan.plan.chest_yaw_pitch_deg[0] - 90.0)
    reach = QPointF(110 * np.cos(aside), 110 * np.sin(aside))
    drag(plan, lens, at + reach, Qt.KeyboardModifier.AltModifier)  # freely, not in steps of 5 degrees
    assert plan.plan.chest_yaw_pitch_deg[0] == pytest.approx(90.0, abs=1.0)
    seam = next(f for f in window.place.findings() if f.kind == "seam")
    assert seam.level is Level.CAUTION and seam.title == "Seam tears the face" and seam.cure is not None


def test_a_crooked_joint_shows_its_limit_at_once(window, settle):
    settle()
    window.place.tilt.box.setValue(4.0)
    tilt = next(f for f in window.place.findings() if f.kind == "tilt")
    assert tilt.level is Level.CAUTION and tilt.value == 4.0


# Expose


def test_the_solver_sets_what_the_camera_will_record(window, settle):
    window.document.choose_shot("wharf-portrait")
    window.show_desk(1)
    settle()
    window.expose.nd.setCurrentIndex(window.expose.nd.findData(0.0))
    window.expose.nd.activated.emit(window.expose.nd.currentIndex())
    settle()
    assert any(f.level is Level.STOP for f in window.expose.findings())
    window.expose.solve.click()
    settle()
    e = window.document.shot.exposure
    assert e.nd_stops > 0 and not any(f.kind == "brightness" and f.level > Level.NOTE for f in window.expose.findings())
    window.document.undo()
    assert window.document.shot.exposure.nd_stops == 0.0


def test_the_window_of_the_light_course_is_dragged_and_moved_by_keys(window, settle):
    window.show_desk(1)
    settle()
    chart, before = window.expose.chart, window.document.shot.exposure.shutter_s
    drag(chart, QPointF(300, 200), QPointF(300, 150))
    assert window.document.shot.exposure.shutter_s < before
    mid = window.document.shot.exposure.shutter_s
    QTest.keyClick(chart, Qt.Key.Key_Down)
    assert window.document.shot.exposure.shutter_s == pytest.approx(mid * 2 ** (1 / 3))
    QTest.keyClick(chart, Qt.Key.Key_Right)
    assert window.expose._moment_s == pytest.approx(1.0)


# Record and offload


def test_a_take_is_recorded_logged_brought_over_and_cut(window, settle, qtbot):
    """The thinnest way through: roll, log, copy with proof, reframe."""
    document = window.document
    document.choose_shot("tunnel-mouth")
    window.show_desk(2)
    settle()
    window.record.rehearse()
    window.record.rehearsal.source.film.box.setValue(1)
    window.record.rehearsal.source.width.setCurrentIndex(0)
    QTest.mouseClick(window.record.rehearsal.roll, LEFT)
    assert window.work._cancel.isVisibleTo(window)
    qtbot.waitUntil(lambda: bool(document.shot.takes), timeout=120000)
    take = document.shot.takes[0]
    clip = document.card / take.files[0].card
    assert clip.exists() and take.duration_s == 1.0
    before = file_hash(clip)
    window.show_desk(3)
    QTest.mouseClick(window.offload.bring, LEFT)
    qtbot.waitUntil(lambda: bool(document.shot.takes[0].files[0].copy), timeout=30000)
    safe = document.shot.takes[0]
    assert safe.files[0].xxh64 == before == file_hash(document.file.parent / safe.files[0].copy) == file_hash(clip)
    assert all(t.files[0].copy for s in document.project.shots for t in s.takes)
    qtbot.waitUntil(lambda: bool(list((document.footage / "ascmhl").glob("0002*.mhl"))), timeout=30000)
    window.show_desk(4)
    settle()
    window.reframe.work.new_cut()
    assert document.cut is not None and document.cut.take_id == take.id
    settle()


def test_recording_can_be_stopped(window, settle, qtbot):
    window.show_desk(2)
    settle()
    takes, clips = window.document.shot.takes, window.document.card / "clips"
    before = sorted(clips.iterdir())
    window.record.rehearsal.source.film.box.setValue(60)
    window.record.start()
    qtbot.waitUntil(lambda: window.jobs.running[0].share > 0, timeout=60000)
    QTest.mouseClick(window.work._cancel, LEFT)
    qtbot.waitUntil(lambda: not window.jobs.running, timeout=60000)
    assert window.document.shot.takes == takes and window.record.rehearsal.roll.isEnabled()
    qtbot.waitUntil(lambda: sorted(clips.iterdir()) == before, timeout=60000)  # the encoder may still be in a picture


def test_looking_around_a_clip_sets_nothing(window, settle):
    window.show_desk(3)
    settle()
    project = window.document.project
    frame, before = window.offload.viewer.looker.frame, window.offload.viewer.looker.view
    drag(frame, QPointF(200, 100), QPointF(260, 120))
    window.offload.viewer.line.sought.emit(7.5)
    settle()
    assert pictured(frame) and frame._view.yaw_deg < before.yaw_deg and "7.5 of 15.0 s" in frame._words
    assert window.document.project == project


# Reframe


@pytest.fixture
def reframe(window, settle):
    window.show_desk(4)
    settle()
    return window.reframe


def keys(window):
    return window.document.cut.keys


def pan_with_room(window):
    """60 degrees in 3 s of 15: the limit wants about nine, so there is an honest cure. Its finding."""
    cut = window.document.cut
    turned = [(0.0, -6.0), (2.2, -6.0), (5.2, -66.0)]
    new = tuple(replace(cut.keys[0], time_s=at, yaw_deg=yaw, pitch_deg=-4.0) for at, yaw in turned)
    window.reframe.work.edit_cut("Turn", replace(cut, keys=new, moves=()))
    return next(f for f in window.reframe.findings() if f.kind == "pan")


def test_turning_the_frame_sets_one_keyframe_and_one_step(window, reframe, settle):
    reframe.go_to(7.5)
    settle()
    count, view = len(keys(window)), reframe.hand.path_view()
    drag(reframe.frame, QPointF(300, 150), QPointF(360, 150))
    assert len(keys(window)) == count + 1
    turned = reframe.hand.path_view()
    assert turned.yaw_deg < view.yaw_deg and turned.pitch_deg == pytest.approx(view.pitch_deg)
    # The world follows the hand: 60 px at the frame's own scale.
    assert view.yaw_deg - turned.yaw_deg == pytest.approx(60 * reframe.frame._deg_per_px(), rel=0.15)
    window.document.undo()
    assert len(keys(window)) == count


def test_wheel_zooms_shift_bends_alt_rolls(window, reframe, settle):
    reframe.go_to(7.5)
    view = reframe.hand.path_view()
    wheel(reframe.frame, 3)
    assert reframe.hand.path_view().fov_deg == pytest.approx(view.fov_deg * 0.94**3, rel=1e-3)
    wheel(reframe.frame, 2, Qt.KeyboardModifier.ShiftModifier)
    assert reframe.hand.path_view().bend == pytest.approx(view.bend + 0.1, abs=1e-6)
    centre = reframe.frame.frame_box.center()
    drag(reframe.frame, centre + QPointF(80, 0), centre + QPointF(0, 80), Qt.KeyboardModifier.AltModifier)
    assert reframe.hand.path_view().roll_deg == pytest.approx(view.roll_deg - 90.0, abs=2.0)


def test_ctrl_only_looks_around(window, reframe, settle):
    project = window.document.project
    drag(reframe.frame, QPointF(300, 150), QPointF(200, 120), Qt.KeyboardModifier.ControlModifier)
    settle()
    assert window.document.project == project and reframe.hand.look is None


def test_keyframes_are_walked_copied_moved_and_removed(window, reframe, settle):
    act = window.actions_by_id
    reframe.go_to(0.0)
    act["key.after"].trigger()
    assert reframe.hand.now_s == pytest.approx(2.2)
    act["key.copy"].trigger()
    reframe.go_to(8.0)
    act["key.paste"].trigger()
    assert reframe.hand.path_view().yaw_deg % 360 == pytest.approx(-6.0 % 360, abs=0.01)
    count = len(keys(window))
    act["key.delete"].trigger()
    assert len(keys(window)) == count - 1
    course = reframe.course
    x, y = course._foot(1, course._strips()[0], course._time())
    drag(course, QPointF(x + 4, y - 12), QPointF(x + 64, y - 12))
    assert keys(window)[1].time_s > 2.8
    act["edit.undo"].trigger()
    assert keys(window)[1].time_s == pytest.approx(2.2)


def test_in_and_out_are_set_by_keys_and_by_hand(window, reframe):
    act = window.actions_by_id
    reframe.go_to(2.0)
    act["cut.in"].trigger()
    reframe.go_to(10.0)
    act["cut.out"].trigger()
    cut = window.document.cut
    assert (cut.in_s, cut.out_s) == (pytest.approx(2.0), pytest.approx(10.0 + 1 / 24))
    course = reframe.course
    x = course._time().px(cut.in_s)
    drag(course, QPointF(x, 16), QPointF(x + 50, 16))
    assert window.document.cut.in_s > 2.3


def test_looks_shapes_and_the_sphere(window, reframe, settle):
    from glintor.export.formats import FORMATS
    from glintor.reframing.looks import LOOKS

    reframe.go_to(5.0)
    for look in LOOKS:
        reframe.looks.button(look).click()
        settle()
        assert reframe.hand.path_view().bend == pytest.approx(look.bend, abs=1e-6)
        assert reframe.looks.button(look).isChecked()
    reframe.shapes.button(FORMATS[1]).click()
    settle()
    image = reframe.frame._image
    assert image.height() >= 560 and image.width() / image.height() == pytest.approx(9 / 16, abs=0.01)
    assert "9:16" in reframe.frame._words and reframe.frame.frame_box.height() >= 560
    box = reframe.sphere.box
    QTest.mouseClick(reframe.sphere, LEFT, pos=QPointF(box.left() + box.width() * 0.75, box.center().y()).toPoint())
    assert (reframe.hand.path_view().yaw_deg - 90.0 + 180) % 360 - 180 == pytest.approx(0.0, abs=2.0)


def test_a_camera_is_rehearsed_with_its_modes_and_faults(window, settle, qtbot):
    record = window.record.rehearsal
    window.show_desk(2)
    settle()
    record.source.film.show_value(1)
    record.source.width.setCurrentIndex(0)
    told = []
    window.jobs.trouble.connect(told.append)
    record.source.fault.setCurrentIndex(record.source.fault.findData("pulled"))
    before = window.document.shot.takes
    record.roll.click()
    assert record.roll.text() == "Stop, keep it"
    qtbot.waitUntil(lambda: record._job is None, timeout=180000)
    assert "pulled out" in told[0].what and window.document.shot.takes == before
    record.source.fault.setCurrentIndex(0)
    record.mode.setCurrentIndex(record.mode.findData("sphere-3k"))
    record.roll.click()
    assert "no 24 fps" in told[1].what
    record.roll.click()
    qtbot.waitUntil(lambda: record._job is None, timeout=180000)
    take = window.document.shot.takes[-1]
    assert len(window.document.shot.takes) == len(before) + 1 and take.duration_s <= 1.0
    assert "battery 100%, 80 min" not in record.power.text()
    record.mode.setCurrentIndex(record.mode.findData("bracket"))
    assert record.roll.text() == "Take pictures" and not record.source.film.isEnabled()
    record.roll.click()
    qtbot.waitUntil(lambda: record._job is None, timeout=180000)
    assert len(list((window.document.card / "photos").glob("photo-*.jpg"))) >= 3


def test_playing_follows_the_path_to_the_end(window, reframe, qtbot):
    reframe.go_to(14.2)
    with qtbot.waitSignal(reframe.player.stopped, timeout=20000):
        window.actions_by_id["play.toggle"].trigger()
        assert reframe.player.playing
    assert reframe.hand.now_s == pytest.approx(15.0 - 1 / 24, abs=0.01)
    reframe.step(-1)
    assert reframe.hand.now_s == pytest.approx(15.0 - 2 / 24, abs=0.01)


def test_the_review_is_shown_and_its_cure_mends_the_path(window, reframe):
    pan = next(f for f in reframe.findings() if f.kind == "pan")
    assert pan.cure is None and "no room for that" in pan.reason  # 159 degrees in 3 s of 15: it wants 16
    pan = pan_with_room(window)
    reframe.show_place(pan)
    assert reframe.hand.now_s == pytest.approx(pan.start_s)
    window.strip.cure_asked.emit(pan)
    tried = next(f for f in reframe.findings() if f.cure is not None and f.cure.label.startswith("Take it"))
    window.strip.cure_asked.emit(tried)
    assert pan not in reframe.findings()
    window.document.undo()
    assert pan in reframe.findings()


def test_a_clip_that_went_away_is_said_in_the_frame(window, settle):
    window.document.choose_shot("towpath-walk")
    take = window.document.take
    (window.document.file.parent / take.files[0].copy).unlink()
    (window.document.card / take.files[0].card).unlink()
    window.show_desk(4)
    assert "not where it was" in window.reframe.frame._empty


# Export


def test_both_formats_are_rendered_in_one_pass_and_counted(window, settle, qtbot):
    import msgspec

    cut = window.document.cut
    window.document.edit_shot(
        "Short", lambda s: msgspec.structs.replace(s, cuts=(msgspec.structs.replace(cut, in_s=3.0, out_s=3.5),))
    )
    window.show_desk(5)
    settle()
    for (shot_id, _, shape), cell in window.export.grid.cells().items():
        cell.tick.setChecked(shot_id == "roof-cobdale" and shape in ("16:9", "9:16"))
    cell = window.export.grid.cells()["roof-cobdale", cut.id, "16:9"]
    QTest.mouseClick(window.export.measure, LEFT)
    qtbot.waitUntil(lambda: cell.size_words.text().startswith("about"), timeout=60000)
    QTest.mouseClick(window.export.go, LEFT)
    qtbot.waitUntil(lambda: [j.state for j in window.export.queue.jobs] == ["done", "done"], timeout=120000)
    for job, size in zip(window.export.queue.jobs, (["1920", "1080"], ["1080", "1920"]), strict=True):
        assert ffprobe(Path(job.target), "stream=width,height,nb_read_frames") == [*size, "12"]
    assert "12 frames" in window.export.queue.jobs[0].words
    assert cell.state.text().startswith("written")
    assert "12 frames" in window.export.grid._lines["roof-cobdale", cut.id].title.text()


def test_stopping_a_render_leaves_nothing_and_closing_keeps_the_queue(window, settle, qtbot, tmp_path):
    window.show_desk(5)
    settle()
    window.export.render_ticked()
    qtbot.waitUntil(lambda: window.jobs.running and window.jobs.running[0].share > 0, timeout=60000)
    assert len(window.export.queue.jobs) == 4
    window.jobs.running[0].cancel()
    qtbot.waitUntil(lambda: len(window.export.queue.jobs) == 2, timeout=60000)
    qtbot.waitUntil(lambda: window.jobs.running and window.jobs.running[0].share > 0, timeout=60000)
    window.close()
    again = Queue(tmp_path / "queue.json")
    assert [j.state for j in again.jobs] == ["waiting", "waiting"]
    assert [p for p in (window.document.file.parent / "exports").glob("*") if p.is_file()] == []


def test_bit_rate_and_quality_change_the_forecast(window, settle):
    window.show_desk(5)
    settle()
    desk = window.export
    cell = next(iter(desk.grid.cells().values()))
    assert "a guess" in cell.size_words.text() and "four times" in cell.size_words.toolTip()
    desk.rate.button("mbit").click()
    desk.mbit.box.setValue(80)
    assert "120 MB" in cell.size_words.text() and "about" not in cell.size_words.text()
    assert "true" in cell.true.text() and "True width" in cell.true.toolTip()

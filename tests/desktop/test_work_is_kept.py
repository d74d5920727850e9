"""What happens beside the work at hand changes the day as it is now, and nothing of a card is forgotten."""

import threading
from fractions import Fraction

import msgspec
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtWidgets import QApplication, QMessageBox

from glintor.media.picture import write_picture
from glintor.offload import copy as copying
from glintor.offload.card import survey
from glintor.project.model import with_take
from glintor.project.store import read_project
from tests.conftest import make_clip, smooth_sphere


@pytest.fixture
def gate(monkeypatch):
    """Holds the copying thread before each unit until it is let through."""
    passes, bring = threading.Semaphore(0), copying.bring_unit
    passes.brought = brought = threading.Event()

    def held(*args, **options):
        assert passes.acquire(timeout=30)
        try:
            return bring(*args, **options)
        finally:
            brought.set()

    monkeypatch.setattr(copying, "bring_unit", held)
    return passes


def test_a_rating_made_during_a_copy_is_kept_and_takes_are_logged_as_they_are_proven(window, settle, qtbot, gate):
    document, folder = window.document, window.document.card / "photos"
    write_picture(folder / "extra.jpg", smooth_sphere(64))
    window.show_desk(3)
    settle()
    files = {file.name for entry in window.offload.found if entry.unit for file in entry.unit.unit.files}
    assert {"photo-0001.jpg", "bracket-0001.csv", "extra.jpg"} <= files
    assert "Not yet safe to clear" in window.offload.sentence.text()
    window.offload.start()
    lock = document.project.shot("pell-lock")
    assert lock.takes[0].only_on_card
    gate.release(1)  # the first that waits is the lock's film
    qtbot.waitUntil(lambda: not document.project.shot("pell-lock").takes[0].only_on_card, timeout=30000)
    assert window.jobs.running and document.project.shot("pell-lock").takes[1].only_on_card
    document.choose_shot("pell-lock")
    rated = msgspec.structs.replace(document.shot.takes[1], rating=5)
    document.edit_shot("Rate a take", lambda shot: with_take(shot, rated))
    gate.release(50)
    qtbot.waitUntil(lambda: not window.jobs.running, timeout=30000)
    settle()
    takes = document.project.shot("pell-lock").takes
    assert takes[1].rating == 5 and takes[1].files[0].copy and takes[1].files[0].xxh64
    assert "A second place makes it safe" in window.offload.sentence.text() and not window.offload.bring.isEnabled()


def test_what_was_proven_before_the_window_closed_is_logged(window, settle, qtbot, gate, day):
    window.show_desk(3)
    settle()
    window.offload.start()
    gate.release(1)
    assert gate.brought.wait(30)  # the window's thread has not heard of it yet
    gate.release(50)
    window.close()
    kept = {t.files[0].card: t.files[0].copy for t in read_project(day).shot("pell-lock").takes}
    safe = {unit.name for unit in survey(window.document.card, window.document.footage).units if unit.safe}
    assert any(copy.endswith("/clip-0004.mp4") for copy in kept.values())
    assert {name for name, copy in kept.items() if name and copy} == safe & set(kept)


def test_two_clips_dropped_together_both_come_and_the_second_is_opened_and_cut(window, settle, qtbot, tmp_path):
    document = window.document
    clips = [make_clip(tmp_path / f"own{n}.mp4", frames=10 + n, rate=Fraction(24)) for n in (1, 2)]
    before = document.shot.takes
    for clip in clips:
        window.clip_work.drop([clip])
    qtbot.waitUntil(lambda: not window.jobs.running, timeout=30000)
    new = document.shot.takes[len(before) :]
    assert sorted(t.name for t in new) == ["own1", "own2"] and len({t.id for t in new}) == 2
    assert window.desk is window.reframe
    settle()
    names = [window.reframe.cuts.itemText(n) for n in range(window.reframe.cuts.count())]
    mine = next(c for c in document.shot.cuts if c.take_id == next(t.id for t in new if t.name == "own1"))
    window.reframe.choose_cut(names.index(mine.name))
    settle()
    assert document.take.name == "own1" and window.reframe.projector.footage.name == "own1.mp4"
    window.reframe.work.new_cut()
    assert document.cut.take_id == document.take.id and document.take.name == "own1" and document.cut != mine
    settle()


def wheel(frame, clicks: int) -> None:
    at = QPointF(frame.rect().center())
    event = QWheelEvent(
        at, frame.mapToGlobal(at), QPoint(), QPoint(0, 120 * clicks), Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(frame, event)


def test_a_wheel_that_rests_ends_its_gesture(window, settle, qtbot):
    window.show_desk(4)
    settle()
    document, frame = window.document, window.reframe.frame
    fovs = [document.cut.keys[0].fov_deg]
    for _ in range(2):
        wheel(frame, 1)
        wheel(frame, 1)
        assert document.in_gesture
        qtbot.waitUntil(lambda: not document.in_gesture, timeout=5000)
        fovs.append(document.cut.keys[0].fov_deg)
    document.undo()
    assert document.cut.keys[0].fov_deg == fovs[1]
    document.undo()
    assert document.cut.keys[0].fov_deg == fovs[0]


def test_a_part_marked_on_one_cut_says_nothing_of_the_next(window, settle):
    window.show_desk(4)
    settle()
    desk = window.reframe
    desk.course.part_marked.emit((2.0, 4.0))
    first = window.document.cut
    desk.work.new_cut()
    assert desk.hand.part is None
    desk.work.set_pace(speed=4.0)
    assert [s.end_s - s.start_s for s in window.document.cut.speeds] == [first.out_s - first.in_s]


def test_missing_footage_then_a_frame_ahead_is_only_said(window, settle):
    take = window.document.take
    for file in (window.document.file.parent / take.files[0].copy, window.document.card / take.files[0].card):
        file.unlink()
    window.show_desk(4)
    for act in ("key.after", "play.ahead", "play.toggle", "key.set", "part.in", "part.out", "part.hold", "take.mark"):
        window.actions_by_id[act].trigger()
    window.reframe.frame.view_turned.emit(window.reframe.hand.path_view(), False)
    assert "not where it was" in window.reframe.frame._empty and not window.findChildren(QMessageBox)

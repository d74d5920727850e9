"""A stranger comes home with a card: dropped on the real window, all becomes what it is, and is worked on."""

import shutil
import subprocess

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QToolButton

from glintor.desktop.readings_sheet import ReadingsSheet
from glintor.desktop.take_sheet import TakeSheet
from glintor.media.probe import probe
from glintor.project.store import read_project
from glintor.project.take import Horizon
from tests.desktop.conftest import pictured
from tests.desktop.test_first_minute import begun, documents, dropped  # noqa: F401


@pytest.fixture
def window(begun, home):  # noqa: F811
    return begun(home)


def test_a_dropped_card_becomes_takes_and_a_first_film_is_upright(window, qtbot):
    document = window.document
    names = {shot.name: shot.takes[0] for shot in document.project.shots}
    assert set(names) == {"REC_0007", "PAIR_1"} and [s.name for s in document.project.sounds] == ["VOICE_3"]
    rec, pair = names["REC_0007"], names["PAIR_1"]
    assert len(rec.files) == 2 and rec.duration_s == pytest.approx(3.0) and pair.told == "side"
    site = document.project.site
    assert site.known and site.zone == "Pacific/Auckland" and site.day == "2026-03-04"
    assert rec.start_min == pytest.approx(14 * 60 + 2 + 3 / 60)
    document.choose_shot(next(s.id for s in document.project.shots if s.name == "PAIR_1"))
    qtbot.waitUntil(lambda: window.settled and document.take.lenses.residual_px is not None, timeout=180000)
    assert document.take.lenses in document.project.kit.lenses and pictured(window.reframe.frame)
    window.take_work.name_lenses(document.take.lenses.name, "guard on")
    assert [lenses.name for lenses in document.project.kit.lenses] == ["guard on"] == [document.take.lenses.name]
    document.choose_shot(next(s.id for s in document.project.shots if s.name == "REC_0007"))
    qtbot.waitUntil(lambda: window.settled, timeout=30000)
    window.reframe.board.held.activated.emit(window.reframe.board.held.findData("level"))
    qtbot.waitUntil(lambda: document.take.steady.mode == "level" and window.settled, timeout=180000)
    assert window.reframe.known.turns is not None and "its own picture" in window.reframe.known.words
    window.show_desk(5)
    window.export.render_ticked()
    films = window.export.folder
    qtbot.waitUntil(lambda: len(list(films.glob("*.mp4"))) >= 2 and not window.jobs.running, timeout=120000)
    assert sorted(probe(file).frames for file in films.glob("*16x9*.mp4")) == [30, 60]
    assert read_project(document.file).shots  # it was saved as it went


def test_a_recording_is_held_otherwise_and_keyframes_go_on_showing_what_they_showed(window, qtbot):
    document, desk = window.document, window.reframe
    document.choose_shot(next(s.id for s in document.project.shots if s.name == "REC_0007"))
    qtbot.waitUntil(lambda: window.settled, timeout=30000)
    desk.go_to(1.0)
    desk.work.type_angle("yaw_deg", 70.0)
    before = document.cut
    window.take_work.hold("lock")
    qtbot.waitUntil(lambda: document.take.steady.mode == "lock" and window.settled, timeout=180000)
    turns = desk.known.turns
    for old, new in zip(before.keys, document.cut.keys, strict=True):
        assert np.allclose(turns.at(new.time_s).T @ new.view.matrix[:, 0], old.view.matrix[:, 0], atol=1e-5)
    document.undo()
    qtbot.waitUntil(lambda: window.settled, timeout=30000)
    assert document.cut == before and document.take.steady.mode == "off" and desk.known.turns is None
    window.take_work.begin_horizon()
    for yaw, pitch in ((0.0, 12.0), (90.0, 0.0)):
        desk.sphere.clicked.emit(yaw, pitch)
    assert document.take.horizon == Horizon(pitch_deg=-12.0, roll_deg=0.0, by="hand", at_s=1.0)
    window.take_work.begin_horizon()
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert not desk.picking.stop()


def test_the_sheet_lines_a_recorder_up_and_a_hand_moves_it(window, qtbot):
    document = window.document
    document.choose_shot(next(s.id for s in document.project.shots if s.name == "REC_0007"))
    qtbot.waitUntil(lambda: window.settled, timeout=30000)
    window.open_take_sheet()
    sheet = window.findChildren(TakeSheet)[0]
    sheet.others.setCurrentIndex(sheet.others.findText("VOICE_3"))
    sheet.others.activated.emit(sheet.others.currentIndex())
    qtbot.waitUntil(lambda: len(sheet.waves._lower) > 0 and window.settled, timeout=30000)
    sheet.line_up.click()
    qtbot.waitUntil(lambda: bool(document.take.heard), timeout=30000)
    heard = document.take.heard[0]
    assert heard.offset_s == pytest.approx(-2.0, abs=0.002) and heard.instead and heard.by == "sound"
    assert "found by sound" in sheet.sound_words.text() and sheet.instead.isChecked()
    QTest.keyClick(sheet.waves, Qt.Key.Key_Right)
    assert (
        document.take.heard[0].offset_s == pytest.approx(heard.offset_s + 0.01, abs=1e-6)
        and document.take.heard[0].by == "hand"
    )
    document.undo()
    assert document.take.heard[0] == heard
    sheet.instead.click()
    assert not document.take.heard[0].instead
    sheet.close()


def test_what_is_unsure_is_asked_with_a_picture_of_each_reading(window, tmp_path, qtbot):
    file = tmp_path / "wide.mp4"
    subprocess.run(
        ["ffmpeg", "-v", "error", "-f", "lavfi", "-i", "testsrc2=s=640x320:r=25", "-t", "0.4", file], check=True
    )
    count = len(window.document.project.shots)
    dropped(window, file)
    qtbot.waitUntil(lambda: bool(window.findChildren(ReadingsSheet)) and not window.jobs.running, timeout=30000)
    sheet = window.findChildren(ReadingsSheet)[0]
    choices = sheet.findChildren(QToolButton)
    assert len(window.document.project.shots) == count and choices
    choice = next(b for b in choices if b.accessibleName() == "wide.mp4 shows a whole sphere")
    assert not choice.icon().isNull()
    choice.click()
    qtbot.waitUntil(lambda: len(window.document.project.shots) == count + 1 and window.settled, timeout=30000)
    assert window.document.take.told == "sphere" and window.document.take.told_by == "person"


def test_footage_that_moved_is_found_again_all_at_once(window, home, tmp_path, qtbot):
    document = window.document
    moved = tmp_path / "elsewhere" / "card"
    shutil.copytree(home, moved)
    gone = home.with_name("gone")
    home.rename(gone)
    try:
        window.reframe.projector.close_clip()
        document.choose_shot(document.project.shots[-1].id)
        window.clip_work.find_again([moved.parent])
        qtbot.waitUntil(lambda: not window.jobs.running and window.settled, timeout=30000)
        for shot in document.project.shots:
            for file in shot.takes[0].files:
                assert file.lies.startswith(str(moved))
        assert document.project.sounds[0].files[0].lies.startswith(str(moved)) and pictured(window.reframe.frame)
    finally:
        gone.rename(home)

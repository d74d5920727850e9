"""Offload in the real window: a stranger's card looked through, judged, brought home twice, compared, trimmed, pulled out."""

import shutil
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from msgspec.structs import replace
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from glintor.desktop.offload.compare import CompareWindow
from glintor.desktop.offload.grid import picture_key
from glintor.desktop.offload.match_sheet import MatchSheet
from glintor.desktop.offload.places_sheet import PlacesSheet
from glintor.offload.contents import SHOWN
from glintor.offload.known import entry_facts
from glintor.project.log import Event, Log
from glintor.project.model import Copying
from glintor.project.store import clip_files, read_project
from glintor.sphere.view import View
from tests.desktop.conftest import pictured


@pytest.fixture
def offload(window, settle, home, tmp_path):
    """The desk with a stranger's card in sight, and a second place."""
    card = tmp_path / "CARD"
    shutil.copytree(home, card)
    document = window.document
    document.edit("Where", replace(document.project, copying=Copying(second=str(tmp_path / "drive"))))
    window.show_desk(3)
    settle()
    window.offload.open_card(card)
    settle()
    return window.offload


def on_card(offload, name):
    return next(e for e in offload.found if e.unit is not None and e.name == name)


def look_at(offload, settle, name):
    shown = [e.name for e in offload.grid.entries.shown]
    offload.grid.setCurrentIndex(offload.grid.entries.index(shown.index(name)))
    settle()


def test_a_card_is_looked_at_where_it_lies_judged_and_brought_home_twice(window, offload, settle, qtbot):
    document = window.document
    kinds = {e.name: e.kind for e in offload.found if e.unit is not None}
    assert kinds == {
        "REC_0007": "film",
        "PAIR_1": "two lenses",
        "VOICE_3": "sound",
        "torn": "cannot be read",
        "flat": "flat",
    }
    before = {shot.id: shot.takes for shot in document.project.shots}
    assert {"REC_0007", "PAIR_1"} <= set(kinds) and not on_card(offload, "REC_0007").in_day
    assert all(
        offload.pictures.of(picture_key(on_card(offload, name)))[0] is not None for name in ("REC_0007", "PAIR_1")
    )
    look_at(offload, settle, "REC_0007")
    assert pictured(offload.viewer.looker.frame) and not offload.bringing.goes_on
    assert {shot.id: shot.takes for shot in document.project.shots} == before  # looking takes nothing in

    line = offload.viewer.line
    for key, at_s in (("[", 0.4), ("M", 1.0), ("]", 2.2), ("K", 2.2), ("4", 2.2)):
        line.sought.emit(at_s)
        QTest.keyClick(window, key.lower() if key.isalpha() else key)
    settle()
    take = on_card(offload, "REC_0007").take
    assert (take.part_s, take.marks_s, take.verdict, take.rating) == ((0.4, 2.2), (1.0,), "keep", 4)
    document.undo()
    assert next(t for s in document.project.shots for t in s.takes if t.name == "REC_0007").rating == 0
    document.redo()

    QTest.mouseClick(offload.bring, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not offload.bringing.goes_on, timeout=60000)
    settle()
    assert "Safe to clear" in offload.sentence.text() and not offload.bring.isEnabled()
    project = read_project(document.file) if document.save() else document.project
    kept = next(t for s in project.shots for t in s.takes if t.name == "REC_0007")
    assert kept.marks_s == (1.0,) and all(f.copy.startswith("footage/2026-03-04/REC_0007/") for f in kept.files)
    assert [s.name for s in project.sounds] == ["VOICE_3"] and project.sounds[0].files[0].copy
    assert on_card(offload, "PAIR_1").copies == 2

    shutil.rmtree(offload.card)  # pulled out
    offload.sort.activated.emit(
        offload.sort.currentIndex()
    )  # before anybody noticed: what was seen is put in order all the same
    offload.look_again()
    settle()
    assert "cannot be read" in offload.sentence.text() and len(clip_files(document.file, kept)) == 2
    assert any(e.name == "REC_0007" and e.copies == 2 for e in offload.found)


def test_going_through_takes_one_key_each(window, offload, settle, qtbot):
    offload.show_.setCurrentIndex(list(SHOWN).index("card"))
    offload.show_.activated.emit(offload.show_.currentIndex())
    settle()
    takes = [e.name for e in offload.grid.entries.shown if e.take is not None]
    assert len(takes) == 2
    offload.grid.setCurrentIndex(offload.grid.entries.index(0))
    QTest.keyClick(window, "l")
    qtbot.waitUntil(lambda: offload.viewer.looker.playing)
    qtbot.waitUntil(lambda: offload.viewer.looker.now_s > 0.5, timeout=20000)
    QTest.keyClick(window, "x")
    qtbot.waitUntil(lambda: offload._entry.name == takes[1], timeout=20000)
    QTest.keyClick(window, "o")
    qtbot.waitUntil(lambda: not offload.through.goes_on)
    offload.viewer.looker.stop()
    settle()
    assert [on_card(offload, name).take.verdict for name in takes] == ["drop", "maybe"]
    assert offload.show_.currentData() == "card"


def test_two_takes_side_by_side_turn_together_and_only_the_good_part_is_a_take_of_its_own(
    window, offload, settle, qtbot
):
    document = window.document
    look_at(offload, settle, "REC_0007")
    QTest.keyClick(window, "c")
    pair = offload.findChild(CompareWindow)
    assert pair.left.entry.name == "REC_0007" and pair.right.entry.key != pair.left.entry.key
    turned = View(yaw_deg=40.0, pitch_deg=-5.0)
    pair.left.looker.frame.view_turned.emit(turned, False)
    assert pair.right.looker.view == turned
    pair.left.line.sought.emit(pair.left.looker.now_s + 0.3)
    qtbot.waitUntil(lambda: pair.left.looker.settled and pair.right.looker.settled, timeout=20000)
    pair.left.verdict.button("keep").click()
    pair.accept()
    settle()
    assert on_card(offload, "REC_0007").take.verdict == "keep"

    offload.only_part()  # nothing is said yet of what is worth keeping: nothing happens
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)
    offload.viewer.line.sought.emit(1.6)
    QTest.keyClick(window, "[")
    offload.viewer.line.sought.emit(2.8)
    QTest.keyClick(window, "]")
    settle()
    offload.viewer.trim.click()
    settle()
    shot = next(s for s in document.project.shots for t in s.takes if t.name == "REC_0007")
    part = next(t for t in shot.takes if t.name == "REC_0007, part")
    assert part.duration_s == pytest.approx(1.5, abs=0.6) and (document.footage / "parts").is_dir()
    assert len(shot.takes) == 2 and clip_files(document.file, part)[0].is_file()
    names = {f.name for f in (document.footage / "parts").iterdir()}
    assert any(name.lower().endswith(".gpx") for name in names)


def test_where_copies_go_is_said_with_an_example_and_a_wrong_pattern_is_refused(window, offload, settle):
    offload.ask_places()
    sheet = offload.findChild(PlacesSheet)
    sheet.line.setText("{shot}/{moon}")
    assert "{moon} is not known" in sheet.wrong.text() and not sheet.use.isEnabled()
    sheet.ready.button("{day}/{camera}").click()
    assert sheet.use.isEnabled() and "For example" in sheet.example.text()
    sheet.use.click()
    assert window.document.project.copying.pattern == "{day}/{camera}" and "camera" in offload.to.text()
    window.document.undo()
    assert window.document.project.copying.pattern == ""


def test_a_folder_dropped_here_is_a_card_and_what_is_chosen_is_worked_on(window, offload, settle, home):
    window.clip_work.drop([home])
    settle()
    assert offload.card == home and on_card(offload, "PAIR_1").copies == 0
    look_at(offload, settle, "PAIR_1")
    QTest.keyClick(window, Qt.Key.Key_Return)
    settle()
    assert window.desk is window.reframe and window.document.take.name == "PAIR_1"
    assert window.document.take.files[0].on_card_alone


def test_recordings_meet_the_log_and_what_is_unsure_is_settled_by_one_click(window, offload, settle, qtbot):
    """A film whose clock nobody knows, and two rollings that are as long."""
    document = window.document
    rec = on_card(offload, "REC_0007").take
    began = datetime(2026, 10, 14, 11, 0, tzinfo=ZoneInfo("Europe/London"))
    logs = [
        Log(
            id=f"log-{n}",
            began=(began + timedelta(minutes=20 * n)).isoformat(timespec="milliseconds"),
            ended=(began + timedelta(minutes=20 * n, seconds=rec.duration_s)).isoformat(timespec="milliseconds"),
            events=(
                Event(at=(began + timedelta(minutes=20 * n, seconds=1)).isoformat(), what="clap" if n else "mark"),
            ),
        )
        for n in (0, 1)
    ]
    document.edit_shot("Log", lambda s: replace(s, logs=tuple(logs)))
    settle()
    look_at(offload, settle, "REC_0007")
    assert on_card(offload, "REC_0007").match is not None and offload.viewer.log.isVisibleTo(window)
    offload.judge("keep")
    settle()
    assert document.shot.takes[-1].name != "REC_0007"  # brought in, and not guessed to be of this shot
    offload.viewer.log.click()
    sheet = offload.findChild(MatchSheet)
    qtbot.waitUntil(lambda: not window.jobs.running, timeout=30000)
    assert "udden sound" in sheet.heard.text() and len(sheet.buttons) == 2
    rolled = next(b for b in sheet.buttons if "11:00:00" in b.text())
    rolled.click()
    settle()
    take = next(t for t in document.shot.takes if t.name == "REC_0007")
    assert document.shot.logs[0].takes == (take.id,) and take.marks_s == (1.0,) and take.verdict == "keep"
    assert any(cut.take_id == take.id for cut in document.shot.cuts)
    assert "Logged" in {fact.name for fact in entry_facts(document.project, on_card(offload, "REC_0007"))}
    document.undo()
    assert all(t.name != "REC_0007" for t in document.shot.takes)

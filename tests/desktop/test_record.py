"""The Record desk by keys alone: ready, roll, what happens, stop; a stop is not passed in silence."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QInputDialog

from glintor.finding import Level


@pytest.fixture
def record(window, settle):
    window.document.choose_shot("tunnel-mouth")
    window.show_desk(2)
    settle()
    window.activateWindow()
    return window.record


def press(window, key, text=""):
    QTest.keyClick(window, key)


def test_a_take_is_made_ready_rolled_and_logged_by_keys_alone(window, record, qtbot, monkeypatch):
    document = window.document
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("tried by hand", True))
    lines = len(record.lines)
    for _ in range(lines):
        press(window, Qt.Key.Key_T)
    assert len(document.shot.ticks) == lines and record.count.text().startswith(f"{lines} of {lines}")
    press(window, Qt.Key.Key_Space)
    log = document.shot.logs[-1]
    assert log.rolling and len(log.ticks) == lines and "rolling since" in record.log.roll._small
    for key in (Qt.Key.Key_B, Qt.Key.Key_G, Qt.Key.Key_D, Qt.Key.Key_N):
        press(window, key)
    assert [e.what for e in document.shot.logs[-1].events] == ["beep", "good", "drop", "note"]
    assert document.shot.logs[-1].events[-1].words == "tried by hand"
    document.undo()
    assert len(document.shot.logs[-1].events) == 3
    press(window, Qt.Key.Key_Space)
    press(window, Qt.Key.Key_4)
    press(window, Qt.Key.Key_F)
    log = document.shot.logs[-1]
    assert not log.rolling and log.rating == 4 and log.favourite
    texts = [record.log.list.item(row, 0).text() for row in range(record.log.list.rowCount())]
    assert texts[0].startswith("stopped after") and texts[1:] == ["drop on the lens", "good", "beep heard", "rolling"]
    assert "lens" not in {tick.line for tick in document.shot.ticks}  # it is looked at for each take


def test_a_stop_is_not_passed_without_a_word_and_no_finding_is_told_twice(window, record, settle, monkeypatch):
    document = window.document
    document.choose_shot("stern-third-person")
    settle()
    stop = next(line for line in record.lines if line.level is Level.STOP)
    told = {finding.title for finding in record.findings()}
    assert not told & {finding.title for line in record.lines for finding in line.said}
    answers = iter([("", True), ("x", False), ("the club allowed it", True)])
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: next(answers))
    for wanted in (False, False, True):
        record.ready.row(stop.id).box.click()
        assert any(tick.line == stop.id for tick in document.shot.ticks) is wanted
        assert record.ready.row(stop.id).box.isChecked() is wanted
    assert (
        document.shot.ticks[-1].why == "the club allowed it"
        and "all the same" in record.ready.row(stop.id).why.toolTip()
    )
    record.ready.row(stop.id).box.click()
    assert document.shot.ticks == ()


def test_the_log_stands_in_a_small_window_beside_other_work(window, record, settle, tmp_path):
    window.show_desk(4)
    settle()
    window.actions_by_id["log.alone"].trigger()
    alone = record.alone
    assert alone.isVisible() and alone.width() <= 520
    QTest.mouseClick(alone.roll, Qt.MouseButton.LeftButton)
    alone.events["wind"].click()
    assert [e.what for e in window.document.shot.logs[-1].events] == ["wind"]
    QTest.mouseClick(alone.roll, Qt.MouseButton.LeftButton)
    alone.close()
    record.write_page(tmp_path / "phone.html", phone=True)
    assert (tmp_path / "phone.html").read_text().count("checkbox") >= len(record.lines)

"""The window as a whole: desks, shots, undo, keeping, finding, asking."""

import sys

import msgspec
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QMessageBox, QToolButton

from glintor.desktop.actions import ACTIONS
from glintor.desktop.app import application
from glintor.desktop.document import Document
from glintor.desktop.faults import Hooks
from glintor.desktop.finder import Finder
from glintor.desktop.jobs import Job, Newest
from glintor.desktop.readings_sheet import ReadingsSheet
from glintor.desktop.reframe.ahead import Ahead
from glintor.desktop.window import Window
from glintor.errors import GlintorError
from glintor.export.queue import Queue
from glintor.finding import worst_first
from glintor.project.journal import journal_file
from glintor.project.lock import InUse
from glintor.project.store import read_project
from glintor.report import Fault, log_file
from tests.conftest import make_clip
from tests.desktop.conftest import pictured


def test_the_demo_day_is_all_there(window, settle, qtbot):
    for number in range(6):
        QTest.keyClick(window, getattr(Qt.Key, f"Key_{number + 1}"), Qt.KeyboardModifier.AltModifier)
        assert window.desk is window.desks[number]
        settle()
    assert len(window.document.project.shots) == 6
    qtbot.waitUntil(lambda: len(window.cards.known) == 6, timeout=60000)
    assert len(window.shots._pictures) == 6


def test_the_first_picture_comes_before_findings_menus_and_threads(qtbot, day, tmp_path):
    application()
    made = Window(Document(day), queue=Queue(tmp_path / "queue.json"), paint_first=True)
    qtbot.addWidget(made)
    assert not made.strip._findings and not made.actions_by_id and not made.settled
    assert not made.cards.begun and not made.place._worker.begun
    with qtbot.waitSignal(made.painted):
        made.show()
    qtbot.waitUntil(lambda: bool(made.strip._findings))
    qtbot.waitUntil(lambda: made.settled, timeout=60000)
    qtbot.waitUntil(lambda: len(made.strip._lines) == len(made.place.findings()))  # those out of sight come last
    assert [line._finding for line in made.strip._lines] == worst_first(list(made.place.findings()))
    assert len(made.actions_by_id) == len(ACTIONS) and made.actions_by_id["edit.undo"].isEnabled() is False
    assert pictured(made.place.sphere) and made.place._worker.begun
    made.close()
    unseen = Window(Document(day), queue=Queue(tmp_path / "queue.json"), paint_first=True)
    qtbot.addWidget(unseen)
    unseen.close()  # before anybody saw it: nothing was begun, nothing is waited for
    assert unseen.place._worker._thread.ident is None


def test_shots_are_chosen_moved_in_time_and_put_back(window, qtbot):
    day, shot = window.day, window.document.shot
    box = day._box(shot.start_min, shot.length_min)
    start, end = QPoint(int(box.center().x()), 44), QPoint(int(box.center().x()) + 60, 44)
    QTest.mousePress(day, Qt.MouseButton.LeftButton, pos=start)
    QTest.mouseMove(day, end)
    QTest.mouseRelease(day, Qt.MouseButton.LeftButton, pos=end)
    moved = window.document.shot.start_min
    assert moved > shot.start_min + 20
    window.actions_by_id["edit.undo"].trigger()
    assert window.document.shot.start_min == shot.start_min
    window.actions_by_id["edit.redo"].trigger()
    assert window.document.shot.start_min == moved
    QTest.mouseClick(window.shots, Qt.MouseButton.LeftButton, pos=QPoint(60, 40))
    assert window.document.shot.id == "wharf-portrait"
    QTest.keyClick(window.shots, Qt.Key.Key_Down)
    assert window.document.shot.id == "towpath-walk"


def test_shots_are_made_doubled_ordered_and_removed_with_undo(window):
    act, ids = window.actions_by_id, lambda: [s.id for s in window.document.project.shots]
    before = ids()
    act["shot.double"].trigger()
    assert (
        len(ids()) == 7
        and window.document.shot.name == "Roof through Cobdale, again"
        and not window.document.shot.takes
    )
    act["shot.up"].trigger()
    assert ids().index(window.document.shot.id) == 2
    act["shot.delete"].trigger()
    assert ids() == before
    for _ in range(3):
        act["edit.undo"].trigger()
    assert ids() == before and not act["edit.undo"].isEnabled()


def test_every_change_is_kept_and_survives_a_kill(window, qtbot, day):
    window.document.edit_placement("Lean", lean_deg=7.0)
    qtbot.waitUntil(lambda: journal_file(day).exists(), timeout=5000)
    # Another process that opens the day now, as after a kill, finds the journal.
    again = Document(day, look=True)
    assert again.was_recovered and again.shot.id == "wharf-portrait"
    assert again.project.shot("roof-cobdale").placement.lean_deg == 7.0
    again.deleteLater()
    with qtbot.waitSignal(window.document.saved, timeout=8000):
        pass
    assert read_project(day).shot("roof-cobdale").placement.lean_deg == 7.0
    plain = Document(day, look=True)  # nothing to recover, and nothing said of it
    assert not plain.was_recovered and plain.notice == "" and "recovered" not in window.jobs.last_words
    plain.close()


def test_a_finding_is_cured_by_its_button(window, settle):
    settle()
    shadow = next(f for f in window.place.findings() if f.kind == "shadow")
    window.strip.cure_asked.emit(shadow)
    assert window.document.shot.start_min == shadow.cure.value
    assert next(f for f in window.place.findings() if f.kind == "shadow").level == 0


def test_the_finder_finds_and_does(window, qtbot):
    window.actions_by_id["help.find"].trigger()
    finder = window.findChild(Finder)
    assert finder.isVisible() and finder.list.count() == len(window.actions_by_id)
    finder.line.setText("dusk")
    assert finder.list.count() == 1
    finder.line.setText("reframe")
    QTest.keyClick(finder.line, Qt.Key.Key_Return)
    assert window.desk is window.reframe


def test_every_command_is_in_a_menu_once_with_its_own_keys(window):
    keys = [spec.keys for spec in ACTIONS if spec.keys]
    for desk in {spec.desk for spec in ACTIONS}:  # a key may mean one thing on each desk, and never two on one
        heard = [spec.keys for spec in ACTIONS if spec.keys and spec.desk in ("", desk)]
        assert len(heard) == len(set(heard)), desk
    titles = [m.text() for m in window.menuBar().actions()]
    assert set(titles) == {spec.menu for spec in ACTIONS}
    assert "Ctrl+Shift+P" not in keys


def test_dusk_and_back(window):
    from glintor.desktop import theme

    window.actions_by_id["view.dusk"].trigger()
    assert theme.colours() is theme.DUSK
    window.actions_by_id["view.dusk"].trigger()
    assert theme.colours() is theme.DAY


@pytest.mark.parametrize("palette", ["DAY", "DUSK"])
def test_text_colours_have_contrast(palette):
    """Source: WCAG 2.1, success criterion 1.4.3: at least 4.5:1, by its relative luminance."""
    from glintor.desktop import theme

    def luminance(name: str) -> float:
        c = getattr(theme, palette)[name]
        parts = [v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4 for v in (c.redF(), c.greenF(), c.blueF())]
        return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]

    for name in ("ink", "soft", "course", "subject", "seam", "stop", "caution", "note"):
        for ground in ("paper", "sheet"):
            a, b = sorted((luminance(name), luminance(ground)))
            assert (b + 0.05) / (a + 0.05) >= 4.4, (name, ground)


def message(window) -> QMessageBox:
    return [b for b in window.findChildren(QMessageBox) if b.isVisible()][-1]


def test_trouble_is_told_in_three_parts(window):
    window.tell(GlintorError("It broke.", unharmed="The rest is fine.", advice="Mend it."))
    box = message(window)
    assert box.text() == "It broke." and box.informativeText() == "The rest is fine. Mend it."
    box.close()


def test_a_flat_clip_is_asked_about_and_a_sphere_is_brought_in(window, tmp_path, qtbot):
    flat = make_clip(tmp_path / "flat.mp4", width=320, height=180)
    window.clip_work.take_in([flat])
    qtbot.waitUntil(lambda: bool(window.findChildren(ReadingsSheet)) and not window.jobs.running, timeout=30000)
    sheet = window.findChildren(ReadingsSheet)[0]
    assert any("320x180" in words.text() for words in sheet.findChildren(QLabel))
    takes = len(window.document.shot.takes)
    with qtbot.waitSignal(window.document.changed, timeout=10000):
        next(b for b in sheet.findChildren(QToolButton) if "whole sphere" in b.accessibleName()).click()
    assert len(window.document.shot.takes) == takes + 1
    take = window.document.shot.takes[-1]
    assert take.told == "sphere" and take.files[0].lies == str(flat) and not take.files[0].copy
    assert take.placement is None and take.exposure is None and take.start_min is None


def test_a_broken_file_is_told_not_taken(window, tmp_path, qtbot):
    bad = tmp_path / "bad.mp4"
    bad.write_text("no film")
    window.clip_work.take_in([bad])
    qtbot.waitUntil(lambda: any(b.isVisible() for b in window.findChildren(QMessageBox)), timeout=10000)
    assert "cannot be read" in message(window).text()
    message(window).close()


def test_a_day_that_cannot_be_saved_is_told_once_tried_again_and_asked_for_on_closing(window, qtbot, day, tmp_path):
    """The folder is renamed under the window: it is not made anew, one box says so, and closing asks where to put it."""
    day.parent.rename(tmp_path / "renamed")
    for lean in (1.0, 2.0, 3.0):
        window.document.edit_placement("Lean", lean_deg=lean)
        assert not window.document.save()
    qtbot.waitUntil(lambda: bool(window.findChildren(QMessageBox)))
    assert len(window.findChildren(QMessageBox)) == 1 and "is gone" in message(window).text()
    assert not day.parent.exists()
    window.close()
    assert window.isVisible()
    box = window.findChildren(QMessageBox)[-1]
    assert "cannot be saved" in box.text() and len(box.buttons()) == 4
    window.file_work.save_elsewhere(tmp_path / "rescued.glintor")
    assert not window.isVisible() and not day.parent.exists()
    assert read_project(tmp_path / "rescued.glintor").shot("roof-cobdale").placement.lean_deg == 3.0


def test_a_day_that_is_there_again_is_saved(window, qtbot, day, tmp_path):
    day.parent.rename(tmp_path / "renamed")
    window.document.edit_placement("Lean", lean_deg=4.0)
    qtbot.waitSignal(window.document.trouble, timeout=5000)
    (tmp_path / "renamed").rename(day.parent)
    with qtbot.waitSignal(window.document.saved, timeout=8000):
        pass
    assert read_project(day).shot("roof-cobdale").placement.lean_deg == 4.0


def test_two_windows_on_one_day(window, qtbot, day):
    with pytest.raises(InUse, match="open in another window"):
        Document(day)
    looking = Document(day, look=True)
    refused = []
    looking.refused.connect(lambda: refused.append(1))
    looking.edit_placement("Lean", lean_deg=9.0)
    assert refused and looking.shot.placement.lean_deg == 0.0 and not looking.unsaved
    looking.close()
    window.document.edit_placement("Lean", lean_deg=5.0)
    taken = Document(day, take_over=True)
    with qtbot.waitSignal(window.document.trouble, timeout=5000):
        window.document.edit_placement("Lean", lean_deg=6.0)
    assert window.document.looking and "taken" in message(window).text()
    assert any(b.text() == "Take it back" for b in message(window).buttons())
    kept = [f for f in day.parent.glob("*.glintor") if f != day]  # what the other window could not know
    states = [taken.project, *map(read_project, kept)]
    assert {5.0, 6.0} & {p.shot("roof-cobdale").placement.lean_deg for p in states}
    assert 6.0 in {p.shot("roof-cobdale").placement.lean_deg for p in states}
    taken.close()


@pytest.mark.parametrize("mine", [True, False])
def test_a_file_that_another_program_changed_is_never_overwritten_unseen(window, qtbot, day, mine):
    theirs = day.read_bytes().replace(b'"name": "Hollin Cut"', b'"name": "Elsewhere"')
    day.write_bytes(theirs)
    window.document.edit_placement("Lean", lean_deg=8.0)
    assert not window.document.save()
    qtbot.waitUntil(lambda: bool(window.findChildren(QMessageBox)))
    assert day.read_bytes() == theirs
    if mine:
        next(b for b in message(window).buttons() if b.text() == "Keep mine").click()
        qtbot.waitUntil(lambda: not window.document.unsaved)
        assert read_project(day).shot("roof-cobdale").placement.lean_deg == 8.0
        assert day.with_name("hollin-cut (from elsewhere).glintor").read_bytes() == theirs
    else:
        next(b for b in message(window).buttons() if b.text() == "Take what is there").click()
        again = Document(day)
        assert again.project.site.name == "Elsewhere" and ".journal.old" in again.notice
        again.close()
        assert day.read_bytes() == theirs


def test_an_unforeseen_error_in_a_slot_ends_nothing(window, qtbot, monkeypatch, day):
    hooks = Hooks()
    hooks.install()
    try:
        hooks.happened.connect(window.tell_fault)
        window.document.edit_placement("Lean", lean_deg=3.5)
        for _ in range(2):
            try:
                raise KeyError("nobody foresaw this")
            except KeyError as error:
                sys.excepthook(KeyError, error, error.__traceback__)
    finally:
        hooks.remove()
    qtbot.waitUntil(lambda: bool(window.findChildren(QMessageBox)))
    box = message(window)
    assert "nobody foresaw this" in box.text() and len(window.findChildren(QMessageBox)) == 1
    next(b for b in box.buttons() if b.text() == "Copy the report").click()
    assert "KeyError" in QApplication.clipboard().text() and box.isVisible()
    assert "nobody foresaw this" in log_file().read_text()
    assert read_project(day).shot("roof-cobdale").placement.lean_deg == 3.5


def test_background_work_tells_its_bugs_and_goes_on(qtbot):
    def bug():
        raise ZeroDivisionError("in the background")

    newest, ahead = Newest("test worker"), []
    with qtbot.waitSignal(newest.failed) as told:
        newest.ask("a", bug)
    assert isinstance(told.args[0], Fault) and "Test worker" in str(told.args[0])
    with qtbot.waitSignal(newest.finished) as told:
        newest.ask("b", lambda: 5)
    assert told.args == ["b", 5]
    newest.close()
    job = Job("A job", lambda _report, _stop: bug())
    with qtbot.waitSignal(job.failed) as told:
        job.start()
    assert isinstance(told.args[0], Fault)
    job.wait()
    frames = Ahead(lambda _n: bug(), ahead.append)
    qtbot.waitUntil(lambda: bool(ahead))
    assert isinstance(ahead[0], Fault)
    frames.close()


def test_what_follows_from_a_gesture_is_done_once_and_the_window_is_painted_in_between(window, settle, qtbot):
    settle()
    told = []
    window.desk.findings_changed.connect(lambda: told.append("judged"))
    before = window.day._chosen
    window.document.choose_shot("pell-lock")
    window.document.edit_shot("x", lambda s: msgspec.structs.replace(s, start_min=s.start_min + 5))
    assert window.desk.plan.plan is not None and not told  # the chart is new, what follows comes in turns of its own
    assert window.day._chosen == before and window.jobs.turns_wait and not window.settled
    settle()
    assert told == ["judged"] and window.day._chosen == "pell-lock"
    assert window.strip._findings == worst_first(list(window.desk.findings()))

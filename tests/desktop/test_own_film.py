"""From a stranger's clip to a film of three cuts in two shapes: followed, flown, corrected, reviewed. Once with the mouse, once by keys alone."""

import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest

from glintor.desktop import app
from glintor.export.formats import FORMATS
from tests import foreign
from tests.conftest import ffprobe
from tests.desktop.test_desks import drag
from tests.desktop.test_first_minute import dropped

SHIFT = Qt.KeyboardModifier.ShiftModifier
LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def own(qtbot, tmp_path, monkeypatch):
    """A window on a photograph that other code turned into a shaken film."""
    monkeypatch.setenv("XDG_DOCUMENTS_DIR", str(tmp_path / "documents"))
    monkeypatch.setattr(app, "_open", [])
    page = app._welcome()
    qtbot.addWidget(page)
    page.show()
    dropped(page, foreign.shaken(tmp_path / "walk.mp4", foreign.World(), width=768, frames=60))
    window = app._open[0]
    qtbot.addWidget(window)
    qtbot.waitUntil(lambda: bool(window.document.shot.takes) and window.settled, timeout=180000)
    window.show_desk(4)
    qtbot.waitUntil(lambda: window.settled and not window.jobs.running, timeout=180000)
    window.activateWindow()
    yield window
    window.close()


@pytest.mark.parametrize("by", ["mouse", "keys"])
def test_an_own_clip_becomes_a_followed_flown_corrected_and_reviewed_film(own, qtbot, by):
    window, document, reframe = own, own.document, own.reframe
    mouse = by == "mouse"

    def settle():
        qtbot.waitUntil(lambda: window.settled and not window.jobs.running, timeout=180000)

    def press(keys, held=Qt.KeyboardModifier.NoModifier):
        QTest.keyClick(window, keys, held)

    # Followed
    reframe.go_to(1.0)
    settle()
    press("j")
    settle()
    assert reframe.known.track is not None and reframe.known.track.known.mean() > 0.5
    reframe.go_to(0.0)
    if mouse:
        QTest.mouseClick(reframe.board.bars["hold"], LEFT)
        offers = [value for value, _ in reframe.hold_work.offers()]
        reframe.board.hold_bar.on.activated.emit(offers.index(("subject", ("",))))
    else:
        press("f", SHIFT)
    settle()
    assert document.cut.anchors and document.cut.keys[0].on

    # Flown: the width alone, over what is followed
    reframe.board.fly_bar.zoom_alone.setChecked(True)
    reframe.board.fly_bar.speeds.button(0.5).click()  # time enough, whatever else the machine does
    if mouse:
        QTest.mouseClick(reframe.board.fly, LEFT)
    else:
        press("y")
    assert reframe.flying.running
    QTest.keyPress(reframe.frame, Qt.Key.Key_Plus)
    qtbot.waitUntil(lambda: len(reframe.flying._seen) > 20, timeout=60000)
    QTest.keyRelease(reframe.frame, Qt.Key.Key_Plus)
    QTest.keyClick(reframe.frame, Qt.Key.Key_Space)
    settle()
    flown = document.cut
    assert all(k.on for k in flown.keys) and len({round(k.fov_deg, 1) for k in flown.keys}) > 1

    # Corrected: the upright frame wants another middle
    if mouse:
        QTest.mouseClick(reframe.shapes.button(FORMATS[1]), LEFT)
        settle()
        QTest.mouseClick(reframe.board.alone, LEFT, pos=reframe.board.alone.rect().center())
        reframe.board.alone.setChecked(True)
        reframe.hand.alone = True
        box = reframe.frame.frame_box
        drag(reframe.frame, box.center(), box.center() + QPointF(25, 0))
    else:
        reframe.choose_shape(FORMATS[1])
        settle()
        press("a")
        for _ in range(3):
            press(Qt.Key.Key_Left, SHIFT)
    settle()
    assert document.cut.own and document.cut.own[0].shape == "9:16" and document.cut.keys == flown.keys
    reframe.choose_shape(FORMATS[0])
    settle()

    # Ended, and two more cuts begun from proposals
    reframe.go_to(0.6)
    press("]")
    for name in ("Wide and still", "Reveal"):
        window.actions_by_id["cut.new"].trigger()
        settle()
        press("q")
        sheet = reframe.proposing.sheet
        wanted = next(n for n, p in enumerate(sheet.found) if p.name == name)
        sheet.taken.emit(sheet.found[wanted], False)
        sheet.reject()
        settle()
        reframe.go_to(0.6)
        press("]")
    assert len(document.shot.cuts) == 3

    # Reviewed: what can be cured is tried, and taken
    curable = [f for f in reframe.findings() if f.cure is not None]
    for finding in curable[:1]:
        before = document.cut
        reframe.apply(finding.cure)
        settle()
        assert document.cut == before
        press(Qt.Key.Key_Return, SHIFT)
        settle()
        assert document.cut != before or not reframe.trial.running

    # Joined and made
    window.show_desk(5)
    settle()
    strip = window.export.films
    strip.films.activated.emit(strip.films.findData(""))
    have = {p.cut_id for p in strip.film.pieces}
    for cut in document.shot.cuts:
        if cut.id not in have:
            strip.add_cut(document.shot.id, cut.id)
    strip.set_join(1, "whip")
    assert len(strip.film.pieces) == 3
    window.export.preset.setCurrentText("veryfast")
    if mouse:
        QTest.mouseClick(strip.make, LEFT)
    else:
        strip.make.setFocus()
        QTest.keyClick(strip.make, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: all(j.state in ("done", "failed") for j in window.export.queue.jobs[-2:]), timeout=300000)
    done = window.export.queue.jobs[-2:]
    assert [j.state for j in done] == ["done", "done"]
    sizes = [ffprobe(j.target, "stream=width,height")[:2] for j in done]
    assert sizes == [["1920", "1080"], ["1080", "1920"]]

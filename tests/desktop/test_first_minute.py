"""A stranger's first minute: from a file of their own to a film, by the hand alone."""

from fractions import Fraction

import pytest
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QCheckBox, QInputDialog

from glintor.desktop import app
from glintor.desktop.unplanned import Unplanned
from glintor.desktop.welcome import Welcome
from glintor.media.picture import write_picture
from glintor.media.probe import probe
from glintor.project.store import read_project
from tests.conftest import make_clip, smooth_sphere
from tests.desktop.conftest import pictured

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def documents(monkeypatch, tmp_path):
    monkeypatch.setenv("XDG_DOCUMENTS_DIR", str(tmp_path / "documents"))
    return tmp_path / "documents"


@pytest.fixture
def begun(qtbot, documents):
    """Windows on days that are begun with recordings."""
    made = []

    def begin(*places):
        window = app.begin_with(places)
        qtbot.addWidget(window)
        made.append(window)
        window.show()
        qtbot.waitUntil(lambda: bool(window.document.shot.takes) and window.settled, timeout=180000)
        return window

    yield begin
    for window in made:
        window.close()


def dropped(widget, *places) -> None:
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(place)) for place in places])
    event = QDropEvent(QPointF(20, 20), Qt.DropAction.CopyAction, mime, LEFT, Qt.KeyboardModifier.NoModifier)
    widget.dropEvent(event)  # Qt delivers a drop only after a real drag


def test_an_upright_film_of_an_own_clip_in_six_clicks(begun, documents, tmp_path, qtbot):
    clip = make_clip(tmp_path / "holiday.mp4", width=640, height=320, frames=12, rate=Fraction(24))
    window = begun(clip)
    assert window.desk is window.reframe and window.reframe.frame._image is not None and window.reframe.frame._hint
    assert documents in window.document.file.parents
    clicks = 0

    def click(widget, at=None):
        nonlocal clicks
        clicks += 1
        QTest.mouseClick(widget, LEFT, pos=at or QPoint())

    click(window.reframe.shapes.button(next(s for s in window.reframe.shapes._buttons if s.name == "9:16")))
    box = window.reframe.frame.frame_box.center().toPoint()
    QTest.mousePress(window.reframe.frame, LEFT, pos=box)
    QTest.mouseMove(window.reframe.frame, box + QPoint(-60, 10))
    QTest.mouseRelease(window.reframe.frame, LEFT, pos=box + QPoint(-60, 10))
    clicks += 1
    assert window.document.cut.keys[0].yaw_deg != 0.0 and not window.reframe.frame._hint
    click(window.page.names.button(5))
    qtbot.waitUntil(lambda: window.settled, timeout=180000)
    wide = next(b for b in window.export.findChildren(QCheckBox) if b.isVisible() and b.text().startswith("16:9"))
    click(wide, QPoint(8, wide.height() // 2))
    click(window.export.go)
    films = window.export.folder
    qtbot.waitUntil(lambda: list(films.glob("*.mp4")) != [] and not window.jobs.running, timeout=120000)
    made = list(films.glob("*.mp4"))
    assert len(made) == 1 and clicks <= 6
    info = probe(made[0])
    assert (info.width_px, info.height_px, info.frames) == (1080, 1920, 12)
    assert clip.exists() and not list(window.document.footage.glob("*"))  # it was not copied


def test_several_come_at_once_each_in_a_shot_of_its_own_and_nothing_is_invented(begun, tmp_path, qtbot):
    folder = tmp_path / "card"
    folder.mkdir()
    make_clip(folder / "a.mp4", frames=8)
    write_picture(folder / "b.png", smooth_sphere(256))
    window = begun(folder)
    assert [s.name for s in window.document.project.shots] == ["a", "b"] and window.document.take.name == "a"
    window.document.choose_shot(window.document.project.shots[1].id)
    qtbot.waitUntil(lambda: window.settled, timeout=180000)
    assert window.document.take.kind == "photo" and pictured(window.reframe.frame)
    assert window.reframe.plotting.lie.sun is None and window.reframe.plotting.lie.band_deg is None
    for number in (0, 1, 2):
        window.show_desk(number)
        assert isinstance(window.desk, Unplanned) and not window.desk.findings()
        assert window.desk.site.isVisible() and not window.desk.plan.isVisible()
    window.clip_work.save_still(tmp_path / "still.png")
    qtbot.waitUntil(lambda: (tmp_path / "still.png").exists() and not window.jobs.running, timeout=30000)
    window.close()
    assert len(read_project(window.document.file).shots) == 2


def test_a_shot_without_a_plan_can_be_planned(window, settle, tmp_path, qtbot):
    clip = make_clip(tmp_path / "own.mp4", frames=8)
    window.document.edit_shot(
        "x", lambda s: type(s)(**{**{f: getattr(s, f) for f in s.__struct_fields__}, "planned": False})
    )
    dropped(window, clip)
    qtbot.waitUntil(lambda: window.desk is window.reframe and window.settled, timeout=180000)
    assert window.document.shot.name == "own" and not window.document.shot.planned
    window.show_desk(0)
    assert isinstance(window.desk, Unplanned)
    window.desk.plan.click()
    settle()
    assert window.desk is window.place and window.place.findings()


def test_a_take_is_renamed_copied_in_and_left_out_and_its_file_stays(window, settle, tmp_path, qtbot, monkeypatch):
    clip = make_clip(tmp_path / "own.mp4", frames=8)
    before = window.document.shot
    dropped(window, clip)
    qtbot.waitUntil(lambda: window.desk is window.reframe and window.settled, timeout=180000)
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("The weir", True))
    window.actions_by_id["take.rename"].trigger()
    assert window.document.take.name == "The weir"
    window.actions_by_id["take.copy"].trigger()
    qtbot.waitUntil(lambda: bool(window.document.take.files[0].copy), timeout=30000)
    file = window.document.take.files[0]
    assert (window.document.file.parent / file.copy).read_bytes() == clip.read_bytes() and file.xxh64
    window.actions_by_id["take.remove"].trigger()
    assert window.document.shot.takes == before.takes and window.document.shot.cuts == before.cuts and clip.exists()
    window.document.undo()
    assert window.document.shot.takes[-1].name == "The weir"
    settle()


def test_the_first_start_offers_three_ways_and_takes_what_is_dropped(qtbot, documents, tmp_path, monkeypatch):
    monkeypatch.setattr(app, "_open", [])
    page = app._welcome()
    assert isinstance(page, Welcome) and len(page.ways) == 3
    qtbot.addWidget(page)
    page.show()
    dropped(page, make_clip(tmp_path / "own.mp4", frames=8))
    window = app._open[0]
    qtbot.addWidget(window)
    qtbot.waitUntil(lambda: bool(window.document.shot.takes) and window.settled, timeout=180000)
    assert not page.isVisible() and window.isVisible() and window.document.take.name == "own"
    window.close()


def test_edges_fold_by_themselves_on_later_desks_and_the_choice_is_kept(window, settle, qtbot):
    settle()
    assert window.day.height() >= 110 and window.shots.width() > 200 and window.strip.isVisible()
    window.show_desk(4)
    settle()
    assert window.day.folded and window.shots.width() < 60 and not window.strip.isVisible()
    assert window.reframe.frame.frame_box.width() >= 800
    QTest.keyClick(window, Qt.Key.Key_F9)
    assert not window.day.folded and window.strip.isVisible() and window.shots.width() > 200
    window.show_desk(0)
    window.show_desk(4)
    settle()
    assert window.strip.isVisible()
    QTest.keyClick(window, Qt.Key.Key_F9)
    assert not window.strip.isVisible()
    QTest.keyClick(window, Qt.Key.Key_F11)
    assert not window.work.isVisible() and window.reframe.course.height() < 40
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert window.work.isVisible() and window.reframe.course.height() > 100
    settle()


def test_a_view_is_typed_and_turned_by_keys(window, settle):
    window.show_desk(4)
    settle()
    board, reframe = window.reframe.board, window.reframe
    board.angles["yaw_deg"].box.setValue(30.0)
    board.angles["fov_deg"].box.setValue(80.0)
    view = reframe.hand.path_view()
    assert view.yaw_deg % 360 == pytest.approx(30.0) and view.fov_deg == pytest.approx(80.0, abs=0.1)
    QTest.keyClick(window, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert reframe.hand.path_view().yaw_deg % 360 == pytest.approx(31.0)
    reframe.choose_shape(next(s for s in reframe.shapes._buttons if s.name == "9:16"))
    board.angles["fov_deg"].box.setValue(50.0)
    assert reframe.hand.shown_view().fov_deg == pytest.approx(50.0, abs=0.1)
    settle()

"""The Expose desk through the real window: a boat from the sun into a tunnel, schools, light that is told, test frames, brackets."""

from pathlib import Path

import cv2
import numpy as np
import pytest
from msgspec.structs import replace
from PIL import Image
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QMenu

from glintor.desktop.expose.frame_sheet import FrameSheet
from glintor.desktop.expose.light_sheet import LightSheet
from glintor.desktop.record.simulated import Simulated
from glintor.finding import Level
from glintor.media.picture import read_sphere
from glintor.placement.mounts import setup_by_id
from glintor.plan.budget import budget_of, charge_at
from glintor.project.placed import begun_on
from tests.exposure.test_hdr import series

DATA = Path(__file__).parents[1] / "data"


def on_desk(window, settle, shot="stern-third-person"):
    window.document.choose_shot(shot)
    window.show_desk(1)
    settle()
    return window.expose


def opened(window, kind):
    return [s for s in window.findChildren(kind) if s.isVisible()][-1]


def choose(box, value):
    box.setCurrentIndex(box.findData(value))
    box.activated.emit(box.currentIndex())


def test_from_a_boat_shot_with_a_tunnel_to_a_school_a_kept_setting_and_a_page(
    window, settle, qtbot, monkeypatch, tmp_path
):
    """The whole way: looked at along the take, a school taken from the table by hand, kept, put on another shot, printed."""
    desk, document = on_desk(window, settle), window.document
    assert np.ptp(desk._course.metered[:, 0]) > 8.0 and "%" in desk.why.text()
    assert any(f.kind == "drowned" for f in desk.findings())
    at_0 = desk.sphere._image.copy()
    time = desk.chart._time()
    QTest.mouseClick(desk.chart, Qt.MouseButton.LeftButton, pos=QPointF(float(time.px(50.0)), 12.0).toPoint())
    settle()
    assert desk._moment_s == pytest.approx(50.0, abs=0.5) and desk.sphere._image != at_0
    y = 20.0 + 21.0 * 2.5  # the third row of the table
    QTest.mouseClick(desk.schools, Qt.MouseButton.LeftButton, pos=QPointF(60.0, y).toPoint())
    settle()
    e = document.shot.exposure
    assert (e.program, e.offset_stops) == ("iso", -0.7)
    assert {f.kind for f in desk.findings()} >= {"pumping"} and not any(f.kind == "brightness" for f in desk.findings())
    choose(desk.nd, 0.0)
    settle()
    assert not any(f.kind == "drowned" for f in desk.findings())
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a: ("tunnel", True))
    desk.ask_preset()
    assert [p.name for p in document.project.kit.presets] == ["tunnel"] and document.shot.exposure.preset == "tunnel"
    document.choose_shot("wharf-portrait")
    menu = QMenu()
    desk.fill_presets(menu)
    menu.actions()[0].trigger()
    settle()
    assert (document.shot.exposure.program, document.shot.exposure.nd_stops) == ("iso", 0.0)
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_a: str(tmp_path / "sheet"))
    window.actions_by_id["day.carry"].trigger()
    settle()
    page = next((tmp_path / "sheet").glob("*.html")).read_text()
    assert "Settings" in page and "ISO fixed, -0.7" in page and "follows" in page
    document.choose_shot("stern-third-person")
    desk.forget_preset("tunnel")
    assert document.project.kit.presets == ()


def test_light_is_told_from_the_table_a_meter_and_a_frame(window, settle, tmp_path):
    desk = on_desk(window, settle, "tunnel-mouth")
    window.actions_by_id["shot.light"].trigger()
    sheet = opened(window, LightSheet)
    QTest.keyClicks(sheet.typed, "f/8 1/125 ISO 100")
    QTest.keyClick(sheet.typed, Qt.Key.Key_Return)
    sheet.begins.box.setValue(20)
    sheet.scenes.setCurrentIndex(sheet.scenes.findData("lit room"))
    sheet.add_scene()
    sheet.typed.setText("rather bright")
    sheet.add_typed()
    assert "is no light" in sheet.trouble.text() and len(sheet.light) == 2
    sheet.begins.box.setValue(500)
    sheet.add_scene()
    assert "60 s long" in sheet.trouble.text()
    sheet.typed.clear()
    sheet.begins.box.setValue(40)
    sheet.add_frame(DATA / "forest-sphere.jpg")
    assert "does not say how it was exposed" in sheet.trouble.text()
    sheet.typed.setText("EV 9")
    sheet.add_frame(DATA / "forest-sphere.jpg")
    sheet.take()
    settle()
    course = desk._course
    assert course.metered[course.at(10), 0] == pytest.approx(13.0, abs=0.05)
    assert course.metered[course.at(30), 0] == 6.0 and 4.0 < course.metered[course.at(50), 0] < 9.0
    assert course.source_at(50).startswith("test frame") and "hand meter" in course.source_at(1)
    window.document.undo()
    settle()
    assert course is not desk._course and window.document.shot.exposure.light == ()


def test_a_test_frame_is_looked_at_and_its_numbers_taken(window, settle, qtbot, tmp_path):
    files, _ = series(tmp_path, (0, 1))
    desk = on_desk(window, settle, "wharf-portrait")
    desk.open_frame(files[0])
    sheet = opened(window, FrameSheet)
    qtbot.waitUntil(lambda: sheet.reading is not None, timeout=20000)
    assert "guessed" in sheet.words.text() and sheet.use.isEnabled() and sheet.shift.isEnabled()
    before = window.document.shot.exposure.shutter_s
    sheet.shift.click()
    assert window.document.shot.exposure.shutter_s < before
    clipped = np.unravel_index(sheet._frame.linear.max(axis=2).argmax(), sheet._frame.linear.shape[:2])
    sheet.pick((clipped[1] + 0.5) / 1024 * 360 - 180, 90 - (clipped[0] + 0.5) / 512 * 180)
    assert "choose" in sheet.white.text() and not sheet.set_white.isEnabled()
    grey = np.full((256, 512, 3), 100, np.uint8)
    Image.fromarray(grey).save(tmp_path / "grey.png")
    sheet.use.click()
    settle()
    assert window.document.shot.exposure.light[0].kind == "frame" and "test frame" in desk._course.source_at(0)
    desk.open_frame(tmp_path / "grey.png")
    other = opened(window, FrameSheet)
    qtbot.waitUntil(lambda: other.reading is not None, timeout=20000)
    assert not other.use.isEnabled() and "does not say" in other.words.text()
    other.pick(10.0, 5.0)
    assert "5600 K" in other.white.text() or "K, tint" in other.white.text()
    other.set_white.click()
    assert window.document.shot.exposure.white_k == pytest.approx(5600, abs=100)


def test_a_bracket_is_planned_on_the_chart_and_a_series_merged(window, settle, qtbot, monkeypatch, tmp_path):
    desk = on_desk(window, settle, "tunnel-mouth")
    choose(desk.mode, "bracket")
    settle()
    assert "one photo holds" in desk.why.text() and len(desk.chart._marks.fan_stops) == 3
    desk.solve.click()
    settle()
    assert not any(f.kind == "mode" for f in desk.findings())
    files, _ = series(tmp_path, (-2, 0, 2))
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_a: ([str(f) for f in files], ""))
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a: (str(tmp_path / "out.exr"), ""))
    with qtbot.waitSignal(desk.said, timeout=60000) as said:
        window.actions_by_id["shot.merge"].trigger()
    assert "3 frames merged" in said.args[0] and read_sphere(tmp_path / "out.exr")[0].dtype == np.float32
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_a: ([str(files[0])], ""))
    told = []
    window.jobs.trouble.connect(told.append)
    window.actions_by_id["shot.merge"].trigger()
    qtbot.waitUntil(lambda: not window.jobs.running, timeout=20000)
    assert "no series" in str(told or window.work_line.text())
    assert float(cv2.imread(str(files[0])).std()) > 4.0


def test_a_wrong_mode_is_a_stop_and_a_lapse_tells_its_film(window, settle):
    desk = on_desk(window, settle, "wharf-portrait")
    choose(desk.mode, "hdr-5k7")
    settle()
    wrong = next(f for f in desk.findings() if f.kind == "mode")
    assert wrong.level is Level.STOP and "all by itself" in wrong.reason
    choose(desk.mode, "sphere-3k")
    settle()
    assert window.document.shot.exposure.rate_fps == 100.0 and not any(f.kind == "mode" for f in desk.findings())
    choose(desk.mode, "")
    desk.interval.box.setValue(2.0)
    settle()
    assert "frames become" in desk.why.text() and desk.day._budget is not None
    assert "keeps the last" in desk.mode.toolTip() or "time-lapse" in desk.mode.toolTip()
    document = window.document
    spun = begun_on(
        document.project.site,
        document.shot.placement,
        setup_by_id("spin_cord"),
        document.project.site.carrier("ground"),
    )
    document.edit_shot("Spin", lambda s: replace(s, placement=spun))
    choose(desk.mode, "sphere-5k7")
    settle()
    assert any(f.title == "Wrong mode for a spin" for f in desk.findings()) and "A turn lasts" in desk.why.text()


def test_the_record_desk_begins_with_the_days_battery_and_keeps_it(window, settle):
    """The second shot of the day: what is left by then of the battery that is in the camera; kept beside the card when the window closes."""
    window.document.choose_shot("towpath-walk")
    window.show_desk(2)
    settle()
    charge = charge_at(budget_of(window.document.project), window.document.shot.start_min)
    link = window.record.rehearsal.source.link()
    assert link.state().battery_share == pytest.approx(charge) and charge < 1.0
    link.rest(30.0)
    window.record.rehearsal.source.keep()
    again = Simulated(window.document)
    assert again.link().state().battery_share == pytest.approx(link.body.charge)
    (window.document.file.parent / ".camera.json").write_text("{")
    assert Simulated(window.document).link().state().battery_share == pytest.approx(charge)

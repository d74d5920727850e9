from datetime import date

import msgspec
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog, QMessageBox

from glintor.desktop import app
from glintor.desktop.place.site_sheet import SiteSheet
from glintor.project.fresh import FIRST_SHOT
from glintor.project.placed import placing
from glintor.project.store import read_project


@pytest.fixture
def sheet(window, qtbot):
    window.actions_by_id["site.edit"].trigger()
    (found,) = window.findChildren(SiteSheet)
    found.activateWindow()
    qtbot.waitUntil(found.isActiveWindow)  # until then a key is the main window's
    return found


def test_the_site_is_changed_by_keyboard_as_one_undo_step(window, sheet):
    sheet.name.selectAll()
    QTest.keyClicks(sheet.name, "Upper Cut")
    sheet.day.selectAll()
    QTest.keyClicks(sheet.day, "2026-06-21")
    sheet.wind.box.setValue(11.0)
    sheet.lat.box.setValue(52.5)
    sheet.mains.button(60.0).click()
    QTest.keyClick(sheet.day, Qt.Key.Key_Return)
    site = window.document.project.site
    assert (site.name, site.day, site.wind_m_s, site.lat_deg, site.mains_hz) == (
        "Upper Cut",
        "2026-06-21",
        11.0,
        52.5,
        60.0,
    )
    assert window.windowTitle() == "Upper Cut · Glintor"
    window.document.undo()
    assert window.document.project.site.name == "Hollin Cut" and window.windowTitle() == "Hollin Cut · Glintor"


@pytest.mark.parametrize(
    ("entries", "words"),
    [
        ({"day": "26.9.2026"}, "is not a day"),
        ({"zone": "Europe/Nowhere"}, "is not a day"),
        ({"name": "  "}, "no name"),
        ({"leave": "25:10"}, "25:10"),
    ],
)
def test_wrong_entries_are_said_in_the_sheet_and_change_nothing(window, sheet, entries, words):
    before = window.document.project
    for field, value in entries.items():
        if field == "lat":
            sheet.lat.box.setValue(value)
        elif field == "zone":
            sheet.zone.setCurrentText(value)
        else:
            getattr(sheet, field).setText(value)
    sheet.take()
    assert words in sheet.trouble.text() and sheet.isVisible() and window.document.project is before


def test_a_place_without_sunset_still_has_findings(window):
    project = window.document.project
    polar = msgspec.structs.replace(project, site=msgspec.structs.replace(project.site, lat_deg=78.0, day="2026-06-21"))
    assert any(f.kind == "seam" for f in placing(polar, polar.shots[0]))
    window.day.show_day(polar, polar.shots[0].id)
    assert window.day._span == (0.0, 1440.0)


def test_a_route_fills_the_sheet_and_a_broken_one_says_why(window, sheet, tmp_path):
    file = tmp_path / "cut.gpx"
    head = '<gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1">'
    place = '<wpt lat="52.9" lon="-1.9"><name>Pell Lock</name></wpt>'
    file.write_text(head + place + '<rte><rtept lat="52.9" lon="-1.9"/><rtept lat="52.9" lon="-1.89"/></rte></gpx>')
    sheet.read_route(file)
    assert sheet.way.box.value() == 90.0 and sheet.route.text() == "Pell Lock" and "0.7 km" in sheet.trouble.text()
    file.write_text(head + '<rte><rtept lat="52.9" lon="-1.9"/><rtept lat="62.9" lon="-1.9"/></rte></gpx>')
    sheet.read_route(file)
    assert "jumps by" in sheet.trouble.text() and "as it was" in sheet.trouble.text()
    sheet.line.box.setValue(4.0)
    sheet.permission.button("unknown").click()
    sheet.take()
    kinds = {f.kind: f for f in placing(window.document.project, window.document.shot)}
    assert window.document.project.site.route == ("Pell Lock",) and len(window.document.project.site.track) == 2
    assert "power" in kinds and "permission" in kinds


def test_a_new_day_begins_with_the_kit_and_asks_for_its_place(window, settle, tmp_path, monkeypatch):
    opened = []
    monkeypatch.setattr(window, "open_file", lambda file, *, fresh=False: opened.append((file, fresh)))
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a: (str(tmp_path / "brook"), ""))
    old = window.document.project
    window.actions_by_id["file.new"].trigger()
    assert opened == [(tmp_path / "brook" / "brook.glintor", True)]  # the folder chosen has another day in it
    new = read_project(opened[0][0])
    assert (new.kit, new.site.name, new.site.day) == (old.kit, "brook", str(date.today()))
    assert (new.site.route, new.site.permission, new.site.hazards) == ((), "unknown", "")
    assert [(shot.takes, shot.cuts) for shot in new.shots] == [((), ())]
    assert placing(new, new.shots[0]), "a new day can be judged at once"
    (tmp_path / "empty").mkdir()
    window.file_work.begin_day(tmp_path / "empty" / "rill.glintor")
    assert opened[1:] == [(tmp_path / "empty" / "rill.glintor", True)]
    for taken in (window.document.file, tmp_path / "brook.glintor"):
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a, taken=taken: (str(taken), ""))
        window.actions_by_id["file.new"].trigger()
        box = window.findChild(QMessageBox)
        assert "already" in box.text() and len(opened) == 2
        box.deleteLater()
    assert read_project(window.document.file) == old and read_project(opened[0][0]) == new


def test_a_fresh_day_takes_the_windows_place_with_its_site_sheet(window, settle, tmp_path, monkeypatch):
    monkeypatch.setattr(app, "_open", [window])
    monkeypatch.setattr(app, "_remember", lambda _file: None)
    monkeypatch.setattr(window, "open_file", app._replace)
    window.file_work.begin_day(tmp_path / "brook.glintor")
    (fresh,) = app._open
    try:
        assert fresh is not window and fresh.isVisible() and not window.isVisible()
        assert fresh.document.shot.name == FIRST_SHOT and fresh.findChild(SiteSheet).isVisible()
    finally:
        fresh.close()


def test_waypoints_of_a_route_keep_their_own_coordinates(window, settle, tmp_path):
    file = tmp_path / "way.gpx"
    head = '<gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1">'
    spots = (
        '<wpt lat="52.95" lon="-1.91"><name>Hut</name></wpt><wpt lat="52.97" lon="-1.93"><name>Ridge, top</name></wpt>'
    )
    track = (
        "<trk><trkseg>"
        + "".join(f'<trkpt lat="{52.9 + n / 100}" lon="-1.9"/>' for n in range(9))
        + "</trkseg></trk></gpx>"
    )
    file.write_text(head + spots + track)
    window.actions_by_id["site.edit"].trigger()
    sheet = window.findChildren(SiteSheet)[-1]
    sheet.read_route(file)
    sheet.take()
    site = window.document.project.site
    assert site.route == ("Hut", "Ridge top") and len(site.track) == 9
    assert [(w.name, w.lat_deg, w.lon_deg) for w in site.waypoints] == [
        ("Hut", 52.95, -1.91),
        ("Ridge top", 52.97, -1.93),
    ]
    window.document.undo()
    assert window.document.project.site.waypoints == ()

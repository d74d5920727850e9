"""The way of the day in the real window: read, dragged along on the map and on the hills, stepped by keys, taken off."""

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from glintor.desktop.place.site_sheet import SiteSheet
from glintor.desktop.place.track_sheet import TrackSheet
from tests.desktop.test_desks import LEFT, drag
from tests.desktop.test_place import opened
from tests.project.test_track import written


def test_shots_are_put_on_the_way_by_hand_and_take_what_is_there(window, settle, tmp_path):
    window.document.choose_shot("towpath-walk")
    window.actions_by_id["day.track"].trigger()
    sheet = opened(window, TrackSheet)
    assert "takes its bearing" in sheet.words.text()
    (tmp_path / "no.gpx").write_text("<gpx")
    sheet.read(tmp_path / "no.gpx")
    assert "cannot be read" in sheet.trouble.text()
    sheet.read(written(tmp_path / "w.gpx")[0])
    assert "4.6 km" in sheet.facts.text() and "Europe/Rome" in sheet.facts.text() and sheet.trouble.text() == ""
    chart, shot = sheet.chart, lambda: window.document.shot
    way = chart._way
    QTest.mouseClick(chart, LEFT, pos=chart.px(*way.position_m(700.0)).toPoint())
    assert abs(shot().along_m - 700.0) < 15.0 and abs(shot().placement.way_bearing_deg - 35.0) < 1.0
    drag(chart, chart.px(*way.position_m(shot().along_m)), chart.px(*way.position_m(2500.0)))
    assert abs(shot().along_m - 2500.0) < 20.0 and shot().placement.slope_deg < -4.0
    label = window.document.undo_label
    window.document.undo()
    assert label == "Put the shot on the way" and abs(shot().along_m - 700.0) < 15.0  # a drag is one step
    drag(chart, chart.hill_px(shot().along_m), chart.hill_px(4300.0))
    assert abs(shot().along_m - 4300.0) < 30.0 and "downhill" not in sheet.words.text()
    chart.setFocus()
    before = shot().along_m
    QTest.keyClick(chart, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    QTest.keyClick(chart, Qt.Key.Key_Left)
    assert before - shot().along_m == 275.0
    sheet.list.setCurrentRow(0)
    assert window.document.shot.id == "wharf-portrait" and "nowhere on the way" in sheet.words.text()
    window.document.choose_shot("towpath-walk")
    sheet._take_off()
    assert shot().along_m is None
    settle()


def test_the_site_sheet_notices_a_zone_that_is_not_the_places(window):
    window.actions_by_id["site.edit"].trigger()
    sheet = opened(window, SiteSheet)
    assert not sheet.other_zone.isVisibleTo(sheet)
    sheet.lat.box.setValue(46.53)
    sheet.lon.box.setValue(11.98)
    assert sheet.other_zone.isVisibleTo(sheet) and "Europe/Rome" in sheet.other_zone.text()
    sheet.other_zone.click()
    assert sheet.zone.currentText() == "Europe/Rome" and not sheet.other_zone.isVisibleTo(sheet)

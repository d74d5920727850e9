"""A stranger's day, planned from nothing in the window: six shots in southern mountains, each in its own place, on its own carrier,
with its own bearing from the way; put in order and printed. Invented for this test."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog, QPushButton

from glintor.desktop.document import Document
from glintor.desktop.place.carriers_sheet import CarriersSheet
from glintor.desktop.place.places_sheet import PlacesSheet
from glintor.desktop.place.shot_sheet import ShotSheet
from glintor.desktop.place.site_sheet import SiteSheet
from glintor.desktop.place.track_sheet import TrackSheet
from glintor.desktop.window import Window
from glintor.export.queue import Queue
from glintor.finding import Level
from glintor.project.model import Project
from glintor.project.site import Site
from glintor.project.store import write_project
from tests.desktop.conftest import pictured
from tests.desktop.test_desks import LEFT
from tests.desktop.test_place import choose, opened, wait
from tests.project.test_track import written

# Name, carrier, how its set-up begins in the list, place, metres along the way.
SHOTS = (
    ("First light", "walker", "stick over", "ridge", 300.0),
    ("Up the path", "walker", "pole on", "wood-path", 900.0),
    ("On the wall", "climber", "top of the helmet", "rock-face", 1450.0),
    ("At the hut", "table", "mini tripod", "meadow-edge", 1900.0),
    ("Down by bicycle", "cycle", "handlebar", "gravel-road", 3800.0),
    ("Home by car", "saloon", "suction foot on the dash", "street", 4500.0),
)


@pytest.fixture
def mountain(qtbot, tmp_path, monkeypatch):
    """A window over a day of which nobody knows anything yet."""
    file = tmp_path / "mountain.glintor"
    write_project(
        file, Project(site=Site(name="mountain", known=False, day="2026-07-05", zone="UTC", lat_deg=0.0, lon_deg=0.0))
    )
    made = Window(Document(file), queue=Queue(tmp_path / "queue.json"))
    qtbot.addWidget(made)
    made.resize(1280, 800)
    made.show()
    yield made
    made.close()


def pick(tiles, name):
    item = next(tiles.item(n) for n in range(tiles.count()) if tiles.item(n).data(Qt.ItemDataRole.UserRole) == name)
    tiles.scrollToItem(item)
    QTest.mouseClick(tiles.viewport(), LEFT, pos=tiles.visualItemRect(item).center())


def take(sheet):
    QTest.mouseClick(next(b for b in sheet.findChildren(QPushButton) if b.text() == "Take over"), LEFT)


def test_a_mountain_day_is_planned_from_nothing_and_printed(mountain, qtbot, tmp_path, monkeypatch):
    window, desk, document = mountain, mountain.place, mountain.document
    window.actions_by_id["site.edit"].trigger()
    sheet = opened(window, SiteSheet)
    sheet.read_route(written(tmp_path / "way.gpx")[0])
    QTest.mouseClick(sheet.permission.button("given"), LEFT)
    sheet.rests.setText("11:30 30")
    take(sheet)
    site = document.project.site
    assert (site.zone, site.known, site.permission, site.rests[0].length_min) == ("Europe/Rome", True, "given", 30.0)
    for number, (name, carrier, setup, place, along) in enumerate(SHOTS):
        if number:
            window.actions_by_id["shot.new"].trigger()
        window.show_desk(0)
        window.actions_by_id["shot.sheet"].trigger()
        sheet = opened(window, ShotSheet)
        sheet.name.selectAll()
        QTest.keyClicks(sheet.name, name)
        sheet.length.box.setValue(10.0)
        take(sheet)
        desk.ride.click()
        sheet = opened(window, CarriersSheet)
        pick(sheet.tiles, carrier)
        take(sheet)
        choose(desk.setups, setup)
        desk.stage.click()
        sheet = opened(window, PlacesSheet)
        pick(sheet.tiles, place)
        take(sheet)
        window.actions_by_id["day.track"].trigger()
        sheet = opened(window, TrackSheet)
        QTest.mouseClick(sheet.chart, LEFT, pos=sheet.chart.px(*sheet.chart._way.position_m(along)).toPoint())
        sheet.accept()
        shot = document.shot
        assert (shot.name, shot.placement.carrier, shot.placement.stage) == (name, carrier, place)
        assert shot.along_m == pytest.approx(along, abs=30.0)
        qtbot.waitUntil(lambda: window.settled, timeout=60000)
        stops = [f for f in desk.findings() if f.level is Level.STOP and f.kind != "overlap"]
        assert not stops, (name, stops)
        assert pictured(desk.sphere)
    shots = document.project.shots
    assert (
        len({s.placement.stage for s in shots}) == 6 and len({round(s.placement.way_bearing_deg) for s in shots}) == 3
    )
    assert {s.placement.setup for s in shots} == {
        "held_behind",
        "worn_pack",
        "worn_helmet",
        "mini_tripod",
        "bar_clamp",
        "flat_foot",
    }
    window.actions_by_id["day.plan_way"].trigger()
    wait(window, qtbot)
    shots = document.project.shots
    ordered = sorted(shots, key=lambda s: s.start_min)
    assert [s.along_m for s in ordered] == sorted(s.along_m for s in shots)
    for shot in shots:
        document.choose_shot(shot.id)
        assert not [f for f in desk.findings() if f.level is Level.STOP], shot.name
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_a: str(tmp_path / "sheet"))
    window.actions_by_id["day.carry"].trigger()
    wait(window, qtbot)
    written_out = {f.suffix: f.read_bytes() for f in (tmp_path / "sheet").iterdir()}
    assert (
        written_out[".pdf"].count(b"/Type /Page\n") == 8  # hours and kit, settings, a page a shot
        and b"sunrise" in written_out[".html"]
        and b"rest, 30 min" in written_out[".html"]
    )
    assert b"over the water" not in written_out[".html"]
    document.save()
    assert Document(document.file, look=True).project == document.project

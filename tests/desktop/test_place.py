"""The Place desk from nothing to the day sheet, through its real widgets."""

import io
import math
from pathlib import Path

import msgspec
import numpy as np
import pytest
from msgspec.structs import replace
from pypdf import PdfReader
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QDoubleSpinBox, QFileDialog, QMessageBox, QPushButton

from glintor.desktop.document import Document
from glintor.desktop.explain import ExplainSheet
from glintor.desktop.place.kit_sheet import KitSheet
from glintor.desktop.place.places_sheet import PlacesSheet
from glintor.desktop.place.shot_sheet import ShotSheet
from glintor.desktop.place.sphere_clicks import SphereClicks
from glintor.desktop.place.wish_sheet import WishSheet
from glintor.finding import Level
from glintor.media.picture import write_picture
from glintor.placement.clock import clock
from glintor.placement.mounts import SETUPS
from glintor.placement.scenery import Place, write_place
from glintor.project.kit import read_kit
from tests.desktop.test_desks import LEFT, drag, wheel

KEY = Qt.Key


def choose(box, words: str) -> None:
    """Opens a list by keyboard, types the beginning of a line and takes it."""
    box.setFocus()
    QTest.keyClick(box, KEY.Key_F4)
    QTest.keyClicks(box.view(), words)
    QTest.keyClick(box.view(), KEY.Key_Return)


def opened(window, kind):
    return window.findChildren(kind)[-1]


def choose_place(window, place_id):
    """Opens the sheet of places by its key, picks a picture and takes it over."""
    window.place.stage.click()
    sheet = opened(window, PlacesSheet)
    items = [sheet.tiles.item(n) for n in range(sheet.tiles.count())]
    at = next(item for item in items if item.data(Qt.ItemDataRole.UserRole) == place_id)
    sheet.tiles.scrollToItem(at)
    QTest.mouseClick(sheet.tiles.viewport(), LEFT, pos=sheet.tiles.visualItemRect(at).center())
    next(b for b in sheet.findChildren(QPushButton) if b.text() == "Take over").click()


def wait(window, qtbot):
    qtbot.waitUntil(lambda: not window.jobs.running, timeout=60000)


def test_the_roof_clamp_from_nothing_to_the_day_sheet(window, settle, qtbot, tmp_path, monkeypatch):
    window.document.choose_shot("wharf-portrait")
    QTest.keyClick(window, KEY.Key_N, Qt.KeyboardModifier.ControlModifier)
    desk, shot = window.place, lambda: window.document.shot
    assert shot().name == "New shot"
    choose(desk.setups, "rail")
    choose_place(window, "cobdale")
    assert (shot().placement.setup, shot().placement.stage) == ("rail_clamp", "cobdale")
    QTest.mouseClick(desk.sticks.button(1.2), LEFT)
    settle()
    assert [f.kind for f in desk.findings() if f.level is Level.STOP] == ["clearance"]
    desk.exact["subject_left_m"].box.setFocus()
    QTest.keyClick(desk.exact["subject_left_m"].box, KEY.Key_Up)
    assert shot().placement.subject.left_m == pytest.approx(0.35)
    plan = desk.plan
    at = plan.px(*plan.plan.camera[:2])
    drag(plan, at, at + QPointF(30, 90))  # over to the other rail
    assert shot().placement.left_m == -0.74 and shot().placement.ahead_m * 20 == pytest.approx(
        round(shot().placement.ahead_m * 20)
    )
    plan.setFocus()
    QTest.keyClick(plan, KEY.Key_PageDown)
    assert shot().placement.heading_deg == -175.0
    QTest.mouseClick(desk.sticks.button(0.7), LEFT)
    settle()
    assert not [f for f in desk.findings() if f.level is Level.STOP and f.kind != "overlap"]
    window.actions_by_id["day.plan"].trigger()
    wait(window, qtbot)
    assert not [f for f in desk.findings() if f.level is Level.STOP]
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_a: str(tmp_path / "sheet"))
    window.actions_by_id["day.carry"].trigger()
    wait(window, qtbot)
    files = {f.suffix: f.read_bytes() for f in (tmp_path / "sheet").iterdir()}
    assert files[".pdf"].startswith(b"%PDF") and b"New shot" in files[".html"] and len(files) == 5
    assert files[".pdf"].count(b"/Type /Page\n") == 9  # the day, its settings and one page a shot
    text = "".join(page.extract_text() for page in PdfReader(io.BytesIO(files[".pdf"])).pages)
    hours = [clock(s.start_min) for s in window.document.project.planned]
    assert all(hour in text for hour in hours) and window.document.project.site.day in text, text[:400]
    window.document.save()
    again = Document(window.document.file, look=True)
    assert again.project == window.document.project


def test_what_the_hand_cannot_reach_springs_back(window, settle):
    settle()
    window.place.exact["left_m"].box.setValue(0.1)
    assert window.document.shot.placement.left_m == 0.74 and window.place.exact["left_m"].box.value() == 0.74


def test_a_hand_on_the_frame_sets_start_and_end_view(window, settle):
    settle()
    desk, shot = window.place, lambda: window.document.shot
    frame = desk.frames["16:9"]
    drag(frame, QPointF(150, 90), QPointF(90, 90))
    opening = shot().opening
    assert opening is not None and shot().closing is None
    desk.moment.button("closing").click()
    wheel(frame, 3)
    assert shot().closing.fov_deg < opening.fov_deg and shot().opening == opening
    settle()
    assert f"{shot().closing.fov_deg:.0f}°" in frame._words
    window.reframe.work.new_cut()
    keys = window.document.cut.keys
    assert (
        keys[0] == opening
        and keys[-1].view == shot().closing.view
        and keys[-1].time_s == window.document.take.duration_s
    )


def test_a_wished_look_is_found_and_taken_as_one_step(window, settle, qtbot):
    window.document.choose_shot("wharf-portrait")
    window.actions_by_id["shot.wish"].trigger()
    sheet = opened(window, WishSheet)
    wait(window, qtbot)
    sheet.looks.button("above").click()
    wait(window, qtbot)
    assert sheet.list.rowCount() == len(sheet.found) >= 3
    before, best = window.document.project, sheet.found[0]
    QTest.mouseClick(sheet.take_button, LEFT)
    assert window.document.shot.placement.setup == best.candidate.setup.id
    settle()
    assert not [f for f in window.place.findings() if f.level is Level.STOP and f.kind != "overlap"]
    window.document.undo()
    assert window.document.project == before


def test_a_wish_for_somebody_inside_a_hedge_says_so(window, qtbot):
    window.document.choose_shot("wharf-portrait")
    hedge = window.document.shot.placement.with_subject(ahead_m=2.0, left_m=2.9)
    window.document.edit_shot("Into the hedge", lambda s: replace(s, placement=replace(hedge, stage="hedge-lane")))
    window.actions_by_id["shot.wish"].trigger()
    sheet = opened(window, WishSheet)
    wait(window, qtbot)
    assert not sheet.found and "is inside a wall, hedge or bank" in sheet.words.text()


def test_the_shot_says_what_it_needs_and_when_that_is(window, settle):
    window.actions_by_id["shot.sheet"].trigger()
    sheet = opened(window, ShotSheet)
    whole_day = sheet.windows.text()
    sheet.sun.button("behind").click()
    assert sheet.windows.text() != whole_day and "is there" in sheet.windows.text()
    sheet.purpose.setText("a test of light")
    sheet.aspects["16:9"].setChecked(False)
    sheet.aspects["9:16"].setChecked(False)
    sheet.take()
    assert "at least one format" in sheet.trouble.text() and window.document.shot.purpose != "a test of light"
    sheet.aspects["1:1"].setChecked(True)
    QTest.keyClick(sheet.purpose, KEY.Key_Return)
    shot = window.document.shot
    assert (shot.purpose, shot.light.sun, shot.aspects) == ("a test of light", "behind", ("1:1",))
    settle()
    assert window.place.frames["1:1"].isVisible() and not window.place.frames["16:9"].isVisible()


def again(takes):
    return [msgspec.structs.replace(take, id=f"{take.id}-again") for take in takes]


def test_a_sheet_changes_its_own_shot_whatever_was_chosen_meanwhile(window, settle):
    window.actions_by_id["shot.sheet"].trigger()
    sheet, first = opened(window, ShotSheet), window.document.shot
    window.document.edit_shot("x", lambda s: msgspec.structs.replace(s, takes=(*s.takes, *again(s.takes))))
    window.document.choose_shot("pell-lock")
    sheet.purpose.setText("mine")
    sheet.take()
    shots = {s.id: s for s in window.document.project.shots}
    assert len(shots) == 6 and shots[first.id].purpose == "mine" and len(shots[first.id].takes) == 2 * len(first.takes)
    assert shots["pell-lock"].purpose != "mine"


def test_a_block_dragged_along_the_day_follows_the_hand(window, settle):
    settle()
    strip, drawn = window.day, []
    at = strip._box(window.document.shot.start_min, 65).center()
    QTest.mousePress(strip, LEFT, Qt.KeyboardModifier.NoModifier, at.toPoint())
    strip.shot_dragged.connect(lambda _id, _m: drawn.append(strip._project.shot("roof-cobdale").start_min))
    strip.shot_dragged.emit("roof-cobdale", 700.0)
    assert drawn == [700.0]  # before the hand rests
    QTest.mouseRelease(strip, LEFT, Qt.KeyboardModifier.NoModifier, at.toPoint())


def test_the_kit_is_edited_and_a_wrong_number_is_said(window, tmp_path):
    window.actions_by_id["kit.edit"].trigger()
    sheet = opened(window, KitSheet)
    at = next(n for n in range(sheet.list.rowCount()) if sheet.list.item(n, 1).text() == "battery")
    sheet.list.item(at, 2).setText("4")
    assert "1 missing" in sheet.total.text()
    sheet.list.item(at, 2).setText("many")
    assert "cannot stand there" in sheet.trouble.text() and sheet.list.item(at, 2).text() == "4"
    sheet.add()
    assert sheet.list.currentRow() == sheet.list.rowCount() - 1
    sheet.remove()
    broken = tmp_path / "kit.json"
    broken.write_text('{"glintor_kit": 6}')
    sheet.read(broken)
    assert "newer" in sheet.trouble.text()
    QTest.mouseClick(next(b for b in sheet.findChildren(QPushButton) if b.text() == "Take over"), LEFT)
    assert window.document.project.kit.of_kind("battery")[0].count == 4
    with pytest.raises(Exception, match="newer"):
        read_kit(broken)


def test_every_number_of_a_thing_can_be_changed_and_it_has_a_picture_and_an_owner(window, tmp_path):
    window.actions_by_id["kit.edit"].trigger()
    sheet = opened(window, KitSheet)
    kinds = [sheet.list.item(n, 1).text() for n in range(sheet.list.rowCount())]

    def put(words, value):
        rows = {sheet.numbers.list.item(n, 0).text(): n for n in range(sheet.numbers.list.rowCount())}
        sheet.numbers.list.item(rows[words], 1).setText(value)

    sheet.list.setCurrentCell(0, 0)
    put("data, Mbit/s", "120")
    put("levels its recordings: true or false", "false")
    put("stitch: plain or aligning", "plain")
    assert (sheet.kit.cameras[0].mbit_s, sheet.kit.cameras[0].levels, sheet.kit.cameras[0].stitch) == (
        120.0,
        False,
        "plain",
    )
    for words, wrong in (("aperture, f/", "wide"), ("aperture, f/", "-2"), ("stitch: plain or aligning", "seamless")):
        put(words, wrong)
        assert "cannot stand there" in sheet.trouble.text() and sheet.kit.cameras[0].f_number == 2.0
    sheet.list.setCurrentCell(kinds.index("stick"), 0)
    put("tube 1: wall, mm", "1.2")
    put("tube 2: aluminium, carbon or glass", "carbon")
    sheet.numbers.more.click()
    tubes = sheet.kit.sticks[0].tubes
    assert (tubes[0].wall_mm, tubes[1].material, len(tubes)) == (
        1.2,
        "carbon",
        len(window.document.project.kit.sticks[0].tubes) + 1,
    )
    sheet.numbers.less.click()
    put("carried by (empty: yourself)", "Ada")
    assert "Ada carries" in sheet.total.text()
    sheet.list.setCurrentCell(kinds.index("mount"), 0)
    put("set-ups that it makes", "rail_clamp, tube_clamp")
    assert sheet.kit.mount_for("tube_clamp").words == "rail clamp"
    (tmp_path / "no.jpg").write_bytes(b"x")
    sheet.numbers.photograph(tmp_path / "no.jpg")
    assert "no picture" in sheet.trouble.text() and sheet.kit.mounts[0].photo == ""
    sheet.numbers.photograph(Path(__file__).parents[1] / "data" / "gpano_full.jpg")
    assert sheet.kit.mounts[0].photo.endswith("gpano_full.jpg") and not sheet.numbers.picture.pixmap().isNull()
    sheet.take()
    assert window.document.project.kit == sheet.kit


def test_every_number_is_explained(window, settle):
    settle()
    window.actions_by_id["help.explain"].trigger()
    sheet = opened(window, ExplainSheet)
    words = " ".join(label.text() for label in sheet.findChildren(type(window.place.shows).__mro__[1]))
    for finding in window.place.findings():
        assert finding.explained, finding.kind
        assert finding.explained in words
    assert "distance to the head" in window.place.figures._values["head : feet"].toolTip()
    assert "pvlib" in words and "Rohmert" not in words  # nobody holds the roof clamp


def test_a_day_that_cannot_be_filmed_says_who_has_no_room(window, qtbot):
    from glintor.placement.windows import Wanted

    window.document.edit_shot("x", lambda s: msgspec.structs.replace(s, light=Wanted(not_after_min=10.0)))
    window.actions_by_id["day.plan"].trigger()
    wait(window, qtbot)
    box = window.findChildren(QMessageBox)[-1]
    assert window.document.shot.name in box.text() and "kept their times" in box.informativeText()


def test_a_thousand_shots_open_and_are_put_in_order(qtbot, day):
    from glintor.desktop.window import Window
    from glintor.project.store import read_project, write_project

    project = read_project(day)
    many = tuple(msgspec.structs.replace(project.shots[n % 6], id=f"s{n}", takes=(), cuts=()) for n in range(1000))
    write_project(day, msgspec.structs.replace(project, shots=many))
    window = Window(Document(day))
    qtbot.addWidget(window)
    window.show()
    window.actions_by_id["day.plan"].trigger()
    wait(window, qtbot)
    box = window.findChildren(QMessageBox)[-1]
    assert "more." in box.text() and len(box.text()) < 500
    starts = sorted(s.start_min for s in window.document.project.shots[:6])
    assert starts != sorted(s.start_min for s in many[:6])
    window.close()


def test_every_set_up_can_be_chosen(window):
    boxes = window.place.setups
    known = {boxes.itemData(n).partition("@")[0] for n in range(boxes.count()) if boxes.itemData(n)}
    assert known == {s.id for s in SETUPS} and len(known) >= 30
    for setup in SETUPS:
        window.place._choose_setup(setup.id)
        assert window.document.shot.placement.setup == setup.id and window.place.findings()
    assert Path(window.document.file).exists()


def test_a_place_is_described_drawn_and_kept_with_the_day(window, settle, qtbot, tmp_path):
    """Of a ready-made one an own copy; what stands there is changed by hand; it is written to a file and read again."""
    window.document.choose_shot("towpath-walk")
    canal = window.place.sphere._image.copy() if window.place.sphere._image is not None else None
    window.actions_by_id["shot.place"].trigger()
    sheet = opened(window, PlacesSheet)
    items = {
        sheet.tiles.item(n).data(Qt.ItemDataRole.UserRole): sheet.tiles.item(n) for n in range(sheet.tiles.count())
    }
    assert list(items)[-4:] == ["wharf", "towpath", "cobdale", "lock"] and "street" in items
    sheet.tiles.setCurrentItem(items["street"])
    assert "ready-made" in sheet.words.text()
    QTest.mouseClick(sheet.form.add, LEFT)
    assert sheet.chosen == "street-own" and sheet.own[0].name == "street, own" and len(sheet.own[0].around) == 3
    away = sheet.form.findChildren(QDoubleSpinBox)[-2]
    sheet.form.counts["lamps"].box.setValue(6)
    sheet.form.wide.box.setValue(9.0)
    qtbot.waitUntil(lambda: sheet.settled and sheet.picture._image is not None, timeout=60000)
    assert away is not None and (sheet.own[0].lamps, sheet.own[0].way_m) == (6, 9.0)
    (tmp_path / "mine.json").write_bytes(write_place(sheet.own[0]))
    sheet.read(tmp_path / "mine.json")
    assert sheet.chosen == "street-own-2" and len(sheet.own) == 2
    (tmp_path / "broken.json").write_text('{"id": "a", "name": "b", "way": "lava"}')
    sheet.read(tmp_path / "broken.json")
    assert "way" in sheet.trouble.text() and len(sheet.own) == 2
    sheet.take()
    settle()
    project, shot = window.document.project, window.document.shot
    assert shot.placement.stage == "street-own-2" and project.site.places == sheet.own
    assert window.place.stage.text() == "At: street, own" and window.document.undo_label == "Choose the place"
    assert canal is None or window.place.sphere._image != canal
    window.document.undo()
    assert window.document.shot.placement.stage == "towpath" and window.document.project.site.places == ()


def test_a_photo_sphere_stands_for_the_place(window, settle, qtbot, tmp_path):
    """A real sphere without an hour: its bearing is asked for, the shot is drawn into it, and a broken one is refused."""
    window.document.choose_shot("towpath-walk")
    window.place.stage.click()
    sheet = opened(window, PlacesSheet)
    (tmp_path / "broken.jpg").write_bytes(b"no picture")
    sheet.photograph(tmp_path / "broken.jpg")
    assert "cannot be read" in sheet.trouble.text() and sheet.own == ()
    sheet.tiles.setCurrentItem(next(i for i in sheet.tiles.findItems("street", Qt.MatchFlag.MatchExactly)))
    write_picture(tmp_path / "flat.png", np.full((300, 400, 3), 90, np.uint8))
    sheet.photograph(tmp_path / "flat.png")  # stands for one direction of the street
    assert "does not say how wide" in sheet.trouble.text() and sheet.own[0].photo_wide_deg == 65.0
    assert sheet.form.way.isVisibleTo(sheet) and sheet.form.seen_deg.isVisibleTo(sheet)
    sheet.form.seen_deg.box.setValue(80.0)
    assert sheet.own[0].photo_wide_deg == 80.0 and sheet.own[0].around
    sheet.own = ()
    sheet.photograph(Path(__file__).parents[1] / "data" / "forest-sphere.jpg")
    assert "which bearing" in sheet.trouble.text() and sheet.own[0].photo_faces_deg is None
    assert (
        "nobody knows" in sheet.words.text()
        and sheet.form.faces.isVisibleTo(sheet)
        and not sheet.form.way.isVisibleTo(sheet)
    )
    sheet.form.faces.box.setValue(140.0)
    assert sheet.own[0].photo_faces_deg == 140.0 and sheet.trouble.text() == ""
    qtbot.waitUntil(lambda: sheet.settled and sheet.picture._image is not None, timeout=60000)
    sheet.take()
    settle()
    assert window.document.shot.placement.stage == "photo" and window.place.stage.text() == "At: forest-sphere"
    assert not [f for f in window.place.findings() if f.level is Level.STOP]


def test_a_shot_has_its_own_wind_power_line_and_permission(window, settle):
    window.document.choose_shot("roof-cobdale")
    settle()
    window.actions_by_id["shot.sheet"].trigger()
    sheet = opened(window, ShotSheet)
    sheet.own["power_line_m"].box.setValue(4.0)
    sheet.own["lowest_m"].box.setValue(2.3)
    sheet.permission.setCurrentIndex(sheet.permission.findData("unknown"))
    sheet.take()
    settle()
    project, shot = window.document.project, window.document.shot
    assert (shot.own.power_line_m, shot.own.lowest_m, shot.own.wind_m_s) == (4.0, 2.3, None)
    assert (
        project.site.lowest_m == 2.95
        and project.site_of(shot).lowest_m == 2.3
        and project.site_of(project.shots[0]) is project.site
    )
    kinds = {f.kind: f.level for f in window.place.findings()}
    assert kinds["clearance"] is Level.STOP and kinds["permission"] > Level.NOTE and kinds["power"] > Level.NOTE


def test_a_photo_that_is_gone_is_said_and_the_shot_can_still_be_planned(window, settle):
    told = []
    window.jobs.trouble.connect(told.append)
    gone = Place(id="gone", name="gone", photo="/nowhere/gone.jpg")
    project = window.document.project
    project = msgspec.structs.replace(project, site=msgspec.structs.replace(project.site, places=(gone,)))
    change = lambda s: msgspec.structs.replace(s, placement=msgspec.structs.replace(s.placement, stage="gone"))  # noqa: E731
    window.document.edit("Lose a photo", project.with_shot("towpath-walk", change))
    window.document.choose_shot("towpath-walk")
    settle()
    found = {f.kind: f for f in window.place.findings()}
    assert "gone.jpg" in found["photo"].reason and "seam" in found and told == []
    for desk in (1, 2):
        window.show_desk(desk)
        settle()
    assert told == []


def test_the_plan_turns_north_up_and_a_hand_finds_everything_where_it_is_drawn(window, settle):
    window.document.choose_shot("roof-cobdale")
    settle()
    plan, shot = window.place.plan, lambda: window.document.shot
    plan.setFocus()
    before = plan.px(3.0, 1.0)
    QTest.keyClick(plan, KEY.Key_N)
    assert plan.north_up and plan.px(3.0, 1.0) != before
    bearing = window.document.project.site.way_bearing_deg
    ahead = plan.px(4.0, 0.0) - plan.px(0.0, 0.0)
    assert math.degrees(math.atan2(ahead.x(), -ahead.y())) == pytest.approx(bearing)  # north is up
    assert plan.metres(plan.px(-2.3, 0.4)) == pytest.approx((-2.3, 0.4))
    there = plan.px(-4.0, 0.74)
    drag(plan, plan.px(*plan.plan.camera[:2]), there)
    assert (shot().placement.ahead_m, shot().placement.left_m) == (pytest.approx(-4.0, abs=0.06), 0.74)
    drag(plan, plan.lens_point(), plan.px(*plan.plan.camera[:2]) + plan.pointing(math.radians(60.0), 50.0))
    assert shot().placement.heading_deg == -60.0
    settle()
    QTest.keyClick(plan, KEY.Key_N)
    assert not plan.north_up


def test_bearings_and_the_horizon_are_clicked_on_the_sphere_of_a_photo(window, settle, qtbot, tmp_path):
    """Two things whose bearings are known turn it; where they disagree it is said; a clicked horizon is kept with the place."""
    window.place.stage.click()
    sheet = opened(window, PlacesSheet)
    sheet.photograph(Path(__file__).parents[1] / "data" / "forest-sphere.jpg")
    QTest.mouseClick(sheet.clicks, LEFT)
    clicks = opened(window, SphereClicks)
    assert "Nobody knows yet" in clicks.words.text()

    def click(yaw, pitch):
        QTest.mouseClick(clicks.sphere, LEFT, pos=clicks.sphere.px(yaw, pitch).toPoint())

    for yaw, bearing in ((-90.0, 350.0), (60.0, 142.0)):
        clicks.bearing.box.setValue(bearing)
        click(yaw, -5.0)
    assert clicks.faces_deg == pytest.approx(81.0, abs=0.5) and clicks.apart_deg == pytest.approx(1.0, abs=0.5)
    assert "agree within 1" in clicks.words.text()
    clicks.mode.button("horizon").click()
    for yaw, height in ((-30.0, 12.0), (40.0, 20.0), (120.0, 5.0)):
        click(yaw, height)
    click(120.0, 6.0)  # again: taken away
    assert "Horizon: 051 12" in clicks.words.text() and len(clicks._horizon) == 2
    take = next(b for b in clicks.findChildren(QPushButton) if b.text() == "Take over")
    QTest.mouseClick(take, LEFT)
    place = sheet.own[0]
    assert place.photo_faces_deg == pytest.approx(81.0, abs=0.5)
    assert [round(b) for b, _ in place.horizon] == [51, 121] and [h for _, h in place.horizon] == pytest.approx(
        [12.0, 20.0], abs=0.5
    )
    assert sheet.form.faces.box.value() == 81.0 and "051" in sheet.form.horizon.text()
    qtbot.waitUntil(lambda: sheet.settled, timeout=60000)
    items = {
        sheet.tiles.item(n).data(Qt.ItemDataRole.UserRole): sheet.tiles.item(n) for n in range(sheet.tiles.count())
    }
    sheet.tiles.setCurrentItem(items["ridge"])
    sheet.click()  # of a described place too, which becomes an own one
    clicks = opened(window, SphereClicks)
    assert not clicks.mode.isVisibleTo(clicks) and clicks.faces_deg is not None
    click(10.0, 25.0)
    clicks.take()
    assert sheet.chosen == "ridge-own" and len(sheet.own[0].horizon) == 1
    sheet.reject()

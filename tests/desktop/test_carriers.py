"""Carriers and subjects chosen, copied and changed in the real window."""

import pytest
from PyQt6.QtCore import Qt

from glintor.desktop.place.carriers_sheet import CarriersSheet
from glintor.desktop.place.subjects_sheet import SubjectsSheet
from glintor.finding import Level
from glintor.placement.carrier import ready_carriers, write_carrier
from tests.desktop.conftest import pictured
from tests.desktop.test_place import opened


def choose(tiles, name):
    for at in range(tiles.count()):
        if tiles.item(at).data(Qt.ItemDataRole.UserRole) == name:
            tiles.setCurrentRow(at)


def offered(place):
    """The set-ups that can be chosen, and those that are faint."""
    box = place.setups
    rows = [
        (box.itemData(n), box.model().flags(box.model().index(n, 0)) & Qt.ItemFlag.ItemIsEnabled)
        for n in range(box.count())
    ]
    return {value for value, on in rows if value and on}, {value for value, on in rows if value and not on}


def test_a_carrier_is_chosen_by_its_picture_and_takes_the_shot_along(window, settle, qtbot):
    window.document.choose_shot("towpath-walk")
    window.actions_by_id["shot.carrier"].trigger()
    sheet = opened(window, CarriersSheet)
    assert sheet.tiles.count() == len(ready_carriers()) and sheet.chosen == "walker"
    choose(sheet.tiles, "motorbike")
    assert "28 mm" in sheet.words.text() and "set-ups" in sheet.takes.text()
    qtbot.waitUntil(lambda: sheet.settled and pictured(sheet.picture), timeout=60000)
    assert not sheet.tiles.currentItem().icon().isNull()
    sheet.take()
    settle()
    placement = window.document.shot.placement
    assert (placement.carrier, window.place.ride.text()) == ("motorbike", "On: motorbike")
    assert window.document.undo_label == "Choose the carrier" and window.place.findings()
    can, cannot = offered(window.place)
    assert "worn_chest" in can and "tube_clamp@bar" in can and "pushed_pole" in cannot
    why = window.place.setups.itemData(window.place.setups.findData("pushed_pole"), Qt.ItemDataRole.ToolTipRole)
    assert "left behind" in why
    window.place._choose_setup("tube_clamp@rack")
    settle()
    assert window.document.shot.placement.on == "rack" and "grab rail" in window.place.setups.currentText()
    window.document.undo()
    window.document.undo()
    assert window.document.shot.placement.carrier == "walker"


def test_an_own_carrier_is_a_copy_with_other_numbers_and_a_broken_number_is_refused(window, settle, qtbot, tmp_path):
    window.document.choose_shot("towpath-walk")
    window.place.ride.click()
    sheet = opened(window, CarriersSheet)
    choose(sheet.tiles, "scooter")
    sheet.form.numbers["speed_m_s"].box.setValue(6.5)
    assert sheet.chosen == "scooter-own" and sheet.own[0].speed_m_s == 6.5 and sheet.own[0].known == "said"
    rows = {sheet.form.parts.item(n, 0).text(): n for n in range(sheet.form.parts.rowCount())}
    cell = sheet.form.parts.item(rows["tube: the handlebar"], 1)
    cell.setText(cell.text().replace("32.0", "18.0"))
    assert next(t for t in sheet.own[0].tubes if t.id == "bar").diameter_mm == 18.0
    cell = sheet.form.parts.item(rows["tube: the handlebar"], 1)
    for wrong in (cell.text().replace("18.0", "-3"), "lines: none"):
        sheet.form.parts.item(rows["tube: the handlebar"], 1).setText(wrong)
        assert sheet.trouble.text() and next(t for t in sheet.own[0].tubes if t.id == "bar").diameter_mm == 18.0
    before = len(sheet.own[0].solids)
    for kind in range(sheet.form.kinds.count()):
        sheet.form.kinds.setCurrentIndex(kind)
        sheet.form.add.click()
        assert sheet.trouble.text() == ""
    assert len(sheet.own[0].solids) == before + 6
    sheet.form.drop.click()
    sheet.form.words.setText("my scooter")
    sheet.form.words.editingFinished.emit()
    file = tmp_path / "mine.json"
    file.write_bytes(write_carrier(sheet.own[0]))
    sheet.read(file)
    assert len(sheet.own) == 2 and sheet.own[0].words == "my scooter"
    file.write_text("{}")
    sheet.read(file)
    assert "no carrier" in sheet.trouble.text() and len(sheet.own) == 2
    qtbot.waitUntil(lambda: sheet.settled, timeout=60000)
    sheet.take()
    settle()
    project = window.document.project
    assert [c.words for c in project.site.carriers] == [
        "my scooter",
        "my scooter",
    ] and window.place.ride.text() == "On: my scooter"
    assert window.document.shot.placement.carrier == project.site.carriers[0].id


def test_several_subjects_of_several_kinds_are_filmed(window, settle, qtbot):
    window.document.choose_shot("wharf-portrait")
    window.actions_by_id["shot.subjects"].trigger()
    sheet = opened(window, SubjectsSheet)
    sheet.add.click()
    choose(sheet.kinds, "animal")
    assert (sheet.subjects[1].what, sheet.subjects[1].name, sheet.subjects[1].height_m) == ("animal", "subject 2", 0.6)
    sheet.name.setText("the dog")
    sheet.name.textEdited.emit("the dog")
    sheet.numbers["ahead_m"].box.setValue(1.4)
    sheet.numbers["faces_deg"].box.setValue(90.0)
    sheet.add.click()
    choose(sheet.kinds, "carrier")
    sheet.carrier.setCurrentIndex(sheet.carrier.findData("cycle"))
    sheet.carrier.activated.emit(sheet.carrier.currentIndex())
    sheet.numbers["goes_ahead_m"].box.setValue(5.0)
    sheet.together.setChecked(True)
    qtbot.waitUntil(lambda: sheet.settled, timeout=60000)
    sheet.take()
    settle()
    placement = window.document.shot.placement
    assert [one.what for one in placement.subjects] == ["person", "animal", "carrier"] and placement.together
    assert placement.subjects[1].faces_deg == 90.0 and placement.subjects[2].carrier == "cycle"
    assert "the dog" in window.place.who.accessibleName() and "together" in {f.kind for f in window.place.findings()}
    assert not [f for f in window.place.findings() if f.level is Level.STOP]


@pytest.mark.parametrize("what", ["way", "view", "animal", "thing"])
def test_whatever_is_filmed_the_desk_draws_and_judges_it(window, settle, what):
    window.document.choose_shot("wharf-portrait")
    window.document.edit_subject("Film something else", what=what, height_m=0.6, ahead_m=2.0, left_m=0.5)
    settle()
    assert window.place.findings() and pictured(window.place.sphere)

"""The Record desk by keys alone: ready, roll, what happens, stop; a stop is not passed in silence."""

import threading

import pytest
from msgspec.structs import replace
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QInputDialog, QMessageBox

from glintor.desktop.record.cameras import Cameras
from glintor.desktop.record.cameras_sheet import CamerasSheet
from glintor.errors import GlintorError
from glintor.finding import Level
from glintor.media.together import recordings_in
from glintor.project.recordings import look_at, with_recordings
from glintor.recording.link import CardGone, options_for
from glintor.simulation.body import SimulatedCamera
from glintor.simulation.recording import Recording
from glintor.simulation.serving import CameraServer


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
        settle()  # what was refused is shown again as it is
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


@pytest.fixture
def two_cameras(window, record, tmp_path):
    """Two simulated cameras on the air of this machine, each with its own card, and the kit's ids for them."""
    document = window.document
    kit = document.project.kit
    ids = [kit.cameras[0].id, "second"]
    cameras = (kit.cameras[0], replace(kit.cameras[0], id="second", name="on the bank"))
    document.edit("Kit", document.project.with_kit(replace(kit, cameras=cameras)))
    servers = []
    for number in range(len(ids)):
        card = tmp_path / f"card-{number}"
        card.mkdir()
        recording = Recording(document.shot, document.project.site, cameras[number], 2.0, 320, seed=number)
        servers.append(CameraServer(SimulatedCamera(recording, card), card))
        threading.Thread(target=servers[-1].serve_forever, daemon=True).start()
    yield list(zip(ids, servers, strict=True))
    record.cameras.close()
    for server in servers:
        server.shutdown()
        server.server_close()


def test_two_cameras_on_the_link_are_set_rolled_read_back_and_find_their_files(
    window, record, two_cameras, qtbot, settle
):
    document, cameras = window.document, record.cameras
    record.open_cameras()
    sheet = record.findChild(CamerasSheet)
    for name, server in two_cameras:
        sheet.lines[name].address.setText(server.address)
        sheet.lines[name].hold.click()
    qtbot.waitUntil(lambda: all(cameras.seen(n).differs is not None for n, _ in two_cameras), timeout=20000)
    two_cameras[1][1].camera.set_options(options_for(replace(document.shot.exposure, iso=800.0)))
    qtbot.waitUntil(lambda: "ISO 800, not ISO" in sheet.lines["second"].differs.text(), timeout=20000)
    assert cameras.seen("second").differs
    for name, _ in two_cameras:
        sheet.lines[name].put.click()
    qtbot.waitUntil(lambda: all(cameras.seen(n).differs == () for n, _ in two_cameras), timeout=20000)
    qtbot.waitUntil(lambda: any(t.line == "mode" and t.by == "camera" for t in document.shot.ticks), timeout=20000)
    assert "set as planned" in sheet.lines["second"].state.text()
    sheet.accept()

    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)
    press(window, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: all(server.camera.state().recorded_s > 0.2 for _, server in two_cameras), timeout=60000)
    press(window, Qt.Key.Key_G)
    press(window, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: len(document.shot.logs[-1].files) == 2, timeout=60000)
    log = document.shot.logs[-1]
    assert not log.rolling and {event.cameras for event in log.events if event.what == "note"} == {
        (n,) for n, _ in two_cameras
    }

    record.fetch("second")
    qtbot.waitUntil(lambda: window.desk is window.offload and window.settled, timeout=60000)
    assert window.offload.card.name == "on the bank" and [e.kind for e in window.offload.found if e.unit] == ["film"]

    taken = look_at(document.file, recordings_in([server.card for _, server in two_cameras])).takes
    project, _ = with_recordings(document.project, taken)
    matched = [t for s in project.shots for t in s.takes if t.matched.startswith("by what its camera told")]
    assert len(matched) == 2 and all(t.id in project.shot(document.shot.id).logs[-1].takes for t in matched)


def test_a_camera_that_is_lost_says_what_is_known_and_finds_its_way_back(window, record, two_cameras, qtbot):
    document, cameras = window.document, record.cameras
    name, server = two_cameras[0]
    said = []
    cameras.said.connect(said.append)
    cameras.hold(name, server.address)
    qtbot.waitUntil(lambda: cameras.seen(name).state is not None, timeout=20000)
    press(window, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: cameras.seen(name).rolling_s is not None, timeout=20000)
    server.shutdown()
    server.server_close()
    held = cameras._held[name]
    held.link.wire._drop()  # and what was kept open is gone with it
    qtbot.waitUntil(lambda: cameras.seen(name).lost, timeout=20000)
    assert "rolling" in cameras.seen(name).words and "goes on by itself" in cameras.seen(name).words
    again = CameraServer(server.camera, server.card, server.server_address[1])
    threading.Thread(target=again.serve_forever, daemon=True).start()
    qtbot.waitUntil(lambda: not cameras.seen(name).lost, timeout=20000)
    press(window, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: len(document.shot.logs[-1].files) == 1, timeout=60000)
    assert any("does not answer any more, rolling for" in words for words in said)
    assert any("answers again" in words for words in said)
    with pytest.raises(GlintorError):
        cameras.hold(name, "https://elsewhere")
    assert cameras.seen(name) is not None  # the one that is held stays
    cameras.close()
    again.shutdown()
    again.server_close()


def refuses():
    raise CardGone("There is no card in the camera.")


def test_the_light_says_what_rolls_and_what_does_not(window, record, two_cameras, qtbot):
    document, cameras, roll = window.document, record.cameras, record.log.roll
    for name, server in two_cameras:
        cameras.hold(name, server.address)
    qtbot.waitUntil(lambda: all(cameras.seen(n).state is not None for n, _ in two_cameras), timeout=20000)
    two_cameras[1][1].camera.start = refuses
    assert roll.level == "off"
    press(window, Qt.Key.Key_Space)
    assert roll.level == "asked"  # nobody has answered yet
    qtbot.waitUntil(lambda: roll.level == "alarm", timeout=20000)
    assert roll._small.startswith("on the bank: DOES NOT ROLL") and "canal" not in roll._small.split("\n")[0]
    log = document.shot.logs[-1]
    assert log.rolling and any("no card" in event.words.lower() for event in log.events)
    document.undo()  # neither the rolling nor what a camera said is taken back with it
    while document.undo_label not in ("", "Kit"):
        document.undo()
    assert document.shot.logs[-1].rolling and document.shot.logs[-1].id == log.id
    press(window, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: len(document.shot.logs[-1].files) == 1, timeout=60000)
    assert roll.level == "off" and not document.shot.logs[-1].rolling
    document.undo()
    assert not document.shot.logs[-1].rolling and len(document.shot.logs[-1].files) == 1


def test_what_ends_by_itself_is_asked_for_and_ends_the_log(window, record, two_cameras, qtbot, monkeypatch):
    document, cameras = window.document, record.cameras
    name, server = two_cameras[0]
    monkeypatch.setattr(record.log, "cameras_rolling", lambda: (name,))  # nothing goes by the clock beside it
    cameras.hold(name, server.address)
    qtbot.waitUntil(lambda: cameras.seen(name).state is not None, timeout=20000)
    press(window, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: record.log.roll.level == "on", timeout=20000)
    file = server.camera.stop()  # by a hand on the camera
    qtbot.waitUntil(lambda: not document.shot.logs[-1].rolling, timeout=20000)
    log = document.shot.logs[-1]
    assert log.files == (f"{name}:{file.size_bytes}:{file.path}",) and record.log.roll.level == "off"
    assert any("stopped by itself" in event.words for event in log.events)


def test_closing_while_a_camera_rolls_asks_and_reopening_holds_it_again(
    window, record, two_cameras, qtbot, monkeypatch
):
    document, cameras = window.document, record.cameras
    name, server = two_cameras[0]
    cameras.hold(name, server.address)
    qtbot.waitUntil(lambda: cameras.seen(name).state is not None, timeout=20000)
    press(window, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: cameras.seen(name).roll == "rolls", timeout=20000)
    assert not window.close() and server.camera.state().recording
    box = window.findChild(QMessageBox, "rolling")
    assert "still rolls" in box.text()
    answers = {button.text(): button for button in box.buttons()}
    answers["Stay"].click()
    assert window.isVisible() and document.shot.logs[-1].rolling

    again = Cameras(document)  # as when the day is opened once more
    assert again.ids == (name,)
    qtbot.waitUntil(lambda: again.seen(name).roll == "rolls" and again.seen(name).state is not None, timeout=20000)
    assert again.seen(name).rolling_s > 0.0
    again.close()

    window.close()
    box = window.findChildren(QMessageBox, "rolling")[-1]
    next(button for button in box.buttons() if button.text() == "Stop and close").click()
    qtbot.waitUntil(lambda: not window.isVisible(), timeout=20000)
    assert not server.camera.state().recording and not document.shot.logs[-1].rolling
    assert Cameras(document).ids == ()

"""A whole morning in the real window: made ready, two cameras rolled, six events by key, cards brought home to two places while a clip is
cut, one file altered and found."""

import os
import threading

from msgspec.structs import replace
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QInputDialog

from glintor.offload import copy as copying
from glintor.project.model import Copying
from glintor.project.store import clip_files, read_project
from glintor.sphere.view import View
from tests.desktop.test_record import record, two_cameras  # noqa: F401


def test_from_the_list_to_two_proven_copies(window, record, two_cameras, settle, qtbot, tmp_path, monkeypatch):  # noqa: F811
    document, keys = window.document, Qt.Key
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("kingfisher", True))
    for name, server in two_cameras:
        record.cameras.hold(name, server.address)
        record.cameras.put(name)
    qtbot.waitUntil(lambda: all(record.cameras.seen(n).differs == () for n, _ in two_cameras), timeout=20000)
    qtbot.waitUntil(lambda: any(t.by == "camera" for t in document.shot.ticks), timeout=20000)
    while any(line.id not in {t.line for t in document.shot.ticks} for line in record.lines):
        QTest.keyClick(window, keys.Key_T)
    QTest.keyClick(window, keys.Key_Space)
    qtbot.waitUntil(lambda: all(s.camera.state().recorded_s > 0.4 for _, s in two_cameras), timeout=60000)
    for key in (keys.Key_B, keys.Key_C, keys.Key_M, keys.Key_P, keys.Key_N, keys.Key_G):
        QTest.keyClick(window, key)
    QTest.keyClick(window, keys.Key_Space)
    qtbot.waitUntil(lambda: len(document.shot.logs[-1].files) == 2, timeout=60000)
    QTest.keyClick(window, keys.Key_5)
    log = document.shot.logs[-1]
    by_hand = [e.what for e in log.events if not e.cameras]
    assert by_hand == ["beep", "clap", "mark", "stranger", "note", "good"] and log.rating == 5
    assert len(log.ticks) == len(record.lines) and any(t.by == "camera" for t in log.ticks)
    record.cameras.close()

    document.edit("Where", replace(document.project, copying=Copying(second=str(tmp_path / "drive"))))
    passes, bring = threading.Semaphore(0), copying.bring_unit

    def held(*args, **options):
        assert passes.acquire(timeout=60)
        return bring(*args, **options)

    monkeypatch.setattr(copying, "bring_unit", held)
    window.show_desk(3)
    for _, server in two_cameras:
        window.offload.open_card(server.card)
        settle()
        window.offload.start()
        take = next(t for t in document.shot.takes if t.files[0].on_card_alone)
        assert take.matched and "by what its camera told" in take.matched and take.rating == 5
        window.clip_work.work_on(document.shot.id, take.id)  # while it is still being copied
        qtbot.waitUntil(
            lambda: window.reframe.projector.idle and window.reframe.frame._image is not None, timeout=30000
        )
        window.reframe.frame.view_turned.emit(View(yaw_deg=30.0), False)
        assert window.offload.bringing.goes_on and document.cut.take_id == take.id and document.cut.keys
        passes.release(5)
        qtbot.waitUntil(lambda: not window.offload.bringing.goes_on, timeout=60000)
        while passes.acquire(blocking=False):  # what was not needed must not let the next card through
            pass
        window.show_desk(3)
        settle()
        assert "Safe to clear" in window.offload.sentence.text()
    project = read_project(document.file) if document.save() else document.project
    takes = [t for t in project.shot(document.shot.id).takes if t.matched]
    assert len(takes) == 2 and all(file.copy and not file.on_card_alone for t in takes for file in t.files)
    assert all(clip_files(document.file, t)[0].is_relative_to(document.footage) for t in takes)

    original = (two_cameras[1][1].card / "clips" / "clip-0001.mp4").read_bytes()
    copy = next(f for f in (tmp_path / "drive").rglob("clip-0001*.mp4") if f.read_bytes() == original)
    raw, times = bytearray(copy.read_bytes()), copy.stat().st_mtime_ns
    raw[len(raw) // 2] ^= 1
    copy.write_bytes(bytes(raw))
    os.utime(copy, ns=(times, times))  # nothing but reading it again can tell
    wrong = []
    window.jobs.trouble.connect(wrong.append)
    window.actions_by_id["look.prove"].trigger()
    settle()
    assert (
        len(wrong) == 1
        and "1 altered" in str(wrong[0])
        and copy.relative_to(tmp_path / "drive").as_posix() in str(wrong[0])
    )
    assert "3 of 4 files proven twice, 1 once" in window.offload.sentence.text()
    assert (two_cameras[1][1].card / "clips" / "clip-0001.mp4").read_bytes() == original

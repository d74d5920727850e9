"""Speed, freezes, stills and proxies on the Reframe desk, by hand in the real window."""

import cv2
import numpy as np
import pytest
from msgspec.structs import replace
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from glintor.desktop.reframe.screen import Request, Screen
from glintor.desktop.sound_out import SoundStream
from glintor.export.formats import FORMATS
from glintor.media import proxy
from glintor.media.probe import probe
from glintor.media.read import ClipReader, LatestReader
from glintor.sphere.view import View
from tests.conftest import frame_number, make_clip, psnr

LEFT, SHIFT = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def reframe(window, settle):
    window.show_desk(4)
    settle()
    return window.reframe


def mark(reframe, start_s: float, end_s: float) -> None:
    """Shift+drag over the course."""
    course = reframe.course
    a, b = (QPoint(round(course._time().px(t)), 120) for t in (start_s, end_s))
    QTest.mousePress(course, LEFT, SHIFT, a)
    QTest.mouseMove(course, b)
    QTest.mouseRelease(course, LEFT, SHIFT, b)


def test_a_marked_part_runs_faster_and_undo_brings_it_back(window, reframe, settle):
    before = window.document.cut
    mark(reframe, 4.0, 8.0)
    reframe.pace.speeds.button(4.0).click()
    (stretch,) = window.document.cut.speeds
    assert (stretch.start_s, stretch.end_s, stretch.speed) == (
        pytest.approx(4.0, abs=0.05), pytest.approx(8.0, abs=0.05), 4.0,
    )  # fmt: skip
    assert window.document.cut.timeline.duration_s == pytest.approx(12.0, abs=0.05)
    assert "film 12.0 s, setting 4.0 to 8.0 s" in reframe.pace.length.toolTip()
    reframe.pace.ramp.setCurrentIndex(reframe.pace.ramp.findText("to ×16"))
    reframe.pace.ramp.activated.emit(reframe.pace.ramp.currentIndex())
    reframe.pace.back.click()
    (stretch,) = window.document.cut.speeds
    assert stretch.speeds == (4.0, 16.0) and stretch.backwards
    reframe.pace.blur.click()
    assert not window.document.cut.blur
    for _ in range(4):
        window.document.undo()
    assert window.document.cut == before
    settle()


def test_parts_are_marked_and_held_by_keys(window, reframe, settle):
    reframe.go_to(2.0)
    window.actions_by_id["part.in"].trigger()
    reframe.go_to(3.0)
    window.actions_by_id["part.out"].trigger()
    reframe.pace.speeds.button(0.5).click()
    assert window.document.cut.timeline.duration_s == pytest.approx(16.0, abs=0.1)
    reframe.go_to(10.0)
    window.actions_by_id["part.hold"].trigger()
    assert window.document.cut.timeline.duration_s == pytest.approx(18.0, abs=0.1)
    window.show_desk(5)
    assert "18.0 s, 433 frames" in window.export.grid._lines["roof-cobdale", window.document.cut.id].title.text()
    window.show_desk(4)
    window.actions_by_id["part.hold"].trigger()
    assert [s.freeze_s for s in window.document.cut.speeds] == [0.0]


def test_the_preview_shows_the_blur_of_a_speed_up(window, reframe, settle):
    """What is drawn at rest is the mean of the frames that one film frame covers."""
    drawn = []
    reframe.projector.drawn.connect(drawn.append)
    reframe.go_to(9.0)
    settle()
    reframe.work.set_pace(speed=16.0)
    settle()
    with reframe.projector.footage.reader() as reader:
        mean = np.mean([d.picture.y.astype(float) for d in reader.frames(9.0, 9.0 + 16 / 24)], axis=0)
    blurred = LatestReader(reframe.projector.footage.reader())
    assert psnr(blurred.mean(9.0, 9.0 + 16 / 24, 64).picture.y, mean) > 50.0
    blurred.close()
    assert (drawn[-1].frame != drawn[0].frame).mean() > 0.05
    reframe.toggle_play()
    assert reframe.player.playing
    reframe.player.stop()


def test_the_frame_in_sight_is_saved_at_full_size(window, reframe, settle, qtbot, tmp_path):
    reframe.go_to(6.0)
    reframe.shapes.button(FORMATS[2]).click()
    settle()
    window.clip_work.save_still(tmp_path / "a.tif")
    qtbot.waitUntil(lambda: (tmp_path / "a.tif").exists() and not window.jobs.running, timeout=20000)
    picture = cv2.imread(str(tmp_path / "a.tif"), cv2.IMREAD_UNCHANGED)
    assert picture.shape[:2] == (1080, 1080) and picture.dtype == np.uint16


def test_a_large_clip_is_shown_by_its_proxy_and_then_exactly(window, reframe, settle, qtbot, tmp_path, monkeypatch):
    monkeypatch.setattr(proxy, "FROM_WIDTH_PX", 1000)
    monkeypatch.setattr(proxy, "WIDTH_PX", 960)
    drawn = []
    reframe.projector.drawn.connect(drawn.append)
    reframe.refresh()
    qtbot.waitUntil(lambda: not window.jobs.running and reframe.projector.by_proxy, timeout=60000)
    settle()
    drawn.clear()
    reframe.go_to(5.0)
    settle()
    assert [d.exact for d in drawn] == [False, True]
    assert {round(d.time_s, 3) for d in drawn} == {5.0}


def test_a_proxy_has_the_clips_times_and_pictures(tmp_path, monkeypatch):
    monkeypatch.setattr(proxy, "proxy_folder", lambda: tmp_path / "cache")
    monkeypatch.setattr(proxy, "WIDTH_PX", 320)
    clip = make_clip(tmp_path / "in.mp4", width=960, height=480, frames=24)
    assert proxy.wants_proxy(probe(clip).width_px) is False and proxy.proxy_of(clip) is None
    file = proxy.make_proxy(clip)
    assert proxy.proxy_of(clip) == file and (probe(file).width_px, probe(file).has_sound) == (320, False)
    with ClipReader(file) as small, ClipReader(clip) as large:
        pairs = list(zip(small.frames(), large.frames(), strict=True))
        assert all(a.time == b.time for a, b in pairs) and len(pairs) == 24
        assert [frame_number(a.picture.y) for a, _ in pairs] == pytest.approx(range(24), abs=0.5)


def test_sound_is_decoded_ahead_and_ends(qtbot):
    blocks = [np.full((2, 1000), n / 4, np.float32) for n in range(3)]
    stream = SoundStream(iter(blocks))
    heard = b""
    while part := stream.readData(1500):
        heard += part
    stream.end()
    samples = np.frombuffer(heard, "<i2").reshape(-1, 2)
    assert len(samples) == 3000 and list(samples[::1000, 0]) == [0, 8191, 16383]


def test_the_first_picture_does_not_wait_for_the_kernels(qtbot, tmp_path, monkeypatch):
    """It is rough, and drawn again at once; later ones are never rough."""
    monkeypatch.setattr("glintor.desktop.reframe.screen.kernels_loaded", lambda: False)
    screen, drawn = Screen(), []
    screen.drawn.connect(drawn.append)
    screen.open_footage(make_clip(tmp_path / "a.mp4", frames=6))
    screen.ask(Request(0.0, View(), (320, 180), sphere=True))
    qtbot.waitUntil(lambda: len(drawn) == 2, timeout=60000)
    screen.ask(Request(0.0, View(yaw_deg=20.0), (320, 180)))
    qtbot.waitUntil(lambda: len(drawn) == 3, timeout=60000)
    assert [d.rough for d in drawn] == [True, False, False] and [d.exact for d in drawn] == [False, True, True]
    assert len(drawn) >= 2 and all(d.sphere is not None for d in drawn[:2])
    screen.close()


def test_the_view_moves_over_a_held_picture_and_plays_so(window, reframe, settle, qtbot):
    before, keys = window.document.project, window.document.cut.keys
    reframe.go_to(5.0)
    window.actions_by_id["part.hold"].trigger()
    assert reframe.pace.view_moves.isVisibleTo(reframe.pace) and not reframe.pace.speeds.isVisibleTo(reframe.pace)
    length = reframe.hand.length_s
    window.actions_by_id["part.move"].trigger()
    assert reframe.hand.length_s == pytest.approx(length + 2.0)
    later = [k.time_s for k in window.document.cut.keys if k.time_s > 7.01]
    assert later and later == pytest.approx([k.time_s + 2.0 for k in keys if k.time_s > 5.01])
    reframe.go_to(6.0)  # in the middle of it: the clip stands still, the view is turned
    assert reframe.hand.clip_s == pytest.approx(5.0) and reframe.pace.held.box.value() == 2.0
    reframe.turned(replace(reframe.hand.shown_view(), yaw_deg=reframe.hand.shown_view().yaw_deg + 60.0), False)
    reframe.turn_ended()
    settle()
    assert reframe.projector._last.time_s == pytest.approx(5.0)
    drawn = []
    reframe.projector.drawn.connect(drawn.append)
    reframe.go_to(5.6)
    reframe.toggle_play()
    qtbot.waitUntil(lambda: reframe.hand.now_s > 7.4, timeout=20_000)
    reframe.player.stop()
    settle()
    held = [d for d in drawn if abs(d.time_s - 5.0) < 0.03]
    yaws = [d.view.yaw_deg for d in held]
    assert len(held) > 3 and max(yaws) - min(yaws) > 20.0 and any(d.time_s > 5.1 for d in drawn)
    reframe.go_to(6.0)
    reframe.pace.held.box.setValue(3.0)
    assert reframe.hand.length_s == pytest.approx(length + 3.0)
    held = window.document.cut
    assert held.timeline.duration_s == pytest.approx(held.out_s + 3.0)
    reframe.work.mark_part((5.5, 7.0))  # inside the freeze: nothing runs there
    reframe.work.set_pace(speed=2.0)
    assert window.document.cut == held
    reframe.work.mark_part(None)
    for _ in range(4):
        window.document.undo()
    assert window.document.project == before
    settle()


def test_playing_goes_on_through_a_change_of_the_path_and_ends_with_another_timing(window, reframe, settle, qtbot):
    reframe.go_to(2.0)
    reframe.toggle_play()
    qtbot.waitUntil(lambda: reframe.hand.now_s > 2.2, timeout=20_000)
    reframe.work.nudge("yaw_deg", 5.0)
    assert reframe.player.playing
    at = reframe.hand.now_s
    qtbot.waitUntil(lambda: reframe.hand.now_s > at + 0.2, timeout=20_000)
    reframe.work.set_pace(speed=2.0)
    assert not reframe.player.playing
    settle()

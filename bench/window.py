"""The window while it is used: dragging the view, playing, seeking; offscreen, from the gesture to the painted frame."""

import os
import shutil
import subprocess
import tempfile
import time
from pathlib import Path
from typing import TYPE_CHECKING

import msgspec
import numpy as np

from bench.measure import Times, wait_for_calm

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QApplication

    from glintor.desktop.window import Window


def report(source: Path, runs: int) -> list[str]:
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PyQt6.QtWidgets import QApplication

    from glintor.demo.day import write_demo_day
    from glintor.desktop.app import application
    from glintor.desktop.document import Document
    from glintor.desktop.window import Window
    from glintor.export.queue import Queue
    from glintor.media.probe import probe
    from glintor.media.proxy import make_proxy
    from glintor.media.read import ClipReader, LatestReader
    from glintor.project.model import with_take
    from glintor.project.store import clip_files
    from glintor.project.take import TakeFile

    app = application()
    assert isinstance(app, QApplication)
    lines = ["## The window, offscreen", "", "| what | median ms | 95 of 100 within | worst |", "|---|---|---|---|"]
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        day = write_demo_day(folder / "day")
        clip = Path(shutil.copy(source, folder / "large.mp4"))
        make_proxy(clip)
        window = Window(Document(day), queue=Queue(folder / "queue.json"))
        window.resize(1280, 800)
        window.show()
        window.document.choose_shot("roof-cobdale")
        until(app, lambda: window.settled)
        wait_for_calm()
        place_drag = placed(app, window)
        window.document.undo()
        window.show_desk(4)
        reframe = window.reframe
        until(app, lambda: window.settled)

        def row(words: str, times: Times) -> None:
            lines.append(
                f"| {words} | {times.median * 1e3:.1f} | {times.quantile(0.95) * 1e3:.1f} | {max(times.seconds) * 1e3:.1f} |"
            )
            print(lines[-1], flush=True)

        row("camera dragged on the plan: charts and findings", place_drag)
        painted: list[float] = []
        inner = reframe.frame.draw
        reframe.frame.draw = lambda p: (inner(p), painted.append(time.perf_counter()))[0]  # type: ignore[method-assign]
        dragged(app, reframe, painted, 20)  # what is compiled and loaded at the first time
        until(app, lambda: window.settled)
        wait_for_calm()
        row("view dragged, 960x540, from the demo clip", dragged(app, reframe, painted))
        window.show_desk(4)
        reframe.projector.open_footage(clip)
        reframe.projector._reader, reframe.projector._original = (
            reframe.projector._original,
            None,
        )  # the 5.7K frame itself
        row("view dragged, 960x540, from a 5.7K frame", dragged(app, reframe, painted))
        reframe.refresh()
        until(app, lambda: window.settled)

        # Playing a clip of 30 frames a second, of a proxy's size.
        # Each frame of the clip should be painted once; late is one whose picture came after the next was due.
        shown: list[tuple[float, float]] = []
        reframe.projector.drawn.connect(lambda drawn: shown.append((drawn.time_s, time.perf_counter())))
        cut, take = reframe.hand.cut, reframe.hand.take
        assert cut is not None and take is not None
        faster = day.parent / "thirty.mp4"
        old = clip_files(day, take)[0]
        subprocess.run(["ffmpeg", "-v", "error", "-y", "-i", old, "-vf", "fps=30", "-crf", "20", faster], check=True)
        take = msgspec.structs.replace(
            take, files=(TakeFile(copy=faster.name, size_bytes=faster.stat().st_size),), rate_fps=30.0
        )
        window.document.edit_shot("30 fps", lambda shot: with_take(shot, take))
        reframe.go_to(cut.in_s)
        until(app, lambda: window.settled)
        shown.clear()
        stolen = wait_for_calm()
        began = time.perf_counter()
        reframe.toggle_play()
        start, spent_s = time.perf_counter(), time.process_time()
        until(app, lambda: not reframe.player.playing)
        rate = take.rate_fps
        due = {round(t * rate): start + t - cut.in_s for t, _ in shown}
        busy = time.process_time() - spent_s
        first = {}
        for t, when in shown:
            first.setdefault(round(t * rate), when)
        frames = round((cut.out_s - cut.in_s) * rate)
        late = sum(first[n] - due[n] > 1.5 / rate for n in first)
        missed = frames - len(first)
        lines.append("")
        lines.append(
            f"Playing the cut of {cut.out_s - cut.in_s:.0f} s at {rate:g} fps in the whole window: {len(first)} of {frames} frames shown in "
            f"{time.perf_counter() - began:.1f} s, {missed} left out, {late} later than half a frame after their time; "
            f"{busy / (time.perf_counter() - start):.0%} of one core, "
            f"{stolen:.0%} of the machine's time taken by others before it."
        )
        print(lines[-1], flush=True)
        window.close()

        rng = np.random.default_rng(3)
        lines += ["", "| seek to a random time | median ms | 95 of 100 within | worst |", "|---|---|---|---|"]
        proxy, length_s = make_proxy(clip), probe(clip).duration_s - 0.05
        for words, file, count in (("proxy", proxy, 60), ("original", clip, 12)):
            reader = LatestReader(ClipReader(file))
            spent = []
            for moment in rng.uniform(0, length_s, count):
                began = time.perf_counter()
                reader.at(float(moment))
                spent.append(time.perf_counter() - began)
            reader.close()
            row(words, Times(tuple(spent[1:])))
    return lines


def placed(app: "QApplication", window: "Window") -> Times:
    """The camera dragged over the plan: from the hand's move to plan, side view and findings painted."""
    from PyQt6.QtCore import QEvent, QPointF, Qt
    from PyQt6.QtGui import QMouseEvent

    plan, left, none = window.place.plan, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    painted: list[float] = []
    inner = plan.draw
    plan.draw = lambda p: (inner(p), painted.append(time.perf_counter()))[0]  # type: ignore[method-assign]
    assert plan.plan is not None
    at = plan.px(*plan.plan.camera[:2])

    def send(kind: QEvent.Type, x: float) -> None:
        place = QPointF(at.x() + x, at.y())
        app.sendEvent(plan, QMouseEvent(kind, place, plan.mapToGlobal(place), left, left, none))

    spent = []
    send(QEvent.Type.MouseButtonPress, 0.0)
    for number in range(60):
        painted.clear()
        began = time.perf_counter()
        send(QEvent.Type.MouseMove, 4.0 * (number + 1))
        until(app, lambda: bool(painted))
        spent.append(time.perf_counter() - began)
        until(app, lambda: True)
    send(QEvent.Type.MouseButtonRelease, 240.0)
    until(app, lambda: window.settled)
    return Times(tuple(spent[5:]))


def until(app, reached, limit_s: float = 120.0) -> None:  # type: ignore[no-untyped-def]
    end = time.monotonic() + limit_s
    while not reached() and time.monotonic() < end:
        app.processEvents()
        time.sleep(0.0005)


def dragged(app, reframe, painted: list[float], moves: int = 120) -> Times:  # type: ignore[no-untyped-def]
    """Moves the mouse over the frame, each time waiting for the picture that the move asked for."""
    from PyQt6.QtCore import QPoint, Qt
    from PyQt6.QtTest import QTest

    frame = reframe.frame
    middle = frame.frame_box.center().toPoint()
    QTest.mousePress(frame, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier, middle)
    spent = []
    drawn: list[float] = []

    def note(_drawn: object) -> None:
        drawn.append(time.perf_counter())

    reframe.projector.drawn.connect(note)
    for n in range(moves):
        place = middle + QPoint(int(60 * np.sin(n / 9)) + n % 3, int(30 * np.cos(n / 7)))
        drawn.clear()
        began = time.perf_counter()
        QTest.mouseMove(frame, place)
        until(app, lambda: bool(drawn) and bool(painted) and painted[-1] > drawn[-1])
        spent.append(painted[-1] - began)
    QTest.mouseRelease(frame, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier, middle)
    reframe.projector.drawn.disconnect(note)
    return Times(tuple(spent[5:]))

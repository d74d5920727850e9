"""A large day: 300 shots, 1,000 takes, 2,000 keyframes in a cut. How much processor each gesture takes from the window's thread, with
what follows it."""

import os
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from msgspec.structs import replace

from bench.measure import Times, wait_for_calm
from bench.window import until

SHOTS, TAKES, KEYS = 300, 1000, 2000
_SETTLES_S = (
    4.0  # waited for what goes on beside; what takes longer goes on under the gesture, as it would for a person
)
_TURNS = 60  # turns of the event loop that are watched after a gesture


def large_day(folder: Path, shots: int = SHOTS, keys: int = KEYS) -> Path:
    """The demo day's shots again and again, one of their cuts with many keyframes; returns the project's file."""
    from glintor.demo.day import write_demo_day
    from glintor.project.store import read_project, write_project
    from glintor.reframing.path import Keyframe

    day = write_demo_day(folder)
    project = read_project(day)
    roof = project.shot("roof-cobdale")
    many = []
    for n in range(shots):
        shot = project.shots[n % len(project.shots)]
        shot = shot if shot.cuts else roof
        takes = tuple(replace(take, id=f"s{n}-{take.id}") for take in shot.takes)
        more = TAKES * (n + 1) // shots - TAKES * n // shots - len(takes)
        takes += tuple(replace(takes[0], id=f"s{n}-more-{k}") for k in range(max(more, 0)))
        cuts = tuple(replace(cut, id=f"s{n}-{cut.id}", take_id=f"s{n}-{cut.take_id}") for cut in shot.cuts)
        many.append(replace(shot, id=f"s{n}", takes=takes, cuts=cuts, start_min=(300 + 4 * n) % 1400))
    path = tuple(Keyframe(time_s=15.0 * n / keys, yaw_deg=7 * n % 50, pitch_deg=n % 9) for n in range(keys))
    many[2] = replace(many[2], cuts=(replace(many[2].cuts[0], keys=path),))
    write_project(day, replace(project, shots=tuple(many)))
    return day


def report(_source: Path, runs: int) -> list[str]:
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from glintor.desktop.app import application
    from glintor.desktop.document import Document
    from glintor.desktop.window import Window
    from glintor.export.queue import Queue
    from glintor.project.store import read_project

    app = application()
    lines = [
        f"## A day of {SHOTS} shots and {TAKES} takes, a cut of {KEYS} keyframes",
        "",
        "| gesture | processor ms | worst | worst turn after it |",
    ]
    lines.append("|---|---|---|---|")
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        window = Window(Document(large_day(folder / "day")), queue=Queue(folder / "queue.json"))
        window.resize(1280, 800)
        window.show()
        until(app, lambda: window.settled)
        document = window.document

        def row(words: str, act: Callable[[int], object], before: Callable[[], object] = lambda: None) -> None:
            spent, after = [], 0.0
            for number in range(max(runs, 3)):
                before()
                until(app, lambda: window.settled, _SETTLES_S)
                began = time.thread_time()
                act(number)
                app.processEvents()
                spent.append(time.thread_time() - began)
                for _ in range(_TURNS):
                    began = time.thread_time()
                    app.processEvents()
                    after = max(after, time.thread_time() - began)
                    time.sleep(0.003)
            times = Times(tuple(spent))
            lines.append(f"| {words} | {times.median * 1e3:.0f} | {max(spent) * 1e3:.0f} | {after * 1e3:.0f} |")
            print(lines[-1], flush=True)
            document.end_gesture()

        for number in range(6):  # every desk once: what is built and loaded at the first time
            window.show_desk(number)
            until(app, lambda: window.settled)
        document.choose_shot("s2")
        until(app, lambda: window.settled)
        wait_for_calm()
        for number, desk in enumerate(("Place", "Expose", "Record", "Offload", "Reframe", "Export")):
            row(
                f"show {desk}",
                lambda _n, at=number: window.show_desk(at),
                lambda at=number: window.show_desk((at + 1) % 6),
            )  # type: ignore[misc]
            row(f"{desk}: choose a shot", lambda n: document.choose_shot(f"s{3 + n}"))
            document.choose_shot("s2")
            row(f"{desk}: a shot dragged over the day", lambda n: window.shot_work.move("s2", 600.0 + n))
            row(
                f"{desk}: undo",
                lambda _n: document.undo(),
                lambda: document.edit_shot("x", lambda s: replace(s, name=s.name + "x")),
            )
        window.show_desk(0)
        row("Place: camera dragged", lambda n: window.place.plan.camera_dragged.emit(-2.9 + 0.1 * n, 0.74))
        row("Place: new shot", lambda _n: window.shot_work.new())
        row("Place: delete the shot", lambda _n: window.shot_work.delete(), window.shot_work.new)
        document.choose_shot("s2")
        window.show_desk(4)
        reframe = window.reframe
        row("Reframe: step through the clip", lambda n: reframe.go_to(3.0 + n))
        moments = iter(3.017 + 0.211 * n for n in range(50))
        row("Reframe: set a keyframe", lambda _n: reframe.work.set_key(), lambda: reframe.go_to(next(moments)))
        row(
            "Reframe: keyframe dragged",
            lambda n: reframe.key_work.drag_time(100, 0.752 + 0.001 * n),
            reframe.key_work.begin_drag,
        )
        row(
            "Reframe: speed of a part",
            lambda n: reframe.work.set_pace(speed=2.0 + n),
            lambda: reframe.work.mark_part((2.0, 3.0)),
        )
        window.show_desk(2)
        row("Record: a line of the list ticked", lambda _n: window.record.tick_next())
        row("Record: an event logged", lambda _n: window.record.log.log("good"))
        row("Record: a rolling rated", lambda n: window.record.log.rate(1 + n % 5))
        window.show_desk(3)
        row("Offload: a take rated", lambda n: window.offload.rate(1 + n % 5))
        row(
            "save", lambda _n: document.save(), lambda: document.edit_shot("x", lambda s: replace(s, name=s.name + "x"))
        )
        row("the day read and checked, as it is opened", lambda _n: read_project(document.file))
        window.show_desk(5)
        row("Export: quality", lambda n: window.export.crf.box.setValue(20 + n))
        window.close()
    return lines

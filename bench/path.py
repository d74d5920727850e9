"""The Reframe desk with a long path: a set key, a dragged pennant and a cure; playing a followed, corrected path; films of many cuts."""

import os
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from msgspec.structs import replace

from bench.measure import Times, alternate, wait_for_calm
from bench.window import until

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QApplication

    from glintor.desktop.window import Window

_KEYS, _STEPS = 500, 24


def report(_source: Path, runs: int) -> list[str]:
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PyQt6.QtWidgets import QApplication

    from glintor.demo.day import write_demo_day
    from glintor.desktop.app import application
    from glintor.desktop.document import Document
    from glintor.desktop.window import Window
    from glintor.export.queue import Queue

    app = application()
    assert isinstance(app, QApplication)
    lines = ["## A long path", ""]
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        day = write_demo_day(folder / "day")
        window = Window(Document(day), queue=Queue(folder / "queue.json"))
        window.resize(1280, 800)
        window.show()
        window.document.choose_shot("roof-cobdale")
        window.show_desk(4)
        until(app, lambda: window.settled)
        lines += _edits(app, window) + _playing(app, window)
        window.close()
        lines += _film(day, runs)
    return lines


def _edits(app: "QApplication", window: "Window") -> list[str]:
    """Milliseconds from a hand's edit to the desk refreshed and the course painted: 500 keyframes, three tracks."""
    from glintor.project.subjects import subject_file
    from glintor.reframing.anchor import Anchor
    from glintor.reframing.path import Keyframe
    from glintor.reframing.track import found_track, write_found

    reframe, document = window.reframe, window.document
    times = np.arange(0.0, 15.0, 0.08)
    for name in ("", "Second", "Third"):
        file = subject_file(document.file, document.take, name)
        file.parent.mkdir(exist_ok=True)
        write_found(file, found_track([(t, 10.0 * np.sin(t), 0.0, 10.0, 2) for t in times]))
    keys = tuple(
        Keyframe(time_s=round(0.03 * n, 4), yaw_deg=float(20 * np.sin(n / 40)), on="a" if n > 200 else "")
        for n in range(_KEYS)
    )
    long = replace(document.cut, keys=keys, anchors=(Anchor(id="a", on="subject"),), moves=(), own=())
    reframe.work.edit_cut("A long path", long)
    until(app, lambda: window.settled)
    reframe.go_to(7.0)
    until(app, lambda: window.settled)
    wait_for_calm()

    def timed(act: Callable[[int], object]) -> Times:
        spent = []
        for n in range(_STEPS):
            began = time.perf_counter()
            act(n)
            if document.in_gesture:  # else the edit has it refreshed by itself
                reframe.refresh()
            reframe.course.repaint()
            spent.append(time.perf_counter() - began)
            plot = reframe.course.plot
            assert plot is not None and plot.cut == document.cut, "everything is shown anew"
            until(app, lambda: window.settled)
        return Times(tuple(spent[2:]))

    lines = [
        f"{_KEYS} keyframes, three tracks, held on one of them for most of it: from the hand to everything shown anew.",
        "",
        "| what | median ms | 95 of 100 within |",
        "|---|---|---|",
    ]
    reframe.key_work.begin_drag()
    acts = {
        "a key set": lambda n: reframe.work.type_angle("yaw_deg", 5.0 + n),
        "a pennant dragged": lambda n: reframe.key_work.drag_turn(250, 1.0 + 0.1 * n),
        "a cure taken": lambda n: reframe.work.edit_cut("Soften", _softer(document.cut, n)),
    }
    for words, act in acts.items():
        if act is acts["a cure taken"]:
            reframe.key_work.end_drag()
        times_ = timed(act)
        lines.append(f"| {words} | {times_.median * 1e3:.1f} | {times_.quantile(0.95) * 1e3:.1f} |")
        print(lines[-1], flush=True)
    return lines


def _softer(cut, n):  # type: ignore[no-untyped-def]
    from glintor.reframing.arranging import eased, softened

    return eased(softened(cut), {n}, leaves="even")


def _playing(app: "QApplication", window: "Window") -> list[str]:
    """Frames a second that the desk's own way of drawing ahead gives for a followed, corrected path."""
    from glintor.desktop.reframe.screen import Request
    from glintor.reframing.own import with_own_view
    from glintor.sphere.view import View

    reframe, hand = window.reframe, window.reframe.hand
    cut = with_own_view(
        hand.cut, "16:9", (1920, 1080), 5.0, View(pitch_deg=5.0, fov_deg=80.0), hand.step_s, hand.targets
    )
    course = hand.course(cut)
    lines = [
        "",
        "A followed, corrected path drawn as it plays (decoded, drawn, in colours of the screen):",
        "",
        "| frame | frames a second |",
        "|---|---|",
    ]
    for size in ((960, 540), (1312, 738)):
        wait_for_calm()
        reader = reframe.projector._reader
        assert reader is not None
        spent = []
        for n in range(90):
            clip_s = 2.0 + n / 24.0
            began = time.perf_counter()
            reframe.projector._draw(
                reader, Request(clip_s, course.at(clip_s), size, None, n % 5 == 0, True), exact=True
            )
            spent.append(time.perf_counter() - began)
        lines.append(f"| {size[0]} x {size[1]} | {1.0 / float(np.mean(spent[5:])):.0f} |")
        print(lines[-1], flush=True)
    return lines


def _film(day: Path, runs: int) -> list[str]:
    """A film of eight cuts with joins against its cuts one by one."""
    from glintor.export.cut import Form, Wanted, render_cuts, render_joined
    from glintor.export.formats import FORMATS
    from glintor.media.encoding import Encoding
    from glintor.project.model import Film, Piece, with_cut
    from glintor.project.store import read_project
    from glintor.reframing.joins import Join, JoinKind

    project = read_project(day)
    shot = next(s for s in project.shots if s.id == "roof-cobdale")
    base = replace(
        shot.cuts[0], speeds=(), moves=(), own=(), anchors=(), keys=tuple(replace(k, on="") for k in shot.cuts[0].keys)
    )
    cuts = [replace(base, id=f"cut-{n}", in_s=1.0 + n, out_s=2.0 + n) for n in range(8)]
    for cut in cuts:
        shot = with_cut(shot, cut)
    project = project.with_shot(shot.id, lambda _s: shot)
    kinds: list[JoinKind] = ["straight", "dip", "match", "straight", "dip", "straight", "match", "straight"]
    pieces = tuple(
        Piece(shot_id=shot.id, cut_id=cut.id, join=Join(kind=kind, length_s=0.4))
        for cut, kind in zip(cuts, kinds, strict=True)
    )
    film, packing, folder = Film(id="film", name="film", pieces=pieces), Encoding(), day.parent
    candidates: dict[str, Callable[[], object]] = {
        "eight cuts, one by one": lambda: [
            render_cuts(day, shot, [Wanted(c, Form(FORMATS[0], folder / f"{c.id}.mp4", packing))]) for c in cuts
        ],
        "a film of them, with joins": lambda: render_joined(
            day, project, film, [Form(FORMATS[0], folder / "film.mp4", packing)]
        ),
    }
    took = alternate(candidates, min(runs, 3))
    alone, joined = (times.median for times in took.values())
    lines = ["", "| eight cuts of a second, 1920 x 1080 | s |", "|---|---|"]
    lines += [f"| {name} | {times.median:.2f} |" for name, times in took.items()]
    lines += ["", f"The film takes {joined / alone:.2f} times as long as its cuts.", ""]
    print(lines[-2], flush=True)
    return lines

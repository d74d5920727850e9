"""Jobs that are stopped: at their next report, or left to themselves; the line stops what it shows; odd files stop nothing."""

import threading
import time

import numpy as np
import pytest

from glintor.desktop.jobs import Jobs
from glintor.desktop.work_line import WorkLine
from glintor.errors import GlintorError
from glintor.media import reading
from glintor.media.together import read_all
from glintor.project.recordings import look_at
from tests.conftest import make_clip


@pytest.fixture
def jobs(qtbot):
    return Jobs()


def ended(qtbot, job, within_ms):
    with qtbot.waitSignal(job.ended, timeout=within_ms):
        job.cancel()


def test_a_work_that_only_reports_ends_at_its_next_report(jobs, qtbot):
    def work(report, _stop):
        while True:
            report(0.5)
            time.sleep(0.01)

    told = []
    job = jobs.start("Looking", work, cancelled=lambda: told.append("stopped"))
    ended(qtbot, job, 1400)
    assert told == ["stopped"] and not job.left and "nothing half written" in jobs.last_words
    job.wait()


def test_a_work_that_reports_nothing_is_left_within_two_seconds_and_what_it_gives_is_dropped(jobs, qtbot):
    go, given = threading.Event(), []
    job = jobs.start("Finding the lenses", lambda _r, _s: go.wait(30.0), given.append)
    ended(qtbot, job, 2000)
    assert job.left and jobs.running == [] and "last step ends by itself" in jobs.last_words
    go.set()
    job.wait()
    qtbot.wait(20)
    assert given == []


def test_closing_waits_for_no_job_longer_than_that(jobs):
    go = threading.Event()
    works = [jobs.start(f"{n}", lambda _r, _s: go.wait(30.0)) for n in range(3)]
    began = time.monotonic()
    jobs.stop_all()
    assert time.monotonic() - began < 2.0 and all(job.left for job in works)
    go.set()


def test_the_line_stops_what_it_shows(jobs, qtbot):
    line, go = WorkLine(jobs), threading.Event()
    qtbot.addWidget(line)
    first = jobs.start("The first", lambda _r, stop: stop.wait(30.0))
    shown = line._shown
    jobs.changed.disconnect(line.refresh)  # another begins before the line is painted again
    second = jobs.start("The second", lambda _r, _s: go.wait(30.0))
    assert shown is first
    line._cancel.click()
    qtbot.waitUntil(lambda: first.stopping, timeout=2000)
    assert not second.stopping
    go.set()
    for job in (first, second):
        job.wait()
    qtbot.wait(20)


def test_one_odd_file_never_stops_a_card(tmp_path, monkeypatch):
    """Whatever a reader of one file raises."""
    for name in ("a.mp4", "b.mp4", "c.mp4"):
        make_clip(tmp_path / name, frames=6)
    real = reading._film

    def odd(file):
        if file.name == "b.mp4":
            np.stack([np.zeros((2, 2)), np.zeros((3, 2))])  # pictures that change their size
        return real(file)

    monkeypatch.setattr(reading, "_film", odd)
    read = read_all(sorted(tmp_path.glob("*.mp4")))
    assert {r.files[0].name: r.reading == "broken" for r in read} == {"a.mp4": False, "b.mp4": True, "c.mp4": False}
    found = look_at(tmp_path / "d.glintor", sorted(tmp_path.glob("*.mp4")), told="")
    assert len(found.readings) == 3 and "ValueError" in str(found.refused[0])
    monkeypatch.setattr("glintor.media.together._films_together", lambda _r: 1 / 0)
    assert len(read_all(sorted(tmp_path.glob("*.mp4")))) == 3


def test_a_refusal_shows_again_what_holds(window, settle, qtbot):
    desk = window.record
    window.show_desk(2)
    settle()
    asked = []
    desk.refresh = lambda: asked.append("again")
    desk.said.emit("The list is written")
    assert not window._later.isActive()  # what was done is drawn by the change itself
    desk.refused.emit("That is not possible here")
    qtbot.waitUntil(lambda: bool(asked), timeout=5000)
    asked.clear()
    window.tell(GlintorError("That is not possible here."))
    qtbot.waitUntil(lambda: bool(asked), timeout=5000)


def test_footage_that_vanished_is_no_fault_of_a_desk(window, settle):
    window.show_desk(4)
    settle()
    footage = window.reframe.projector.footage
    for file in footage.files:
        file.rename(file.with_name("away.mp4"))
    window.take_work.seek_lenses(footage)
    assert not window.jobs.running

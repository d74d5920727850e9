"""That work is kept: the journal, saving, and who may write. Whatever is killed here is killed by the system."""

import os
import signal
import subprocess
import sys
import threading
import time

import msgspec
import pytest

from glintor.demo.day import SHOTS, SITE
from glintor.project import keeper as keeping
from glintor.project.journal import digest_of, journal_file, opened, write_journal
from glintor.project.keeper import Changed, Keeper, TakenOver
from glintor.project.lock import InUse, Lock
from glintor.project.model import Project
from glintor.project.store import NewerError, ProjectError, encode, read_project, write_project

PROJECT = Project(site=SITE, shots=SHOTS)
NEWER = msgspec.structs.replace(PROJECT, shots=SHOTS[:2])
OTHER = msgspec.structs.replace(PROJECT, shots=SHOTS[:4])


@pytest.fixture
def file(tmp_path):
    write_project(tmp_path / "day.glintor", PROJECT)
    return tmp_path / "day.glintor"


def named(number: int) -> Project:
    return msgspec.structs.replace(PROJECT, site=msgspec.structs.replace(SITE, name=f"edit {number}"))


def older(path, by_s: float) -> None:
    os.utime(path, ns=(path.stat().st_atime_ns, path.stat().st_mtime_ns - int(by_s * 1e9)))


def test_the_journal_brings_back_what_was_not_saved(file):
    digest = opened(file).digest
    assert digest == digest_of(file.read_bytes()) and not opened(file).recovered
    write_journal(file, NEWER, digest)
    assert opened(file).project == NEWER and opened(file).recovered and read_project(file) == PROJECT
    write_project(file, NEWER)
    assert not opened(file).recovered and not journal_file(file).exists()
    journal_file(file).write_text("half of a jour")
    assert not opened(file).recovered


def test_a_stale_journal_never_beats_a_newer_file(file):
    write_journal(file, NEWER, opened(file).digest)
    journal = journal_file(file).read_bytes()
    file.write_bytes(encode(OTHER))  # saved elsewhere, or put back from a copy
    journal_file(file).write_bytes(journal)
    day = opened(file)
    assert day.project == OTHER and not day.recovered and day.stale == journal_file(file)
    older(journal_file(file), 60)
    assert opened(file).project == OTHER and opened(file).stale is None


def test_a_journal_of_the_first_format_counts_by_its_time(file):
    journal_file(file).write_bytes(encode(NEWER))
    assert opened(file).project == NEWER
    older(journal_file(file), 60)
    assert opened(file).project == PROJECT


@pytest.mark.parametrize("damage", [b"", b"{", b'{"glintor": 1}'])
def test_a_damaged_project_with_a_good_journal_is_recovered(file, damage):
    write_journal(file, NEWER, opened(file).digest)
    file.write_bytes(damage)
    day = opened(file)
    assert day.project == NEWER and day.recovered and day.damaged
    journal_file(file).unlink()
    with pytest.raises(ProjectError):
        opened(file)


def test_a_newer_glintors_day_is_not_taken_for_damaged(file):
    write_journal(file, NEWER, opened(file).digest)
    file.write_bytes(file.read_bytes().replace(b'"glintor": ', b'"glintor": 9'))
    with pytest.raises(NewerError):
        opened(file)


@pytest.fixture
def keeper(file):
    told: list[object] = []
    lock = Lock(file)
    lock.acquire()
    made = Keeper(file, opened(file).digest, lock, told.append)
    made.told = told  # type: ignore[attr-defined]
    yield made
    made.close()
    lock.release()


def wait_for(true, within_s: float = 8.0) -> None:
    until = time.monotonic() + within_s
    while not true():
        assert time.monotonic() < until
        threading.Event().wait(0.005)


def test_edits_without_a_pause_starve_neither_journal_nor_file(file, keeper, monkeypatch):
    """Edits that come faster than any pause for longer than the latest moment to save."""
    monkeypatch.setattr(keeping, "LATEST_S", 0.4)
    states = [named(n) for n in range(400)]
    seen, began = set(), time.monotonic()
    for project in states:
        keeper.keep(project)
        seen.add(opened(file).project.site.name)
        if time.monotonic() - began > 0.4 + 4 * keeping.JOURNAL_S and len(seen) > 3:
            break
        threading.Event().wait(0.002)
    assert len(seen) > 3 and read_project(file).site.name.startswith("edit")
    keeper.save()
    assert not keeper.unsaved and read_project(file) == project and not journal_file(file).exists()


def test_what_cannot_be_written_is_said_once_and_tried_again(file, keeper, monkeypatch):
    monkeypatch.setattr(keeping, "RETRY_S", 0.02)
    away = file.parent.with_name("away")
    file.parent.rename(away)
    keeper.keep(NEWER)
    assert not keeper.save()
    wait_for(lambda: keeper.told)
    threading.Event().wait(0.15)  # several tries
    assert len(keeper.told) == 1 and "is gone" in str(keeper.told[0]) and not file.parent.exists()
    away.rename(file.parent)
    wait_for(lambda: not keeper.unsaved)
    assert read_project(file) == NEWER and keeper.told[-1] is None


def test_a_file_changed_by_others_is_left_alone_until_somebody_decides(file, keeper):
    file.write_bytes(encode(OTHER))
    keeper.keep(NEWER)
    assert not keeper.save() and isinstance(keeper.told[-1], Changed) and read_project(file) == OTHER
    keeper.keep_mine()
    assert read_project(file) == NEWER
    assert read_project(file.with_name("day (from elsewhere).glintor")) == OTHER


def test_only_one_writes_and_the_other_is_told(file, keeper):
    second = Lock(file)
    with pytest.raises(InUse):
        second.acquire()
    second.acquire(take_over=True)
    keeper.keep(NEWER)
    wait_for(lambda: keeper.told)
    assert isinstance(keeper.told[-1], TakenOver) and read_project(file) == PROJECT
    assert read_project(file.with_name("day (before it was taken over).glintor")) == NEWER
    second.release()
    assert not second.file.exists()


def test_the_lock_of_a_dead_program_is_nobodys(file):
    code = f"from pathlib import Path; from glintor.project.lock import Lock; Lock(Path({str(file)!r})).acquire()"
    subprocess.run([sys.executable, "-c", code], check=True)
    lock = Lock(file)
    assert lock.file.exists()
    lock.acquire()
    assert not lock.lost
    lock.release()
    lock.file.write_bytes(b"\xff no lock")
    lock.acquire()
    lock.release()


_DRAG = """
import sys, time
from pathlib import Path
import msgspec
from glintor.project.journal import opened
from glintor.project.keeper import Keeper
from glintor.project.lock import Lock
file = Path(sys.argv[1]); day = opened(file); lock = Lock(file); lock.acquire()
keeper = Keeper(file, day.digest, lock, print)
while True:
    now = f"{time.monotonic():.4f}"
    project = msgspec.structs.replace(day.project, site=msgspec.structs.replace(day.project.site, name=now))
    keeper.keep(project)
    print(now, flush=True)
    time.sleep(0.01)
"""


@pytest.mark.parametrize("after_edits", [60, 170, 230])
def test_a_killed_drag_loses_at_most_a_third_of_a_second(file, after_edits):
    with subprocess.Popen([sys.executable, "-c", _DRAG, str(file)], stdout=subprocess.PIPE, text=True) as drag:
        last = [drag.stdout.readline() for _ in range(after_edits)][-1]
        os.kill(drag.pid, signal.SIGKILL)
        last = (drag.stdout.read() or last).split()[-1]
    assert float(last) - float(opened(file).project.site.name) <= 0.3

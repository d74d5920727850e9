"""What is still to be rendered, kept on disk so that it survives a restart or a kill."""

import contextlib
import fcntl
import os
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Literal

import msgspec

from glintor.files import process_began, set_aside, write_bytes
from glintor.media.encoding import Encoding
from glintor.places import own_folder
from glintor.project.model import fresh_id

State = Literal["waiting", "running", "done", "failed"]


class Job(msgspec.Struct, frozen=True, kw_only=True):
    """One film to be written. The path it follows is looked up in the project when its turn comes. film_id: of a film that joins cuts;
    then shot and cut are its first."""

    id: str
    project_file: str
    shot_id: str
    cut_id: str
    film_id: str = ""
    format: str
    target: str
    mbit_s: float | None = None
    crf: int = 19
    preset: str = "veryfast"
    codec: str = "h264"
    pcm: bool = False
    state: State = "waiting"
    words: str = ""
    runner: str = ""  # the program that renders it

    @property
    def encoding(self) -> Encoding:
        return Encoding(mbit_s=self.mbit_s, crf=self.crf, preset=self.preset, codec=self.codec, pcm=self.pcm)


def default_queue_file() -> Path:
    """Where this person's queue lies."""
    return own_folder("state") / "queue.json"


class Queue:
    """The jobs in order, one list for all windows and programs of a person. Every change is made to the list as it lies
    on disk, and is there before it returns; two that change it at once wait for one another."""

    def __init__(self, file: Path | None = None) -> None:
        self.file = file or default_queue_file()
        self.jobs: tuple[Job, ...] = ()
        self.words = ""  # what the person should know of the list, once
        self._runner = runner_of(os.getpid())
        self.look()

    def look(self) -> None:
        """Takes up what others changed. A film that a program which is gone was rendering waits again."""
        self.jobs = tuple(_alive(job) for job in self._read())

    def _read(self) -> tuple[Job, ...]:
        try:
            return msgspec.json.decode(self.file.read_bytes(), type=tuple[Job, ...])
        except FileNotFoundError:
            return ()
        except OSError as error:
            self.words = f"The list of films cannot be read: {error.strerror}."
            return self.jobs
        except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
            with contextlib.suppress(OSError):
                aside = set_aside(self.file, "unreadable")
                self.words = (
                    f"The list of films to render could not be read; it is kept as {aside}, a new one was begun."
                )
            return ()

    def _change(self, change: Callable[[tuple[Job, ...]], tuple[Job, ...]]) -> None:
        with _alone(self.file):
            self.look()
            jobs = change(self.jobs)
            if jobs != self.jobs:
                write_bytes(self.file, msgspec.json.format(msgspec.json.encode(jobs), indent=2) + b"\n")
                self.jobs = jobs

    def add(self, *wanted: Job) -> tuple[Job, ...]:
        """Adds jobs under fresh ids; one that writes the same file and has not begun is replaced."""
        added: list[Job] = []

        def change(jobs: tuple[Job, ...]) -> tuple[Job, ...]:
            added.clear()
            targets, ids = {job.target for job in wanted}, {job.id for job in jobs}
            for job in wanted:
                added.append(msgspec.structs.replace(job, id=fresh_id("job", ids)))
                ids.add(added[-1].id)
            return (*(j for j in jobs if j.target not in targets or j.state == "running"), *added)

        self._change(change)
        return tuple(added)

    def mark(self, ids: set[str], state: State, words: str = "") -> None:
        runner = self._runner if state == "running" else ""
        replace = msgspec.structs.replace
        self._change(
            lambda jobs: tuple(replace(j, state=state, words=words, runner=runner) if j.id in ids else j for j in jobs)
        )

    def drop(self, wanted: Callable[[Job], bool]) -> None:
        self._change(lambda jobs: tuple(j for j in jobs if not wanted(j)))

    def mine(self, job: Job) -> bool:
        """Whether this program is rendering it."""
        return job.state == "running" and job.runner == self._runner

    def next_batch(self) -> tuple[Job, ...]:
        """Takes the first waiting job with every other waiting one of the same shot (one decode serves those of a take)
        and marks them as running here, so that no other window begins them too."""
        batch: tuple[Job, ...] = ()

        def change(jobs: tuple[Job, ...]) -> tuple[Job, ...]:
            nonlocal batch
            first = next((j for j in jobs if j.state == "waiting"), None)
            alike = ("project_file", "shot_id", "film_id", "state")
            ids = {j.id for j in jobs if first is not None and all(getattr(j, n) == getattr(first, n) for n in alike)}
            out = tuple(
                msgspec.structs.replace(j, state="running", words="", runner=self._runner) if j.id in ids else j
                for j in jobs
            )
            batch = tuple(j for j in out if j.id in ids)
            return out

        self._change(change)
        return batch


def runner_of(pid: int) -> str:
    """A process by its number and when it began, since numbers come again."""
    return f"{pid}-{process_began(pid)}"


def _alive(job: Job) -> Job:
    """The job, waiting again where whoever rendered it is gone."""
    pid = job.runner.split("-")[0]
    gone = not pid.isdigit() or runner_of(int(pid)) != job.runner
    return msgspec.structs.replace(job, state="waiting", runner="") if job.state == "running" and gone else job


@contextlib.contextmanager
def _alone(file: Path) -> Iterator[None]:
    """Waits until no other program changes this file. Where the folder cannot be written, the writing will say so."""
    try:
        file.parent.mkdir(parents=True, exist_ok=True)
        lock = file.with_name(f".{file.name}.lock").open("a")
    except OSError:
        yield
        return
    with lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield

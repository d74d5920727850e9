"""What is still to be rendered, kept on disk so that it survives a restart or a kill."""

from collections.abc import Callable
from pathlib import Path
from typing import Literal

import msgspec
import platformdirs

from glintor.files import write_bytes
from glintor.media.encoding import Encoding
from glintor.project.model import fresh_id

State = Literal["waiting", "running", "done", "failed"]


class Job(msgspec.Struct, frozen=True, kw_only=True):
    """One film to be written. The path it follows is looked up in the project when its turn comes."""

    id: str
    project_file: str
    shot_id: str
    cut_id: str
    format: str
    target: str
    mbit_s: float | None = None
    crf: int = 19
    preset: str = "veryfast"
    codec: str = "h264"
    pcm: bool = False
    state: State = "waiting"
    words: str = ""

    @property
    def encoding(self) -> Encoding:
        return Encoding(mbit_s=self.mbit_s, crf=self.crf, preset=self.preset, codec=self.codec, pcm=self.pcm)


def default_queue_file() -> Path:
    """Where this person's queue lies."""
    return platformdirs.user_state_path("glintor") / "queue.json"


class Queue:
    """The jobs in order. Every change is on disk before it returns."""

    def __init__(self, file: Path | None = None) -> None:
        self.file = file or default_queue_file()
        self.jobs: tuple[Job, ...] = ()
        if self.file.exists():
            try:
                kept = msgspec.json.decode(self.file.read_bytes(), type=tuple[Job, ...])
            except (msgspec.DecodeError, OSError):
                kept = ()  # a queue that cannot be read holds no footage and no path: start an empty one
            self.jobs = tuple(msgspec.structs.replace(j, state="waiting") if j.state == "running" else j for j in kept)

    def add(self, job: Job) -> Job:
        """Adds a job under a fresh id; one that writes the same file and has not begun is replaced."""
        job = msgspec.structs.replace(job, id=fresh_id("job", {j.id for j in self.jobs}))
        kept = tuple(j for j in self.jobs if j.target != job.target or j.state == "running")
        self._keep((*kept, job))
        return job

    def mark(self, ids: set[str], state: State, words: str = "") -> None:
        self._keep(tuple(msgspec.structs.replace(j, state=state, words=words) if j.id in ids else j for j in self.jobs))

    def drop(self, wanted: Callable[[Job], bool]) -> None:
        self._keep(tuple(j for j in self.jobs if not wanted(j)))

    def next_batch(self) -> tuple[Job, ...]:
        """The first waiting job with every other waiting one of the same shot: one decode serves those of a take."""
        first = next((j for j in self.jobs if j.state == "waiting"), None)
        if first is None:
            return ()
        alike = ("project_file", "shot_id", "state")
        return tuple(j for j in self.jobs if all(getattr(j, name) == getattr(first, name) for name in alike))

    def _keep(self, jobs: tuple[Job, ...]) -> None:
        self.jobs = jobs
        write_bytes(self.file, msgspec.json.format(msgspec.json.encode(jobs), indent=2) + b"\n")

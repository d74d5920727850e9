"""The queue at the Export desk: what is rendered, waits and is done, and what starts the next."""

from collections.abc import Callable, Sequence
from pathlib import Path
from threading import Event

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QListWidget, QVBoxLayout, QWidget

from glintor.desktop.controls import button, label, row
from glintor.desktop.document import Document
from glintor.desktop.jobs import Job, Jobs
from glintor.errors import GlintorError
from glintor.export.cut import Form, Wanted, render_cuts, render_joined
from glintor.export.formats import format_by_name
from glintor.export.queue import Job as QueueJob
from glintor.export.queue import Queue, State
from glintor.export.render import RenderResult
from glintor.files import same_file
from glintor.project.model import Project
from glintor.project.store import footage_of, read_project
from glintor.types import Report


class Rendering(QWidget):
    """Renders what the queue holds, one batch after the other, and lists it."""

    written = pyqtSignal()
    changed = pyqtSignal()  # a batch has ended
    said = pyqtSignal(str)

    def __init__(self, document: Document, jobs: Jobs, queue: Queue) -> None:
        super().__init__()
        self.document, self.jobs, self.queue = document, jobs, queue
        self.list = QListWidget()
        self.list.setAccessibleName("Render queue")
        self.list.setFixedHeight(78)
        self.clear = button("Clear what is done", self._clear)
        self.drop = button("Take out of the queue", self._drop)
        self._words = label("", "head")
        self._job: Job | None = None
        page = QVBoxLayout(self)
        page.setContentsMargins(0, 0, 0, 0)
        page.setSpacing(8)
        page.addLayout(row(self._words, None, self.drop, self.clear, stretch=False, spacing=8))
        page.addWidget(self.list)
        jobs.changed.connect(self.refresh)

    @property
    def idle(self) -> bool:
        return self._job is None

    def add(self, *films: QueueJob) -> bool:
        """Puts films into the queue and starts it; whether the list could be kept."""
        if not self._keeping(lambda: self.queue.add(*films)):
            return False
        self.resume()
        return True

    def _keeping(self, act: Callable[[], object]) -> bool:
        """Does what changes the list of films; whether that could be kept."""
        try:
            act()
        except GlintorError as error:
            self.jobs.trouble.emit(error)
            return False
        return True

    def resume(self) -> None:
        """Starts the next batch of the queue, if nothing renders yet."""
        if self._job is not None or self.jobs.closing:
            return
        try:
            batch = self.queue.next_batch()
        except GlintorError as error:
            self.jobs.trouble.emit(error)
            return
        if not batch:
            self.refresh()
            return
        ids = {job.id for job in batch}
        first = batch[0]
        file = Path(first.project_file)

        def work(report: Report, stop: Event) -> dict[str, RenderResult]:
            project = self.document.project if same_file(file, self.document.file) else read_project(file)
            if first.film_id:
                return _render_film(file, project, batch, report, stop)
            shot = project.shot(first.shot_id)
            cuts = {cut.id: cut for cut in shot.cuts}
            gone = next((job.cut_id for job in batch if job.cut_id not in cuts), None)
            if gone is not None:
                raise GlintorError(f"The cut {gone} is no longer in {file.name}.", advice="Take it out of the queue.")
            wanted = [
                Wanted(cuts[job.cut_id], Form(format_by_name(job.format), Path(job.target), job.encoding))
                for job in batch
            ]
            keep = footage_of(file, project.shots)
            return render_cuts(file, shot, wanted, keep=keep, project=project, report=report, stop=stop)

        names = ", ".join(dict.fromkeys(job.format for job in batch))
        cut_of = {job.id: job.film_id or job.cut_id for job in batch}
        self._job = self.jobs.start(
            f"Rendering {first.film_id or first.shot_id} {names}",
            work,
            lambda results: self._ended(cut_of, results),
            failed=lambda error: self._failed(ids, error),
            cancelled=lambda: self._stopped(ids),
        )
        self.refresh()

    def _ended(self, cut_of: dict[str, str], results: dict[str, RenderResult]) -> None:
        for job_id, cut_id in cut_of.items():
            result = results[cut_id]
            words = f"{result.frames} frames, {result.duration_s:.2f} s. {' '.join(result.notes)}".strip()
            self._mark({job_id}, "done", words)
        self.written.emit()
        self._next()

    def _failed(self, ids: set[str], error: GlintorError) -> None:
        self._mark(ids, "failed", str(error))
        self.jobs.trouble.emit(error)
        self._next()

    def _stopped(self, ids: set[str]) -> None:
        self._job = None
        if self.jobs.closing:
            self._mark(ids, "waiting")
            return
        self._keeping(lambda: self.queue.drop(lambda job: job.id in ids))
        self._next()

    def _mark(self, ids: set[str], state: State, words: str = "") -> None:
        self._keeping(lambda: self.queue.mark(ids, state, words))

    def _next(self) -> None:
        self._job = None
        self.resume()
        self.changed.emit()

    def _clear(self) -> None:
        self._keeping(lambda: self.queue.drop(lambda job: job.state in ("done", "failed")))
        self.refresh()

    def _drop(self) -> None:
        at = self.list.currentRow()
        if 0 <= at < len(self.queue.jobs):
            chosen = self.queue.jobs[at]
            if self.queue.mine(chosen) and self._job is not None:
                self._job.cancel()
            elif chosen.state == "running":
                self.said.emit("Another window renders it: stop it there")
            else:
                self._keeping(lambda: self.queue.drop(lambda job: job.id == chosen.id))
                self.refresh()

    def refresh(self) -> None:
        self.queue.look()
        if self.queue.words:
            self.said.emit(self.queue.words)
            self.queue.words = ""
        lines = [self._queue_line(job) for job in self.queue.jobs]
        if lines != [self.list.item(n).text() for n in range(self.list.count())]:
            at = self.list.currentRow()
            self.list.clear()
            self.list.addItems(lines)
            self.list.setCurrentRow(min(at, len(lines) - 1))
        self._words.setText("Queue" if lines else "Queue: nothing waits")
        self.drop.setEnabled(bool(lines))
        self.clear.setEnabled(any(job.state in ("done", "failed") for job in self.queue.jobs))

    def _queue_line(self, job: QueueJob) -> str:
        """A film's state, name and words; of another day its name too."""
        share = f" {self._job.share:.0%}" if self.queue.mine(job) and self._job is not None else ""
        state = "running in another window" if job.state == "running" and not self.queue.mine(job) else job.state
        other = Path(job.project_file) != self.document.file.resolve()
        day = f" of the day {Path(job.project_file).stem}" if other else ""
        return f"{state}{share} · {Path(job.target).name}{day}" + (f" · {job.words}" if job.words else "")


def _render_film(
    file: Path, project: Project, batch: Sequence[QueueJob], report: Report, stop: Event
) -> dict[str, RenderResult]:
    """A film that joins cuts, in all forms that wait for it."""
    film_id = batch[0].film_id
    film = next((f for f in project.films if f.id == film_id), None)
    if film is None:
        raise GlintorError(f"The film {film_id} is no longer in {file.name}.", advice="Take it out of the queue.")
    forms = [Form(format_by_name(job.format), Path(job.target), job.encoding) for job in batch]
    return {film_id: render_joined(file, project, film, forms, report=report, stop=stop)}

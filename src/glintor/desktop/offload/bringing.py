"""A card being brought over: what comes becomes part of the day, copies are made and proven, and how far it is."""

import time
from collections.abc import Sequence
from functools import partial
from pathlib import Path
from threading import Event

from PyQt6.QtCore import QObject, pyqtSignal

from glintor.desktop.document import Document
from glintor.desktop.jobs import Job, Jobs
from glintor.errors import GlintorError
from glintor.offload.card import Unit
from glintor.offload.contents import Contents, Entry, admitted
from glintor.offload.drives import size_words
from glintor.offload.naming import PATTERN, facts_of_unit, filled
from glintor.offload.run import Offloaded, offload
from glintor.offload.verify import Verified, prove_again
from glintor.project.recordings import with_sounds
from glintor.project.store import need_folder
from glintor.types import Report


class Bringing(QObject):
    """`proven` comes as units are safe, `progressed` while it goes on, `ended` when it does; `said` is a word for the person."""

    proven = pyqtSignal()
    progressed = pyqtSignal()
    ended = pyqtSignal()
    said = pyqtSignal(str)

    def __init__(self, document: Document, jobs: Jobs) -> None:
        super().__init__()
        self._document, self._jobs = document, jobs
        self._job: Job | None = None
        self._bytes = 0

    @property
    def goes_on(self) -> bool:
        return self._job is not None

    @property
    def pace_words(self) -> str:
        """How fast it goes, and how long it will take."""
        job = self._job
        if job is None:
            return ""
        passed = max(time.monotonic() - job.began, 0.1)
        left = job.seconds_left
        pace = f"{size_words(self._bytes * job.share / passed)}/s" if job.share > 0.02 else "beginning"
        return pace + (f" · {_left_words(left)} left" if left is not None else "")

    def start(self, card: Path, contents: Contents, found: Sequence[Entry], places: Sequence[Path]) -> bool:
        """Begins, where it can; whether it did."""
        if self._job is not None:
            self.said.emit("The card is being brought over already")
            return False
        document = self._document
        try:
            need_folder(document.file)
            if not card.is_dir():
                raise GlintorError(f"There is no card at {card}.", unharmed="Nothing was copied.", advice="Put it in.")
        except GlintorError as error:
            self._jobs.trouble.emit(error)
            return False
        fresh = [entry.take for entry in found if entry.take is not None and not entry.in_day]
        if fresh:
            document.edit("Bring recordings in", admitted(document.project, contents, fresh)[0])
        else:
            document.edit("Bring sound in", with_sounds(document.project, contents.taken.sounds))
        project = document.project
        pattern = project.copying.pattern or PATTERN

        def inside(unit: Unit) -> str:
            return filled(pattern, facts_of_unit(unit, card, project))

        def work(report: Report, stop: Event) -> Offloaded:
            return offload(
                card,
                places,
                together=contents.together,
                inside=inside,
                proven=lambda *_: self.proven.emit(),
                report=report,
                stop=stop,
            )

        self._bytes = sum(e.size_bytes for e in found if e.unit is not None and not e.unit.safe)
        self._job = self._jobs.start(
            "Bringing the card over", work, self._brought, failed=self._failed, cancelled=self._over
        )
        self._job.progressed.connect(lambda _share: self.progressed.emit())
        return True

    def prove_again(self, folders: Sequence[Path]) -> None:
        """Reads every copy again and compares it with its folder's list of checksums."""
        for folder in folders:
            self._jobs.start(
                f"Proving {folder.name} again", partial(_proven_again, folder), partial(self._proved, folder)
            )

    def _proved(self, folder: Path, found: Verified) -> None:
        self.ended.emit()
        if found.sound:
            self.said.emit(f"{folder}: {found.words}")
            return
        self._jobs.trouble.emit(
            GlintorError(
                f"{folder}: {found.words}",
                unharmed="The card and the other copies were not touched.",
                advice="Bring the card over once more, or copy it from the other place: nothing is written over.",
            )
        )

    def _over(self) -> None:
        self._job = None
        self.ended.emit()

    def _failed(self, error: object) -> None:
        self._over()
        self._jobs.trouble.emit(error)

    def _brought(self, done: Offloaded) -> None:
        brought = done.brought
        self._over()
        if brought.missed:
            name, why = brought.missed[0]
            count = len(brought.missed)
            self._jobs.trouble.emit(
                GlintorError(
                    f"{name} could not be brought over."
                    if count == 1
                    else f"{count} recordings and files could not be brought over; the first is {name}.",
                    unharmed=f"{brought.files} files came over and are proven.",
                    advice=done.words or why,
                )
            )
        elif brought.files:
            self.said.emit(f"{brought.files} files brought over and proven. {done.words}".strip())
        else:
            self.said.emit("Everything on the card is safe already")


def _proven_again(folder: Path, report: Report, stop: Event) -> Verified:
    return prove_again(folder, report=report, stop=stop)


def _left_words(seconds: float) -> str:
    return f"{seconds:.0f} s" if seconds < 90 else f"{seconds / 60:.0f} min"

"""Rehearse: a simulated camera films the shot as it is planned, with whatever may go wrong."""

import threading
from collections.abc import Sequence
from typing import Protocol

import msgspec
from PyQt6.QtWidgets import QDialog, QGridLayout, QVBoxLayout, QWidget

from glintor.desktop.controls import button, choice, label, row, titled
from glintor.desktop.document import Document
from glintor.desktop.jobs import Job, Jobs
from glintor.errors import GlintorError
from glintor.exposure.modes import MODES
from glintor.exposure.program import PROGRAMS
from glintor.exposure.values import nd_text, shutter_text
from glintor.files import write_error
from glintor.project.model import fresh_id, with_take
from glintor.project.store import need_folder
from glintor.recording.link import CameraLink, CardFile, NotPossible, options_for
from glintor.recording.session import Rolled, roll


class Source(Protocol):
    """What gives the rehearsal its camera: a link for the shot at hand, and controls of its own.

    film_s  how long a take is expected to be
    """

    words: str

    @property
    def film_s(self) -> float: ...

    @property
    def of_the_take(self) -> Sequence[QWidget]: ...

    @property
    def of_the_camera(self) -> Sequence[QWidget]: ...

    def link(self) -> CameraLink: ...

    def keep(self) -> None:
        """Keeps what it must not forget when the window closes."""


class Rehearsal(QDialog):
    """Records a take, or photos, onto the card in the day's folder."""

    def __init__(self, document: Document, jobs: Jobs, source: Source, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Rehearse with a simulated camera")
        self.setModal(False)
        self._document, self._jobs, self.source = document, jobs, source
        self.roll = button(
            "Record a take",
            self.start,
            main=True,
            tip=f"The {source.words.lower()} records this shot onto its card (Ctrl+R)",
        )
        self.mode = choice("Mode", [(mode.id, mode.words) for mode in MODES.values()])
        self.program = choice("Exposure", list(PROGRAMS.items()))
        self.mode.currentIndexChanged.connect(lambda _at: self.refresh())
        self.state, self.power, self.said = label(""), label("", "soft"), label("")
        self.said.setWordWrap(True)
        self._end = threading.Event()
        self._job: Job | None = None
        self._shown_for: object = None
        self._lay()

    def _lay(self) -> None:
        sheet = QVBoxLayout(self)
        sheet.setSpacing(8)
        words = label(
            "Nothing real is recorded: a simulated camera films the place as it is drawn, so that the whole way from a "
            "take to a film can be tried, with whatever may go wrong.",
            "soft",
        )
        words.setWordWrap(True)
        sheet.addWidget(words)
        sheet.addLayout(row(self.roll, *self.source.of_the_take, None))
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(6)
        for column, thing in enumerate((*titled("Mode", self.mode), *titled("Exposure", self.program))):
            grid.addWidget(thing, 0, column)
        for column, thing in enumerate((*self.source.of_the_camera, self.power)):
            grid.addWidget(thing, 1, column, 1, 2 if thing is self.power else 1)
        grid.setColumnStretch(4, 1)
        sheet.addLayout(grid)
        sheet.addWidget(self.state)
        sheet.addWidget(self.said)

    @property
    def idle(self) -> bool:
        return self._job is None

    def start(self) -> None:
        """Rolls, or ends the take that is rolling and keeps it; in a photo mode it takes the pictures."""
        if self._job is not None:
            self._end.set()
            return
        shot = self._document.shot
        card = self._document.card
        try:
            need_folder(self._document.file)
            card.mkdir(exist_ok=True)
        except OSError as error:
            self._jobs.trouble.emit(write_error(card, error))
            return
        except GlintorError as error:
            self._jobs.trouble.emit(error)
            return
        link, camera, film_s = self._set_link(), self._document.camera, self.source.film_s
        self._end = end = threading.Event()
        if link.options().mode.is_photo:
            self._job = self._jobs.start(
                f"Photographing {shot.name}",
                lambda _report, _stop: link.take_picture(),
                self._pictured,
                cancelled=self._ready,
                failed=self._failed,
            )
        else:
            self._job = self._jobs.start(
                f"Recording {shot.name}",
                lambda report, stop: roll(link, shot, camera, film_s=film_s, report=report, end=end, stop=stop),
                lambda rolled: self._logged(shot.id, rolled),
                cancelled=self._ready,
                failed=self._failed,
            )
        self.refresh()

    def _set_link(self) -> CameraLink:
        """The link, with the camera set to the shot's exposure in the mode that is chosen here; where that mode cannot do
        it this is said, and the camera set to one that can."""
        exposure = self._document.shot.exposure
        link = self.source.link()
        try:
            link.set_options(options_for(exposure, MODES[self.mode.currentData()], program=self.program.currentData()))
        except NotPossible as error:
            self._jobs.trouble.emit(error)
            link.set_options(options_for(exposure, program=self.program.currentData()))
        return link

    def _pictured(self, files: tuple[CardFile, ...]) -> None:
        self._ready()
        self.said.setText(f"On the card: {', '.join(file.name for file in files)}")

    def _logged(self, shot_id: str, rolled: Rolled) -> None:
        self._ready()
        if rolled.ended:
            self.said.setText(f"The take ended early because {rolled.ended}; it is kept")
        here = self._document.project.shot(shot_id)  # as it is now: other takes may have come meanwhile
        take = msgspec.structs.replace(rolled.take, id=fresh_id(rolled.take.id, {t.id for t in here.takes}))
        self._document.edit("Record a take", self._document.project.with_shot(shot_id, lambda s: with_take(s, take)))
        self._document.look_at_take(shot_id, take.id)
        self.said.setText(f"{take.name} is on the card, {take.duration_s:.3g} s: desk 4 brings it over")

    def _failed(self, error: object) -> None:
        self._ready()
        self._jobs.trouble.emit(error)

    def _ready(self) -> None:
        self._job = None
        self.refresh()

    def refresh(self) -> None:
        """What the camera tells about itself and is set to, and what the button does next."""
        shot = self._document.shot
        if shot.id != self._shown_for:
            self._shown_for = shot.id
            wanted = self._document.project.camera_of(shot).mode_of(shot.exposure)
            self.mode.setCurrentIndex(self.mode.findData(wanted.id))
            self.program.setCurrentIndex(self.program.findData(shot.exposure.program))
        e, rolling = shot.exposure, self._job is not None
        mode = MODES[self.mode.currentData()]
        pace = f"every {e.interval_s:g} s" if e.interval_s else f"{e.rate_fps:g} fps"
        self.state.setText(
            f"{self.source.words} {'rolling' if rolling else 'ready'} · {pace} · {shutter_text(e.shutter_s)} · ISO {e.iso:.0f} · "
            f"filter {nd_text(e.nd_stops)} · {e.curve}"
        )
        if not rolling:
            self.power.setText(self.source.link().state().words)
        self.roll.setText("Stop, keep it" if rolling else "Take pictures" if mode.is_photo else "Record a take")
        for control in self.source.of_the_take:
            control.setEnabled(not mode.is_photo)

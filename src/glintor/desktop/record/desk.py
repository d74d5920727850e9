"""Record: am I set, and what did I just shoot?"""

import threading
from collections.abc import Sequence
from functools import partial
from typing import Protocol

import msgspec
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from glintor.desktop.charts import marks
from glintor.desktop.controls import button, choice, fill, label, row, table, titled
from glintor.desktop.desk import Desk
from glintor.desktop.document import Document
from glintor.desktop.jobs import Job, Jobs, Newest
from glintor.desktop.sphere_view import SphereMarks, SphereView
from glintor.errors import GlintorError
from glintor.exposure.modes import MODES
from glintor.exposure.program import PROGRAMS
from glintor.exposure.values import nd_text, shutter_text
from glintor.files import write_error
from glintor.finding import Finding, Level
from glintor.project.facts import exposed_words, when_of
from glintor.project.model import fresh_id, with_take
from glintor.project.placed import placing
from glintor.project.store import need_folder
from glintor.project.take import Take
from glintor.recording.checks import Check, pre_roll
from glintor.recording.link import CameraLink, CardFile, NotPossible, options_for
from glintor.recording.session import Rolled, roll
from glintor.review import course_of_shot, exposing, light_of_shot

_COLUMNS = ("Take", "Film", "Size", "Setting", "Rating", "Safe")
_WORD = {Level.STOP: " (stop)", Level.CAUTION: " (look)", Level.NOTE: ""}


class Source(Protocol):
    """What gives the desk its camera: a link for the shot at hand, and controls of its own.

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


class RecordDesk(Desk):
    """Pre-roll list, the camera's eye, and the take log."""

    name = "Record"
    plans = True

    def __init__(self, document: Document, jobs: Jobs, parent: QWidget, source: Source) -> None:
        super().__init__(document, jobs, parent)
        self.source = source
        self.eye = SphereView("What the camera sees", (320, 160))
        self.checks = QListWidget()
        self.checks.setAccessibleName("Before you roll")
        self.checks.setWordWrap(True)
        self.checks.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.roll = button(
            "Record a take",
            self.start,
            main=True,
            tip=f"The {source.words.lower()} records this shot onto its card (Ctrl+R)",
        )
        self.mode = choice("Mode", [(mode.id, mode.words) for mode in MODES.values()])
        self.program = choice("Exposure", list(PROGRAMS.items()))
        self.mode.currentIndexChanged.connect(lambda _at: self._show_state())
        self.state, self.power = label(""), label("", "soft")
        self._end = threading.Event()
        self._shown_for: object = None
        self.log = table("Take log", _COLUMNS)
        self.stars = [button(f"{n} star{'s' if n > 1 else ''}", partial(self._rate, n)) for n in range(1, 6)]
        self._worker = Newest("camera's eye", jobs.trouble.emit)
        self._worker.finished.connect(self._seen)
        self._job: Job | None = None
        self._asked: object = None
        self._findings: list[Finding] = []
        self._lay()

    def _lay(self) -> None:
        page = QHBoxLayout(self)
        page.setContentsMargins(14, 8, 14, 8)
        page.setSpacing(12)
        left = QVBoxLayout()
        left.setSpacing(6)
        left.addWidget(label("Before you roll", "head"))
        left.addWidget(self.checks, 1)
        page.addLayout(left, 4)
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addWidget(self.eye, 4)
        sheet = QVBoxLayout()
        sheet.setSpacing(6)
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
        right.addLayout(sheet)
        right.addWidget(self.state)
        right.addWidget(label("Take log", "head"))
        right.addWidget(self.log, 3)
        right.addLayout(row(label("Rate the chosen take", "soft"), *self.stars, spacing=6))
        page.addLayout(right, 6)

    def start(self) -> None:
        """Rolls, or ends the take that is rolling and keeps it; in a photo mode it takes the pictures."""
        if self._job is not None:
            self._end.set()
            return
        shot = self.document.shot
        card = self.document.card
        try:
            need_folder(self.document.file)
            card.mkdir(exist_ok=True)
        except OSError as error:
            self.jobs.trouble.emit(write_error(card, error))
            return
        except GlintorError as error:
            self.jobs.trouble.emit(error)
            return
        link, camera, film_s = self._set_link(), self.document.camera, self.source.film_s
        self._end = end = threading.Event()
        if link.options().mode.is_photo:
            self._job = self.jobs.start(
                f"Photographing {shot.name}",
                lambda _report, _stop: link.take_picture(),
                self._pictured,
                cancelled=self._ready,
                failed=self._failed,
            )
        else:
            self._job = self.jobs.start(
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
        exposure = self.document.shot.exposure
        link = self.source.link()
        try:
            link.set_options(options_for(exposure, MODES[self.mode.currentData()], program=self.program.currentData()))
        except NotPossible as error:
            self.jobs.trouble.emit(error)
            link.set_options(options_for(exposure, program=self.program.currentData()))
        return link

    def _pictured(self, files: tuple[CardFile, ...]) -> None:
        self._ready()
        self.said.emit(f"On the card: {', '.join(file.name for file in files)}")

    def _logged(self, shot_id: str, rolled: Rolled) -> None:
        self._ready()
        if rolled.ended:
            self.said.emit(f"The take ended early because {rolled.ended}; it is kept")
        here = self.document.project.shot(shot_id)  # as it is now: other takes may have come meanwhile
        take = msgspec.structs.replace(rolled.take, id=fresh_id(rolled.take.id, {t.id for t in here.takes}))
        self.document.edit("Record a take", self.document.project.with_shot(shot_id, lambda s: with_take(s, take)))
        self.document.look_at_take(shot_id, take.id)

    def _failed(self, error: object) -> None:
        self._ready()
        self.jobs.trouble.emit(error)

    def _ready(self) -> None:
        self._job = None
        self.refresh()

    def _rate(self, stars: int) -> None:
        at = self.log.currentRow()
        takes = self.document.shot.takes
        if 0 <= at < len(takes):
            rated = msgspec.structs.replace(takes[at], rating=stars)
            self.document.edit_shot("Rate a take", lambda s: with_take(s, rated))

    def refresh(self) -> None:
        project, shot = self.document.project, self.document.shot
        if shot.id != self._shown_for:
            self._shown_for = shot.id
            wanted = project.camera_of(shot).mode_of(shot.exposure)
            self.mode.setCurrentIndex(self.mode.findData(wanted.id))
            self.program.setCurrentIndex(self.program.findData(shot.exposure.program))
        self._show_state()
        self._show_log(shot.takes)
        key = (shot.placement, shot.exposure, shot.start_min, project.site, project.camera_of(shot))
        if key != self._asked:
            self._asked = key
            card, link = self.document.card, self.source.link()

            def look() -> tuple[object, list[Check], list[Finding]]:
                found = placing(project, shot) + exposing(
                    project, shot, light_of_shot(project, shot), course_of_shot(project, shot)
                )
                checks = pre_roll(found, card, project.camera_of(shot), shot.length_min)
                return link.preview(960), checks, found

            self._worker.ask(key, look)

    def _show_state(self) -> None:
        """What the camera tells about itself and is set to, and what the button does next."""
        e, rolling = self.document.shot.exposure, self._job is not None
        mode = MODES[self.mode.currentData()]
        pace = f"every {e.interval_s:g} s" if e.interval_s else f"{e.rate_fps:g} fps"
        self.state.setText(
            f"{self.source.words} {'rolling' if rolling else 'ready'} · {pace} · {shutter_text(e.shutter_s)} · ISO {e.iso:.0f} · "
            f"filter {nd_text(e.nd_stops)} · {e.curve}"
        )
        if not rolling:
            told = self.source.link().state()
            self.power.setText(
                f"battery {told.battery_share:.0%}, {told.battery_left_min:.0f} min · {told.temperature_c:.0f} °C inside"
            )
        self.roll.setText("Stop, keep it" if rolling else "Take pictures" if mode.is_photo else "Record a take")
        for control in self.source.of_the_take:
            control.setEnabled(not mode.is_photo)

    def _seen(self, _key: object, value: object) -> None:
        pixels, checks, found = value  # type: ignore[misc]
        self._findings = [f for f in found if f.level > Level.NOTE]
        self.findings_changed.emit()
        self.eye.show_sphere(marks.image(pixels), SphereMarks())
        self.checks.clear()
        for check in checks:
            item = QListWidgetItem(_sign_icon(check.level), f"{check.what}{_WORD[check.level]}\n{check.words}")
            self.checks.addItem(item)

    def _show_log(self, takes: tuple[Take, ...]) -> None:
        rows = []
        for take in takes:
            rows.append(
                (
                    f"{take.name.rsplit(' ', 1)[-1]} · {when_of(take)}",
                    f"{take.duration_s:.3g} s, {take.rate_fps:g} fps",
                    f"{take.width_px} px",
                    exposed_words(take.exposure),
                    "★" * take.rating or "-",
                    "card only" if take.only_on_card else "yes",
                )
            )
        fill(self.log, rows)

    def findings(self) -> Sequence[Finding]:
        return self._findings

    @property
    def settled(self) -> bool:
        return self._worker.idle

    def close_down(self) -> None:
        self._worker.close()
        self.source.keep()


def _sign_icon(level: Level):  # type: ignore[no-untyped-def]
    from PyQt6.QtGui import QIcon, QPainter, QPixmap

    pixmap = QPixmap(18, 18)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    marks.level_sign(painter, 9, 9, level, 13)
    painter.end()
    return QIcon(pixmap)

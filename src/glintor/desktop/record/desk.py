"""Record: am I set, and what did I just shoot?"""

from collections.abc import Sequence
from functools import partial

import msgspec
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox, QFrame, QHBoxLayout, QListWidget, QListWidgetItem, QVBoxLayout

from glintor.desktop.charts import marks
from glintor.desktop.controls import Number, button, fill, label, row, table
from glintor.desktop.desk import Desk
from glintor.desktop.document import Document
from glintor.desktop.jobs import Job, Jobs, Newest
from glintor.desktop.pictures import SphereMarks, SphereView
from glintor.exposure.values import nd_text, shutter_text
from glintor.finding import Finding, Level
from glintor.placement.review import clock
from glintor.project.model import Take, with_take
from glintor.recording.checks import Check, pre_roll
from glintor.review import exposing, light_of_shot, placing
from glintor.simulation.camera import CLIP_WIDTHS_PX, Recording, record
from glintor.simulation.foresight import foresight

_COLUMNS = ("Take", "Film", "Size", "Setting", "Rating", "Safe")
_WORD = {Level.STOP: " (stop)", Level.CAUTION: " (look)", Level.NOTE: ""}


class RecordDesk(Desk):
    """Pre-roll list, the camera's eye, and the take log."""

    name = "Record"

    def __init__(self, document: Document, jobs: Jobs) -> None:
        super().__init__(document, jobs)
        self.eye = SphereView("What the camera sees", (320, 160))
        self.checks = QListWidget()
        self.checks.setAccessibleName("Before you roll")
        self.checks.setWordWrap(True)
        self.checks.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.film = Number("Film", " s", 1, 60, 1, 0)
        self.film.show_value(3)
        self.width_choice = QComboBox()
        self.width_choice.setAccessibleName("Size of the recording")
        for pixels in CLIP_WIDTHS_PX:
            self.width_choice.addItem(f"{pixels} x {pixels // 2}", pixels)
        self.width_choice.setCurrentIndex(1)
        self.roll = button(
            "Record a take", self.start, main=True, tip="The simulated camera records this shot onto its card (Ctrl+R)"
        )
        self.state = label("")
        self.log = table("Take log", _COLUMNS)
        self.stars = [button(f"{n} star{'s' if n > 1 else ''}", partial(self._rate, n)) for n in range(1, 6)]
        self._worker = Newest("camera's eye")
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
        box = QFrame()
        box.setObjectName("sheet")
        line = QHBoxLayout(box)
        line.setContentsMargins(10, 7, 10, 7)
        size = label("Size", "soft")
        size.setBuddy(self.width_choice)
        for thing in (self.roll, self.film, size, self.width_choice):
            line.addWidget(thing)
        line.addStretch(1)
        right.addWidget(box)
        right.addWidget(self.state)
        right.addWidget(label("Take log", "head"))
        right.addWidget(self.log, 3)
        right.addLayout(row(label("Rate the chosen take", "soft"), *self.stars, spacing=6))
        page.addLayout(right, 6)

    def start(self) -> None:
        """Rolls: the simulated camera renders the take with this placement and setting."""
        if self._job is not None:
            return
        shot, project = self.document.shot, self.document.project
        recording = Recording(
            shot,
            project.site,
            project.camera,
            self.film.box.value(),
            self.width_choice.currentData(),
            seed=len(shot.takes) + 7,
        )
        card = self.document.card
        card.mkdir(parents=True, exist_ok=True)
        self.roll.setEnabled(False)
        self._job = self.jobs.start(
            f"Recording {shot.name}",
            lambda report, stop: record(recording, card, report=report, stop=stop),
            lambda take: self._logged(shot.id, take),
            cancelled=self._ready,
            failed=self._failed,
        )
        self.refresh()

    def _logged(self, shot_id: str, take: Take) -> None:
        self._ready()
        self.document.edit("Record a take", self.document.project.with_shot(shot_id, lambda s: with_take(s, take)))

    def _failed(self, error: object) -> None:
        self._ready()
        self.jobs.trouble.emit(error)

    def _ready(self) -> None:
        self._job = None
        self.roll.setEnabled(True)
        self.refresh()

    def _rate(self, stars: int) -> None:
        at = self.log.currentRow()
        takes = self.document.shot.takes
        if 0 <= at < len(takes):
            rated = msgspec.structs.replace(takes[at], rating=stars)
            self.document.edit_shot("Rate a take", lambda s: with_take(s, rated))

    def refresh(self) -> None:
        project, shot = self.document.project, self.document.shot
        e = shot.exposure
        mode = f"time-lapse, every {e.interval_s:g} s" if e.interval_s else f"{e.rate_fps:g} fps"
        rolling = "rolling" if self._job is not None else "ready"
        self.state.setText(
            f"Simulated camera {rolling} · {mode} · {shutter_text(e.shutter_s)} · ISO {e.iso:.0f} · filter {nd_text(e.nd_stops)} · {e.curve} · locked"
        )
        self._show_log(shot.takes)
        key = (shot.placement, shot.exposure, shot.start_min, project.site, project.camera)
        if key != self._asked:
            self._asked = key
            card = self.document.card

            def look() -> tuple[object, list[Check], list[Finding]]:
                found = placing(project, shot) + exposing(project, shot, light_of_shot(project, shot))
                checks = pre_roll(found, card, project.camera, shot.length_min)
                return foresight(shot, project.site, project.camera, 960)[0], checks, found

            self._worker.ask(key, look)

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
            e = take.exposure
            rows.append(
                (
                    f"{take.name.rsplit(', ', 1)[-1]} · {clock(take.start_min)}",
                    f"{take.duration_s:.1f} s, {take.rate_fps:g} fps",
                    f"{take.width_px} px, {take.size_bytes / 1e6:.1f} MB",
                    f"{shutter_text(e.shutter_s)}, ISO {e.iso:.0f}, {nd_text(e.nd_stops)}",
                    "★" * take.rating or "-",
                    "yes" if take.safe_file else "only on the card",
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


def _sign_icon(level: Level):  # type: ignore[no-untyped-def]
    from PyQt6.QtGui import QIcon, QPainter, QPixmap

    pixmap = QPixmap(18, 18)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    marks.level_sign(painter, 9, 9, level, 13)
    painter.end()
    return QIcon(pixmap)

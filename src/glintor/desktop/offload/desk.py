"""Offload: is it all safely off the card, and which bits are worth it?"""

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from threading import Event

import msgspec
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QSlider, QVBoxLayout, QWidget

from glintor.desktop.charts import marks
from glintor.desktop.controls import Elided, button, fill, label, row, table
from glintor.desktop.desk import Desk
from glintor.desktop.document import Document
from glintor.desktop.jobs import Jobs
from glintor.desktop.pictures import FrameView
from glintor.desktop.reframe.screen import Request, Screen
from glintor.errors import GlintorError
from glintor.exposure.values import nd_text, shutter_text
from glintor.finding import Finding
from glintor.offload.copy import Copied, bring_over
from glintor.offload.manifest import write_manifest
from glintor.placement.clock import clock
from glintor.project.model import Project, Take, with_take
from glintor.project.store import clip_file
from glintor.review import offloading
from glintor.sphere.view import View

_COLUMNS = ("Take", "On the card", "Size", "Safe copy", "Checksum xxh64")


class OffloadDesk(Desk):
    """Every take of the day with where it is; look around any of them at once."""

    name = "Offload"

    def __init__(self, document: Document, jobs: Jobs, parent: QWidget) -> None:
        super().__init__(document, jobs, parent)
        self.table = table("Takes of the day", _COLUMNS)
        self.bring = button(
            "Bring everything over",
            self.start,
            main=True,
            tip="Copies what is only on the card, checks every copy (Ctrl+B)",
        )
        self.words, self.where, self.facts = label("", "head"), Elided("", "soft"), label("")
        self.frame = FrameView("Look around", (1280, 720), (360, 210))
        self.time = QSlider(Qt.Orientation.Horizontal)
        self.time.setAccessibleName("Moment of the clip")
        self.time.setRange(0, 1000)
        self.projector = Screen()
        self.projector.drawn.connect(
            lambda drawn: self.frame.show_frame(marks.image(drawn.frame), self._caption(drawn.time_s))
        )
        self._view = View()
        self._takes: list[tuple[str, Take]] = []
        self._looking: Take | None = None
        self._lay()
        self.table.itemSelectionChanged.connect(self._choose)
        self.frame.view_turned.connect(self._turn)
        self.time.valueChanged.connect(lambda _v: self._look())

    def _lay(self) -> None:
        page = QVBoxLayout(self)
        page.setContentsMargins(14, 8, 14, 8)
        page.setSpacing(8)
        page.addLayout(row(self.words, None, self.bring, stretch=False))
        page.addWidget(self.table, 4)
        page.addWidget(self.where)
        look = QHBoxLayout()
        look.setSpacing(12)
        left = QVBoxLayout()
        left.addWidget(self.frame, 1)
        left.addWidget(self.time)
        look.addLayout(left, 1)
        facts = QFrame()
        facts.setObjectName("sheet")
        facts.setFixedWidth(290)
        column = QVBoxLayout(facts)
        column.addWidget(label("Look around the chosen clip", "head"))
        self.facts.setWordWrap(True)
        column.addWidget(self.facts)
        column.addStretch(1)
        look.addWidget(facts)
        page.addLayout(look, 7)

    def start(self) -> None:
        """Copies every take that is only on the card, one after the other, then adds to the manifest."""
        wanted = [(shot_id, take) for shot_id, take in self._takes if not take.safe_file and take.card_file]
        if not wanted:
            self.said.emit("Everything on the card is safe already")
            return
        card, footage = self.document.card, self.document.footage

        def work(report: Callable[[float], None], stop: Event) -> list[tuple[str, Take, Copied]]:
            def share(number: int, part: float) -> None:
                report((number + part) / len(wanted))

            out = []
            for number, (shot_id, take) in enumerate(wanted):
                copy = bring_over(card / take.card_file, footage, report=partial(share, number), stop=stop)
                out.append((shot_id, take, copy))
            write_manifest(footage)
            return out

        self.jobs.start("Bringing takes over", work, self._safe)

    def _safe(self, copied: list[tuple[str, Take, Copied]]) -> None:
        project: Project = self.document.project
        for shot_id, take, copy in copied:
            file = str(copy.target.relative_to(self.document.file.parent))
            safe = msgspec.structs.replace(take, safe_file=file, xxh64=copy.xxh64)
            project = project.with_shot(shot_id, partial(with_take, take=safe))
        self.document.edit("Bring takes over", project)

    def refresh(self) -> None:
        project = self.document.project
        self._takes = [(shot.id, take) for shot in project.shots for take in shot.takes]
        self.table.blockSignals(True)
        rows = []
        for _, take in self._takes:
            there = (self.document.card / take.card_file).exists() if take.card_file else False
            rows.append(
                (
                    take.name,
                    Path(take.card_file).name if there else "not there" if take.card_file else "another card",
                    f"{take.size_bytes / 1e6:.1f} MB",
                    Path(take.safe_file).name if take.safe_file else "not yet",
                    take.xxh64 or "-",
                )
            )
        fill(self.table, rows)
        chosen = self.document.take
        at = next((n for n, (_, take) in enumerate(self._takes) if chosen is not None and take.id == chosen.id), -1)
        self.table.setCurrentCell(at, 0)
        self.table.blockSignals(False)
        waiting = sum(not take.safe_file for _, take in self._takes)
        self.words.setText(
            "All takes are safe" if not waiting else f"{waiting} of {len(self._takes)} takes only on the card"
        )
        self.bring.setEnabled(bool(waiting))
        manifests = sorted((self.document.footage / "ascmhl").glob("*.mhl"))
        self.where.show_words(
            f"Copies in {self.document.footage}"
            + (f" · manifest {manifests[-1].name}" if manifests else " · no manifest yet")
        )
        self.findings_changed.emit()
        self._choose()

    def _choose(self) -> None:
        at = self.table.currentRow()
        take = self._takes[at][1] if 0 <= at < len(self._takes) else None
        self.facts.setText(_facts(take) if take is not None else "")
        if take is None:
            self._looking = None
            self.projector.close_clip()
            self.frame.show_empty(
                "Nothing recorded in this shot yet.\nRecord a take on the desk before, or choose one in the list."
            )
            return
        if take != self._looking:
            self._looking = take
            try:
                self.projector.open_clip(clip_file(self.document.file, take), take.coverage)
            except GlintorError as error:
                self.projector.close_clip()
                self.frame.show_empty(str(error))
                return
        self._look()

    def _turn(self, view: View, _only_look: bool) -> None:
        self._view = view
        self._look()

    def _look(self) -> None:
        if self._looking is not None:
            time_s = self.time.value() / 1000 * max(self._looking.duration_s - 1 / self._looking.rate_fps, 0)
            self.projector.ask(Request(time_s, self._view, (800, 450)))

    def _caption(self, time_s: float) -> str:
        take = self._looking
        return f"{take.name} · {time_s:.1f} of {take.duration_s:.1f} s" if take is not None else ""

    def findings(self) -> Sequence[Finding]:
        return offloading(*self.document.project.shots)

    @property
    def settled(self) -> bool:
        return self.projector.idle

    def close_down(self) -> None:
        self.projector.close()


def _facts(take: Take) -> str:
    """What the log knows of a take, in words."""
    e = take.exposure
    lines = [
        take.name,
        f"Filmed at {clock(take.start_min)}, {take.duration_s:.1f} s at {take.rate_fps:g} frames a second",
        f"Time-lapse, one frame every {e.interval_s:g} s" if e.interval_s else "",
        f"{take.width_px} x {take.width_px // 2} px, {shutter_text(e.shutter_s)}, ISO {e.iso:.0f}, filter {nd_text(e.nd_stops)}",
        "Marks at " + ", ".join(f"{t:.1f} s" for t in take.marks_s) if take.marks_s else "",
        "Drag the picture to look around; the line below it is time.",
    ]
    return "\n\n".join(line for line in lines if line)

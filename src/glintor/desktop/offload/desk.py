"""Offload: is it all safely off the card, and which bits are worth it?"""

from collections.abc import Callable, Sequence
from pathlib import Path
from threading import Event

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QSlider, QVBoxLayout, QWidget

from glintor.desktop.charts import marks
from glintor.desktop.controls import Elided, button, fill, label, row, table
from glintor.desktop.desk import Desk
from glintor.desktop.document import Document
from glintor.desktop.frame_view import FrameView
from glintor.desktop.jobs import Job, Jobs, Newest
from glintor.desktop.reframe.screen import Request, Screen
from glintor.errors import GlintorError
from glintor.finding import Finding
from glintor.offload.card import OnCard, is_film, is_picture, survey
from glintor.offload.copy import Brought, bring_card
from glintor.offload.manifest import write_manifest
from glintor.project.facts import facts_of
from glintor.project.model import Project, with_copies
from glintor.project.store import clip_files, need_folder
from glintor.project.take import Take
from glintor.review import offloading
from glintor.sphere.view import View

_COLUMNS = ("Take or file", "On the card", "Size", "Safe copy", "Checksum xxh64")


class OffloadDesk(Desk):
    """Every take of the day with where it is; look around any of them at once."""

    name = "Offload"
    _proven = pyqtSignal()  # from the copying thread: one more unit is safe

    def __init__(self, document: Document, jobs: Jobs, parent: QWidget) -> None:
        super().__init__(document, jobs, parent)
        self.table = table("Takes of the day and files of the card", _COLUMNS)
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
        self._job: Job | None = None
        self._card: list[OnCard] | None = None
        self._looker = Newest("card", jobs.trouble.emit)
        self._looker.finished.connect(self._seen)
        self._proven.connect(self.look_again)
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
        facts = QWidget()
        facts.setFixedWidth(290)
        column = QVBoxLayout(facts)
        column.addWidget(label("Look around the chosen clip", "head"))
        self.facts.setWordWrap(True)
        column.addWidget(self.facts)
        column.addStretch(1)
        look.addWidget(facts)
        page.addLayout(look, 7)

    def start(self) -> None:
        """Copies every file of the card that is not proven to be safe, then adds to the manifest."""
        if self._job is not None:
            self.said.emit("The card is being brought over already")
            return
        card, footage = self.document.card, self.document.footage
        try:
            need_folder(self.document.file)
            if not card.is_dir():
                raise GlintorError(f"There is no card at {card}.", unharmed="Nothing was copied.", advice="Put it in.")
        except GlintorError as error:
            self.jobs.trouble.emit(error)
            return

        def work(report: Callable[[float], None], stop: Event) -> tuple[Brought, str]:
            waiting = [unit for unit in survey(card, footage) if not unit.safe]
            brought = bring_card(card, waiting, footage, lambda *_: self._proven.emit(), report=report, stop=stop)
            return brought, write_manifest(footage).words if waiting else ""

        self._job = self.jobs.start(
            "Bringing the card over", work, self._brought, failed=self._failed, cancelled=self._ready
        )
        self.refresh()

    def _ready(self) -> None:
        self._job = None
        self.look_again()

    def _failed(self, error: object) -> None:
        self._ready()
        self.jobs.trouble.emit(error)

    def _brought(self, result: tuple[Brought, str]) -> None:
        brought, words = result
        self._ready()
        if brought.missed:
            name, why = brought.missed[0]
            count = len(brought.missed)
            self.jobs.trouble.emit(
                GlintorError(
                    f"{name} could not be brought over."
                    if count == 1
                    else f"{count} files could not be brought over; the first is {name}.",
                    unharmed=f"{brought.files} others are safe.",
                    advice=why,
                )
            )
        elif brought.files:
            self.said.emit(f"{brought.files} files brought over and proven. {words}".strip())
        else:
            self.said.emit("Everything on the card is safe already")

    def look_again(self) -> None:
        """Looks at the card: what is on it, and what of it is proven to be safe."""
        card, footage = self.document.card, self.document.footage
        self._looker.ask("card", lambda: _on_card(card, footage))

    def finish(self) -> None:
        """Logs what was proven last: the card is being looked at, and nobody waits for that any more."""
        if not self._looker.idle:
            self._seen("card", _on_card(self.document.card, self.document.footage))

    def _seen(self, _key: object, found: object) -> None:
        """Shows the card, and logs every take whose copy is proven."""
        self._card = found  # type: ignore[assignment]
        proofs = {
            unit.name: unit.proofs[0][0] for unit in self._card or [] if unit.safe and unit.proofs[0][0] is not None
        }
        folder = self.document.footage.relative_to(self.document.file.parent)
        project = with_copies(
            self.document.project, {name: (str(folder / p.copy), p.xxh64) for name, p in proofs.items()}
        )
        if project != self.document.project:
            self.document.edit("Bring takes over", project)
        self._show()

    def refresh(self) -> None:
        self._show()
        self.look_again()

    def _show(self) -> None:
        project = self.document.project
        self._takes = [(shot.id, take) for shot in project.shots for take in shot.takes]
        lines = [_line(take, self._card, self.document.card) for _, take in self._takes]
        of_takes = {file.card for _, take in self._takes for file in take.files}
        lines += [_line_of(unit) for unit in self._card or [] if unit.name not in of_takes]
        self.table.blockSignals(True)
        fill(self.table, lines)
        chosen = self.document.take
        at = next((n for n, (_, take) in enumerate(self._takes) if chosen is not None and take.id == chosen.id), -1)
        self.table.setCurrentCell(at, 0)
        self.table.blockSignals(False)
        self.words.setText(_verdict(self._card, [take for _, take in self._takes]))
        self.bring.setEnabled(self._job is None and (self._card is None or any(not unit.safe for unit in self._card)))
        manifests = sorted((self.document.footage / "ascmhl").glob("*.mhl"))
        proofs = [
            proof for unit in self._card or [] for of_folder in unit.proofs for proof in of_folder if proof is not None
        ]
        memory = " · some copies could only be read back from memory" if any(not p.from_disk for p in proofs) else ""
        self.where.show_words(
            f"Copies in {self.document.footage}"
            + (f" · manifest {manifests[-1].name}" if manifests else " · no manifest yet")
            + memory
        )
        self.findings_changed.emit()
        self._choose()

    def _choose(self) -> None:
        at = self.table.currentRow()
        take = self._takes[at][1] if 0 <= at < len(self._takes) else None
        self.facts.setText(_facts(self.document.project, take) if take is not None else "")
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
                self.projector.open_footage(clip_files(self.document.file, take), take.taken_as)
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
        return self.projector.idle and self._looker.idle and self._job is None

    def close_down(self) -> None:
        self._looker.close()
        self.projector.close()


def _on_card(card: Path, footage: Path) -> list[OnCard] | None:
    """What is on the card; None where there is none, or where it was pulled out while it was looked at."""
    try:
        return survey(card, footage) if card.is_dir() else None
    except OSError:
        return None


def _line(take: Take, card: list[OnCard] | None, folder: Path) -> tuple[str, ...]:
    """A take's line: what it is, where it is, how large, and how it was proven."""
    file = take.files[0]
    there = any(unit.name == file.card for unit in card) if card is not None else (folder / file.card).is_file()
    return (
        take.name,
        Path(file.card).name
        if there and file.card
        else "not there"
        if file.card
        else "another card"
        if file.copy
        else "-",
        f"{take.size_bytes / 1e6:.1f} MB",
        Path(file.copy).name if file.copy else "where it lies" if file.lies else "not yet",
        file.xxh64 or "-",
    )


def _line_of(unit: OnCard) -> tuple[str, ...]:
    """The line of something on the card that no take speaks of."""
    proof = unit.proofs[0][0] if unit.safe else None
    more = len(unit.unit.files) - 1
    return (
        ("Clip" if is_film(unit.unit.main) else "Picture" if is_picture(unit.unit.main) else "File")
        + (f" with {more} more" if more else ""),
        unit.unit.main.name,
        f"{unit.size_bytes / 1e6:.1f} MB",
        proof.copy if proof is not None else "not yet",
        proof.xxh64 if proof is not None else "-",
    )


def _verdict(card: list[OnCard] | None, takes: Sequence[Take]) -> str:
    """The one sentence: whether the card may be cleared. It is said of all its files, not of takes alone."""
    if card is None:
        lost = sum(take.only_on_card for take in takes)
        return "No card here" + (f": {lost} of {len(takes)} takes are only on one" if lost else "")
    files = sum(len(unit.unit.files) for unit in card)
    waiting = sum(len(unit.unit.files) for unit in card if not unit.safe)
    if not files:
        return "The card is empty"
    return (
        f"All {files} files of the card are safe" if not waiting else f"{waiting} of {files} files are only on the card"
    )


def _facts(project: Project, take: Take) -> str:
    """What is known of a take, with where from."""
    lines = [take.name]
    lines += [
        f"{f.name}: {f.words}" + ("" if f.origin == "unknown" else f" ({f.origin})") for f in facts_of(project, take)
    ]
    if take.marks_s:
        lines.append("Marks at " + ", ".join(f"{t:.1f} s" for t in take.marks_s))
    return "\n\n".join([*lines, "Drag the picture to look around; the line below it is time."])

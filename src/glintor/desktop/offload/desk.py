"""Offload: is it all safely off the card, and which bits are worth it?"""

from collections.abc import Mapping, Sequence
from pathlib import Path

from msgspec.structs import replace
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QVBoxLayout, QWidget

from glintor.desktop import theme
from glintor.desktop.controls import Elided, button, choice, label, row
from glintor.desktop.desk import Desk
from glintor.desktop.document import Document
from glintor.desktop.jobs import Jobs, Newest
from glintor.desktop.offload.bringing import Bringing
from glintor.desktop.offload.card_choice import CardChoice
from glintor.desktop.offload.grid import Grid, picture_key
from glintor.desktop.offload.judging import Judging
from glintor.desktop.offload.pictures import Pictures, Wanted
from glintor.desktop.offload.through import Through
from glintor.desktop.offload.viewer import Viewer
from glintor.finding import Finding
from glintor.offload.card import survey
from glintor.offload.contents import SHOWN, SORTS, Contents, Entry, Show, Sort, admitted, chosen, known_copies
from glintor.offload.inventory import Inventory, inventory
from glintor.offload.known import entry_facts
from glintor.offload.naming import PATTERN, facts_of_unit
from glintor.project.model import Copying, with_copies
from glintor.project.pictured import guesses
from glintor.review import offloading


class OffloadDesk(Desk):
    """All recordings of a card and of the day as pictures; copies with proof; looking through."""

    name = "Offload"
    opened = pyqtSignal(str, str)  # shot and take to work on
    proxies_wanted = pyqtSignal(object)  # takes with their files, those looked at first
    unsure = pyqtSignal(object)  # readings that a person may say something of

    def __init__(self, document: Document, jobs: Jobs, parent: QWidget) -> None:
        super().__init__(document, jobs, parent)
        self.choice = CardChoice(document, jobs, self)
        self.to = button("", self.ask_places, tip="Where copies go, in which folders, and a second place")
        self.bring = button(
            "Copy and prove",
            self.start,
            main=True,
            tip="Copies what is not proven yet and checks every copy from its disk (Ctrl+B)",
        )
        self.sentence, self.pace = label("", "figure"), Elided("", "soft")
        self.show_ = choice("Show", tuple(SHOWN.items()))
        self.sort = choice("Order", tuple(SORTS.items()))
        self.pictures = Pictures()
        self.grid, self.viewer = Grid(self.pictures.of), Viewer()
        self.bringing, self.judging = Bringing(document, jobs), Judging(document, jobs)
        self.through = Through(
            self.grid, self.viewer, lambda entry, verdict: self.judging.judge(entry, verdict, turns=False)
        )
        self._seen_now: Inventory | None = None
        self._entry: Entry | None = None
        self._key = ""
        self._picked, self._part_wanted = False, ""
        self._looker = Newest("card", jobs.trouble.emit)
        self._looker.finished.connect(self._seen)
        self._lay()
        self._connect()

    def _lay(self) -> None:
        page = QVBoxLayout(self)
        page.setContentsMargins(14, 10, 14, 8)
        page.setSpacing(8)
        arrow = label("→", "figure")
        page.addLayout(
            row(self.choice.chips, self.choice.folder, arrow, self.to, None, self.bring, stretch=False, spacing=10)
        )
        said = QHBoxLayout()
        said.setSpacing(10)
        said.addWidget(self.sentence)
        said.addWidget(self.pace, 1)
        page.addLayout(said)
        body = QHBoxLayout()
        body.setSpacing(16)
        left = QVBoxLayout()
        left.setSpacing(6)
        left.addLayout(row(self.show_, self.sort, None, self.through.button, stretch=False, spacing=8))
        left.addWidget(self.grid, 1)
        body.addLayout(left, 64)
        body.addWidget(self.viewer, 36)
        page.addLayout(body, 1)

    def _connect(self) -> None:
        self.choice.opened.connect(self._begin_anew)
        self.choice.changed.connect(self.look_again)
        self.choice.said.connect(self.said.emit)
        for box in (self.show_, self.sort):
            box.activated.connect(lambda _at: self._show())
        self.grid.looked_at.connect(self._pick)
        self.grid.doubleClicked.connect(lambda _index: self.open_in_reframe())
        self.grid.scrolled.connect(self._ask_pictures)
        self.pictures.made.connect(lambda _key: self.grid.viewport().update())
        view, line = self.viewer, self.viewer.line
        view.judged.connect(self.judge)
        view.mark_asked.connect(self.mark)
        view.in_asked.connect(self.begin_part)
        view.out_asked.connect(self.end_part)
        view.compare_asked.connect(self.compare)
        view.trim_asked.connect(self.only_part)
        view.log_asked.connect(self.ask_log)
        view.answer_asked.connect(lambda: self.unsure.emit([self._entry.reading]) if self._entry else None)
        self.through.said.connect(self.said.emit)
        line.part_dragged.connect(lambda begin, end: self.judging.drag_part(self._entry, begin, end))
        line.ended.connect(self.document.end_gesture)
        self.judging.said.connect(self.said.emit)
        self.judging.refused.connect(self.refused.emit)
        self.bringing.said.connect(self.said.emit)
        self.bringing.proven.connect(self.look_again)
        self.bringing.progressed.connect(self._show_pace)
        self.bringing.ended.connect(self.look_again)

    # Cards
    @property
    def card(self) -> Path | None:
        """The card in sight."""
        return self.choice.card

    def open_card(self, card: Path) -> None:
        """Shows a card, disk or folder."""
        self.choice.open(card)

    def ask_folder(self) -> None:
        self.choice.ask()

    def _begin_anew(self) -> None:
        """Another card: its first is looked at."""
        self._key, self._entry, self._picked, self._part_wanted = "", None, False, ""
        self.grid.scrollToTop()

    @property
    def places(self) -> list[Path]:
        """Where copies go: the day's own folder, and the second place where there is one."""
        second = self.document.project.copying.second
        return [self.document.footage, *([Path(second)] if second else [])]

    def prove_again(self) -> None:
        """Reads every copy in the places again."""
        there = [place for place in self.places if (place / "ascmhl").is_dir()]
        if there:
            self.bringing.prove_again(there)
        else:
            self.said.emit("There are no copies with a list of checksums yet")

    def ask_proven(self) -> None:
        """Reads the copies of any folder again."""
        folder = QFileDialog.getExistingDirectory(self, "Which folder of copies?", str(self.document.footage))
        if folder:
            self.bringing.prove_again([Path(folder)])

    def ask_places(self) -> None:
        from glintor.desktop.offload.places_sheet import PlacesSheet

        sheet = PlacesSheet(self.document.project.copying, self.document.footage, self._example(), self)
        sheet.chosen.connect(
            lambda copying: self.document.edit("Where copies go", replace(self.document.project, copying=copying))
        )
        sheet.show()

    def _example(self) -> dict[str, str]:
        """What is known of a recording of the card, for showing what a pattern leads to."""
        for entry in self.found:
            if entry.unit is not None and self.card is not None and entry.take is not None:
                unit = entry.unit.unit
                return facts_of_unit(unit, self.card, self.document.project) | {"name": unit.main.name}
        shot = self.document.shot
        facts = {"day": self.document.project.site.day, "shot": shot.name, "take": "take 1", "path": "folder"}
        return facts | {"camera": self.document.project.camera_of(shot).name, "name": "film.mp4"}

    def start(self) -> None:
        """Copies every file of the card that is not proven to be safe in every place, then adds to the lists of checksums."""
        card = self.card or self.document.card
        if self.bringing.start(card, self.choice.contents(card) or Contents(card), self.found, self.places):
            self.refresh()
            self.proxies_wanted.emit([e for e in self.grid.entries.shown if e.files])

    # What there is
    @property
    def found(self) -> tuple[Entry, ...]:
        """Everything there is to look through, as it was seen last."""
        return self._seen_now.entries if self._seen_now is not None else ()

    def look_again(self) -> None:
        """Looks at the card and the day: what there is, and what of it is proven to be safe."""
        card, document, contents = self.card, self.document, self.choice.contents()
        self.judging.contents = contents
        project, file, places = document.project, document.file, self.places
        self._looker.ask(
            (card, project),
            lambda: inventory(project, file, contents, places, own=card == document.card),
            pause_s=0.05 if self.bringing.goes_on else 0.0,
        )

    def finish(self) -> None:
        """Logs what was proven last: the card is being looked at, and nobody waits for that any more."""
        if not self._looker.idle or self._seen_now is None:
            own, footage = self.document.card, self.document.footage
            units = survey(own, *self.places).units if own.is_dir() and footage.is_dir() else []
            self._log(known_copies(self.document.project, units, footage, self._footage_name, own_card=True))

    @property
    def _footage_name(self) -> str:
        return str(self.document.footage.relative_to(self.document.file.parent))

    def _seen(self, _key: object, seen: object) -> None:
        """Shows what was found, and logs every take whose copy is proven."""
        assert isinstance(seen, Inventory)
        if seen.card != self.card:
            return
        self._seen_now = seen
        self._log(seen.copies)
        self._show()
        if self._part_wanted and self.choice.reading_share is None:
            self._write_wanted_part()

    def _log(self, copies: Mapping[str, tuple[str, str]]) -> None:
        project = with_copies(self.document.project, copies)
        if project != self.document.project:
            self.document.edit("Bring takes over", project)

    def refresh(self) -> None:
        self.choice.watch(on=True)
        self._show()
        self.look_again()

    def leave(self) -> None:
        self.choice.watch(on=False)
        self.through.end()
        self.viewer.looker.stop()

    def _show(self) -> None:
        project, seen = self.document.project, self._seen_now
        found = self.found
        shown = chosen(found, self._wanted(), self._order(), self.document.shot.id)
        if not self._picked:
            self._key = self._first_key(shown)
        self.grid.show_entries(shown, self._key)
        self._ask_pictures()
        self.to.setText(self._places_words(project.copying))
        self._show_sentence()
        self._show_pace()
        waits = seen is not None and any(e.unit is not None and not e.unit.safe for e in found)
        self.bring.setEnabled(not self.bringing.goes_on and (waits or seen is None))
        self._look_at(next((e for e in shown if e.key == self._key), shown[0] if shown else None), again=True)
        self.findings_changed.emit()

    def _first_key(self, shown: Sequence[Entry]) -> str:
        """What is looked at before a hand chose: of the day the take at hand, of another card its first."""
        now = self.document.take
        if now is not None and self.choice.own:
            return next((e.key for e in shown if e.in_day and e.take is not None and e.take.id == now.id), "")
        return shown[0].key if shown and shown[0].unit is not None else ""

    def _wanted(self) -> Show:
        return self.show_.currentData()

    def _order(self) -> Sort:
        return self.sort.currentData()

    def _places_words(self, copying: Copying) -> str:
        pattern = (copying.pattern or PATTERN).replace("{", "").replace("}", "")
        return f"this day · {pattern}" + (f"  |  {Path(copying.second).name} · same" if copying.second else "  +")

    def _show_sentence(self) -> None:
        seen = self._seen_now
        words = "" if seen is None else seen.words([t for shot in self.document.project.shots for t in shot.takes])
        if seen is None or seen.safety is None:
            self.sentence.setText(words)
            return
        head, colon, rest = words.partition(":")
        if not colon:
            self.sentence.setText(words)
            return
        colour = theme.colours()["course" if seen.safety.clear else "caution"].name()
        self.sentence.setText(f"<span style='color:{colour}'>{head}:</span><span style='font-weight:400'>{rest}</span>")

    def _show_pace(self) -> None:
        share = self.choice.reading_share
        if self.bringing.goes_on:
            self.pace.show_words(self.bringing.pace_words)
        elif share is not None:
            self.pace.show_words(f"seeing what its files are: {100 * share:.0f} %")
        else:
            self.pace.show_words("")

    def _ask_pictures(self) -> None:
        project = self.document.project
        shots = {shot.id: shot for shot in project.shots}
        self.pictures.ask(
            [
                Wanted(picture_key(entry), entry.files, entry.take, project, shots.get(entry.shot_id))
                for entry in self.grid.in_sight()
                if entry.take is not None and entry.files
            ]
        )

    def _pick(self, entry: Entry) -> None:
        self._picked = True
        self._look_at(entry)

    def _look_at(self, entry: Entry | None, *, again: bool = False) -> None:
        if again and entry is self._entry and entry is not None:
            return
        fresh = entry is None or self._entry is None or entry.key != self._entry.key
        self._entry, self._key = entry, entry.key if entry is not None else ""
        self.through.entry = entry
        project = self.document.project
        shot = next((s for s in project.shots if entry is not None and s.id == entry.shot_id), None)
        views = guesses(project, shot, entry.take) if entry is not None and entry.take is not None else {}
        self.viewer.show_entry(entry, views, entry_facts(project, entry) if entry is not None else ())
        if fresh and entry is not None and entry.take is not None:
            self.proxies_wanted.emit([e for e in self.grid.chosen() or [entry] if e.files][:1])

    # What becomes of a take
    def judge(self, verdict: str) -> None:
        """Keep, maybe or drop; going through, the next one follows."""
        self.judging.judge(self._entry, verdict, turns=not self.through.goes_on)
        if self.through.goes_on:
            self.skip()

    def rate(self, stars: int) -> None:
        self.judging.rate(self._entry, stars)

    def mark(self) -> None:
        self.judging.mark(self._entry, round(self.viewer.looker.now_s, 3))

    def begin_part(self) -> None:
        self.judging.begin_part(self._entry, round(self.viewer.looker.now_s, 3))

    def end_part(self) -> None:
        self.judging.end_part(self._entry, round(self.viewer.looker.now_s, 3))

    def only_part(self) -> None:
        """Writes the good part of what is in sight; of a card that is still being looked at, when it is understood."""
        if self._entry is not None and self.choice.reading_share is not None:
            self._part_wanted = self._entry.key
            self.said.emit("Its good part is written as soon as the card is understood")
            return
        self.judging.only_part(self._entry)

    def _write_wanted_part(self) -> None:
        key, self._part_wanted = self._part_wanted, ""
        self.judging.only_part(next((e for e in self.found if e.key == key), None))

    def ask_log(self) -> None:
        self.judging.ask_log(
            self._entry, self.pictures.of(picture_key(self._entry))[0] if self._entry is not None else None, self
        )

    def open_in_reframe(self) -> None:
        """Works on the take in sight, from where it lies."""
        entry = self._entry
        if entry is None or entry.take is None:
            return
        shot_id, take_id = entry.shot_id, entry.take.id
        contents = self.choice.contents()
        if not entry.in_day and contents is not None:
            project, (shot_id, take_id) = admitted(self.document.project, contents, [entry.take])
            self.document.edit("Bring a recording in", project)
        self.opened.emit(shot_id, take_id)

    # Looking through
    def skip(self) -> None:
        self.through.skip()

    def look_through(self) -> None:
        self.through.turn()

    def toggle_play(self) -> None:
        looker = self.viewer.looker
        looker.stop() if looker.playing else looker.play()

    def compare(self) -> None:
        self.through.compare(self)

    def findings(self) -> Sequence[Finding]:
        return offloading(*self.document.project.shots)

    @property
    def settled(self) -> bool:
        return (
            self.viewer.looker.settled and self._looker.idle and not self.bringing.goes_on and self.choice.settled
        ) and self.pictures.idle

    def close_down(self) -> None:
        self.choice.watch(on=False)
        self._looker.close()
        self.pictures.close()
        self.viewer.looker.close_down()

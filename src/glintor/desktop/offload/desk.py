"""Offload: is it all safely off the card, and which bits are worth it?"""

from collections.abc import Sequence
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace
from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QVBoxLayout, QWidget

from glintor.desktop import theme
from glintor.desktop.controls import Chips, Elided, button, choice, label, row
from glintor.desktop.desk import Desk
from glintor.desktop.document import Document
from glintor.desktop.jobs import Job, Jobs, Newest
from glintor.desktop.offload.bringing import Bringing
from glintor.desktop.offload.grid import Grid
from glintor.desktop.offload.judging import Judging
from glintor.desktop.offload.pictures import Pictures, Wanted
from glintor.desktop.offload.viewer import PLAYS_S, Viewer
from glintor.errors import GlintorError
from glintor.finding import Finding
from glintor.offload.card import Safety, safety, survey
from glintor.offload.contents import (
    SHOWN,
    SORTS,
    Contents,
    Entry,
    Show,
    Sort,
    admitted,
    chosen,
    copied,
    entries,
    look_through,
)
from glintor.offload.drives import drives
from glintor.offload.known import entry_facts
from glintor.offload.naming import PATTERN, facts_of_unit
from glintor.project.model import Copying, Project
from glintor.project.pictured import guesses
from glintor.review import offloading

_WATCH_MS = 2000  # how often it is seen whether something was plugged in
_OWN = "the camera's card"


class _Seen(Struct, frozen=True):
    """What was found of a card and the day, at one moment. entries None: the card cannot be read."""

    card: Path | None
    entries: tuple[Entry, ...] | None
    safety: Safety | None


class OffloadDesk(Desk):
    """All recordings of a card and of the day as pictures; copies with proof; looking through."""

    name = "Offload"
    opened = pyqtSignal(str, str)  # shot and take to work on
    proxies_wanted = pyqtSignal(object)  # takes with their files, those looked at first
    unsure = pyqtSignal(object)  # readings that a person may say something of

    def __init__(self, document: Document, jobs: Jobs, parent: QWidget) -> None:
        super().__init__(document, jobs, parent)
        self.cards = Chips("Card", (), titled=False)
        self.folder = button("folder…", self.ask_folder, tip="Any card, disk or folder; one can also be dropped here")
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
        self.through = button(
            "Look through", self.look_through, tip="All of them, a few seconds each, one key each (L)"
        )
        self._card: Path | None = None
        self._folders: list[Path] = []
        self._contents: dict[Path, Contents] = {}
        self._reading: dict[Path, Job] = {}
        self._seen_now: _Seen | None = None
        self._entry: Entry | None = None
        self._key = ""
        self._going_through = self._there = self._picked = False
        self._looker = Newest("card", jobs.trouble.emit)
        self._looker.finished.connect(self._seen)
        self._watch = QTimer(self)
        self._watch.setInterval(_WATCH_MS)
        self._watch.timeout.connect(self._look_for_cards)
        self._lay()
        self._connect()

    def _lay(self) -> None:
        page = QVBoxLayout(self)
        page.setContentsMargins(14, 10, 14, 8)
        page.setSpacing(8)
        arrow = label("→", "figure")
        page.addLayout(row(self.cards, self.folder, arrow, self.to, None, self.bring, stretch=False, spacing=10))
        said = QHBoxLayout()
        said.setSpacing(10)
        said.addWidget(self.sentence)
        said.addWidget(self.pace, 1)
        page.addLayout(said)
        body = QHBoxLayout()
        body.setSpacing(16)
        left = QVBoxLayout()
        left.setSpacing(6)
        left.addLayout(row(self.show_, self.sort, None, self.through, stretch=False, spacing=8))
        left.addWidget(self.grid, 1)
        body.addLayout(left, 64)
        body.addWidget(self.viewer, 36)
        page.addLayout(body, 1)

    def _connect(self) -> None:
        self.cards.chosen.connect(self.open_card)
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
        view.looker.played_out.connect(self._played_out)
        line.part_dragged.connect(lambda begin, end: self.judging.drag_part(self._entry, begin, end))
        line.ended.connect(self.document.end_gesture)
        self.judging.said.connect(self.said.emit)
        self.bringing.said.connect(self.said.emit)
        self.bringing.proven.connect(self.look_again)
        self.bringing.progressed.connect(self._show_pace)
        self.bringing.ended.connect(self.look_again)

    # Cards
    @property
    def card(self) -> Path | None:
        """The card in sight."""
        return self._card

    @property
    def places(self) -> list[Path]:
        """Where copies go: the day's own folder, and the second place where there is one."""
        second = self.document.project.copying.second
        return [self.document.footage, *([Path(second)] if second else [])]

    def _look_for_cards(self) -> None:
        """Offers what is plugged in; what is gone is no longer offered."""
        own = self.document.card
        found = [(own, _OWN)] if own.is_dir() else []
        found += [(drive.root, drive.words) for drive in drives()]
        found += [(folder, folder.name) for folder in self._folders if folder not in [root for root, _ in found]]
        self.cards.set_options(found)
        self.cards.setVisible(bool(found))
        if self._card is None and found:
            self.open_card(found[0][0])
        elif self._card is not None and self._there != self._card.is_dir():
            self.said.emit(
                f"{self._card.name} was {'put back' if self._card.is_dir() else 'taken out'}; what is proven is safe"
            )
            self.look_again()
        self._there = self._card is not None and self._card.is_dir()
        self.cards.show_value(self._card)

    def ask_folder(self) -> None:
        folder = QFileDialog.getExistingDirectory(self, "Which card or folder?", str(Path.home()))
        if folder:
            self.open_card(Path(folder))

    def open_card(self, card: Path) -> None:
        """Shows a card, disk or folder: at once what files there are, and as it is understood what they are."""
        if card != self._card:
            self._card, self._key, self._entry, self._picked = card, "", None, False
            self.grid.scrollToTop()
        if card != self.document.card and card not in self._folders and card not in [d.root for d in drives()]:
            self._folders.append(card)
        self._look_for_cards()
        if card not in self._contents and card not in self._reading and card.is_dir():
            file = self.document.file
            self._reading[card] = self.jobs.start(
                f"Looking at {card.name}",
                lambda report, _stop: look_through(file, card, report=report),
                self._understood,
                failed=lambda error: self._not_understood(card, error),
                cancelled=lambda: self._not_understood(card, None),
            )
        self.look_again()

    def _understood(self, contents: Contents) -> None:
        self._reading.pop(contents.root, None)
        self._contents[contents.root] = contents
        self.look_again()

    def _not_understood(self, card: Path, error: GlintorError | None) -> None:
        self._reading.pop(card, None)
        if error is not None:
            self.jobs.trouble.emit(error)

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
            if entry.unit is not None and self._card is not None and entry.take is not None:
                unit = entry.unit.unit
                return facts_of_unit(unit, self._card, self.document.project) | {"name": unit.main.name}
        shot = self.document.shot
        facts = {"day": self.document.project.site.day, "shot": shot.name, "take": "take 1", "path": "folder"}
        return facts | {"camera": self.document.project.camera_of(shot).name, "name": "film.mp4"}

    def start(self) -> None:
        """Copies every file of the card that is not proven to be safe in every place, then adds to the lists of checksums."""
        card = self._card or self.document.card
        if self.bringing.start(card, self._contents.get(card, Contents(card)), self.found, self.places):
            self.refresh()
            self.proxies_wanted.emit([e for e in self.grid.entries.shown if e.files])

    # What there is
    @property
    def found(self) -> tuple[Entry, ...]:
        """Everything there is to look through, as it was seen last."""
        return (self._seen_now.entries if self._seen_now is not None else None) or ()

    def look_again(self) -> None:
        """Looks at the card and the day: what there is, and what of it is proven to be safe."""
        card, document = self._card, self.document
        contents = self._contents.get(card, Contents(card)) if card is not None else None
        self.judging.contents = contents
        project, file, places = document.project, document.file, self.places
        self._looker.ask(
            (card, project),
            lambda: _found(project, file, contents, places),
            pause_s=0.05 if self.bringing.goes_on else 0.0,
        )

    def finish(self) -> None:
        """Logs what was proven last: the card is being looked at, and nobody waits for that any more."""
        if not self._looker.idle or self._seen_now is None:
            own = self.document.card
            if own.is_dir() and self.document.footage.is_dir():
                units = survey(own, *self.places)
                self._log(copied(self.document.project, units, self._footage_name, own_card=True))

    @property
    def _footage_name(self) -> str:
        return str(self.document.footage.relative_to(self.document.file.parent))

    def _seen(self, _key: object, seen: object) -> None:
        """Shows what was found, and logs every take whose copy is proven."""
        assert isinstance(seen, _Seen)
        if seen.card != self._card:
            return
        self._seen_now = seen
        units = [e.unit for e in seen.entries or () if e.unit is not None]
        own = seen.card == self.document.card
        self._log(copied(self.document.project, units, self._footage_name, own_card=own))
        self._show()

    def _log(self, project: Project) -> None:
        if project != self.document.project:
            self.document.edit("Bring takes over", project)

    def refresh(self) -> None:
        self._watch.start()
        self._look_for_cards()
        self._show()
        self.look_again()

    def leave(self) -> None:
        self._watch.stop()
        self.viewer.looker.stop()
        self._going_through = False

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
        if now is not None and self._card in (None, self.document.card):
            return next((e.key for e in shown if e.in_day and e.take is not None and e.take.id == now.id), "")
        return shown[0].key if shown and shown[0].unit is not None else ""

    def _wanted(self) -> Show:
        return self.show_.currentData()

    def _order(self) -> Sort:
        return self.sort.currentData()

    def _places_words(self, copying: Copying) -> str:
        pattern = (copying.pattern or PATTERN).replace("{", "").replace("}", "").replace("/", "/")
        return f"this day · {pattern}" + (f"  |  {Path(copying.second).name} · same" if copying.second else "  +")

    def _show_sentence(self) -> None:
        seen = self._seen_now
        takes = [take for shot in self.document.project.shots for take in shot.takes]
        if seen is None:
            self.sentence.setText("")
            return
        if seen.card is None or seen.safety is None:
            lost = sum(take.only_on_card for take in takes)
            words = "No card is in."
            words += f" {lost} of {len(takes)} takes are only on one." if lost else " Put one in, or choose a folder."
            if seen.card is not None:
                words = f"{seen.card.name} cannot be read: was it pulled out? What is proven is safe."
            self.sentence.setText(words)
            return
        words = seen.safety.words
        head, colon, rest = words.partition(":")
        if not colon:
            self.sentence.setText(words)
            return
        colour = theme.colours()["course" if seen.safety.clear else "caution"].name()
        self.sentence.setText(f"<span style='color:{colour}'>{head}:</span><span style='font-weight:400'>{rest}</span>")

    def _show_pace(self) -> None:
        reading = self._reading.get(self._card) if self._card is not None else None
        if self.bringing.goes_on:
            self.pace.show_words(self.bringing.pace_words)
        elif reading is not None:
            self.pace.show_words(f"seeing what its files are: {100 * reading.share:.0f} %")
        else:
            self.pace.show_words("")

    def _ask_pictures(self) -> None:
        project = self.document.project
        shots = {shot.id: shot for shot in project.shots}
        wanted = []
        for entry in self.grid.in_sight():
            if entry.take is not None and entry.files:
                views = guesses(project, shots.get(entry.shot_id), entry.take)
                wanted.append(Wanted(entry.key, entry.files, entry.take, next(iter(views.values()))))
        self.pictures.ask(wanted)

    def _pick(self, entry: Entry) -> None:
        self._picked = True
        self._look_at(entry)

    def _look_at(self, entry: Entry | None, *, again: bool = False) -> None:
        if again and entry is self._entry and entry is not None:
            return
        fresh = entry is None or self._entry is None or entry.key != self._entry.key
        self._entry, self._key = entry, entry.key if entry is not None else ""
        project = self.document.project
        shot = next((s for s in project.shots if entry is not None and s.id == entry.shot_id), None)
        views = guesses(project, shot, entry.take) if entry is not None and entry.take is not None else {}
        self.viewer.show_entry(entry, views, entry_facts(project, entry) if entry is not None else ())
        if fresh and entry is not None and entry.take is not None:
            self.proxies_wanted.emit([e for e in self.grid.chosen() or [entry] if e.files][:1])

    # What becomes of a take
    def judge(self, verdict: str) -> None:
        """Keep, maybe or drop; going through, the next one follows."""
        self.judging.judge(self._entry, verdict, turns=not self._going_through)
        if self._going_through:
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
        self.judging.only_part(self._entry)

    def ask_log(self) -> None:
        self.judging.ask_log(self._entry, self.pictures.of(self._key)[0], self)

    def open_in_reframe(self) -> None:
        """Works on the take in sight, from where it lies."""
        entry = self._entry
        if entry is None or entry.take is None:
            return
        shot_id, take_id = entry.shot_id, entry.take.id
        if not entry.in_day and self._card is not None:
            project, (shot_id, take_id) = admitted(self.document.project, self._contents[self._card], [entry.take])
            self.document.edit("Bring a recording in", project)
        self.opened.emit(shot_id, take_id)

    # Looking through
    def look_through(self) -> None:
        """Plays a few seconds of each, one after the other; a key says what becomes of it."""
        self._going_through = not self._going_through
        self.through.setText("Enough" if self._going_through else "Look through")
        if not self._going_through:
            self.viewer.looker.stop()
            self.said.emit("")
            return
        entry = self._entry
        if entry is None or entry.take is None:
            self.grid.step(1)
        self._go_on()

    def skip(self) -> None:
        """The next one, without a word about this one."""
        if self.grid.step(1) and self._entry is not None and self._entry.take is not None:
            if self._going_through:
                self._go_on()
        elif self._going_through:
            self.look_through()
            self.said.emit("Everything was looked through")

    def _go_on(self) -> None:
        shown = self.grid.entries.shown
        takes = [e for e in shown if e.take is not None]
        at = next((n for n, e in enumerate(takes, 1) if e.key == self._key), 0)
        self.said.emit(f"Looking through, {at} of {len(takes)}: K keep, O maybe, X drop, N skips, L ends")
        self.viewer.looker.play(PLAYS_S)

    def _played_out(self) -> None:
        if self._going_through and self._entry is not None and self._entry.take is not None:
            from glintor.project.pictured import moment_of

            self.viewer.looker.seek(moment_of(self._entry.take))
            self.viewer.next_look()
            self.viewer.looker.play(PLAYS_S)

    def toggle_play(self) -> None:
        looker = self.viewer.looker
        looker.stop() if looker.playing else looker.play()

    def compare(self) -> None:
        """Two takes side by side: those that are selected, else the one in sight and its neighbour."""
        from glintor.desktop.offload.compare import CompareWindow

        takes = [e for e in self.grid.entries.shown if e.take is not None and e.files]
        two = [e for e in self.grid.chosen() if e.take is not None and e.files][:2]
        if len(two) < 2 and two:
            at = takes.index(two[0])
            two += takes[at + 1 : at + 2] or takes[max(at - 1, 0) : at]
        if len(two) < 2:
            self.said.emit("There are no two takes to compare")
            return
        self.viewer.looker.stop()
        sheet = CompareWindow(takes, two[0], two[1], self.viewer.looker.view, self)
        sheet.judged.connect(self._judge_other)
        sheet.show()

    def _judge_other(self, key: str, verdict: str) -> None:
        self.judging.judge(next((e for e in self.found if e.key == key), None), verdict, turns=False)

    def findings(self) -> Sequence[Finding]:
        return offloading(*self.document.project.shots)

    @property
    def settled(self) -> bool:
        return (
            self.viewer.looker.settled and self._looker.idle and not self.bringing.goes_on and not self._reading
        ) and self.pictures.idle

    def close_down(self) -> None:
        self._watch.stop()
        self._looker.close()
        self.pictures.close()
        self.viewer.looker.close_down()


def _found(project: Project, file: Path, contents: Contents | None, places: Sequence[Path]) -> _Seen:
    """What is on the card and in the day; without the card's where it was pulled out."""
    card = contents.root if contents is not None else None
    try:
        if contents is not None and not contents.root.is_dir():
            return _Seen(card, entries(project, file, None, places), None)
        found = entries(project, file, contents, places)
    except OSError:
        return _Seen(card, entries(project, file, None, places), None)
    return _Seen(card, found, safety([e.unit for e in found if e.unit is not None]) if contents is not None else None)

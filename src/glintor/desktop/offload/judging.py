"""What becomes of a take: kept or dropped, stars, marks, what of it is worth keeping. One that the day does not have yet becomes part
of it by the first of these."""

import contextlib
from collections.abc import Callable, Sequence
from pathlib import Path
from threading import Event

from msgspec.structs import replace
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QWidget

from glintor.desktop.document import Document
from glintor.desktop.jobs import Jobs
from glintor.desktop.offload.match_sheet import MatchSheet
from glintor.media.claps import claps_in
from glintor.offload.card import beside
from glintor.offload.contents import Contents, Entry, admitted, in_the_day
from glintor.offload.only_part import Part, only_part, part_take
from glintor.project.facts import facts_of
from glintor.project.logged import with_match, without_match
from glintor.project.matching import Candidate, Match, candidates
from glintor.project.model import fresh_id, with_take
from glintor.project.take import Take
from glintor.types import Report

_NEAR_S, _LEAST_S = 0.05, 0.1
_MOST_LOGS = 5


class Judging(QObject):
    """Makes its edits to the entry that it is given. `said` is a word for the person, `refused` why nothing was done."""

    said = pyqtSignal(str)
    refused = pyqtSignal(str)

    def __init__(self, document: Document, jobs: Jobs) -> None:
        super().__init__()
        self._document, self._jobs = document, jobs
        self.contents: Contents | None = None  # of the card in sight

    def edit(self, entry: Entry | None, words: str, change: Callable[[Take], Take], gesture: object = None) -> None:
        """Changes an entry's take."""
        if entry is None or entry.take is None:
            self.refused.emit("That is no take")
            return
        project = self._document.project
        there = in_the_day(project, entry)  # as it is now: the entry may be older than the last edit
        if there is not None:
            edited = project.with_shot(there[0], lambda s: with_take(s, change(there[1])))
            self._document.edit(words, edited, gesture)
        elif self.contents is not None:
            self._document.edit(words, admitted(project, self.contents, [change(entry.take)])[0])

    def judge(self, entry: Entry | None, verdict: str, *, turns: bool = True) -> None:
        """Keep, maybe or drop. turns: the same again takes it back."""
        self.edit(
            entry,
            verdict.capitalize(),
            lambda take: replace(take, verdict="" if turns and take.verdict == verdict else verdict),
        )

    def rate(self, entry: Entry | None, stars: int) -> None:
        self.edit(entry, "Rate take", lambda take: replace(take, rating=0 if take.rating == stars else stars))

    def mark(self, entry: Entry | None, at_s: float) -> None:
        """Marks a moment, or takes its mark away."""

        def marked(take: Take) -> Take:
            near = [one for one in take.marks_s if abs(one - at_s) < _NEAR_S]
            rest = [one for one in take.marks_s if one not in near]
            return replace(take, marks_s=tuple(sorted(rest if near else [*rest, at_s])))

        self.edit(entry, "Mark", marked)

    def begin_part(self, entry: Entry | None, at_s: float) -> None:
        def begun(take: Take) -> Take:
            end = take.part_s[1] if take.part_s is not None else take.duration_s
            return replace(take, part_s=(at_s, max(end, at_s + _LEAST_S)))

        self.edit(entry, "Worth keeping from here", begun)

    def end_part(self, entry: Entry | None, at_s: float) -> None:
        def ended(take: Take) -> Take:
            begin = take.part_s[0] if take.part_s is not None else 0.0
            return replace(take, part_s=(min(begin, max(at_s - _LEAST_S, 0.0)), max(at_s, _LEAST_S)))

        self.edit(entry, "Worth keeping to here", ended)

    def drag_part(self, entry: Entry | None, begin_s: float, end_s: float) -> None:
        key = entry.key if entry is not None else ""
        self.edit(entry, "Worth keeping", lambda take: replace(take, part_s=(begin_s, end_s)), ("part", key))

    # The log
    def ask_log(self, entry: Entry | None, picture: QImage | None, over: QWidget) -> None:
        """Asks which rolling a recording is, and listens for a clap meanwhile."""
        now = in_the_day(self._document.project, entry) if entry is not None else None
        if entry is None or now is None:
            self.refused.emit("Bring it into the day first: judge it, or copy the card")
            return
        shot_id, take = now
        found = candidates(self._document.project, take)
        if not found:
            self.refused.emit("There is no log without its recording")
            return
        told = [f"{fact.name}: {fact.words}" for fact in facts_of(self._document.project, take)[:3]]
        sheet = MatchSheet(take.name, told, picture, over)
        sheet.show_candidates(found[:_MOST_LOGS], "Listening for a clap…" if _clapped(found) else "")
        sheet.settled.connect(lambda to, log: self._settle(take, shot_id, to, log))
        sheet.show()
        if _clapped(found):
            files = entry.files

            def heard(at: tuple[float, ...]) -> None:
                words = "Sudden sounds at " + ", ".join(f"{one:.1f} s" for one in at[:4]) if at else "No sudden sound"
                with contextlib.suppress(RuntimeError):  # it was closed meanwhile
                    sheet.show_candidates(candidates(self._document.project, take, at)[:_MOST_LOGS], words)

            self._jobs.start(f"Listening to {take.name}", lambda _report, _stop: claps_in(files), heard)

    def _settle(self, take: Take, from_shot: str, to_shot: str, log_id: str) -> None:
        project = self._document.project
        if not log_id:
            self._document.edit("Not from a log", without_match(project, from_shot, take.id))
            return
        log = next(one for one in candidates(project, take) if one.log.id == log_id and one.shot.id == to_shot)
        found = Match(take.id, to_shot, log_id, log.clock_s, True, "said by hand")
        self._document.edit("Put to its log", with_match(project, found, take, from_shot))

    def only_part(self, entry: Entry | None) -> None:
        """Writes what is worth keeping of a take as a further file, and has it as a take of its own."""
        now = in_the_day(self._document.project, entry) if entry is not None else None
        if entry is None or now is None or now[1].part_s is None or not entry.files:
            self.refused.emit("Say first what is worth keeping: [ and ]")
            return
        (shot_id, take), span, document = now, now[1].part_s, self._document
        folder, lies_beside = document.footage / "parts", _beside(entry)

        def work(report: Report, stop: Event) -> Part:
            return only_part(
                entry.files, lies_beside, span, folder, paired=take.taken_as.paired, report=report, stop=stop
            )

        self._jobs.start(f"Writing the good part of {take.name}", work, lambda part: self._written(shot_id, take, part))

    def _written(self, shot_id: str, take: Take, part: Part) -> None:
        project = self._document.project
        shot = next((s for s in project.shots if s.id == shot_id), None)
        if shot is not None:
            fresh = part_take(take, part, self._document.file)
            fresh = replace(fresh, id=fresh_id(fresh.id, {t.id for t in shot.takes}))
            self._document.edit("Only the good part", project.with_shot(shot.id, lambda s: with_take(s, fresh)))
        self.said.emit(
            f"{part.end_s - part.begin_s:.1f} s from {part.begin_s:.1f} s, at key frames, in {part.films[0].parent}. "
            f"{part.words}".strip()
        )


def _clapped(found: Sequence[Candidate]) -> bool:
    return any(event.what == "clap" for one in found for event in one.log.events)


def _beside(entry: Entry) -> Sequence[Path]:
    """What lies beside an entry's films."""
    if entry.unit is not None:
        return [file for file in entry.unit.unit.files if file not in entry.files]
    return [other for file in entry.files for other in beside(file)]

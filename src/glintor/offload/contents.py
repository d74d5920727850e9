"""What there is to look through: the recordings of a card as they are understood, its other files, and the takes that the day has
already, each with the copies that are proven of it."""

from collections.abc import Sequence
from datetime import datetime
from pathlib import Path
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from glintor.content import quick_of
from glintor.errors import GlintorError
from glintor.media.reading import Reading
from glintor.media.taken import Kind
from glintor.media.together import recordings_in
from glintor.names import path_of, text_of
from glintor.offload.card import OnCard, Surveyed, is_film, is_picture, survey
from glintor.project.ledger import Ledger
from glintor.project.logged import key_of, open_takes
from glintor.project.matching import Match, Offered, matches
from glintor.project.model import Project, Shot
from glintor.project.recordings import TakenIn, look_at, with_recordings, with_sounds
from glintor.project.store import clip_files, places_of
from glintor.project.take import Take, TakeFile
from glintor.types import Report

WORDS: dict[Kind, str] = {
    "sphere": "film", "half": "half sphere", "cropped": "part of a sphere", "two-lenses": "two lenses", "one-lens": "one lens",
    "flat": "flat", "photo": "photo", "bracket": "bracket", "series": "series", "sound": "sound", "broken": "cannot be read",
}  # fmt: skip
SORTS = {
    "began": "by time",
    "name": "by name",
    "length": "longest first",
    "size": "largest first",
    "stars": "best first",
}
SHOWN = {
    "all": "everything",
    "card": "on this card",
    "unsafe": "not safe yet",
    "new": "not looked through",
    "keep": "to keep",
    "maybe": "maybe",
    "starred": "with stars",
    "shot": "this shot",
}
Sort = Literal["began", "name", "length", "size", "stars"]
Show = Literal["all", "card", "unsafe", "new", "keep", "maybe", "starred", "shot"]


class Contents(Struct, frozen=True):
    """What is understood of a card, as it was when it was looked at."""

    root: Path
    taken: TakenIn = TakenIn()

    @property
    def together(self) -> tuple[tuple[Path, ...], ...]:
        """Files that are one recording, and what lies beside them."""
        return tuple((*one.files, *one.companions) for one in self.taken.readings)


def look_through(project_file: Path, root: Path, *, report: Report = lambda _share: None) -> Contents:
    """Looks at everything on a card. Raises OSError where it goes away."""
    files = recordings_in([root])
    return Contents(root, look_at(project_file, files, report=report)) if files else Contents(root)


class Entry(Struct, frozen=True, kw_only=True):
    """One thing to look through.

    key      tells it from all others
    files    where its pictures are, () where they are not to be had
    take     as the day has it, or as it would become one; None of what is no take
    shot_id  the shot it belongs to, "" where the day does not have it
    unit     it on the card, None where it is not there
    copies   in how many of the places all of its files are proven; places: how many there are
    began    when it began, as ISO 8601 for the order, else when its file was last changed; "" where nobody knows
    why      what it was taken for, or what is wrong
    match    the log that it comes from or may come from, where it is not put to one yet
    """

    key: str
    name: str
    kind: str
    files: tuple[Path, ...] = ()
    take: Take | None = None
    shot_id: str = ""
    unit: OnCard | None = None
    reading: Reading | None = None
    size_bytes: int = 0
    copies: int = 0
    places: int = 1
    began: str = ""
    why: str = ""
    match: Match | None = None

    @property
    def in_day(self) -> bool:
        return bool(self.shot_id)

    @property
    def length_s(self) -> float | None:
        """None where it has none, or nobody knows."""
        if self.take is not None:
            return self.take.duration_s if self.take.kind in ("film", "lapse") else None
        return self.reading.duration_s if self.reading is not None and self.reading.duration_s else None


def entries(
    project: Project,
    project_file: Path,
    card: Contents | None,
    places: Sequence[Path],
    *,
    surveyed: Surveyed | None = None,
) -> tuple[Entry, ...]:
    """Everything there is to look through; what is on the card first. surveyed: what the card holds, where that is known already. Raises
    OSError where the card goes away."""
    if surveyed is None:
        surveyed = survey(card.root, *places, together=card.together) if card is not None else Surveyed(())
    proven = [_proven(Ledger(place)) for place in places]
    known = _Known(project, project_file)
    found: list[Entry] = []
    there: set[str] = set()
    for unit in surveyed.units:
        assert card is not None, "there are units of a card only"
        entry = _of_unit(unit, card, known, len(places))
        there.add(entry.take.id if entry.take is not None and entry.in_day else "")
        found.append(entry)
    for shot in project.shots:
        found += [_of_take(shot, take, project_file, proven) for take in shot.takes if take.id not in there]
    return tuple(_with_logs(project, found))


def _with_logs(project: Project, found: Sequence[Entry]) -> list[Entry]:
    """With what each may have been logged as."""
    waiting = {key_of(shot_id, take) for shot_id, take in open_takes(project)}
    offered = {
        e.key: Offered(e.key, e.take)
        for e in found
        if e.take is not None and (not e.in_day or key_of(e.shot_id, e.take) in waiting)
    }
    logged = {one.key: one for one in matches(project, list(offered.values()))}
    return [replace(e, match=logged[e.key]) if e.key in logged else e for e in found]


class _Known:
    """The takes of a day by what their files hold, and by where they lie on the day's own card."""

    def __init__(self, project: Project, project_file: Path) -> None:
        self.by_content: dict[str, tuple[Shot, Take]] = {}
        self.by_path: dict[Path, tuple[Shot, Take]] = {}
        for shot in project.shots:
            for take in shot.takes:
                for file in take.files:
                    if file.quick:
                        self.by_content[file.quick] = shot, take
                    for place in places_of(project_file, file):
                        self.by_path[place] = shot, take

    def of(self, file: Path) -> tuple[Shot, Take] | None:
        return self.by_path.get(file) or self.by_content.get(quick_of(file))


def _of_unit(unit: OnCard, card: Contents, known: _Known, places: int) -> Entry:
    files = unit.unit.files
    reading = next((one for one in card.taken.readings if one.files[0] in files), None)
    offered = _offered(card, files[0]) if reading is not None else None
    has = known.of(files[0])
    take = has[1] if has is not None else offered
    return Entry(
        key=unit.name,
        name=take.name if take is not None else reading.name if reading is not None else text_of(files[0].name),
        kind=_kind(reading, files[0], take),
        files=tuple(f for f in files if reading is None or f in reading.files) if reading or take else (),
        take=take,
        shot_id=has[0].id if has is not None else "",
        unit=unit,
        reading=reading,
        size_bytes=unit.size_bytes,
        copies=min(unit.copies),
        began=_began(take, reading, files[0]),
        places=places,
        why=reading.why if reading is not None else "",
    )


def _began(take: Take | None, reading: Reading | None, main: Path) -> str:
    if take is not None and take.began:
        return take.began
    if reading is not None and reading.began is not None:
        return reading.began.isoformat()
    return datetime.fromtimestamp(main.stat().st_mtime).isoformat()


def _offered(card: Contents, main: Path) -> Take | None:
    """The take that a recording of a card would become, with its place on the card."""
    quick = quick_of(main)
    take = next((one for one in card.taken.takes if one.files[0].quick == quick), None)
    return None if take is None else replace(take, files=tuple(_on_card(card.root, file) for file in take.files))


def _on_card(root: Path, file: TakeFile) -> TakeFile:
    lies = path_of(file.lies)
    return replace(file, card=text_of(lies.relative_to(root).as_posix())) if lies.is_relative_to(root) else file


def _kind(reading: Reading | None, main: Path, take: Take | None) -> str:
    if reading is not None:
        return WORDS[reading.reading]
    if take is not None:
        return {"film": "film", "photo": "photo", "bracket": "bracket", "lapse": "series"}[take.kind]
    return "film" if is_film(main) else "picture" if is_picture(main) else "file"


def _of_take(shot: Shot, take: Take, project_file: Path, proven: Sequence[frozenset[str]]) -> Entry:
    try:
        files, why = clip_files(project_file, take), take.why
    except GlintorError as error:
        files, why = (), str(error)
    return Entry(
        key=f"{shot.id}/{take.id}",
        name=take.name,
        kind=_kind(None, Path(), take),
        files=files,
        take=take,
        shot_id=shot.id,
        size_bytes=take.size_bytes,
        began=take.began,
        copies=sum(all({f.xxh64, f.quick} & known for f in take.files) for known in proven),
        places=len(proven),
        why=why,
    )


def _proven(ledger: Ledger) -> frozenset[str]:
    """What the proven copies in a folder hold: their checksums and quick digests."""
    return frozenset(digest for proof in ledger.of_copies().values() for digest in (proof.xxh64, proof.quick))


def admitted(project: Project, card: Contents, wanted: Sequence[Take]) -> tuple[Project, tuple[str, str]]:
    """The day with takes of a card that it does not have yet (at least one), as they are: rated, marked, with what is worth keeping of
    them; and the ids of shot and take of the first. Its sounds come along."""
    project = with_sounds(project, card.taken.sounds)
    return with_recordings(project, wanted, "", card.taken.place)


def in_the_day(project: Project, entry: Entry) -> tuple[str, Take] | None:
    """The shot and the take that an entry is in a day as it is now; None where the day does not have it."""
    if entry.take is None:
        return None
    first = entry.take.files[0]
    for shot in project.shots:
        for take in shot.takes:
            named = shot.id == entry.shot_id and take.id == entry.take.id
            if named or (
                first.quick and (take.files[0].quick, take.files[0].size_bytes) == (first.quick, first.size_bytes)
            ):
                return shot.id, take
    return None


def known_copies(
    project: Project, units: Sequence[OnCard], footage: Path, folder: str, *, own_card: bool
) -> dict[str, tuple[str, str]]:
    """Where copies are and their checksums, for `with_copies`: what of a card is proven in the day's own folder, the first place, and what
    is proven there of takes that do not know of a copy yet (the card that they came from may be gone). folder: what the footage folder
    is called in the day; own_card: whether it is the card of the day's own camera, whose takes are known by their path on it. Raises
    OSError."""
    known: dict[str, tuple[str, str]] = {}
    for unit in units:
        for proof in unit.proofs[0]:
            if proof is not None:
                where = f"{folder}/{proof.copy}", proof.xxh64
                known |= {proof.quick: where} | ({proof.source: where} if own_card else {})
    files = [file for shot in project.shots for take in shot.takes for file in take.files]
    files += [file for sound in project.sounds for file in sound.files]
    waiting = {file.quick for file in files if file.quick and not file.copy} - known.keys()
    for proof in Ledger(footage).of_copies().values() if waiting else ():
        if proof.quick in waiting:
            known[proof.quick] = f"{folder}/{proof.copy}", proof.xxh64
    return known


def chosen(found: Sequence[Entry], show: Show, sort: Sort, shot_id: str = "") -> list[Entry]:
    """Those to be shown, in their order."""
    wanted = {
        "all": lambda e: True,
        "card": lambda e: e.unit is not None,
        "unsafe": lambda e: e.copies < 2,
        "new": lambda e: e.take is not None and not e.take.verdict,
        "keep": lambda e: e.take is not None and e.take.verdict == "keep",
        "maybe": lambda e: e.take is not None and e.take.verdict == "maybe",
        "starred": lambda e: e.take is not None and e.take.rating > 0,
        "shot": lambda e: e.shot_id == shot_id,
    }[show]
    by = {
        "began": lambda e: (not e.began, e.began[:19], e.name),
        "name": lambda e: e.name.lower(),
        "length": lambda e: -(e.length_s or 0.0),
        "size": lambda e: -e.size_bytes,
        "stars": lambda e: -(e.take.rating if e.take is not None else 0),
    }[sort]
    kept = sorted((entry for entry in found if wanted(entry)), key=by)
    return sorted(kept, key=lambda e: (e.take is None, e.unit is None))  # what can be looked at, what is on the card

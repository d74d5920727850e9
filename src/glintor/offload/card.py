"""What is on a card: its files as units, a clip or picture with everything that belongs to it, and which of them are safe."""

from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path

from msgspec import Struct

from glintor.media.picture import SUFFIXES as PHOTOS
from glintor.media.reading import FILMS
from glintor.names import text_of
from glintor.project.ledger import Ledger, Proof
from glintor.walk import Unseen, walked

PICTURES = PHOTOS | {".dng"}


class Unit(Struct, frozen=True):
    """Files that are copied, proven and named as one: the main one first. Paths as they lie."""

    files: tuple[Path, ...]

    @property
    def main(self) -> Path:
        return self.files[0]


def _rank(file: Path) -> tuple[int, str]:
    return (0 if is_film(file) else 1 if is_picture(file) else 2), file.name


def is_film(file: Path) -> bool:
    return file.suffix.lower() in FILMS


def is_picture(file: Path) -> bool:
    return file.suffix.lower() in PICTURES


def beside(clip: Path) -> list[Path]:
    """What lies beside a clip and belongs to it: track, inertial log, route, by the same name in any case of letters."""
    if not is_film(clip):
        return []
    start = clip.stem.lower() + "."
    try:
        others = [file for file in clip.parent.iterdir() if file.is_file() and file != clip]
    except OSError:
        return []
    return sorted(file for file in others if file.name.lower().startswith(start) and not is_film(file))


def files_of(card: Path) -> list[Path]:
    """Every file of a card that a camera or a person put there, in order; see `walked` for what is left out."""
    return list(walked(card).files)


def units_of(files: Sequence[Path], together: Sequence[Sequence[Path]] = ()) -> list[Unit]:
    """The files as units: a film with what is named after it, pictures of one name, and what is left alone. together: files of
    which is known that they are one recording (parts, the frames of a bracket or a series), in their order."""
    films: dict[tuple[Path, str], list[Path]] = {}
    for file in files:
        if is_film(file):
            films.setdefault((file.parent, file.stem.lower()), []).append(file)
    rest: dict[tuple[Path, str], list[Path]] = {}
    for file in files:
        if is_film(file):
            continue
        name = file.name.lower()
        fits = [key for key in films if key[0] == file.parent and name.startswith(key[1] + ".")]
        if fits:
            films[max(fits, key=lambda key: len(key[1]))].append(file)
        else:
            rest.setdefault((file.parent, file.stem.lower()), []).append(file)
    groups = [sorted(group, key=_rank) for group in (*films.values(), *rest.values())]
    groups = _joined(groups, together)
    return sorted((Unit(tuple(group)) for group in groups), key=lambda unit: str(unit.main))


def _joined(groups: list[list[Path]], together: Sequence[Sequence[Path]]) -> list[list[Path]]:
    """The groups, those made one that hold files of one recording; its own files come first."""
    at = {file: number for number, group in enumerate(groups) for file in group}
    for own in together:
        there = [file for file in own if file in at]
        numbers = list(dict.fromkeys(at[file] for file in there))
        if len(there) < 2 or not numbers:
            continue
        more = [file for number in numbers for file in groups[number] if file not in there]
        groups[numbers[0]] = [*there, *more]
        for number in numbers[1:]:
            groups[number] = []
        at |= dict.fromkeys(groups[numbers[0]], numbers[0])
    return [group for group in groups if group]


class OnCard(Struct, frozen=True):
    """A unit of a card. proofs: for each folder of copies those of its files in their order, None for each that is not proven there."""

    unit: Unit
    name: str  # of its main file, from the card's root
    size_bytes: int
    proofs: tuple[tuple[Proof | None, ...], ...]

    @property
    def safe(self) -> bool:
        """Whether all of it is proven in every folder."""
        return all(proof is not None for of_folder in self.proofs for proof in of_folder)

    @property
    def copies(self) -> tuple[int, ...]:
        """In how many folders each of its files is proven."""
        return tuple(sum(proof is not None for proof in of_file) for of_file in zip(*self.proofs, strict=True))


class Surveyed(Struct, frozen=True):
    """What a card holds: its units, and what of it was not looked at."""

    units: tuple[OnCard, ...]
    unseen: tuple[Unseen, ...] = ()


def survey(card: Path, *folders: Path, together: Sequence[Sequence[Path]] = ()) -> Surveyed:
    """The units of a card, each with the proofs of its copies in folders. together: see `units_of`. Raises OSError where the card
    goes away."""
    ledgers, found = [Ledger(folder) for folder in folders], []
    there = walked(card)
    for unit in units_of(there.files, together):
        names = [text_of(file.relative_to(card).as_posix()) for file in unit.files]
        proofs = tuple(
            tuple(ledger.of_source(name, file) for name, file in zip(names, unit.files, strict=True))
            for ledger in ledgers
        )
        size = sum(file.stat().st_size for file in unit.files)
        found.append(OnCard(unit, names[0], size, proofs))
    return Surveyed(tuple(found), there.unseen)


class Safety(Struct, frozen=True):
    """Whether a card may be cleared. files: how many it has, twice, once, never: how many of them are proven so often; places: how
    many are wanted; unseen: what of the card was not looked at; unlisted: copies that no list of checksums was found to name."""

    files: int
    twice: int
    once: int
    never: int
    places: int
    unseen: tuple[Unseen, ...] = ()
    unlisted: int = 0

    @property
    def clear(self) -> bool:
        """Two proven and listed copies of every file, and nothing left that may be a recording and was not looked at."""
        return self.files > 0 and self.twice == self.files and not self.unlisted and not self._in_doubt

    @property
    def _in_doubt(self) -> list[Unseen]:
        return [one for one in self.unseen if one.matters]

    @property
    def words(self) -> str:
        """What is proven, and what was not looked at."""
        passed = _named(one for one in self.unseen if not one.matters)
        return self._told + (f" Not looked at: {passed}." if passed else "")

    @property
    def _told(self) -> str:
        doubt = self._in_doubt
        unsure = f"{len(doubt)} not looked at: {_named(doubt)}" if doubt else ""
        if not self.files:
            return f"Not known whether the card is empty: {unsure}." if doubt else "The card is empty."
        if self.clear:
            return f"Safe to clear: all {self.files} files are proven in two places."
        if self.never == self.files:
            return f"Not yet safe to clear: none of {self.files} files is copied" + (f", {unsure}." if doubt else ".")
        counts = [(self.twice, "twice"), (self.once, "once"), (self.never, "not at all")]
        told = [f"{count} {how}" for count, how in counts if count]
        told[0] = told[0].replace(" ", f" of {self.files} files proven ", 1)
        if self.twice == self.files and self.unlisted:
            told.append(f"{self.unlisted} of their copies not in a list of checksums")
        told += [unsure] * bool(doubt)
        more = " A second place makes it safe." if self.places < 2 and not self.never and not doubt else ""
        return f"Not yet safe to clear: {', '.join(told)}.{more}"


def _named(unseen: Iterable[Unseen], most: int = 2) -> str:
    """The first of what was not looked at, each with why."""
    told = [f"{one.name} ({one.why})" for one in unseen]
    return ", ".join(told[:most]) + (f" and {len(told) - most} more" if len(told) > most else "")


def safety(found: Surveyed, listed: Sequence[Mapping[str, str]]) -> Safety:
    """What a survey proves of a whole card. listed: of each folder of copies what its newest lists of checksums say, read back from
    them: xxh64 by path; a copy that they do not name so is not counted as listed."""
    copies = [count for unit in found.units for count in unit.copies]
    places = max((len(unit.proofs) for unit in found.units), default=0)
    unlisted = sum(
        proof is not None and known.get(proof.copy) != proof.xxh64
        for unit in found.units
        for of_folder, known in zip(unit.proofs, listed, strict=True)
        for proof in of_folder
    )
    return Safety(
        len(copies),
        sum(c >= 2 for c in copies),
        sum(c == 1 for c in copies),
        sum(c == 0 for c in copies),
        places,
        found.unseen,
        unlisted,
    )

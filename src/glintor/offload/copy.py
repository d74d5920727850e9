"""Verified copies of what is on a card, to one or two places: units are copied, proven and named as one."""

import os
import shutil
import threading
from collections.abc import Callable, Sequence
from pathlib import Path

from msgspec import Struct

from glintor.content import quick_of
from glintor.errors import Cancelled, GlintorError, InputError
from glintor.files import WriteError, file_hash, free_name, write_error
from glintor.names import plain_name, text_of
from glintor.offload.card import OnCard, Unit, beside, is_film, is_picture
from glintor.offload.transfer import CARD_UNHARMED, CopyError, Progress, Sent, sweep_lists, transfer, unread
from glintor.project.ledger import Ledger, Proof
from glintor.types import Report

__all__ = ["Brought", "Copied", "CopyError", "bring_card", "bring_over", "bring_unit"]


class Copied(Struct, frozen=True):
    """A copy and the checksum that both it and the original have.

    from_disk   it was read back from the disk; otherwise this disk only gave it from memory
    companions  the copies of what belongs to it
    """

    target: Path
    xxh64: str
    was_there: bool
    from_disk: bool = True
    companions: tuple[Path, ...] = ()


def bring_over(
    source: Path,
    folder: Path,
    *,
    card: Path | None = None,
    report: Report = lambda _share: None,
    stop: threading.Event | None = None,
) -> Copied:
    """Copies a clip (and what lies beside it) into `folder` and proves it by its checksum; the original is only read.

    A copy that is already there with the same content is kept; one with other content gets a new name beside it, and so
    does what belongs to it. card: the root of the card that it lies on, where it does. Raises CopyError where the
    original goes away or the copy differs; then no copy is left under its name.
    """
    unit = Unit((source, *beside(source)))
    _fits(_size(unit), folder)
    progress = Progress(2 * _size(unit), report, stop)
    copied = bring_unit(unit, [Ledger(folder)], root=card or source.parent, progress=progress)[0]
    if isinstance(copied, GlintorError):
        raise copied
    return copied


class Brought(Struct, frozen=True):
    """What came over from a card: how many files to at least one place, and those that did not come to one of them, each with the reason
    in words; given_up: places that could not be written to any more, each with the reason."""

    files: int
    missed: tuple[tuple[str, str], ...]
    given_up: tuple[tuple[Path, str], ...] = ()


def bring_card(
    card: Path,
    found: Sequence[OnCard],
    folders: Path | Sequence[Path],
    proven: Callable[[OnCard, Copied], None] = lambda _unit, _copied: None,
    *,
    inside: Callable[[Unit], str] = lambda _unit: "",
    report: Report = lambda _share: None,
    stop: threading.Event | None = None,
) -> Brought:
    """Brings units of a card over to one or more folders, one unit after the other. proven(unit, a copy) is called for each as soon as
    it is proven in at least one of them; a unit that cannot be read does not stop the others, and a folder that cannot be written to is
    given up without taking the others along. inside: in which folder of each a unit is put. Raises Cancelled; what was proven stays;
    InputError where none of the folders has room."""
    folders = [folders] if isinstance(folders, Path) else list(folders)
    check_places(card, folders)
    given_up = _without_room(found, folders)
    progress = Progress((1 + len(folders)) * sum(unit.size_bytes for unit in found), report, stop)
    ledgers, files, missed = [Ledger(folder) for folder in folders if folder not in given_up], 0, []
    for unit in found:
        if not ledgers:
            missed.append((unit.name, "none of the places can be written to any more"))
            continue
        try:
            outcome = bring_unit(unit.unit, ledgers, root=card, progress=progress, inside=inside(unit.unit))
        except Cancelled:
            raise
        except (GlintorError, OSError) as error:
            missed.append((unit.name, str(error)))
            continue
        copies = [one for one in outcome if isinstance(one, Copied)]
        if copies:
            files += len(unit.unit.files)
            proven(unit, copies[0])
        for ledger, failed in tuple(zip(ledgers, outcome, strict=True)):
            if isinstance(failed, Copied):
                continue
            missed.append((unit.name, str(failed)))
            if isinstance(failed, WriteError) and failed.all_of_it:
                given_up[ledger.folder] = failed.what
                ledgers.remove(ledger)
    return Brought(files, tuple(missed), tuple(given_up.items()))


def bring_unit(
    unit: Unit, ledgers: Sequence[Ledger], *, root: Path, progress: Progress, inside: str = ""
) -> list[Copied | GlintorError]:
    """Copies a unit whole, to the folder of each ledger: for each the copy, or why there is none. Raises CopyError where the original
    cannot be read, Cancelled."""
    places = [_Place(unit, ledger, inside, progress) for ledger in ledgers]
    for place in places:
        place.choose()
    for number, file in enumerate(unit.files):
        wanting = [place for place in places if place.trouble is None and place.copies[number] is None]
        sent = transfer(file, [place.targets[number] for place in wanting], progress) if wanting else []
        for place, one in zip(wanting, sent, strict=True):
            place.take(number, one)
    for place in places:
        place.keep(root)
    return [place.outcome for place in places]


class _Place:
    """Where a unit is, or will be, in one folder. copies: of each file, those that are proven; trouble: why it cannot be there."""

    def __init__(self, unit: Unit, ledger: Ledger, inside: str, progress: Progress) -> None:
        self._unit, self._ledger, self._folder, self._progress = unit, ledger, ledger.folder / inside, progress
        self.targets: list[Path] = []
        self.copies: list[Sent | None] = [None] * len(unit.files)
        self.trouble: GlintorError | None = None
        self._was_there = True

    def choose(self) -> None:
        """Finds what is there already, and names for the rest. Raises CopyError where the original cannot be read, Cancelled."""
        try:
            self._choose()
        except OSError as error:
            if not all(os.access(file, os.R_OK) for file in self._unit.files):
                raise unread(self._unit.main, error) from error
            self.trouble = write_error(self._folder / self._unit.main.name, error)

    def take(self, number: int, sent: Sent | GlintorError) -> None:
        """What became of a file that was sent here."""
        if isinstance(sent, GlintorError):
            self.trouble = sent
        else:
            self.copies[number] = sent

    def keep(self, root: Path) -> None:
        """Adds what is proven to the ledger. root: of the card."""
        pairs = list(zip(self._unit.files, self.copies, strict=True))
        try:
            proofs = [_proof(file, root, self._ledger.folder, copy) for file, copy in pairs if copy is not None]
            if proofs:
                self._ledger.add(*proofs)
            for copy in self.copies:
                if copy is not None:
                    sweep_lists(copy.target)
        except OSError as error:
            raise unread(self._unit.main, error) from error
        except GlintorError as error:
            self.trouble = self.trouble or error

    @property
    def outcome(self) -> Copied | GlintorError:
        return self.trouble or self._copied

    def _choose(self) -> None:
        suffix, known = self._suffix()
        for number, file in enumerate(self._unit.files):
            target, there = self._folder / self._named(file, suffix), known.get(file)
            if file not in known and target.exists():  # something of another recording, or written by a person
                there = self._hash(target)
                if there != self._hash(file):
                    target, there = free_name(target), None
            self.targets.append(target)
            if there is not None:
                self.copies[number] = Sent(target, there, True)
        self._was_there = all(copy is not None for copy in self.copies)

    def _hash(self, file: Path) -> str:
        return file_hash(file, self._progress, self._progress.stop)

    def _named(self, file: Path, suffix: str) -> str:
        """A file's name in the place: what belongs to a film or picture is named after it."""
        owners = [one.stem for one in self._unit.files if is_film(one) or is_picture(one)]
        fits = [stem for stem in owners if file.name.lower().startswith(f"{stem.lower()}.")]
        stem = max(fits, key=len) if fits else file.stem
        return plain_name(f"{stem}{suffix}{file.name[len(stem) :]}")

    def _suffix(self) -> tuple[str, dict[Path, str]]:
        """What the names need so that no recording of other content lies under them, and the checksums of those of its films and
        pictures that are there already."""
        own = [one for one in self._unit.files if is_film(one) or is_picture(one)] or [self._unit.main]
        originals: dict[Path, str] = {}
        number, suffix = 1, ""
        while True:
            known = {}
            for file in own:
                target = self._folder / self._named(file, suffix)
                if not target.exists():
                    continue
                if target.stat().st_size != file.stat().st_size:
                    break
                if file not in originals:
                    originals[file] = self._hash(file)
                if self._hash(target) != originals[file]:
                    break
                known[file] = originals[file]
            else:
                return suffix, known
            number += 1
            suffix = f"-{number}"

    @property
    def _copied(self) -> Copied:
        copies = [copy for copy in self.copies if copy is not None]
        first = copies[0]
        return Copied(
            first.target,
            first.xxh64,
            self._was_there,
            all(c.from_disk for c in copies),
            tuple(c.target for c in copies[1:]),
        )


def _size(unit: Unit) -> int:
    return sum(file.stat().st_size for file in unit.files if file.exists())


def check_places(card: Path, folders: Sequence[Path]) -> None:
    """Raises InputError where copies would lie on the card itself, or twice in one place."""
    real = [folder.resolve() for folder in folders]
    for folder in real:
        if folder == card.resolve() or card.resolve() in folder.parents:
            raise InputError(
                f"{folder} lies on the card itself.",
                unharmed="Nothing was copied.",
                advice="Choose a folder elsewhere.",
            )
    if len(set(real)) < len(real):
        raise InputError(
            "Both places are the same folder.", unharmed="Nothing was copied.", advice="Choose another second place."
        )


def _without_room(found: Sequence[OnCard], folders: Sequence[Path]) -> dict[Path, str]:
    """Before anything is copied: the folders in which all of it does not fit, each with why; disks may hold more than one of them. Raises
    InputError where no folder is left."""
    needs: dict[int, int] = {}
    full: dict[Path, str] = {}
    for number, folder in enumerate(folders):
        lacking = sum(u.size_bytes for u in found if number >= len(u.proofs) or None in u.proofs[number])
        try:
            disk = _existing(folder).stat().st_dev
            _fits(needs.get(disk, 0) + lacking, folder)
            needs[disk] = needs.get(disk, 0) + lacking
        except InputError as error:
            full[folder] = error.what
            if len(full) == len(folders):
                raise
    return full


def _fits(size: int, folder: Path) -> None:
    free = shutil.disk_usage(_existing(folder)).free
    if size > free:
        raise InputError(
            f"{size / 1e6:.0f} MB are to be copied and {folder} has {free / 1e6:.0f} MB free.",
            unharmed=CARD_UNHARMED,
            advice="Free some space or choose another folder.",
        )


def _proof(source: Path, root: Path, folder: Path, copy: Sent) -> Proof:
    state = copy.target.stat()
    return Proof(
        source=text_of(source.relative_to(root).as_posix()),
        size_bytes=state.st_size,
        quick=quick_of(source),
        copy=text_of(Path(os.path.relpath(copy.target, folder)).as_posix()),
        copy_ns=state.st_mtime_ns,
        xxh64=copy.xxh64,
        from_disk=copy.from_disk,
    )


def _existing(folder: Path) -> Path:
    while not folder.exists() and folder != folder.parent:
        folder = folder.parent
    return folder

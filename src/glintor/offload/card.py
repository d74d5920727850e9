"""What is on a card: its files as units, a clip or picture with everything that belongs to it, and which of them are safe."""

from collections.abc import Sequence
from pathlib import Path

from msgspec import Struct

from glintor.project.ledger import Ledger, Proof

FILMS = (".mp4", ".mov", ".mkv", ".avi")
PICTURES = (".jpg", ".jpeg", ".png", ".tif", ".tiff", ".dng", ".exr", ".hdr", ".webp")
_SYSTEM = ("system volume information", "$recycle.bin", "lost.dir", "found.000")  # folders that systems make on cards


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
    """Every file of a card that a person put there, in order; what systems hide there is left out."""
    found = []
    for file in sorted(card.rglob("*")):
        parts = file.relative_to(card).parts
        hidden = any(part.startswith(".") or part.lower() in _SYSTEM for part in parts)
        if not hidden and file.is_file():
            found.append(file)
    return found


def units_of(files: Sequence[Path]) -> list[Unit]:
    """The files as units: a film with what is named after it, pictures of one name, and what is left alone."""
    films = {(file.parent, file.stem.lower()): [file] for file in files if is_film(file)}
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
    groups = [*films.values(), *rest.values()]
    return sorted((Unit(tuple(sorted(group, key=_rank))) for group in groups), key=lambda unit: str(unit.main))


class OnCard(Struct, frozen=True):
    """A unit of a card. proofs: of its files in their order, None for each that is not proven to be safe."""

    unit: Unit
    name: str  # of its main file, from the card's root
    size_bytes: int
    proofs: tuple[Proof | None, ...]

    @property
    def safe(self) -> bool:
        return all(proof is not None for proof in self.proofs)


def survey(card: Path, folder: Path) -> list[OnCard]:
    """The units of a card, each with the proofs of its copies in a folder. Raises OSError where the card goes away."""
    ledger, found = Ledger(folder), []
    for unit in units_of(files_of(card)):
        names = [file.relative_to(card).as_posix() for file in unit.files]
        proofs = tuple(ledger.of_source(name, file) for name, file in zip(names, unit.files, strict=True))
        size = sum(file.stat().st_size for file in unit.files)
        found.append(OnCard(unit, names[0], size, proofs))
    return found

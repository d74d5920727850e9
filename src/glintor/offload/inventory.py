"""All that a desk shows of a card and a day at one moment, found in one go off the window's thread."""

from collections.abc import Sequence
from pathlib import Path

from msgspec import Struct

from glintor.offload.card import Safety, safety
from glintor.offload.contents import Contents, Entry, entries, known_copies
from glintor.project.model import Project


class Inventory(Struct, frozen=True):
    """What was found of a card and the day, at one moment. safety None: there is no card, or it cannot be read; copies: where proven
    ones are."""

    card: Path | None
    entries: tuple[Entry, ...]
    safety: Safety | None
    copies: dict[str, tuple[str, str]] = {}


def inventory(
    project: Project, file: Path, contents: Contents | None, places: Sequence[Path], *, own: bool
) -> Inventory:
    """What is on the card and in the day; without the card's where it was pulled out."""
    card = contents.root if contents is not None else None
    try:
        there = contents if contents is not None and contents.root.is_dir() else None
        found = entries(project, file, there, places)
    except OSError:
        there, found = None, entries(project, file, None, places)
    units = [e.unit for e in found if e.unit is not None]
    copies = known_copies(project, units, places[0], str(places[0].relative_to(file.parent)), own_card=own)
    return Inventory(card, found, safety(units) if there is not None else None, copies)

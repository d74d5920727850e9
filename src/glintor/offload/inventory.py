"""All that a desk shows of a card and a day at one moment, found in one go off the window's thread."""

from collections.abc import Sequence
from pathlib import Path

from msgspec import Struct

from glintor.offload.card import Safety, Surveyed, safety, survey
from glintor.offload.contents import Contents, Entry, entries, known_copies
from glintor.offload.manifest import listed_hashes
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
        holds = survey(there.root, *places, together=there.together) if there is not None else Surveyed(())
        found = entries(project, file, there, places, surveyed=holds)
    except OSError:
        there, holds, found = None, Surveyed(()), entries(project, file, None, places)
    copies = known_copies(project, holds.units, places[0], str(places[0].relative_to(file.parent)), own_card=own)
    told = safety(holds, [listed_hashes(place) for place in places]) if there is not None else None
    return Inventory(card, found, told, copies)

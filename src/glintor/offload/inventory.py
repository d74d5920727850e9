"""All that a desk shows of a card and a day at one moment, found in one go off the window's thread."""

from collections.abc import Sequence
from pathlib import Path

from msgspec import Struct

from glintor.offload.card import Safety, Surveyed, safety, survey
from glintor.offload.contents import Contents, Entry, entries, known_copies
from glintor.offload.manifest import listed_hashes
from glintor.project.model import Project
from glintor.project.take import Take

_NO_CARD = "No card is in. Put one in, or choose a folder."


class Inventory(Struct, frozen=True):
    """What was found of a card and the day, at one moment. safety None: there is no card, or it cannot be read; copies: where proven
    ones are."""

    card: Path | None
    entries: tuple[Entry, ...]
    safety: Safety | None
    copies: dict[str, tuple[str, str]] = {}

    def words(self, takes: Sequence[Take]) -> str:
        """What became of the card's files; without a card how many of the day's takes are only on one."""
        if self.card is not None and self.safety is None:
            return f"{self.card.name} cannot be read: was it pulled out? What was proven of its copies stays proven."
        if self.safety is None:
            lost = sum(take.only_on_card for take in takes)
            return f"No card is in. {lost} of {len(takes)} takes are only on one." if lost else _NO_CARD
        return self.safety.words


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

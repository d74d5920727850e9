"""A whole card brought to safety: what is not proven yet is copied, lists of checksums are written, and one sentence tells how it stands."""

import threading
from collections.abc import Callable, Sequence
from pathlib import Path

from msgspec import Struct

from glintor.errors import GlintorError, InputError
from glintor.offload.card import OnCard, Safety, Surveyed, Unit, safety, survey
from glintor.offload.copy import Brought, Copied, bring_card, check_places
from glintor.offload.manifest import listed_hashes, write_manifest
from glintor.types import Report


class Offloaded(Struct, frozen=True):
    """What came over, how the card stands now, and what else a person should know. places: where copies are, whole paths."""

    brought: Brought
    found: Surveyed
    safety: Safety
    places: tuple[Path, ...]
    manifests: tuple[Path, ...] = ()
    words: str = ""

    @property
    def units(self) -> tuple[OnCard, ...]:
        return self.found.units


def offload(
    card: Path,
    folders: Sequence[Path],
    *,
    together: Sequence[Sequence[Path]] = (),
    inside: Callable[[Unit], str] = lambda _unit: "",
    proven: Callable[[OnCard, Copied], None] = lambda _unit, _copied: None,
    report: Report = lambda _share: None,
    stop: threading.Event | None = None,
) -> Offloaded:
    """Brings everything of a card that is not proven in every folder over to them. One folder that fails does not take the others along:
    what is wrong with it is among the words. Raises InputError, Cancelled; what was proven until then stays so."""
    card, places = card.absolute(), tuple(folder.resolve() for folder in folders)
    if not card.is_dir():
        raise InputError(f"There is no card at {card}.", unharmed="Nothing was copied.", advice="Put it in.")
    check_places(card, folders)
    try:
        waiting = [unit for unit in survey(card, *places, together=together).units if not unit.safe]
    except OSError as error:
        raise InputError(
            f"The card at {card} cannot be read: {error.strerror or error}.",
            unharmed="What was copied before is safe.",
            advice="Put it back in, or try another reader.",
        ) from error
    brought = bring_card(card, waiting, places, proven, inside=inside, report=report, stop=stop)
    lists, words = [], [f"Nothing more was written to {place}: {why}" for place, why in brought.given_up]
    for place in places:
        try:
            written = write_manifest(place) if place.is_dir() else None
        except GlintorError as error:
            words.append(f"No list of checksums in {place}: {error.what}")
            continue
        if written is not None:
            lists.append(written.file)
            words += [written.words] if written.words else []
    try:
        found = survey(card, *places, together=together)
    except OSError as error:
        raise GlintorError(
            f"The card at {card} went away.",
            unharmed=f"{brought.files} files came over and are proven.",
            advice="Put it back in to see what is missing.",
        ) from error
    proof = safety(found, [listed_hashes(place) for place in places])
    return Offloaded(brought, found, proof, places, tuple(lists), " ".join(words))

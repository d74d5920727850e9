"""A whole card brought to safety: what is not proven yet is copied, lists of checksums are written, and one sentence tells how it stands."""

import threading
from collections.abc import Callable, Sequence
from pathlib import Path

from msgspec import Struct

from glintor.errors import GlintorError, InputError
from glintor.offload.card import OnCard, Safety, Unit, safety, survey
from glintor.offload.copy import Brought, Copied, bring_card, check_places
from glintor.offload.manifest import write_manifest


class Offloaded(Struct, frozen=True):
    """What came over, how the card stands now, and what else a person should know."""

    brought: Brought
    units: tuple[OnCard, ...]
    manifests: tuple[Path, ...] = ()
    words: str = ""

    @property
    def safety(self) -> Safety:
        return safety(self.units)


def offload(
    card: Path,
    folders: Sequence[Path],
    *,
    together: Sequence[Sequence[Path]] = (),
    inside: Callable[[Unit], str] = lambda _unit: "",
    proven: Callable[[OnCard, Copied], None] = lambda _unit, _copied: None,
    report: Callable[[float], None] = lambda _share: None,
    stop: threading.Event | None = None,
) -> Offloaded:
    """Brings everything of a card that is not proven in every folder over to them. Raises InputError, WriteError, ManifestError,
    Cancelled; what was proven until then stays so."""
    if not card.is_dir():
        raise InputError(f"There is no card at {card}.", unharmed="Nothing was copied.", advice="Put it in.")
    check_places(card, folders)
    try:
        waiting = [unit for unit in survey(card, *folders, together=together) if not unit.safe]
    except OSError as error:
        raise InputError(
            f"The card at {card} cannot be read: {error.strerror or error}.",
            unharmed="What was copied before is safe.",
            advice="Put it back in, or try another reader.",
        ) from error
    brought = bring_card(card, waiting, folders, proven, inside=inside, report=report, stop=stop)
    lists, words = [], []
    for folder in folders:
        if folder.is_dir():
            written = write_manifest(folder)
            lists.append(written.file)
            words += [written.words] if written.words else []
    try:
        units = tuple(survey(card, *folders, together=together))
    except OSError as error:
        raise GlintorError(
            f"The card at {card} went away.",
            unharmed=f"{brought.files} files came over and are proven.",
            advice="Put it back in to see what is missing.",
        ) from error
    return Offloaded(brought, units, tuple(lists), " ".join(words))

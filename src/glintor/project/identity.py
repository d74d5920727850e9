"""Whether a file is still the clip that a take was made of: looked at before anything is rendered from it."""

import threading
from collections.abc import Callable
from pathlib import Path

from glintor.content import quick_of
from glintor.errors import InputError
from glintor.files import file_hash
from glintor.project.ledger import ledger_or_none
from glintor.project.store import clip_files
from glintor.project.take import Take

_known: dict[tuple[str, int, int], str] = {}  # checksums found in this session, by path, size and time of change


def proven_clips(
    project_file: Path,
    take: Take,
    report: Callable[[int], None] = lambda _bytes: None,
    stop: threading.Event | None = None,
) -> tuple[Path, ...]:
    """The files of a take. Their content is read once where nobody knows yet that it is the one that was recorded: a copy
    that lies as it was proven is not read again, and of what is only referred to head and tail are. report: bytes read.
    Raises InputError where one is another clip."""
    places = clip_files(project_file, take)
    for place, file in zip(places, take.files, strict=True):
        if file.xxh64:
            same = _checksum(place, report, stop) == file.xxh64
        else:
            same = not file.quick or quick_of(place) == file.quick
        if not same:
            raise InputError(
                f"{place.name} is not the clip of {take.name}: its content is another one now.",
                unharmed="Nothing was rendered.",
                advice="Put the right file back under that name, or copy it from the card again.",
            )
    return places


def _checksum(file: Path, report: Callable[[int], None], stop: threading.Event | None) -> str:
    state = file.stat()
    key = (str(file.resolve()), state.st_size, state.st_mtime_ns)
    if key not in _known:
        ledger = ledger_or_none(file.parent)
        proof = ledger.of_copy(file) if ledger is not None else None
        _known[key] = proof.xxh64 if proof is not None else file_hash(file, report, stop)
    return _known[key]

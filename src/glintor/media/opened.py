"""Footage that was looked into is handed on as it is, its file open and its first picture decoded: to open and seek in a
large recording again would keep a person waiting for most of a second."""

import threading
from collections.abc import Sequence
from pathlib import Path

from glintor.media.footage import Footage, open_footage
from glintor.media.read import Decoded, LatestReader
from glintor.media.taken import TakenAs

Asked = tuple[
    tuple[tuple[Path, int, int], ...], TakenAs
]  # files with size and time of change, and what they are taken for
_lock = threading.Lock()
_kept: dict[Asked, tuple[Footage, LatestReader]] = {}


def look_into(
    files: Sequence[Path], taken_as: TakenAs = TakenAs(), *, keep: bool = True
) -> tuple[Footage, Decoded | None]:
    """Footage and its first picture (None of a photo). keep: hands it on to whoever opens it next, in place of what was kept
    before. Raises ClipError."""
    footage = open_footage(files, taken_as)
    if footage.kind != "film":
        return footage, None
    reader = LatestReader(footage.reader())
    first = reader.at(0.0)
    if keep:
        with _lock:
            left = list(_kept.values())
            _kept.clear()
            _kept[_asked(files, taken_as)] = footage, reader
        for _, old in left:
            old.close()
    else:
        reader.close()
    return footage, first


def open_for_scrubbing(files: Sequence[Path], taken_as: TakenAs = TakenAs()) -> tuple[Footage, LatestReader]:
    """Footage and a reader of its originals: what was kept of the same files, else opened anew. Raises ClipError."""
    with _lock:
        known = _kept.pop(_asked(files, taken_as), None) if _kept else None
    if known is not None:
        return known
    footage = open_footage(files, taken_as)
    return footage, LatestReader(footage.reader())


def _asked(files: Sequence[Path], taken_as: TakenAs) -> Asked:
    stamps = []
    for file in files:
        state = file.stat() if file.exists() else None
        stamps.append((file, state.st_size if state else -1, state.st_mtime_ns if state else -1))
    return tuple(stamps), taken_as

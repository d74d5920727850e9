"""What is not yet saved, beside the project; and which of the two counts when a day is opened again."""

import contextlib
from pathlib import Path

import msgspec
import xxhash
from msgspec import Struct

from glintor.files import set_aside, write_bytes
from glintor.project.model import Project
from glintor.project.store import NewerError, ProjectError, decode, read_bytes

_VERSION = 1
_NOTHING = "none"  # what a journal of a day is based on that was never saved


class _Journal(Struct, frozen=True):
    """The newest state, and a digest of the saved file that it goes beyond."""

    glintor_journal: int
    based_on: str
    project: msgspec.Raw


class Opened(Struct, frozen=True):
    """A day as it is to be worked on.

    digest    of the file as it lies on disk, "" where there is none that can be read
    recovered whether it comes from the journal; damaged: whether the file has to be set aside for that
    stale     a journal that belongs to another version of the file and was not used
    unread    a journal that cannot be read
    """

    project: Project
    digest: str
    recovered: bool = False
    damaged: bool = False
    stale: Path | None = None
    unread: Path | None = None


def digest_of(content: bytes) -> str:
    return xxhash.xxh64_hexdigest(content)


def journal_file(path: Path) -> Path:
    """Where the newest unsaved state of a project lies."""
    return path.with_name(f".{path.name}.journal")


def write_journal(path: Path, project: Project, based_on: str) -> None:
    """Keeps the newest state beside the project until it is saved; a program killed at any time leaves the last whole
    one. Does not wait for the disk, and makes no folder. Raises WriteError."""
    content = msgspec.json.encode(_Journal(_VERSION, based_on or _NOTHING, msgspec.Raw(msgspec.json.encode(project))))
    write_bytes(journal_file(path), content, make_folder=False, synced=False)


def read_journal(path: Path) -> tuple[str, Project] | None:
    """What the journal of a project is based on, and its state; None where there is none that can be read.

    Journals of format 0 held the project alone; what they are based on is then "".
    """
    try:
        content = read_bytes(journal_file(path))
        try:
            kept = msgspec.json.decode(content, type=_Journal)
        except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
            return "", decode(content)
        return kept.based_on, decode(bytes(kept.project))
    except ProjectError:
        return None


def opened(path: Path) -> Opened:
    """The day in a file, with what a killed session had not saved. Changes nothing on disk. Raises ProjectError.

    A journal counts where the file is still the one that it goes beyond, or cannot be read any more; a file that was
    changed since by anything else counts more.
    """
    kept = read_journal(path)
    try:
        content = read_bytes(path)
        project = decode(content, path.name)
    except NewerError:
        raise
    except ProjectError:
        if kept is None:
            raise
        return Opened(kept[1], "", recovered=True, damaged=path.exists())
    digest = digest_of(content)
    if kept is None:
        return Opened(project, digest, unread=journal_file(path) if journal_file(path).exists() else None)
    if kept[1] == project:
        return Opened(project, digest)
    newer = _time(journal_file(path)) >= _time(path)
    if kept[0] == digest or (not kept[0] and newer):
        return Opened(kept[1], digest, recovered=True)
    return Opened(project, digest, stale=journal_file(path) if newer else None)


def taken_up(path: Path) -> tuple[Opened, str]:
    """The day in a file, as `opened`, for whoever is going to write it: what cannot be used is put aside, and what there is to say of that.
    Raises ProjectError."""
    day = opened(path)
    words = "Unsaved changes of the last session were recovered" if day.recovered else ""
    with contextlib.suppress(OSError):  # the first save says what is wrong with that folder
        if day.damaged:
            words = f"The day was damaged; its newest state was recovered, the file kept as {set_aside(path, 'damaged').name}"
        if day.stale is not None:
            words = f"The day was changed elsewhere; unsaved changes of an older session are in {set_aside(day.stale, 'old').name}"
        if day.unread is not None:
            words = f"What the last session had not saved cannot be read; it is kept as {set_aside(day.unread, 'unreadable').name}"
    return day, words


def _time(file: Path) -> int:
    try:
        return file.stat().st_mtime_ns
    except OSError:
        return 0

"""The manifest of a folder of footage: an ASC Media Hash List (ASC MHL v2.0), written by its reference library."""

import contextlib
import io
import os
import shutil
from contextlib import redirect_stdout
from pathlib import Path

from msgspec import Struct

from glintor.errors import InputError
from glintor.files import file_hash, set_aside, write_error
from glintor.project.ledger import Ledger

_LISTS, _BEFORE = "ascmhl", ".ascmhl-before"  # the history, and what it was while a generation is being added
_IGNORED = [".*.part*", ".ascmhl*", ".copies.json*", "ascmhl.broken*"]


class ManifestError(InputError):
    """A folder that has no list of checksums."""


class Written(Struct, frozen=True):
    """The newest manifest; words: what else the person should know, empty as a rule; wrong: what is not as earlier ones say."""

    file: Path
    words: str = ""
    wrong: tuple[str, ...] = ()


def write_manifest(folder: Path) -> Written:
    """Adds a generation with the xxh64 of every file in `folder` that the history does not have yet.

    What was proven when it was copied and lies as it lay then is not read again; the rest is, and compared with earlier
    generations; what changed or is missing is told and stays listed as it was. A generation that was cut short by a kill is
    taken back; a history that cannot be read is set aside and a new one begun. Raises WriteError.
    """
    lists = folder / _LISTS
    words = ""
    try:
        _take_back(folder)
        if not _sound(lists):
            words = _set_lists_aside(lists)
        found = _differing(folder)
        if found.files:
            _begin(folder)
            try:
                _add_generation(folder, found)
                _sync(lists)
            except BaseException:
                _take_back(folder)
                raise
            _forget(folder)
    except OSError as error:
        raise write_error(lists, error) from error
    if found.wrong:
        more = f" and {len(found.wrong) - 2} more" if len(found.wrong) > 2 else ""
        words = " ".join(
            filter(None, [words, f"In {folder.name} since it was copied: {', '.join(found.wrong[:2])}{more}."])
        )
    return Written(max(lists.glob("*.mhl"), default=lists), words, found.wrong)


class _Found(Struct, frozen=True):
    """What a new generation is made of: files with their xxh64; and what is not as the history says, in words."""

    files: tuple[tuple[Path, str], ...]
    wrong: tuple[str, ...]


def listed_files(folder: Path) -> list[Path]:
    """The files of a folder that a manifest speaks of, in order."""
    found = []
    for file in sorted(folder.rglob("*")):
        parts = file.relative_to(folder).parts
        if not any(part.startswith((".", "ascmhl")) for part in parts) and file.is_file():
            found.append(file)
    return found


def known_hashes(folder: Path) -> dict[str, tuple[str, str]]:
    """What a folder's history says: by path in it with `/`, the first checksum that it knows and how that was made. Raises
    ManifestError where there is none."""
    from ascmhl.errors import NoMHLHistoryException
    from ascmhl.history import MHLHistory  # slow to import

    try:
        with redirect_stdout(io.StringIO()):
            history = MHLHistory.load_from_path(str(folder))
    except NoMHLHistoryException:
        history = None
    if history is None or not history.hash_lists:
        raise ManifestError(
            f"{folder} has no list of checksums.",
            advice="Choose a folder that was copied with proof (it holds ascmhl).",
        )
    known: dict[str, tuple[str, str]] = {}
    for hash_list in history.hash_lists:
        for one in hash_list.media_hashes:
            told = [e for e in one.hash_entries if e.action != "failed"]
            if not one.is_directory and told:
                best = next((e for e in told if e.hash_format == "xxh64"), told[0])
                known.setdefault(one.path.replace(os.sep, "/"), (best.hash_string, best.hash_format))
    return known


def _differing(folder: Path) -> _Found:
    ledger = Ledger(folder)
    known = known_hashes(folder) if (folder / _LISTS).exists() else {}
    proofs = ledger.of_copies()
    files, wrong = [], []
    listed = {file.relative_to(folder).as_posix(): file for file in listed_files(folder)}
    for name, file in listed.items():
        proof = proofs.get(name)
        if name in known and proof is not None:
            continue
        own = proof.xxh64 if proof is not None else file_hash(file)
        if name not in known:
            files.append((file, own))
        elif known[name][1] == "xxh64" and known[name][0] != own:
            wrong.append(f"{name} was altered")
    wrong += [f"{name} is missing" for name in known if name not in listed]
    return _Found(tuple(files), tuple(wrong))


def _sound(lists: Path) -> bool:
    """Whether every list of a history is there whole, with the checksum that its chain says; one that is not there is."""
    if not lists.exists():
        return True
    from ascmhl.hasher import hash_file  # both are slow to import
    from lxml import etree

    try:
        chain = etree.parse(lists / "ascmhl_chain.xml")
        told = [
            (one.findtext("{*}path") or "", one.findtext("{*}c4") or "") for one in chain.getroot().iter("{*}hashlist")
        ]
        for path, c4 in told:
            etree.parse(lists / path)
            if hash_file(str(lists / path), "c4") != c4:
                return False
    except (OSError, etree.XMLSyntaxError):
        return False
    return {path for path, _ in told} == {file.name for file in lists.glob("*.mhl")}


def _set_lists_aside(lists: Path) -> str:
    aside = set_aside(lists, "broken")
    return f"The list of checksums was damaged; it is kept as {aside.name} and a new one was begun."


def _begin(folder: Path) -> None:
    """Keeps a copy of the history as it is, whole under its name or not at all."""
    made = folder / f"{_BEFORE}.making"
    shutil.rmtree(made, ignore_errors=True)
    lists = folder / _LISTS
    if lists.exists():
        shutil.copytree(lists, made)
    else:
        made.mkdir()
    _sync(made)
    made.replace(folder / _BEFORE)


def _take_back(folder: Path) -> None:
    """Puts the history back to what it was before a generation that was not finished."""
    before = folder / _BEFORE
    if not before.exists():
        return
    shutil.rmtree(folder / _LISTS, ignore_errors=True)
    if any(before.iterdir()):
        before.replace(folder / _LISTS)
    else:
        before.rmdir()


def _forget(folder: Path) -> None:
    """Removes the kept history under another name, so that half of it is never taken for the whole."""
    done = folder / f"{_BEFORE}.done"
    shutil.rmtree(done, ignore_errors=True)
    (folder / _BEFORE).replace(done)
    shutil.rmtree(done, ignore_errors=True)


def _add_generation(folder: Path, found: _Found) -> None:
    import datetime

    from ascmhl import commands, ignore  # slow to import
    from ascmhl.generator import MHLGenerationCreationSession
    from ascmhl.history import MHLHistory

    with redirect_stdout(io.StringIO()):
        history = MHLHistory.load_from_path(str(folder))
        told = ignore.MHLIgnoreSpec(history.latest_ignore_patterns(), _IGNORED, None)
        session = MHLGenerationCreationSession(history, told)
        for file, xxh64 in found.files:
            state = file.stat()
            changed = datetime.datetime.fromtimestamp(state.st_mtime)
            session.append_file_hash(str(file), state.st_size, changed, "xxh64", xxh64)
        commands.commit_session(session, None, None, None, None, None, None)


def _sync(folder: Path) -> None:
    """Waits until the disk has the files of a folder."""
    for file in [*folder.iterdir(), folder]:
        with contextlib.suppress(OSError):
            handle = os.open(file, os.O_RDONLY)
            try:
                os.fsync(handle)
            finally:
                os.close(handle)

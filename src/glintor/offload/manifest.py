"""The manifest of a folder of footage: an ASC Media Hash List (ASC MHL v2.0), written by its reference library."""

import contextlib
import io
import os
import shutil
from contextlib import redirect_stdout
from functools import lru_cache
from pathlib import Path

from msgspec import Struct

from glintor.errors import InputError
from glintor.files import file_hash, set_aside, write_error
from glintor.names import plain_name, text_of
from glintor.project.ledger import Ledger
from glintor.walk import walked

_LISTS, _BEFORE = "ascmhl", ".ascmhl-before"  # the history, and what it was while a generation is being added
_IGNORED = [".*.part*", ".ascmhl*", ".copies.json*", "ascmhl.broken*"]


class ManifestError(InputError):
    """A folder that has no list of checksums, or one that is damaged."""


class Written(Struct, frozen=True):
    """The newest manifest; words: what else the person should know, empty as a rule; wrong: what is not as earlier ones say."""

    file: Path
    words: str = ""
    wrong: tuple[str, ...] = ()


def write_manifest(folder: Path) -> Written:
    """Adds a generation with the xxh64 of every file in `folder` that the history does not have yet.

    What was proven when it was copied and lies as it lay then is not read again; the rest is, and compared with earlier
    generations; what changed or is missing is told and stays listed as it was. A generation that was cut short by a kill is
    taken back; a history that cannot be read is set aside and a new one begun. What cannot be listed is told. Raises WriteError,
    ManifestError where what was written does not read back.
    """
    folder = folder.resolve()
    lists = folder / _LISTS
    words = ""
    try:
        _take_back(folder)
        if lists.exists() and _fault_of(lists):
            words = _set_lists_aside(lists)
        found = _differing(folder)
        if found.files:
            _begin(folder)
            try:
                _add_generation(folder, found)
                _sync(lists)
                _read_back(folder, found)
            except BaseException:
                _take_back(folder)
                raise
            _forget(folder)
    except OSError as error:
        raise write_error(lists, error) from error
    if found.wrong:
        more = f" and {len(found.wrong) - 2} more" if len(found.wrong) > 2 else ""
        words = " ".join(filter(None, [words, f"In {folder.name}: {', '.join(found.wrong[:2])}{more}."]))
    return Written(max(lists.glob("*.mhl"), default=lists), words, found.wrong)


class _Found(Struct, frozen=True):
    """What a new generation is made of: files with their xxh64; and what is not as the history says or cannot be listed, in words."""

    files: tuple[tuple[Path, str], ...]
    wrong: tuple[str, ...]


class Listed(Struct, frozen=True):
    """The files of a folder that a manifest speaks of, by their path in it; and of what it cannot: unreadable folders and files, and
    names that no list can hold."""

    files: dict[str, Path]
    unreadable: tuple[str, ...] = ()
    unnamed: tuple[str, ...] = ()


def listed_files(folder: Path) -> Listed:
    """What a folder of copies holds beside its lists. Raises OSError where it cannot be read itself."""
    there = walked(folder)
    own = [file for file in there.files if not file.relative_to(folder).parts[0].startswith("ascmhl")]
    named = {file.relative_to(folder).as_posix(): file for file in own}
    odd = [name for name in named if plain_name(name) != name]
    unreadable = tuple(one.name for one in there.unseen if one.why.startswith("cannot be read"))
    return Listed(
        {name: file for name, file in named.items() if name not in odd},
        unreadable,
        tuple(text_of(name) for name in odd),
    )


def known_hashes(folder: Path) -> dict[str, tuple[str, str]]:
    """What a folder's history says: by path in it with `/`, the first checksum that it knows and how that was made. Raises
    ManifestError where there is none."""
    from ascmhl.errors import NoMHLHistoryException
    from ascmhl.history import MHLHistory  # slow to import

    folder = folder.resolve()
    lists = folder / _LISTS
    fault, history = _fault_of(lists) if lists.exists() else "", None
    if not fault:
        try:
            with redirect_stdout(io.StringIO()):
                history = MHLHistory.load_from_path(str(folder))
        except NoMHLHistoryException:
            pass
        except Exception as error:  # whatever the library cannot take of a list that others wrote
            fault = f"{type(error).__name__}: {error}"
    if fault:
        raise ManifestError(
            f"The list of checksums of {folder} is damaged: {fault}.",
            unharmed="The files beside it were not read and are as they were.",
            advice="Bring the card over once more: what is there is proven again and a new list begun.",
        )
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


def listed_hashes(folder: Path) -> dict[str, str]:
    """xxh64 by path, as the lists of a folder say when they are read back; nothing where there is none that can be read."""
    lists = (folder / _LISTS).resolve()
    try:
        state = tuple(sorted((file.name, file.stat().st_mtime_ns, file.stat().st_size) for file in lists.iterdir()))
    except OSError:
        return {}
    return _listed(lists.parent, state)


@lru_cache(maxsize=8)
def _listed(folder: Path, _state: object) -> dict[str, str]:
    try:
        if _fault_of(folder / _LISTS):
            return {}
        return {name: digest for name, (digest, how) in known_hashes(folder).items() if how == "xxh64"}
    except ManifestError:
        return {}


def _read_back(folder: Path, written: _Found) -> None:
    """Whether a generation that was written says what it should. Raises ManifestError."""
    told = listed_hashes(folder)
    lacking = [name for file, xxh64 in written.files if told.get(name := file.relative_to(folder).as_posix()) != xxh64]
    if lacking:
        raise ManifestError(
            f"The list of checksums of {folder} does not read back as it was written: {lacking[0]} is not in it.",
            unharmed="The copies are unharmed; the list is as it was before.",
            advice="Bring the card over once more; if it happens twice, use another disk.",
        )


def _differing(folder: Path) -> _Found:
    ledger = Ledger(folder)
    known = known_hashes(folder) if (folder / _LISTS).exists() else {}
    proofs = ledger.of_copies()
    listed = listed_files(folder)
    files = []
    wrong = [f"{name} cannot be listed by its name" for name in listed.unnamed]
    wrong += [f"{name} cannot be read" for name in listed.unreadable]
    for name, file in listed.files.items():
        proof = proofs.get(name)
        if name in known and proof is not None:
            continue
        try:
            own = proof.xxh64 if proof is not None else file_hash(file)
        except OSError as error:
            wrong.append(f"{name} cannot be read: {error.strerror or error}")
            continue
        if name not in known:
            files.append((file, own))
        elif known[name][1] == "xxh64" and known[name][0] != own:
            wrong.append(f"{name} was altered")
    hidden = (*listed.unreadable, *(f"{one}/" for one in listed.unreadable))
    wrong += [f"{name} is missing" for name in known if name not in listed.files and not name.startswith(hidden)]
    return _Found(tuple(files), tuple(wrong))


def _fault_of(lists: Path) -> str:
    """What is wrong with a history, in words: a list that is not there whole, with the checksum that its chain says; "" for nothing."""
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
                return f"{path} is not as it was written"
        there = {file.name for file in lists.glob("*.mhl") if not file.name.startswith("._")}
    except (OSError, etree.XMLSyntaxError, ValueError) as error:
        return str(error).split(",")[0]
    odd = sorted({path for path, _ in told} ^ there)
    return f"{odd[0]} and its chain do not fit together" if odd else ""


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

"""The manifest of a folder of footage: an ASC Media Hash List (ASC MHL v2.0), written by its reference library."""

import contextlib
import io
import os
import shutil
from contextlib import redirect_stdout
from pathlib import Path

from msgspec import Struct

from glintor.errors import GlintorError
from glintor.files import set_aside, write_error

_LISTS, _BEFORE = "ascmhl", ".ascmhl-before"  # the history, and what it was while a generation is being added
_IGNORED = [".*.part*", ".ascmhl*", ".copies.json*", "ascmhl.broken*"]


class ManifestError(GlintorError):
    """The folder no longer holds what its manifest says."""


class Written(Struct, frozen=True):
    """The newest manifest; words: what else the person should know, empty as a rule."""

    file: Path
    words: str = ""


def write_manifest(folder: Path) -> Written:
    """Adds a generation with the xxh64 of every file in `folder`.

    Files of earlier generations are checked again. A generation that was cut short by a kill is taken back; a history
    that cannot be read is set aside and a new one begun. Raises ManifestError where a file changed or is missing,
    WriteError.
    """
    lists = folder / _LISTS
    words = ""
    try:
        _take_back(folder)
        if not _sound(lists):
            words = _set_lists_aside(lists)
        _begin(folder)
        try:
            _add_generation(folder)
            _sync(lists)
        except BaseException:
            _take_back(folder)
            raise
        _forget(folder)
    except OSError as error:
        raise write_error(lists, error) from error
    return Written(max(lists.glob("*.mhl")), words)


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


def _add_generation(folder: Path) -> None:
    from ascmhl import commands  # slow to import
    from ascmhl.errors import CompletenessCheckFailedException, VerificationFailedException

    try:
        with redirect_stdout(io.StringIO()):
            commands.create_for_folder_subcommand(
                str(folder), False, False, ["xxh64"], False, None, None, None, None, None, None, _IGNORED
            )
    except (VerificationFailedException, CompletenessCheckFailedException) as error:
        raise ManifestError(
            f"{folder.name} no longer holds what its manifest says: {error.message}",
            unharmed="Nothing was changed.",
            advice="Copy the file that differs from the card again, under a new name.",
        ) from error


def _sync(folder: Path) -> None:
    """Waits until the disk has the files of a folder."""
    for file in [*folder.iterdir(), folder]:
        with contextlib.suppress(OSError):
            handle = os.open(file, os.O_RDONLY)
            try:
                os.fsync(handle)
            finally:
                os.close(handle)

"""Whether a folder of copies still holds what its list of checksums says: every file read again."""

import threading
from pathlib import Path

from msgspec import Struct

from glintor.files import file_hash
from glintor.offload.manifest import ManifestError, known_hashes, listed_files
from glintor.offload.transfer import Progress
from glintor.project.ledger import Ledger
from glintor.types import Report


class Verified(Struct, frozen=True):
    """Files by what became of them, as paths in the folder with `/`: the same as listed, altered, missing, unreadable, and those that
    no list speaks of."""

    same: tuple[str, ...] = ()
    altered: tuple[str, ...] = ()
    missing: tuple[str, ...] = ()
    unread: tuple[str, ...] = ()
    unlisted: tuple[str, ...] = ()

    @property
    def sound(self) -> bool:
        return not (self.altered or self.missing or self.unread)

    @property
    def words(self) -> str:
        count = len(self.same) + len(self.altered) + len(self.missing) + len(self.unread)
        told = [
            f"{len(names)} {how}: {', '.join(names[:5])}" + (f" and {len(names) - 5} more" if len(names) > 5 else "")
            for names, how in ((self.altered, "altered"), (self.missing, "missing"), (self.unread, "unreadable"))
            if names
        ]
        more = f"; {len(self.unlisted)} not listed" if self.unlisted else ""
        if self.sound:
            return f"{count} files, all as they were copied{more}."
        return f"{count} files, " + "; ".join(told) + f"{more}."


def verify(folder: Path, *, report: Report = lambda _share: None, stop: threading.Event | None = None) -> Verified:
    """Reads every listed file of a folder again. Raises ManifestError where there is no list, Cancelled."""
    if not folder.is_dir():
        raise ManifestError(f"There is no folder {folder}.", advice="Check the name and the disk.")
    folder = folder.resolve()
    known = known_hashes(folder)
    found = listed_files(folder)
    listed = found.files
    there = [name for name in known if name in listed]
    progress = Progress(sum(listed[name].stat().st_size for name in there), report, stop)
    same: list[str] = []
    altered: list[str] = []
    closed = (*found.unreadable, *(f"{one}/" for one in found.unreadable))
    unread = [name for name in known if name not in listed and name.startswith(closed)] if closed else []
    for name in there:
        wanted, how = known[name]
        try:
            digest = _hash(listed[name], how, progress)
        except OSError:
            unread.append(name)
            continue
        (same if digest == wanted else altered).append(name)
    missing = [name for name in known if name not in listed and name not in unread]
    unlisted = [*(name for name in listed if name not in known), *found.unnamed]
    return Verified(*(tuple(names) for names in (same, altered, missing, unread, unlisted)))


def prove_again(folder: Path, *, report: Report = lambda _share: None, stop: threading.Event | None = None) -> Verified:
    """Verifies a folder; what is not as it was listed counts as proven no longer. Raises ManifestError, WriteError, Cancelled."""
    found = verify(folder, report=report, stop=stop)
    if not found.sound:
        Ledger(folder).forget((*found.altered, *found.missing, *found.unread))
    return found


def _hash(file: Path, how: str, progress: Progress) -> str:
    if how == "xxh64":
        return file_hash(file, progress, progress.stop)
    from ascmhl.hasher import hash_file  # of lists that others wrote

    progress.check()
    progress(file.stat().st_size)
    return str(hash_file(str(file), how))

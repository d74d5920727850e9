"""Verified copies: read once and hashed on the way, written whole, read back from the disk and compared."""

import os
import shutil
import threading
from collections.abc import Callable
from pathlib import Path

import xxhash
from msgspec import Struct

from glintor.errors import Cancelled, GlintorError, InputError
from glintor.files import file_hash, free_name, whole_file
from glintor.offload.card import OnCard, Unit, beside
from glintor.project.ledger import Ledger, Proof, quick_of

_BLOCK = 4 * 1024 * 1024
_CARD_UNHARMED = "The card is unharmed."


class CopyError(GlintorError):
    """A copy that is not the same as its original, or an original that went away."""


class Copied(Struct, frozen=True):
    """A copy and the checksum that both it and the original have.

    from_disk   it was read back from the disk; otherwise this disk only gave it from memory
    companions  the copies of what belongs to it
    """

    target: Path
    xxh64: str
    was_there: bool
    from_disk: bool = True
    companions: tuple[Path, ...] = ()


class _Progress:
    """Bytes read and read back, of a whole, as a share."""

    def __init__(self, total: int, report: Callable[[float], None], stop: threading.Event | None) -> None:
        self._total, self._report, self._done, self.stop = max(2 * total, 1), report, 0, stop

    def __call__(self, read: int) -> None:
        self._done += read
        self._report(min(self._done / self._total, 1.0))


def bring_over(
    source: Path,
    folder: Path,
    *,
    card: Path | None = None,
    report: Callable[[float], None] = lambda _share: None,
    stop: threading.Event | None = None,
) -> Copied:
    """Copies a clip (and what lies beside it) into `folder` and proves it by its checksum; the original is only read.

    A copy that is already there with the same content is kept; one with other content gets a new name beside it, and so
    does what belongs to it. card: the root of the card that it lies on, where it does. Raises CopyError where the
    original goes away or the copy differs; then no copy is left under its name.
    """
    unit = Unit((source, *beside(source)))
    progress = _Progress(_size(unit), report, stop)
    return bring_unit(unit, folder, Ledger(folder), root=card or source.parent, progress=progress)


class Brought(Struct, frozen=True):
    """What came over from a card: how many files, and those that did not, each with the reason in words."""

    files: int
    missed: tuple[tuple[str, str], ...]


def bring_card(
    card: Path,
    found: list[OnCard],
    folder: Path,
    proven: Callable[[OnCard, Copied], None],
    *,
    report: Callable[[float], None] = lambda _share: None,
    stop: threading.Event | None = None,
) -> Brought:
    """Brings units of a card over one after the other. proven(unit, copy) is called for each as soon as it is proven;
    one that cannot be read does not stop the others. Raises Cancelled; what was proven stays."""
    progress = _Progress(sum(unit.size_bytes for unit in found), report, stop)
    ledger, files, missed = Ledger(folder), 0, []
    for unit in found:
        try:
            copied = bring_unit(unit.unit, folder, ledger, root=card, progress=progress)
        except Cancelled:
            raise
        except (GlintorError, OSError) as error:
            missed.append((unit.name, str(error)))
            continue
        files += len(unit.unit.files)
        proven(unit, copied)
    return Brought(files, tuple(missed))


def bring_unit(unit: Unit, folder: Path, ledger: Ledger, *, root: Path, progress: _Progress) -> Copied:
    """Copies a unit whole; see `bring_over`. What an interrupted copy left is taken up again."""
    source = unit.main
    try:
        _need_room(unit, folder)
        stem, original = _stem_for(source, folder, progress)
        copies = [_copied(source, folder / f"{stem}{source.suffix}", original, progress)]
        for other in unit.files[1:]:
            target = folder / f"{stem}{other.name[len(source.stem) :]}"
            there = _hash_of(target, progress)
            if there is not None and there != _hash_of(other, progress):
                target = free_name(target)
                there = None
            copies.append(_copied(other, target, there, progress))
        ledger.add(*(_proof(file, root, copy) for file, copy in zip(unit.files, copies, strict=True)))
    except FileNotFoundError as error:
        raise _unread(source, error) from error
    first = copies[0]
    return Copied(
        first.target,
        first.xxh64,
        all(c.was_there for c in copies),
        all(c.from_disk for c in copies),
        tuple(c.target for c in copies[1:]),
    )


def _size(unit: Unit) -> int:
    return sum(file.stat().st_size for file in unit.files if file.exists())


def _need_room(unit: Unit, folder: Path) -> None:
    size = sum(file.stat().st_size for file in unit.files)
    free = shutil.disk_usage(_existing(folder)).free
    if size > free:
        raise InputError(
            f"{unit.main.name} needs {size / 1e6:.0f} MB and {folder} has {free / 1e6:.0f} MB free.",
            unharmed=_CARD_UNHARMED,
            advice="Free some space or choose another folder.",
        )


def _stem_for(source: Path, folder: Path, progress: _Progress) -> tuple[str, str | None]:
    """The stem under which a main file is or will be copied, and its checksum where a copy of it is already there."""
    original, number, stem = None, 1, source.stem
    while (target := folder / f"{stem}{source.suffix}").exists():
        if target.stat().st_size == source.stat().st_size:
            original = original or file_hash(source, progress, progress.stop)
            if file_hash(target, progress, progress.stop) == original:
                return stem, original
        number += 1
        stem = f"{source.stem}-{number}"
    return stem, None


def _copied(source: Path, target: Path, there: str | None, progress: _Progress) -> Copied:
    """One file copied and proven; `there` is the checksum of a copy that has just been compared."""
    if there is not None:
        return Copied(target, there, True)
    digest = xxhash.xxh64()
    with whole_file(target, sources=[source]) as part:
        try:
            handle = source.open("rb")
        except OSError as error:
            raise _unread(source, error) from error
        with handle as original_file, part.open("wb") as copy_file:
            while block := _read(original_file, source):
                if progress.stop is not None and progress.stop.is_set():
                    raise Cancelled
                digest.update(block)
                copy_file.write(block)
                progress(len(block))
            copy_file.flush()
            os.fsync(copy_file.fileno())
            from_disk = _let_go(copy_file.fileno())
        if file_hash(part, progress, progress.stop) != digest.hexdigest():
            raise CopyError(
                f"The copy of {source.name} is not the same as the original.",
                unharmed=f"{_CARD_UNHARMED} The bad copy was removed.",
                advice="Copy it again; if it happens twice, use another disk or card reader.",
            )
    return Copied(target, digest.hexdigest(), False, from_disk)


def _read(handle, source: Path) -> bytes:  # type: ignore[no-untyped-def]
    try:
        return handle.read(_BLOCK)
    except OSError as error:
        raise _unread(source, error) from error


def _unread(source: Path, error: OSError) -> CopyError:
    gone = isinstance(error, FileNotFoundError)
    return CopyError(
        f"{source.name} went away while it was read."
        if gone
        else f"{source.name} cannot be read: {error.strerror or error}.",
        unharmed="No copy was left half done.",
        advice="Put the card back in." if gone else "Try another reader, or the card in the camera.",
    )


def _let_go(handle: int) -> bool:
    """Has the system forget what it holds of a written file, so that reading it back asks the disk; whether it did.

    Some file systems (in memory, some over a network) keep everything whatever is asked of them.
    """
    os.posix_fadvise(handle, 0, 0, os.POSIX_FADV_DONTNEED)
    try:
        reading = os.open(f"/proc/self/fd/{handle}", os.O_RDONLY)
    except OSError:
        return False
    try:
        os.preadv(reading, [bytearray(4096)], 0, os.RWF_NOWAIT)
    except BlockingIOError:
        return True  # nothing of it is in memory
    except OSError:
        return False
    finally:
        os.close(reading)
    return os.fstat(handle).st_size == 0


def _hash_of(file: Path, progress: _Progress) -> str | None:
    return file_hash(file, progress, progress.stop) if file.exists() else None


def _proof(source: Path, root: Path, copy: Copied) -> Proof:
    name = source.relative_to(root).as_posix()
    state = copy.target.stat()
    return Proof(
        source=name,
        size_bytes=state.st_size,
        quick=quick_of(source),
        copy=copy.target.name,
        copy_ns=state.st_mtime_ns,
        xxh64=copy.xxh64,
        from_disk=copy.from_disk,
    )


def _existing(folder: Path) -> Path:
    while not folder.exists() and folder != folder.parent:
        folder = folder.parent
    return folder

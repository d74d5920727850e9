"""Writing files so that a reader sees the old one or the whole new one, never half of either."""

import contextlib
import errno
import hashlib
import os
import threading
import uuid
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path

from glintor.errors import Cancelled, GlintorError, InputError

_FULL = {errno.ENOSPC, errno.EDQUOT, errno.EFBIG}
_CLOSED = {errno.EACCES, errno.EPERM, errno.EROFS}
_BLOCK = 4 * 1024 * 1024
_NAME_MOST = 255  # bytes of a file's name on the usual file systems
_PART_BYTES = 60  # what a temporary name adds at most


class SourceError(InputError):
    """A file was to be written over what it is made from, or over other footage."""


def same_file(a: Path, b: Path) -> bool:
    """Whether two names lead to one file, whatever they are: links, another spelling, another folder."""
    try:
        return a.samefile(b) or a.resolve() == b.resolve()
    except OSError:
        return a.resolve() == b.resolve()  # one that is not there yet, by a roundabout name


def refuse_sources(target: Path, sources: Iterable[Path]) -> None:
    """Raises SourceError where `target` is one of the files that must never be written."""
    for source in sources:
        if same_file(target, source):
            raise SourceError(
                f"{target.name} is footage itself: writing there would destroy it.",
                unharmed="Nothing was written.",
                advice="Choose another name or folder.",
            )


class WriteError(GlintorError):
    """A file could not be written; the message names the folder and what is unharmed. all_of_it: whether nothing else can be written
    there either."""

    all_of_it = False


def write_error(target: Path, error: OSError) -> WriteError:
    """The words for a failed write of `target`, by what the system said."""
    if error.errno in _FULL:
        what, advice = (
            f"No space left in {target.parent} for {target.name}.",
            "Free some space or choose another folder.",
        )
    elif error.errno in _CLOSED:
        what, advice = f"{target.parent} cannot be written to.", "Choose another folder or change its permissions."
    elif error.errno in (errno.ENOTDIR, errno.EEXIST):
        what, advice = f"{target.parent} is not a folder.", "Choose a folder to write to."
    elif error.errno == errno.ENAMETOOLONG:
        what, advice = f"The name {target.name} is too long for this disk.", "Choose a shorter name."
    elif error.errno == errno.ENOENT:
        what, advice = f"The folder {target.parent} is gone.", "Put the disk or card back, or choose another folder."
    else:
        what, advice = (
            f"{target.name} could not be written: {error.strerror or error}.",
            "Try another folder or disk.",
        )
    failed = WriteError(what, unharmed="Everything that was there before is unharmed.", advice=advice)
    failed.all_of_it = error.errno not in (errno.ENAMETOOLONG, errno.EINVAL, errno.EISDIR)
    return failed


def _part_stem(target: Path) -> str:
    """The beginning of a temporary name: the target's stem, or a digest of one that leaves no room for more."""
    if len(os.fsencode(target.name)) + _PART_BYTES <= _NAME_MOST:
        return target.stem
    return hashlib.sha256(os.fsencode(target.name)).hexdigest()[:24]


@contextlib.contextmanager
def whole_file(
    target: Path, *, sources: Iterable[Path] = (), make_folder: bool = True, synced: bool = True
) -> Iterator[Path]:
    """Gives a temporary name beside `target`; on leaving, the file there is synced and renamed to `target`.

    sources      files that must never be written; where `target` is one of them a SourceError is raised
    make_folder  makes the folder where it is missing; otherwise that is a WriteError
    synced       waits until the disk has it. Without, a killed program still leaves the old file or the whole new one

    Where the block raises, the temporary file is removed and `target` stays as it was. An OSError becomes a
    WriteError in words. The temporary name keeps the suffix, since writers choose the format by it.
    """
    refuse_sources(target, sources)
    part = target.with_name(f".{_part_stem(target)}.{os.getpid()}-{uuid.uuid4().hex[:8]}.part{target.suffix}")
    try:
        if make_folder:
            target.parent.mkdir(parents=True, exist_ok=True)
        _sweep(target)
        yield part
        with part.open("rb+") as handle:
            if synced:
                os.fsync(handle.fileno())
            else:
                os.posix_fadvise(handle.fileno(), 0, 0, os.POSIX_FADV_DONTNEED)  # begins to write it, waits for nothing
        part.replace(target)
        if synced:
            sync_folder(target.parent)
    except OSError as error:
        raise write_error(target, error) from error
    finally:
        with contextlib.suppress(OSError):
            part.unlink(missing_ok=True)


def write_bytes(target: Path, content: bytes, *, make_folder: bool = True, synced: bool = True) -> None:
    """Writes `content` to `target` whole. Raises WriteError."""
    with whole_file(target, make_folder=make_folder, synced=synced) as part:
        part.write_bytes(content)


def file_hash(
    path: Path, report: Callable[[int], None] = lambda _bytes: None, stop: threading.Event | None = None
) -> str:
    """xxh64 of a file's content, as 16 hexadecimal digits. Raises Cancelled, OSError."""
    import xxhash

    digest = xxhash.xxh64()
    with path.open("rb") as handle:
        while block := handle.read(_BLOCK):
            if stop is not None and stop.is_set():
                raise Cancelled
            digest.update(block)
            report(len(block))
    return digest.hexdigest()


def process_began(pid: int) -> str:
    """When a process of this machine began, in the system's ticks; "" where there is none."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[-1].split()[19]
    except (OSError, IndexError):
        return ""


def free_name(target: Path) -> Path:
    """`target`, or the first of NAME-2, NAME-3 ... that is not taken."""
    number, other = 1, target
    while other.exists():
        number += 1
        other = target.with_name(f"{target.stem}-{number}{target.suffix}")
    return other


def set_aside(file: Path, why: str) -> Path:
    """Renames a file (or folder) that cannot be used to NAME.WHY, NAME.WHY-2 ...; returns where it lies now."""
    number, aside = 1, file.with_name(f"{file.name}.{why}")
    while aside.exists():
        number += 1
        aside = file.with_name(f"{file.name}.{why}-{number}")
    file.replace(aside)
    return aside


def _sweep(target: Path) -> None:
    """Removes what a killed program left of its own attempts at this file."""
    import glob  # not needed to open a window

    for left in target.parent.glob(f".{glob.escape(_part_stem(target))}.*-*.part{glob.escape(target.suffix)}"):
        maker = left.name.removesuffix(f".part{target.suffix}").rsplit(".", 1)[-1].split("-")[0]
        if maker.isdigit() and not Path(f"/proc/{maker}").exists():
            with contextlib.suppress(OSError):
                left.unlink()


def sync_folder(folder: Path) -> None:
    descriptor = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(descriptor)
    except OSError:
        pass  # some network file systems cannot sync a folder; the file itself is synced
    finally:
        os.close(descriptor)

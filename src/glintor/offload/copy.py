"""A verified copy: read once and hashed on the way, written whole, read back and compared."""

import glob
import shutil
import threading
from collections.abc import Callable
from pathlib import Path

import xxhash
from msgspec import Struct

from glintor.errors import Cancelled, GlintorError, InputError
from glintor.files import whole_file

FILMS = (".mp4", ".mov", ".mkv", ".avi")
_BLOCK = 4 * 1024 * 1024


class CopyError(GlintorError):
    """A copy that is not the same as its original, or an original that went away."""


class Copied(Struct, frozen=True):
    """A copy and the checksum that both it and the original have."""

    target: Path
    xxh64: str
    was_there: bool


def file_hash(
    path: Path, report: Callable[[int], None] = lambda _bytes: None, stop: threading.Event | None = None
) -> str:
    """xxh64 of a file's content, as 16 hexadecimal digits. Raises Cancelled, OSError."""
    digest = xxhash.xxh64()
    with path.open("rb") as handle:
        while block := handle.read(_BLOCK):
            if stop is not None and stop.is_set():
                raise Cancelled
            digest.update(block)
            report(len(block))
    return digest.hexdigest()


def beside(clip: Path) -> list[Path]:
    """What lies beside a clip and belongs to it: track, inertial log, route, of the same name with other endings."""
    if clip.suffix not in FILMS:
        return []
    return sorted(file for file in clip.parent.glob(f"{glob.escape(clip.stem)}.*") if file.suffix in (".csv", ".gpx"))


def bring_over(
    source: Path,
    folder: Path,
    *,
    report: Callable[[float], None] = lambda _share: None,
    stop: threading.Event | None = None,
) -> Copied:
    """Copies a clip (and what lies beside it) into `folder` and proves it by its checksum; the original is only read.

    A copy that is already there with the same content is kept; one with other content gets a new name beside it.
    Raises CopyError where the original goes away or the copy differs; then no copy is left under its name.
    """
    try:
        size = source.stat().st_size
        free = shutil.disk_usage(_existing(folder)).free
        if size > free:
            raise InputError(
                f"{source.name} needs {size / 1e6:.0f} MB and {folder} has {free / 1e6:.0f} MB free.",
                unharmed="The card is unharmed.",
                advice="Free some space or choose another folder.",
            )
        done = 0

        def count(read: int) -> None:
            nonlocal done
            done += read
            report(min(done / max(2 * size, 1), 1.0))

        target = folder / source.name
        if target.exists():
            original = file_hash(source, count, stop)
            if file_hash(target, count, stop) == original:
                return Copied(target, original, True)
            target = _free_name(target)
        digest = xxhash.xxh64()
        with whole_file(target) as part:
            with source.open("rb") as original_file, part.open("wb") as copy_file:
                while block := original_file.read(_BLOCK):
                    if stop is not None and stop.is_set():
                        raise Cancelled
                    digest.update(block)
                    copy_file.write(block)
                    count(len(block))
            if file_hash(part, count, stop) != digest.hexdigest():
                raise CopyError(
                    f"The copy of {source.name} is not the same as the original.",
                    unharmed="The card is unharmed; the bad copy was removed.",
                    advice="Copy it again; if it happens twice, use another disk or card reader.",
                )
    except FileNotFoundError as error:
        raise CopyError(
            f"{source.name} went away while it was read.",
            unharmed="No copy was left half done.",
            advice="Put the card back in.",
        ) from error
    for companion in beside(source):
        if not (folder / companion.name).exists():
            bring_over(companion, folder)
    return Copied(target, digest.hexdigest(), False)


def _existing(folder: Path) -> Path:
    while not folder.exists() and folder != folder.parent:
        folder = folder.parent
    return folder


def _free_name(target: Path) -> Path:
    number = 2
    while (other := target.with_name(f"{target.stem}-{number}{target.suffix}")).exists():
        number += 1
    return other

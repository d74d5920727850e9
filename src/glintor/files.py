"""Writing files so that a reader sees the old one or the whole new one, never half of either."""

import contextlib
import errno
import os
import uuid
from collections.abc import Iterator
from pathlib import Path

from glintor.errors import GlintorError

_FULL = {errno.ENOSPC, errno.EDQUOT, errno.EFBIG}
_CLOSED = {errno.EACCES, errno.EPERM, errno.EROFS}


class WriteError(GlintorError):
    """A file could not be written; the message names the folder and what is unharmed."""


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
    elif error.errno == errno.ENOENT:
        what, advice = f"The folder {target.parent} is gone.", "Put the disk or card back, or choose another folder."
    else:
        what, advice = (
            f"{target.name} could not be written: {error.strerror or error}.",
            "Try another folder or disk.",
        )
    return WriteError(what, unharmed="Everything that was there before is unharmed.", advice=advice)


@contextlib.contextmanager
def whole_file(target: Path) -> Iterator[Path]:
    """Gives a temporary name beside `target`; on leaving, the file there is synced and renamed to `target`.

    Where the block raises, the temporary file is removed and `target` stays as it was. An OSError becomes a
    WriteError in words. The temporary name keeps the suffix, since writers choose the format by it.
    """
    part = target.with_name(f".{target.stem}.{os.getpid()}-{uuid.uuid4().hex[:8]}.part{target.suffix}")
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        _sweep(target)
        yield part
        with part.open("rb+") as handle:
            os.fsync(handle.fileno())
        part.replace(target)
        _sync_folder(target.parent)
    except OSError as error:
        raise write_error(target, error) from error
    finally:
        with contextlib.suppress(OSError):
            part.unlink(missing_ok=True)


def write_bytes(target: Path, content: bytes) -> None:
    """Writes `content` to `target` whole. Raises WriteError."""
    with whole_file(target) as part:
        part.write_bytes(content)


def _sweep(target: Path) -> None:
    """Removes what a killed program left of its own attempts at this file."""
    import glob  # not needed to open a window

    for left in target.parent.glob(f".{glob.escape(target.stem)}.*-*.part{glob.escape(target.suffix)}"):
        maker = left.name.removesuffix(f".part{target.suffix}").rsplit(".", 1)[-1].split("-")[0]
        if maker.isdigit() and not Path(f"/proc/{maker}").exists():
            with contextlib.suppress(OSError):
                left.unlink()


def _sync_folder(folder: Path) -> None:
    descriptor = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(descriptor)
    except OSError:
        pass  # some network file systems cannot sync a folder; the file itself is synced
    finally:
        os.close(descriptor)

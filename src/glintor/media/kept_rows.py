"""How the rows of recordings were read, as it was found: kept in the cache folder."""

import contextlib
import hashlib
from collections.abc import Sequence
from pathlib import Path

import numpy as np

from glintor.content import quick_of
from glintor.errors import GlintorError
from glintor.files import whole_file
from glintor.media.kept_arrays import read_arrays
from glintor.places import own_folder
from glintor.sphere.rolling import Rows

_VERSION = 1


def state_of(files: Sequence[Path]) -> str:
    """Which files these are, wherever they lie. Raises OSError."""
    return "|".join(quick_of(file) for file in files)


def _file_of(files: Sequence[Path]) -> Path:
    name = hashlib.sha256(f"{_VERSION}|{state_of(files)}".encode()).hexdigest()[:24]
    return own_folder("cache") / "turning" / f"{name}.rows.npz"


def known_rows(files: Sequence[Path]) -> Rows | None:
    """How the rows of a recording were read, where that was found."""
    try:
        kept = read_arrays(_file_of(files), ("time_s", "spin", "readouts_s"))
    except OSError:
        return None
    if kept is None or kept["time_s"].ndim != 1 or kept["spin"].shape != (len(kept["time_s"]), 2, 3):
        return None
    return Rows(kept["time_s"], kept["spin"], kept["readouts_s"])


def keep_rows(files: Sequence[Path], rows: Rows) -> None:
    """Keeps them; without room for it, they are found again the next time."""
    with contextlib.suppress(GlintorError, OSError):
        file = _file_of(files)
        file.parent.mkdir(parents=True, exist_ok=True)
        with whole_file(file) as part, part.open("wb") as out:
            np.savez(out, time_s=rows.time_s, spin=rows.spin, readouts_s=rows.readouts_s)

"""Arrays that were found once and are kept for the next time: whatever is wrong with what lies there, it counts as not found."""

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray


def read_arrays(file: Path, names: Sequence[str]) -> dict[str, NDArray[Any]] | None:
    """The arrays of these names in an npz file; None where one is missing, cannot be read, or holds what is no number."""
    try:
        with file.open("rb") as handle, np.load(handle) as kept:
            arrays = {name: np.asarray(kept[name]) for name in names}
    except Exception:  # the readers of zip files and of arrays in them raise a dozen kinds of errors
        return None
    numbers = [array for array in arrays.values() if array.dtype.kind == "f"]
    return arrays if all(np.isfinite(array).all() for array in numbers) else None

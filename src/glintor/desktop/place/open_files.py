"""Open files that a sheet reads and writes, what goes wrong said in the sheet itself."""

from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

from PyQt6.QtWidgets import QLabel

from glintor.errors import GlintorError, InputError
from glintor.files import write_bytes

_T = TypeVar("_T")


def read_or_say(file: Path, read: Callable[[bytes, str], _T], trouble: QLabel) -> _T | None:
    """What a file holds; None where it cannot be read, which `trouble` then says."""
    try:
        return read(file.read_bytes(), file.name)
    except OSError as error:
        trouble.setText(
            str(InputError(f"{file.name} cannot be opened: {error.strerror}.", unharmed="Nothing was changed."))
        )
    except GlintorError as error:
        trouble.setText(str(error))
    return None


def write_or_say(file: Path, content: bytes, trouble: QLabel) -> None:
    """Writes a file whole, or says why not."""
    try:
        write_bytes(file, content)
    except GlintorError as error:
        trouble.setText(str(error))

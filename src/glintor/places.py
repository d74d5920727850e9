"""The person's folders for settings, state, caches and the demo day; where a home cannot be written, one that can."""

import os
import tempfile
from pathlib import Path
from typing import Literal

import platformdirs

Kind = Literal["config", "state", "cache", "data"]
_USUAL = {
    "config": platformdirs.user_config_path,
    "state": platformdirs.user_state_path,
    "cache": platformdirs.user_cache_path,
    "data": platformdirs.user_data_path,
}


def usual_folder(kind: Kind) -> Path:
    """Where the standard (XDG Base Directory Specification) puts it; it may not be there, and not be writable."""
    return _USUAL[kind]("glintor")


def own_folder(kind: Kind) -> Path:
    """A folder of that kind that is there and can be written; in the system's folder for temporary files where the usual
    one cannot, and then only until it is cleared."""
    usual = usual_folder(kind)
    return usual if _usable(usual) else Path(tempfile.gettempdir()) / f"glintor-{os.getuid()}" / kind


def documents_folder() -> Path:
    """Where a day that is begun by itself is put; it is made when something is written into it."""
    return platformdirs.user_documents_path() / "Glintor"


def homeless() -> bool:
    """Whether what is kept between sessions lies where it may be cleared."""
    return own_folder("state") != usual_folder("state")


def _usable(folder: Path) -> bool:
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError:
        return False
    return os.access(folder, os.W_OK)

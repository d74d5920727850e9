"""What is remembered between sessions; each part is kept without touching the others."""

from pathlib import Path

import msgspec

from glintor.errors import GlintorError
from glintor.files import write_bytes
from glintor.places import own_folder


class Settings(msgspec.Struct, frozen=True):
    """last_file: the day that was open; open_edges: by desk, which of its edges a hand opened (true) or folded; splits: by
    name, how two parts share their room; cameras: where each of the kit was reached last, by its id; rolling: by the same, for which day,
    shot and log one on the link was asked to roll and not to stop."""

    last_file: str = ""
    open_edges: dict[str, dict[str, bool]] = {}
    splits: dict[str, tuple[int, ...]] = {}
    cameras: dict[str, str] = {}
    rolling: dict[str, tuple[str, str, str]] = {}


def settings_file() -> Path:
    return own_folder("config") / "settings.json"


def read_settings() -> Settings:
    """What was kept; what cannot be read is as if it had never been."""
    try:
        return msgspec.json.decode(settings_file().read_bytes(), type=Settings)
    except (OSError, msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        return Settings()


def keep_settings(**changes: object) -> None:
    """Changes some of them. Where they cannot be kept only a convenience is lost."""
    try:
        write_bytes(settings_file(), msgspec.json.encode(msgspec.structs.replace(read_settings(), **changes)))
    except (GlintorError, UnicodeEncodeError):  # a name that is no text cannot be kept
        return

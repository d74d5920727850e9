"""Everything in a folder, and what of it could not be looked at: nothing is passed over without a word."""

import os
import stat
from pathlib import Path

from msgspec import Struct

from glintor.names import text_of

# What systems keep for themselves on every disk they see: no recording of a camera is ever in it.
_SYSTEMS_OWN = frozenset(
    (
        "system volume information",
        "$recycle.bin",
        ".trashes",
        ".spotlight-v100",
        ".fseventsd",
        ".temporaryitems",
        ".ds_store",
        "lost+found",
    )
)
# Where systems put what they found of lost files: it may be a recording, and its name tells nothing.
_FOUND_AGAIN = ("lost.dir", "found.")


class Unseen(Struct, frozen=True):
    """Something in a folder that was not looked at. name: its path in it, with `/`; matters: whether a recording may be there."""

    name: str
    why: str
    matters: bool = True


class Walked(Struct, frozen=True):
    """The files of a folder in order, and what of it was not looked at."""

    files: tuple[Path, ...]
    unseen: tuple[Unseen, ...] = ()


def walked(root: Path) -> Walked:
    """Every plain file below `root` that is not hidden. Links are not followed: what one leads to inside is found there, and what lies
    outside is not part of the folder. Raises OSError where `root` itself cannot be read."""
    files: list[Path] = []
    unseen: list[Unseen] = []
    inside = root.resolve()

    def tell(path: Path, why: str, *, matters: bool = True) -> None:
        unseen.append(Unseen(text_of(path.relative_to(root).as_posix()), why, matters))

    def enter(folder: Path) -> None:
        with os.scandir(folder) as found:
            inner = sorted(found, key=lambda entry: entry.name)
        for entry in inner:
            path = folder / entry.name
            try:
                _sort(path, entry)
            except OSError as error:
                tell(path, f"cannot be read: {error.strerror or error}")

    def _sort(path: Path, entry: os.DirEntry[str]) -> None:
        name = entry.name.lower()
        mode = entry.stat(follow_symlinks=False).st_mode
        if stat.S_ISLNK(mode):
            if not _leads_inside(path, inside):
                tell(path, "a link that leads elsewhere")
        elif name in _SYSTEMS_OWN or name.startswith((".trash-", "._")):
            tell(path, "kept by a system for itself", matters=False)
        elif name.startswith("."):
            tell(path, "hidden")
        elif name.startswith(_FOUND_AGAIN):
            tell(path, "what a system saved of lost files")
        elif stat.S_ISDIR(mode):
            enter(path)
        elif stat.S_ISREG(mode):
            files.append(path)
        else:
            tell(path, "no file of a kind that can be copied")

    enter(root)
    return Walked(tuple(files), tuple(unseen))


def _leads_inside(link: Path, root: Path) -> bool:
    """Whether a link leads to something that lies in the folder itself and is found there."""
    try:
        goal = link.resolve(strict=True)
    except (OSError, RuntimeError):  # a link to itself
        return False
    return goal.is_relative_to(root) and not any(part.startswith(".") for part in goal.relative_to(root).parts)

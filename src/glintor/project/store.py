"""The project on disk: open JSON, checked on load, written whole, with a journal for what is not yet saved."""

from pathlib import Path

import msgspec

from glintor.errors import InputError
from glintor.files import write_bytes
from glintor.project import versioned
from glintor.project.model import FORMAT_VERSION, Project, Take

SUFFIX = ".glintor"


class ProjectError(InputError):
    """A project file that cannot be opened; the message names the place in it."""


def encode(project: Project) -> bytes:
    """The project as indented UTF-8 JSON."""
    return msgspec.json.format(msgspec.json.encode(project), indent=2) + b"\n"


def decode(content: bytes, name: str = "the project") -> Project:
    """The project in this JSON. Raises ProjectError with the field that is wrong."""
    return versioned.decode(
        content, Project, key="glintor", version=FORMAT_VERSION, name=name, what="a Glintor project", unharmed="It was not changed.",
        error=ProjectError,
    )  # fmt: skip


def read_project(path: Path) -> Project:
    """The project in a file. Raises ProjectError."""
    try:
        content = path.read_bytes()
    except OSError as error:
        raise ProjectError(
            f"{path} cannot be opened: {error.strerror}.", advice="Check the name and the disk."
        ) from error
    return decode(content, path.name)


def write_project(path: Path, project: Project) -> None:
    """Writes the project whole and removes its journal. Raises WriteError."""
    write_bytes(path, encode(project))
    journal_file(path).unlink(missing_ok=True)


def journal_file(path: Path) -> Path:
    """Where the newest unsaved state of a project lies."""
    return path.with_name(f".{path.name}.journal")


def write_journal(path: Path, project: Project) -> None:
    """Keeps the newest state beside the project until it is saved. Raises WriteError."""
    write_bytes(journal_file(path), encode(project))


def recovered(path: Path) -> Project | None:
    """The journal's state where a killed session left one that can be read and differs from the file."""
    journal = journal_file(path)
    if not journal.exists():
        return None
    try:
        kept = read_project(journal)
    except ProjectError:
        return None
    return kept if not path.exists() or kept != read_project(path) else None


def schema() -> dict[str, object]:
    """The JSON schema of the format."""
    return msgspec.json.schema(Project)


def films_folder(project_file: Path) -> Path:
    """Where films go unless the person chooses another folder."""
    return project_file.parent / "exports"


def clip_file(project_file: Path, take: Take) -> Path:
    """Where the pictures of a take are: the safe copy where there is one, else the card. Raises InputError."""
    for name, folder in ((take.safe_file, project_file.parent), (take.card_file, project_file.parent / "card")):
        if name and (folder / name).exists():
            return folder / name
    raise InputError(
        f"The clip of {take.name} is not where it was.",
        unharmed="The project is unharmed.",
        advice="Put the card or the folder back.",
    )

"""The project on disk: open JSON, checked on load, written whole, with a journal for what is not yet saved."""

import contextlib
import errno
from collections.abc import Callable, Iterable, Iterator, Mapping
from pathlib import Path
from typing import Any

import msgspec

from glintor.errors import InputError, shortened
from glintor.files import write_bytes, write_error
from glintor.names import path_of
from glintor.project import versioned
from glintor.project.kit import numbered_cameras
from glintor.project.model import FORMAT_VERSION, Project, Shot
from glintor.project.take import Take, TakeFile
from glintor.quantities import first_absurd

SUFFIX = ".glintor"


# What changes from each version of the format to the next. 1 to 2: air and wireless of the site, stitch and levelling of
# the camera; all may be left out. 2 to 3: a take has files; what a shape has of its own in a cut, shots without a plan and
# places that nobody knows may be left out. 3 to 4: the day's camera is the first of the kit's, each with an id; films, cameras
# of shots and clocks of takes may be left out. 4 to 5: a placement names its carrier and has subjects; own carriers may be
# left out.
def _with_files(raw: dict[str, Any]) -> dict[str, Any]:
    old = {"card_file": "card", "safe_file": "copy", "size_bytes": "size_bytes", "xxh64": "xxh64"}

    def take(raw: dict[str, Any]) -> dict[str, Any]:
        file = {new: raw[name] for name, new in old.items() if name in raw}
        return {name: value for name, value in raw.items() if name not in old} | {"files": [file]}

    shots = [{**shot, "takes": [take(t) for t in shot.get("takes", ())]} for shot in raw.get("shots", ())]
    return {**raw, "shots": shots}


def _cameras_in_the_kit(raw: dict[str, Any]) -> dict[str, Any]:
    kit, own = raw.get("kit", {}), raw.get("camera", {})
    others = [
        c for c in kit.get("cameras", ()) if c.get("name") != own.get("name")
    ]  # of the same name: the one it began as
    rest = {name: value for name, value in raw.items() if name != "camera"}
    return {**rest, "kit": numbered_cameras({**kit, "cameras": [own, *others]})}


_WERE_ON = {
    "rail_clamp": "boat", "bow_clamp": "boat", "low_clamp": "boat", "bar_clamp": "cycle", "fork_clamp": "cycle", "seat_clamp": "cycle",
    "door_foot": "car", "bonnet_foot": "car", "mini_tripod": "ground", "weighted_foot": "ground", "hung_beam": "ground",
    "spin_cord": "ground",
}  # fmt: skip


def _with_subjects(raw: dict[str, Any]) -> dict[str, Any]:
    def placement(raw: dict[str, Any]) -> dict[str, Any]:
        subject = {name[len("subject_") :]: value for name, value in raw.items() if name.startswith("subject_")}
        rest = {name: value for name, value in raw.items() if not name.startswith("subject_")}
        return {**rest, "carrier": _WERE_ON.get(raw.get("setup", ""), "walker"), "subjects": [subject]}

    def placed(raw: dict[str, Any]) -> dict[str, Any]:
        return {**raw, "placement": placement(raw["placement"])} if isinstance(raw.get("placement"), dict) else raw

    def shot(raw: dict[str, Any]) -> dict[str, Any]:
        return {**placed(raw), "takes": [placed(take) for take in raw.get("takes", ())]}

    return {**raw, "shots": [shot(s) for s in raw.get("shots", ())]}


_WAS_INVENTED_M = 3.0  # what format 8 wrote where nobody had said what hangs over the way


def _overhead_unknown(raw: dict[str, Any]) -> dict[str, Any]:
    """8 to 9: what nobody said of obstacles overhead is unknown. Who had measured just what was invented is asked again."""
    site = raw.get("site", {})
    kept = {
        name: None if site.get(name) == _WAS_INVENTED_M else site[name]
        for name in ("lowest_m", "branches_m")
        if name in site
    }
    return {**raw, "site": {**site, **kept}}


UPGRADES: Mapping[int, Callable[[dict[str, Any]], dict[str, Any]]] = {
    1: dict, 2: _with_files, 3: _cameras_in_the_kit, 4: _with_subjects, 8: _overhead_unknown,
}  # fmt: skip


class ProjectError(InputError):
    """A project file that cannot be opened; the message names the place in it."""


class NewerError(ProjectError):
    """A project file that a newer Glintor wrote."""


def encode(project: Project) -> bytes:
    """The project as indented UTF-8 JSON."""
    return msgspec.json.format(msgspec.json.encode(project), indent=2) + b"\n"


def decode(content: bytes, name: str = "the project") -> Project:
    """The project in this JSON. Raises ProjectError with the field that is wrong."""
    project = versioned.decode(
        content,
        Project,
        key="glintor",
        version=FORMAT_VERSION,
        name=name,
        what="a Glintor project",
        unharmed="It was not changed.",
        error=ProjectError,
        newer=NewerError,
        upgrades=UPGRADES,
    )
    from glintor.project.consistency import first_fault

    wrong = first_fault(project)
    if wrong is not None:
        raise ProjectError(f"{name}, at {wrong}.", unharmed="It was not changed.", advice="Mend that place.")
    return project


def fault_of(project: Project, sound: Project | None = None) -> str | None:
    """What `decode` would refuse of a project that this program made, with its place; None where nothing is wrong. sound: an earlier state
    that was asked already; what both share is not asked again."""
    from glintor.project.consistency import first_fault

    known = {id(shot) for shot in sound.shots} if sound is not None else set()
    fresh = tuple(shot for shot in project.shots if id(shot) not in known)
    try:
        changed = msgspec.json.encode(msgspec.structs.replace(project, shots=fresh or project.shots[:1]))
        msgspec.json.decode(changed, type=Project)
    except (msgspec.MsgspecError, UnicodeError, RecursionError, OverflowError) as error:
        return shortened(str(error), 160)
    return first_absurd(project, sound) or first_fault(project, known)


def read_bytes(path: Path) -> bytes:
    """A file's content. Raises ProjectError."""
    try:
        return path.read_bytes()
    except OSError as error:
        raise ProjectError(
            f"{path} cannot be opened: {error.strerror}.", advice="Check the name and the disk."
        ) from error


def read_project(path: Path) -> Project:
    """The project in a file. Raises ProjectError."""
    return decode(read_bytes(path), path.name)


def write_project(path: Path, project: Project | bytes, *, make_folder: bool = False) -> None:
    """Writes the project (or its encoding) whole and removes its journal. A folder that is gone is not made anew unless
    asked for: somebody renamed it, or pulled the disk. Raises WriteError."""
    content = project if isinstance(project, bytes) else encode(project)
    write_bytes(path, content, make_folder=make_folder)
    with contextlib.suppress(OSError):  # one that stays is older than the file and does not count
        path.with_name(f".{path.name}.journal").unlink(missing_ok=True)


def need_folder(project_file: Path) -> None:
    """Raises WriteError where a day's folder is gone, before anything is written into it."""
    if not project_file.parent.is_dir():
        raise write_error(project_file, FileNotFoundError(errno.ENOENT, "gone"))


def schema() -> dict[str, object]:
    """The JSON schema of the format."""
    return msgspec.json.schema(Project)


def films_folder(project_file: Path) -> Path:
    """Where films go unless the person chooses another folder."""
    return project_file.parent / "exports"


def places_of(project_file: Path, file: TakeFile) -> Iterator[Path]:
    """Where a file of a take may be, the best place first: its copy, where it lies, the card."""
    folder = project_file.parent
    for path, place in ((Path(file.copy), folder), (path_of(file.lies), folder), (path_of(file.card), folder / "card")):
        if path.name:
            yield place / path


def footage_of(project_file: Path, shots: Iterable[Shot]) -> tuple[Path, ...]:
    """Every file of a day that must never be written over: its takes' files, on the card, copied and referred to."""
    files = [file for shot in shots for take in shot.takes for file in take.files]
    return tuple(place for file in files for place in places_of(project_file, file))


def clip_files(project_file: Path, take: Take) -> tuple[Path, ...]:
    """Where the pictures of a take are, file by file: the safe copy where there is one, else where they lie, else the
    card. Raises InputError where one is gone, or where another clip lies under that name."""
    return tuple(_clip_file(project_file, take, file) for file in take.files)


def _clip_file(project_file: Path, take: Take, file: TakeFile) -> Path:
    for place in places_of(project_file, file):
        if not place.is_file():
            continue
        found = place.stat().st_size
        if file.size_bytes and found != file.size_bytes:
            raise InputError(
                f"{place.name} is not the clip of {take.name}: it has {found} bytes, {file.size_bytes} were recorded.",
                unharmed="The project is unharmed.",
                advice="Put the right file back under that name, or copy it from the card again.",
            )
        return place
    raise InputError(
        f"The clip of {take.name} is not where it was.",
        unharmed="The project is unharmed.",
        advice="Put the card or the folder back.",
    )

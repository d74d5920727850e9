"""Footage that moved: looked for near where it was and where a person says, known again by size and by head and tail."""

from collections.abc import Iterable
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from glintor.content import quick_of
from glintor.names import path_of, text_of
from glintor.project.model import Project
from glintor.project.store import places_of
from glintor.project.take import TakeFile
from glintor.types import Report

_NEAR = 2  # folders above where a file was, in which it is looked for by itself
_PER_REPORT = 200  # files between two reports
_MOST = 20_000  # files that are looked at in one place


class Search(Struct, frozen=True):
    """What was found of a day's missing files: where each lies now, and which are still missing."""

    found: dict[TakeFile, Path]
    missing: tuple[TakeFile, ...]


def missing_files(project_file: Path, project: Project) -> tuple[TakeFile, ...]:
    """The files of a day that lie nowhere where they are known to."""
    files = [file for shot in project.shots for take in shot.takes for file in take.files]
    files += [file for sound in project.sounds for file in sound.files]
    return tuple(f for f in dict.fromkeys(files) if not any(place.is_file() for place in places_of(project_file, f)))


def _name_of(file: TakeFile) -> str:
    return path_of(file.lies or file.card).name if file.lies or not file.copy else Path(file.copy).name


def places_near(project_file: Path, files: Iterable[TakeFile]) -> tuple[Path, ...]:
    """Folders in which files that moved may be: the day's own, and those round where they were."""
    found: dict[Path, None] = {project_file.parent: None}
    for file in files:
        folder = (project_file.parent / (path_of(file.lies) if file.lies else Path(file.copy or "x"))).parent
        for _ in range(_NEAR):
            if folder.is_dir() and folder != Path(folder.anchor):
                found[folder] = None
            folder = folder.parent
    return tuple(found)


def look_for(files: Iterable[TakeFile], places: Iterable[Path], *, report: Report = lambda _share: None) -> Search:
    """Looks for files in folders: by name and size first, then by size; sure by the digest of head and tail where it is known."""
    left, found = list(files), {}
    places = list(places)
    for number, place in enumerate(places):
        if not left:
            break
        sizes: dict[int, list[Path]] = {}
        for count, path in enumerate(place.rglob("*")):
            if count > _MOST:
                break
            if count % _PER_REPORT == 0:
                report(number / len(places))
            try:
                if path.is_file():
                    sizes.setdefault(path.stat().st_size, []).append(path)
            except OSError:
                continue
        for file in list(left):
            named = sorted(sizes.get(file.size_bytes, []), key=lambda p: p.name.lower() != _name_of(file).lower())
            same = next((p for p in named if _is(file, p)), None)
            if same is not None:
                found[file] = same
                left.remove(file)
        report((number + 1) / len(places))
    return Search(found, tuple(left))


def _is(file: TakeFile, path: Path) -> bool:
    if not file.quick:
        return path.name.lower() == _name_of(file).lower()
    try:
        return quick_of(path) == file.quick
    except OSError:
        return False


def with_found(project: Project, found: dict[TakeFile, Path]) -> Project:
    """The project with files where they were found."""

    def mended(files: tuple[TakeFile, ...]) -> tuple[TakeFile, ...]:
        return tuple(replace(f, lies=text_of(found[f])) if f in found else f for f in files)

    shots = tuple(
        replace(shot, takes=tuple(replace(take, files=mended(take.files)) for take in shot.takes))
        for shot in project.shots
    )
    sounds = tuple(replace(sound, files=mended(sound.files)) for sound in project.sounds)
    return replace(project, shots=shots, sounds=sounds)

"""Recordings that nobody planned in Glintor: found in folders, looked at, taken into a day where they lie."""

import contextlib
from collections.abc import Callable, Iterable, Sequence
from datetime import date, datetime
from pathlib import Path

import msgspec
from msgspec import Struct

from glintor.errors import GlintorError
from glintor.files import free_name
from glintor.media.lenses import refuse_circles, refuse_tracks
from glintor.media.opened import look_into
from glintor.media.picture import SUFFIXES as PHOTOS
from glintor.media.probe import ClipError, NoSphere
from glintor.places import documents_folder
from glintor.project.fresh import placeless_shot
from glintor.project.ledger import quick_of
from glintor.project.model import Project, Shot, Site, Take, TakeFile, Told, fresh_id, with_cut, with_take
from glintor.project.store import SUFFIX, write_project
from glintor.reframing.edits import fresh_cut
from glintor.sphere.equirect import TOLD

FILMS = {".mp4", ".mov", ".m4v", ".mkv", ".webm", ".avi", ".mts", ".m2ts", ".ts", ".mpg"}
SOUNDS = {".wav", ".flac", ".mp3", ".m4a", ".aac", ".ogg", ".opus", ".aif", ".aiff"}


class TakenIn(Struct, frozen=True):
    """What was found of some recordings.

    unshaped  those whose shape is no sphere's, of which a person may say what they show; refused: what is wrong with others
    """

    takes: tuple[Take, ...]
    unshaped: tuple[NoSphere, ...]
    refused: tuple[GlintorError, ...]


def recordings_in(places: Iterable[Path]) -> tuple[Path, ...]:
    """The files in these files and folders that may be recordings, each once, those of a folder by name. A file that is
    named is always one of them: what is wrong with it is said later."""
    found: dict[Path, None] = {}
    for place in places:
        if not place.is_dir():
            found[place] = None
            continue
        inside = sorted(file for file in place.rglob("*") if file.suffix.lower() in FILMS | PHOTOS | SOUNDS)
        hidden = lambda file, root=place: any(p.startswith(".") for p in file.relative_to(root).parts)  # noqa: E731
        found |= {file: None for file in inside if file.is_file() and not hidden(file)}
    return tuple(found)


def look_at(
    project_file: Path, files: Sequence[Path], *, told: Told = "", report: Callable[[float], None] = lambda _share: None
) -> TakenIn:
    """Looks at recordings; told: "sphere" or "half" where a person says what they show."""
    takes: list[Take] = []
    unshaped: list[NoSphere] = []
    refused: list[GlintorError] = []
    for number, file in enumerate(files):
        try:
            takes.append(_take_of(project_file, file, told, first=not takes))
        except NoSphere as error:
            unshaped.append(error)
        except GlintorError as error:
            refused.append(error)
        report((number + 1) / len(files))
    return TakenIn(tuple(takes), tuple(unshaped), tuple(refused))


def _take_of(project_file: Path, file: Path, told: Told, *, first: bool) -> Take:
    """first: whether it is the one that will be shown."""
    if file.suffix.lower() in SOUNDS:
        raise ClipError(
            f"{file.name} is a sound recording.",
            unharmed="It was not changed.",
            advice="Glintor cannot lay sound of its own under pictures yet.",
        )
    refuse_tracks(file)
    footage, seen = look_into((file,), TOLD.get(told), keep=first)
    refuse_circles(file, seen.picture if seen is not None else None)
    state = file.stat()
    return Take(
        id="take",
        name=file.stem,
        kind=footage.kind,
        files=(TakeFile(lies=_lies(project_file, file), size_bytes=state.st_size, quick=quick_of(file)),),
        duration_s=footage.duration_s,
        width_px=round(footage.size_px[0] * 360.0 / footage.coverage.lon_deg),
        rate_fps=float(footage.rate),
        told=told,
    )


def _lies(project_file: Path, file: Path) -> str:
    """Relative where it lies under the day's folder, which may be moved as a whole; else from the root."""
    whole, folder = file.absolute(), project_file.parent.absolute()
    with contextlib.suppress(ValueError):
        return str(whole.relative_to(folder))
    return str(whole)


def with_recordings(project: Project, takes: Sequence[Take], into: str = "") -> tuple[Project, tuple[str, str]]:
    """The project with takes, each with a cut begun: in the shot `into`, or each in a shot made for it. A recording that the
    day has already is not taken twice. And the ids of shot and take of the first, which may have been there."""
    first: tuple[str, str] | None = None
    for take in takes:
        there = _known(project, take)
        if there is None:
            project, there = _with_one(project, take, into)
        first = first or there
    assert first is not None, "there is at least one take"
    return project, first


def _known(project: Project, take: Take) -> tuple[str, str] | None:
    same = (take.files[0].size_bytes, take.files[0].quick)
    for shot in project.shots:
        for old in shot.takes:
            if (old.files[0].size_bytes, old.files[0].quick) == same:
                return shot.id, old.id
    return None


def _with_one(project: Project, take: Take, into: str) -> tuple[Project, tuple[str, str]]:
    if not into:
        empty = next((s for s in project.shots if not s.planned and not s.takes), None)
        shot = empty or placeless_shot(fresh_id("shot", {s.id for s in project.shots}), take.name)
        if empty is None:
            project = msgspec.structs.replace(project, shots=(*project.shots, shot))
        project = project.with_shot(shot.id, lambda s: msgspec.structs.replace(s, name=take.name))
        into = shot.id
    shot = project.shot(into)
    take = msgspec.structs.replace(take, id=fresh_id(f"{into}-take", {t.id for t in shot.takes}))
    cut = fresh_cut(
        fresh_id(f"{into}-cut", {c.id for c in shot.cuts}), f"Cut {len(shot.cuts) + 1}", take.id, take.duration_s
    )
    return project.with_shot(into, lambda s: with_cut(with_take(s, take), cut)), (into, take.id)


def without_take(shot: Shot, take_id: str) -> Shot:
    """The shot without a take and its cuts; its files stay where they are."""
    return msgspec.structs.replace(
        shot,
        takes=tuple(t for t in shot.takes if t.id != take_id),
        cuts=tuple(c for c in shot.cuts if c.take_id != take_id),
    )


def begin_day(today: date) -> Path:
    """Makes a day for recordings in the person's documents: nothing is planned and its place is not known. Raises
    WriteError."""
    folder = free_name(documents_folder() / today.isoformat())
    file = folder / f"{folder.name}{SUFFIX}"
    zone = str(getattr(datetime.now().astimezone().tzinfo, "key", "") or "UTC")
    site = Site(name="My recordings", known=False, day=today.isoformat(), zone=zone, lat_deg=0.0, lon_deg=0.0)
    write_project(file, Project(site=site, shots=(placeless_shot("shot", "First recording"),)), make_folder=True)
    return file

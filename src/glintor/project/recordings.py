"""Recordings that nobody planned in Glintor: found in folders, looked at, taken into a day where they lie."""

import contextlib
from collections.abc import Sequence
from datetime import date, datetime
from pathlib import Path
from typing import Literal

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from glintor.content import quick_of
from glintor.errors import Cancelled, GlintorError
from glintor.files import free_name
from glintor.media.opened import look_into
from glintor.media.probe import ClipError
from glintor.media.reading import Reading
from glintor.media.spherical import SphereNote
from glintor.media.taken import Told
from glintor.media.together import read_all
from glintor.names import text_of
from glintor.places import documents_folder
from glintor.project.fresh import placeless_shot
from glintor.project.logged import met
from glintor.project.model import Project, Shot, fresh_id, with_cut, with_take
from glintor.project.site import Site
from glintor.project.store import SUFFIX, write_project
from glintor.project.take import Horizon, Kind, Recorder, Take, TakeFile
from glintor.project.whereabouts import Whereabouts, began_of, fit_of, timed, whereabouts, with_place
from glintor.reframing.edits import fresh_cut
from glintor.report import in_words
from glintor.sphere.angle import wrap_deg
from glintor.types import Report


class TakenIn(Struct, frozen=True):
    """What was found of some recordings.

    takes    what can be worked on; sounds: of recorders; refused: what is wrong with others
    unsure   what may be one thing or another, of which a person may say what it shows; flat: films and photos that show no sphere
    notes    what a person should know of those that were taken
    readings what they were read as; places: what their files tell of where and when
    """

    takes: tuple[Take, ...] = ()
    sounds: tuple[Recorder, ...] = ()
    unsure: tuple[Reading, ...] = ()
    flat: tuple[Reading, ...] = ()
    refused: tuple[GlintorError, ...] = ()
    notes: tuple[str, ...] = ()
    readings: tuple[Reading, ...] = ()
    place: Whereabouts | None = None

    @property
    def words(self) -> str:
        """What came of it, in a line."""
        counts = [
            (len(self.takes), "recording"),
            (len(self.sounds), "sound"),
            (len(self.flat), "flat picture left out"),
            (len(self.unsure), "to be asked about"),
            (len(self.refused), "that cannot be used"),
        ]
        told = [f"{n} {words + ('s' if n > 1 and words in ('recording', 'sound') else '')}" for n, words in counts if n]
        return ", ".join(told) + "".join(f". {note}" for note in self.notes[:2])


def look_at(
    project_file: Path, files: Sequence[Path], *, told: Told = "", report: Report = lambda _share: None
) -> TakenIn:
    """Looks at recordings; those that belong together are one take. told: what a person says that they show."""
    readings = read_all(files, report=lambda share: report(0.9 * share))
    takes: list[Take] = []
    sounds: list[Recorder] = []
    unsure, flat, refused, notes = [], [], [], []
    for number, reading in enumerate(readings):
        report(0.9 + 0.1 * number / len(readings))
        try:
            if reading.reading == "broken":
                raise ClipError(
                    reading.why,
                    unharmed="The others were taken in." if len(readings) > 1 else "It was not changed.",
                    advice="If a copy was interrupted, copy it from the card again.",
                )
            if reading.reading == "sound":
                sounds.append(_recorder_of(project_file, reading))
            elif told:
                takes.append(_take_of(project_file, replace(reading, told=told), by="person", first=not takes))
            elif not reading.sure:
                unsure.append(reading)
            elif reading.reading == "flat" or (reading.reading == "series" and reading.faults):
                flat.append(reading)
            else:
                takes.append(_take_of(project_file, reading, by="picture", first=not takes))
                notes += [f"{reading.name}: {fault}" for fault in reading.faults]
                notes += [f"A part seems to be missing: {lost}" for lost in reading.missing]
        except Cancelled:
            raise
        except Exception as error:  # also of what nobody foresaw: the others come in all the same
            refused.append(in_words(f"Taking {reading.name} in", error))
    return TakenIn(
        tuple(takes),
        tuple(sounds),
        tuple(unsure),
        tuple(flat),
        tuple(refused),
        tuple(dict.fromkeys(notes)),
        readings,
        whereabouts(readings),
    )


def _files_of(project_file: Path, reading: Reading) -> tuple[TakeFile, ...]:
    return tuple(
        TakeFile(lies=_lies(project_file, file), size_bytes=file.stat().st_size, quick=quick_of(file))
        for file in reading.files
    )


def _recorder_of(project_file: Path, reading: Reading) -> Recorder:
    return Recorder(
        id="sound", name=reading.name, files=_files_of(project_file, reading), duration_s=reading.duration_s
    )


def _take_of(project_file: Path, reading: Reading, *, by: Literal["person", "picture"], first: bool) -> Take:
    """first: whether it is the one that will be shown."""
    footage, _ = look_into(reading.files, reading.taken_as, keep=first)
    kinds: dict[str, Kind] = {"bracket": "bracket", "series": "lapse"}
    return Take(
        id="take",
        name=reading.name,
        kind=kinds.get(reading.reading, "photo" if footage.kind == "photo" else "film"),
        files=_files_of(project_file, reading),
        duration_s=footage.duration_s,
        width_px=footage.sphere_px,
        rate_fps=float(footage.rate),
        told=reading.told,
        told_by=by,
        lenses=reading.lenses,
        why=reading.why,
        exposed=reading.exposed,
        filmed_by=reading.camera,
        began=began_of(reading),
        horizon=_horizon_of(footage.note),
        first_view=footage.note.first_yaw_pitch_deg if footage.note is not None else None,
    )


def _horizon_of(note: SphereNote | None) -> Horizon | None:
    if note is None or note.pose_deg is None or note.level_turn is None:
        return None
    return Horizon(pitch_deg=note.pose_deg[1], roll_deg=float(wrap_deg(note.pose_deg[2])), by="file")


def _lies(project_file: Path, file: Path) -> str:
    """Relative where it lies under the day's folder, which may be moved as a whole; else from the root."""
    whole, folder = file.absolute(), project_file.parent.absolute()
    with contextlib.suppress(ValueError):
        return text_of(whole.relative_to(folder))
    return text_of(whole)


def with_recordings(
    project: Project, takes: Sequence[Take], into: str = "", place: Whereabouts | None = None
) -> tuple[Project, tuple[str, str]]:
    """The project with takes, each with a cut begun: in the planned shot that its time fits, else in the shot `into`, or in one
    made for it; what was logged is put to its log. A recording that the day has already is not taken twice. And the ids of shot and
    take of the first, which may have been there. place: where they were made, for a day of which nobody said."""
    first: tuple[str, str] | None = None
    project = with_place(project, place, takes)
    for take in takes:
        there = _known(project, take)
        if there is None:
            take = timed(project, take)
            fits = fit_of(project, take)
            if fits is not None:
                take = replace(take, matched=fits.words)
            project, there = _with_one(project, take, fits.shot_id if fits is not None else into)
        first = first or there
    assert first is not None, "there is at least one take"
    project, _ = met(project)
    return project, _known(project, takes[0]) or first


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
        fresh_id(f"{into}-cut", {c.id for c in shot.cuts}),
        f"Cut {len(shot.cuts) + 1}",
        take.id,
        take.duration_s,
        subject=take.first_view or (0.0, 0.0),
    )
    return project.with_shot(into, lambda s: with_cut(with_take(s, take), cut)), (into, take.id)


def with_sounds(project: Project, sounds: Sequence[Recorder]) -> Project:
    """The project with recorders' sound; one that it has already is not taken twice."""
    for sound in sounds:
        same = [old for old in project.sounds if old.files[0].quick == sound.files[0].quick]
        if not same:
            named = replace(sound, id=fresh_id("sound", {old.id for old in project.sounds}))
            project = replace(project, sounds=(*project.sounds, named))
    return project


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

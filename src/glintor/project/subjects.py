"""The subject of a take, as it was found in its pictures: kept beside the day, corrected between what a hand pointed at."""

import glob
import threading
from collections.abc import Callable, Sequence
from functools import lru_cache
from pathlib import Path

import msgspec

from glintor.errors import GlintorError
from glintor.files import write_bytes
from glintor.media.footage import Footage
from glintor.media.tracked import Pointed, follow_subject
from glintor.pixels.subject import Seen
from glintor.project.store import clip_files
from glintor.project.take import Take
from glintor.reframing.track import Track, found_track, read_found, read_track, track_file, write_found
from glintor.sphere.turn import TurnTrack
from glintor.types import Report

FOLDER = "tracks"
_SAME_S = 0.1  # two places that were pointed at so near each other are one


def subject_file(project_file: Path, take: Take, name: str = "") -> Path:
    """Where a subject of a take is kept; "" is the take's own."""
    return project_file.parent / FOLDER / f"{_stem(take)}{f'.{name}' if name else ''}.csv"


def _stem(take: Take) -> str:
    first = take.files[0]
    return first.quick or Path(first.card or first.copy or take.id).stem


def subjects_of(project_file: Path, take: Take) -> list[str]:
    """Names of what was tracked in a take, its own subject ("") first."""
    stem = _stem(take)
    files = (project_file.parent / FOLDER).glob(f"{glob.escape(stem)}*.csv")
    return sorted(
        f.stem.removeprefix(stem).removeprefix(".") for f in files if f.stem == stem or f.stem[len(stem)] == "."
    )


def _points_file(file: Path) -> Path:
    return file.with_suffix(".points.json")


def pointed_at(project_file: Path, take: Take, name: str = "") -> tuple[Pointed, ...]:
    """Where a hand said that the subject is; none where nobody did, or what is kept cannot be read."""
    try:
        raw = _points_file(subject_file(project_file, take, name)).read_bytes()
        return msgspec.json.decode(raw, type=tuple[Pointed, ...])
    except (OSError, msgspec.MsgspecError, RecursionError):
        return ()


def found_subject(project_file: Path, take: Take, name: str = "") -> Track | None:
    """The subject's track as it was found; None where there is none, or it cannot be read."""
    try:
        return read_found(subject_file(project_file, take, name))
    except GlintorError:
        return None


def track_of(project_file: Path, take: Take, name: str = "") -> Track | None:
    """A subject's track: as it was found in the pictures, else, of the take's own subject, as the clip has it beside it; None where
    there is neither."""
    for found in (True, False) if not name else (True,):
        try:
            file = subject_file(project_file, take, name) if found else track_file(clip_files(project_file, take)[0])
            state = file.stat()
        except (GlintorError, OSError):
            continue
        return _track(file, found, state.st_mtime_ns, state.st_size)
    return None


@lru_cache(maxsize=32)
def _track(file: Path, found: bool, _changed_ns: int, _size_bytes: int) -> Track | None:
    """A track as it lies on disk; read again when it changed. None where it cannot be read."""
    try:
        return read_found(file) if found else read_track(file)
    except GlintorError:
        return None


def forget_subject(project_file: Path, take: Take, name: str = "") -> None:
    """What was found of a take's subject is not kept any more."""
    file = subject_file(project_file, take, name)
    for one in (file, _points_file(file)):
        one.unlink(missing_ok=True)


def find_subject(
    project_file: Path,
    take: Take,
    footage: Footage,
    point: Pointed,
    *,
    name: str = "",
    turns: TurnTrack | None = None,
    report: Report = lambda _share: None,
    changed: Callable[[], object] = lambda: None,
    stop: threading.Event | None = None,
) -> Track:
    """Follows a subject from where it was pointed at. What was pointed at before stays: it is followed anew only between its
    neighbours. changed() is called as more of it is kept. Raises ClipError, InputError, WriteError, Cancelled."""
    file = subject_file(project_file, take, name)
    points = [p for p in pointed_at(project_file, take, name) if abs(p.time_s - point.time_s) > _SAME_S]
    before = max((p.time_s for p in points if p.time_s < point.time_s), default=None)
    after = min((p.time_s for p in points if p.time_s > point.time_s), default=None)
    span = (0.0 if before is None else before, footage.duration_s if after is None else after)
    old = found_subject(project_file, take, name) if points else None
    kept = _rows(old, span) if old is not None else []

    def keep(seen: Sequence[Seen]) -> None:
        write_found(file, found_track([*kept, *_of_seen(seen)]))
        changed()

    seen = follow_subject(footage, [point], turns=turns, span_s=span, report=report, told=keep, stop=stop)
    keep(seen)
    write_bytes(_points_file(file), msgspec.json.encode(sorted([*points, point], key=lambda p: p.time_s)))
    return found_track([*kept, *_of_seen(seen)])


def _of_seen(seen: Sequence[Seen]) -> list[tuple[float, float, float, float, int]]:
    return [(s.time_s, s.yaw_deg, s.pitch_deg, s.size_deg, s.state) for s in seen]


def _rows(track: Track, span: tuple[float, float]) -> list[tuple[float, float, float, float, int]]:
    """What was found outside a span."""
    assert track.size_deg is not None and track.state is not None, "it was found in the pictures"
    columns = zip(track.time_s, track.yaw_deg, track.pitch_deg, track.size_deg, track.state, strict=True)
    return [
        (float(t), float(yaw), float(pitch), float(size), int(state))
        for t, yaw, pitch, size, state in columns
        if t < span[0] - 1e-3 or t > span[1] + 1e-3
    ]

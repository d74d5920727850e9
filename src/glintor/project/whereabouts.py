"""When and where recordings were made, as their files tell: metadata, EXIF, a GPX beside them; and which shot that fits."""

import contextlib
from collections.abc import Sequence
from datetime import UTC, datetime
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from glintor.errors import GlintorError, InputError
from glintor.media.exif import read_exif
from glintor.media.reading import Reading
from glintor.placement.sun import local_time
from glintor.project.model import Project, Shot
from glintor.project.take import Take
from glintor.project.zone import zone_at

_NEAR_MIN, _FAR_MIN = 10.0, 45.0  # a take belongs to a shot so near its time; farther it is unsure, or none


class Whereabouts(Struct, frozen=True):
    """A place as files tell it, and which."""

    lat_deg: float
    lon_deg: float
    words: str


class Fit(Struct, frozen=True):
    """The shot that a take belongs to by its time; sure: whether no other comes near."""

    shot_id: str
    words: str
    sure: bool


def _gpx_start(file: Path) -> tuple[datetime | None, float, float] | None:
    import gpxpy

    with contextlib.suppress(Exception):  # of whatever is wrong with it, it tells nothing
        read = gpxpy.parse(file.read_text(errors="replace"))
        for track in read.tracks:
            for segment in track.segments:
                if segment.points:
                    first = segment.points[0]
                    return first.time, first.latitude, first.longitude
    return None


def whereabouts(readings: Sequence[Reading]) -> Whereabouts | None:
    """Where recordings were made, by the first of them that tells."""
    for reading in readings:
        for file in reading.companions:
            found = _gpx_start(file) if file.suffix.lower() == ".gpx" else None
            if found is not None:
                return Whereabouts(found[1], found[2], file.name)
        if reading.reading in ("photo", "flat", "bracket", "series"):
            shot = read_exif(reading.files[0])
            if shot.lat_deg is not None and shot.lon_deg is not None:
                return Whereabouts(shot.lat_deg, shot.lon_deg, reading.files[0].name)
    return None


def began_of(reading: Reading) -> str:
    """When a recording began, as ISO 8601: by a GPX beside it (UTC), else by its own file; "" where nothing tells. A time
    without a zone is that of the place."""
    for file in reading.companions:
        found = _gpx_start(file) if file.suffix.lower() == ".gpx" else None
        if found is not None and found[0] is not None:
            return found[0].astimezone(UTC).isoformat()
    return reading.began.isoformat() if reading.began is not None else ""


def local_began(take: Take, zone: str) -> tuple[str, float] | None:
    """The day and the minute after midnight at which a take began, in a zone; None where its file does not say."""
    with contextlib.suppress(ValueError, GlintorError):
        began = datetime.fromisoformat(take.began)
        if began.year < 1990:  # a clock that was never set
            return None
        if began.tzinfo is not None:
            noon = local_time(began.date().isoformat(), zone, 720.0)
            began = began.astimezone(noon.tzinfo)
        return began.date().isoformat(), began.hour * 60.0 + began.minute + began.second / 60.0
    return None


def timed(project: Project, take: Take) -> Take:
    """The take with its hour, where its file tells one of the project's day."""
    when = local_began(take, project.site.zone)
    if when is None or when[0] != project.site.day or take.start_min is not None:
        return take
    return replace(take, start_min=when[1])


def fit_of(project: Project, take: Take) -> Fit | None:
    """The planned shot that was to be filmed when a take began."""
    if take.start_min is None:
        return None
    minute = take.start_min
    apart = sorted(((_apart_min(shot, minute), shot) for shot in project.planned), key=lambda pair: pair[0])
    if not apart or apart[0][0] > _FAR_MIN:
        return None
    nearest, shot = apart[0]
    sure = nearest <= _NEAR_MIN and (len(apart) == 1 or apart[1][0] > nearest + _NEAR_MIN)
    words = "by its time" if nearest == 0 else f"by its time, {nearest:.0f} min from the plan"
    return Fit(shot.id, words + ("" if sure else ": unsure"), sure)


def _apart_min(shot: Shot, minute: float) -> float:
    return max(shot.start_min - minute, minute - shot.start_min - shot.length_min, 0.0)


def with_place(project: Project, place: Whereabouts | None, takes: Sequence[Take]) -> Project:
    """A day of which nobody said where and when, as its recordings tell: only where it holds none yet."""
    site = project.site
    if site.known or any(shot.takes for shot in project.shots):
        return project
    if place is not None:
        with contextlib.suppress(InputError):
            zone = zone_at(place.lat_deg, place.lon_deg)
            north = f"{abs(place.lat_deg):.3f}° {'N' if place.lat_deg >= 0 else 'S'}"
            east = f"{abs(place.lon_deg):.3f}° {'E' if place.lon_deg >= 0 else 'W'}"
            site = replace(
                site, known=True, name=f"{north} {east}", lat_deg=place.lat_deg, lon_deg=place.lon_deg, zone=zone
            )
    days = [found[0] for take in takes if (found := local_began(take, site.zone)) is not None]
    return replace(project, site=replace(site, day=days[0] if days else site.day))

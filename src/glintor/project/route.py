"""A route out of a GPX file (GPX 1.1, an open format)."""

from datetime import UTC, datetime
from itertools import pairwise
from pathlib import Path
from typing import Any

from msgspec import Struct

from glintor.errors import InputError

JUMP_M = 50_000.0  # between two points of a day's route: one of them is wrong (judgement, no source)
_MOST_POINTS = 500


class Route(Struct, frozen=True):
    """Points in degrees north and east, named places in order with where they are, metres along, and the mean speed where times
    are told."""

    points: tuple[tuple[float, float], ...]
    places: tuple[tuple[str, float, float], ...]
    length_m: float
    speed_m_s: float

    @property
    def bearing_deg(self) -> float:
        """From the first point to the last, clockwise from north."""
        from gpxpy.geo import get_course

        return float(get_course(*self.points[0], *self.points[-1]) or 0.0) % 360.0


def _in_one_zone(time: datetime) -> datetime:
    """A moment in UTC; GPX times without a zone are in UTC by its schema."""
    return time.replace(tzinfo=UTC) if time.tzinfo is None else time.astimezone(UTC)


def _plain(name: str) -> str:
    """A name as a list of names can hold it: without commas."""
    return " ".join(name.replace(",", " ").split())


def read_gpx(path: Path) -> Route:
    """The route in a GPX file: its track, else its route, else its waypoints. Raises InputError."""
    import gpxpy
    from gpxpy.geo import haversine_distance

    keep = "The site is as it was."
    try:
        file = gpxpy.parse(path.read_text(encoding="utf-8"))
    except (OSError, UnicodeDecodeError, gpxpy.gpx.GPXException, ValueError, RecursionError) as error:
        raise InputError(f"{path.name} cannot be read as GPX: {error}.", unharmed=keep) from error
    found: list[Any] = [p for track in file.tracks for segment in track.segments for p in segment.points]
    found = found or [p for route in file.routes for p in route.points] or list(file.waypoints)
    if not found:
        raise InputError(f"{path.name} has no points.", unharmed=keep, advice="Choose a file with a track.")
    points = [(float(p.latitude), float(p.longitude)) for p in found]
    if not all(abs(lat) <= 90.0 and abs(lon) <= 180.0 for lat, lon in points):  # nor what is not a number
        raise InputError(f"{path.name} has coordinates that are not on Earth.", unharmed=keep)
    steps = [haversine_distance(*a, *b) for a, b in pairwise(points)]
    if steps and max(steps) > JUMP_M:
        at = steps.index(max(steps)) + 1
        raise InputError(
            f"{path.name} jumps by {max(steps) / 1000.0:.0f} km between points {at} and {at + 1}.",
            unharmed=keep,
            advice="Take that point out, or use another file.",
        )
    times = [_in_one_zone(p.time) for p in found if p.time is not None]
    seconds = (times[-1] - times[0]).total_seconds() if len(times) > 1 else 0.0
    names = tuple(
        (_plain(w.name), float(w.latitude), float(w.longitude)) for w in file.waypoints if w.name and _plain(w.name)
    )
    thin = points[:: max(len(points) // _MOST_POINTS, 1)]
    if thin[-1] != points[-1]:
        thin.append(points[-1])
    return Route(tuple(thin), names, sum(steps), sum(steps) / seconds if seconds > 0.0 else 0.0)

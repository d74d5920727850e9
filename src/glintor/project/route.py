"""A route out of a GPX file (GPX 1.1, an open format)."""

import math
from datetime import UTC, datetime
from itertools import pairwise
from pathlib import Path
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from glintor.errors import InputError
from glintor.project.site import Site, TrackPoint, Waypoint
from glintor.project.zone import hours_off, zone_at

JUMP_M = 50_000.0  # between two points of a day's route: one of them is wrong (judgement, no source)
_MOST_POINTS = 2000


class Route(Struct, frozen=True):
    """Points, named places in order with where they are, metres along, and the mean speed where times are told."""

    points: tuple[TrackPoint, ...]
    places: tuple[tuple[str, float, float], ...]
    length_m: float
    speed_m_s: float

    @property
    def bearing_deg(self) -> float:
        """From the first point to the last, clockwise from north."""
        from gpxpy.geo import get_course

        (a, b), (c, d) = ((p.lat_deg, p.lon_deg) for p in (self.points[0], self.points[-1]))
        return float(get_course(a, b, c, d) or 0.0) % 360.0


def _in_one_zone(time: datetime) -> datetime:
    """A moment in UTC; GPX times without a zone are in UTC by its schema."""
    return time.replace(tzinfo=UTC) if time.tzinfo is None else time.astimezone(UTC)


def _plain(name: str) -> str:
    """A name as a list of names can hold it: without commas."""
    return " ".join(name.replace(",", " ").split())


def on_route(site: Site, route: Route) -> tuple[Site, str]:
    """A site that lies on a route: its coordinates, way ahead, places and time zone are the route's; and what was found, in
    words."""
    first = route.points[0]
    zone = zone_at(first.lat_deg, first.lon_deg)
    off = hours_off(first.lat_deg, first.lon_deg, site.day, site.zone)
    other = f" The place lies in {zone}: the day's zone is that now." if off or not site.known else ""
    speed = f", at {route.speed_m_s:.1f} m/s" if route.speed_m_s else ", without times"
    up = "" if any(point.up_m is not None for point in route.points) else ", without heights"
    words = f"{len(route.points)} points, {route.length_m / 1000.0:.1f} km{speed}{up}.{other}"
    return replace(
        site,
        known=True,
        track=route.points,
        waypoints=tuple(Waypoint(name=name, lat_deg=lat, lon_deg=lon) for name, lat, lon in route.places),
        route=tuple(name for name, _, _ in route.places) or site.route,
        lat_deg=first.lat_deg,
        lon_deg=first.lon_deg,
        way_bearing_deg=route.bearing_deg,
        zone=zone if other else site.zone,
    ), words


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
    begins = times[0].replace(hour=0, minute=0, second=0, microsecond=0) if times else None
    whole = [
        TrackPoint(
            *points[n],
            None if p.elevation is None or not math.isfinite(p.elevation) else round(float(p.elevation), 1),
            None
            if p.time is None or begins is None
            else round((_in_one_zone(p.time) - begins).total_seconds() / 60.0, 3),
        )
        for n, p in enumerate(found)
    ]
    thin = whole[:: max(len(whole) // _MOST_POINTS, 1)]
    if thin[-1] != whole[-1]:
        thin.append(whole[-1])
    return Route(tuple(thin), names, sum(steps), sum(steps) / seconds if seconds > 0.0 else 0.0)

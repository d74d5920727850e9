"""The way of a day as it was recorded: where one is so far along it, which way it leads there, how steep, how fast, when."""

from functools import lru_cache

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from glintor.earth import plane_m
from glintor.placement.sun import local_time
from glintor.project.model import Shot
from glintor.project.site import Site, TrackPoint
from glintor.types import Array

# Between which a bearing, a slope and a pace are taken: half before, half after (judgement: longer than what a recorder errs by).
_BEARING_M, _SLOPE_M, _PACE_S = 30.0, 80.0, 120.0
_PAUSE_M_S = 0.3  # slower than this somebody stands


class Spot(Struct, frozen=True):
    """A place of the way; None where the track does not tell. slope_deg: uphill ahead is above 0."""

    along_m: float
    lat_deg: float
    lon_deg: float
    bearing_deg: float
    up_m: float | None = None
    slope_deg: float | None = None
    speed_m_s: float | None = None
    minute: float | None = None


class Way:
    """A track as arrays: metres along it (n,), east and north of its first point (n, 2), heights and minutes where told."""

    def __init__(self, points: tuple[TrackPoint, ...], day: str, zone: str) -> None:
        self._lat, self._lon = (np.array([getattr(p, name) for p in points]) for name in ("lat_deg", "lon_deg"))
        self.plane_m = plane_m(self._lat, self._lon)
        steps = np.hypot(*np.diff(self.plane_m, axis=0).T) if len(points) > 1 else np.zeros(0)
        self.along_m: Array = np.concatenate([[0.0], np.cumsum(steps)])
        self.up_m = _told([p.up_m for p in points])
        told = _told([p.utc_min for p in points])
        self.minute = None if told is None else told + _offset_min(day, zone, float(told[0]))

    @property
    def length_m(self) -> float:
        return float(self.along_m[-1])

    def at(self, along_m: float) -> Spot:
        """What is known so far along it."""
        along = float(np.clip(along_m, 0.0, self.length_m))
        lat, lon = (float(np.interp(along, self.along_m, values)) for values in (self._lat, self._lon))
        a, b = self._ends(along, _BEARING_M)
        east, north = (float(np.interp(b, self.along_m, v) - np.interp(a, self.along_m, v)) for v in self.plane_m.T)
        spot = Spot(along, lat, lon, float(np.degrees(np.arctan2(east, north))) % 360.0)
        if self.up_m is not None:
            a, b = self._ends(along, _SLOPE_M)
            rise = float(np.interp(b, self.along_m, self.up_m) - np.interp(a, self.along_m, self.up_m))
            up = float(np.interp(along, self.along_m, self.up_m))
            spot = replace(spot, up_m=up, slope_deg=float(np.degrees(np.arctan2(rise, max(b - a, 1e-6)))))
        if self.minute is not None:
            now = float(np.interp(along, self.along_m, self.minute))
            before, after = np.interp([now - _PACE_S / 120.0, now + _PACE_S / 120.0], self.minute, self.along_m)
            pace = float(after - before) / _PACE_S
            spot = replace(spot, minute=now, speed_m_s=pace if pace > _PAUSE_M_S else None)
        return spot

    def nearest(self, east_m: float, north_m: float) -> float:
        """Metres along it to its point nearest to a place."""
        a, step = self.plane_m[:-1], np.diff(self.plane_m, axis=0)
        flat = np.maximum((step**2).sum(axis=1), 1e-9)
        share = np.clip(((np.array([east_m, north_m]) - a) * step).sum(axis=1) / flat, 0.0, 1.0)
        off = np.hypot(*(a + share[:, None] * step - [east_m, north_m]).T)
        at = int(off.argmin())
        return float(self.along_m[at] + share[at] * np.sqrt(flat[at]))

    def plane_of(self, lat_deg: float, lon_deg: float) -> tuple[float, float]:
        """East and north of its first point of a place beside it: from the track's own point nearest to it."""
        at = int(np.hypot(self._lat - lat_deg, (self._lon - lon_deg) * np.cos(np.radians(lat_deg))).argmin())
        off = plane_m(np.array([self._lat[at], lat_deg]), np.array([self._lon[at], lon_deg]))[1] + self.plane_m[at]
        return float(off[0]), float(off[1])

    def climb_m(self, a_m: float, b_m: float) -> float:
        """Metres of ascent from one place of it to another, every rise counted, none of the falls; 0 where it tells no heights."""
        if self.up_m is None:
            return 0.0
        low, high = sorted((a_m, b_m))
        along = np.concatenate([[low], self.along_m[(self.along_m > low) & (self.along_m < high)], [high]])
        steps = np.diff(np.interp(along, self.along_m, self.up_m))
        return float(np.maximum(steps if b_m >= a_m else -steps, 0.0).sum())

    def position_m(self, along_m: float) -> tuple[float, float]:
        """East and north of its first point."""
        east, north = (float(np.interp(along_m, self.along_m, values)) for values in self.plane_m.T)
        return east, north

    def minutes_between(self, a_m: float, b_m: float) -> float | None:
        """Minutes from one place of it to another as it was gone; None where it tells no times."""
        if self.minute is None:
            return None
        return abs(float(np.interp(b_m, self.along_m, self.minute) - np.interp(a_m, self.along_m, self.minute)))

    def _ends(self, along: float, window_m: float) -> tuple[float, float]:
        return max(along - window_m / 2.0, 0.0), min(along + window_m / 2.0, self.length_m)


def _offset_min(day: str, zone: str, first_utc_min: float) -> float:
    """What brings minutes of a recording, whatever its day, to minutes after local midnight of the day that is planned."""
    offset = local_time(day, zone, 720.0).utcoffset()
    minutes = 0.0 if offset is None else offset.total_seconds() / 60.0
    return minutes - 1440.0 * float(np.floor((first_utc_min + minutes) / 1440.0))


def _told(values: list[float | None]) -> Array | None:
    """Values as an array where all are told, in between evenly where some are; None where fewer than two."""
    known = [(n, value) for n, value in enumerate(values) if value is not None]
    if len(known) < 2:
        return None
    at, told = zip(*known, strict=True)
    return np.asarray(np.interp(np.arange(len(values)), at, told))


@lru_cache(maxsize=8)
def _way(points: tuple[TrackPoint, ...], day: str, zone: str) -> Way:
    return Way(points, day, zone)


def way_of(site: Site) -> Way | None:
    """The site's track; None where it has none."""
    return _way(site.track, site.day, site.zone) if len(site.track) > 1 else None


def put_along(site: Site, shot: Shot, along_m: float) -> Shot:
    """A shot at a place of the way: it takes bearing, slope, pace and hour from there, as far as the track tells them. A pace is
    taken by what moves only, and where it is that carrier's: a walker's is not a bicycle's."""
    way = way_of(site)
    if way is None:
        return shot
    spot = way.at(along_m)
    carrier = site.carrier(shot.placement.carrier)
    usual = carrier.speed_m_s if carrier is not None else 0.0
    fits = spot.speed_m_s is not None and usual > 0.0 and usual / 2.5 < spot.speed_m_s < usual * 2.5
    placement = replace(
        shot.placement,
        way_bearing_deg=round(spot.bearing_deg, 1) % 360.0,
        slope_deg=0.0 if spot.slope_deg is None else round(min(max(spot.slope_deg, -45.0), 45.0), 1),
        speed_m_s=round(spot.speed_m_s, 2) if fits and spot.speed_m_s is not None else None,
    )
    starts = shot.start_min if spot.minute is None or not 0.0 <= spot.minute < 1440.0 else round(spot.minute)
    return replace(shot, along_m=round(spot.along_m, 1), start_min=float(starts), placement=placement)

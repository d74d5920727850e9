"""Which way a take went over the ground, by the GPX beside its clip."""

from contextlib import suppress
from datetime import UTC, datetime
from functools import lru_cache
from pathlib import Path

import numpy as np
from msgspec import Struct

from glintor.earth import plane_m
from glintor.errors import InputError
from glintor.project.store import clip_files
from glintor.project.take import Take
from glintor.types import Array

_LEAST_M_S = 0.6  # slower, places jump about more than one goes (judgement)
_CALM_S = 1.5  # places are good to some metres: they are smoothed over so long, both ways


class WayGone(Struct, frozen=True, eq=False):
    """The way of travel at moments of a clip (n,), clockwise from north, unwrapped; from which file."""

    time_s: Array
    bearing_deg: Array
    file: Path


def way_gone(project_file: Path, take: Take) -> WayGone | None:
    """The way that a take went, None where no GPX beside it tells, or it stood still."""
    with suppress(InputError, OSError):
        clip = clip_files(project_file, take)[0]
        for file in sorted(clip.parent.iterdir()):
            name, stem = clip.stem.lower(), file.stem.lower()  # cards are not particular about letters
            mine = name == stem or name.startswith(f"{stem}_")
            if file.suffix.lower() == ".gpx" and mine:
                return _read(file, file.stat().st_mtime_ns, take.began)
    return None


@lru_cache(maxsize=16)
def _read(file: Path, _changed_ns: int, began: str) -> WayGone | None:
    import gpxpy

    with suppress(Exception):  # of whatever is wrong with it, it tells nothing
        read = gpxpy.parse(file.read_text(errors="replace"))
        found = [p for track in read.tracks for segment in track.segments for p in segment.points]
        points = [(at, p.latitude, p.longitude) for p in found if (at := p.time) is not None]
        return _way(file, points, began)
    return None


def _way(file: Path, points: list[tuple[datetime, float, float]], began: str) -> WayGone | None:
    if len(points) < 3:
        return None
    starts = _since(points[0][0], began)
    times = np.array([(p[0] - points[0][0]).total_seconds() for p in points]) + starts
    new = np.concatenate([[True], np.diff(times) > 1e-3])
    east, north = plane_m(np.array([p[1] for p in points]), np.array([p[2] for p in points])).T
    grid = np.arange(times[0], times[-1], 0.2)
    if len(grid) < 8:
        return None
    from scipy.ndimage import gaussian_filter1d

    calm = [
        gaussian_filter1d(np.interp(grid, times[new], line[new]), _CALM_S / 0.2, mode="nearest")
        for line in (east, north)
    ]
    going_east, going_north = (np.gradient(line, grid) for line in calm)
    moves = np.hypot(going_east, going_north) > _LEAST_M_S
    if not moves.any():
        return None
    bearing = np.degrees(np.unwrap(np.arctan2(going_east[moves], going_north[moves])))
    return WayGone(grid[moves], bearing, file)


def _since(first: datetime, began: str) -> float:
    """How long after a clip's first frame its GPX begins; 0 where the clip's clock does not say."""
    with suppress(ValueError):
        clip = datetime.fromisoformat(began)
        if clip.tzinfo is not None:
            zoned = first if first.tzinfo is not None else first.replace(tzinfo=UTC)
            return (zoned - clip).total_seconds()
    return 0.0

"""Which photos belong together: brackets of one moment at several exposures, and series that are played as a film."""

import re
from datetime import timedelta
from itertools import pairwise
from pathlib import Path

from msgspec.structs import replace

from glintor.media.exif import read_exif, told_exposure
from glintor.media.looks_like import alike
from glintor.media.picture import glance
from glintor.media.reading import Reading

_SERIES = 5  # photos in a row that look alike are a series from so many on
_SERIES_LIKE = 0.75
_BRACKET_S, _BRACKET_STOPS, _BRACKET_MOST = 4.0, 0.4, 11
_NUMBERED = re.compile(r"^(.*?)(\d+)$")


def numbered(file: Path) -> tuple[str, int] | None:
    match = _NUMBERED.match(file.stem)
    return (match.group(1), int(match.group(2))) if match is not None and len(match.group(2)) < 15 else None


def photos_together(readings: list[Reading]) -> list[Reading]:
    found: list[Reading] = []
    for run in _runs(readings):
        left = run
        while left:
            taken = _bracket(left) or _series(left)
            if taken is None:
                found.append(left[0])
                left = left[1:]
            else:
                found.append(taken)
                left = left[len(taken.files) :]
    return found


def _runs(readings: list[Reading]) -> list[list[Reading]]:
    """Photos of one size whose numbers follow each other."""
    runs: list[list[Reading]] = []
    for reading in readings:
        last = runs[-1][-1] if runs else None
        one, two = (numbered(last.files[0]) if last is not None else None), numbered(reading.files[0])
        after = one is not None and two is not None and two[1] == one[1] + 1
        if last is not None and after and last.size_px == reading.size_px and last.told == reading.told:
            runs[-1].append(reading)
        else:
            runs.append([reading])
    return runs


def _bracket(run: list[Reading]) -> Reading | None:
    """The bracket that a run begins with: taken within seconds at different exposures, as EXIF says."""
    shots = [read_exif(reading.files[0]) for reading in run[:_BRACKET_MOST]]
    stops = [shot.stops for shot in shots]
    length = 1
    for before, after in pairwise(range(len(shots))):
        a, b = shots[before], shots[after]
        near = (
            a.taken is not None
            and b.taken is not None
            and timedelta(0) <= b.taken - a.taken <= timedelta(seconds=_BRACKET_S)
        )
        now = stops[after]
        fresh = now is not None and all(s is not None and abs(s - now) > _BRACKET_STOPS for s in stops[:after])
        if not near or not fresh:
            break
        length += 1
    if length < 2:
        return None
    ranked = sorted(range(length), key=lambda n: stops[n] or 0.0)
    middle = ranked[len(ranked) // 2]
    files = tuple(run[n].files[0] for n in [middle, *(n for n in range(length) if n != middle)])
    spread = (stops[ranked[-1]] or 0.0) - (stops[ranked[0]] or 0.0)
    why = f"{length} photos within seconds, {spread:.1f} stops from the darkest exposure to the lightest, as their EXIF says"
    exposed = told_exposure(shots[:length])
    return replace(run[middle], reading="bracket", files=files, why=why, sure=True, exposed=exposed)


def _series(run: list[Reading]) -> Reading | None:
    """The series that a run begins with: photos that each look like the one before."""
    if len(run) < _SERIES:
        return None
    length, last = 1, glance(run[0].files[0])
    for reading in run[1:]:
        now = glance(reading.files[0])
        if last is None or now is None or alike(last, now) < _SERIES_LIKE:
            break
        length, last = length + 1, now
    if length < _SERIES:
        return None
    files = tuple(reading.files[0] for reading in run[:length])
    kind = {"photo": "spheres", "flat": "flat pictures"}.get(run[0].reading, "pictures")
    faults = ("its photos are flat: it cannot be turned",) if run[0].reading == "flat" else ()
    return replace(
        run[0],
        reading="series",
        files=files,
        rate=25.0,
        duration_s=length / 25.0,
        faults=faults,
        why=f"{length} {kind} whose numbers go on, each like the one before: played as a film of 25 frames a second",
    )

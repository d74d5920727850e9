"""Rolling shutter of a recording of fisheyes: found from its pictures and the inertial log beside it.

A sphere that the camera joined has mixed its rows already: nobody can tell which lens's row a pixel came from.
"""

from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np

from glintor.media.footage import Footage
from glintor.media.kept_rows import keep_rows, known_rows
from glintor.sphere.lenses import Lenses
from glintor.sphere.rolling import Rows
from glintor.sphere.turn import TurnTrack
from glintor.types import Array

if TYPE_CHECKING:
    from glintor.media.inertial import Log
    from glintor.sphere.steady import Orientation

_MOMENTS = 12
_WITHIN_S = 0.008  # of a frame's moment: so long before and after its axis is read, about
_LEAST_HZ = 90.0  # of a log, below which it knows nothing of what happens within a picture
_LEAST_RAD_S = 0.12  # of turning, below which rows do not lie apart


def told_since(footage: Footage) -> bool:
    """Whether something was found of a recording's rows since it was opened."""
    return isinstance(footage.shows, Lenses) and footage.rows is None and known_rows(footage.files) is not None


def spins_of(log: "Log", at_s: Array) -> Array:
    """(n, 2, 3) as `Rows` has them at moments of the log."""
    before, now, after = (
        np.stack([np.interp(at_s + by, log.time_s, c) for c in log.gyro_rad_s.T], axis=1)
        for by in (-_WITHIN_S, 0.0, _WITHIN_S)
    )
    return np.stack([(before + 2.0 * now + after) / 4.0, (after - before) / (4.0 * _WITHIN_S)], axis=1)


def find_rows(footage: Footage, lain: "Orientation", log: "Log", offset_s: float) -> Rows | None:
    """How the rows of a recording of fisheyes were read; None where it does not tell. lain: with the log in it; offset_s: log time
    less picture time. Raises ClipError."""
    from glintor.media.lens_profile import small_parts
    from glintor.pixels.calibrate import followed
    from glintor.pixels.readout import Step, readouts_s

    lenses = footage.shows
    if not isinstance(lenses, Lenses) or float(np.median(np.diff(log.time_s))) > 1.0 / _LEAST_HZ:
        return None
    spins = spins_of(log, lain.time_s + offset_s)
    turns = TurnTrack(lain.time_s, lain.quaternions)
    steps, part_px = list[Step](), (0, 0)
    looked = footage.draft() or footage
    with looked.reader() as reader:
        for first in _quickest(lain.time_s, np.linalg.norm(spins[:, 0], axis=1)):
            until = first + 1.5 / float(footage.rate)
            two = list(reader.frames(first - 0.25 / float(footage.rate), until))[:2]
            if len(two) < 2:
                continue
            frames = [small_parts(one.picture, lenses) for one in two]
            part_px = (frames[0][0].shape[1], frames[0][0].shape[0])
            times = np.array([float(one.time) for one in two])
            at = [int(np.argmin(np.abs(lain.time_s - time))) for time in times]
            steps.append(Step(followed([frames], lenses)[0], np.stack([turns.at(t) for t in times]), spins[at]))
    found = readouts_s(steps, lenses, part_px) if steps else None
    if found is None:
        return None
    rows = Rows(lain.time_s, spins, found)
    keep_rows(footage.files, rows)
    return rows


def _quickest(time_s: Array, rate_rad_s: Array) -> list[float]:
    """The moments at which the camera turns most, one in each part of a recording."""
    edges = np.linspace(0, len(time_s) - 1, _MOMENTS + 1).astype(int)
    spans = [(a, b) for a, b in pairwise(edges) if b > a]
    best = [a + int(np.argmax(rate_rad_s[a:b])) for a, b in spans]
    return [float(time_s[n]) for n in best if rate_rad_s[n] > _LEAST_RAD_S]

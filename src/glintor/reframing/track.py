"""Where the subject is, moment by moment: CSV with the header `time_s,yaw_deg,pitch_deg,distance_m` where that was known when it was
filmed, `time_s,yaw_deg,pitch_deg,size_deg,state` where it was found in the pictures."""

from collections.abc import Sequence
from pathlib import Path

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from glintor.files import write_bytes
from glintor.reframing.path_clock import PathClock
from glintor.reframing.table import read_rows
from glintor.sphere.equirect import direction, lonlat_deg
from glintor.sphere.turn import TurnTrack
from glintor.types import Array

COLUMNS = ("time_s", "yaw_deg", "pitch_deg", "distance_m")
FOUND = ("time_s", "yaw_deg", "pitch_deg", "size_deg", "state")
LOST, UNSURE, SURE = 0, 1, 2
_STATES = ("lost", "unsure", "sure")


class Track(Struct, frozen=True, eq=False):
    """Arrays (n,) of time, direction in the sphere and distance (not a number where nobody knows); yaw unwrapped. Of a track that was
    found in the pictures size_deg is how high the subject is and state how sure that is: lost, unsure, sure."""

    time_s: Array
    yaw_deg: Array
    pitch_deg: Array
    distance_m: Array
    size_deg: Array | None = None
    state: NDArray[np.int64] | None = None

    def at(self, times_s: Array) -> "Track":
        """The track at other times; held at its ends."""
        columns = (self.yaw_deg, self.pitch_deg, self.distance_m)
        yaw, pitch, distance = (np.interp(times_s, self.time_s, column) for column in columns)
        size = None if self.size_deg is None else np.interp(times_s, self.time_s, self.size_deg)
        return Track(times_s, yaw, pitch, distance, size, self._state_at(times_s))

    def _state_at(self, times_s: Array) -> NDArray[np.int64] | None:
        """Between two moments it is as sure as the less sure of both."""
        if self.state is None:
            return None
        after = np.clip(np.searchsorted(self.time_s, times_s), 0, len(self.time_s) - 1)
        state: NDArray[np.int64] = np.minimum(self.state[after], self.state[np.maximum(after - 1, 0)])
        return state

    def on(self, clock: PathClock) -> "Track":
        """The same in the time of a path over the clip."""
        if not clock.freezes:
            return self
        stands = clock.knots(self.time_s)
        return replace(self.at(clock.clip_s(stands)), time_s=stands)

    @property
    def known(self) -> NDArray[np.bool_]:
        """(n,) where it is not lost."""
        return np.ones(len(self.time_s), bool) if self.state is None else self.state > LOST

    @property
    def sure(self) -> NDArray[np.bool_]:
        """(n,) where it is known to be what was pointed at; a track that was given is all sure."""
        return np.ones(len(self.time_s), bool) if self.state is None else self.state > UNSURE

    @property
    def nearest_m(self) -> float | None:
        """The least distance; None where nobody knows any."""
        known = self.distance_m[np.isfinite(self.distance_m)]
        return float(known.min()) if len(known) else None

    def turned(self, turns: TurnTrack) -> "Track":
        """The same in the frame that a recording is held in: `turns` goes from its picture to that frame."""
        look = np.einsum("nij,nj->ni", turns.at(self.time_s), direction(self.yaw_deg, self.pitch_deg))
        yaw, pitch = lonlat_deg(look)
        unwrapped = np.degrees(np.unwrap(np.radians(yaw)))
        return Track(self.time_s, unwrapped, pitch, self.distance_m, self.size_deg, self.state)


def found_track(rows: Sequence[tuple[float, float, float, float, int]]) -> Track:
    """A track of what was found: time, yaw, pitch, size (degrees) and state of each moment, in any order."""
    table = np.array(sorted(rows), np.float64).reshape(-1, 5)
    yaw = np.degrees(np.unwrap(np.radians(table[:, 1])))
    unknown = np.full(len(table), np.nan)
    return Track(table[:, 0], yaw, table[:, 2], unknown, table[:, 3], table[:, 4].astype(np.int64))


def write_found(path: Path, track: Track) -> None:
    """Writes a track that was found, whole. Raises WriteError."""
    assert track.size_deg is not None and track.state is not None, "it was found in the pictures"
    lines = [",".join(FOUND)]
    for time_s, yaw, pitch, size, state in zip(
        track.time_s, track.yaw_deg, track.pitch_deg, track.size_deg, track.state, strict=True
    ):
        lines.append(f"{time_s:.4f},{yaw:.3f},{pitch:.3f},{size:.3f},{_STATES[state]}")
    write_bytes(path, ("\n".join(lines) + "\n").encode())


def read_found(path: Path) -> Track:
    """A track that was found. Raises PathError with the line that is wrong."""
    named = {"state": {word: float(number) for number, word in enumerate(_STATES)}}
    rows = [values for _, values in read_rows(path, FOUND, words=named)]
    return found_track([(t, yaw, pitch, size, int(state)) for t, yaw, pitch, size, state in rows])


def track_of(rows: Sequence[Sequence[float]]) -> Track:
    """A track of rows in the order of COLUMNS."""
    table = np.asarray(rows, dtype=np.float64).reshape(-1, len(COLUMNS))
    return Track(table[:, 0], np.degrees(np.unwrap(np.radians(table[:, 1]))), table[:, 2], table[:, 3])


def read_track(path: Path) -> Track:
    """The track in the file. Raises PathError with the line that is wrong."""
    return track_of([values for _, values in read_rows(path, COLUMNS)])


def write_track(path: Path, rows: Sequence[Sequence[float]]) -> None:
    """Writes rows in the order of COLUMNS, whole. Raises WriteError."""
    lines = [",".join(COLUMNS)] + [",".join(f"{value:.4f}" for value in row) for row in rows]
    write_bytes(path, ("\n".join(lines) + "\n").encode())


def track_file(clip: Path) -> Path:
    """Where the track of a clip lies: beside it."""
    return clip.with_suffix(".track.csv")

"""Where the subject is, moment by moment: CSV with the header `time_s,yaw_deg,pitch_deg,distance_m`."""

from collections.abc import Sequence
from pathlib import Path

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.files import write_bytes
from glintor.reframing.table import read_rows
from glintor.sphere.equirect import direction, lonlat_deg
from glintor.sphere.turn import TurnTrack

COLUMNS = ("time_s", "yaw_deg", "pitch_deg", "distance_m")


class Track(Struct, frozen=True, eq=False):
    """Arrays (n,) of time, direction in the sphere and distance; yaw unwrapped."""

    time_s: NDArray[np.float64]
    yaw_deg: NDArray[np.float64]
    pitch_deg: NDArray[np.float64]
    distance_m: NDArray[np.float64]

    def at(self, times_s: NDArray[np.float64]) -> "Track":
        """The track at other times; held at its ends."""
        columns = (self.yaw_deg, self.pitch_deg, self.distance_m)
        return Track(times_s, *(np.interp(times_s, self.time_s, column) for column in columns))

    def turned(self, turns: TurnTrack) -> "Track":
        """The same in the frame that a recording is held in: `turns` goes from its picture to that frame."""
        look = np.einsum("nij,nj->ni", turns.at(self.time_s), direction(self.yaw_deg, self.pitch_deg))
        yaw, pitch = lonlat_deg(look)
        return Track(self.time_s, np.degrees(np.unwrap(np.radians(yaw))), pitch, self.distance_m)


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

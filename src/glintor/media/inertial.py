"""The inertial log beside a clip: what a camera's gyroscope and accelerometer felt, as open CSV."""

import re
from collections.abc import Sequence
from pathlib import Path

import numpy as np
from msgspec import Struct

from glintor.errors import InputError
from glintor.files import write_bytes
from glintor.types import Array

COLUMNS = ("t_s", "gyro_x_rad_s", "gyro_y_rad_s", "gyro_z_rad_s", "accel_x_m_s2", "accel_y_m_s2", "accel_z_m_s2")
_G = 9.80665  # standard acceleration of free fall, m/s2 (CGPM 1901)
_TIME = {"s": 1.0, "ms": 1e-3, "us": 1e-6, "ns": 1e-9}
_GYRO = {"rad_s": 1.0, "deg_s": float(np.pi / 180.0), "dps": float(np.pi / 180.0)}
_ACCEL = {"m_s2": 1.0, "g": _G, "mg": _G / 1000.0}


class Log(Struct, frozen=True, eq=False):
    """time_s (n,) rising; gyro_rad_s and accel_m_s2 (n, 3) in the camera's body axes (x ahead, y left, z up; +g up at rest)."""

    time_s: Array
    gyro_rad_s: Array
    accel_m_s2: Array


def inertial_file(clip: Path) -> Path:
    """Where the log lies beside a clip."""
    return clip.with_suffix(".inertial.csv")


def log_beside(files: Sequence[Path]) -> Path | None:
    """The inertial log beside a recording, in any case of letters; None where there is none."""
    first = files[0]
    stems = {file.stem.lower() for file in files} | {re.sub(r"[_\-. ]*\d+$", "", first.stem.lower())}
    try:
        beside = sorted(f for f in first.parent.iterdir() if f.suffix.lower() == ".csv")
    except OSError:
        return None
    for file in beside:
        if file.name.lower().split(".")[0] in stems and _columns(_head(file)) is not None:
            return file
    return None


def _head(file: Path) -> str:
    try:
        with file.open(errors="replace") as lines:
            return lines.readline()
    except OSError:
        return ""


def _columns(head: str) -> list[tuple[int, float]] | None:
    """Column and factor to SI of time, gyroscope and accelerometer; None where the head does not name them with units."""
    names = [re.sub(r"[^a-z0-9]+", "_", name.strip().lower()).strip("_") for name in head.split(",")]
    found = []
    for patterns, units in (
        ((r"(?:t|time|timestamp)_",), _TIME),
        (tuple(rf"(?:gyro|gyroscope|gyr|omega|w)_?{axis}_" for axis in "xyz"), _GYRO),
        (tuple(rf"(?:accel|accelerometer|acc|a)_?{axis}_" for axis in "xyz"), _ACCEL),
    ):
        for pattern in patterns:
            match = next(
                (
                    (n, units[unit])
                    for n, name in enumerate(names)
                    for unit in units
                    if re.fullmatch(pattern + unit, name)
                ),
                None,
            )
            if match is None:
                return None
            found.append(match)
    return found


def write_inertial(file: Path, rows: Array) -> None:
    """CSV: a line of column names with their units, then one row a sample; written whole or not at all."""
    lines = [",".join(COLUMNS)] + [f"{row[0]:.4f}," + ",".join(f"{value:.5f}" for value in row[1:]) for row in rows]
    write_bytes(file, ("\n".join(lines) + "\n").encode())


def read_log(file: Path) -> Log:
    """The log in a CSV whose first line names its columns with their units. Raises InputError."""
    try:
        lines = file.read_text(errors="replace").splitlines()
    except OSError as error:
        raise InputError(f"{file.name} cannot be opened: {error.strerror}.", advice="Check the name.") from error
    columns = _columns(lines[0]) if lines else None
    if columns is None:
        raise InputError(
            f"{file.name} is not an inertial log.", advice=f"Its first line should be such as {','.join(COLUMNS)}."
        )
    if not any(line.strip() for line in lines[1:]):
        raise InputError(f"{file.name} holds hardly anything.", advice="Use another copy.")
    try:
        rows = np.array([[float(value) for value in line.split(",")] for line in lines[1:] if line.strip()])
        values = np.stack([rows[:, column] * factor for column, factor in columns], axis=1)
    except (ValueError, IndexError) as error:
        raise InputError(f"{file.name} has a line that is no row of numbers.", advice="Use another copy.") from error
    rising = np.concatenate([[True], np.diff(values[:, 0]) > 0.0]) & np.isfinite(values).all(axis=1)
    values = values[rising]
    if len(values) < 10:
        raise InputError(f"{file.name} holds hardly anything.", advice="Use another copy.")
    return Log(values[:, 0], values[:, 1:4], values[:, 4:7])

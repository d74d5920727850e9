"""The inertial log beside a clip: what a camera's gyroscope and accelerometer felt, as open CSV."""

from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from glintor.errors import InputError
from glintor.files import write_bytes

Array = NDArray[np.float64]
COLUMNS = ("t_s", "gyro_x_rad_s", "gyro_y_rad_s", "gyro_z_rad_s", "accel_x_m_s2", "accel_y_m_s2", "accel_z_m_s2")


def inertial_file(clip: Path) -> Path:
    """Where the log lies beside a clip."""
    return clip.with_suffix(".inertial.csv")


def write_inertial(file: Path, rows: Array) -> None:
    """CSV: a line of column names with their units, then one row a sample; written whole or not at all."""
    lines = [",".join(COLUMNS)] + [f"{row[0]:.4f}," + ",".join(f"{value:.5f}" for value in row[1:]) for row in rows]
    write_bytes(file, ("\n".join(lines) + "\n").encode())


def read_inertial(file: Path) -> NDArray[np.float64]:
    """(n, 7) rows of COLUMNS. Raises InputError."""
    lines = file.read_text().splitlines()
    if not lines or tuple(lines[0].split(",")) != COLUMNS:
        raise InputError(
            f"{file.name} is not an inertial log.", advice=f"Its first line should be {','.join(COLUMNS)}."
        )
    try:
        rows = np.array([[float(value) for value in line.split(",")] for line in lines[1:]])
        return rows.reshape(len(lines) - 1, len(COLUMNS))
    except ValueError as error:
        raise InputError(f"{file.name} has a line that is no row of numbers.", advice="Use another copy.") from error

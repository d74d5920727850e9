"""View angles as a rotation matrix in the body frame of the camera."""

import numpy as np
from numpy.typing import ArrayLike, NDArray


def view_matrix(yaw_deg: ArrayLike, pitch_deg: ArrayLike, roll_deg: ArrayLike) -> NDArray[np.float64]:
    """Matrices (..., 3, 3), of angles of any one shape, that take a view's own axes (x ahead, y left, z up) to the sphere's body frame.

    Roll is applied first, then pitch, then yaw; signs as in the package's docstring.
    """
    yaw, pitch, roll = (np.radians(np.asarray(angle, np.float64)) for angle in (yaw_deg, pitch_deg, roll_deg))
    cy, sy, cp, sp, cr, sr = np.cos(yaw), np.sin(yaw), np.cos(pitch), np.sin(pitch), np.cos(roll), np.sin(roll)
    rows = (  # turn by yaw @ tilt by pitch @ bank by roll, multiplied out
        (cy * cp, sy * cr - cy * sp * sr, -sy * sr - cy * sp * cr),
        (-sy * cp, cy * cr + sy * sp * sr, sy * sp * cr - cy * sr),
        (sp, cp * sr, cp * cr),
    )
    return np.stack([np.stack(row, axis=-1) for row in rows], axis=-2)


def angles_of(matrix: NDArray[np.float64]) -> tuple[float, float, float]:
    """Yaw, pitch, roll in degrees of a turn from own axes to the camera's; the inverse of `view_matrix`."""
    yaw, pitch, roll = angles_of_all(matrix[None])
    return float(yaw[0]), float(pitch[0]), float(roll[0])


def angles_of_all(
    matrices: NDArray[np.float64],
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """The same, each (n,), of many turns (n, 3, 3)."""
    yaw = np.degrees(np.arctan2(-matrices[:, 1, 0], matrices[:, 0, 0]))
    pitch = np.degrees(np.arcsin(np.clip(matrices[:, 2, 0], -1.0, 1.0)))
    roll = np.degrees(np.arctan2(matrices[:, 2, 1], matrices[:, 2, 2]))
    return yaw, pitch, roll

"""View angles as a rotation matrix in the body frame of the camera."""

import numpy as np
from numpy.typing import NDArray


def view_matrix(yaw_deg: float, pitch_deg: float, roll_deg: float) -> NDArray[np.float64]:
    """Matrix (3, 3) that takes a view's own axes (x ahead, y left, z up) to the sphere's body frame.

    Roll is applied first, then pitch, then yaw; signs as in the package's docstring.
    """
    yaw, pitch, roll = np.radians([yaw_deg, pitch_deg, roll_deg])
    cy, sy, cp, sp, cr, sr = np.cos(yaw), np.sin(yaw), np.cos(pitch), np.sin(pitch), np.cos(roll), np.sin(roll)
    turn = np.array([[cy, sy, 0.0], [-sy, cy, 0.0], [0.0, 0.0, 1.0]])
    tilt = np.array([[cp, 0.0, -sp], [0.0, 1.0, 0.0], [sp, 0.0, cp]])
    bank = np.array([[1.0, 0.0, 0.0], [0.0, cr, -sr], [0.0, sr, cr]])
    return turn @ tilt @ bank

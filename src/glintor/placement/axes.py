"""A camera's own axes: its x (the front lens), y and z (along its stick) as columns, in its carrier's axes."""

import numpy as np

from glintor.types import Array


def level_axes(heading_deg: float) -> Array:
    """(3, 3) of an upright camera whose front lens points so far clockwise from the way ahead."""
    turn = -np.radians(heading_deg)
    c, s = np.cos(turn), np.sin(turn)
    return np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]])


def upright(axes: Array) -> Array:
    """The picture's axes of a camera that does not level: its own, turned over where it hangs."""
    return axes if axes[2, 2] >= 0.0 else axes @ np.diag([1.0, -1.0, -1.0])


def camera_axes(camera: Array, foot: Array | None, heading_deg: float, tilt_deg: float, *, hangs: bool) -> Array:
    """(3, 3) the camera's x, y, z as columns. z lies along its stick, away from the foot; x points along the heading as
    far as that allows (the least turn that takes the plumb line to the stick takes the heading along); a joint then
    turns the camera about its y, so that the stick leaves the gap between the lenses."""
    plumb = np.array([0.0, 0.0, -1.0 if hangs and foot is not None else 1.0])
    turn = -np.radians(heading_deg)
    x = np.array([np.cos(turn), np.sin(turn), 0.0])
    z = plumb
    if foot is not None:
        z = camera - foot
        z = z / max(float(np.linalg.norm(z)), 1e-9)
        x = _turned_with(plumb, z, x)
    tilt = np.radians(tilt_deg)
    x, z = np.cos(tilt) * x - np.sin(tilt) * z, np.sin(tilt) * x + np.cos(tilt) * z
    return np.column_stack([x, _cross(z, x), z])


def _cross(a: Array, b: Array) -> Array:
    """The product of two vectors (3,) alone; NumPy's is for many at once and takes ten times as long."""
    (ax, ay, az), (bx, by, bz) = a.tolist(), b.tolist()
    return np.array([ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx])


def _turned_with(a: Array, b: Array, vector: Array) -> Array:
    """A vector after the least turn that takes unit vector a to b (Rodrigues)."""
    axis, along = _cross(a, b), float(a @ b)
    if along < -1.0 + 1e-9:
        return vector
    return np.asarray(vector + (across := _cross(axis, vector)) + _cross(axis, across) / (1.0 + along))

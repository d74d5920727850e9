"""How a view moves over time: how fast it turns, rolls and zooms, and how much it jerks."""

import numpy as np
from msgspec import Struct
from numpy.typing import ArrayLike

from glintor.reframing.course import Course
from glintor.sphere import lens
from glintor.sphere.equirect import direction
from glintor.types import Array

_STEP_S = 0.04  # a viewer sees no change that is quicker than about a frame
_NEAR_S = 1e-3


class Motion(Struct, frozen=True, eq=False):
    """Of a view's axis, at moments (n,): angular speed in degrees a second and jerk in degrees a second cubed; speed of its roll
    against the horizon in degrees a second, and of its zoom as the change of the focal length's logarithm a second."""

    speed_deg_s: Array
    jerk_deg_s3: Array
    roll_deg_s: Array
    zoom_s: Array


def speed_deg_s(course: Course, times_s: Array) -> Array:
    """Angular speed (n,) of the view's axis at each time."""
    before, after = course.values(times_s - _NEAR_S), course.values(times_s + _NEAR_S)
    a, b = direction(before[:, 0], before[:, 1]), direction(after[:, 0], after[:, 1])
    return np.degrees(np.arctan2(np.linalg.norm(np.cross(a, b), axis=1), (a * b).sum(axis=1))) / (2 * _NEAR_S)


def motion_of(course: Course, times_s: ArrayLike) -> Motion:
    """How a course moves at moments (n,)."""
    times = np.asarray(times_s, np.float64)
    values = course.values((times[:, None] + _STEP_S * np.arange(-2, 3)).reshape(-1)).reshape(len(times), 5, 5)
    look = direction(values[..., 0], values[..., 1])
    third = (look[:, 4] - 2.0 * look[:, 3] + 2.0 * look[:, 1] - look[:, 0]) / (2.0 * _STEP_S**3)
    roll = np.abs(values[:, 3, 2] - values[:, 1, 2]) / (2.0 * _STEP_S)
    focal = np.log(lens.focal_per_width(values[..., 3], values[..., 4]))
    zoom = np.abs(focal[:, 3] - focal[:, 1]) / (2.0 * _STEP_S)
    return Motion(speed_deg_s(course, times), np.degrees(np.linalg.norm(third, axis=1)), roll, zoom)

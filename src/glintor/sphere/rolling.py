"""Rolling shutter: each row of a lens's picture is read a little later than the one before it, while the camera turns on.

A reading goes evenly over a lens's part of the picture, whichever way its sensor lies in it: a row of pixels or a column.
Times count from when what lies on the lens's axis is read.
"""

import numpy as np
from msgspec import Struct
from numpy.typing import ArrayLike

from glintor.sphere.lenses import Eye
from glintor.types import Array

_ROUNDS = 3  # each leaves a hundredth of what was wrong before


class Rows(Struct, frozen=True, eq=False):
    """How a recording's pictures are read, and how the camera turned meanwhile.

    time_s       (n,) of its frames
    spin         (n, 2, 3) in the camera's axes: angular velocity in rad/s, and half its change in rad/s2
    readouts_s   (lenses, 2) seconds from one side of a part to the other, and over as much from above downwards
    """

    time_s: Array
    spin: Array
    readouts_s: Array

    def at(self, time_s: float) -> "Moment":
        """The same of the frame at a moment."""
        near = int(np.argmin(np.abs(self.time_s - time_s)))
        return Moment(self.spin[near], self.readouts_s)


class Moment(Struct, frozen=True, eq=False):
    """spin (2, 3) and readouts_s (lenses, 2) as `Rows` has them."""

    spin: Array
    readouts_s: Array


def turn_by(vector: Array, look: Array) -> Array:
    """Directions (..., 3) turned by small vectors (..., 3) in radians, to the second order."""
    once = np.cross(vector, look)
    return look + once + np.cross(vector, once) / 2.0


def spun(spin: Array, late_s: ArrayLike) -> Array:
    """(..., 3) how far the camera turned on in so many seconds; spin (2, 3)."""
    late = np.asarray(late_s, np.float64)[..., None]
    return np.asarray(spin[0] * late + spin[1] * late**2)


def late_s(eye: Eye, readout_s: Array, x: ArrayLike, y: ArrayLike) -> Array:
    """(...) how much later than its axis a lens's part is read at positions in shares of its width."""
    return np.asarray(readout_s[0] * (np.asarray(x) - eye.centre[0]) + readout_s[1] * (np.asarray(y) - eye.centre[1]))


def as_read(eye: Eye, number: int, moment: Moment, look: Array) -> Array:
    """Directions (..., 3) in the camera in which a lens caught what lies at `look` when its axis is read."""
    caught = look
    for _ in range(_ROUNDS):
        x, y, _ = eye.place(caught)
        caught = turn_by(-spun(moment.spin, late_s(eye, moment.readouts_s[number], x, y)), look)
    return caught

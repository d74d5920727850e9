"""A turn in time: how a footage's picture lies against a level, fixed frame at each moment, and sights turned by it."""

from functools import cached_property
from typing import TYPE_CHECKING, Protocol

import numpy as np
from msgspec import Struct
from numpy.typing import ArrayLike

from glintor.errors import InputError
from glintor.sphere.lens import Lens
from glintor.types import Array

if TYPE_CHECKING:
    from scipy.spatial.transform import Slerp


class Sight(Protocol):
    """What is drawn of a sphere: a turn and a lens. A view is one, and so is a view turned with its footage."""

    @property
    def matrix(self) -> Array:
        """(3, 3) from its own axes (x ahead, y left, z up) to the picture's."""

    @property
    def lens(self) -> Lens: ...


class Turned(Struct, frozen=True, eq=False):
    """A sight after a turn of what it looks at."""

    matrix: Array
    lens: Lens


def turned(sight: Sight, turn: Array) -> Turned:
    """`sight`, meant in a fixed frame, in a picture that lies in it by `turn` (3, 3), from picture to frame."""
    return Turned(turn.T @ sight.matrix, sight.lens)


class TurnTrack:
    """Turns at moments, and between them the shortest way on the sphere at an even rate; before the first and after the
    last they rest. Interpolation: Shoemake, "Animating rotation with quaternion curves", SIGGRAPH 1985 (scipy's Slerp).

    time_s (n,) rising, of the footage; quaternions (n, 4) as x, y, z, w, from the picture's axes to the fixed frame.
    Raises InputError where they are no turns in time.
    """

    def __init__(self, time_s: ArrayLike, quaternions: ArrayLike) -> None:
        self.time_s = np.asarray(time_s, np.float64)
        self.quaternions = np.asarray(quaternions, np.float64)
        sound = self.quaternions.shape == (len(self.time_s), 4) and len(self.time_s) > 0
        if not sound or not np.isfinite(self.quaternions).all() or (np.diff(self.time_s) <= 0.0).any():
            raise InputError("These turns have no order in time.", advice="Give one quaternion to each rising time.")
        if (np.linalg.norm(self.quaternions, axis=1) < 1e-9).any():
            raise InputError("A turn of no length cannot be.", advice="Use quaternions of length 1.")

    @staticmethod
    def still(turn: Array) -> "TurnTrack":
        """One turn (3, 3) for all times."""
        from scipy.spatial.transform import Rotation

        return TurnTrack([0.0], [Rotation.from_matrix(turn).as_quat()])

    @cached_property
    def _slerp(self) -> "Slerp":
        from scipy.spatial.transform import Rotation, Slerp  # slow to load, and few footages turn

        times, turns = self.time_s, self.quaternions
        if len(times) == 1:
            times, turns = np.array([times[0], times[0] + 1.0]), np.repeat(turns, 2, axis=0)
        return Slerp(times, Rotation.from_quat(turns))

    def at(self, times_s: ArrayLike) -> Array:
        """(..., 3, 3) at each time."""
        times = np.clip(np.asarray(times_s, np.float64), self.time_s[0], self.time_s[-1])
        return np.asarray(self._slerp(times.reshape(-1)).as_matrix()).reshape((*times.shape, 3, 3))

"""The path's time: the clip's, and in every freeze in which the view moves a time of its own besides."""

import numpy as np
from msgspec import Struct
from numpy.typing import ArrayLike

from glintor.types import Array

_SAME_S = 1e-6


class PathClock(Struct, frozen=True):
    """What a path's moments are of its clip. freezes: moments of the clip at which the picture is held while the view moves, and for
    how long, in order."""

    freezes: tuple[tuple[float, float], ...] = ()

    def clip_s(self, path_s: ArrayLike) -> Array:
        """The clip's time at moments of the path, any shape."""
        path = np.asarray(path_s, np.float64)
        out, held = path, 0.0
        for at, length in self.freezes:
            out = out - np.clip(path - (at + held), 0.0, length)
            held += length
        return out

    def path_s(self, clip_s: ArrayLike, *, after: bool = False) -> Array:
        """The path's time at moments of the clip, any shape: as a freeze there begins, or after it."""
        clip = np.asarray(clip_s, np.float64)
        slack = -_SAME_S if after else _SAME_S
        out = clip
        for at, length in self.freezes:
            out = out + np.where(clip > at + slack, length, 0.0)
        return out

    def knots(self, clip_s: Array) -> Array:
        """Moments of the path (m,), rising, by which a line that is told at moments of the clip (n,) rests in every freeze."""
        if not self.freezes:
            return clip_s
        starts = np.array([at for at, _ in self.freezes])
        starts = starts[(starts >= clip_s[0]) & (starts <= clip_s[-1])] if len(clip_s) else starts[:0]
        stands = (self.path_s(clip_s), self.path_s(starts), self.path_s(starts, after=True))
        return np.unique(np.concatenate(stands))


PLAIN = PathClock()

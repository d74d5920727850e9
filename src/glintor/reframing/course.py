"""The one maker of a cut's course: what a frame of some shape sees at every moment of the footage."""

from typing import Protocol

import numpy as np
from numpy.typing import ArrayLike, NDArray

from glintor.reframing.cut import Cut, Offset
from glintor.reframing.path import Curve, ViewPath, as_values, as_view, path_of
from glintor.sphere.lens import shape_scale
from glintor.sphere.turn import Sight, TurnTrack, turned
from glintor.sphere.view import View

Array = NDArray[np.float64]
_ALL = (16, 9)  # the shape that keyframes are set for


class Target(Protocol):
    """Something that the view may be held on."""

    def yaw_pitch_deg(self, times_s: Array) -> Array:
        """(n, 2) where it is in the picture, yaw unwrapped."""


class Course:
    """The path that all shapes share, as one shape has it.

    size_px  of the frame; its lens is that of 16:9 at the same area
    own      this shape's corrections of the path (n, 5): as `through_lens`, added
    target   what the view is held on: then the path is turned away from it by so much
    turns    how the footage's picture lies at each moment; then the path is meant in the fixed frame
    """

    def __init__(
        self,
        path: ViewPath,
        size_px: tuple[int, int] = _ALL,
        *,
        own: Curve | None = None,
        target: Target | None = None,
        turns: TurnTrack | None = None,
    ) -> None:
        self._path, self._own, self._target, self._turns = path, own, target, turns
        self._shape = np.array([0.0, 0.0, 0.0, np.log(shape_scale(size_px)), 0.0])

    def values(self, times_s: ArrayLike) -> Array:
        """(n, 5) of yaw, pitch, roll, field of view (degrees) and bend at each time, before the footage's turn."""
        times = np.atleast_1d(np.asarray(times_s, np.float64))
        wanted = self._path.through_lens(times) + self._shape
        if self._own is not None:
            wanted = wanted + self._own.at(times)
        if self._target is not None:
            wanted[:, :2] += self._target.yaw_pitch_deg(times)
        return as_values(wanted)

    def at(self, time_s: float) -> View:
        """The view at one moment, held inside the lens's limits."""
        return as_view(self.values(time_s)[0])

    def sight(self, time_s: float) -> Sight:
        """What is drawn of the footage's picture at one moment."""
        view = self.at(time_s)
        return view if self._turns is None else turned(view, self._turns.at(time_s))


def course_of(
    cut: Cut, shape: str, size_px: tuple[int, int], *, target: Target | None = None, turns: TurnTrack | None = None
) -> Course:
    """The course of a cut for a frame of some shape and size."""
    own = next((o.offsets for o in cut.own if o.shape == shape), ())
    corrections = _curve(own, cut.span_s) if own else None
    return Course(path_of(cut.keys, cut.span_s), size_px, own=corrections, target=target, turns=turns)


def _curve(offsets: tuple[Offset, ...], span_s: tuple[float, float]) -> Curve:
    ordered = sorted(offsets, key=lambda o: o.time_s)
    values = [[o.yaw_deg, o.pitch_deg, o.roll_deg, np.log(o.tighter), 0.0] for o in ordered]
    return Curve(np.array([o.time_s for o in ordered]), np.array(values), span_s)

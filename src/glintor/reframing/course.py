"""The one maker of a cut's course: what a frame of some shape sees at every moment of the footage."""

from collections import deque
from collections.abc import Callable, Mapping
from copy import copy
from types import MappingProxyType
from typing import Protocol

import numpy as np
from numpy.typing import ArrayLike

from glintor.reframing.curve import Curve
from glintor.reframing.cut import Cut, Offset
from glintor.reframing.following import Following, HeldPath, aimed, at_place
from glintor.reframing.joins import Seam
from glintor.reframing.path import Keyframe, as_values, as_view, path_of
from glintor.reframing.path_clock import PLAIN, PathClock
from glintor.sphere import lens
from glintor.sphere.angle import wrap_deg
from glintor.sphere.lens import shape_scale
from glintor.sphere.turn import Sight, TurnTrack, turned
from glintor.sphere.view import View
from glintor.types import Array

Targets = Mapping[str, Following]
NOTHING: Targets = MappingProxyType({})
_ALL = (16, 9)  # the shape that keyframes are set for


class Path(Protocol):
    """A path in time, as 16:9 has it."""

    def through_lens(self, times_s: ArrayLike) -> Array: ...


class Course:
    """The path that all shapes share, as one shape has it.

    size_px  of the frame; its lens is that of 16:9 at the same area
    own      this shape's corrections of the path (n, 5): as `through_lens`, added
    turns    how the footage's picture lies at each moment of the clip; then the path is meant in the fixed frame
    clock    the path's time, in which all moments here are told, against the clip's
    """

    def __init__(
        self,
        path: Path,
        size_px: tuple[int, int] = _ALL,
        *,
        own: Curve | None = None,
        turns: TurnTrack | None = None,
        clock: PathClock = PLAIN,
    ) -> None:
        self._path, self._own, self._turns, self._clock = path, own, turns, clock
        self._change: Callable[[Array, Array], Array] | None = None
        self._tall = size_px[1] / size_px[0]
        self._shape = np.array([0.0, 0.0, 0.0, np.log(shape_scale(size_px)), 0.0])

    def values(self, times_s: ArrayLike) -> Array:
        """(n, 5) of yaw, pitch, roll, field of view (degrees) and bend at each time, before the footage's turn."""
        return as_values(self._through(np.atleast_1d(np.asarray(times_s, np.float64))))

    def _through(self, times: Array) -> Array:
        wanted = self._path.through_lens(times) + self._shape
        if isinstance(self._path, HeldPath):
            wanted = aimed(wanted, self._path.wanted(times), self._tall)
        if self._own is not None:
            wanted = wanted + self._own.at(times)
        return wanted if self._change is None else self._change(times, wanted)

    def joined(self, seam: Seam, starts_s: float) -> "Course":
        """The same with what the joins at its ends do to it; starts_s: when it begins."""
        if seam.plain:
            return self
        first = self.through_lens(np.array([starts_s]))[0]
        other = copy(self)
        other._change = lambda times, values: seam.change(times, values, first)
        return other

    def through_lens(self, times_s: ArrayLike) -> Array:
        """(n, 5) of yaw, pitch, roll (degrees), logarithm of the focal length in frame widths, and bend at each time."""
        return self._through(np.atleast_1d(np.asarray(times_s, np.float64)))

    def at(self, time_s: float) -> View:
        """The view at one moment, held inside the lens's limits."""
        return as_view(self.values(time_s)[0])

    def sight(self, time_s: float) -> Sight:
        """What is drawn of the footage's picture at one moment."""
        view = self.at(time_s)
        return view if self._turns is None else turned(view, self._turns.at(float(self._clock.clip_s(time_s))))

    def off(self, time_s: float, view: View) -> Array:
        """(5,) by how much a view differs from this course at a moment: angles, logarithm of the focal length, bend."""
        off = _through_lens(view) - self._through(np.array([time_s]))[0]
        off[:3] = wrap_deg(off[:3])
        return off


def course_of(
    cut: Cut, shape: str, size_px: tuple[int, int], *, targets: Targets = NOTHING, turns: TurnTrack | None = None
) -> Course:
    """The course of a cut for a frame of some shape and size; targets: what its keyframes may be held on, by its anchors' names."""
    own = next((o.offsets for o in cut.own if o.shape == shape), ())
    corrections = _curve(own, cut.span_s) if own else None
    return Course(_path(cut, targets), size_px, own=corrections, turns=turns, clock=cut.clock)


def shared(cut: Cut, targets: Targets = NOTHING) -> Course:
    """The course that all shapes share, as 16:9 has it without what is its own."""
    return Course(_path(cut, targets))


def _path(cut: Cut, targets: Targets) -> Path:
    """The path of a cut, made once while its very keyframes and what they are held on stay the same."""
    if not any(key.on for key in cut.keys):
        return path_of(cut.keys, cut.span_s)
    for keys, span, known, path in _HELD:
        if keys is cut.keys and known is targets and span == cut.span_s:
            return path
    made = HeldPath(cut.keys, cut.span_s, targets)
    _HELD.append((cut.keys, cut.span_s, targets, made))
    return made


_HELD: deque[tuple[tuple[Keyframe, ...], tuple[float, float], Targets, HeldPath]] = deque(maxlen=8)


def key_showing(time_s: float, view: View, on: str, targets: Targets) -> Keyframe:
    """A keyframe, held on something or on nothing, that shows a view, as 16:9 has it, at a moment."""
    target = targets.get(on)
    if target is None:
        return Keyframe.of(time_s, view)
    when = np.array([time_s])
    seen = _through_lens(view)
    told = at_place(seen[None], target.wanted(when), _ALL[1] / _ALL[0])[0] - target.added(when)[0]
    yaw, pitch, roll, log_focal, bend = (float(value) for value in told)
    fov = float(lens.fov_of_focal(np.exp(log_focal), bend))
    return Keyframe(
        time_s=time_s,
        yaw_deg=yaw,
        pitch_deg=float(np.clip(pitch, -90.0, 90.0)),
        roll_deg=roll,
        fov_deg=float(np.clip(fov, lens.FOV_MIN_DEG, lens.fov_limit_deg(bend))),
        bend=bend,
    )


def _through_lens(view: View) -> Array:
    """(5,) of a view, the logarithm of its focal length where its field of view stands."""
    return np.array([view.yaw_deg, view.pitch_deg, view.roll_deg, float(np.log(view.lens.focal)), view.bend])


def _curve(offsets: tuple[Offset, ...], span_s: tuple[float, float]) -> Curve:
    ordered = sorted(offsets, key=lambda o: o.time_s)
    values = [[o.yaw_deg, o.pitch_deg, o.roll_deg, np.log(o.tighter), 0.0] for o in ordered]
    return Curve(np.array([o.time_s for o in ordered]), np.array(values), span_s)

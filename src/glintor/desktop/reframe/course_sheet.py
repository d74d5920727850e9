"""What the course shows, and where it lies on its sheet."""

from collections.abc import Mapping, Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPixmap

from glintor.desktop.charts.scale import Scale
from glintor.desktop.charts.sheet import Sheet
from glintor.finding import Finding
from glintor.project.cameras_beside import RanBeside
from glintor.reframing.arranging import Stage, stages
from glintor.reframing.course import Course
from glintor.reframing.cut import Cut
from glintor.reframing.motion import Motion, motion_of
from glintor.reframing.path_clock import PathClock
from glintor.reframing.track import Track
from glintor.review import Lie
from glintor.sphere.angle import wrap_deg
from glintor.types import Array

LEFT, RIGHT, TOP, LANE, FOOT = 88, 14, 26, 22, 15
SAMPLES = 320
THIN_PX = 24
LOW_PX = 230
_LEAST_SHOWN_S = 0.4


class Line(Struct, frozen=True, eq=False):
    """Bearings (n,) of something at moments, and how far that is to be trusted, 0 to 1."""

    time_s: Array
    yaw_deg: Array
    trust: Array

    def on(self, clock: PathClock) -> "Line":
        """The same in the time of a path over the clip."""
        if not clock.freezes:
            return self
        stands = clock.knots(self.time_s)
        at = clock.clip_s(stands)
        return Line(stands, np.interp(at, self.time_s, self.yaw_deg), np.interp(at, self.time_s, self.trust))


class Frame(Struct, frozen=True, eq=False):
    """In which frame bearings are told: its words, those of its five lines from 180 right round to 180 left, and how far right of it the
    frame lies that views are meant in, at moments."""

    name: str
    words: tuple[str, str, str, str, str]
    time_s: Array
    shift_deg: Array

    def on(self, clock: PathClock) -> "Frame":
        """The same in the time of a path over the clip."""
        if not clock.freezes:
            return self
        stands = clock.knots(self.time_s)
        return replace(self, time_s=stands, shift_deg=np.interp(clock.clip_s(stands), self.time_s, self.shift_deg))


AS_HELD = Frame("as held", ("180 rear", "090 right", "000 front", "270 left", "180 rear"), np.zeros(1), np.zeros(1))


class Plot(Struct, frozen=True, eq=False):
    """All that a course shows.

    course   what all shapes share; own: what the shape in sight has of its own; other: a path to compare with
    holds    from when to when the view is held on what
    tracks   what was tracked, by what it is called
    chosen   a keyframe's index, several: of all that are
    frame    in which frame bearings are told
    front, travel  where the camera's own front and the way of travel lie
    cameras  others that ran beside it
    """

    cut: Cut
    length_s: float
    course: Course
    pan_share: float
    own: Course | None = None
    other: Course | None = None
    other_words: str = ""
    holds: tuple[tuple[float, float, str], ...] = ()
    tracks: Mapping[str, Track] = {}
    lie: Lie = Lie()
    findings: Sequence[Finding] = ()
    chosen: int = -1
    several: frozenset[int] = frozenset()
    marks_s: tuple[float, ...] = ()
    front: Line | None = None
    travel: Line | None = None
    frame: Frame = AS_HELD
    cameras: tuple[RanBeside, ...] = ()

    def same_as(self, other: "Plot | None") -> bool:
        """Whether nothing would be drawn otherwise."""
        if other is None:
            return False
        by_value = all(
            getattr(self, name) == getattr(other, name)
            for name in (
                "cut",
                "length_s",
                "pan_share",
                "lie",
                "findings",
                "chosen",
                "several",
                "marks_s",
                "other_words",
                "holds",
                "cameras",
            )
        )
        one = all(getattr(self, n) is getattr(other, n) for n in ("course", "own", "other", "front", "travel", "frame"))
        return by_value and one and self.tracks == other.tracks


class CourseSheet(Sheet):
    """A cut's path in its clip: what is known of it, and the scales by which it is drawn."""

    def __init__(self) -> None:
        super().__init__("Course: where the frame looks over time", (300, 110))
        self._thin = False
        self._plot: Plot | None = None
        self._length_s, self._now_s = 1.0, 0.0
        self._from_s, self._to_s = 0.0, 1.0  # what of the clip is in sight
        self._part: tuple[float, float] | None = None
        self._chart: QPixmap | None = None
        self._stale = self.waiting = (
            False  # waiting: the chart is drawn anew as soon as the rest of the window is painted
        )
        self._chart_key: object = None
        self._stages: list[Stage] = []
        self._times, self._values = np.zeros(0), np.zeros((0, 5))
        self._motion: Motion | None = None
        self._feet: Array = np.zeros((0, 5))
        self.setToolTip(
            "Click to go there. Drag a pennant sideways in time, up and down in bearing; Ctrl+click chooses several. Drag the band's edge "
            "for its width, the words below for the length of a hold or move, the ends for in and out. The wheel looks closer, "
            "Shift+drag marks a part"
        )

    @property
    def _cut(self) -> Cut | None:
        return self._plot.cut if self._plot is not None else None

    @property
    def plot(self) -> Plot | None:
        """What is shown."""
        return self._plot

    def show_course(self, plot: Plot) -> None:
        """Shows a cut's path and what is known round it."""
        if plot.same_as(self._plot):
            return
        if plot.length_s != self._length_s:
            self._length_s = max(plot.length_s, 0.1)
            self._from_s, self._to_s = 0.0, self._length_s
        self._plot = plot
        inside = {m.id for m in plot.cut.moves}
        keys = plot.cut.keys
        self._stages = [
            s for s in stages(keys) if keys[s.index].move not in inside or keys[s.index].move != keys[s.index + 1].move
        ]
        self._sample()

    def _sample(self) -> None:
        """Computes what of the path is in sight."""
        assert self._plot is not None
        self._times = np.linspace(self._from_s, self._to_s, SAMPLES)
        self._values = self._plot.course.values(self._times)
        self._motion = motion_of(self._plot.course, self._times)
        self._feet = self._plot.course.values(np.array([key.time_s for key in self._plot.cut.keys]))
        self._stale = True
        self.update()

    # What of the clip is in sight
    @property
    def seen_s(self) -> tuple[float, float]:
        """From when to when of the clip."""
        return self._from_s, self._to_s

    def look_at(self, from_s: float, to_s: float) -> None:
        """Shows another part of the clip, held inside it."""
        span = float(np.clip(to_s - from_s, min(_LEAST_SHOWN_S, self._length_s), self._length_s))
        start = float(np.clip(from_s, 0.0, self._length_s - span))
        if (start, start + span) != (self._from_s, self._to_s) and self._plot is not None:
            self._from_s, self._to_s = start, start + span
            self._sample()

    def look_closer(self, factor: float, about_s: float | None = None) -> None:
        """Shows so many times less of the clip round a moment, the present one where none is told."""
        about = self._now_s if about_s is None else about_s
        self.look_at(about - (about - self._from_s) / factor, about + (self._to_s - about) / factor)

    def look_along(self, share: float) -> None:
        """Goes on by a share of what is in sight."""
        by = (self._to_s - self._from_s) * share
        self.look_at(self._from_s + by, self._to_s + by)

    @property
    def _closer(self) -> bool:
        return self._to_s - self._from_s < self._length_s - 1e-6

    def show_thin(self, thin: bool) -> None:
        """Only a line of time with keyframes, for a look at the frame alone."""
        self._thin = thin
        self.setMinimumHeight(THIN_PX if thin else 110)
        self.setMaximumHeight(THIN_PX if thin else 16777215)
        self._stale = True
        self.update()

    def show_part(self, part: tuple[float, float] | None) -> None:
        """The part of the clip that is marked."""
        if part != self._part:
            self._part, self._stale = part, True
            self.update()

    def show_nothing(self) -> None:
        self._plot = None
        self.update()

    def show_time(self, now_s: float) -> None:
        """Moves the playhead; the chart under it is not drawn again, unless the moment is out of sight."""
        span = self._to_s - self._from_s
        if self._closer and not self._from_s <= now_s <= self._to_s:
            self._now_s = now_s
            self.look_at(now_s - 0.2 * span, now_s + 0.8 * span)
            return
        for moment in (self._now_s, now_s):
            self.update(QRectF(self._time().px(moment) - 9, 0, 18, self.height()).toAlignedRect())
        self._now_s = now_s

    # Scales
    def _time(self) -> Scale:
        return Scale(self._from_s, max(self._to_s, self._from_s + 1e-3), LEFT, self.width() - RIGHT)

    @property
    def _low(self) -> bool:
        """Whether there is only room for the bearing: height and turn come where the chart is pulled larger."""
        return self.height() < LOW_PX

    def _strips(self) -> tuple[QRectF, QRectF, QRectF]:
        if self._low:
            main = self.height() - TOP - 40.0 - FOOT - (LANE if self._has_pace else 0.0)
            none = QRectF(LEFT, TOP + main + FOOT, self.width() - LEFT - RIGHT, 0.0)
            return QRectF(LEFT, TOP, none.width(), main), none, none
        width, room = self.width() - LEFT - RIGHT, self.height() - TOP - 42 - LANE - FOOT
        main, small = room * 0.64, room * 0.16
        gap = (room - main - 2 * small) / 2
        return (
            QRectF(LEFT, TOP, width, main),
            QRectF(LEFT, TOP + main + FOOT + gap, width, small),
            QRectF(LEFT, TOP + main + FOOT + small + 2 * gap, width, small),
        )

    @staticmethod
    def _bearing(strip: QRectF) -> Scale:
        return Scale(-180.0, 180.0, strip.bottom(), strip.top())

    @staticmethod
    def _pitch(strip: QRectF) -> Scale:
        return Scale(-95.0, 95.0, strip.bottom(), strip.top())

    def _told(self, yaw_deg: Array, times: Array) -> Array:
        """Bearings in the frame in which they are told, of such in the frame that views are meant in."""
        frame = self._plot.frame if self._plot is not None else AS_HELD
        return yaw_deg + np.interp(times, frame.time_s, frame.shift_deg)

    @property
    def _has_pace(self) -> bool:
        return self._part is not None or (self._cut is not None and bool(self._cut.speeds))

    def _lane(self, speed: QRectF) -> QRectF:
        if self._low and not self._has_pace:
            return QRectF(speed.left(), speed.bottom(), speed.width(), 0.0)
        return QRectF(speed.left(), speed.bottom() + 4, speed.width(), LANE - 6)

    def _overview_bar(self) -> QRectF:
        return QRectF(LEFT, 3.0, self.width() - LEFT - RIGHT, 4.0)

    def _stage_box(self, stage: Stage, main: QRectF, time: Scale) -> QRectF:
        return self._span_box(stage.start_s, stage.end_s, main, time)

    @staticmethod
    def _span_box(start_s: float, end_s: float, main: QRectF, time: Scale) -> QRectF:
        """A box for words under the band."""
        left, right = (min(max(time.px(t), main.left()), main.right()) for t in (start_s, end_s))
        return QRectF(left, main.bottom() + 1, right - left, FOOT - 2)

    def _foot(self, number: int, main: QRectF, time: Scale) -> tuple[float, float]:
        """Where the pennant of a keyframe stands: on the band's middle."""
        assert self._plot is not None
        when = self._plot.cut.keys[number].time_s
        yaw = self._told(self._feet[number : number + 1, 0], np.array([when]))
        y = self._bearing(main).px(float(wrap_deg(yaw[0])))
        return time.px(when), max(y, main.top() + 18)

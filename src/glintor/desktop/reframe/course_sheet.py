"""What the course shows, and where it lies on its sheet."""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPixmap

from glintor.desktop.charts.scale import Scale
from glintor.desktop.charts.sheet import Sheet
from glintor.finding import Finding
from glintor.reframing.cut import Cut
from glintor.reframing.path import ViewPath, path_of
from glintor.reframing.review import speed_deg_s
from glintor.reframing.track import Track
from glintor.review import Lie
from glintor.sphere.angle import wrap_deg

LEFT, RIGHT, TOP, LANE = 88, 14, 26, 22
BEARINGS = ((180, "180 rear"), (90, "090 right"), (0, "000 front"), (-90, "270 left"), (-180, "180 rear"))
SAMPLES = 320
THIN_PX = 24
LOW_PX = 220


class Front(Struct, frozen=True, eq=False):
    """Bearing (n,) of the camera's front at moments, and how far how it turned is to be trusted, 0 to 1."""

    time_s: NDArray[np.float64]
    yaw_deg: NDArray[np.float64]
    trust: NDArray[np.float64]


class CourseSheet(Sheet):
    """A cut's path in its clip: what is known of it, and the scales by which it is drawn."""

    def __init__(self) -> None:
        super().__init__("Course: where the frame looks over time", (300, 110))
        self._thin = False
        self._cut: Cut | None = None
        self._path: ViewPath | None = None
        self._length_s, self._now_s = 1.0, 0.0
        self._track: Track | None = None
        self._subject = ""
        self._lie = Lie()
        self._limit_share = 0.15
        self._findings: Sequence[Finding] = ()
        self._chosen = -1
        self._marks_s: tuple[float, ...] = ()
        self._front: Front | None = None
        self._grip: tuple[str, int] | None = None
        self._part: tuple[float, float] | None = None
        self._chart: QPixmap | None = None
        self._stale = self.waiting = (
            False  # waiting: the chart is drawn anew as soon as the rest of the window is painted
        )
        self._chart_key: object = None
        self._shown: object = None
        self._anchor_s = 0.0
        self._curves: tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]] | None = None
        self.setToolTip(
            "Click to go there; drag a pennant to move its keyframe, the ends to set in and out; "
            "Shift+drag marks a part for another speed"
        )

    def show_course(
        self,
        cut: Cut,
        length_s: float,
        *,
        track: Track | None,
        subject: str,
        lie: Lie,
        pan_share: float,
        findings: Sequence[Finding],
        chosen: int,
        marks_s: tuple[float, ...] = (),
        front: "Front | None" = None,
    ) -> None:
        """front: where the camera's own front lies in the frame that a recording is held in."""
        shown = (cut, length_s, track, subject, lie, pan_share, tuple(findings), chosen, marks_s, front)
        if shown == self._shown and self._cut is not None:
            return
        self._shown, self._cut, self._length_s = shown, cut, max(length_s, 0.1)
        self._path = path_of(cut.keys, cut.span_s)
        self._track, self._subject, self._lie = track, subject, lie
        self._limit_share, self._findings, self._chosen, self._marks_s = pan_share, findings, chosen, marks_s
        self._front = front
        times = np.linspace(0.0, self._length_s, SAMPLES)
        self._curves = (times, self._path.values(times), speed_deg_s(self._path, times))
        self._stale = True
        self.update()

    def show_thin(self, thin: bool) -> None:
        """Only a line of time with keyframes, for a look at the frame alone."""
        self._thin = thin
        self.setMinimumHeight(THIN_PX if thin else 110)
        self.setMaximumHeight(THIN_PX if thin else 16777215)
        self._stale = True
        self.update()

    def show_part(self, part: tuple[float, float] | None) -> None:
        """The part of the clip that is marked for another speed."""
        if part != self._part:
            self._part, self._stale = part, True
            self.update()

    def show_nothing(self) -> None:
        self._cut = None
        self.update()

    def show_time(self, now_s: float) -> None:
        """Moves the playhead; the chart under it is not drawn again."""
        for moment in (self._now_s, now_s):
            self.update(QRectF(self._time().px(moment) - 9, 0, 18, self.height()).toAlignedRect())
        self._now_s = now_s

    def _time(self) -> Scale:
        return Scale(0.0, self._length_s, LEFT, self.width() - RIGHT)

    @property
    def _low(self) -> bool:
        """Whether there is only room for the bearing: height and turn come where the chart is pulled larger."""
        return self.height() < LOW_PX

    def _strips(self) -> tuple[QRectF, QRectF, QRectF]:
        if self._low:
            main = self.height() - TOP - 40.0 - (LANE if self._has_pace else 0.0)
            none = QRectF(LEFT, TOP + main, self.width() - LEFT - RIGHT, 0.0)
            return QRectF(LEFT, TOP, none.width(), main), none, none
        width, room = self.width() - LEFT - RIGHT, self.height() - TOP - 42 - LANE
        main, small = room * 0.68, room * 0.14
        gap = (room - main - 2 * small) / 2
        return (
            QRectF(LEFT, TOP, width, main),
            QRectF(LEFT, TOP + main + gap, width, small),
            QRectF(LEFT, TOP + main + small + 2 * gap, width, small),
        )

    @staticmethod
    def _bearing(strip: QRectF) -> Scale:
        return Scale(-180.0, 180.0, strip.bottom(), strip.top())

    @staticmethod
    def _pitch(strip: QRectF) -> Scale:
        return Scale(-95.0, 95.0, strip.bottom(), strip.top())

    @property
    def _has_pace(self) -> bool:
        return self._part is not None or (self._cut is not None and bool(self._cut.speeds))

    def _lane(self, speed: QRectF) -> QRectF:
        if self._low and not self._has_pace:
            return QRectF(speed.left(), speed.bottom(), speed.width(), 0.0)
        return QRectF(speed.left(), speed.bottom() + 4, speed.width(), LANE - 6)

    def _foot(self, number: int, main: QRectF, time: Scale) -> tuple[float, float]:
        assert self._cut is not None
        key = self._cut.keys[number]
        y = self._bearing(main).px(float(wrap_deg(key.yaw_deg)))
        return time.px(key.time_s), max(y, main.top() + 18)

"""What lies round a path in the course: the band itself, the seam, sun, stick, travel, what was tracked, and another path."""

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.labels import Labels, Side
from glintor.desktop.charts.scale import Scale
from glintor.desktop.reframe.course_sheet import CourseSheet, Line
from glintor.placement.seam import seam_yaws_deg
from glintor.reframing.course import Course
from glintor.reframing.track import SURE, Track
from glintor.sphere.angle import wrap_deg
from glintor.types import Array

_AT_END: tuple[Side, ...] = ("left",)  # of a line that runs to the strip's right end
_UNSURE = 0.3  # trust in how a camera turned, below which it is marked
_FOOT_LOWEST_DEG = -72.0  # a stick whose foot is lower has no bearing to speak of


class CourseLines(CourseSheet):
    """Draws bands and lines into the strip of bearings."""

    def _beware(self, p: QPainter, main: QRectF, time: Scale, labels: Labels) -> None:
        assert self._plot is not None
        lie = self._plot.lie
        if lie.band_deg is None:  # nobody knows how the lenses lay
            return
        scale, half = self._bearing(main), max(lie.band_deg, 3.5)
        yaws = wrap_deg(  # at the height that is looked at
            self._told(seam_yaws_deg(self._values[:, 1], lie.axis).T, self._times).T
        )
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(marks.hatch(theme.colours()["seam"]))
        last: float | None = None
        for yaw in yaws.T:  # a seam that leans moves with the height of the view
            joined = np.abs(np.diff(yaw)) <= 30.0
            edges = [np.clip(scale.px(yaw + off), main.top(), main.bottom()) for off in (half, -half)]
            over, under = (np.stack([time.px(self._times), ys], axis=1) for ys in edges)
            marks.band(p, over, under, joined)
            last = float(yaw[-1]) if joined.any() else last
        if last is not None:
            labels.add(main.right(), scale.px(last), "seam", colour="seam", sides=_AT_END)

    def _band(self, p: QPainter, main: QRectF, time: Scale) -> None:
        scale, xs = self._bearing(main), time.px(self._times)
        yaw, half = self._told(self._values[:, 0], self._times), np.minimum(self._values[:, 3], 360.0) / 2
        p.save()
        p.setClipRect(main)
        fill = theme.colours().sheer("course", 48)
        for middle in _turns_of(yaw, half):
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(fill)
            over, under = (np.stack([xs, scale.px(middle + off)], axis=1) for off in (half, -half))
            marks.band(p, over, under, np.abs(np.diff(middle)) < 90.0)  # over the top its bearing leaps
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(marks.pen("course", 2.2))
            p.drawPath(marks.polyline(xs, scale.px(middle), main.height() / 4))
        p.restore()

    def _thin_band(
        self, p: QPainter, main: QRectF, time: Scale, course: Course, colour: str, words: str, labels: Labels
    ) -> None:
        """Another course: its middle and its edges as thin lines."""
        scale, xs, values = self._bearing(main), time.px(self._times), course.values(self._times)
        yaw, half = self._told(values[:, 0], self._times), np.minimum(values[:, 3], 360.0) / 2
        p.save()
        p.setClipRect(main)
        p.setBrush(Qt.BrushStyle.NoBrush)
        for middle in _turns_of(yaw, half):
            for off, style, wide in (
                (0.0, Qt.PenStyle.DashLine, 1.6),
                (1.0, Qt.PenStyle.DotLine, 1.0),
                (-1.0, Qt.PenStyle.DotLine, 1.0),
            ):
                p.setPen(marks.pen(colour, wide, style))
                p.drawPath(marks.polyline(xs, scale.px(middle + off * half), main.height() / 4))
        p.restore()
        at = len(xs) // 3
        y = scale.px(float(wrap_deg(yaw[at])))
        labels.add(float(xs[at]), y, words, colour=colour, gap=3.0, sides=("below", "above"))

    def _lines(self, p: QPainter, main: QRectF, time: Scale, labels: Labels) -> None:
        assert self._plot is not None
        scale, lie = self._bearing(main), self._plot.lie
        p.save()
        p.setClipRect(main)
        p.setBrush(Qt.BrushStyle.NoBrush)
        still = [
            (lie.sun, "sun", "sun", Qt.PenStyle.DotLine),
            (lie.filmer, "soft", "who films", Qt.PenStyle.DashDotLine),
        ]
        if lie.foot is not None and lie.foot[1] > _FOOT_LOWEST_DEG:
            still.append((lie.foot, "caution", "stick", Qt.PenStyle.DotLine))
        for where, colour, words, style in still:
            if where is not None:
                ys = scale.px(wrap_deg(self._told(np.full(len(self._times), where[0]), self._times)))
                p.setPen(marks.pen(colour, 1.4, style))
                p.drawPath(marks.polyline(time.px(self._times), ys, main.height() / 2))
                labels.add(main.right(), float(ys[-1]), words, colour=colour, sides=_AT_END)
        self._other_cameras(p, main, time, labels)
        for line, words in ((self._plot.front, "front lens"), (self._plot.travel, "travel")):
            if line is not None:
                self._line(p, scale, time, line, words, labels)
        for name, track in self._plot.tracks.items():
            self._subject_line(p, main, time, name, track, labels)
        p.restore()

    def _other_cameras(self, p: QPainter, main: QRectF, time: Scale, labels: Labels) -> None:
        """Where other cameras stood while they ran; of those of which nobody knows where, only when, at the strip's foot."""
        assert self._plot is not None
        for number, camera in enumerate(self._plot.cameras):
            inside = (self._times >= camera.start_s) & (self._times <= camera.end_s)
            if not inside.any():
                continue
            xs = time.px(self._times[inside])
            if camera.look is None:
                ys, style, words = np.full(len(xs), main.bottom() - 3.0 - 5.0 * number), Qt.PenStyle.SolidLine, "runs"
            else:
                told = self._told(np.full(len(xs), camera.look[0]), self._times[inside])
                ys, style, words = self._bearing(main).px(wrap_deg(told)), Qt.PenStyle.DashDotDotLine, "stands here"
            p.setPen(marks.pen("ink", 1.6, style))
            p.drawPath(marks.polyline(xs, ys, main.height() / 2))
            labels.add(float(xs[-1]), float(ys[-1]), f"{camera.name} {words}", colour="soft", sides=_AT_END)

    def _subject_line(self, p: QPainter, main: QRectF, time: Scale, name: str, track: Track, labels: Labels) -> None:
        """Where something is: broken where that is unsure, not there where it was lost."""
        if not len(track.time_s):
            return
        xs = time.px(track.time_s)
        ys = self._bearing(main).px(wrap_deg(self._told(track.yaw_deg, track.time_s)))
        sure = np.ones(len(xs), bool) if track.state is None else track.state == SURE
        for shown, style in ((sure, Qt.PenStyle.DashLine), (track.known, Qt.PenStyle.DotLine)):
            p.setPen(marks.pen("subject", 1.8 if style == Qt.PenStyle.DashLine else 1.0, style))
            p.drawPath(marks.polyline(np.where(shown, xs, np.nan), ys, main.height() / 2))
        seen = np.flatnonzero(track.known & (xs >= main.left()) & (xs <= main.right()))
        if len(seen):
            at = int(seen[0] if track.state is not None else seen[len(seen) // 12])
            labels.add(float(xs[at]), float(ys[at]), name, colour="subject", gap=3.0, sides=("below", "above"))

    def _line(self, p: QPainter, scale: Scale, time: Scale, line: Line, words: str, labels: Labels) -> None:
        """A bearing over time; red where it is unsure."""
        xs, ys = time.px(line.time_s), scale.px(wrap_deg(self._told(line.yaw_deg, line.time_s)))
        half = abs(scale.px(180.0) - scale.px(-180.0)) / 2.0
        for colour, shown in (("soft", line.trust >= _UNSURE), ("caution", line.trust < _UNSURE)):
            p.setPen(marks.pen(colour, 1.2 if colour == "soft" else 2.4))
            for first, last in _runs(shown):
                p.drawPath(marks.polyline(xs[first:last], ys[first:last], half))
        inside = np.flatnonzero((xs >= time.start) & (xs <= time.end))
        if len(inside):
            labels.add(float(xs[inside[-1]]), float(ys[inside[-1]]), words, colour="soft", sides=_AT_END)

    def _snaps_deg(self, when: float) -> list[float]:
        """Bearings, as they are told, that a hand's bearing may snap to at a moment."""
        assert self._plot is not None
        moment, found = np.array([when]), list[float]()
        for track in self._plot.tracks.values():
            now = track.at(moment)
            if now.state is None or now.known[0]:
                found.append(float(now.yaw_deg[0]))
        for line in (self._plot.front, self._plot.travel):
            if line is not None:
                found.append(float(np.interp(when, line.time_s, line.yaw_deg)))
        if self._plot.lie.sun is not None:
            found.append(self._plot.lie.sun[0])
        return [float(self._told(np.array([yaw]), moment)[0]) for yaw in found]

    def _horizon(self, p: QPainter, strip: QRectF) -> None:
        scale = self._pitch(strip)
        p.setPen(marks.pen("line"))
        p.drawLine(QPointF(strip.left(), scale.px(0)), QPointF(strip.right(), scale.px(0)))
        assert self._plot is not None
        if self._plot.lie.foot is not None:
            y = scale.px(min(self._plot.lie.foot[1] + 6.0, 90.0))
            p.fillRect(
                QRectF(strip.left(), y, strip.width(), strip.bottom() - y), marks.hatch(theme.colours()["caution"])
            )


def _turns_of(yaw: Array, half: Array) -> list[Array]:
    """A bearing that runs on over half a turn, as often as it lies in sight."""
    turns = range(int(np.floor((yaw.min() - 180) / 360)), int(np.ceil((yaw.max() + 180) / 360)) + 1)
    middles = [yaw - 360.0 * turn for turn in turns]
    return [m for m in middles if (m + half).max() >= -180.0 and (m - half).min() <= 180.0]


def _runs(shown: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Where runs of what is true begin and end."""
    steps = np.flatnonzero(np.diff(np.concatenate([[False], shown, [False]]).astype(int)))
    return list(zip(steps[::2].tolist(), steps[1::2].tolist(), strict=True))

"""The course: time to the right, bearing upward; the frame is a band as thick as its field of view.

Below it a strip for height and one for how fast the view turns; findings hang under the time axis as brackets.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPixmap

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.scale import Scale
from glintor.desktop.charts.sheet import Sheet
from glintor.finding import Finding
from glintor.placement.seam import seam_yaws_deg
from glintor.reframing.cut import Cut
from glintor.reframing.path import ViewPath, path_of
from glintor.reframing.review import speed_deg_s
from glintor.reframing.track import Track
from glintor.sphere.angle import wrap_deg

_LEFT, _RIGHT, _TOP, _LANE = 88, 14, 26, 22
_BEARINGS = ((180, "180 rear"), (90, "090 right"), (0, "000 front"), (-90, "270 left"), (-180, "180 rear"))
_SAMPLES = 320
_PENNANT_PX = 6.0
_THIN_PX = 24
_LOW_PX = 220


class Course(Sheet):
    """Draws a cut's path in its clip; pennants, in, out and the playhead can be dragged."""

    time_chosen = pyqtSignal(float)
    key_chosen = pyqtSignal(int)
    key_dragged = pyqtSignal(int, float)
    in_dragged = pyqtSignal(float)
    out_dragged = pyqtSignal(float)
    drag_ended = pyqtSignal()
    part_marked = pyqtSignal(object)  # (start, end) of the clip, or None

    def __init__(self) -> None:
        super().__init__("Course: where the frame looks over time", (300, 110))
        self._thin = False
        self._cut: Cut | None = None
        self._path: ViewPath | None = None
        self._length_s, self._now_s = 1.0, 0.0
        self._track: Track | None = None
        self._subject = ""
        self._sun_yaw: float | None = None
        self._seam_deg: float | None = None
        self._limit_share = 0.15
        self._findings: Sequence[Finding] = ()
        self._chosen = -1
        self._marks_s: tuple[float, ...] = ()
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
        self, cut: Cut, length_s: float, *, track: Track | None, subject: str, sun_yaw: float | None, seam_deg: float | None,
        seam_axis: tuple[float, float, float], pan_share: float, findings: Sequence[Finding], chosen: int, marks_s: tuple[float, ...] = (),
    ) -> None:  # fmt: skip
        shown = (
            cut,
            length_s,
            track,
            subject,
            sun_yaw,
            seam_deg,
            seam_axis,
            pan_share,
            tuple(findings),
            chosen,
            marks_s,
        )
        if shown == self._shown and self._cut is not None:
            return
        self._shown, self._cut, self._length_s = shown, cut, max(length_s, 0.1)
        self._path = path_of(cut.keys, cut.span_s)
        self._track, self._subject, self._sun_yaw = track, subject, sun_yaw
        self._seam_deg, self._seam_axis, self._limit_share = seam_deg, seam_axis, pan_share
        self._findings, self._chosen, self._marks_s = findings, chosen, marks_s
        times = np.linspace(0.0, self._length_s, _SAMPLES)
        self._curves = (times, self._path.values(times), speed_deg_s(self._path, times))
        self._stale = True
        self.update()

    def show_thin(self, thin: bool) -> None:
        """Only a line of time with keyframes, for a look at the frame alone."""
        self._thin = thin
        self.setMinimumHeight(_THIN_PX if thin else 110)
        self.setMaximumHeight(_THIN_PX if thin else 16777215)
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

    # Where things are
    def _time(self) -> Scale:
        return Scale(0.0, self._length_s, _LEFT, self.width() - _RIGHT)

    @property
    def _low(self) -> bool:
        """Whether there is only room for the bearing: height and turn come where the chart is pulled larger."""
        return self.height() < _LOW_PX

    def _strips(self) -> tuple[QRectF, QRectF, QRectF]:
        if self._low:
            main = self.height() - _TOP - 40.0 - (_LANE if self._has_pace else 0.0)
            none = QRectF(_LEFT, _TOP + main, self.width() - _LEFT - _RIGHT, 0.0)
            return QRectF(_LEFT, _TOP, none.width(), main), none, none
        width, room = self.width() - _LEFT - _RIGHT, self.height() - _TOP - 42 - _LANE
        main, small = room * 0.68, room * 0.14
        gap = (room - main - 2 * small) / 2
        return (
            QRectF(_LEFT, _TOP, width, main),
            QRectF(_LEFT, _TOP + main + gap, width, small),
            QRectF(_LEFT, _TOP + main + small + 2 * gap, width, small),
        )

    @staticmethod
    def _bearing(strip: QRectF) -> Scale:
        return Scale(-180.0, 180.0, strip.bottom(), strip.top())

    def draw(self, p: QPainter) -> None:
        if self._cut is None or self._curves is None:
            marks.text(
                p,
                self.width() / 2,
                self.height() / 2,
                "No cut yet: record a take, bring it over, then begin a cut here.",
                colour="soft",
                size=11,
                align="middle",
            )
            return
        key = (self.size(), self.devicePixelRatioF(), theme.colours()["sheet"].name())
        if self._chart is None or self._chart_key != key:
            self._chart, self._chart_key, self._stale = self._drawn_chart(), key, False
        elif self._stale and not self.waiting:
            self.waiting = True
            QTimer.singleShot(0, self._draw_anew)
        p.drawPixmap(0, 0, self._chart)
        if self._thin:
            x = self._time().px(self._now_s)
            p.setPen(marks.pen("ink", 2.0))
            p.drawLine(QPointF(x, 2), QPointF(x, _THIN_PX - 2))
            return
        time, speed = self._time(), self._strips()[2]
        x = time.px(self._now_s)
        p.setPen(marks.pen("ink", 1.6))
        p.drawLine(QPointF(x, _TOP - 8), QPointF(x, self._lane(speed).bottom()))
        p.setBrush(theme.colours()["ink"])
        p.drawPolygon(QPointF(x - 6, _TOP - 15), QPointF(x + 6, _TOP - 15), QPointF(x, _TOP - 6))

    def _draw_anew(self) -> None:
        self.waiting = False
        if self._stale and self._cut is not None and self._curves is not None:
            self._chart, self._stale = self._drawn_chart(), False
            self.update()

    def _drawn_chart(self) -> QPixmap:
        """Everything but the playhead."""
        ratio = self.devicePixelRatioF()
        chart = QPixmap(round(self.width() * ratio), round(self.height() * ratio))
        chart.setDevicePixelRatio(ratio)
        chart.fill(theme.colours()["sheet"])
        p = QPainter(chart)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        main, height, speed = self._strips()
        time = self._time()
        if self._thin:
            self._draw_line(p, time)
            p.end()
            return chart
        self._frames(p, main, height, speed)
        self._beware(p, main, time)
        self._band(p, main, time)
        self._lines(p, main, time)
        if not self._low:
            self._height(p, height, time)
            self._speed(p, speed, time)
        self._pace(p, main, speed, time)
        self._ends(p, main, speed, time)
        self._pennants(p, main, time)
        self._axis(p, speed, time)
        self._brackets(p, time)
        marks.text(p, 10, 12, "Course", bold=True, size=10)
        p.end()
        return chart

    def _draw_line(self, p: QPainter, time: Scale) -> None:
        assert self._cut is not None
        p.setPen(marks.pen("line"))
        p.drawLine(QPointF(time.start, _THIN_PX / 2), QPointF(time.end, _THIN_PX / 2))
        p.setPen(marks.pen("course", 3.0))
        p.drawLine(QPointF(time.px(self._cut.in_s), _THIN_PX / 2), QPointF(time.px(self._cut.out_s), _THIN_PX / 2))
        marks.pennants(p, [(time.px(key.time_s), _THIN_PX - 3.0) for key in self._cut.keys], chosen=False)

    def _frames(self, p: QPainter, main: QRectF, height: QRectF, speed: QRectF) -> None:
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(marks.pen("line"))
        for strip in (main,) if self._low else (main, height, speed):
            p.drawRect(strip)
        scale = self._bearing(main)
        for value, words in _BEARINGS:
            y = scale.px(value)
            p.setPen(marks.pen("line"))
            p.drawLine(QPointF(main.left() - 4, y), QPointF(main.right(), y))
            marks.text(p, main.left() - 8, y, words, colour="soft", align="right")
        for strip, words in () if self._low else ((height, "height ±90°"), (speed, "turn °/s")):
            marks.text(p, strip.left() - 8, strip.center().y(), words, colour="soft", align="right")

    @staticmethod
    def _pitch(strip: QRectF) -> Scale:
        return Scale(-95.0, 95.0, strip.bottom(), strip.top())

    def _beware(self, p: QPainter, main: QRectF, time: Scale) -> None:
        assert self._curves is not None
        if self._seam_deg is None:  # nobody knows how the lenses lay
            return
        times, values, _ = self._curves
        scale, half = self._bearing(main), max(self._seam_deg, 3.5)
        yaws = wrap_deg(seam_yaws_deg(values[:, 1], self._seam_axis))  # at the height that is looked at
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(marks.hatch(theme.colours()["seam"]))
        last: float | None = None
        for yaw in yaws.T:  # a seam that leans moves with the height of the view
            joined = np.abs(np.diff(yaw)) <= 30.0
            edges = [np.clip(scale.px(yaw + off), main.top(), main.bottom()) for off in (half, -half)]
            over, under = (np.stack([time.px(times), ys], axis=1) for ys in edges)
            marks.band(p, over, under, joined)
            last = float(yaw[-1]) if joined.any() else last
        if last is not None:
            marks.text(p, main.right() - 6, scale.px(last), "seam", colour="seam", align="right", halo=True)

    def _band(self, p: QPainter, main: QRectF, time: Scale) -> None:
        assert self._curves is not None
        times, values, _ = self._curves
        scale, xs = self._bearing(main), time.px(times)
        yaw, half = values[:, 0], np.minimum(values[:, 3], 360.0) / 2
        p.save()
        p.setClipRect(main)
        fill = theme.colours().sheer("course", 48)
        turns = range(int(np.floor((yaw.min() - 180) / 360)), int(np.ceil((yaw.max() + 180) / 360)) + 1)
        for turn in turns:
            middle = yaw - 360.0 * turn
            if (middle + half).max() < -180.0 or (middle - half).min() > 180.0:
                continue  # this turn lies wholly outside the strip
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(fill)
            over, under = (np.stack([xs, scale.px(middle + off)], axis=1) for off in (half, -half))
            marks.band(p, over, under, np.ones(len(xs) - 1, bool))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(marks.pen("course", 2.2))
            p.drawPath(marks.polyline(xs, scale.px(middle)))
        p.restore()

    def _lines(self, p: QPainter, main: QRectF, time: Scale) -> None:
        scale = self._bearing(main)
        p.save()
        p.setClipRect(main)
        if self._sun_yaw is not None:
            y = scale.px(float(wrap_deg(self._sun_yaw)))
            p.setPen(marks.pen("sun", 1.4, Qt.PenStyle.DotLine))
            p.drawLine(QPointF(main.left(), y), QPointF(main.right(), y))
            marks.text(p, main.right() - 6, y, "sun", colour="sun", align="right", halo=True)
        if self._track is not None and len(self._track.time_s):
            yaw = wrap_deg(self._track.yaw_deg)
            xs, ys = time.px(self._track.time_s), scale.px(yaw)
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(marks.pen("subject", 1.8, Qt.PenStyle.DashLine))
            p.drawPath(marks.polyline(xs, ys, main.height() / 2))
            at = len(xs) // 12
            marks.text(p, float(xs[at]), float(ys[at]) + 11, self._subject, colour="subject", halo=True)
        p.restore()

    def _height(self, p: QPainter, strip: QRectF, time: Scale) -> None:
        assert self._curves is not None
        times, values, _ = self._curves
        scale = self._pitch(strip)
        p.setPen(marks.pen("line"))
        p.drawLine(QPointF(strip.left(), scale.px(0)), QPointF(strip.right(), scale.px(0)))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(marks.pen("course", 1.8))
        p.drawPath(marks.polyline(time.px(times), scale.px(values[:, 1])))

    def _speed(self, p: QPainter, strip: QRectF, time: Scale) -> None:
        assert self._curves is not None
        times, values, speed = self._curves
        limit = np.minimum(values[:, 3], 170) * self._limit_share
        top = max(float(speed.max()), float(limit.max()) * 1.3, 10.0)
        scale = Scale(0.0, top * 1.05, strip.bottom(), strip.top())
        xs = time.px(times)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(marks.pen("caution", 1.2, Qt.PenStyle.DashLine))
        p.drawPath(marks.polyline(xs, scale.px(limit)))
        p.setPen(marks.pen("course", 1.8))
        p.drawPath(marks.polyline(xs, scale.px(speed)))
        marks.text(
            p,
            strip.right() - 5,
            scale.px(float(limit[-1])),
            f"limit {limit[-1]:.0f}",
            colour="caution",
            align="right",
            halo=True,
        )

    @property
    def _has_pace(self) -> bool:
        return self._part is not None or (self._cut is not None and bool(self._cut.speeds))

    def _lane(self, speed: QRectF) -> QRectF:
        if self._low and not self._has_pace:
            return QRectF(speed.left(), speed.bottom(), speed.width(), 0.0)
        return QRectF(speed.left(), speed.bottom() + 4, speed.width(), _LANE - 6)

    def _pace(self, p: QPainter, main: QRectF, speed: QRectF, time: Scale) -> None:
        """The lane in which changed speeds stand as blocks, and the part marked for another."""
        assert self._cut is not None
        lane = self._lane(speed)
        if not lane.height():
            return
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(marks.pen("line"))
        p.drawRect(lane)
        marks.text(p, lane.left() - 8, lane.center().y(), "speed", colour="soft", align="right")
        for stretch in self._cut.speeds:
            left, right = time.px(stretch.start_s), time.px(stretch.end_s)
            box = QRectF(left, lane.top(), max(right - left, 3.0), lane.height())
            fill = theme.colours().sheer("course", 255 if stretch.freeze_s else 70)
            p.fillRect(box, fill)
            words, room = stretch.words, lane.right() - box.right()
            p.setFont(theme.font(9))
            wide = p.fontMetrics().horizontalAdvance(words)
            if wide + 6 < box.width():
                marks.text(p, box.center().x(), box.center().y(), words, align="middle")
            elif wide + 8 < room:
                marks.text(p, box.right() + 4, box.center().y(), words, halo=True)
        if self._part is not None:
            a, b = (time.px(t) for t in self._part)
            p.fillRect(QRectF(a, lane.top(), b - a, lane.height()), marks.hatch(theme.colours()["ink"]))
            p.setPen(marks.pen("ink", 1.0, Qt.PenStyle.DashLine))
            for x in (a, b):
                p.drawLine(QPointF(x, main.top()), QPointF(x, lane.bottom()))

    def _ends(self, p: QPainter, main: QRectF, speed: QRectF, time: Scale) -> None:
        assert self._cut is not None
        shade = theme.colours().sheer("paper", 190)
        a, b = time.px(self._cut.in_s), time.px(min(self._cut.out_s, self._length_s))
        for left, right in ((main.left(), a), (b, main.right())):
            p.fillRect(QRectF(left, _TOP, right - left, speed.bottom() - _TOP), shade)
        p.setPen(marks.pen("ink", 2.4))
        for x, way in ((a, 7), (b, -7)):
            p.drawLine(QPointF(x, _TOP - 12), QPointF(x, main.bottom()))
            p.drawLine(QPointF(x, _TOP - 12), QPointF(x + way, _TOP - 12))

    def _pennants(self, p: QPainter, main: QRectF, time: Scale) -> None:
        assert self._cut is not None
        last, feet = -_PENNANT_PX, []
        for number, x in enumerate(time.px(np.array([key.time_s for key in self._cut.keys])).tolist()):
            if x - last >= _PENNANT_PX and number != self._chosen:  # more would only be drawn on one another
                feet.append(self._foot(number, main, time))
                last = x
        marks.pennants(p, feet, chosen=False)
        if 0 <= self._chosen < len(self._cut.keys):
            marks.pennants(p, [self._foot(self._chosen, main, time)], chosen=True)

    def _foot(self, number: int, main: QRectF, time: Scale) -> tuple[float, float]:
        assert self._cut is not None
        key = self._cut.keys[number]
        y = self._bearing(main).px(float(wrap_deg(key.yaw_deg)))
        return time.px(key.time_s), max(y, main.top() + 18)

    def _axis(self, p: QPainter, strip: QRectF, time: Scale) -> None:
        bottom = self._lane(strip).bottom()
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.colours()["ink"])
        for mark in self._marks_s:  # moments that somebody marked while filming or looking
            x = time.px(mark)
            p.drawPolygon(QPointF(x, _TOP + 7), QPointF(x - 4, _TOP), QPointF(x + 4, _TOP))
        for tick in time.ticks(64):
            x = time.px(tick)
            p.setPen(marks.pen("ink"))
            p.drawLine(QPointF(x, bottom), QPointF(x, bottom + 4))
            marks.text(p, x, bottom + 12, f"{tick:g} s", colour="soft", align="middle")

    def _brackets(self, p: QPainter, time: Scale) -> None:
        taken = -1e9
        for finding in self._findings:
            if finding.start_s != finding.start_s or finding.kind in ("soft", "away"):
                continue
            a, b = time.px(finding.start_s), time.px(finding.end_s)
            y, colour = self.height() - 12, marks.LEVEL_COLOUR[finding.level]
            p.setPen(marks.pen(colour, 2))
            p.drawLine(QPointF(a, y), QPointF(b, y))
            for x in (a, b):
                p.drawLine(QPointF(x, y), QPointF(x, y - 5))
            words = f"{finding.title.lower()}, {finding.measure}"
            p.setFont(theme.font(9))
            end = b + 6 + p.fontMetrics().horizontalAdvance(words)
            if b + 6 > taken and end < self.width():
                marks.text(p, b + 6, y - 2, words, colour=colour, halo=True)
                taken = end

    # Hands
    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._cut is None:
            return
        at, (main, _, speed), time = event.position(), self._strips(), self._time()
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._grip, self._anchor_s = ("part", 0), self._when(at.x())
            self.part_marked.emit(None)
            return
        if self._lane(speed).contains(at):
            here = self._when(at.x())
            hit = next((s for s in self._cut.speeds if s.start_s <= here <= s.end_s), None)
            self.part_marked.emit((hit.start_s, hit.end_s) if hit is not None else None)
        for number in range(len(self._cut.keys)):
            x, y = self._foot(number, main, time)
            if QRectF(x - 5, y - 20, 19, 26).contains(at):
                self._grip = ("key", number)
                self.key_chosen.emit(number)
                return
        if at.y() < _TOP:
            for name, value in (("in", self._cut.in_s), ("out", self._cut.out_s)):
                if abs(time.px(value) - at.x()) < 8:
                    self._grip = (name, 0)
                    return
        self._grip = ("time", 0)
        self._go(at.x())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._grip is None:
            return
        name, number = self._grip
        when = self._when(event.position().x())
        if name == "part":
            low, high = sorted((self._anchor_s, when))
            self.part_marked.emit((low, high) if high - low > 0.05 else None)
        elif name == "key":
            self.key_dragged.emit(number, when)
        elif name == "time":
            self._go(event.position().x())
        else:
            (self.in_dragged if name == "in" else self.out_dragged).emit(when)

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        self._grip = None
        self.drag_ended.emit()

    def _go(self, x: float) -> None:
        self.time_chosen.emit(self._when(x))

    def _when(self, x: float) -> float:
        return float(np.clip(self._time().value(x), 0.0, self._length_s))

"""The course as a printed chart: everything but the playhead is one picture."""

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer
from PyQt6.QtGui import QPainter, QPixmap

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.labels import Labels, Side
from glintor.desktop.charts.scale import Scale
from glintor.desktop.reframe.course_sheet import BEARINGS, THIN_PX, TOP, CourseSheet, Front
from glintor.placement.seam import seam_yaws_deg
from glintor.reframing.track import SURE
from glintor.sphere.angle import wrap_deg

_AT_END: tuple[Side, ...] = ("left",)  # of a line that runs to the strip's right end
_PENNANT_PX = 6.0
_UNSURE = 0.3  # trust in how a camera turned, below which it is marked


class CourseChart(CourseSheet):
    """Draws the course."""

    def draw(self, p: QPainter) -> None:
        if self._cut is None or self._curves is None:
            marks.text(
                p,
                self.width() / 2,
                self.height() / 2,
                "No cut yet: record a take, bring it over, then begin a cut here.",
                colour="soft",
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
            p.drawLine(QPointF(x, 2), QPointF(x, THIN_PX - 2))
            return
        time, speed = self._time(), self._strips()[2]
        x = time.px(self._now_s)
        p.setPen(marks.pen("ink", 1.6))
        p.drawLine(QPointF(x, TOP - 8), QPointF(x, self._lane(speed).bottom()))
        p.setBrush(theme.colours()["ink"])
        p.drawPolygon(QPointF(x - 6, TOP - 15), QPointF(x + 6, TOP - 15), QPointF(x, TOP - 6))

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
        labels = Labels(p, main.getCoords())
        self._beware(p, main, time, labels)
        self._band(p, main, time)
        self._lines(p, main, time, labels)
        if not self._low:
            self._height(p, height, time)
            self._speed(p, speed, time)
        self._pace(p, main, speed, time)
        self._ends(p, main, speed, time)
        self._pennants(p, main, time)
        self._axis(p, speed, time)
        labels.write()
        self._brackets(p, time)
        marks.text(p, 10, 12, "Course", bold=True)
        p.end()
        return chart

    def _draw_line(self, p: QPainter, time: Scale) -> None:
        assert self._cut is not None
        p.setPen(marks.pen("line"))
        p.drawLine(QPointF(time.start, THIN_PX / 2), QPointF(time.end, THIN_PX / 2))
        p.setPen(marks.pen("course", 3.0))
        p.drawLine(QPointF(time.px(self._cut.in_s), THIN_PX / 2), QPointF(time.px(self._cut.out_s), THIN_PX / 2))
        marks.pennants(p, [(time.px(key.time_s), THIN_PX - 3.0) for key in self._cut.keys], chosen=False)

    def _frames(self, p: QPainter, main: QRectF, height: QRectF, speed: QRectF) -> None:
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(marks.pen("line"))
        for strip in (main,) if self._low else (main, height, speed):
            p.drawRect(strip)
        scale = self._bearing(main)
        for value, words in BEARINGS:
            y = scale.px(value)
            p.setPen(marks.pen("line"))
            p.drawLine(QPointF(main.left() - 4, y), QPointF(main.right(), y))
            marks.text(p, main.left() - 8, y, words, colour="soft", align="right")
        for strip, words in () if self._low else ((height, "height ±90°"), (speed, "turn °/s")):
            marks.text(p, strip.left() - 8, strip.center().y(), words, colour="soft", align="right")

    def _beware(self, p: QPainter, main: QRectF, time: Scale, labels: Labels) -> None:
        assert self._curves is not None
        if self._lie.band_deg is None:  # nobody knows how the lenses lay
            return
        times, values, _ = self._curves
        scale, half = self._bearing(main), max(self._lie.band_deg, 3.5)
        yaws = wrap_deg(seam_yaws_deg(values[:, 1], self._lie.axis))  # at the height that is looked at
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
            labels.add(main.right(), scale.px(last), "seam", colour="seam", sides=_AT_END)

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

    def _lines(self, p: QPainter, main: QRectF, time: Scale, labels: Labels) -> None:
        scale = self._bearing(main)
        p.save()
        p.setClipRect(main)
        if self._lie.sun is not None:
            y = scale.px(float(wrap_deg(self._lie.sun[0])))
            p.setPen(marks.pen("sun", 1.4, Qt.PenStyle.DotLine))
            p.drawLine(QPointF(main.left(), y), QPointF(main.right(), y))
            labels.add(main.right(), y, "sun", colour="sun", sides=_AT_END)
        if self._front is not None:
            self._draw_front(p, scale, time, self._front, labels)
        if self._track is not None and len(self._track.time_s):
            yaw = wrap_deg(self._track.yaw_deg)
            xs, ys = time.px(self._track.time_s), scale.px(yaw)
            p.setBrush(Qt.BrushStyle.NoBrush)
            state = self._track.state
            sure = np.ones(len(xs), bool) if state is None else state == SURE
            for shown, style in ((sure, Qt.PenStyle.DashLine), (self._track.known, Qt.PenStyle.DotLine)):
                p.setPen(marks.pen("subject", 1.8 if style == Qt.PenStyle.DashLine else 1.0, style))
                p.drawPath(marks.polyline(np.where(shown, xs, np.nan), ys, main.height() / 2))
            at = int(np.flatnonzero(self._track.known)[:1].sum()) if state is not None else len(xs) // 12
            labels.add(float(xs[at]), float(ys[at]), self._subject, colour="subject", gap=3.0, sides=("below", "above"))
        p.restore()

    def _draw_front(self, p: QPainter, scale: Scale, time: Scale, front: Front, labels: Labels) -> None:
        """The camera's own bearing in the world that the recording is held in; red where how it turned is unsure."""
        xs, ys = time.px(front.time_s), scale.px(wrap_deg(front.yaw_deg))
        half = abs(scale.px(180.0) - scale.px(-180.0)) / 2.0
        p.setBrush(Qt.BrushStyle.NoBrush)
        for colour, shown in (("soft", front.trust >= _UNSURE), ("caution", front.trust < _UNSURE)):
            p.setPen(marks.pen(colour, 1.2 if colour == "soft" else 2.4))
            for first, last in _runs(shown):
                p.drawPath(marks.polyline(xs[first:last], ys[first:last], half))
        labels.add(float(xs[-1]), float(ys[-1]), "front lens", colour="soft", sides=_AT_END)

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
            p.setFont(theme.font())
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
            p.fillRect(QRectF(left, TOP, right - left, speed.bottom() - TOP), shade)
        p.setPen(marks.pen("ink", 2.4))
        for x, way in ((a, 7), (b, -7)):
            p.drawLine(QPointF(x, TOP - 12), QPointF(x, main.bottom()))
            p.drawLine(QPointF(x, TOP - 12), QPointF(x + way, TOP - 12))

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

    def _axis(self, p: QPainter, strip: QRectF, time: Scale) -> None:
        bottom = self._lane(strip).bottom()
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.colours()["ink"])
        for mark in self._marks_s:  # moments that somebody marked while filming or looking
            x = time.px(mark)
            p.drawPolygon(QPointF(x, TOP + 7), QPointF(x - 4, TOP), QPointF(x + 4, TOP))
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
            p.setFont(theme.font())
            end = b + 6 + p.fontMetrics().horizontalAdvance(words)
            if b + 6 > taken and end < self.width():
                marks.text(p, b + 6, y - 2, words, colour=colour, halo=True)
                taken = end


def _runs(shown: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Where runs of what is true begin and end."""
    steps = np.flatnonzero(np.diff(np.concatenate([[False], shown, [False]]).astype(int)))
    return list(zip(steps[::2].tolist(), steps[1::2].tolist(), strict=True))

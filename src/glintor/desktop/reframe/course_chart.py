"""The course as a printed chart: everything but the playhead is one picture."""

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer
from PyQt6.QtGui import QPainter, QPixmap

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.labels import Labels
from glintor.desktop.charts.scale import Scale
from glintor.desktop.reframe.course_lines import CourseLines
from glintor.desktop.reframe.course_sheet import THIN_PX, TOP
from glintor.reframing.freezing import stretch_spans
from glintor.reframing.moves import KINDS
from glintor.reframing.review_motion import JERK_DEG_S3

_PENNANT_PX = 6.0
_NO_BRACKET = (
    "soft",
    "away",
    "lost",
    "unknown",
    "stretch",
    "busy",
    "still",
    "sun",
    "filmer",
    "stick",
    "shadow",
)  # of the whole cut, or told by a line of its own


class CourseChart(CourseLines):
    """Draws the course."""

    def draw(self, p: QPainter) -> None:
        if self._plot is None:
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
        if self._stale and self._plot is not None:
            self._chart, self._stale = self._drawn_chart(), False
            self.update()

    def _drawn_chart(self) -> QPixmap:
        """Everything but the playhead."""
        assert self._plot is not None
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
        if self._plot.other is not None:
            self._thin_band(p, main, time, self._plot.other, "soft", self._plot.other_words, labels)
        if self._plot.own is not None:
            self._thin_band(p, main, time, self._plot.own, "ink", "this shape's own", labels)
        self._lines(p, main, time, labels)
        if not self._low:
            self._height(p, height, time)
            self._speed(p, speed, time)
        self._pace(p, main, speed, time)
        self._ends(p, main, speed, time)
        self._pennants(p, main, time)
        self._stage_words(p, main, time)
        self._hold_bars(p, main, time)
        self._overview(p)
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
        p.drawLine(QPointF(time.px(self._cut.begins_s), THIN_PX / 2), QPointF(time.px(self._cut.ends_s), THIN_PX / 2))
        marks.pennants(p, [(time.px(key.time_s), THIN_PX - 3.0) for key in self._cut.keys], chosen=False)

    def _frames(self, p: QPainter, main: QRectF, height: QRectF, speed: QRectF) -> None:
        assert self._plot is not None
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(marks.pen("line"))
        for strip in (main,) if self._low else (main, height, speed):
            p.drawRect(strip)
        scale = self._bearing(main)
        for value, words in zip((180.0, 90.0, 0.0, -90.0, -180.0), self._plot.frame.words, strict=True):
            y = scale.px(value)
            p.setPen(marks.pen("line"))
            p.drawLine(QPointF(main.left() - 4, y), QPointF(main.right(), y))
            marks.text(p, main.left() - 8, y, words, colour="soft", align="right")
        for strip, words in () if self._low else ((height, "height ±90°"), (speed, "turn °/s")):
            marks.text(p, strip.left() - 8, strip.center().y(), words, colour="soft", align="right")

    def _height(self, p: QPainter, strip: QRectF, time: Scale) -> None:
        self._horizon(p, strip)
        scale = self._pitch(strip)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(marks.pen("course", 1.8))
        p.drawPath(marks.polyline(time.px(self._times), scale.px(self._values[:, 1])))
        p.setBrush(theme.colours()["course"])
        for number, key in enumerate(self._feet):
            x = time.px(self._cut.keys[number].time_s) if self._cut is not None else 0.0
            if strip.left() <= x <= strip.right():
                p.drawEllipse(QPointF(x, scale.px(float(key[1]))), 2.6, 2.6)

    def _speed(self, p: QPainter, strip: QRectF, time: Scale) -> None:
        """Speed of the turn against its limit, and under it, hatched, where it jerks."""
        assert self._plot is not None and self._motion is not None
        limit = np.minimum(self._values[:, 3], 170) * self._plot.pan_share
        speed, jerk = self._motion.speed_deg_s, self._motion.jerk_deg_s3
        top = max(float(speed.max()), float(limit.max()) * 1.3, 10.0)
        scale = Scale(0.0, top * 1.05, strip.bottom(), strip.top())
        xs = time.px(self._times)
        rough = np.minimum(jerk / JERK_DEG_S3, 2.0) * 0.5 * top
        floor = np.stack([xs, np.full(len(xs), strip.bottom())], axis=1)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(marks.hatch(theme.colours()["caution"]))
        marks.band(p, np.stack([xs, scale.px(rough)], axis=1), floor, (jerk > JERK_DEG_S3)[1:])
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(marks.pen("caution", 1.2, Qt.PenStyle.DashLine))
        p.drawPath(marks.polyline(xs, scale.px(limit)))
        p.setPen(marks.pen("course", 1.8))
        p.drawPath(marks.polyline(xs, scale.px(speed)))
        words = f"limit {limit[-1]:.0f}" + (", hatched: jerks" if (jerk > JERK_DEG_S3).any() else "")
        marks.text(p, strip.right() - 5, scale.px(float(limit[-1])), words, colour="caution", align="right", halo=True)

    def _stage_words(self, p: QPainter, main: QRectF, time: Scale) -> None:
        """Holds and moves in words, at the foot of the strip; each can be taken hold of at its end."""
        assert self._plot is not None
        p.setFont(theme.font())
        for move in self._plot.cut.moves:
            box = self._span_box(move.start_s, move.end_s, main, time)
            p.fillRect(box, theme.colours().sheer("course", 60))
            words = p.fontMetrics().elidedText(
                KINDS[move.kind].words, Qt.TextElideMode.ElideRight, int(box.width()) - 8
            )
            marks.text(p, box.center().x(), box.center().y(), words, align="middle")
        for stage in self._stages:
            box = self._stage_box(stage, main, time)
            if box.width() < 3.0:
                continue
            p.setPen(marks.pen("line"))
            p.drawLine(QPointF(box.right(), box.top()), QPointF(box.right(), box.bottom()))
            for words in (stage.words, stage.words.split()[1]):
                if p.fontMetrics().horizontalAdvance(words) + 6 < box.width():
                    colour = "soft" if stage.holds else "course"
                    marks.text(p, box.center().x(), box.center().y(), words, colour=colour, align="middle")
                    break

    def _hold_bars(self, p: QPainter, main: QRectF, time: Scale) -> None:
        """Above the band, from when to when the view is held on what."""
        assert self._plot is not None
        p.setFont(theme.font())
        for start, end, words in self._plot.holds:
            left, right = (min(max(time.px(t), main.left()), main.right()) for t in (start, end))
            if right - left < 2.0:
                continue
            p.fillRect(QRectF(left, main.top() - 3.0, right - left, 3.0), theme.colours()["subject"])
            words = f"held on {words}"
            if p.fontMetrics().horizontalAdvance(words) + 30 < right - left:
                marks.text(p, left + 22, main.top() - 10, words, colour="subject")

    def _overview(self, p: QPainter) -> None:
        """All of the clip as a line, and what of it is in sight, where that is not all."""
        if not self._closer:
            return
        bar = self._overview_bar()
        whole = Scale(0.0, self._length_s, bar.left(), bar.right())
        p.fillRect(bar, theme.colours()["line"])
        a, b = whole.px(self._from_s), whole.px(self._to_s)
        p.fillRect(QRectF(a, bar.top() - 1, max(b - a, 4.0), bar.height() + 2), theme.colours()["course"])

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
        for start, end, stretch in stretch_spans(self._cut):
            left, right = (min(max(time.px(t), main.left()), main.right()) for t in (start, end))
            if right <= main.left() or left >= main.right():
                continue
            box = QRectF(left, lane.top(), max(right - left, 3.0), lane.height())
            if stretch.view_moves:  # the picture stands still under the path
                p.fillRect(QRectF(left, main.top(), right - left, main.height()), theme.colours().sheer("soft", 34))
            fill = theme.colours().sheer("course", 255 if stretch.freeze_s and not stretch.view_moves else 70)
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
        a, b = (
            min(max(time.px(t), main.left()), main.right())
            for t in (self._cut.begins_s, min(self._cut.ends_s, self._length_s))
        )
        for left, right in ((main.left(), a), (b, main.right())):
            p.fillRect(QRectF(left, TOP, right - left, speed.bottom() - TOP), shade)
        p.setPen(marks.pen("ink", 2.4))
        for x, way in ((a, 7), (b, -7)):
            p.drawLine(QPointF(x, TOP - 12), QPointF(x, main.bottom()))
            p.drawLine(QPointF(x, TOP - 12), QPointF(x + way, TOP - 12))

    def _pennants(self, p: QPainter, main: QRectF, time: Scale) -> None:
        assert self._plot is not None
        last, feet, chosen = -_PENNANT_PX, [], []
        marked = self._plot.several | {self._plot.chosen}
        for number, x in enumerate(time.px(np.array([key.time_s for key in self._plot.cut.keys])).tolist()):
            if not main.left() - 2 <= x <= main.right() + 2:
                continue
            if number in marked:
                chosen.append(self._foot(number, main, time))
            elif x - last >= _PENNANT_PX:  # more would only be drawn on one another
                feet.append(self._foot(number, main, time))
                last = x
        marks.pennants(p, feet, chosen=False)
        marks.pennants(p, chosen, chosen=True)

    def _axis(self, p: QPainter, strip: QRectF, time: Scale) -> None:
        assert self._plot is not None
        bottom = self._lane(strip).bottom()
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.colours()["ink"])
        for mark in self._plot.marks_s:  # moments that somebody marked while filming or looking
            x = time.px(mark)
            if not strip.left() <= x <= strip.right():
                continue
            p.drawPolygon(QPointF(x, TOP + 7), QPointF(x - 4, TOP), QPointF(x + 4, TOP))
        for tick in time.ticks(64):
            x = time.px(tick)
            p.setPen(marks.pen("ink"))
            p.drawLine(QPointF(x, bottom), QPointF(x, bottom + 4))
            marks.text(p, x, bottom + 12, f"{tick:g} s", colour="soft", align="middle")

    def _brackets(self, p: QPainter, time: Scale) -> None:
        """What was found, along the time in which it is so; in words where no other stands in the way."""
        assert self._plot is not None
        p.setFont(theme.font())
        y, free = self.height() - 12, list[tuple[float, float]]()
        drawn = []
        for finding in self._plot.findings:
            if finding.start_s != finding.start_s or finding.kind in _NO_BRACKET:
                continue
            a, b = (min(max(time.px(t), time.start), time.end) for t in (finding.start_s, finding.end_s))
            if b - a >= 1.0:
                drawn.append((a, b, finding))
                free.append((a, b))
        for a, b, finding in drawn:
            colour = marks.LEVEL_COLOUR[finding.level]
            p.setPen(marks.pen(colour, 2))
            p.drawLine(QPointF(a, y), QPointF(b, y))
            for x in (a, b):
                p.drawLine(QPointF(x, y), QPointF(x, y - 5))
            words = f"{finding.title.lower()}, {finding.measure}"
            wide = p.fontMetrics().horizontalAdvance(words)
            for left in (b + 6, a - 6 - wide):
                if left > 6 and left + wide < self.width() and not any(left < q and p_ < left + wide for p_, q in free):
                    marks.text(p, left, y - 2, words, colour=colour, halo=True)
                    free.append((left, left + wide))
                    break

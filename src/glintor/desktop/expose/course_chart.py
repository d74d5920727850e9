"""The light course: what the scene holds over the take, what each lens meters, and the window that the camera records of it."""

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPolygonF

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.labels import Labels
from glintor.desktop.charts.scale import Scale
from glintor.desktop.charts.sheet import Sheet
from glintor.exposure.course import Course
from glintor.exposure.noise import HEADROOM_STOPS, floor_ev
from glintor.exposure.schools import Run
from glintor.exposure.solve import Sensor
from glintor.exposure.values import SCENES
from glintor.types import Array

_LEFT, _RIGHT, _TOP, _BOTTOM = 146, 26, 18, 40
_GRIP_PX = 9
_FAN_PX = 15.0  # between the windows of a bracket


class CourseMarks(Struct, frozen=True, eq=False):
    """What stands on the chart beside the light: the chosen school's run, the moment that is looked at, and of a bracket the stops
    of its frames."""

    run: Run
    sensor: Sensor
    moment_s: float
    fan_stops: tuple[float, ...] = ()


class CourseChart(Sheet):
    """Drag the window up or down: the exposure follows in thirds of a stop. Drag the moment, or click where to look."""

    window_dragged = pyqtSignal(float)  # stops that the window is to move by, since it was taken in the hand
    moment_chosen = pyqtSignal(float)  # second of the take
    drag_ended = pyqtSignal()

    def __init__(self) -> None:
        super().__init__("Light course", (360, 190))
        self._course: Course | None = None
        self._marks: CourseMarks | None = None
        self._grip: tuple[str, float, Scale] | None = None
        self._moved = 0.0
        self.setToolTip(
            "Drag the window up or down: the exposure follows. Drag the moment. Up, Down: a third; Left, Right: in time"
        )

    def show_course(self, course: Course, over: CourseMarks) -> None:
        self._course, self._marks = course, over
        self.update()

    # Scales
    def _scale(self) -> Scale:
        course, over = self._course, self._marks
        assert course is not None and over is not None
        top, floor = self._window(course, over)
        low = min(float(course.held[:, 0].min()), float(np.median(floor)), 6.0) - 0.6
        high = max(float(course.held[:, 1].max()), float(np.median(top)), 15.5) + 0.6
        return Scale(max(low, -7.0), min(high, 23.0), self.height() - _BOTTOM, _TOP)

    def _time(self) -> Scale:
        assert self._course is not None
        return Scale(
            float(self._course.time_s[0]), max(float(self._course.time_s[-1]), 1e-3), _LEFT, self.width() - _RIGHT
        )

    @staticmethod
    def _window(course: Course, over: CourseMarks) -> tuple[Array, Array]:
        """(n,) top and foot of what the camera holds, EV100; with an exposure each lens what both hold together."""
        ev, iso, sensor = over.run.ev, over.run.iso, over.sensor
        floor = floor_ev(ev, iso, sensor.stops, sensor.iso_min)
        return ev.max(axis=1) + HEADROOM_STOPS, np.asarray(floor.min(axis=1))

    # Drawing
    def draw(self, p: QPainter) -> None:
        course, over = self._course, self._marks
        if course is None or over is None:
            marks.text(p, self.width() / 2, self.height() / 2, "metering the light…", colour="soft", align="middle")
            return
        ev, time = self._scale(), self._time()
        self._grid(p, ev, time)
        labels = Labels(p, (float(_LEFT), float(_TOP), self.width() - _RIGHT, self.height() - _BOTTOM))
        p.setClipRect(QRectF(_LEFT, _TOP, self.width() - _LEFT - _RIGHT, self.height() - _TOP - _BOTTOM))
        self._light_and_window(p, course, over, ev, time, labels)
        self._meters(p, course, ev, time, labels)
        if over.fan_stops:
            self._fan(p, over, ev, time, labels)
        p.setClipping(False)
        self._moment(p, over.moment_s, time)
        self._sources(p, course, time)
        labels.write()

    def _grid(self, p: QPainter, ev: Scale, time: Scale) -> None:
        foot = self.height() - _BOTTOM
        for value in range(int(np.ceil(ev.low)), int(np.floor(ev.high)) + 1):
            y = ev.px(float(value))
            p.setPen(marks.pen("line", 0.7))
            p.drawLine(QPointF(_LEFT, y), QPointF(self.width() - _RIGHT, y))
            if ev.px_per_unit >= 13.0 or value % 2 == 0:
                marks.text(p, _LEFT - 8, y, f"{value}", align="right", colour="soft")
        taken = -1e9
        for words, scene in SCENES:
            y = ev.px(scene)
            if ev.low < scene < ev.high and y - taken > 14.0:
                marks.text(p, _LEFT - 32, y, words.split(",")[0], align="right", colour="soft")
                taken = y
        p.setPen(marks.pen("line"))
        p.drawLine(QPointF(_LEFT, foot), QPointF(self.width() - _RIGHT, foot))
        for tick in time.ticks(90.0):
            marks.text(p, time.px(tick), foot + 11, _seconds(tick), align="middle", colour="soft")

    def _light_and_window(
        self, p: QPainter, course: Course, over: CourseMarks, ev: Scale, time: Scale, labels: Labels
    ) -> None:
        x = time.px(course.time_s)
        held, (top, floor) = course.held, self._window(course, over)
        colours = theme.colours()
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colours.sheer("course_fill", 130))
        p.drawPolygon(_between(x, ev.px(top), ev.px(floor)))
        p.setBrush(marks.hatch(colours["sun"]))
        p.drawPolygon(_between(x, ev.px(held[:, 1]), ev.px(held[:, 0])))
        for upper, lower, sheer in ((held[:, 1], top, 150), (floor, held[:, 0], 90)):
            p.setBrush(colours.sheer("stop" if sheer > 100 else "ink", sheer))
            for first, last in _runs_of(upper > lower):
                part = slice(max(first - 1, 0), last + 1)
                a, b = np.maximum(upper[part], lower[part]), lower[part]
                p.drawPolygon(_between(x[part], ev.px(a), ev.px(b)))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(marks.pen("course", 1.8))
        for line in (top, floor):
            p.drawPath(marks.polyline(x, ev.px(line)))
        self._lost(course, over, top, floor, ev, time, labels)
        at = len(x) // 2
        labels.add(
            float(x[at]),
            float(ev.px(float(top[at]))),
            "what the camera holds",
            colour="course",
            sides=("below", "above"),
        )
        labels.add(
            float(x[at // 2]),
            float(ev.px(float(held[at // 2, 0]))),
            "what the scene holds",
            colour="sun",
            sides=("above", "below"),
        )

    @staticmethod
    def _lost(
        course: Course, over: CourseMarks, top: Array, floor: Array, ev: Scale, time: Scale, labels: Labels
    ) -> None:
        """Words where most is lost."""
        held = course.held
        for over_stops, line, words in ((held[:, 1] - top, top, "clips"), (floor - held[:, 0], floor, "in the noise")):
            worst = int(np.argmax(over_stops))
            if over_stops[worst] > 0.5:
                x, y = float(time.px(float(course.time_s[worst]))), float(ev.px(float(line[worst])))
                labels.add(
                    x,
                    y,
                    f"{words}, {over_stops[worst]:.1f} stops",
                    colour="stop" if words == "clips" else "ink",
                    bold=True,
                )

    @staticmethod
    def _meters(p: QPainter, course: Course, ev: Scale, time: Scale, labels: Labels) -> None:
        x = time.px(course.time_s)
        for column, words, style in ((1, "front lens", Qt.PenStyle.SolidLine), (2, "rear lens", Qt.PenStyle.DashLine)):
            p.setPen(marks.pen("ink", 1.6, style))
            y = ev.px(course.metered[:, column])
            p.drawPath(marks.polyline(x, y))
            at = max(len(x) // (5 if column == 1 else 3), 0)
            labels.add(
                float(x[at]), float(y[at]), f"{words} {course.metered[at, column]:.1f}", sides=("above", "below")
            )

    def _fan(self, p: QPainter, over: CourseMarks, ev: Scale, time: Scale, labels: Labels) -> None:
        """The frames of a bracket as windows side by side at the moment."""
        half = (len(over.fan_stops) + 1) / 2.0 * _FAN_PX
        at = min(max(float(time.px(over.moment_s)), _LEFT + half), self.width() - _RIGHT - half)
        middle = float(over.run.ev.mean())
        p.setBrush(theme.colours().sheer("subject", 40))
        p.setPen(marks.pen("subject", 1.4))
        count = len(over.fan_stops)
        for number, stops in enumerate(over.fan_stops):
            top = middle - stops + HEADROOM_STOPS  # a longer frame holds what is darker
            x = at + (number - (count - 1) / 2.0) * _FAN_PX - _FAN_PX * 0.4
            p.drawRect(QRectF(x, ev.px(top), _FAN_PX * 0.8, ev.px(top - over.sensor.stops) - ev.px(top)))
        whole = over.sensor.stops + max(over.fan_stops) - min(over.fan_stops)
        labels.add(at, float(ev.px(middle)), f"{count} frames hold {whole:.0f} stops", colour="subject", bold=True)

    def _moment(self, p: QPainter, moment_s: float, time: Scale) -> None:
        x = float(time.px(moment_s))
        p.setPen(marks.pen("ink", 1.2))
        p.drawLine(QPointF(x, _TOP - 2), QPointF(x, self.height() - _BOTTOM))
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.colours()["ink"])
        p.drawPolygon(QPolygonF([QPointF(x - 6, _TOP - 9), QPointF(x + 6, _TOP - 9), QPointF(x, _TOP)]))
        p.setBrush(Qt.BrushStyle.NoBrush)

    def _sources(self, p: QPainter, course: Course, time: Scale) -> None:
        """Where the light is known from, each where it begins."""
        foot = self.height() - 11
        for number, (begins, words) in enumerate(course.source):
            x = float(time.px(min(begins, float(course.time_s[-1]))))
            if begins > 0.0:
                p.setPen(marks.pen("soft", 1.0, Qt.PenStyle.DotLine))
                p.drawLine(QPointF(x, _TOP), QPointF(x, self.height() - _BOTTOM))
            ends = course.source[number + 1][0] if number + 1 < len(course.source) else float(course.time_s[-1])
            room = float(time.px(ends)) - x
            said = f"light: {words}" if number == 0 else words
            marks.text(
                p,
                x,
                foot,
                p.fontMetrics().elidedText(said, Qt.TextElideMode.ElideRight, max(int(room) - 6, 30)),
                colour="soft",
            )

    # Hands
    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._course is None or self._marks is None:
            return
        x, ev = event.position().x(), self._scale()
        if abs(x - float(self._time().px(self._marks.moment_s))) <= _GRIP_PX or event.position().y() < _TOP:
            self._grip = ("moment", 0.0, ev)
            self._choose(x)
        else:
            self._grip, self._moved = ("window", ev.value(event.position().y()), ev), 0.0

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._grip is None:
            near = self._marks is not None and self._course is not None
            on_moment = near and abs(event.position().x() - float(self._time().px(self._marks.moment_s))) <= _GRIP_PX
            self.setCursor(Qt.CursorShape.SizeHorCursor if on_moment else Qt.CursorShape.SizeVerCursor)
            return
        what, began, ev = self._grip
        if what == "moment":
            self._choose(event.position().x())
            return
        moved = round((ev.value(event.position().y()) - began) * 3.0) / 3.0
        if moved != self._moved:
            self._moved = moved
            self.window_dragged.emit(moved)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._grip is not None and self._grip[0] == "window" and self._moved == 0.0:
            self._choose(event.position().x())
        self._grip = None
        self.drag_ended.emit()

    def _choose(self, x: float) -> None:
        assert self._course is not None
        ends = float(self._course.time_s[-1])
        self.moment_chosen.emit(min(max(self._time().value(x), 0.0), ends))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key = Qt.Key(event.key())
        third = {Qt.Key.Key_Up: 1 / 3, Qt.Key.Key_Down: -1 / 3}.get(key)
        side = {Qt.Key.Key_Left: -1.0, Qt.Key.Key_Right: 1.0}.get(key)
        if self._course is None or self._marks is None or (third is None and side is None):
            super().keyPressEvent(event)
        elif third is not None:
            self.window_dragged.emit(third)
            self.drag_ended.emit()
        else:
            ends = float(self._course.time_s[-1])
            self.moment_chosen.emit(min(max(self._marks.moment_s + (side or 0.0) * ends / 60.0, 0.0), ends))


def _between(x: Array, upper: Array, lower: Array) -> QPolygonF:
    around = np.concatenate([np.stack([x, upper], axis=1), np.stack([x, lower], axis=1)[::-1]])
    return QPolygonF([QPointF(a, b) for a, b in around.tolist()])


def _runs_of(true: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Where values are true in a row: first, and one past the last."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], true, [False]]).astype(np.int8)))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]


def _seconds(value: float) -> str:
    return f"{value:g} s" if value < 600.0 else f"{value / 60.0:g} min"

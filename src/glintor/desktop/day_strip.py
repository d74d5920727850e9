"""The shooting day from dawn to dusk: the sun's height as a curve, the shots standing on it as named blocks."""

from bisect import bisect_right
from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPolygonF

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.labels import Labels
from glintor.desktop.charts.scale import Scale
from glintor.desktop.charts.sheet import Sheet
from glintor.placement.clock import clock
from glintor.placement.scenery import horizon_deg
from glintor.placement.sun import day_span
from glintor.placement.windows import Span
from glintor.project.model import Project, Shot
from glintor.project.site import Site
from glintor.project.sky import sun_of

_LEFT = 150
_AROUND_MIN = 20.0  # shown before and after light and shots
_HEIGHTS = {"folded": 16, "usual": 72, "tall": 116}
_LEAST_NAME_PX = 12  # no letter fits into less


class DayStrip(Sheet):
    """Draws the day and turns clicks and drags on a shot into signals."""

    shot_clicked = pyqtSignal(str)
    shot_dragged = pyqtSignal(str, float)  # id, new start in minutes
    drag_ended = pyqtSignal()

    def __init__(self) -> None:
        super().__init__("Shooting day", (400, _HEIGHTS["folded"]))
        self.show_height("usual")
        self._project: Project | None = None
        self._chosen = ""
        self._key: object = None
        self._curve: list[tuple[float, float]] = []
        self._ridge: list[float] = []  # how high the horizon stands where the sun is, at the same moments
        self._span = (360.0, 1200.0)
        self._grip: tuple[str, float] | None = None
        self._windows: list[Span] = []
        self._swaps: list[tuple[float, str]] = []
        self.setToolTip(
            "Click a shot to work on it; drag it to another time of day. Bars: its light is there. Cells and cards: they are changed"
        )

    def show_height(self, how: str) -> None:
        """ "folded" to a line of ticks, "usual", or "tall" where the day is planned."""
        self.setFixedHeight(_HEIGHTS[how])

    @property
    def _base(self) -> float:
        """Where the line of the day lies."""
        return self.height() - 20.0

    @property
    def folded(self) -> bool:
        return self.height() <= _HEIGHTS["folded"]

    def show_day(self, project: Project, chosen: str) -> bool:
        """Whether there was anything to be drawn anew."""
        old = None if self._project is None else _drawn(self._project, self._chosen)
        self._project, self._chosen = project, chosen
        if old == _drawn(project, chosen):
            return False
        site, shots, stage = project.site, project.planned, project.shot(chosen).placement.stage
        rise, fall = _sun_up(site)
        first = min([rise, *(shot.start_min for shot in shots)]) - _AROUND_MIN
        last = max([fall, *(shot.start_min + shot.length_min for shot in shots)]) + _AROUND_MIN
        key = (site, stage, first, last)
        if self._key != key:
            self._key, self._span = key, (max(first, 0.0), min(last, 1440.0))
            suns = [(m, sun_of(site, m)) for m in np.linspace(*self._span, 61)]
            self._curve = [(m, sun.elevation_deg) for m, sun in suns]
            place = site.place(stage)
            far = place.horizon if place is not None else ()
            self._ridge = [horizon_deg(far, sun.azimuth_deg) for _, sun in suns] if far else []
        self.update()
        return True

    def _scale(self) -> Scale:
        return Scale(*self._span, _LEFT, self.width() - 16)

    def _box(self, start: float, length: float) -> QRectF:
        scale = self._scale()
        top, height = (4.0, 8.0) if self.folded else (self._base - 22.0, 22.0)
        return QRectF(scale.px(start), top, max(length * scale.px_per_unit, 10), height)

    def draw(self, p: QPainter) -> None:
        if self._project is None:
            return
        site, scale = self._project.site, self._scale()
        if self.folded:
            self._draw_folded(p, site, scale)
            return
        marks.text(p, 12, 20, site.name, large=True, bold=True)
        marks.text(p, 12, 38, site.day, colour="soft")
        if not site.known:
            marks.text(
                p,
                _LEFT,
                38,
                "Nobody said yet where this is: no sun and no light is reckoned. Day, Site, day and weather says it.",
                colour="soft",
            )
            return
        top = max(height for _, height in self._curve)
        ys = Scale(0, max(top, 1), self._base, 20)
        xs = np.array([scale.px(m) for m, _ in self._curve])
        said = Labels(p, (float(_LEFT), 0.0, self.width() - 2.0, 18.0))
        if self._ridge:  # what the sun stands behind from where the chosen shot is
            heights = [self._base, *(ys.px(min(max(h, 0.0), top * 1.1)) for h in self._ridge), self._base]
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(theme.colours().sheer("line", 120))
            p.drawPolygon(QPolygonF([QPointF(x, y) for x, y in zip([xs[0], *xs, xs[-1]], heights, strict=True)]))
            minute = self._over_ridge()
            if minute is not None:
                said.add(
                    scale.px(minute),
                    18.0,
                    f"sun over the horizon {clock(minute)}",
                    colour="sun",
                    gap=0.0,
                    sides=("above",),
                )
        p.setPen(marks.pen("sun", 1.5))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawPath(marks.polyline(xs, np.array([ys.px(max(h, 0)) for _, h in self._curve])))
        noon = max(self._curve, key=lambda at: at[1])
        said.add(
            scale.px(noon[0]), 18.0, f"sun {noon[1]:.0f}° at {clock(noon[0])}", colour="sun", gap=0.0, sides=("above",)
        )
        said.write()
        self._draw_hours(p, scale)
        boxes = [(shot, self._box(shot.start_min, shot.length_min)) for shot in self._project.planned]
        begins = sorted(box.left() for _, box in boxes)
        for colour, paper, chosen in (("ink", "sheet", False), ("course", "course", True)):
            p.setPen(marks.pen(colour, 1.2))
            p.setBrush(theme.colours()[paper])
            if some := [box for shot, box in boxes if (shot.id == self._chosen) == chosen]:
                p.drawRects(*some)
        self._draw_names(p, boxes, begins)
        self._light_and_swaps(p, scale)

    def _draw_hours(self, p: QPainter, scale: Scale) -> None:
        p.setPen(marks.pen("ink"))
        p.drawLine(QPointF(scale.start - 8, self._base), QPointF(scale.end + 8, self._base))
        for hour in range(int(self._span[0] // 60) + 1, int(self._span[1] // 60) + 1):
            x = scale.px(hour * 60)
            p.setPen(marks.pen("ink"))
            p.drawLine(QPointF(x, self._base), QPointF(x, self._base + 3))
            marks.text(p, x, self._base + 11, f"{hour:02d}", colour="soft", align="middle")

    def _over_ridge(self) -> float | None:
        """The minute at which the sun first stands clear of the chosen shot's horizon; None where it never does."""
        minutes, heights = np.array(self._curve).T
        clear = heights - np.array(self._ridge)
        at = np.flatnonzero((clear > 0.0) & (heights > 0.0))
        if not at.size or at[0] == 0:
            return None
        a, b = at[0] - 1, at[0]
        return float(np.interp(0.0, [clear[a], clear[b]], [minutes[a], minutes[b]]))

    def _draw_names(self, p: QPainter, boxes: list[tuple[Shot, QRectF]], begins: list[float]) -> None:
        """Over the blocks; a name that has no room there goes to a second line, with a thread, where the strip is tall."""
        metrics = {bold: QFontMetrics(theme.font(bold=bold)) for bold in (False, True)}
        line, second, ends = self._base - 30.0, self._base - 46.0, 0.0
        for shot, box in sorted(boxes, key=lambda at: at[1].left()):
            chosen = shot.id == self._chosen
            later = bisect_right(begins, box.left())
            room = (begins[later] if later < len(begins) else self.width()) - box.left() - 4
            wide = metrics[chosen].horizontalAdvance(shot.name)
            if (
                wide > room
                and self.height() >= _HEIGHTS["tall"]
                and box.left() > ends
                and box.left() + wide < self.width()
            ):
                p.setPen(marks.pen("soft"))
                p.drawLine(QPointF(box.left(), second + 6), QPointF(box.left(), box.top()))
                marks.text(p, box.left() + 1, second, shot.name, bold=chosen, halo=True)
                ends = box.left() + wide + 8
            elif room >= _LEAST_NAME_PX or chosen:
                words = metrics[chosen].elidedText(shot.name, Qt.TextElideMode.ElideRight, round(room))
                marks.text(p, box.left() + 1, line, words, bold=chosen, halo=True)

    def _draw_folded(self, p: QPainter, site: Site, scale: Scale) -> None:
        """A line of ticks: where the shots are in the day."""
        assert self._project is not None
        marks.text(p, 12, 8, site.name, colour="soft")
        if not site.known:
            marks.text(p, _LEFT, 8, "its place and hours are not known", colour="soft")
            return
        p.setPen(marks.pen("line"))
        p.drawLine(QPointF(scale.start, 8), QPointF(scale.end, 8))
        p.setPen(Qt.PenStyle.NoPen)
        for shot in self._project.planned:
            p.fillRect(
                self._box(shot.start_min, shot.length_min),
                theme.colours()["course" if shot.id == self._chosen else "line"],
            )

    def _light_and_swaps(self, p: QPainter, scale: Scale) -> None:
        """Bars under the line where the chosen shot's light is there, a cell where the battery is changed, a card where that is."""
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.colours()["sun"])
        for begin, end in self._windows:
            a, b = (min(max(scale.px(m), scale.start), scale.end) for m in (begin, end))
            p.drawRect(QRectF(a, self._base + 1, b - a, 3))
        p.setPen(marks.pen("ink", 1.2))
        p.setBrush(theme.colours()["sheet"])
        cells, caps = [], []
        for minute, what in self._swaps:
            x = scale.px(minute) - (4 if what == "battery" else 14)
            if what == "card":  # a corner is off
                corners = ((-4, 0), (-4, 6), (-1, 9), (3, 9), (3, 0))
                p.drawPolygon(QPolygonF([QPointF(x + a, self._base - b) for a, b in corners]))
            else:
                cells.append(QRectF(x - 4, self._base - 9, 7, 9))
                caps.append(QLineF(x - 2, self._base - 11, x + 1, self._base - 11))
        if cells:
            p.drawRects(*cells)
            p.drawLines(*caps)

    def show_plan(self, windows: Sequence[Span], swaps: Sequence[tuple[float, str]]) -> None:
        """When the chosen shot's light is there, and when batteries and cards are changed."""
        if (list(windows), list(swaps)) != (self._windows, self._swaps):
            self._windows, self._swaps = list(windows), list(swaps)
            self.update()

    def _shot_at(self, x: float) -> str:
        assert self._project is not None
        hits = [
            s.id
            for s in self._project.planned
            if self._box(s.start_min, s.length_min).adjusted(-3, 0, 3, 0).left()
            <= x
            <= self._box(s.start_min, s.length_min).right() + 3
        ]
        return hits[0] if hits else ""

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None and self._project is not None
        shot_id = self._shot_at(event.position().x())
        if shot_id:
            self.shot_clicked.emit(shot_id)
            self._grip = (shot_id, self._scale().value(event.position().x()) - self._project.shot(shot_id).start_min)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._grip is None:
            over = self._project is not None and self._shot_at(event.position().x())
            self.setCursor(Qt.CursorShape.PointingHandCursor if over else Qt.CursorShape.ArrowCursor)
            return
        minute = round((self._scale().value(event.position().x()) - self._grip[1]) / 5) * 5
        self.shot_dragged.emit(self._grip[0], float(min(max(minute, 0), 1435)))

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        if self._grip is not None:
            self._grip = None
            self.drag_ended.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        step = {Qt.Key.Key_Plus: 5.0, Qt.Key.Key_Minus: -5.0}.get(Qt.Key(event.key()))
        if step is None or self._project is None:
            super().keyPressEvent(event)
            return
        shot = self._project.shot(self._chosen)
        self.shot_dragged.emit(shot.id, shot.start_min + step)
        self.drag_ended.emit()


@lru_cache(maxsize=4)
def _sun_up(site: Site) -> Span:
    return day_span(site.lat_deg, site.lon_deg, site.day, site.zone)


def _drawn(project: Project, chosen: str) -> tuple[object, ...]:
    """What of a project this strip shows."""
    stage = project.shot(chosen).placement.stage
    return project.site, chosen, stage, [(s.id, s.name, s.start_min, s.length_min) for s in project.planned]

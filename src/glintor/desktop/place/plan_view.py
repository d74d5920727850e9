"""The placement from above: carrier, camera with its two lenses, seam, subject, sun and shadows; all can be dragged."""

import math

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPen, QPolygonF, QWheelEvent

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.sheet import Sheet
from glintor.placement.layout import START_FOV_DEG, Layout
from glintor.placement.shadow import stick_shadow, subject_shadow
from glintor.sphere.angle import bearing_text, wrap_deg

_CABIN = QRectF(-5.2, -0.86, 9.8, 1.72)

_MARGIN_M, _LEAST_ROOM_M, _MOST_M = 0.9, 2.4, 40.0  # round what matters; shown at least and at most
_DIAL_PX, _TITLE_PX = 100, 44  # room for the sun's dial, and for the title over the drawing


class PlanView(Sheet):
    """Carrier's way ahead to the right, its left up. Drags become signals; the sun's dial sets the time of day."""

    camera_dragged = pyqtSignal(float, float)
    subject_dragged = pyqtSignal(float, float)
    heading_dragged = pyqtSignal(float)
    sun_dragged = pyqtSignal(float)  # azimuth wanted, degrees
    drag_ended = pyqtSignal()

    def __init__(self) -> None:
        super().__init__("Placement from above", (340, 130))
        self._plan: Layout | None = None
        self._seam_deg, self._name = 0.0, ""
        self._zoom = 1.0  # by the wheel, against what fits
        self._grip = ""
        self._middle = self._held_centre = (0.0, 0.0)
        self._room_m = (_LEAST_ROOM_M, _LEAST_ROOM_M)
        self._held_px_per_m = 0.0
        self.setToolTip(
            "Drag camera, subject, the front lens or the sun; they snap to 5 cm and 5°, with Alt held they do not. "
            "Arrow keys move the camera by 5 cm, with Shift the subject; Page Up and Down turn the front lens; the wheel changes the scale"
        )

    def show_plan(self, plan: Layout, seam_deg: float, name: str) -> None:
        self._plan, self._seam_deg, self._name = plan, seam_deg, name
        what = np.stack([at[:2] for at in (plan.camera, plan.foot, plan.subject, plan.moved(1.0).subject)])
        middle, room = (what.max(axis=0) + what.min(axis=0)) / 2, np.ptp(what, axis=0) + 2 * _MARGIN_M
        self._middle = float(middle[0]), float(middle[1])
        self._room_m = max(float(room[0]), _LEAST_ROOM_M), max(float(room[1]), _LEAST_ROOM_M)
        self.update()

    # Where things are on the sheet
    def _scale(self) -> float:
        """Pixels a metre: what matters fills the sheet beside the dial; a hand that drags keeps it."""
        if self._grip and self._held_px_per_m:
            return self._held_px_per_m
        fits = min((self.width() - _DIAL_PX) / self._room_m[0], (self.height() - _TITLE_PX) / self._room_m[1])
        return max(fits * self._zoom, self.width() / _MOST_M)

    def _centre(self) -> tuple[float, float]:
        return self._held_centre if self._grip else self._middle

    def _px(self, ahead: float, left: float) -> QPointF:
        ca, cl = self._centre()
        k = self._scale()
        return QPointF(self._middle_px + (ahead - ca) * k, self.height() / 2 - (left - cl) * k)

    def _metres(self, at: QPointF) -> tuple[float, float]:
        ca, cl = self._centre()
        k = self._scale()
        return ca + (at.x() - self._middle_px) / k, cl - (at.y() - self.height() / 2) / k

    @property
    def _middle_px(self) -> float:
        return (self.width() + _DIAL_PX) / 2

    def _dial(self) -> QPointF:
        return QPointF(58, self.height() - 62)

    def _sun_point(self) -> QPointF:
        assert self._plan is not None
        way = -self._plan.away_from_sun
        return self._dial() + QPointF(way[0] * 34, -way[1] * 34)

    def _lens_point(self) -> QPointF:
        assert self._plan is not None
        turn = -math.radians(self._plan.heading_deg)
        return self._px(*self._plan.camera[:2]) + QPointF(math.cos(turn) * 46, -math.sin(turn) * 46)

    def draw(self, p: QPainter) -> None:
        plan = self._plan
        if plan is None:
            return
        self._grid(p)
        self._carrier(p, plan)
        self._shadows(p, plan)
        self._seam(p, plan)
        self._view_wedge(p, plan)
        self._subject_and_camera(p, plan)
        self._sun(p, plan)
        marks.text(p, 10, 14, "From above", bold=True, size=10)
        marks.text(p, 10, 30, f"way ahead {bearing_text(plan.way_bearing_deg)} to the right", colour="soft", halo=True)
        k = self._scale()
        length = 1.0 if k > 50 else 2.0 if k > 25 else 5.0
        right, y = self.width() - 14, self.height() - 12
        p.setPen(marks.pen("ink"))
        p.drawLine(QPointF(right - length * k, y), QPointF(right, y))
        for x in (right - length * k, right):
            p.drawLine(QPointF(x, y - 4), QPointF(x, y))
        marks.text(p, right - length * k - 6, y - 4, f"{length:g} m", align="right", halo=True)

    def _grid(self, p: QPainter) -> None:
        a0, l1 = self._metres(QPointF(0, 0))
        a1, l0 = self._metres(QPointF(self.width(), self.height()))
        faint = theme.colours().sheer("line", 110)
        for ahead in range(math.ceil(a0), math.floor(a1) + 1):
            p.fillRect(round(self._px(ahead, 0.0).x()), 0, 1, self.height(), faint)
        for left in range(math.ceil(l0), math.floor(l1) + 1):
            p.fillRect(0, round(self._px(0.0, left).y()), self.width(), 1, faint)

    def _carrier(self, p: QPainter, plan: Layout) -> None:
        p.setPen(marks.pen("ink", 1.4))
        p.setBrush(theme.colours()["sheet"])
        if plan.carrier.outline:
            p.drawPolygon(QPolygonF([self._px(a, n) for a, n in plan.carrier.outline]))
        if plan.carrier.id == "boat":
            p.setPen(marks.pen("soft"))
            a, b = self._px(_CABIN.left(), _CABIN.bottom()), self._px(_CABIN.right(), _CABIN.top())
            p.drawRect(QRectF(a, b))
            marks.text(p, b.x() - 6, (a.y() + b.y()) / 2, plan.carrier.words, colour="soft", align="right")
            for rail in plan.setup.rails_m:
                p.drawLine(self._px(_CABIN.left() + 0.2, rail), self._px(_CABIN.right() - 0.2, rail))

    def _shadows(self, p: QPainter, plan: Layout) -> None:
        shade = theme.colours()["soft"]
        for points, width, words in (
            (subject_shadow(plan), 9.0, ""),
            (stick_shadow(plan), 3.0, "shadow of stick and camera"),
        ):
            if not len(points):
                continue
            xy = [self._px(a, n) for a, n, _ in points]
            path = QPainterPath(xy[0])
            for point in xy[1:]:
                path.lineTo(point)
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(marks.hatch(shade), width))
            p.drawPath(path)
            if words:
                p.setBrush(shade)
                p.setPen(Qt.PenStyle.NoPen)
                p.drawEllipse(xy[-1], 3.5, 3.5)
                x = min(max(xy[-1].x(), 2.0), self.width() - 2.0)  # the end may lie outside: its words stay inside
                right = x < self.width() - 170
                marks.text(
                    p,
                    x + (8 if right else -8),
                    self._clear_of_dial(x, min(max(xy[-1].y(), 44.0), self.height() - 10.0)),
                    words,
                    colour="soft",
                    align="left" if right else "right",
                    halo=True,
                )

    def _clear_of_dial(self, x: float, y: float) -> float:
        """A height for words that begin at x, so that the sun's dial does not hide them."""
        dial = self._dial()
        return min(y, dial.y() - 58.0) if x < dial.x() + 60.0 else y

    def _seam(self, p: QPainter, plan: Layout) -> None:
        at, reach = self._px(*plan.camera[:2]), 3.0 * max(self.width(), self.height())
        half = math.radians(max(self._seam_deg, 1.5))
        x, y, _ = plan.axes[:, 0]
        if math.hypot(x, y) < 0.2:
            return  # the lenses look up and down: the seam lies level all round
        for side in (-90.0, 90.0):  # where the seam, which leans with the camera, comes to its height
            mid = math.atan2(y, x) - math.radians(side)
            corners = [at] + [
                at + QPointF(math.cos(mid + s) * reach, -math.sin(mid + s) * reach) for s in (-half, half)
            ]
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(marks.hatch(theme.colours()["seam"]))
            p.drawPolygon(QPolygonF(corners))

    def _view_wedge(self, p: QPainter, plan: Layout) -> None:
        at, view = self._px(*plan.camera[:2]), plan.start_view
        p.setPen(marks.pen("course", 1.5))
        for side in (-0.5, 0.5):
            turn = -math.radians(plan.heading_deg + view.yaw_deg + side * START_FOV_DEG)
            p.drawLine(at, at + QPointF(math.cos(turn) * 190, -math.sin(turn) * 190))

    def _subject_and_camera(self, p: QPainter, plan: Layout) -> None:
        at, who = self._px(*plan.camera[:2]), self._px(*plan.subject[:2])
        p.setPen(marks.pen("subject", 1.2, Qt.PenStyle.DotLine))
        p.drawLine(at, who)
        foot = self._px(*plan.foot[:2])
        p.setPen(marks.pen("ink", 2.2))
        p.drawLine(at, foot)
        if plan.carrier_apart and plan.carrying is not None:
            p.setPen(marks.pen("soft", 1.3))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawEllipse(self._px(*plan.carrying[:2]), 10, 10)
        if any(plan.goes_m):
            there = self._px(*plan.moved(1.0).subject[:2])
            p.setPen(marks.pen("subject", 1.6, Qt.PenStyle.DashLine))
            p.drawLine(who, there)
            p.setBrush(theme.colours()["sheet"])
            p.drawEllipse(there, 7, 7)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.colours()["subject"])
        p.drawEllipse(who, 10, 10)
        marks.text(p, who.x(), who.y() + 20, self._name, colour="subject", bold=True, align="middle", halo=True)
        middle, lens = (at + who) / 2, self._lens_point()
        aside = 11 if lens.y() - 9 <= middle.y() else -11  # away from the front lens's words
        marks.text(p, middle.x(), middle.y() + aside, f"{plan.subject_m:.2f} m", align="middle", halo=True)
        p.setBrush(Qt.BrushStyle.NoBrush)
        for turn, style in ((0.0, Qt.PenStyle.SolidLine), (180.0, Qt.PenStyle.DashLine)):
            p.setPen(marks.pen("course", 1.2, style))
            start = -plan.heading_deg - turn - 90
            p.drawArc(QRectF(at.x() - 46, at.y() - 46, 92, 92), int(start * 16), 180 * 16)
        p.save()
        p.translate(at)
        p.rotate(plan.heading_deg)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.colours()["course"])
        p.drawRect(QRectF(-4.5, -8, 9, 16))
        p.restore()
        p.setBrush(theme.colours()["sheet"])
        p.setPen(marks.pen("course", 1.8))
        p.drawEllipse(lens, 5.5, 5.5)
        beside = 0.0 < who.x() - lens.x() < 90.0 and abs(who.y() - lens.y()) < 26.0  # the words would hide the subject
        words_y = who.y() - 20.0 if beside else lens.y() - 9.0
        marks.text(p, lens.x() + 10, words_y, "front lens", colour="course", halo=True)

    def _sun(self, p: QPainter, plan: Layout) -> None:
        dial = self._dial()
        p.setBrush(theme.colours()["sheet"])
        p.setPen(marks.pen("ink"))
        p.drawEllipse(dial, 34, 34)
        north = math.radians(-plan.way_bearing_deg)
        tip = QPointF(math.cos(north), math.sin(north))
        p.drawLine(dial + tip * 30, dial + tip * 38)
        marks.text(p, (dial + tip * 45).x(), (dial + tip * 45).y(), "N", align="middle")
        sun = self._sun_point()
        p.setPen(marks.pen("sun", 2))
        p.drawLine(dial, sun)
        p.setBrush(theme.colours()["sun"])
        p.drawEllipse(sun, 6.5, 6.5)
        words = f"sun {bearing_text(plan.sun.azimuth_deg)}, {plan.sun.elevation_deg:.0f}° high"
        marks.text(p, dial.x() + 52, dial.y() + 42, words, colour="sun", halo=True)

    # Hands
    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._plan is None:
            return
        at = event.position()
        spots = {
            "sun": self._sun_point(), "lens": self._lens_point(),
            "camera": self._px(*self._plan.camera[:2]), "subject": self._px(*self._plan.subject[:2]),
        }  # fmt: skip
        near = min(spots, key=lambda name: _distance(spots[name], at))
        self._held_centre, self._held_px_per_m = self._centre(), self._scale()
        self._grip = near if _distance(spots[near], at) < 18 else ""

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._plan is None or not self._grip:
            return
        at, free = event.position(), bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        if self._grip == "sun":
            way = at - self._dial()
            self.sun_dragged.emit((math.degrees(math.atan2(way.y(), way.x())) + self._plan.way_bearing_deg) % 360.0)
        elif self._grip == "lens":
            way = at - self._px(*self._plan.camera[:2])
            self.heading_dragged.emit(_snapped(math.degrees(math.atan2(way.y(), way.x())), 0.1 if free else 5.0))
        else:
            ahead, left = (_snapped(v, 0.01 if free else 0.05) for v in self._metres(at))
            (self.camera_dragged if self._grip == "camera" else self.subject_dragged).emit(ahead, left)

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        if self._grip:
            self._grip = ""
            self.drag_ended.emit()
            self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        self._zoom = float(np.clip(self._zoom * 1.1 ** (event.angleDelta().y() / 120.0), 0.2, 5.0))
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        step = {
            Qt.Key.Key_Left: (-0.05, 0.0), Qt.Key.Key_Right: (0.05, 0.0), Qt.Key.Key_Up: (0.0, 0.05), Qt.Key.Key_Down: (0.0, -0.05),
        }.get(Qt.Key(event.key()))  # fmt: skip
        turn = {Qt.Key.Key_PageUp: -5.0, Qt.Key.Key_PageDown: 5.0}.get(Qt.Key(event.key()))
        if self._plan is None or (step is None and turn is None):
            super().keyPressEvent(event)
            return
        if turn is not None:
            heading = _snapped(self._plan.heading_deg + turn, 5.0)
            self.heading_dragged.emit(float(wrap_deg(heading)))
        elif step is not None:
            other = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            ahead, left = (self._plan.subject if other else self._plan.camera)[:2] + step
            (self.subject_dragged if other else self.camera_dragged).emit(round(float(ahead), 2), round(float(left), 2))
        self.drag_ended.emit()


def _snapped(value: float, step: float) -> float:
    return round(round(value / step) * step, 3)


def _distance(a: QPointF, b: QPointF) -> float:
    return math.hypot(a.x() - b.x(), a.y() - b.y())

"""The placement from above: where things lie on the sheet, and the hand that moves them."""

import math

import numpy as np
from PyQt6.QtCore import QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QWheelEvent

from glintor.desktop.charts.sheet import Sheet
from glintor.placement.layout import Layout
from glintor.sphere.angle import wrap_deg

_MARGIN_M, _LEAST_ROOM_M, _MOST_M = 0.9, 2.4, 40.0  # round what matters; shown at least and at most
DIAL_PX, TITLE_PX = 100, 44  # room for the sun's dial, and for the title over the drawing
LENS_PX = 46  # from the camera to the handle that turns the front lens


class PlanSheet(Sheet):
    """Carrier's way ahead to the right, its left up; or north up. Drags become signals; the sun's dial sets the time of day."""

    camera_dragged = pyqtSignal(float, float)
    subject_dragged = pyqtSignal(float, float)
    heading_dragged = pyqtSignal(float)
    sun_dragged = pyqtSignal(float)  # azimuth wanted, degrees
    drag_ended = pyqtSignal()

    def __init__(self) -> None:
        super().__init__("Placement from above", (250, 130))
        self.plan: Layout | None = None
        self.seam_deg, self.name = 0.0, ""
        self.north_up = False
        self._zoom = 1.0  # by the wheel, against what fits
        self._grip = ""
        self._middle = self._held_centre = (0.0, 0.0)
        self._room_m = (_LEAST_ROOM_M, _LEAST_ROOM_M)
        self._held_px_per_m = 0.0
        self.setToolTip(
            "Drag camera, subject, the front lens or the sun; they snap to 5 cm and 5°, with Alt held they do not. "
            "Arrow keys move the camera by 5 cm, with Shift the subject; Page Up and Down turn the front lens; the wheel changes the scale; "
            "N turns north up and back"
        )

    def show_plan(self, plan: Layout, seam_deg: float, name: str) -> None:
        self.plan, self.seam_deg, self.name = plan, seam_deg, name
        near = [] if plan.filmed[0].subject.far else [plan.subject, plan.moved(1.0).subject]
        near += [plan.feet_of(being) for being in plan.filmed[1:] if not being.subject.far]
        near += [plan.carrying] if plan.carrying is not None else [np.zeros(3)] if not near else []
        what = np.stack([at[:2] for at in (plan.camera, plan.foot, *near)])
        seen = np.array([self.across(*at) for at in what.tolist()])  # to the right and down
        middle, room = (seen.max(axis=0) + seen.min(axis=0)) / 2, np.ptp(seen, axis=0) + 2 * _MARGIN_M
        self._middle = self._along(float(middle[0]), float(middle[1]))
        self._room_m = max(float(room[0]), _LEAST_ROOM_M), max(float(room[1]), _LEAST_ROOM_M)
        self.update()

    def turn_north_up(self) -> None:
        """Draws it with north up, or with the way ahead to the right again."""
        self.north_up = not self.north_up
        if self.plan is not None:
            self.show_plan(self.plan, self.seam_deg, self.name)

    # Where things are on the sheet
    @property
    def turn_deg(self) -> float:
        """How far the drawing is turned clockwise from the way ahead to the right."""
        return self.plan.way_bearing_deg - 90.0 if self.north_up and self.plan is not None else 0.0

    def across(self, ahead: float, left: float) -> tuple[float, float]:
        """A direction or a way on the ground as it lies on the sheet: to the right and down."""
        turn = math.radians(self.turn_deg)
        c, s = math.cos(turn), math.sin(turn)
        return ahead * c + left * s, ahead * s - left * c

    def _along(self, right: float, down: float) -> tuple[float, float]:
        """The other way round: ahead and left."""
        turn = math.radians(self.turn_deg)
        c, s = math.cos(turn), math.sin(turn)
        return right * c + down * s, right * s - down * c

    def pointing(self, turn_rad: float, far_px: float) -> QPointF:
        """So many pixels along a direction, radians from ahead to the left."""
        x, y = self.across(math.cos(turn_rad), math.sin(turn_rad))
        return QPointF(x * far_px, y * far_px)

    def scale(self) -> float:
        """Pixels a metre: what matters fills the sheet beside the dial; a hand that drags keeps it."""
        if self._grip and self._held_px_per_m:
            return self._held_px_per_m
        fits = min((self.width() - DIAL_PX) / self._room_m[0], (self.height() - TITLE_PX) / self._room_m[1])
        return max(fits * self._zoom, self.width() / _MOST_M)

    def _centre(self) -> tuple[float, float]:
        return self._held_centre if self._grip else self._middle

    def px(self, ahead: float, left: float) -> QPointF:
        ca, cl = self._centre()
        x, y = self.across(ahead - ca, left - cl)
        k = self.scale()
        return QPointF(self._middle_px + x * k, self.height() / 2 + y * k)

    def metres(self, at: QPointF) -> tuple[float, float]:
        ca, cl = self._centre()
        k = self.scale()
        ahead, left = self._along((at.x() - self._middle_px) / k, (at.y() - self.height() / 2) / k)
        return ca + ahead, cl + left

    @property
    def _middle_px(self) -> float:
        return (self.width() + DIAL_PX) / 2

    def dial(self) -> QPointF:
        return QPointF(58, self.height() - 62)

    def sun_point(self) -> QPointF:
        assert self.plan is not None
        x, y = self.across(*(-self.plan.away_from_sun).tolist())
        return self.dial() + QPointF(x * 34, y * 34)

    def lens_point(self) -> QPointF:
        assert self.plan is not None
        return self.px(*self.plan.camera[:2]) + self.pointing(-math.radians(self.plan.heading_deg), LENS_PX)

    # Hands
    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self.plan is None:
            return
        at = event.position()
        spots = {
            "sun": self.sun_point(),
            "lens": self.lens_point(),
            "camera": self.px(*self.plan.camera[:2]),
            "subject": self.px(*self.plan.subject[:2]),
        }
        near = min(spots, key=lambda name: _distance(spots[name], at))
        self._held_centre, self._held_px_per_m = self._centre(), self.scale()
        self._grip = near if _distance(spots[near], at) < 18 else ""

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self.plan is None or not self._grip:
            return
        at, free = event.position(), bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        if self._grip == "sun":
            way = at - self.dial()
            off = math.degrees(math.atan2(way.y(), way.x())) - self.turn_deg
            self.sun_dragged.emit((off + self.plan.way_bearing_deg) % 360.0)
        elif self._grip == "lens":
            way = at - self.px(*self.plan.camera[:2])
            heading = float(wrap_deg(math.degrees(math.atan2(way.y(), way.x())) - self.turn_deg))
            self.heading_dragged.emit(_snapped(heading, 0.1 if free else 5.0))
        else:
            ahead, left = (_snapped(v, 0.01 if free else 0.05) for v in self.metres(at))
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
            Qt.Key.Key_Left: (-0.05, 0.0),
            Qt.Key.Key_Right: (0.05, 0.0),
            Qt.Key.Key_Up: (0.0, 0.05),
            Qt.Key.Key_Down: (0.0, -0.05),
        }.get(Qt.Key(event.key()))
        if event.key() == Qt.Key.Key_N and not event.modifiers():
            self.turn_north_up()
            return
        turn = {Qt.Key.Key_PageUp: -5.0, Qt.Key.Key_PageDown: 5.0}.get(Qt.Key(event.key()))
        if self.plan is None or (step is None and turn is None):
            super().keyPressEvent(event)
            return
        if turn is not None:
            heading = _snapped(self.plan.heading_deg + turn, 5.0)
            self.heading_dragged.emit(float(wrap_deg(heading)))
        elif step is not None:
            other = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            ahead, left = (self.plan.subject if other else self.plan.camera)[:2] + step
            (self.subject_dragged if other else self.camera_dragged).emit(round(float(ahead), 2), round(float(left), 2))
        self.drag_ended.emit()


def _snapped(value: float, step: float) -> float:
    return round(round(value / step) * step, 3)


def _distance(a: QPointF, b: QPointF) -> float:
    return math.hypot(a.x() - b.x(), a.y() - b.y())

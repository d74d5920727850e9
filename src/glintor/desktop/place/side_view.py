"""The placement from the side: heights, lean and the lowest obstacle overhead."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.figures import draw_carrier, draw_person
from glintor.desktop.charts.labels import Labels
from glintor.desktop.charts.sheet import Sheet
from glintor.placement.figures import carrying_person, cast
from glintor.placement.layout import CAMERA_HALF_M, CLEARANCE_M, Layout
from glintor.placement.outline import outlines

_BASE_PX, _OVER_PX = 19.0, 18.0  # under the lowest line, and over the highest thing
_LEAST_ACROSS_M = 4.0
_WORDY_PX = 230  # narrower, what heights count from is left to the line that says it
_DEEP_M = 8.0  # what lies farther down is off the sheet


class SideView(Sheet):
    """Seen from the right-hand side, way ahead to the right; heights over the water or the ground."""

    def __init__(self) -> None:
        super().__init__("Placement from the side", (150, 84), keyboard=False)
        self._plan: Layout | None = None
        self._lowest_m: float | None = None

    def show_plan(self, plan: Layout, lowest_m: float | None) -> None:
        """lowest_m: what hangs lowest over the water, None where nobody knows."""
        self._plan, self._lowest_m = plan, lowest_m
        self.update()

    # Where things are on the sheet; up_m counts from the carrier's surface, as a layout does
    @property
    def _afloat(self) -> bool:
        return self._plan is not None and self._plan.carrier.afloat

    @property
    def _low_m(self) -> float:
        """The lowest line: the water under a boat, the ground elsewhere, as far as it is not very far down."""
        assert self._plan is not None
        floor = -self._plan.carrier.floor_m
        if self._afloat:
            return floor
        seated = self._plan.subject_seat is not None
        return min(
            0.0, floor if floor > -_DEEP_M else 0.0, 0.0 if self._far or seated else float(self._plan.subject[2])
        )

    @property
    def _far(self) -> bool:
        """Whether the subject is a way or a view, which has no place on the sheet."""
        return self._plan is not None and self._plan.filmed[0].subject.far

    @property
    def _looked_at(self) -> tuple[float, float]:
        """How far ahead the subject is, and how high it reaches: the camera's own place where it is far off."""
        plan = self._plan
        assert plan is not None
        if not self._far:
            return float(plan.subject[0]), float(plan.head[2])
        return float(plan.camera[0]), float(plan.filmer_head[2])

    def _scale(self) -> float:
        plan = self._plan
        assert plan is not None
        top = max(float(plan.camera[2]) + 0.3, self._looked_at[1] + 0.2)
        if self._afloat and self._lowest_m is not None:
            top = max(top, self._lowest_m - plan.carrier.floor_m + 0.35)
        across = max(abs(float(plan.camera[0]) - self._looked_at[0]) + 2.0, _LEAST_ACROSS_M)
        return min((self.height() - _BASE_PX - _OVER_PX) / (top - self._low_m), self.width() / across)

    def _px(self, ahead: float, up: float) -> QPointF:
        plan, k = self._plan, self._scale()
        assert plan is not None
        middle = (float(plan.camera[0]) + self._looked_at[0]) / 2
        return QPointF(self.width() / 2 + (ahead - middle) * k, self.height() - _BASE_PX - (up - self._low_m) * k)

    def draw(self, p: QPainter) -> None:
        plan = self._plan
        if plan is None:
            return
        labels = Labels(p, (2.0, 22.0, self.width() - 2.0, self.height() - 2.0))
        base, origin = self._px(0.0, self._low_m).y(), self._px(0.0, 0.0)
        p.setPen(marks.pen("soft"))
        rise = plan.slope[0] * self._scale()  # pixels for each metre ahead
        left, right = ((x - origin.x()) / self._scale() * rise for x in (0.0, float(self.width())))
        p.drawLine(QPointF(0, base - left), QPointF(self.width(), base - right))
        ground = base if self._afloat or 0.0 < plan.carrier.floor_m < _DEEP_M else origin.y()
        if ground != base:  # the subject stands lower than what carries the camera
            p.drawLine(QPointF(0, ground), QPointF(self.width(), ground))
        draw_carrier(p, plan.carrier, "side", origin, self._scale())
        if plan.carrier_apart and (carrying := carrying_person(plan)) is not None:
            draw_person(p, outlines([carrying[0]], "side"), "soft", origin, self._scale())
        for number, (_, parts, _) in enumerate(cast(plan)):
            if not parts.empty:
                draw_person(p, outlines([parts], "side"), "soft" if number else "subject", origin, self._scale())
        head = self._px(*self._looked_at)
        labels.clear_of(head.x() - 10, head.y(), head.x() + 10, base)
        foot, camera = (self._px(float(at[0]), float(at[2])) for at in (plan.foot, plan.camera))
        p.setPen(marks.pen("ink", 2.2))
        p.drawLine(foot, camera)
        labels.off_line(foot, camera)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.colours()["course"])
        half = CAMERA_HALF_M * self._scale() + 4
        p.drawRect(QRectF(camera.x() - 4, camera.y() - half, 8, 2 * half))
        labels.clear_of(camera.x() - 6, camera.y() - half, camera.x() + 6, camera.y() + half)
        if self._afloat:
            self._room(p, plan, camera, labels)
        lens_m = float(plan.camera[2]) + plan.carrier.floor_m
        over = "" if self.width() < _WORDY_PX else " over the water" if self._afloat else " over the ground"
        labels.add(
            camera.x(),
            camera.y(),
            f"lens {lens_m:.2f} m{over}",
            gap=12.0,
            sides=("left", "right") if self._looked_at[0] > plan.camera[0] else ("right", "left"),
        )
        marks.text(p, 10, 14, "From the side", bold=True)
        marks.text(p, 10, ground + 8, "water" if self._afloat else "ground", colour="soft")
        labels.write()

    def _room(self, p: QPainter, plan: Layout, camera: QPointF, labels: Labels) -> None:
        """The lowest obstacle overhead, and the room between it and the camera."""
        if self._lowest_m is None:
            labels.add(self.width() - 8, 30.0, "overhead not known", colour="caution", gap=2.0, sides=("left", "below"))
            return
        lowest = self._lowest_m - plan.carrier.floor_m
        room = plan.clearance_m(self._lowest_m)
        line_y, top_y = self._px(0.0, lowest).y(), self._px(0.0, lowest - room).y()
        p.setPen(marks.pen("stop", 1.2, Qt.PenStyle.DashLine))
        p.drawLine(QPointF(0, line_y), QPointF(self.width(), line_y))
        labels.off_line(QPointF(0, line_y), QPointF(self.width(), line_y))
        side = 1 if plan.subject[0] < plan.camera[0] else -1
        x = camera.x() + 14 * side
        tight = "stop" if room < 0 else "caution" if room < CLEARANCE_M else "soft"
        p.setPen(marks.pen(tight, 1.2))
        p.drawLine(QPointF(x, top_y), QPointF(x, line_y))
        for y in (top_y, line_y):
            p.drawLine(QPointF(x - 4, y), QPointF(x + 4, y))
        labels.add(
            self.width() - 8,
            line_y,
            f"lowest obstacle {self._lowest_m:.2f} m",
            colour="stop",
            gap=2.0,
            sides=("above", "below", "left"),
        )
        words = f"{room:.2f} m left" if room >= 0 else f"{-room:.2f} m too high"
        labels.add(
            x, (top_y + line_y) / 2, words, colour=tight, sides=("right", "left") if side > 0 else ("left", "right")
        )

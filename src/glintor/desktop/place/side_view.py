"""The placement from the side: heights, lean and the lowest obstacle overhead."""

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPolygonF

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.sheet import Sheet
from glintor.placement.framing import PERSON_M
from glintor.placement.layout import CAMERA_HALF_M, CLEARANCE_M, Layout


class SideView(Sheet):
    """Seen from the right-hand side, way ahead to the right; heights over the water."""

    def __init__(self) -> None:
        super().__init__("Placement from the side", (340, 84), keyboard=False)
        self._plan: Layout | None = None
        self._lowest_m = 3.0

    def show_plan(self, plan: Layout, lowest_m: float) -> None:
        self._plan, self._lowest_m = plan, lowest_m
        self.update()

    def draw(self, p: QPainter) -> None:
        plan = self._plan
        if plan is None:
            return
        surface = plan.carrier.surface_m
        lens = surface + float(plan.camera[2])
        top = max(
            self._lowest_m + 0.35 if plan.carrier.id == "boat" else 0.0,
            lens + 0.3,
            surface + float(plan.subject[2]) + PERSON_M + 0.2,
        )
        k = min((self.height() - 34) / top, self.width() / 8.0)
        middle = float(plan.camera[0] + plan.subject[0]) / 2
        base = self.height() - 16

        def px(ahead: float, up: float) -> QPointF:
            return QPointF(self.width() / 2 + (ahead - middle) * k, base - up * k)

        p.setPen(marks.pen("soft"))
        p.drawLine(QPointF(0, base), QPointF(self.width(), base))
        marks.text(p, 10, base + 8, "water", colour="soft")
        p.setPen(marks.pen("ink", 1.3))
        p.setBrush(theme.colours()["sheet"])
        if plan.carrier.id == "boat":
            hull = [(-7.3, 0.05), (-7.3, 0.76), (5.0, 0.76), (7.5, 1.0), (6.6, 0.0), (-6.9, 0.0)]
            p.drawPolygon(QPolygonF([px(*c) for c in hull]))
            p.drawRect(QRectF(px(-5.2, surface), px(4.6, 0.76)))
            p.setPen(marks.pen("stop", 1.2, Qt.PenStyle.DashLine))
            y = px(0, self._lowest_m).y()
            p.drawLine(QPointF(0, y), QPointF(self.width(), y))
            marks.text(
                p,
                self.width() - 8,
                y - 9,
                f"lowest obstacle {self._lowest_m:.2f} m",
                colour="stop",
                align="right",
                halo=True,
            )
        else:
            y = px(0, surface).y()
            p.drawLine(QPointF(0, y), QPointF(self.width(), y))
        if plan.carrier_apart and plan.carrying is not None:
            self._person(p, px, float(plan.carrying[0]), surface, k, "line")
        self._person(p, px, float(plan.subject[0]), surface + float(plan.subject[2]), k, "subject")
        foot = px(float(plan.foot[0]), surface + float(plan.foot[2]))
        camera = px(float(plan.camera[0]), lens)
        p.setPen(marks.pen("ink", 2.2))
        p.drawLine(foot, camera)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.colours()["course"])
        p.drawRect(QRectF(camera.x() - 4, camera.y() - CAMERA_HALF_M * k - 4, 8, 2 * CAMERA_HALF_M * k + 8))
        self._heights(p, plan, camera, lens, px)
        marks.text(p, 10, 14, "From the side", bold=True, size=10)

    def _heights(self, p: QPainter, plan: Layout, camera: QPointF, lens_m: float, px: Callable[..., QPointF]) -> None:
        """The lens's height and the room over it, in words on the side where the subject is not."""
        side = 1 if plan.subject[0] < plan.camera[0] else -1
        align = "left" if side > 0 else "right"
        lens_y = camera.y()
        boat = plan.carrier.id == "boat"
        if boat:
            room = plan.clearance_m(self._lowest_m)
            x, top_y, line_y = camera.x() + 14 * side, px(0, self._lowest_m - room).y(), px(0, self._lowest_m).y()
            tight = "stop" if room < 0 else "caution" if room < CLEARANCE_M else "soft"
            p.setPen(marks.pen(tight, 1.2))
            p.drawLine(QPointF(x, top_y), QPointF(x, line_y))
            for y in (top_y, line_y):
                p.drawLine(QPointF(x - 4, y), QPointF(x + 4, y))
            room_y = max((top_y + line_y) / 2, line_y + 9)  # clear of the obstacle's line
            words = f"{room:.2f} m left" if room >= 0 else f"{-room:.2f} m too high"
            marks.text(p, x + 8 * side, room_y, words, colour=tight, align=align)
            lens_y = max(lens_y, room_y + 14)
        words = f"lens {lens_m:.2f} m over the water" if boat else f"lens {plan.camera[2]:.2f} m over the ground"
        marks.text(p, camera.x() + 10 * side, lens_y, words, align=align, halo=True)

    @staticmethod
    def _person(p: QPainter, px: Callable[..., QPointF], ahead: float, feet: float, k: float, colour: str) -> None:
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.colours()[colour])
        low, high = px(ahead - 0.17, feet), px(ahead + 0.17, feet + 0.84 * PERSON_M)
        p.drawRoundedRect(QRectF(low, high).normalized(), 0.14 * k, 0.14 * k)
        head = px(ahead, feet + 0.93 * PERSON_M)
        p.drawEllipse(head, 0.11 * k, 0.12 * k)

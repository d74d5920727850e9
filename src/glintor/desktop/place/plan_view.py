"""The placement from above as it is drawn: carrier, camera with its two lenses, seam, subject, sun and shadows."""

import math

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen, QPolygonF

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.figures import draw_carrier, draw_person
from glintor.desktop.charts.labels import Labels
from glintor.desktop.place.plan_sheet import LENS_PX, PlanSheet
from glintor.placement.figures import carrying_person, cast, subject_person
from glintor.placement.layout import START_FOV_DEG, Layout
from glintor.placement.outline import outlines
from glintor.placement.shadow import stick_shadow, subject_shadow
from glintor.sphere.angle import bearing_text

_HANDLE_PX = 5.0  # of the dot that stays on people who are drawn small
_WEDGE_PX, _ARROW_PX = 190.0, 110.0


class PlanView(PlanSheet):
    """Draws the placement from above."""

    def draw(self, p: QPainter) -> None:
        plan = self.plan
        if plan is None:
            return
        labels = Labels(p, (2.0, 40.0, self.width() - 2.0, self.height() - 2.0))
        self._grid(p)
        draw_carrier(p, plan.carrier, "above", self.px(0.0, 0.0), self.scale(), self.turn_deg)
        self._shadows(p, plan, labels)
        self._seam(p, plan)
        self._view_wedge(p, plan, labels)
        self._people(p, plan, labels)
        self._camera(p, plan, labels)
        self._sun(p, plan, labels)
        marks.text(p, 10, 14, "From above", bold=True)
        where = "to the right" if not self.north_up else "north up"
        marks.text(p, 10, 30, f"way ahead {bearing_text(plan.way_bearing_deg)}, {where}", colour="soft", halo=True)
        self._rule(p, labels)
        labels.write()

    def _rule(self, p: QPainter, labels: Labels) -> None:
        k = self.scale()
        length = 1.0 if k > 50 else 2.0 if k > 25 else 5.0
        right, y = self.width() - 14, self.height() - 12
        p.setPen(marks.pen("ink"))
        p.drawLine(QPointF(right - length * k, y), QPointF(right, y))
        for x in (right - length * k, right):
            p.drawLine(QPointF(x, y - 4), QPointF(x, y))
        labels.add(right - length * k, y, f"{length:g} m", sides=("left", "above"))

    def _grid(self, p: QPainter) -> None:
        """Metres to the right and down from the carrier's middle."""
        k, origin = self.scale(), self.px(0.0, 0.0)
        faint = theme.colours().sheer("line", 110)
        for n in range(int(self.width() / k) + 1):
            p.fillRect(round(origin.x() % k + n * k), 0, 1, self.height(), faint)
        for n in range(int(self.height() / k) + 1):
            p.fillRect(0, round(origin.y() % k + n * k), self.width(), 1, faint)

    def _shadows(self, p: QPainter, plan: Layout, labels: Labels) -> None:
        shade = theme.colours()["soft"]
        for points, width, words in (
            (subject_shadow(plan), 9.0, ""),
            (stick_shadow(plan), 3.0, "shadow of stick and camera"),
        ):
            if not len(points):
                continue
            xy = [self.px(a, n) for a, n, _ in points]
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
                end = self._inside(xy[-1])
                labels.add(end.x(), end.y(), words, colour="soft")

    def _inside(self, at: QPointF) -> QPointF:
        """The nearest place on the sheet: words of what ends outside stand at the edge."""
        return QPointF(min(max(at.x(), 2.0), self.width() - 2.0), min(max(at.y(), 44.0), self.height() - 10.0))

    def _seam(self, p: QPainter, plan: Layout) -> None:
        at, reach = self.px(*plan.camera[:2]), 3.0 * max(self.width(), self.height())
        half = math.radians(max(self.seam_deg, 1.5))
        x, y, _ = plan.axes[:, 0]
        if math.hypot(x, y) < 0.2:
            return  # the lenses look up and down: the seam lies level all round
        for side in (-90.0, 90.0):  # where the seam, which leans with the camera, comes to its height
            mid = math.atan2(y, x) - math.radians(side)
            corners = [at] + [at + self.pointing(mid + s, reach) for s in (-half, half)]
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(marks.hatch(theme.colours()["seam"]))
            p.drawPolygon(QPolygonF(corners))

    def _view_wedge(self, p: QPainter, plan: Layout, labels: Labels) -> None:
        at, view = self.px(*plan.camera[:2]), plan.start_view
        p.setPen(marks.pen("course", 1.5))
        for side in (-0.5, 0.5):
            turn = -math.radians(plan.heading_deg + view.yaw_deg + side * START_FOV_DEG)
            end = at + self.pointing(turn, _WEDGE_PX)
            p.drawLine(at, end)
            labels.off_line(at, end)

    def _people(self, p: QPainter, plan: Layout, labels: Labels) -> None:
        who = self.px(*plan.subject[:2])
        if plan.carrier_apart and (carrying := carrying_person(plan)) is not None:
            draw_person(p, outlines([carrying[0]], "above"), "soft", self.px(0.0, 0.0), self.scale(), self.turn_deg)
        if any(plan.goes_m):
            there = self.px(*plan.moved(1.0).subject[:2])
            p.setPen(marks.pen("subject", 1.6, Qt.PenStyle.DashLine))
            p.drawLine(who, there)
            p.setBrush(theme.colours()["sheet"])
            p.drawEllipse(there, 7, 7)
        for being, parts, _ in cast(plan)[1:]:
            if not parts.empty:
                draw_person(p, outlines([parts], "above"), "soft", self.px(0.0, 0.0), self.scale(), self.turn_deg)
                at = self.px(*plan.feet_of(being)[:2])
                labels.add(
                    at.x(), at.y(), being.subject.name, colour="soft", gap=14.0, sides=("below", "above", "right")
                )
        if plan.filmed[0].subject.far:
            self._direction(p, plan, labels)
            return
        solids = outlines([subject_person(plan)[0]], "above")
        draw_person(p, solids, "subject", self.px(0.0, 0.0), self.scale(), self.turn_deg)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.colours()["subject"])
        p.drawEllipse(who, _HANDLE_PX, _HANDLE_PX)
        every = np.concatenate([solid.corners for solid in solids])
        turn, k, middle = math.radians(self.turn_deg), self.scale(), self.px(0.0, 0.0)
        right = every @ [math.cos(turn), math.sin(turn)] * k + middle.x()
        down = every @ [math.sin(turn), -math.cos(turn)] * k + middle.y()
        box = QRectF(QPointF(right.min(), down.min()), QPointF(right.max(), down.max()))
        labels.clear_of(box.left(), box.top(), box.right(), box.bottom())
        gap = max(box.bottom() - who.y(), 8.0) + 3.0
        labels.add(
            who.x(), who.y(), self.name, colour="subject", bold=True, gap=gap, sides=("below", "above", "left", "right")
        )

    def _direction(self, p: QPainter, plan: Layout, labels: Labels) -> None:
        """The way or the view that is the subject: an arrow from the camera."""
        at = self.px(*plan.camera[:2])
        ahead, left = (plan.subject - plan.camera)[:2]
        way = math.atan2(float(left), float(ahead))
        end = at + self.pointing(way, _ARROW_PX)
        p.setPen(marks.pen("subject", 1.8))
        p.drawLine(at, end)
        for turn in (2.6, -2.6):
            p.drawLine(end, end + self.pointing(way + turn, 10.0))
        labels.add(end.x(), end.y(), self.name, colour="subject", bold=True, sides=("right", "below", "above", "left"))

    def _camera(self, p: QPainter, plan: Layout, labels: Labels) -> None:
        at, who, foot, lens = (
            self.px(*plan.camera[:2]),
            self.px(*plan.subject[:2]),
            self.px(*plan.foot[:2]),
            self.lens_point(),
        )
        far = plan.filmed[0].subject.far
        if not far:
            p.setPen(marks.pen("subject", 1.2, Qt.PenStyle.DotLine))
            p.drawLine(at, who)
            labels.off_line(at, who)
        p.setPen(marks.pen("ink", 2.2))
        p.drawLine(at, foot)
        p.setBrush(Qt.BrushStyle.NoBrush)
        for turn, style in ((0.0, Qt.PenStyle.SolidLine), (180.0, Qt.PenStyle.DashLine)):
            p.setPen(marks.pen("course", 1.2, style))
            start = -plan.heading_deg - self.turn_deg - turn - 90
            p.drawArc(QRectF(at.x() - LENS_PX, at.y() - LENS_PX, 2 * LENS_PX, 2 * LENS_PX), int(start * 16), 180 * 16)
        p.save()
        p.translate(at)
        p.rotate(plan.heading_deg + self.turn_deg)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.colours()["course"])
        p.drawRect(QRectF(-4.5, -8, 9, 16))
        p.restore()
        p.setBrush(theme.colours()["sheet"])
        p.setPen(marks.pen("course", 1.8))
        p.drawEllipse(lens, 5.5, 5.5)
        labels.clear_of(at.x() - 9, at.y() - 9, at.x() + 9, at.y() + 9)
        labels.clear_of(lens.x() - 7, lens.y() - 7, lens.x() + 7, lens.y() + 7)
        if not far:
            middle = (at + who) / 2
            labels.add(middle.x(), middle.y(), f"{plan.subject_m:.2f} m", gap=3.0, sides=("below", "above"))
        labels.add(lens.x(), lens.y(), "front lens", colour="course")

    def _sun(self, p: QPainter, plan: Layout, labels: Labels) -> None:
        dial = self.dial()
        p.setBrush(theme.colours()["sheet"])
        p.setPen(marks.pen("ink"))
        p.drawEllipse(dial, 34, 34)
        north = math.radians(self.turn_deg - plan.way_bearing_deg)
        tip = QPointF(math.cos(north), math.sin(north))
        p.drawLine(dial + tip * 30, dial + tip * 38)
        marks.text(p, (dial + tip * 45).x(), (dial + tip * 45).y(), "N", align="middle")
        sun = self.sun_point()
        p.setPen(marks.pen("sun", 2))
        p.drawLine(dial, sun)
        p.setBrush(theme.colours()["sun"])
        p.drawEllipse(sun, 6.5, 6.5)
        labels.clear_of(dial.x() - 50, dial.y() - 50, dial.x() + 50, dial.y() + 46)
        hidden = ", hidden" if plan.sun.elevation_deg > 0.0 and not plan.sun.shines else ""
        words = f"sun {bearing_text(plan.sun.azimuth_deg)}, {plan.sun.elevation_deg:.0f}° high{hidden}"
        labels.add(dial.x() + 44, dial.y() + 40, words, colour="sun", sides=("right", "below"))

"""Expose: what settings, and what will break."""

from collections.abc import Sequence

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.sheet import Sheet
from glintor.desktop.controls import Chips, Figures, Number, button, label, row
from glintor.desktop.desk import Desk
from glintor.desktop.document import Document
from glintor.desktop.expose.ladder import Ladder
from glintor.desktop.jobs import Jobs, Newest
from glintor.desktop.sphere_view import SphereMarks, SphereView
from glintor.exposure import flicker, motion
from glintor.exposure.metering import Light
from glintor.exposure.review import FRAME_PX_PER_DEG, PAN_DEG_S
from glintor.exposure.solve import ND_STOPS, solve
from glintor.exposure.values import ev100, nd_text, shutter_s
from glintor.finding import Cure, Finding
from glintor.project.kit import USUAL_CARD_GB
from glintor.project.model import Camera, Exposure, Project, Shot
from glintor.recording.power import card_min
from glintor.review import exposing, light_of_shot
from glintor.simulation.foresight import foresight
from glintor.simulation.sensor import CURVES

_RATES = (24.0, 25.0, 30.0, 50.0, 100.0)
_ISOS = (100.0, 200.0, 400.0, 800.0, 1600.0, 3200.0)


class BudgetBars(Sheet):
    """What the day's shots take of one battery and one card."""

    def __init__(self) -> None:
        super().__init__("Battery and card", (300, 64), keyboard=False)
        self.setMaximumHeight(70)
        self._bars: list[tuple[str, float, float, str]] = []

    def show_budget(self, project: Project, shot: Shot) -> None:
        day = sum(s.length_min for s in project.planned)
        from glintor.plan.timetable import battery_of

        full_min, card_gb = battery_of(project), project.kit.smallest("card", USUAL_CARD_GB)
        card = card_min(card_gb * 1e9, project.camera_of(shot).mbit_s)
        gigabytes = project.camera_of(shot).mbit_s * 60.0 / 8000.0
        battery = f"{shot.length_min:.0f} of {full_min:.0f} min · day {day / full_min:.1f} batteries"
        space = f"{shot.length_min * gigabytes:.0f} of {card_gb:.0f} GB · day {day * gigabytes:.0f} GB"
        self._bars = [
            ("battery", shot.length_min / full_min, day / full_min, battery),
            ("card", shot.length_min / card, day / card, space),
        ]
        self.update()

    def draw(self, p: QPainter) -> None:
        for number, (name, shot, day, words) in enumerate(self._bars):
            y, left, width = 14 + number * 30, 64, min(200.0, self.width() * 0.34)
            marks.text(p, 10, y + 4, name, colour="soft")
            p.setPen(marks.pen("ink"))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(QRectF(left, y - 2, width, 12))
            p.fillRect(QRectF(left, y - 2, width * min(day, 1.0), 12), marks.hatch(theme.colours()["soft"]))
            p.fillRect(
                QRectF(left, y - 2, width * min(shot, 1.0), 12), theme.colours()["stop" if shot > 1 else "course"]
            )
            marks.text(p, left + width + 10, y + 4, words)


class ExposeDesk(Desk):
    """The ladder, the settings beside it, and what follows from them."""

    name = "Expose"
    plans = True

    def __init__(self, document: Document, jobs: Jobs, parent: QWidget) -> None:
        super().__init__(document, jobs, parent)
        self.ladder = Ladder()
        self.rate = Chips("Rate", [(r, f"{r:g}") for r in _RATES])
        self.shutter = Number("Shutter 1/", " s", 2, 8000, 10, 0)
        self.iso = Chips("ISO", [(i, f"{i:g}") for i in _ISOS])
        self.nd = Chips("Filter", [(n, nd_text(n)) for n in ND_STOPS])
        self.curve = Chips("Curve", [(c, c) for c in CURVES])
        self.angle = Number("Shutter angle wanted", "°", 45, 360, 45, 0)
        self.angle.show_value(180.0)
        self.interval = Number("One frame every", " s", 0, 120, 1, 1, least="off")
        self.solve = button(
            "Solve for this light", self._solve, main=True, tip="Shutter, ISO and filter for the metered light"
        )
        self.figures = Figures(("shutter angle", "blur at 30°/s", "gap between", "lamps", "against light"))
        self.figures2 = Figures(("front to rear", "scene holds", "frame holds"))
        self.picture = SphereView("The sphere at this setting", (240, 60))
        self.bars = BudgetBars()
        self._worker = Newest("exposed picture", jobs.trouble.emit)
        self._worker.finished.connect(lambda _key, pixels: self.picture.show_sphere(marks.image(pixels), SphereMarks()))
        self._meter = Newest("light meter", jobs.trouble.emit)
        self._meter.finished.connect(self._metered)
        self._light: tuple[object, Light] | None = None
        self._asked: object = None
        self._findings: list[Finding] = []
        self._lay()
        self._connect()

    def _lay(self) -> None:
        page = QHBoxLayout(self)
        page.setContentsMargins(14, 8, 14, 8)
        page.setSpacing(12)
        page.addWidget(self.ladder, 4)
        side = QVBoxLayout()
        side.setSpacing(8)
        side.addWidget(self.picture, 1)
        side.addWidget(self.figures)
        side.addWidget(self.figures2)
        grid = QGridLayout()
        grid.setSpacing(7)
        for at, (first, second) in enumerate(
            ((self.rate, self.shutter), (self.iso, None), (self.nd, None), (self.curve, self.interval))
        ):
            grid.addLayout(row(first, second) if second is not None else row(first), at, 0)
        side.addLayout(grid)
        side.addLayout(row(self.angle, self.solve))
        side.addWidget(label("What one battery and one card take", "soft"))
        side.addWidget(self.bars)
        page.addLayout(side, 6)

    def _connect(self) -> None:
        edit = self.document.edit_exposure
        self.rate.chosen.connect(lambda v: edit("Set the frame rate", rate_fps=v))
        self.shutter.edited.connect(lambda v: edit("Set the shutter", shutter_s=1.0 / v))
        self.iso.chosen.connect(lambda v: edit("Set ISO", iso=v))
        self.nd.chosen.connect(lambda v: edit("Set the filter", nd_stops=v))
        self.curve.chosen.connect(lambda v: edit("Choose the curve", curve=v))
        self.interval.edited.connect(lambda v: edit("Set the interval", interval_s=v))
        self.ladder.window_dragged.connect(self._drag)
        self.ladder.drag_ended.connect(self.document.end_gesture)

    def _drag(self, ev: float) -> None:
        e, camera = self.document.shot.exposure, self.document.camera
        time = shutter_s(ev, camera.f_number, iso=e.iso, nd_stops=e.nd_stops)
        longest = e.interval_s or 1.0 / e.rate_fps
        held = min(max(time, camera.shutter_min_s), longest)
        self.document.edit_exposure("Move the exposure", "drag-ladder", shutter_s=held)

    def _solve(self) -> None:
        project, shot = self.document.project, self.document.shot
        if self._light is None:
            return
        best = solve(
            self._light[1].mean,
            shot.exposure.rate_fps,
            project.camera_of(shot).sensor,
            angle_deg=self.angle.box.value(),
        )
        self.document.edit_exposure(
            "Solve the exposure", shutter_s=best.shutter_s, iso=round(best.iso), nd_stops=best.nd_stops
        )

    def apply(self, cure: Cure) -> None:
        if cure.field == "exposure.solve":
            self.angle.show_value(180.0)
            self._solve()
        else:
            super().apply(cure)

    def refresh(self) -> None:
        project, shot = self.document.project, self.document.shot
        e, camera = shot.exposure, project.camera_of(shot)
        place = (shot.placement, shot.start_min, camera, project.site)
        if self._light is None or self._light[0] != place:
            self._meter.ask(place, lambda: light_of_shot(project, shot))
            if self._light is None:
                return
        light = self._light[1]
        setting = float(ev100(camera.f_number, e.shutter_s, iso=e.iso, nd_stops=e.nd_stops))
        self.ladder.show_light(light, setting, camera.stops)
        self.rate.show_value(e.rate_fps)
        self.shutter.show_value(1.0 / e.shutter_s)
        self.iso.show_value(e.iso)
        self.nd.show_value(e.nd_stops)
        self.curve.show_value(e.curve)
        self.interval.show_value(e.interval_s)
        self._show_figures(e, light, setting, camera, project.site.mains_hz)
        self.bars.show_budget(project, shot)
        self._findings = exposing(project, shot, light)
        self.findings_changed.emit()
        key = (shot.placement, shot.start_min, e, camera, project.site)
        if key != self._asked:
            self._asked = key
            self._worker.ask(key, lambda: foresight(shot, project.site, camera, 960)[0])

    def _metered(self, place: object, light: Light) -> None:
        self._light = (place, light)
        self.refresh()

    def _show_figures(self, e: Exposure, light: Light, setting: float, camera: Camera, mains_hz: float) -> None:
        show, show2 = self.figures.show_value, self.figures2.show_value
        show("shutter angle", f"{motion.shutter_angle_deg(e.rate_fps, e.shutter_s):.0f}°")
        show("blur at 30°/s", f"{motion.blur_px(PAN_DEG_S, e.shutter_s, FRAME_PX_PER_DEG):.1f} px")
        show("gap between", f"{motion.stutter_px(PAN_DEG_S, e.rate_fps, e.shutter_s, FRAME_PX_PER_DEG):.1f} px")
        safe = flicker.is_safe(mains_hz, e.shutter_s)
        beat = flicker.beat_hz(mains_hz, e.rate_fps)
        show("lamps", "steady" if safe else f"beat {beat:.0f} Hz" if beat > 0.5 else "bands")
        show("against light", f"{light.mean - setting:+.1f} stops")
        show2("front to rear", f"{light.step:.1f} of 2 stops")
        show2("scene holds", f"{light.span:.1f} stops")
        show2("frame holds", f"{camera.stops:.0f} stops")

    @property
    def settled(self) -> bool:
        return self._worker.idle and self._meter.idle

    def findings(self) -> Sequence[Finding]:
        return self._findings

    def close_down(self) -> None:
        self._worker.close()
        self._meter.close()

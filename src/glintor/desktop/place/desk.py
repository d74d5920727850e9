"""Place: where the camera goes, on what, turned which way, and when; and the picture that it will give."""

from collections.abc import Sequence

import msgspec
import numpy as np
from PyQt6.QtWidgets import QComboBox, QGridLayout, QVBoxLayout

from glintor.desktop.charts import marks
from glintor.desktop.controls import Chips, Figures, Number, label, row
from glintor.desktop.desk import Desk
from glintor.desktop.document import Document
from glintor.desktop.jobs import Jobs, Newest
from glintor.desktop.pictures import FrameView, SphereMarks, SphereView
from glintor.desktop.place.plan_view import PlanView
from glintor.desktop.place.side_view import SideView
from glintor.export.formats import FORMATS
from glintor.exposure.solve import solve
from glintor.finding import Finding
from glintor.placement import seam
from glintor.placement.carriers import CARRIERS
from glintor.placement.layout import Layout
from glintor.placement.mounts import SETUPS, held_in_reach, setup_by_id
from glintor.project.model import Camera, Placement, Project, Shot, Site
from glintor.project.sky import sun_of
from glintor.reframing.path import Keyframe, ViewPath, focal_scale
from glintor.review import layout_of, light_of_shot, placing
from glintor.sphere.view import View, vertical_fov_deg

_STAGE_WORDS = {
    "wharf": "Fennel Wharf",
    "towpath": "the towpath",
    "cobdale": "Cobdale bridge and tunnel",
    "lock": "Pell Lock",
}
_QUICK_PX, _FULL_PX = 480, 1280
_FIRST = "Drawing the place. The very first time takes about half a minute."


class PlaceDesk(Desk):
    """Plan and side view on the left, the foresight on the right; everything follows a drag at once."""

    name = "Place"

    def __init__(self, document: Document, jobs: Jobs) -> None:
        super().__init__(document, jobs)
        self.plan, self.side = PlanView(), SideView()
        self.sphere = SphereView("Foresight: the sphere this placement gives", (300, 150), empty=_FIRST)
        self.frames = {
            shape.name: FrameView(f"Foresight {shape.name}", shape.size_px, (90, 120), hand=False) for shape in FORMATS
        }
        self.figures = Figures(("seam at Mira", "stick off line", "Mira in 16:9", "head : feet"))
        self.setups = Chips("Set-up", [(s.id, s.words.split(",")[0]) for s in SETUPS])
        self.sticks = Chips("Stick", [])
        self.stage = QComboBox()
        self.stage.setAccessibleName("Where")
        for stage in _STAGE_WORDS:
            self.stage.addItem(_STAGE_WORDS[stage], stage)
        self.heading = Number("Front lens", "°", -180, 180, 5, 0)
        self.lean = Number("Lean", "°", -60, 60, 1, 0)
        self.tilt = Number("Joint", "°", -30, 30, 0.1)
        self._worker = Newest("foresight")
        self._worker.finished.connect(self._show_foresight)
        self._asked: object = None
        self._findings: list[Finding] = []
        self._lay()
        self._connect()

    def _lay(self) -> None:
        grid = QGridLayout(self)
        grid.setContentsMargins(14, 8, 14, 8)
        grid.setSpacing(8)
        left = QVBoxLayout()
        left.setSpacing(8)
        left.addWidget(self.plan, 5)
        left.addWidget(self.side, 2)
        where = label("Where", "soft")
        where.setBuddy(self.stage)
        left.addLayout(row(self.setups))
        left.addLayout(row(self.sticks, self.heading))
        left.addLayout(row(where, self.stage, self.lean, self.tilt, spacing=8))
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addWidget(self.sphere, 5)
        pictures = row(*self.frames.values(), stretch=False, spacing=8)
        pictures.setStretch(0, 3)
        pictures.setStretch(1, 1)
        right.addLayout(pictures, 5)
        right.addWidget(self.figures)
        grid.addLayout(left, 0, 0)
        grid.addLayout(right, 0, 1)
        grid.setColumnStretch(0, 1)
        grid.setColumnStretch(1, 1)

    def _connect(self) -> None:
        edit = self.document.edit_placement
        self.plan.camera_dragged.connect(self._move_camera)
        self.plan.subject_dragged.connect(
            lambda a, n: edit("Move the subject", "drag-subject", subject_ahead_m=a, subject_left_m=n)
        )
        self.plan.heading_dragged.connect(lambda deg: edit("Turn the camera", "drag-lens", heading_deg=deg))
        self.plan.sun_dragged.connect(self._move_sun)
        self.plan.drag_ended.connect(self.document.end_gesture)
        self.setups.chosen.connect(self._choose_setup)
        self.sticks.chosen.connect(self._choose_stick)
        self.stage.activated.connect(lambda at: edit("Choose the place", stage=self.stage.itemData(at)))
        self.heading.edited.connect(lambda v: edit("Turn the camera", heading_deg=v))
        self.lean.edited.connect(lambda v: edit("Lean the stick", lean_deg=v))
        self.tilt.edited.connect(lambda v: edit("Set the joint", tilt_deg=v))
        self.sphere.clicked.connect(self._face)
        self.sphere.look_ended.connect(self.document.end_gesture)

    # Gestures
    def _move_camera(self, ahead: float, left: float) -> None:
        placement = self.document.shot.placement
        setup = setup_by_id(placement.setup)
        ahead, left = held_in_reach(setup, placement.stick_m, ahead, left, placement.lean_deg)
        self.document.edit_placement("Move the camera", "drag-camera", ahead_m=round(ahead, 3), left_m=round(left, 3))

    def _move_sun(self, azimuth_deg: float) -> None:
        minutes = np.arange(300, 1320, 5)
        sky = [sun_of(self.document.project.site, float(m)) for m in minutes]
        off = [abs((s.azimuth_deg - azimuth_deg + 180) % 360 - 180) + (0 if s.elevation_deg > 0 else 400) for s in sky]
        minute = float(minutes[int(np.argmin(off))])
        self.document.edit_shot("Choose the time", lambda s: msgspec.structs.replace(s, start_min=minute), "drag-sun")

    def _choose_setup(self, setup_id: object) -> None:
        setup = setup_by_id(str(setup_id))
        placement = self.document.shot.placement
        values: dict[str, object] = {"setup": setup.id, "stick_m": setup.sticks_m[1]}
        old = setup_by_id(placement.setup)
        if old.carrier != setup.carrier:
            ahead, left, up = CARRIERS[setup.carrier].subject_m
            values |= {"subject_ahead_m": ahead, "subject_left_m": left, "subject_up_m": up}
            beside = {"boat": (-3.2, 0.74), "walker": (0.9, 0.05), "ground": (0.0, 0.0)}[setup.carrier]
            values |= {
                "ahead_m": beside[0],
                "left_m": beside[1],
                "heading_deg": 0.0 if setup.carrier == "ground" else 180.0,
            }
        ahead_m = float(values.get("ahead_m", placement.ahead_m))  # type: ignore[arg-type]
        left_m = float(values.get("left_m", placement.left_m))  # type: ignore[arg-type]
        reach = held_in_reach(setup, setup.sticks_m[1], ahead_m, left_m, placement.lean_deg)
        self.document.edit_placement("Choose the set-up", **(values | {"ahead_m": reach[0], "left_m": reach[1]}))

    def _choose_stick(self, stick_m: float) -> None:
        placement = self.document.shot.placement
        ahead, left = held_in_reach(
            setup_by_id(placement.setup), stick_m, placement.ahead_m, placement.left_m, placement.lean_deg
        )
        self.document.edit_placement("Choose the stick", stick_m=stick_m, ahead_m=ahead, left_m=left)

    def _face(self, yaw_deg: float, _pitch: float) -> None:
        """A click on the sphere turns the front lens there."""
        heading = (self.document.shot.placement.heading_deg + yaw_deg + 180) % 360 - 180
        self.document.edit_placement("Turn the camera", heading_deg=round(heading, 1))

    # Drawing
    def refresh(self) -> None:
        project, shot = self.document.project, self.document.shot
        placement, camera = shot.placement, project.camera
        plan = layout_of(project.site, placement, shot.start_min)
        band = seam.seam_band_deg(
            plan.subject_m, gap_m=camera.gap_m, width_px=camera.width_px, overlap_deg=camera.overlap_deg
        )
        self.plan.show_plan(plan, band)
        self.side.show_plan(plan, project.site.lowest_m)
        self.setups.show_value(placement.setup)
        self.sticks.set_options([(s, f"{s:g} m") for s in setup_by_id(placement.setup).sticks_m])
        self.sticks.show_value(placement.stick_m)
        self.stage.setCurrentIndex(self.stage.findData(placement.stage))
        self.heading.show_value(180.0 - (180.0 - placement.heading_deg) % 360.0)
        self.lean.show_value(placement.lean_deg)
        self.tilt.show_value(placement.tilt_deg)
        self._show_figures(plan, camera, placement)
        self.sphere.show_marks(self._marks(plan, band))
        self._findings = placing(project, shot)
        self.findings_changed.emit()
        self._ask_foresight(shot, project.site, camera)

    def _show_figures(self, plan: Layout, camera: Camera, placement: Placement) -> None:
        px = seam.seam_offset_px(plan.subject_m, gap_m=camera.gap_m, width_px=camera.width_px)
        limit = seam.hidden_tilt_deg(placement.stick_m, gap_m=camera.gap_m, half_thickness_m=plan.setup.half_width_m)
        self.figures.show_value("seam at Mira", f"{px:.0f} px of {seam.SEAM_LIMIT_PX:.0f}")
        self.figures.show_value("stick off line", f"{abs(placement.tilt_deg):.1f}° of {limit:.1f}°")
        share = plan.person_deg / vertical_fov_deg(plan.start_view, FORMATS[0].size_px)
        self.figures.show_value("Mira in 16:9", f"{share:.0%}")
        self.figures.show_value("head : feet", f"{plan.head_to_feet:.2f}")

    @staticmethod
    def _marks(plan: Layout, band_deg: float) -> SphereMarks:

        subject = plan.chest_yaw_pitch_deg
        shadow = plan.directions(plan.stick_shadow()) if plan.sun.elevation_deg > 1 else None
        sun = plan.sun_yaw_pitch_deg if plan.sun.elevation_deg > 0 else None
        outlines = [(_for_shape(plan.start_view, shape.size_px), shape.size_px, shape.name) for shape in FORMATS]

        return SphereMarks(outlines=outlines, seam_deg=band_deg, subject=subject, sun=sun, shadow=shadow)

    def _ask_foresight(self, shot: Shot, site: Site, camera: Camera) -> None:
        key = (shot.placement, shot.start_min, site, camera)
        if key == self._asked:
            return
        self._asked = key
        view = layout_of(site, shot.placement, shot.start_min).start_view
        self._worker.ask((key, _QUICK_PX), lambda: _foresee(shot, site, camera, view, _QUICK_PX))

    def _show_foresight(self, key: object, value: object) -> None:
        (wanted, width), (sphere, frames, view) = key, value  # type: ignore[misc]
        self.sphere.show_picture(marks.image(sphere))
        for name, frame in frames.items():
            shape = next(f for f in FORMATS if f.name == name)
            self.frames[name].show_frame(marks.image(frame), f"{name} · {_for_shape(view, shape.size_px).fov_deg:.0f}°")
        if wanted == self._asked and width < _FULL_PX:
            shot, site, camera = self.document.shot, self.document.project.site, self.document.project.camera
            self._worker.ask((wanted, _FULL_PX), lambda: _foresee(shot, site, camera, view, _FULL_PX))
        elif width >= _FULL_PX:
            self.said.emit("Foresight drawn")

    @property
    def settled(self) -> bool:
        """Whether the foresight shows the present placement in full."""
        return self._worker.idle

    def findings(self) -> Sequence[Finding]:
        return self._findings

    def close_down(self) -> None:
        self._worker.close()


def _for_shape(view: View, size_px: tuple[int, int]) -> View:
    return ViewPath([Keyframe.of(0.0, view)], focal_scale=focal_scale(size_px)).at(0.0)


def _foresee(shot: Shot, site: Site, camera: Camera, view: View, width_px: int):  # type: ignore[no-untyped-def]
    """The sphere and each format's frame, exposed so that the place can be seen whatever the shot is set to."""
    from glintor.pixels.reproject import Filter, Reprojector
    from glintor.simulation.foresight import foresight

    light = light_of_shot(Project(site=site, camera=camera), shot)
    fit = solve(light.mean, shot.exposure.rate_fps, camera.sensor)
    exposure = msgspec.structs.replace(shot.exposure, shutter_s=fit.shutter_s, iso=fit.iso, nd_stops=fit.nd_stops)
    sphere, _, _ = foresight(shot, site, camera, width_px, exposure=exposure)
    frames = {}
    for shape in FORMATS:
        small = (640, 360) if shape.size_px[0] > shape.size_px[1] else (270, 480)
        frames[shape.name] = Reprojector(small, Filter.FAST).draw_rgb(sphere, _for_shape(view, shape.size_px))
    return sphere, frames, view

"""Place: where the camera goes, on what, turned which way, and when; and the picture that it will give."""

from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import Any

import msgspec
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QPushButton, QWidget

from glintor.desktop.charts import marks
from glintor.desktop.document import Document
from glintor.desktop.jobs import Jobs, Newest
from glintor.desktop.place.board import FIGURES, SUBJECT
from glintor.desktop.place.foresee import frames_of, sphere_of
from glintor.desktop.place.sheets import PlaceSheets
from glintor.desktop.sphere_view import SphereMarks
from glintor.export.formats import FORMATS, LANDSCAPE
from glintor.finding import Finding
from glintor.placement import seam
from glintor.placement.carrier import ready_carriers
from glintor.placement.framing import size_words
from glintor.placement.layout import Layout, axis_of
from glintor.placement.review_picture import seam_tear
from glintor.placement.scenery import UNKNOWN
from glintor.placement.shadow import shines, stick_shadow
from glintor.placement.sight import drawn_px
from glintor.project.facts import place_words
from glintor.project.model import Camera, Shot
from glintor.project.placed import given_of, in_reach, mode_width_px, placing, plan_of, set_up
from glintor.project.site import Placement, Site
from glintor.project.sky import minute_of_azimuth
from glintor.reframing.path import Keyframe
from glintor.review import placing_there
from glintor.sphere.angle import wrap_deg
from glintor.sphere.view import View, for_shape, true_width_px

_QUICK_PX, _FULL_PX = 480, 1280
_MOST_SHARE = 3.0  # of the frame's height; more is one large blur
_EDGES_PX = 26  # of a button, beside its words
_MANY = 5  # sticks, which would not fit with a unit each
_PAINT_S = 0.06  # the charts are painted before their foresight takes half of the machine


class PlaceDesk(PlaceSheets):
    """Where the camera goes; everything follows a drag at once."""

    def __init__(self, document: Document, jobs: Jobs, parent: QWidget) -> None:
        super().__init__(document, jobs, parent)
        self._moment = "opening"
        self._worker = Newest("foresight", jobs.trouble.emit)
        self._worker.finished.connect(self._show_foresight)
        self._asked: object = None
        self._over = SphereMarks()
        self._shown = View()
        self._plan: Layout | None = None  # of the present document
        self._findings: list[Finding] = []
        self._judged = False  # whether they are of the present document
        self._place_known = False  # from the first foresight on, what stands there is asked too
        self._connect()

    def _connect(self) -> None:
        edit = self.document.edit_placement
        subject = self.document.edit_subject
        self.plan.camera_dragged.connect(
            lambda a, n: self._place_camera("Move the camera", "drag-camera", ahead_m=a, left_m=n)
        )
        self.plan.subject_dragged.connect(lambda a, n: subject("Move the subject", "drag-subject", ahead_m=a, left_m=n))
        self.plan.heading_dragged.connect(lambda deg: edit("Turn the camera", "drag-lens", heading_deg=deg))
        self.plan.sun_dragged.connect(self._move_sun)
        self.plan.drag_ended.connect(self.document.end_gesture)
        self.setups.activated.connect(lambda at: self._choose_setup(self.setups.itemData(at)))
        for field, number in self.exact.items():
            number.edited.connect(partial(self._set_exact, field))
        self.moment.chosen.connect(self._show_moment)
        self.frames[LANDSCAPE.name].view_turned.connect(self._turn_view)
        self.frames[LANDSCAPE.name].turn_ended.connect(self.document.end_gesture)
        self.sticks.chosen.connect(lambda m: self._place_camera("Choose the stick", stick_m=m))
        self.heading.edited.connect(lambda v: edit("Turn the camera", heading_deg=v))
        self.lean.edited.connect(lambda v: edit("Lean the stick", lean_deg=v))
        self.tilt.edited.connect(lambda v: edit("Set the joint", tilt_deg=v))
        self.sphere.clicked.connect(self._face)
        self.sphere.look_ended.connect(self.document.end_gesture)

    # Gestures
    def _place_camera(self, words: str, gesture: object = None, **values: object) -> None:
        """Puts the camera somewhere, as near as this set-up can hold it."""
        now = self.document.shot.placement
        placement = in_reach(self.document.project.site, msgspec.structs.replace(now, **values))
        if placement == now:
            self.refresh()  # what cannot be reached springs back
        self.document.edit_shot(words, lambda s: msgspec.structs.replace(s, placement=placement), gesture)

    def _move_sun(self, azimuth_deg: float) -> None:
        minute = minute_of_azimuth(self.document.project.site, azimuth_deg)
        self.document.edit_shot("Choose the time", lambda s: msgspec.structs.replace(s, start_min=minute), "drag-sun")

    def _choose_setup(self, setup_id: object) -> None:
        setup, _, on = str(setup_id).partition("@")
        placement = set_up(self.document.project.site, self.document.shot.placement, setup, on)
        self.document.edit_shot("Choose the set-up", lambda s: msgspec.structs.replace(s, placement=placement))

    def _set_exact(self, field: str, metres: float) -> None:
        if field.startswith(SUBJECT):
            moved: dict[str, Any] = {field.removeprefix(SUBJECT): metres}
            self.document.edit_subject("Move the subject", **moved)
        else:
            self._place_camera("Move the camera", **{field: metres})

    def _show_moment(self, moment: object) -> None:
        self._moment = str(moment)
        self.refresh()

    def _turn_view(self, view: object, only_look: bool) -> None:
        """A hand on the 16:9 frame sets the view that the shot opens or closes with."""
        assert isinstance(view, View)
        if not only_look:
            key = Keyframe.of(0.0, view)
            words = "Set the opening view" if self._moment == "opening" else "Set the closing view"
            self.document.edit_shot(words, lambda s: msgspec.structs.replace(s, **{self._moment: key}), "turn-view")

    def _face(self, yaw_deg: float, _pitch: float) -> None:
        """A click on the sphere turns the front lens there."""
        heading = float(wrap_deg(self.document.shot.placement.heading_deg + yaw_deg))
        self.document.edit_placement("Turn the camera", heading_deg=round(heading, 1))

    # Drawing
    def refresh(self) -> None:
        project, shot = self.document.project, self.document.shot
        placement, camera = shot.placement, project.camera_of(shot)
        self._plan = plan = plan_of(project, shot)
        band = seam.seam_band_deg(
            plan.subject_m, gap_m=camera.gap_m, width_px=self._width_px(), overlap_deg=camera.overlap_deg
        )
        self.plan.show_plan(plan, band, placement.subject.name)
        self.side.show_plan(plan, project.site_of(shot).lowest_m)
        self._show_setup(plan, placement)
        self.sticks.show_value(placement.stick_m)
        _name(self.stage, "At", place_words(project.site, placement.stage))
        _name(self.ride, "On", plan.carrier.words)
        _name(self.who, "Who", ", ".join(one.name for one in placement.subjects))
        self.heading.show_value(180.0 - (180.0 - placement.heading_deg) % 360.0)
        self.lean.show_value(placement.lean_deg)
        self.tilt.show_value(placement.tilt_deg)
        for field, number in self.exact.items():
            whose = placement.subject if field.startswith(SUBJECT) else placement
            number.show_value(getattr(whose, field.removeprefix(SUBJECT)))
        self.moment.show_value(self._moment)
        for name, frame in self.frames.items():
            frame.setVisible(name in shot.aspects)
        self._shown = view = self._view(shot, plan)
        self.frames[LANDSCAPE.name].show_view(view)
        self._show_figures(plan, camera, placement)
        said = _seen_in(project.site, placement.stage)
        self._over = self._marks(plan, band, view, shot.aspects, placement.subject.name, said)
        if not self.document.in_gesture:  # else they come with their picture, a few times a second
            self.sphere.show_marks(self._over)
        self._judged = False
        self.jobs.by_turns(self._judge)
        self.jobs.when_seen(self._ask_foresight, longer=True)

    def follow(self) -> None:
        self.refresh()

    def _show_setup(self, plan: Layout, placement: Placement) -> None:
        setup, own = plan.setup, self.document.project.site.carriers
        self.offer_setups(plan.carrier, {c.id: c.words for c in (*ready_carriers().values(), *own)})
        self.show_setup(setup.id, placement.on)
        told = setup.hand is not None or setup.hold_min == float("inf")  # of a hand the finding tells how long
        lasts = "" if told else f" Usually held {setup.hold_min:g} min."
        words = f"Shows {setup.shows}.{lasts} Cure: {setup.cure}"
        self.shows.show_words(words)
        self.setups.setToolTip(words)
        self.sticks.set_options(_stick_words(setup.sticks_m))

    def _view(self, shot: Shot, plan: Layout) -> View:
        """The view that the frames show: what was chosen for the start or end, else the natural one."""
        chosen, there = (shot.closing, plan.moved(1.0)) if self._moment == "closing" else (shot.opening, plan)
        return there.start_view if chosen is None else chosen.view

    def _judge(self) -> None:
        explained = {finding.kind: finding.explained for finding in self.findings()}
        for name, kind in FIGURES.items():
            self.figures.explain(name, explained.get(kind, ""))
        self.findings_changed.emit()

    def _found(self) -> list[Finding]:
        """Everything found; while a hand drags, only what the moment itself says, and the rest when it lets go."""
        project, shot = self.document.project, self.document.shot
        if self.document.in_gesture:
            from glintor.placement.review import quick_findings

            return quick_findings(self._plan or plan_of(project, shot), given_of(project, shot))
        from glintor.plan.timetable import time_findings
        from glintor.plan.variety import variety_finding

        variety = variety_finding(project, shot)
        placed = placing_there(project, shot) if self._place_known else placing(project, shot)
        return placed + time_findings(project, shot) + ([] if variety is None else [variety])

    def _show_figures(self, plan: Layout, camera: Camera, placement: Placement) -> None:
        tear = seam_tear(plan, given_of(self.document.project, self.document.shot))
        limit = seam.hidden_tilt_deg(placement.stick_m, gap_m=camera.gap_m, half_thickness_m=plan.setup.half_width_m)
        share = drawn_px(plan, plan.start_view, LANDSCAPE.size_px) / LANDSCAPE.size_px[1]
        self.figures.show_value(
            "seam at subject", f"{tear.px:.1f} px, {tear.part}" if tear.px >= 0.05 else f"{tear.off_deg:.0f}° off"
        )
        self.figures.show_value(
            "stick off line", f"{abs(placement.tilt_deg):.1f}° of {limit:.1f}°" if placement.stick_m else "no stick"
        )
        far, person = plan.filmed[0].subject.far, plan.filmed[0].subject.what == "person"
        high = f"over {_MOST_SHARE:.0%}" if share > _MOST_SHARE else f"{share:.0%}"
        self.figures.show_value("high in 16:9", "no size" if far else f"{high} · {size_words(share)}")
        self.figures.show_value("head : feet", f"{plan.head_to_feet:.2f}" if person else "no person")

    @staticmethod
    def _marks(plan: Layout, band_deg: float, view: View, aspects: Sequence[str], name: str, where: str) -> SphereMarks:
        shadow = plan.directions(stick_shadow(plan)) if shines(plan) else None
        shapes = [shape for shape in FORMATS if shape.name in aspects]
        return SphereMarks(
            outlines=[(for_shape(view, shape.size_px), shape.size_px, shape.name) for shape in shapes],
            seam_deg=band_deg,
            seam_axis=axis_of(plan),
            subject=plan.chest_yaw_pitch_deg,
            subject_name=name,
            sun=plan.sun_yaw_pitch_deg if plan.sun.elevation_deg > 0 and plan.sun.shines else None,
            shadow=shadow,
            foot=_foot(plan),
            words=where,
        )

    def _ask_foresight(self) -> None:
        project, shot, view = self.document.project, self.document.shot, self._shown
        site, camera = project.site, project.camera_of(shot)
        walked = 1.0 if self._moment == "closing" else 0.0
        key = (shot.placement, shot.start_min, site, camera, view, shot.aspects, walked)
        if key == self._asked:
            return
        self._asked = key
        self._worker.ask(
            (key, _QUICK_PX),
            lambda: _foresee(shot, site, camera, view, walked, _QUICK_PX),
            pause_s=0.0 if self.document.in_gesture else _PAINT_S,
        )

    def _show_foresight(self, key: object, value: object) -> None:
        (wanted, width), (sphere, frames, view) = key, value  # type: ignore[misc]
        self.sphere.show_picture(marks.image(sphere))
        self.sphere.show_marks(self._over)
        for name, frame in frames.items():
            shape = next(f for f in FORMATS if f.name == name)
            self.frames[name].show_frame(
                marks.image(frame), _frame_words(name, for_shape(view, shape.size_px), shape.size_px, self._width_px())
            )
        if wanted == self._asked and width < _FULL_PX:
            shot, site, camera = self.document.shot, self.document.project.site, self.document.camera
            walked = wanted[-1]
            self._worker.ask((wanted, _FULL_PX), lambda: _foresee(shot, site, camera, view, walked, _FULL_PX))
        elif width >= _FULL_PX:
            self.said.emit("Foresight drawn")
        if not self._place_known:
            self._place_known, self._judged = True, False
            self._judge()

    def _width_px(self) -> int:
        """Of the sphere in the mode that this shot is recorded in."""
        return mode_width_px(self.document.camera, self.document.shot.exposure)

    @property
    def settled(self) -> bool:
        """Whether the foresight shows the present placement in full."""
        return self._worker.idle

    def findings(self) -> Sequence[Finding]:
        if not self._judged:
            self._findings, self._judged = self._found(), True
        return self._findings

    def close_down(self) -> None:
        self._worker.close()


def _stick_words(sticks_m: tuple[float, ...]) -> list[tuple[object, str]]:
    """Lengths to choose from; without their unit where there are many."""
    unit = " m" if len(sticks_m) < _MANY else ""
    return [(s, f"{s:g}{unit}" if s else "none") for s in sticks_m]


def _name(made: QPushButton, what: str, words: str) -> None:
    """A button that names what is chosen, as much of it as there is room for."""
    room = made.width() - _EDGES_PX
    made.setText(made.fontMetrics().elidedText(f"{what}: {words}", Qt.TextElideMode.ElideRight, room))
    made.setAccessibleName(f"{what}: {words}")


def _frame_words(name: str, view: View, size_px: tuple[int, int], width_px: int) -> str:
    return f"{name} · {view.fov_deg:.0f}° · {true_width_px(view, size_px, width_px)} px"


def _foot(plan: Layout) -> tuple[float, float] | None:
    """Where the stick's foot or the hand is in the sphere; None where nobody could tell, straight below or above."""
    yaw, pitch = plan.yaw_pitch_deg(plan.foot)
    return None if plan.setup.worn or abs(pitch) > 80.0 else (yaw, pitch)


def _foresee(shot: Shot, site: Site, camera: Camera, view: View, walked: float, width_px: int):  # type: ignore[no-untyped-def]
    sphere = sphere_of(shot, site, camera, width_px, walked=walked)
    return sphere, frames_of(sphere, view, shot.aspects), view


def _seen_in(site: Site, stage: str) -> str:
    """What the foresight shows, and by whose word."""
    place = site.place(stage)
    if place is None:
        return f"foresight at {place_words(site, stage)}"
    if stage == UNKNOWN:
        return "not described yet: level grass stands for it (F6 says more)"
    if place.photo and not Path(place.photo).exists():
        return f"the photo of {place.name} is not where it was: level grass stands for it"
    return f"foresight in a photo: {place.name}" if place.pictured else f"foresight as described: {place.name}"

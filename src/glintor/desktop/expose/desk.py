"""Expose: what settings, and what will break."""

from collections.abc import Sequence
from typing import get_args

from msgspec.structs import replace
from PyQt6.QtWidgets import QHBoxLayout, QMenu, QStackedWidget, QVBoxLayout, QWidget

from glintor.desktop.charts import marks
from glintor.desktop.controls import Chips, Elided, Number, button, choice, label, offer, row, show_choice
from glintor.desktop.document import Document
from glintor.desktop.expose.course_chart import CourseChart, CourseMarks
from glintor.desktop.expose.day_line import DayLine
from glintor.desktop.expose.exposed import exposed_sphere
from glintor.desktop.expose.schools_table import SchoolsTable
from glintor.desktop.expose.sheets import ExposeSheets
from glintor.desktop.expose.told import (
    USUAL_OFFSET,
    aim_words,
    bracket_for,
    bracket_words,
    cost_now,
    judged,
    lapse_words,
    mode_words,
    spin_words,
)
from glintor.desktop.frame_view import FrameView
from glintor.desktop.jobs import Jobs, Newest
from glintor.desktop.sphere_view import SphereMarks, SphereView
from glintor.export.formats import USUAL
from glintor.exposure.aims import AIMS, Answer, cost_words
from glintor.exposure.course import Course
from glintor.exposure.metering import Light
from glintor.exposure.modes import CODEC_ADVICE, Codec
from glintor.exposure.schools import school_of, set_for
from glintor.exposure.solve import ND_STOPS
from glintor.exposure.values import nd_text
from glintor.finding import Cure, Finding
from glintor.plan.budget import Budget, budget_findings, budget_of
from glintor.project.kit import Kit
from glintor.project.model import Project, Shot
from glintor.project.placed import plan_of
from glintor.project.site import Site
from glintor.review import answer_for, exposing, light_of_shot
from glintor.simulation.light_course import exposed_at, light_course, moves_of, planned_frames, spans_of
from glintor.simulation.sensor import CURVES, profile_words
from glintor.sphere.view import View

_RATES = (24.0, 25.0, 30.0, 50.0, 100.0)
_ISOS = (100.0, 125.0, 160.0, 200.0, 250.0, 320.0, 400.0, 500.0, 640.0, 800.0, 1600.0, 3200.0)
_QUICK_PX, _FULL_PX = 480, 960


class ExposeDesk(ExposeSheets):
    """The light course, the schools, and the settings that follow."""

    name = "Expose"
    plans = True

    def __init__(self, document: Document, jobs: Jobs, parent: QWidget) -> None:
        super().__init__(document, jobs, parent)
        self.chart, self.schools, self.day = CourseChart(), SchoolsTable(), DayLine()
        self.sphere = SphereView("The sphere as it will come out", (180, 56))
        self.frames = {
            shape.name: FrameView(f"As it will come out, {shape.name}", shape.size_px, (56, 56), hand=False)
            for shape in USUAL
        }
        self.pictures = QStackedWidget()
        self.looks = Chips("As it comes out", [(0, "sphere"), *((n + 1, shape.name) for n, shape in enumerate(USUAL))])
        self.why = label("", "soft")
        self.why.setWordWrap(True)
        self.aim = Chips("Aim", list(AIMS.items()))
        self.rate = choice("Rate", [(r, f"{r:g}") for r in _RATES])
        self.shutter = Number("1/", " s", 2, 8000, 10, 0, bare=True)
        self.iso = choice("ISO", [(i, f"{i:g}") for i in _ISOS])
        self.nd = choice("Filter", [(n, nd_text(n)) for n in ND_STOPS])
        self.white = Number("White balance", " K", 1900, 15000, 100, 0, least="camera", bare=True)
        self.mode = choice("Mode", letters=12)
        self.curve = choice("Profile", [(c, c) for c in CURVES])
        self.offset = Number("Offset", " stops", -3, 3, 1 / 3, 1, bare=True)
        self.take = Number("Length of a take", " s", 1, 86400, 10, 0, bare=True)
        self.interval = Number("one frame every", " s", 0, 120, 1, 1, least="off", bare=True)
        self.costs = Elided("", "soft")
        self.codec = choice("Codec", [(c, c) for c in get_args(Codec)])
        self.codec.setToolTip(CODEC_ADVICE)
        self.solve = button(
            "Solve for this light", self._solve, main=True, tip="Time, ISO and filter for the chosen aim"
        )
        self.presets = button("Own", lambda: None, tip="Settings that you named, kept in the kit")
        menu = QMenu(self.presets)
        menu.aboutToShow.connect(lambda: self.fill_presets(menu))
        self.presets.setMenu(menu)
        self._moment_s, self._asked, self._wished = 0.0, None, None  # type: tuple[float, object, object]
        self._course: Course | None = None
        self._light: tuple[object, Light] | None = None
        self._told: tuple[Course, Shot, Kit, Site, float] | None = None  # that the course's words and lines follow from
        self._budget: tuple[Project, Budget] | None = None  # of the day as it is shown
        self._grip: float | None = None
        self._findings: list[Finding] = []
        self._meter = Newest("light course", jobs.trouble.emit)
        self._meter.finished.connect(self._metered)
        self._worker = Newest("exposed picture", jobs.trouble.emit)
        self._worker.finished.connect(self._show_picture)
        self._lay()
        self._connect()

    def _lay(self) -> None:
        page = QVBoxLayout(self)
        page.setContentsMargins(14, 8, 14, 8)
        page.setSpacing(6)
        both = QHBoxLayout()
        both.setSpacing(12)
        course = QVBoxLayout()
        course.setSpacing(6)
        course.addLayout(row(label("EV at ISO 100 over a take of", "soft"), self.take, self.interval, spacing=8))
        course.addWidget(self.chart, 1)
        both.addLayout(course, 17)
        side = QVBoxLayout()
        side.setSpacing(6)
        side.addWidget(self.looks)
        for picture in (self.sphere, *self.frames.values()):
            self.pictures.addWidget(picture)
        side.addWidget(self.pictures, 1)
        side.addWidget(self.schools)
        side.addWidget(self.why)
        both.addLayout(side, 13)
        page.addLayout(both, 1)
        boxes = row(
            self.aim,
            None,
            button(
                "Light…",
                self.open_light,
                tip="Where the light of the take is known from: place, table, meter, test frame",
            ),
            button("Test frame…", self.ask_frame, tip="Measures a photo or a clip: histogram, clipping, white balance"),
            button("Merge…", self.ask_merge, tip="A series of exposures of one sphere becomes its light"),
            self.presets,
            self.solve,
            stretch=False,
            spacing=8,
        )
        page.addLayout(boxes)
        page.addWidget(self.costs)
        page.addLayout(row(*self._settings(), spacing=8))
        page.addWidget(self.day)

    def _settings(self) -> list[QWidget | None]:
        """The boxes of what the camera is set to, each under its name."""
        settings: list[QWidget | None] = []
        for words, box in (
            ("Rate", self.rate),
            ("Time", self.shutter),
            ("ISO", self.iso),
            ("Filter", self.nd),
            ("White", self.white),
            ("Mode", self.mode),
            ("Codec", self.codec),
            ("Profile", self.curve),
            ("Offset", self.offset),
        ):
            cell = QWidget()
            column = QVBoxLayout(cell)
            column.setContentsMargins(0, 0, 0, 0)
            column.setSpacing(1)
            head = label(words, "soft")
            head.setBuddy(box)
            column.addLayout(row(head))
            column.addWidget(box)
            settings.append(cell)
        for number in (self.white, self.offset, self.take):
            number.name.hide()  # it stands over them
        return settings

    def _connect(self) -> None:
        edit = self.document.edit_exposure
        self.aim.chosen.connect(lambda v: edit("Choose the aim", aim=v))
        self.rate.activated.connect(lambda _i: edit("Set the frame rate", rate_fps=self.rate.currentData()))
        self.shutter.edited.connect(lambda v: edit("Set the shutter", shutter_s=1.0 / v))
        self.iso.activated.connect(lambda _i: edit("Set ISO", iso=self.iso.currentData()))
        self.nd.activated.connect(lambda _i: edit("Set the filter", nd_stops=self.nd.currentData()))
        self.white.edited.connect(lambda v: edit("Set the white balance", white_k=v if v >= 2000.0 else None))
        self.mode.activated.connect(lambda _i: self._choose_mode(self.mode.currentData()))
        self.codec.activated.connect(lambda _i: edit("Choose the codec", codec=self.codec.currentData()))
        self.curve.activated.connect(lambda _i: edit("Choose the profile", curve=self.curve.currentData()))
        self.offset.edited.connect(lambda v: edit("Set the offset", offset_stops=round(v, 2)))
        self.take.edited.connect(lambda v: edit("Set the take's length", take_s=v))
        self.interval.edited.connect(lambda v: edit("Set the interval", interval_s=v))
        self.schools.chosen.connect(self._choose_school)
        self.looks.chosen.connect(self._show_look)
        self._show_look(0)
        self.chart.window_dragged.connect(self._drag)
        self.chart.drag_ended.connect(self._let_go)
        self.chart.moment_chosen.connect(self._look_at)

    # What hands do
    def _show_look(self, number: int) -> None:
        self.pictures.setCurrentIndex(number)
        self.looks.show_value(number)

    def _choose_mode(self, mode_id: str) -> None:
        """A mode brings a rate that it has."""
        camera, e = self.document.camera, self.document.shot.exposure
        mode = next((m for m in camera.modes if m.id == mode_id), None)
        rates = mode.rates_fps if mode is not None else ()
        rate = e.rate_fps if not rates or e.rate_fps in rates else min(rates, key=lambda r: abs(r - e.rate_fps))
        self.document.edit_exposure("Choose the mode", mode=mode_id, rate_fps=rate)

    def _choose_school(self, school: str) -> None:
        program, each = set_for(school)  # type: ignore[arg-type]
        e = self.document.shot.exposure
        offset = 0.0 if program == "manual" else e.offset_stops or USUAL_OFFSET
        self.document.edit_exposure("Choose a school", program=program, each_lens=each, offset_stops=offset)

    def _drag(self, stops: float) -> None:
        """Moves the window: of a locked exposure the time, of an automatic one its offset."""
        e, camera = self.document.shot.exposure, self.document.camera
        if e.program != "manual":
            self._grip = e.offset_stops if self._grip is None else self._grip
            self.document.edit_exposure(
                "Move the exposure", "drag-course", offset_stops=round(min(max(self._grip - stops, -3.0), 3.0), 2)
            )
            return
        if self._grip is None:
            self._grip = e.shutter_s
        longest = e.interval_s or 1.0 / e.rate_fps
        held = min(max(self._grip * 2.0**-stops, camera.shutter_min_s), longest)
        self.document.edit_exposure("Move the exposure", "drag-course", shutter_s=held)

    def _let_go(self) -> None:
        self._grip = None
        self.document.end_gesture()

    def _look_at(self, second: float) -> None:
        self._moment_s = second
        self._draw_course()
        self._ask_picture()

    def _answer(self) -> Answer | None:
        course = self._course
        return None if course is None else answer_for(self.document.project, self.document.shot, course)

    def _solve(self) -> None:
        found = self._answer()
        if found is not None and self._course is not None:
            if self.document.camera.mode_of(self.document.shot.exposure).kind == "bracket":
                one = bracket_for(self.document.project, self.document.shot, self._course, self._moment_s)
                if one.frames > 1:
                    self.document.edit_exposure(
                        "Plan the bracket", "solve", bracket_frames=one.frames, bracket_stops=round(one.step_stops, 2)
                    )
            self.document.edit_exposure(
                "Solve the exposure", shutter_s=found.shutter_s, iso=round(found.iso), nd_stops=found.nd_stops
            )
            self.said.emit(f"{found.words}. {found.limit[:1].upper()}{found.limit[1:]}" if found.limit else found.words)

    def apply(self, cure: Cure) -> None:
        if cure.field == "exposure.solve":
            self._solve()
        else:
            super().apply(cure)

    # Drawing
    def refresh(self) -> None:
        project, shot = self.document.project, self.document.shot
        e, camera = shot.exposure, project.camera_of(shot)
        self._show_settings()
        frames = planned_frames(project, shot)
        place = (shot.placement, shot.start_min, camera, project.site, frames, e.light, e.take_s)
        if self._wished != place:
            self._wished = place
            site, quick = project.site, not self.document.in_gesture
            self._course = self._course if quick and self._light is not None and self._light[0] == place[:4] else None
            self._meter.ask(
                (place, False),
                lambda: (light_of_shot(project, shot), light_course(shot, site, camera, e.take_s, frames)),
            )
        if self._budget is None or self._budget[0] is not project:
            self._budget = project, budget_of(project)
        budget = self._budget[1]
        self.day.show_budget(project, budget, shot.id)
        if self._light is None or self._course is None:
            return
        self._findings = exposing(project, shot, self._light[1], self._course) + budget_findings(project, shot, budget)
        self.findings_changed.emit()
        bare = replace(shot, name="", purpose="", takes=(), logs=(), ticks=())
        told = self._course, bare, project.kit, project.site, self._moment_s
        if self._told is None or self._told[0] is not told[0] or self._told[1:] != told[1:]:
            self._told = told
            self._draw_course()
        self._ask_picture()

    def _show_settings(self) -> None:
        shot, camera = self.document.shot, self.document.camera
        e = shot.exposure
        self.aim.show_value(e.aim)
        show_choice(self.rate, e.rate_fps, f"{e.rate_fps:g}")
        self.shutter.show_value(1.0 / e.shutter_s)
        show_choice(self.iso, e.iso, f"{e.iso:g}")
        show_choice(self.nd, e.nd_stops, nd_text(e.nd_stops))
        show_choice(self.curve, e.curve, e.curve)
        self.white.show_value(e.white_k or 1900.0)
        modes = [("", "by the rate"), *((mode.id, mode.words) for mode in camera.modes)]
        if [self.mode.itemText(n) for n in range(self.mode.count())] != [words for _, words in modes]:
            offer(self.mode, modes)
        show_choice(self.mode, e.mode, e.mode)
        self.offset.show_value(e.offset_stops)
        self.offset.setEnabled(e.program != "manual")
        self.interval.show_value(e.interval_s)
        self.take.show_value(e.take_s)
        show_choice(self.codec, e.codec, e.codec)
        self.mode.setToolTip(mode_words(self.document.project, shot))
        self.curve.setToolTip(profile_words(e.curve))

    def _metered(self, key: object, value: object) -> None:
        (place, fine), (light, course) = key, value  # type: ignore[misc]
        self._light, self._course = (place[:4], light), course
        self._moment_s = min(self._moment_s, float(course.time_s[-1]))
        self.refresh()
        if not fine and place == self._wished:
            shot, site, camera = self.document.shot, self.document.project.site, self.document.camera
            self._meter.ask(
                (place, True), lambda: (light, light_course(shot, site, camera, place[6], place[4], fine=True))
            )

    def _draw_course(self) -> None:
        course, project, shot = self._course, self.document.project, self.document.shot
        e, camera = shot.exposure, project.camera_of(shot)
        if course is None:
            return
        found = judged(project, shot, course)
        fan: tuple[float, ...] = ()
        series = ""
        if camera.mode_of(e).kind == "bracket":
            fan = e.bracket_offsets
            series = bracket_words(bracket_for(project, shot, course, self._moment_s), camera.stops)
        self.chart.show_course(course, CourseMarks(found.mine, camera.sensor, self._moment_s, fan))
        self.schools.show_runs(found.runs, school_of(e.program, e.each_lens), found.best.school)
        self.why.setText(spin_words(project, shot) or lapse_words(project, shot) or series or found.why)
        self._judged = found
        self._show_costs(course)

    def _show_costs(self, course: Course) -> None:
        """What the setting costs as a line, and what each aim would, under its name."""
        project, shot = self.document.project, self.document.shot
        moves = moves_of(project, shot)
        cost = cost_now(project, shot, course, self._judged.mine, self._moment_s, moves)
        self.costs.show_words(cost_words(cost, moves))
        for aim in AIMS:
            self.aim.button(aim).setToolTip(aim_words(project, shot, course, aim, moves))

    # The picture
    def _view(self, shot: Shot) -> View:
        return plan_of(self.document.project, shot).start_view if shot.opening is None else shot.opening.view

    def _ask_picture(self) -> None:
        course, shot, site, camera = self._course, self.document.shot, self.document.project.site, self.document.camera
        if course is None:
            return
        moment, view, mine = self._moment_s, self._view(shot), self._judged.mine
        settings = exposed_at(shot, camera, mine, course, moment)
        told = [one.kind for one, begins, ends in spans_of(shot.exposure.light) if begins <= moment < ends]
        told_ev = None if told in ([], ["place"]) else float(course.metered[course.at(moment), 0])
        key = (shot.placement, shot.start_min, settings, camera, site, moment, view, shot.aspects, told_ev)
        if key == self._asked:
            return
        self._asked = key
        self._worker.ask(
            (key, _QUICK_PX), lambda: exposed_sphere(shot, site, camera, settings, moment, view, _QUICK_PX, told_ev)
        )

    def _show_picture(self, key: object, value: object) -> None:
        (wanted, width), (sphere, frames) = key, value  # type: ignore[misc]
        words = f"at {wanted[5]:.0f} s · hatched: clipped · dotted: in the noise"
        words += " · the place in the light that is told" if wanted[8] is not None else ""
        self.sphere.show_sphere(marks.image(sphere), SphereMarks(words=words))
        for name, picture in frames.items():
            if name in self.frames:
                self.frames[name].show_frame(marks.image(picture))
        if wanted == self._asked and width < _FULL_PX:
            shot, site, camera = self.document.shot, self.document.project.site, self.document.camera
            settings, moment, look, told_ev = wanted[2], wanted[5], wanted[6], wanted[8]
            self._worker.ask(
                (wanted, _FULL_PX),
                lambda: exposed_sphere(shot, site, camera, settings, moment, look, _FULL_PX, told_ev),
            )

    @property
    def settled(self) -> bool:
        return self._worker.idle and self._meter.idle

    def findings(self) -> Sequence[Finding]:
        return self._findings

    def close_down(self) -> None:
        self._worker.close()
        self._meter.close()

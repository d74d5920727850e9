"""One shot in words: what it is for, where in the story, how much of it, in which formats, and the light it needs."""

import msgspec
from PyQt6.QtCore import Qt, QTime, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QComboBox, QDialog, QFormLayout, QLineEdit, QTimeEdit, QVBoxLayout, QWidget

from glintor.desktop.controls import Chips, Number, button, choice, label, row, titled
from glintor.export.formats import FORMATS
from glintor.placement.clock import clock
from glintor.placement.windows import Wanted
from glintor.plan.timetable import windows_of
from glintor.project.model import Conditions, Project, Shot

_KINDS = [("", "by day"), ("golden", "golden, sun below 6°"), ("blue", "blue hour"), ("night", "night")]
_PERMISSIONS = [("", "the day's"), ("unknown", "not asked"), ("given", "given"), ("free", "not needed")]
_SUN = {"any": "any", "behind": "behind the camera", "side": "from the side", "ahead": "from ahead"}


class ShotSheet(QDialog):
    """`taken` gives what makes the changed shot out of the shot as it then is."""

    taken = pyqtSignal(object)

    def __init__(self, project: Project, shot: Shot, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"This shot: {shot.name}")
        self._project, self._shot, self._sun = project, shot, shot.light.sun
        self.name, self.purpose = QLineEdit(shot.name), QLineEdit(shot.purpose)
        self.purpose.setPlaceholderText("what it tells")
        self.story = QComboBox()
        self.story.setEditable(True)
        self.story.addItems(["", *project.site.route])
        self.story.setCurrentText(shot.story)
        first, *others = project.kit.cameras
        self.camera = choice("Camera", [("", f"{first.name}, the day's"), *((c.id, c.name) for c in others)])
        self.camera.setCurrentIndex(max(self.camera.findData(shot.camera), 0))
        self.subject = QLineEdit(shot.placement.subject.name)
        self.goes = Number("It goes ahead", " m", -200, 200, 0.5, 1), Number("left", " m", -200, 200, 0.5, 1)
        self.goes[0].show_value(shot.placement.subject.goes_ahead_m)
        self.goes[1].show_value(shot.placement.subject.goes_left_m)
        self.goes[1].box.setAccessibleName("It goes to the left")
        self.way = Number("Way ahead", "°", -1, 359, 5, 0, least="the day's")
        self.way.show_value(-1 if shot.placement.way_bearing_deg is None else shot.placement.way_bearing_deg % 360.0)
        self.speed = Number("goes", " m/s", -0.1, 60, 0.5, 1, least="as usual")
        self.speed.show_value(-0.1 if shot.placement.speed_m_s is None else shot.placement.speed_m_s)
        self.slope = Number("uphill", "°", -45, 45, 1, 1)
        self.slope.box.setToolTip("Of the way ahead, downhill below 0; where the place itself says nothing")
        self.slope.show_value(shot.placement.slope_deg)
        own = shot.own
        self.own = {
            "wind_m_s": Number("Wind", " m/s", -0.1, 40, 0.5, 1, least="the day's"),
            "lowest_m": Number("lowest obstacle", " m", 0, 100, 0.05, 2, least="the day's"),
            "branches_m": Number("branches", " m", 0, 100, 0.1, 1, least="the day's"),
            "power_line_m": Number("power line", " m", -0.1, 500, 1, 1, least="the day's"),
        }
        for field, number in self.own.items():
            value = getattr(own, field)
            number.show_value(number.box.minimum() if value is None else value)
        self.permission = choice("Permission here", _PERMISSIONS)
        self.permission.setCurrentIndex(self.permission.findData(own.permission or ""))
        self.length = Number("Films for", " min", 0.5, 1000, 5, 1)
        self.film = Number("of which the film shows", " s", 0, 10000, 1, 0)
        self.fit = Number("Fitting takes", " min", 0, 240, 5, 0)
        self.fixed = QCheckBox("at this hour and no other")
        self.fixed.setChecked(shot.fixed)
        shots = [(s.id, s.name) for s in project.shots if s.id != shot.id]
        self.follows = choice("To be filmed after", [("", "no other"), *shots], letters=14)
        self.follows.setCurrentIndex(max(self.follows.findData(shot.after[0] if shot.after else ""), 0))
        self.aspects = {f.name: QCheckBox(f.name) for f in FORMATS}
        self.sun = Chips("Sun", list(_SUN.items()))
        self.kind = choice("Kind of light", _KINDS)
        self.shadow_out = QCheckBox("camera's shadow out of 16:9")
        self.after, self.before = QTimeEdit(), QTimeEdit()
        self.windows = label("", "soft")
        self.windows.setWordWrap(True)
        self.trouble = label("", "stopwords")
        self._fill()
        self._lay()
        self._show_windows()

    def _fill(self) -> None:
        shot, light = self._shot, self._shot.light
        self.length.show_value(shot.length_min)
        self.film.show_value(shot.film_s)
        self.fit.show_value(shot.fit_min)
        for name, box in self.aspects.items():
            box.setChecked(name in shot.aspects)
        self.sun.show_value(light.sun)
        self.sun.chosen.connect(self._choose_sun)
        self.kind.setCurrentIndex(self.kind.findData("golden" if light.golden else light.dark))
        self.kind.activated.connect(self._show_windows)
        self.shadow_out.setChecked(light.shadow_out)
        for field, minute, words in (
            (self.after, light.not_before_min, "Not before"),
            (self.before, light.not_after_min, "Not after"),
        ):
            field.setDisplayFormat("HH:mm")
            field.setTime(QTime(0, 0).addSecs(int(min(minute, 1439.0) * 60)))
            field.setAccessibleName(words)
            field.timeChanged.connect(self._show_windows)
        self.shadow_out.toggled.connect(self._show_windows)

    def _lay(self) -> None:
        page = QVBoxLayout(self)
        page.setContentsMargins(18, 14, 18, 14)
        page.setSpacing(10)
        form = QFormLayout()
        form.setLabelAlignment(Qt.AlignmentFlag.AlignLeft)
        form.setHorizontalSpacing(14)
        for words, field in (
            ("Name", self.name),
            ("Purpose", self.purpose),
            ("Place in the story", self.story),
            ("Subject", self.subject),
            ("Camera", self.camera),
        ):
            field.setAccessibleName(words)
            title = label(words, "soft")
            title.setBuddy(field)
            form.addRow(title, field)
        page.addLayout(form)
        page.addLayout(row(self.length, self.film, self.fit, spacing=10))
        page.addLayout(row(self.fixed, *titled("To be filmed after", self.follows), spacing=10))
        page.addLayout(row(*self.goes, spacing=10))
        page.addLayout(row(self.way, self.speed, self.slope, *titled("Permission", self.permission), spacing=10))
        page.addLayout(row(*self.own.values(), spacing=10))
        page.addLayout(row(label("Formats", "soft"), *self.aspects.values(), spacing=10))
        page.addLayout(row(self.sun))
        page.addLayout(row(*titled("Light", self.kind), self.shadow_out, spacing=10))
        page.addLayout(row(label("Not before", "soft"), self.after, label("not after", "soft"), self.before, spacing=8))
        page.addWidget(self.windows)
        page.addWidget(self.trouble)
        take = button("Take over", self.take, main=True)
        page.addLayout(row(None, button("Leave it", self.reject), take, stretch=False, spacing=8))
        for line in (self.name, self.purpose, self.subject):
            line.returnPressed.connect(self.take)

    def _choose_sun(self, sun: object) -> None:
        self._sun = str(sun)  # type: ignore[assignment]
        self._show_windows()

    def _light(self) -> Wanted:
        last = midnight_minutes(self.before.time())
        return Wanted(
            sun=self._sun,
            golden=self.kind.currentData() == "golden",
            dark=dark if (dark := self.kind.currentData()) != "golden" else "",
            shadow_out=self.shadow_out.isChecked(),
            not_before_min=midnight_minutes(self.after.time()),
            not_after_min=1440.0 if last >= 1439.0 else last,
        )

    def _show_windows(self) -> None:
        shot = msgspec.structs.replace(self._shot, light=self._light())
        spans = ", ".join(f"{clock(a)} to {clock(b)}" for a, b in windows_of(self._project, shot))
        self.windows.setText(f"That light is there {spans or 'at no time of this day'}.")

    def take(self) -> None:
        """Hands the change over, or says what is missing."""
        aspects = tuple(name for name, box in self.aspects.items() if box.isChecked())
        if not self.name.text().strip() or not aspects:
            self.trouble.setText("A shot needs a name." if aspects else "A shot needs at least one format.")
            return
        values = {
            "name": self.name.text().strip(),
            "purpose": self.purpose.text().strip(),
            "story": self.story.currentText().strip(),
            "length_min": self.length.box.value(),
            "film_s": self.film.box.value(),
            "fit_min": self.fit.box.value(),
            "fixed": self.fixed.isChecked(),
            "after": (self.follows.currentData(),) if self.follows.currentData() else (),
            "aspects": aspects,
            "light": self._light(),
            "camera": self.camera.currentData(),
            "own": Conditions(
                permission=self.permission.currentData() or None,
                **{f: n.box.value() if n.box.value() > n.box.minimum() else None for f, n in self.own.items()},
            ),
        }
        subject = {
            "name": self.subject.text().strip() or "subject",
            "goes_ahead_m": self.goes[0].box.value(),
            "goes_left_m": self.goes[1].box.value(),
        }
        placed = {
            "way_bearing_deg": self.way.box.value() if self.way.box.value() >= 0.0 else None,
            "speed_m_s": self.speed.box.value() if self.speed.box.value() >= 0.0 else None,
            "slope_deg": self.slope.box.value(),
        }
        replace = msgspec.structs.replace
        self.taken.emit(
            lambda shot: replace(shot, placement=replace(shot.placement.with_subject(**subject), **placed), **values)
        )
        self.accept()


def midnight_minutes(time: QTime) -> float:
    """Minutes since midnight."""
    return QTime(0, 0).secsTo(time) / 60.0

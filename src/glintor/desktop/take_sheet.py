"""The sheet of a recording: what it is taken for and why, how it is held still, its lenses, and whose sound it has."""

from typing import TYPE_CHECKING

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QCheckBox, QDialog, QFileDialog, QInputDialog, QLabel, QScrollArea, QVBoxLayout, QWidget

from glintor.desktop.charts.waves import Waves
from glintor.desktop.controls import Number, button, choice, label, offer, row
from glintor.desktop.host import Host
from glintor.project.clocks import heard_of_other
from glintor.project.facts import picture_words
from glintor.project.held import WORDS as HELD
from glintor.project.take import Heard, Recorder, Take
from glintor.sphere.foot import Patch
from glintor.sphere.lenses import TWIN, Lenses

if TYPE_CHECKING:
    from glintor.desktop.take_work import TakeWork
    from glintor.media.align import Heard as HeardSound

_STEP_S = 0.002
_COVERS = {"": "seen as it is", "mirror": "mirrored over", "blur": "blurred over", "picture": "a picture of your own…"}


class TakeSheet(QDialog):
    """Follows the take in sight; each change is an edit of the day that can be undone."""

    def __init__(self, host: Host, work: "TakeWork") -> None:
        super().__init__(host.parent_widget)
        self._host, self._work, self._document = host, work, host.document
        self._own: HeardSound | None = None
        self._shown = ("", "")
        self.setModal(False)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(640, 700)
        inside = QWidget()
        self._column = QVBoxLayout(inside)
        self._column.setSpacing(9)
        self._what()
        self._still()
        self._lenses_part()
        self._foot_part()
        self._sound_part()
        self._column.addStretch(1)
        area = QScrollArea()
        area.setWidget(inside)
        area.setWidgetResizable(True)
        area.setFrameShape(QScrollArea.Shape.NoFrame)
        area.setAccessibleName("This recording")
        page = QVBoxLayout(self)
        page.addWidget(area)
        self._document.changed.connect(self.refresh)
        self._document.shot_chosen.connect(self.refresh)
        self.finished.connect(lambda _result: self._let_go())
        self.refresh()

    def _let_go(self) -> None:
        self._document.changed.disconnect(self.refresh)
        self._document.shot_chosen.disconnect(self.refresh)

    def _head(self, words: str) -> None:
        self._column.addSpacing(6)
        self._column.addWidget(label(words, "head"))

    def _wrapped(self) -> QLabel:
        made = label("")
        made.setWordWrap(True)
        self._column.addWidget(made)
        return made

    # Parts
    def _what(self) -> None:
        self._head("What it is taken for")
        self.why = self._wrapped()
        self._column.addLayout(row(button("It shows something else…", self._ask_again)))

    def _still(self) -> None:
        self._head("Held still")
        self.mode = choice("How it is held still", list(HELD.items()))
        self.mode.activated.connect(lambda at: self._work.hold(self.mode.itemData(at)))
        self.strength = Number("smoothed over", " s", 0.05, 10.0, 0.1, 2)
        self.strength.edited.connect(self._strength)
        self._column.addLayout(row(self.mode, self.strength))
        self.lie = self._wrapped()
        self._column.addLayout(
            row(
                button(
                    "Horizon by two clicks", self._work.begin_horizon, tip="Then click two points of it on the sphere"
                ),
                button("From the picture", self._work.level_by_picture),
                button("As it was filmed", lambda: self._work.level(None)),
                spacing=8,
            )
        )

    def _lenses_part(self) -> None:
        self.lens_head = label("Lenses", "head")
        self._column.addSpacing(6)
        self._column.addWidget(self.lens_head)
        self.lens_words = self._wrapped()
        self.profile = choice("Lens profile", letters=28)
        self.profile.activated.connect(self._profile)
        self.seek = button("Find it from this recording", self._work.find_lenses)
        self.lens_row = QWidget()
        line = row(self.profile, self.seek, spacing=8)
        line.setContentsMargins(0, 0, 0, 0)
        self.lens_row.setLayout(line)
        self._column.addWidget(self.lens_row)
        self.files_row = QWidget()
        line = row(
            button("Read a profile…", self._work.ask_read_lenses),
            button("Save it…", self._work.ask_write_lenses),
            button("Name it…", self._name_lenses, tip="Such as: dive guard on"),
            spacing=8,
        )
        line.setContentsMargins(0, 0, 0, 0)
        self.files_row.setLayout(line)
        self._column.addWidget(self.files_row)
        self.mends = QCheckBox("Lay near things at the seam on one another")
        self.mends.clicked.connect(lambda on: self._work.set_take("Seam", mends=bool(on)))
        self._column.addWidget(self.mends)

    def _foot_part(self) -> None:
        self._head("Stick and mount at the foot")
        self.patch = choice("What covers the foot", list(_COVERS.items()))
        self.patch.activated.connect(lambda at: self._cover(self.patch.itemData(at)))
        self.patch_size = Number("out to", "°", 2.0, 60.0, 1.0, 0)
        self.patch_size.edited.connect(lambda value: self._cover(self.patch.currentData(), value))
        self._column.addLayout(row(self.patch, self.patch_size))

    def _cover(self, kind: str, radius_deg: float | None = None) -> None:
        take = self._document.take
        if take is None:
            return
        known = take.patch or Patch()
        file = known.file
        if kind == "picture" and radius_deg is None:
            file, _ = QFileDialog.getOpenFileName(
                self, "Which picture?", file, "Pictures (*.png *.jpg *.jpeg *.webp *.tif)"
            )
        if kind == "" or (kind == "picture" and not file):
            self._work.set_take("Cover the foot", patch=None)
            return
        size = known.radius_deg if radius_deg is None else radius_deg
        self._work.set_take("Cover the foot", patch=Patch(kind=kind, radius_deg=size, file=file))  # type: ignore[arg-type]

    def _sound_part(self) -> None:
        self._head("Recorded beside it")
        self.others = choice("Recorded beside it", letters=28)
        self.others.activated.connect(lambda _at: self._show_sound(fresh=True))
        self.line_up = button("Find by sound", self._line_up, main=True)
        self._column.addLayout(row(self.others, self.line_up, spacing=8))
        self.sound_words = self._wrapped()
        self.offset = Number("begins at", " s", -86400.0, 86400.0, 0.01, 3)
        self.offset.edited.connect(lambda value: self._nudge(value))
        self.instead = QCheckBox("Its sound in place of the camera's")
        self.instead.clicked.connect(self._instead)
        self._column.addLayout(row(self.offset, self.instead))
        self.waves = Waves()
        self.waves.setMinimumHeight(170)
        self.waves.moved.connect(self.offset.show_value)
        self.waves.settled.connect(self._nudge)
        self._column.addWidget(self.waves)

    # Showing
    def refresh(self) -> None:
        take = self._document.take
        if take is None:
            self.close()
            return
        self.setWindowTitle(f"{take.name}: this recording")
        said = {"person": "as you said", "picture": take.why or "as its file says"}[take.told_by]
        self.why.setText(f"{picture_words(take)}. {said[:1].upper()}{said[1:]}.")
        self.mode.setCurrentIndex(self.mode.findData(take.steady.mode))
        self.strength.show_value(take.steady.strength_s)
        self.strength.setEnabled(take.steady.mode in ("smooth", "level", "heading"))
        self.lie.setText(_lie_words(take, self._host.reframe.known.words))
        self._show_lenses(take)
        self.patch.setCurrentIndex(self.patch.findData(take.patch.kind if take.patch is not None else ""))
        self.patch_size.setEnabled(take.patch is not None)
        self.patch_size.show_value((take.patch or Patch()).radius_deg)
        self._show_sound()

    def _show_lenses(self, take: Take) -> None:
        footage = self._host.reframe.projector.footage
        twin = footage is not None and isinstance(footage.shows, Lenses)
        for part in (self.lens_head, self.lens_words, self.lens_row, self.files_row, self.mends):
            part.setVisible(twin)
        if not twin or footage is None or not isinstance(footage.shows, Lenses):
            return
        shown = footage.shows
        known = (
            "first guess"
            if shown.residual_px is None
            else f"{shown.residual_px:.2f} px left at the seam of a 5760 px sphere"
        )
        self.lens_words.setText(f"{shown.name}: {known}; each sees {2 * shown.eyes[0].half_deg:.0f}°.")
        profiles = [lenses for lenses in self._document.project.kit.lenses if lenses.alone == shown.alone]
        entries: list[tuple[object, str]] = [(None, "first guess")] + [(lenses, lenses.name) for lenses in profiles]
        offer(self.profile, entries)
        names = [lenses.name for lenses in profiles]
        self.profile.setCurrentIndex(names.index(shown.name) + 1 if shown.name in names else 0)
        self.mends.setChecked(take.mends)
        self.mends.setVisible(not shown.alone)

    def _name_lenses(self) -> None:
        take = self._document.take
        if take is None or take.lenses is None:
            self._host.say("A first guess has no name: find its profile first")
            return
        name, given = QInputDialog.getText(
            self, "Name the lens profile", "Which camera, with which guard?", text=take.lenses.name
        )
        if given and name.strip():
            self._work.name_lenses(take.lenses.name, name.strip()[:80])

    def _show_sound(self, *, fresh: bool = False) -> None:
        take = self._document.take
        if take is None:
            return
        if not fresh:
            known = {h.of for h in take.heard}
            entries: list[tuple[object, str]] = [("", "choose…")]
            entries += [(o.id, o.name + (" · lined up" if o.id in known else "")) for o in self._beside()]
            at = self.others.currentData()
            offer(self.others, entries)
            chosen = at or next((h.of for h in take.heard), "")
            self.others.setCurrentIndex(max(self.others.findData(chosen), 0))
        other, heard = self._other(), self._heard()
        for part in (self.line_up, self.offset, self.instead, self.waves):
            part.setEnabled(other is not None)
        self.instead.setEnabled(isinstance(other, Recorder))
        self.instead.setChecked(heard is not None and heard.instead)
        self.offset.show_value(heard.offset_s if heard is not None else 0.0)
        self.sound_words.setText(
            _heard_words(heard) if other is not None else "Recorders that came in, and other takes of the day."
        )
        if other is None:
            return
        if self._shown != (take.id, other.id):
            self._shown = (take.id, other.id)
            self._draw_waves(take, other)
        else:
            self.waves.show_offset(heard.offset_s if heard is not None else 0.0)

    def _beside(self) -> list[Recorder | Take]:
        """Recorders and takes that may have been recorded beside this one."""
        project, take = self._document.project, self._document.take
        takes = [
            t for shot in project.shots for t in shot.takes if take is not None and t.id != take.id and t.kind == "film"
        ]
        return [*project.sounds, *takes]

    def _other(self) -> Recorder | Take | None:
        wanted = self.others.currentData()
        return next((o for o in self._beside() if o.id == wanted), None)

    def _heard(self) -> Heard | None:
        take, wanted = self._document.take, self.others.currentData()
        return next((h for h in take.heard if h.of == wanted), None) if take is not None else None

    def _draw_waves(self, take: Take, other: Recorder | Take) -> None:
        footage, file = self._host.reframe.projector.footage, self._document.file
        if footage is None or not footage.has_sound:
            self.sound_words.setText(f"{take.name} has no sound of its own: type or drag where {other.name} begins.")
            return

        def work(_report: object, _stop: object) -> "tuple[HeardSound, HeardSound]":
            from glintor.media.align import heard_of_footage

            return heard_of_footage(footage), heard_of_other(file, other)

        def done(found: "tuple[HeardSound, HeardSound]") -> None:
            heard = self._heard()
            upper, lower = (np.ascontiguousarray(one.swell[:, 0]) for one in found)
            offset = heard.offset_s if heard is not None else 0.0
            self.waves.show_sounds((take.name, other.name), upper, lower, _STEP_S, offset)

        self._host.jobs.start(f"Listening to {other.name}", work, done)

    # Hands
    def _ask_again(self) -> None:
        from glintor.desktop.readings_sheet import ask_about

        take, footage = self._document.take, self._host.reframe.projector.footage
        if take is not None and footage is not None:
            ask_about(footage.files, take, self._host.jobs, self._host.parent_widget, self._told)

    def _told(self, told: str) -> None:
        known = TWIN if told in ("side", "under", "streams", "files") else None
        take = self._document.take
        if take is not None:
            keeps = take.lenses if known is not None and take.lenses is not None and not take.lenses.alone else None
            self._work.set_take("Say what it shows", told=told, told_by="person", lenses=keeps)

    def _strength(self, value: float) -> None:
        take = self._document.take
        if take is not None:
            self._work.hold(take.steady.mode, value)

    def _profile(self, at: int) -> None:
        lenses = self.profile.itemData(at)
        self._work.set_take("Choose a lens profile", lenses=lenses)

    def _line_up(self) -> None:
        other = self._other()
        if other is not None:
            near = self.offset.box.value()
            self._work.line_up(other, near_s=near if self._heard() is None and near != 0.0 else None)

    def _nudge(self, offset_s: float) -> None:
        other, heard = self._other(), self._heard()
        if other is None:
            return
        base = heard or Heard(of=other.id, offset_s=0.0, instead=isinstance(other, Recorder))
        self._work.place_sound(
            replace(base, offset_s=round(offset_s, 6), by="hand", confidence=1.0), "Move a sound by hand"
        )

    def _instead(self, on: bool) -> None:
        heard = self._heard()
        if heard is None:
            self.instead.setChecked(False)
            self._host.say("First say where it lies: find it by sound, or move it by hand")
        else:
            self._work.place_sound(replace(heard, instead=on), "Whose sound")


def _lie_words(take: Take, turning: str) -> str:
    if take.horizon is None:
        level = "Nobody said how its picture lies"
    else:
        by = {"file": "its file says", "hand": "you set", "picture": "its picture tells"}[take.horizon.by]
        level = f"As {by}, its middle is {take.horizon.pitch_deg:+.1f}° from the horizon and turned by {take.horizon.roll_deg:+.1f}°"
    return f"{level}. {turning}".strip()


def _heard_words(heard: Heard | None) -> str:
    if heard is None:
        return "Where it lies is not known yet. Type about when it begins if you know, then let it be found."
    how = "set by hand" if heard.by == "hand" else f"found by sound, sure by {heard.confidence:.0%}"
    drift = (
        f"; its clock runs {abs(heard.drift_ppm):.1f} ppm {'fast' if heard.drift_ppm > 0 else 'slow'}"
        if heard.drift_ppm
        else ""
    )
    return f"It begins at {heard.offset_s:+.3f} s of this take, {how}{drift}."

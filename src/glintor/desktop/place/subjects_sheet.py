"""Who and what is filmed: one or several subjects, of kinds chosen from small pictures; findings speak of the first."""

from functools import partial
from typing import Any, get_args

import msgspec
from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import (
    QCheckBox,
    QDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from glintor.desktop.charts import marks
from glintor.desktop.controls import Number, button, choice, label, row, titled
from glintor.desktop.jobs import Jobs, Newest
from glintor.desktop.place.tiles import Tiles
from glintor.placement.figures import alone
from glintor.placement.person import Pose
from glintor.placement.shapes import Sheet
from glintor.placement.solids import ASPHALT
from glintor.placement.subject import WORDS, Being, Subject, What
from glintor.project.model import Project, Shot

_TILE_PX, _NEXT_S, _MOST = (132, 88), 0.005, 6
_HEIGHTS: dict[What, float] = {"person": 1.70, "animal": 0.6, "thing": 0.5}  # a usual adult, a dog, a box
_NAMES: dict[What, str] = {
    "person": "subject", "carrier": "vehicle", "animal": "animal", "thing": "thing", "way": "the way ahead", "view": "the view",
}  # fmt: skip


class SubjectsSheet(QDialog):
    """`taken` gives the subjects, and whether all are wanted in one frame."""

    taken = pyqtSignal(object, bool)

    def __init__(self, project: Project, shot: Shot, jobs: Jobs, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"Who is filmed? {shot.name}")
        self._site = project.site
        self.subjects = list(shot.placement.subjects)
        self.list = QListWidget()
        self.list.setAccessibleName("Subjects")
        self.list.setFixedWidth(190)
        self.kinds = Tiles("What it is", QSize(*_TILE_PX), columns=3)
        self.kinds.setFixedHeight(2 * (_TILE_PX[1] + 38) + 8)
        self.kinds.show_entries([(what, words, words) for what, words in WORDS.items()], self.subjects[0].what)
        self.name = QLineEdit()
        self.name.setAccessibleName("Name of the subject")
        self.numbers = {
            "height_m": Number("Height", " m", 0.05, 100, 0.05, 2, bare=True),
            "long_m": Number("length", " m", 0, 200, 0.1, 2, least="by its height", bare=True),
            "ahead_m": Number("Stands ahead", " m", -500, 500, 0.1, 2, bare=True),
            "left_m": Number("left", " m", -500, 500, 0.1, 2, bare=True),
            "up_m": Number("up", " m", -100, 100, 0.1, 2, bare=True),
            "goes_ahead_m": Number("Goes ahead", " m", -500, 500, 0.5, 1, bare=True),
            "goes_left_m": Number("left", " m", -500, 500, 0.5, 1, bare=True),
            "faces_deg": Number("Faces", "°", -181, 180, 5, 0, least="by itself", bare=True),
        }
        for name, words in (
            ("left_m", "Stands to the left"),
            ("up_m", "Stands up"),
            ("goes_left_m", "Goes to the left"),
            ("long_m", "Length"),
        ):
            self.numbers[name].box.setAccessibleName(words)
        self.pose = choice("Pose", [(pose, pose) for pose in get_args(Pose)])
        carriers = {c.id: c.words for c in self._site.carriers} | _ready_words()
        self.carrier = choice("Which carrier", list(carriers.items()), letters=14)
        self.keeps = choice(
            "While the carrier moves", [("along", "goes along with it"), ("there", "stays there, passed by")]
        )
        self.together = QCheckBox("All of them in one frame")
        self.together.setChecked(shot.placement.together)
        self.add = button("Another subject", self._add)
        self.drop = button("Take it away", self._drop)
        self.first = button("Make it the first", self._first, tip="Findings, frame and shadow speak of the first")
        self._small = Newest("small subjects", jobs.trouble.emit)
        self._small.finished.connect(self._show_tile)
        self._drawn: set[str] = set()
        self._showing = False
        self._lay()
        self.list.currentRowChanged.connect(lambda _at: self._show())
        self.kinds.itemSelectionChanged.connect(self._choose_kind)
        self.name.textEdited.connect(lambda words: self._set(name=words.strip() or "subject"))
        for field, number in self.numbers.items():
            number.edited.connect(partial(self._set_number, field))
        self.pose.activated.connect(lambda _at: self._set(pose=self.pose.currentData()))
        self.carrier.activated.connect(lambda _at: self._set(carrier=self.carrier.currentData()))
        self.keeps.activated.connect(lambda _at: self._set(keeps=self.keeps.currentData()))
        self._fill(0)
        self._next_tile()

    def _lay(self) -> None:
        n = self.numbers
        page, both, left, right = QVBoxLayout(self), QHBoxLayout(), QVBoxLayout(), QVBoxLayout()
        page.setContentsMargins(18, 14, 18, 14)
        left.addWidget(self.list, 1)
        for made in (self.add, self.first, self.drop):
            left.addWidget(made)
        right.setSpacing(8)
        right.addWidget(self.kinds)
        right.addLayout(row(label("Name", "soft"), self.name, stretch=False, spacing=8))
        self._sizes, self._which = QWidget(), QWidget()
        self._sizes.setLayout(row(n["height_m"], n["long_m"], *titled("pose", self.pose), n["faces_deg"], spacing=10))
        self._which.setLayout(row(*titled("Which", self.carrier), spacing=8))
        for part in (self._sizes, self._which):
            part.layout().setContentsMargins(0, 0, 0, 0)
            right.addWidget(part)
        right.addLayout(row(n["ahead_m"], n["left_m"], n["up_m"], spacing=10))
        right.addLayout(row(n["goes_ahead_m"], n["goes_left_m"], self.keeps, spacing=10))
        note = "Places count from the carrier's middle and floor. Of a view they are only its direction."
        right.addWidget(label(note, "soft"))
        right.addStretch(1)
        both.setSpacing(14)
        both.addLayout(left)
        both.addLayout(right, 1)
        page.addLayout(both, 1)
        take = button("Take over", self.take, main=True)
        page.addLayout(row(self.together, None, button("Leave it", self.reject), take, stretch=False, spacing=8))

    @property
    def _at(self) -> int:
        return max(self.list.currentRow(), 0)

    def _fill(self, chosen: int) -> None:
        self.list.blockSignals(True)
        self.list.clear()
        for one in self.subjects:
            self.list.addItem(QListWidgetItem(f"{one.name}: {WORDS[one.what]}"))
        self.list.setCurrentRow(chosen)
        self.list.blockSignals(False)
        self.add.setEnabled(len(self.subjects) < _MOST)
        self._show()

    def _show(self) -> None:
        one, self._showing = self.subjects[self._at], True
        if self.name.text().strip() != one.name:
            self.name.setText(one.name)
        for at in range(self.kinds.count()):
            item = self.kinds.item(at)
            if item is not None and item.data(Qt.ItemDataRole.UserRole) == one.what:
                self.kinds.setCurrentItem(item)
        for field, number in self.numbers.items():
            value = getattr(one, field)
            number.show_value(number.box.minimum() if value is None else value)
        self.pose.setCurrentIndex(self.pose.findData(one.pose))
        self.carrier.setCurrentIndex(max(self.carrier.findData(one.carrier), 0))
        self.keeps.setCurrentIndex(self.keeps.findData(one.keeps))
        self._sizes.setVisible(one.what in ("person", "animal", "thing"))
        self.numbers["long_m"].setEnabled(one.what in ("animal", "thing"))
        self.pose.setEnabled(one.what == "person")
        self._which.setVisible(one.what == "carrier")
        for field in ("ahead_m", "left_m", "up_m"):
            self.numbers[field].setEnabled(one.what != "way")
        for field in ("goes_ahead_m", "goes_left_m"):
            self.numbers[field].setEnabled(not one.far)
        self.first.setEnabled(self._at > 0)
        self.drop.setEnabled(len(self.subjects) > 1)
        self._showing = False

    # Changes
    def _set(self, **values: Any) -> None:
        if not self._showing:
            self.subjects[self._at] = msgspec.structs.replace(self.subjects[self._at], **values)
            self._fill(self._at)

    def _set_number(self, field: str, value: float) -> None:
        by_itself = field == "faces_deg" and value < -180.0
        self._set(**{field: None if by_itself else round(value, 3)})

    def _choose_kind(self) -> None:
        item = self.kinds.currentItem()
        if item is None or self._showing:
            return
        what: What = item.data(Qt.ItemDataRole.UserRole)
        old = self.subjects[self._at]
        if what != old.what:
            name = _NAMES[what] if old.name in ("Subject", *_NAMES.values()) or what in ("way", "view") else old.name
            carrier = self.carrier.currentData() if what == "carrier" else ""
            self._set(what=what, name=name, height_m=_HEIGHTS.get(what, old.height_m), carrier=carrier)

    def _add(self) -> None:
        last = self.subjects[-1]
        self.subjects.append(
            Subject(name=f"subject {len(self.subjects) + 1}", ahead_m=last.ahead_m, left_m=last.left_m - 1.0)
        )
        self._fill(len(self.subjects) - 1)

    def _drop(self) -> None:
        del self.subjects[self._at]
        self._fill(max(self._at - 1, 0))

    def _first(self) -> None:
        self.subjects.insert(0, self.subjects.pop(self._at))
        self._fill(0)

    # Pictures
    def _next_tile(self) -> None:
        what = next((what for what in WORDS if what not in self._drawn), None)
        if what is not None:
            one = Subject(what=what, height_m=_HEIGHTS.get(what, 1.7))
            being = Being(one, self._site.carrier("cycle") if what == "carrier" else None)
            self._small.ask(what, lambda: _portrait(being), pause_s=_NEXT_S)

    def _show_tile(self, key: object, image: object) -> None:
        assert isinstance(image, QImage)
        self._drawn.add(str(key))
        self.kinds.show_picture(str(key), image)
        self._next_tile()

    @property
    def settled(self) -> bool:
        return self._small.idle

    def take(self) -> None:
        self.taken.emit(tuple(self.subjects), self.together.isChecked())
        self.accept()

    def done(self, result: int) -> None:
        self._small.close()
        super().done(result)


def _ready_words() -> dict[str, str]:
    from glintor.placement.carrier import GROUND, ready_carriers

    return {c.id: c.words for c in ready_carriers().values() if c.id != GROUND and c.solids}


def _portrait(being: Being) -> QImage:
    from glintor.simulation.portrait import portrait_of  # loads the compiler

    parts = alone(being)
    if being.subject.what == "way":
        parts.box((-9.0, -1.4, 0.0), (9.0, 1.4, 0.03), ASPHALT)
    elif being.subject.what == "view":
        for left, wide, high in ((-5.0, 7.0, 4.0), (3.0, 6.0, 3.0), (8.0, 5.0, 2.2)):
            Sheet(
                corners=((0.0, left - wide, 0.0), (0.0, left + wide, 0.0), (0.0, left, high)), thick_m=0.1, of="rock"
            ).add_to(parts)
    return marks.image(portrait_of([parts], _TILE_PX))

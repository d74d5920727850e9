"""A place in words and a few numbers, to be changed by hand."""

from functools import partial
from typing import get_args

import msgspec
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QVBoxLayout, QWidget

from glintor.desktop.controls import Number, button, choice, label, row, titled
from glintor.errors import InputError
from glintor.placement.scenery import SIDES, Ground, Place, Standing, What, horizon_of, horizon_words

_GROUNDS = [(name, name) for name in get_args(Ground)]
_WHATS = [(name, name) for name in get_args(What)]
_MOST = 6  # things that a form of this height shows


class PlaceForm(QWidget):
    """`changed` gives the changed description with each edit."""

    changed = pyqtSignal(object)
    trouble = pyqtSignal(str)  # what is wrong with what was typed
    sun_asked = pyqtSignal()  # the photo is to be turned by the sun in it

    def __init__(self) -> None:
        super().__init__()
        self._place = Place(id="none", name="none")
        self.name = QLineEdit()
        self.name.setAccessibleName("Name of the place")
        self.way, self.beside = choice("The way", _GROUNDS), choice("Beside it", _GROUNDS)
        self.wide = Number("wide", " m", 0, 500, 0.5, 1, least="everywhere")
        self.slope = Number("uphill", "°", -45, 45, 1, 0)
        self.falls = Number("falls to", "°", -1, 359, 5, 0, least="along the way")
        self.counts = {
            "people": Number("People", "", 0, 12, 1, 0), "traffic": Number("vehicles", "", 0, 8, 1, 0), "lamps": Number("lamps", "", 0, 8, 1, 0),
        }  # fmt: skip
        self.add = button("Something stands there…", self._add)
        self.faces = Number("Its middle faces", "°", -1, 359, 1, 0, least="unknown")
        self.taken_m = Number("taken", " m over the ground", 0.1, 100, 0.1, 2)
        self.seen_deg = Number("wide", "°", 10, 140, 1, 0)
        self.by_sun = button(
            "By the sun in it",
            self.sun_asked.emit,
            tip="Turns the photo by the sun in it and the hour that it was taken",
        )
        self.horizon = QLineEdit()
        self.horizon.setAccessibleName("Horizon")
        self.horizon.setPlaceholderText("level; or bearings and heights in degrees: 080 12, 180 30")
        self.horizon.setToolTip("What stands against the sky far off: each bearing with its height, in between evenly")
        self._things = QGridLayout()
        self._things.setHorizontalSpacing(8)
        self._things.setVerticalSpacing(4)
        page = QVBoxLayout(self)
        page.setContentsMargins(0, 0, 0, 0)
        page.setSpacing(6)
        page.addLayout(row(label("Name", "soft"), self.name, spacing=8, stretch=False))
        self._photo, self._ground = QWidget(), QWidget()
        self._photo.setLayout(row(self.faces, self.seen_deg, self.taken_m, self.by_sun, spacing=8))
        self._ground.setLayout(
            row(*titled("One goes on", self.way), self.wide, *titled("beside it", self.beside), spacing=8)
        )
        self._stands = QWidget()
        self._stands.setLayout(self._things)
        for part in (self._photo, self._ground, self._stands):
            layout = part.layout()
            assert layout is not None
            layout.setContentsMargins(0, 0, 0, 0)
            page.addWidget(part)
        page.addLayout(row(label("Horizon", "soft"), self.horizon, self.slope, self.falls, spacing=8, stretch=False))
        page.addLayout(row(self.add, None, *self.counts.values(), stretch=False, spacing=8))
        self.faces.edited.connect(lambda deg: self._tell(photo_faces_deg=None if deg < 0.0 else deg))
        self.seen_deg.edited.connect(lambda deg: self._tell(photo_wide_deg=deg))
        self.taken_m.edited.connect(lambda metres: self._tell(photo_height_m=round(metres, 2)))
        self.name.editingFinished.connect(self._renamed)
        self.horizon.editingFinished.connect(self._far)
        self.way.activated.connect(lambda _at: self._tell(way=self.way.currentData()))
        self.beside.activated.connect(lambda _at: self._tell(beside=self.beside.currentData()))
        self.slope.edited.connect(lambda deg: self._tell(slope_deg=round(deg, 1)))
        self.falls.edited.connect(lambda deg: self._tell(falls_deg=None if deg < 0.0 else deg))
        self.wide.edited.connect(lambda metres: self._tell(way_m=round(metres, 2)))
        for field, number in self.counts.items():
            number.edited.connect(lambda count, field=field: self._tell(**{field: int(count)}))

    def show_place(self, place: Place) -> None:
        """Fills the form; says nothing of it."""
        same = [(one.what, one.side) for one in place.around] == [(one.what, one.side) for one in self._place.around]
        rebuilt = not same or self._things.count() == 0
        self._place = place
        self.name.setText(place.name)
        self.horizon.setText(horizon_words(place.horizon))
        for part, there in (
            (self._photo, bool(place.photo)),
            (self._ground, not place.pictured),
            (self.seen_deg, place.photo_wide_deg > 0.0),
            (self.by_sun, place.pictured),
        ):
            part.setVisible(there)
        self.faces.show_value(-1 if place.photo_faces_deg is None else place.photo_faces_deg)
        self.taken_m.show_value(place.photo_height_m)
        self.seen_deg.show_value(place.photo_wide_deg)
        self.add.setToolTip(
            "Adds a line: what the photo shows there keeps the sun off what is drawn into it"
            if place.pictured
            else "Adds a line; choose what it is, on which side and how far"
        )
        self.way.setCurrentIndex(self.way.findData(place.way))
        self.beside.setCurrentIndex(self.beside.findData(place.beside))
        self.slope.show_value(place.slope_deg)
        self.falls.show_value(-1.0 if place.falls_deg is None else place.falls_deg)
        self.slope.setEnabled(not place.wet and not place.pictured)
        self.falls.setEnabled(self.slope.isEnabled() and place.slope_deg != 0.0)
        self.wide.show_value(place.way_m)
        for field, number in self.counts.items():
            number.show_value(getattr(place, field))
        if rebuilt:
            self._list()
        self.add.setEnabled(len(place.around) < _MOST)

    def _tell(self, **values: object) -> None:
        self._place = msgspec.structs.replace(self._place, **values)
        self.changed.emit(self._place)

    def _renamed(self) -> None:
        name = self.name.text().strip()
        if name and name != self._place.name:
            self._tell(name=name[:80])

    def _far(self) -> None:
        try:
            horizon = horizon_of(self.horizon.text())
        except InputError as error:
            self.trouble.emit(str(error))
            return
        self.trouble.emit("")
        if horizon != self._place.horizon:
            self._tell(horizon=horizon)

    # What stands about
    def _list(self) -> None:
        while self._things.count():
            item = self._things.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        for at, one in enumerate(self._place.around):
            what, side = (
                choice(f"Thing {at + 1}", _WHATS),
                choice(f"Side of thing {at + 1}", [(s, s) for s in SIDES[one.what]]),
            )
            what.setCurrentIndex(what.findData(one.what))
            side.setCurrentIndex(side.findData(one.side))
            side.setEnabled(side.count() > 1)
            away, high = (
                Number("away", " m", 0, 500, 0.5, 1),
                Number("low" if one.what == "water" else "high", " m", 0, 500, 0.5, 1),
            )
            away.show_value(one.away_m)
            high.show_value(one.height_m)
            gone = button("Take out", partial(self._remove, at))
            gone.setAccessibleName(f"Take thing {at + 1} out")
            what.activated.connect(partial(self._set_what, at, what))
            side.activated.connect(lambda _i, at=at, side=side: self._set(at, side=side.currentData()))
            away.edited.connect(lambda m, at=at: self._set(at, away_m=round(m, 2)))
            high.edited.connect(lambda m, at=at: self._set(at, height_m=round(m, 2)))
            for column, thing in enumerate((what, side, away, high, gone)):
                self._things.addWidget(thing, at, column)

    def _set(self, at: int, **values: object) -> None:
        around = list(self._place.around)
        around[at] = msgspec.structs.replace(around[at], **values)
        self._tell(around=tuple(around))

    def _set_what(self, at: int, box: QComboBox, _index: int) -> None:
        what, one = box.currentData(), self._place.around[at]
        side = one.side if one.side in SIDES[what] else SIDES[what][0]
        self._set(at, what=what, side=side)
        self._list()

    def _add(self) -> None:
        self._tell(around=(*self._place.around, Standing(what="trees", side="left", away_m=8.0, height_m=7.0)))
        self._list()

    def _remove(self, at: int) -> None:
        self._tell(around=tuple(one for number, one in enumerate(self._place.around) if number != at))
        self._list()

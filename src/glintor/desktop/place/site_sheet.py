"""The site in a sheet of its own: where and when the day is, what the air does, what stands over the way."""

from pathlib import Path
from zoneinfo import available_timezones

import msgspec
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QFileDialog,
    QFormLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from glintor.desktop.controls import Chips, Number, button, label, row
from glintor.errors import InputError
from glintor.placement.clock import clock
from glintor.placement.sun import local_time
from glintor.project.rests import minute_of, rest_words, rests_of
from glintor.project.route import on_route, read_gpx
from glintor.project.site import Site, Waypoint
from glintor.project.zone import hours_off, zone_at

_NO_AIR_C = -41.0  # the control's lowest place stands for "unknown"


def _hour(name: str, minute: float | None, without: str) -> QLineEdit:
    """A field for an hour of the day; without: what it says where none is told."""
    field = QLineEdit("" if minute is None else clock(minute))
    field.setAccessibleName(name)
    field.setPlaceholderText(without)
    field.setFixedWidth(84)
    return field


class SiteSheet(QDialog):
    """`taken` gives the changed site; nothing is changed before, and wrong entries are said in the sheet itself."""

    taken = pyqtSignal(object)

    def __init__(self, site: Site, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Site, day and weather")
        self._site = site
        self.name, self.day = QLineEdit(site.name), QLineEdit(site.day)
        self.zone = QComboBox()
        self.zone.setEditable(True)
        self.zone.addItems(sorted(available_timezones()))
        self.zone.setCurrentText(site.zone)
        self.lat = Number("North", "°", -90.0, 90.0, 0.01, 5)
        self.lon = Number("East", "°", -180.0, 180.0, 0.01, 5)
        self.way = Number("Way ahead", "°", 0.0, 359.0, 5.0, 0)
        self.lowest = Number("Lowest obstacle", " m", 0.0, 50.0, 0.05, 2, least="not known")
        self.wind = Number("Wind", " m/s", 0.0, 30.0, 0.5, 1)
        self.clouds = Number("Clouds", " %", 0.0, 100.0, 5.0, 0)
        self.branches = Number("Lowest branch", " m", 0.0, 50.0, 0.1, 1, least="not known")
        self.lean = Number("Carrier leans", "°", 0.0, 45.0, 1.0, 0)
        self.line = Number("Power line", " m", 0.0, 500.0, 1.0, 0, least="none seen")
        self.speed = Number("Speed", " m/s", 0.0, 60.0, 0.5, 1, least="usual")
        self.air = Number("Air", " °C", _NO_AIR_C, 50.0, 1.0, 0, least="unknown")
        self.wireless = QCheckBox("wireless on")
        self.wireless.setToolTip("A phone or a remote is connected while filming; batteries last less")
        self.wireless.setChecked(site.wireless)
        self.leg = Number("A leg of the route", " min", 0.0, 600.0, 5.0, 0)
        self.to_first = Number("To the first shot", " min", 0.0, 1000.0, 5.0, 0)
        self.home = Number("home again", " min", 0.0, 1000.0, 5.0, 0)
        self.rests = QLineEdit(rest_words(site.rests))
        self.rests.setAccessibleName("Rests")
        self.rests.setPlaceholderText("12:30 45, 16:00 15")
        self.rests.setToolTip("When nothing is done: the hour, and how many minutes; then the next")
        self.home_by = _hour("Home by", site.home_by_min, "any time")
        self.leave = _hour("Leave home at", site.leave_min, "in time")
        self.leave.setToolTip(
            "Without it: early enough for the first light asked for, and for what has its hour; else at sunrise"
        )
        self.permission = Chips("Permission", [("unknown", "not asked"), ("given", "given"), ("free", "not needed")])
        self.hazards, self.route = QLineEdit(site.hazards), QLineEdit(", ".join(site.route))
        self.mains = Chips("Lamps", [(50.0, "50 Hz"), (60.0, "60 Hz")])
        self._show_numbers(site)
        self._mains_hz, self._permission = site.mains_hz, site.permission
        self._track, self._waypoints = site.track, site.waypoints
        self.permission.show_value(site.permission)
        self.permission.chosen.connect(self._choose_permission)
        self.mains.show_value(site.mains_hz)
        self.mains.chosen.connect(self._choose_mains)
        self.other_zone = button("", self._take_zone, tip="By the map of time zones")
        for box in (self.lat.box, self.lon.box):
            box.valueChanged.connect(lambda _value: self._weigh_zone())
        self.zone.currentTextChanged.connect(lambda _words: self._weigh_zone())
        self.day.editingFinished.connect(self._weigh_zone)
        self.trouble = label("", "stopwords")
        self.trouble.setWordWrap(True)
        self.trouble.setAccessibleName("What is wrong")
        self._lay()
        self._weigh_zone()

    def _show_numbers(self, site: Site) -> None:
        for number, value in (
            (self.lat, site.lat_deg),
            (self.lon, site.lon_deg),
            (self.way, site.way_bearing_deg % 360.0),
            (self.lowest, site.lowest_m or 0.0),
            (self.wind, site.wind_m_s),
            (self.clouds, 100.0 * site.cloud_share),
            (self.branches, site.branches_m or 0.0),
            (self.lean, site.lean_deg),
            (self.line, site.power_line_m),
            (self.leg, site.leg_min),
            (self.to_first, site.to_first_min),
            (self.home, site.home_min),
            (self.speed, site.speed_m_s),
            (self.air, _NO_AIR_C if site.air_c is None else site.air_c),
        ):
            number.show_value(value)

    def _lay(self) -> None:
        page = QVBoxLayout(self)
        page.setContentsMargins(18, 16, 18, 14)
        page.setSpacing(10)
        form = QFormLayout()
        form.setLabelAlignment(Qt.AlignmentFlag.AlignLeft)
        form.setHorizontalSpacing(14)
        for words, field in (
            ("Name", self.name),
            ("Day", self.day),
            ("Time zone", self.zone),
            ("Places of the route", self.route),
            ("Hazards", self.hazards),
        ):
            field.setAccessibleName(words)
            title = label(words, "soft")
            title.setBuddy(field)
            form.addRow(title, field)
        self.day.setPlaceholderText("2026-09-26")
        page.addLayout(form)
        read = button(
            "From a GPX file…", self._ask_route, tip="Takes coordinates, way ahead, places and points of a track"
        )
        page.addLayout(row(self.lat, self.lon, self.way, read, None, spacing=12))
        page.addWidget(self.other_zone)
        page.addLayout(row(self.lowest, self.branches, self.lean, None, spacing=12))
        page.addLayout(row(self.line, self.leg, self.permission, None, spacing=12))
        begins, ends = (label("Leave home at", "soft"), self.leave), (label("back by", "soft"), self.home_by)
        page.addLayout(row(*begins, self.to_first, self.home, *ends, None, stretch=False, spacing=8))
        page.addLayout(row(label("Rests", "soft"), self.rests, stretch=False, spacing=8))
        page.addLayout(row(self.wind, self.clouds, self.speed, self.mains, None, spacing=12))
        page.addLayout(row(self.air, self.wireless, None, spacing=12))
        page.addWidget(self.trouble)
        leave, take = button("Leave it", self.reject), button("Take over", self.take, main=True)
        page.addLayout(row(None, leave, take, spacing=8, stretch=False))
        for other in self.findChildren(QPushButton):
            other.setAutoDefault(False)  # Return takes over, and presses nothing else
        for line in (self.name, self.day, self.route, self.hazards):
            line.returnPressed.connect(self.take)

    def _weigh_zone(self) -> None:
        """Says when the time zone is not the place's."""
        place = self.lat.box.value(), self.lon.box.value()
        off = hours_off(*place, self.day.text().strip(), self.zone.currentText().strip()) if any(place) else 0.0
        self.other_zone.setVisible(bool(off))
        if off:
            there = zone_at(*place)
            self.other_zone.setText(
                f"The place lies in {there}, {abs(off):g} h {'behind' if off > 0 else 'ahead of'} this zone: take it"
            )

    def _take_zone(self) -> None:
        self.zone.setCurrentText(zone_at(self.lat.box.value(), self.lon.box.value()))
        self._weigh_zone()

    def _choose_mains(self, hz: float) -> None:
        self._mains_hz = hz

    def _choose_permission(self, permission: str) -> None:
        self._permission = permission  # type: ignore[assignment]

    def _ask_route(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "A route", "", "Routes (*.gpx)")
        if name:
            self.read_route(Path(name))

    def read_route(self, file: Path) -> None:
        """Fills in what a GPX file knows, or says what is wrong with it."""
        try:
            route = read_gpx(file)
        except InputError as error:
            self.trouble.setText(str(error))
            return
        self._track, self._waypoints = route.points, ()
        for number, value in (
            (self.lat, route.points[0].lat_deg),
            (self.lon, route.points[0].lon_deg),
            (self.way, route.bearing_deg),
        ):
            number.show_value(value)
        if route.speed_m_s:
            self.speed.show_value(route.speed_m_s)
        if route.places:
            self.route.setText(", ".join(name for name, _, _ in route.places))
            self._waypoints = tuple(Waypoint(name=name, lat_deg=lat, lon_deg=lon) for name, lat, lon in route.places)
        site, words = on_route(self._site, route)
        self.zone.setCurrentText(site.zone)
        self.trouble.setText(words)
        self._weigh_zone()

    def take(self) -> None:
        """Hands the site over, or says what is wrong with it."""
        try:
            site = self._entered()
        except InputError as error:
            self.trouble.setText(str(error))
            return
        self.taken.emit(site)
        self.accept()

    def _entered(self) -> Site:
        if not self.name.text().strip():
            raise InputError("The site has no name.", advice="Give it one.")
        if not self._site.known and self.lat.box.value() == self.lon.box.value() == 0.0:
            raise InputError(
                "Nobody said yet where this is.", advice="Type latitude and longitude, or read a GPX file."
            )
        site = msgspec.structs.replace(
            self._site,
            known=True,
            name=self.name.text().strip(),
            day=self.day.text().strip(),
            zone=self.zone.currentText().strip(),
            lat_deg=self.lat.box.value(),
            lon_deg=self.lon.box.value(),
            way_bearing_deg=self.way.box.value(),
            lowest_m=self.lowest.box.value() or None,
            wind_m_s=self.wind.box.value(),
            cloud_share=self.clouds.box.value() / 100.0,
            mains_hz=self._mains_hz,
            branches_m=self.branches.box.value() or None,
            lean_deg=self.lean.box.value(),
            power_line_m=self.line.box.value(),
            leg_min=self.leg.box.value(),
            to_first_min=self.to_first.box.value(),
            home_min=self.home.box.value(),
            home_by_min=minute_of(self.home_by.text()) if self.home_by.text().strip() else None,
            leave_min=minute_of(self.leave.text()) if self.leave.text().strip() else None,
            rests=rests_of(self.rests.text()),
            speed_m_s=self.speed.box.value(),
            air_c=None if self.air.box.value() <= _NO_AIR_C else self.air.box.value(),
            wireless=self.wireless.isChecked(),
            permission=self._permission,
            hazards=self.hazards.text().strip(),
            track=self._track,
            waypoints=self._waypoints,
            route=tuple(place.strip() for place in self.route.text().split(",") if place.strip()),
        )
        local_time(site.day, site.zone, 0.0)
        return site

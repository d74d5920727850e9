"""The way of the day in a sheet: the shots are put where they are filmed, and take bearing, slope, pace and hour from there."""

from pathlib import Path

import msgspec
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QFileDialog, QHBoxLayout, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from glintor.desktop.controls import button, label, row
from glintor.desktop.document import Document
from glintor.desktop.place.track_chart import TrackChart
from glintor.errors import InputError
from glintor.placement.clock import clock
from glintor.project.model import Shot
from glintor.project.route import on_route, read_gpx
from glintor.project.track import put_along, way_of
from glintor.sphere.angle import bearing_text

_INSIDE_PX = 30
_DRAG = "drag-along"


class TrackSheet(QDialog):
    """Works on the day as it is; each move along the way is one undo step."""

    def __init__(self, document: Document, parent: QWidget) -> None:
        super().__init__(parent)
        self._document = document
        self.setWindowTitle("The way of the day")
        over = parent.window() or parent
        self.resize(min(1040, over.width() - _INSIDE_PX), min(660, over.height() - _INSIDE_PX))
        self.chart, self.list = TrackChart(), QListWidget()
        self.list.setAccessibleName("Shots")
        self.list.setFixedWidth(210)
        self.words, self.facts, self.trouble = label(""), label("", "soft"), label("", "stopwords")
        self.words.setWordWrap(True)
        self.trouble.setWordWrap(True)
        page, both = QVBoxLayout(self), QHBoxLayout()
        page.setContentsMargins(18, 14, 18, 14)
        page.setSpacing(8)
        both.setSpacing(14)
        both.addWidget(self.chart, 1)
        both.addWidget(self.list)
        page.addLayout(both, 1)
        page.addWidget(self.words)
        page.addWidget(self.facts)
        page.addWidget(self.trouble)
        read = button("Read a GPX file…", self._ask, tip="A track, recorded or drawn, with its waypoints")
        off = button("Take it off the way", self._take_off, tip="The chosen shot is nowhere along it any more")
        page.addLayout(row(read, off, None, button("Close", self.accept, main=True), stretch=False, spacing=8))
        self.chart.moved.connect(self._move)
        self.chart.chosen.connect(self._document.choose_shot)
        self.chart.ended.connect(self._document.end_gesture)
        self.list.currentItemChanged.connect(self._choose)
        document.changed.connect(self.refresh)
        document.shot_chosen.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        project, chosen = self._document.project, self._document.shot
        way, site = way_of(project.site), project.site
        shots = [(s.id, s.name, s.along_m) for s in project.shots if s.along_m is not None]
        places: list[tuple[str, float, float]] = []
        if way is not None:
            places = [(spot.name, *way.plane_of(spot.lat_deg, spot.lon_deg)) for spot in site.waypoints]
        self.chart.show_way(way, shots, places, chosen.id)
        self.list.blockSignals(True)
        self.list.clear()
        for shot in project.shots:
            where = (
                "not on the way yet"
                if shot.along_m is None
                else f"{shot.along_m / 1000:.2f} km · {clock(shot.start_min)}"
            )
            item = QListWidgetItem(f"{shot.name}\n{where}")
            item.setData(Qt.ItemDataRole.UserRole, shot.id)
            self.list.addItem(item)
            if shot.id == chosen.id:
                self.list.setCurrentItem(item)
        self.list.blockSignals(False)
        self.words.setText(self._told(chosen))

    def _told(self, shot: Shot) -> str:
        way = way_of(self._document.project.site)
        if way is None:
            return "A shot that is put on the way takes its bearing, slope, pace and hour from there; each can be changed by hand after."
        if shot.along_m is None:
            return f"{shot.name} is nowhere on the way yet: click on the way where it is filmed."
        spot = way.at(shot.along_m)
        told = [f"{shot.name}: {spot.along_m / 1000:.2f} km along", f"way ahead {bearing_text(spot.bearing_deg)}"]
        if spot.up_m is not None and spot.slope_deg is not None:
            told += [
                f"{spot.up_m:.0f} m up",
                f"{'uphill' if spot.slope_deg >= 0 else 'downhill'} {abs(spot.slope_deg):.0f}°",
            ]
        else:
            told.append("no heights in this track")
        told.append("no times in this track" if spot.minute is None else f"passed at {clock(spot.minute % 1440.0)}")
        if spot.speed_m_s is not None:
            taken = "" if shot.placement.speed_m_s is not None else ", not this carrier's pace"
            told.append(f"at {3.6 * spot.speed_m_s:.1f} km/h{taken}")
        return ", ".join(told) + "."

    # Changes
    def _choose(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self._document.choose_shot(item.data(Qt.ItemDataRole.UserRole))

    def _move(self, shot_id: str, along_m: float) -> None:
        project = self._document.project
        new = project.with_shot(shot_id, lambda shot: put_along(project.site, shot, along_m))
        self._document.edit("Put the shot on the way", new, _DRAG)

    def _take_off(self) -> None:
        self._document.edit_shot("Take the shot off the way", lambda s: msgspec.structs.replace(s, along_m=None))

    def _ask(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "The way", "", "Routes (*.gpx)")
        if name:
            self.read(Path(name))

    def read(self, file: Path) -> None:
        """Takes the way from a GPX file, or says why not."""
        try:
            route = read_gpx(file)
        except InputError as error:
            self.trouble.setText(str(error))
            return
        project = self._document.project
        site, words = on_route(project.site, route)
        shots = tuple(msgspec.structs.replace(shot, along_m=None) for shot in project.shots)
        self._document.edit("Read the way", msgspec.structs.replace(project, site=site, shots=shots))
        self.trouble.setText("")
        self.facts.setText(words)

"""The Place desk's widgets and where they stand: the foresight is the largest, under it the charts and what is typed."""

from collections.abc import Mapping

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from glintor.desktop.controls import Chips, Elided, Figures, Number, button, choice, offer, row
from glintor.desktop.desk import Desk
from glintor.desktop.document import Document
from glintor.desktop.frame_view import FrameView
from glintor.desktop.jobs import Jobs
from glintor.desktop.place.plan_view import PlanView
from glintor.desktop.place.side_view import SideView
from glintor.desktop.sphere_view import SphereView
from glintor.export.formats import FORMATS, LANDSCAPE
from glintor.placement.carrier import Carrier
from glintor.placement.fitting import holds, possible
from glintor.placement.mounts import FAMILIES

FIGURES = {
    "seam at subject": "seam",
    "stick off line": "tilt",
    "high in 16:9": "size",
    "head : feet": "shape",
}  # and their findings
_FIRST = "Drawing the place. The very first time takes about half a minute."
_CONTROLS_PX = 362
_ROOMY_PX = 470  # from this height on there is room for every line of the controls
_LEAST_PX = 120  # of the boxes that name set-up and place


SUBJECT = "subject_"  # before a number of the subject's rather than the camera's


class PlaceBoard(Desk):
    """Makes them; what they do is the desk's."""

    name = "Place"
    plans = True
    draws_gestures = True

    def __init__(self, document: Document, jobs: Jobs, parent: QWidget) -> None:
        super().__init__(document, jobs, parent)
        self.plan, self.side = PlanView(), SideView()
        self.sphere = SphereView("Foresight: the sphere this placement gives", (300, 120), empty=_FIRST)
        self.frames = {
            shape.name: FrameView(f"Foresight {shape.name}", shape.size_px, (90, 96), hand=shape is LANDSCAPE)
            for shape in FORMATS
        }
        self.moment = Chips("View", [("opening", "start"), ("closing", "end")])
        self.figures = Figures(list(FIGURES), columns=2)
        self.sticks = Chips("Stick", [])
        self.stage = button("", self.open_places, tip="Where the shot is: places to choose from, and your own (F6)")
        self.ride = button("", self.open_carriers, tip="What carries the camera: carriers, and your own (F7)")
        self.who = button("", self.open_subjects, tip="Who and what is filmed: people, carriers, animals, the way (F8)")
        self.setups = choice("Set-up", letters=9)
        self._offered: Carrier | None = None
        for box in (self.setups, self.stage, self.ride, self.who):
            box.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
            box.setMinimumWidth(_LEAST_PX)
        self.shows = Elided("", "soft")
        self.heading = Number("Front lens", "°", -180, 180, 5, 0)
        self.heading.name.setText("Lens")
        self.lean = Number("Lean", "°", -60, 60, 1, 0, bare=True)
        self.tilt = Number("Joint", "°", -30, 30, 0.1, bare=True)
        self.exact = {
            field: Number(words, " m", -60, 60, 0.05, 2, bare=True)
            for field, words in (
                ("ahead_m", "Camera ahead"),
                ("left_m", "left"),
                ("subject_ahead_m", "Subject ahead"),
                ("subject_left_m", "left"),
            )
        }
        for field, words in (
            ("ahead_m", "Camera ahead of the carrier's middle"),
            ("left_m", "Camera to the left of it"),
            ("subject_ahead_m", "Subject ahead of the carrier's middle"),
            ("subject_left_m", "Subject to the left of it"),
        ):
            self.exact[field].box.setAccessibleName(words)
            self.exact[field].setToolTip(words)
        self.wish_button = button(
            "Wish for a look…", self.open_wish, tip="Ask for a look; Glintor searches where the camera must go (Ctrl+W)"
        )
        self.shot_button = button(
            "This shot…",
            self.open_shot,
            tip="Purpose, place in the story, length, formats, the light it needs (Ctrl+J)",
        )
        self._lay()

    def offer_setups(self, carrier: Carrier, carriers: Mapping[str, str]) -> None:
        """Every set-up by family: on each thing of the carrier that takes it; those of other carriers name theirs; what
        cannot be is faint and says why."""
        if carrier == self._offered:
            return
        self._offered = carrier
        entries: list[tuple[object, str]] = []
        whys: list[str] = []
        for family in FAMILIES:
            entries.append(("", family.upper()))
            whys.append("")
            for setup, why in possible(carrier):
                if setup.family != family:
                    continue
                found = holds(setup, carrier) if not why else []
                own = setup.on and setup.carrier == carrier.id  # its own name says on what it is
                several = len(found) > 1 and setup.takes not in ("hand", "body") and not own
                for on, words in found if several else [("", "")]:
                    there = f" on {words}" if several and setup.takes != "hang" else f" from {words}" if several else ""
                    other = f" ({carriers.get(setup.carrier, setup.carrier)})" if why and setup.on else ""
                    entries.append((f"{setup.id}@{on}" if on else setup.id, setup.words + there + other))
                    whys.append("" if not why or setup.on else why)
        self.setups.blockSignals(True)
        offer(self.setups, entries)
        for at, ((value, _), why) in enumerate(zip(entries, whys, strict=True)):
            if not value or why:  # a head, or not to be had here
                self.setups.setItemData(at, 0, Qt.ItemDataRole.UserRole - 1)
            if why:
                self.setups.setItemData(at, why, Qt.ItemDataRole.ToolTipRole)
        self.setups.blockSignals(False)

    def show_setup(self, setup_id: str, on: str) -> None:
        at = self.setups.findData(f"{setup_id}@{on}") if on else -1
        self.setups.setCurrentIndex(at if at >= 0 else self._first(setup_id))

    def _first(self, setup_id: str) -> int:
        values = [str(self.setups.itemData(at) or "").partition("@")[0] for at in range(self.setups.count())]
        return values.index(setup_id) if setup_id in values else -1

    def open_places(self) -> None:
        raise NotImplementedError

    def open_carriers(self) -> None:
        raise NotImplementedError

    def open_subjects(self) -> None:
        raise NotImplementedError

    def open_wish(self) -> None:
        raise NotImplementedError

    def open_shot(self) -> None:
        raise NotImplementedError

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """In a low window the line that says what a set-up shows makes room; it is the box's tool tip as well."""
        super().resizeEvent(event)
        self.shows.setVisible(self.height() >= _ROOMY_PX)

    def _lay(self) -> None:
        page = QVBoxLayout(self)
        page.setContentsMargins(14, 6, 14, 6)
        page.setSpacing(8)
        flat = QVBoxLayout()
        flat.setSpacing(8)
        wide, *others = self.frames.values()
        flat.addWidget(wide, 5)
        under = row(*others, self.figures, stretch=False, spacing=8)
        for at, shape in enumerate(FORMATS[1:]):
            under.setStretch(at, max(round(10 * shape.size_px[0] / shape.size_px[1]), 7))
        under.setStretch(len(others), 14)
        flat.addLayout(under, 4)
        pictures = QHBoxLayout()
        pictures.setSpacing(8)
        pictures.addWidget(self.sphere, 3)
        pictures.addLayout(flat, 2)
        page.addLayout(pictures, 3)
        below = QHBoxLayout()
        below.setSpacing(8)
        below.addWidget(self.plan, 5)
        below.addWidget(self.side, 4)
        controls = QWidget()
        controls.setLayout(self._controls())
        controls.setMinimumWidth(_CONTROLS_PX)
        below.addWidget(controls, 6)
        page.addLayout(below, 2)

    def _controls(self) -> QVBoxLayout:
        """Set-up, place and numbers."""
        column = QVBoxLayout()
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addLayout(row(self.setups, self.ride, stretch=False, spacing=6))
        column.addLayout(row(self.who, self.stage, stretch=False, spacing=6))
        column.addWidget(self.shows)
        column.addLayout(row(self.sticks, self.heading, spacing=10))
        ahead, aside, other, other_aside = self.exact.values()
        column.addLayout(row(ahead, aside, self.lean, spacing=6))
        column.addLayout(row(other, other_aside, self.tilt, spacing=6))
        column.addLayout(row(self.moment, None, self.wish_button, self.shot_button, stretch=False, spacing=8))
        return column

"""The simulated camera at the Record desk: what can be chosen of it, and what it gives behind the one link."""

import math
from contextlib import suppress

import msgspec
from msgspec.structs import replace
from PyQt6.QtWidgets import QCheckBox, QWidget

from glintor.desktop.controls import Number, choice, titled
from glintor.desktop.document import Document
from glintor.files import WriteError, write_bytes
from glintor.plan.budget import budget_of, charge_at
from glintor.recording.power import USUAL_AIR_C, Body
from glintor.simulation.body import Faults, SimulatedCamera
from glintor.simulation.recording import CLIP_WIDTHS_PX, Recording

_KEPT = ".camera.json"
_FAULTS = (
    ("", "nothing goes wrong"),
    ("full", "the card is full"),
    ("flat", "the battery is flat"),
    ("refuses", "the card refuses to be written"),
    ("pulled", "the card is pulled out"),
)


class Simulated:
    """A camera that films the place as drawn. Its battery and its warmth go on from take to take."""

    words = "Simulated camera"

    def __init__(self, document: Document) -> None:
        self._document = document
        self._last: SimulatedCamera | None = None
        self._body: Body | None = None  # as the day's budget has it, until it has filmed
        self.film = Number("Film", " s", 1, 60, 1, 0)
        self.film.show_value(3)
        self.width = choice(
            "Size of the recording", [(pixels, f"{pixels} x {pixels // 2}") for pixels in CLIP_WIDTHS_PX]
        )
        self.width.setCurrentIndex(1)
        self.lenses = QCheckBox("both lenses")
        self.lenses.setToolTip("Renders each lens from its own centre, with the seam as it will be; twice as slow")
        self.fault = choice("Rehearse a fault", _FAULTS)

    @property
    def film_s(self) -> float:
        """How long a take becomes unless it is stopped."""
        return self.film.box.value()

    @property
    def of_the_take(self) -> tuple[QWidget, ...]:
        return self.film, *titled("Size", self.width), self.lenses

    @property
    def of_the_camera(self) -> tuple[QWidget, ...]:
        return titled("Rehearse", self.fault)

    def _kept(self) -> Body | None:
        """The battery as the window left it; None where nothing was kept, or nothing that can be read."""
        try:
            return msgspec.json.decode((self._document.file.parent / _KEPT).read_bytes(), type=Body)
        except (OSError, msgspec.MsgspecError):
            return None

    def keep(self) -> None:
        """Keeps the battery beside the card, for the next time that this day is opened."""
        body = self._last.body if self._last is not None and self._last.body.charge > 0.0 else self._body
        if body is not None and self._document.card.is_dir():
            with suppress(WriteError):
                write_bytes(self._document.file.parent / _KEPT, msgspec.json.encode(body))

    def link(self) -> SimulatedCamera:
        """The camera before the shot at hand."""
        document, shot = self._document, self._document.shot
        if self._last is not None and self._last.body.charge > 0.0:  # not the flat one that was rehearsed
            self._body = self._last.body
        if self._body is None:
            air = USUAL_AIR_C if document.project.site.air_c is None else document.project.site.air_c
            self._body = self._kept() or Body(charge_at(budget_of(document.project), shot.start_min), air)
        recording = Recording(
            shot,
            document.project.site,
            document.camera,
            self.film_s,
            self.width.currentData(),
            seed=len(shot.takes) + 7,
            two_lenses=self.lenses.isChecked(),
        )
        fault, half = self.fault.currentData(), self.film_s / 2.0
        camera = SimulatedCamera(
            recording,
            document.card,
            card_bytes=0.0 if fault == "full" else math.inf,
            body=replace(self._body, charge=0.0) if fault == "flat" else self._body,
            faults=Faults(
                card_refuses_s=half if fault == "refuses" else math.inf,
                card_pulled_s=half if fault == "pulled" else math.inf,
            ),
        )
        if self._last is None or not self._last.rolling:
            self._last = camera
        return camera

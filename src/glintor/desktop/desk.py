"""What every desk is: a page that draws the document and knows its findings."""

from collections.abc import Sequence

import msgspec
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QWidget

from glintor.desktop.document import Document
from glintor.desktop.jobs import Jobs
from glintor.finding import Cure, Finding
from glintor.project.placed import in_reach


class Desk(QWidget):
    """`refresh` draws the document; it is called after each change while the desk is in sight."""

    name = ""
    plans = False  # whether it has a sense only for a shot that somebody planned
    draws_gestures = False  # whether it draws by itself what a gesture changes, and the window may draw the rest later
    findings_changed = pyqtSignal()
    said = pyqtSignal(str)
    refused = pyqtSignal(str)  # what was asked of a list or a field is not done: they show again what holds

    def __init__(self, document: Document, jobs: Jobs, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("desk")
        self.document, self.jobs = document, jobs

    def refresh(self) -> None:
        raise NotImplementedError

    def follow(self) -> None:
        """Draws what a gesture changes, at once; for desks that draw gestures and do not hear of them otherwise."""

    def findings(self) -> Sequence[Finding]:
        """What stands in the strip while this desk is in sight."""
        return ()

    def show_place(self, finding: Finding) -> None:
        """Shows where a finding is."""

    def apply(self, cure: Cure) -> None:
        """Applies a cure as one undo step: a field of the shot set to a value."""
        part, _, field = cure.field.partition(".")
        if cure.field == "placement.reach":
            self.document.edit_shot(
                cure.label,
                lambda s: msgspec.structs.replace(s, placement=in_reach(self.document.project.site, s.placement)),
            )
        elif part == "placement":
            values = msgspec.structs.replace(self.document.shot.placement, **{field: cure.value})
            self.document.edit_shot(
                cure.label, lambda s: msgspec.structs.replace(s, placement=in_reach(self.document.project.site, values))
            )
        elif part == "exposure":
            self.document.edit_exposure(cure.label, **{field: cure.value})

    def leave(self) -> None:
        """The desk goes out of sight."""

    def finish(self) -> None:
        """Brings into the document what is known already, before it is saved for the last time."""

    def close_down(self) -> None:
        """The window closes: end threads."""

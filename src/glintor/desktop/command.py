"""A command, and what commands may ask of the window."""

from collections.abc import Callable
from typing import TYPE_CHECKING, Protocol

from msgspec import Struct
from PyQt6.QtGui import QAction

from glintor.desktop.host import Host

if TYPE_CHECKING:
    from glintor.desktop.clip_work import ClipWork
    from glintor.desktop.day_work import DayWork
    from glintor.desktop.edges import Edges
    from glintor.desktop.export.desk import ExportDesk
    from glintor.desktop.expose.desk import ExposeDesk
    from glintor.desktop.file_work import FileWork
    from glintor.desktop.offload.desk import OffloadDesk
    from glintor.desktop.place.desk import PlaceDesk
    from glintor.desktop.record.desk import RecordDesk
    from glintor.desktop.reframe.tracking import Tracking
    from glintor.desktop.shot_work import ShotWork
    from glintor.desktop.take_work import TakeWork


class Commanded(Host, Protocol):
    """The window as its menus see it: the desks, and who works on the day, its shots, clips and takes."""

    actions_by_id: dict[str, QAction]
    day_work: "DayWork"
    shot_work: "ShotWork"
    file_work: "FileWork"
    clip_work: "ClipWork"
    take_work: "TakeWork"
    tracking: "Tracking"
    edges: "Edges"

    @property
    def place(self) -> "PlaceDesk": ...

    @property
    def expose(self) -> "ExposeDesk": ...

    @property
    def record(self) -> "RecordDesk": ...

    @property
    def offload(self) -> "OffloadDesk": ...

    @property
    def export(self) -> "ExportDesk": ...

    def explain(self) -> None:
        """Opens the sheet that says how the numbers of the desk in sight come about."""

    def open_take_sheet(self) -> None:
        """Opens the sheet of the recording at hand."""

    def dusk(self) -> None:
        """Changes between day and dusk colours."""

    def look_alone(self) -> None:
        """The flat frame alone on the whole screen, or everything again."""


class ActionSpec(Struct, frozen=True):
    """A command: its words and keys, what it does to a window, and the desk that it has a sense on ("" is every desk)."""

    id: str
    menu: str
    text: str
    keys: str
    do: Callable[[Commanded], object]
    desk: str = ""

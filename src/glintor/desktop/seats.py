"""The six desks, built when they are first needed or one by one while the person looks at the first."""

import threading
from collections.abc import Callable
from functools import cached_property
from typing import TYPE_CHECKING, TypeVar

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtWidgets import QStackedWidget

from glintor.desktop.desk import Desk
from glintor.desktop.document import Document
from glintor.desktop.jobs import Jobs
from glintor.desktop.unplanned import Unplanned

if TYPE_CHECKING:
    from glintor.desktop.export.desk import ExportDesk
    from glintor.desktop.expose.desk import ExposeDesk
    from glintor.desktop.offload.desk import OffloadDesk
    from glintor.desktop.place.desk import PlaceDesk
    from glintor.desktop.record.desk import RecordDesk
    from glintor.desktop.reframe.desk import ReframeDesk
    from glintor.export.queue import Queue

NAMES = ("place", "expose", "record", "offload", "reframe", "export")
_LATER_MS = 150
_D = TypeVar("_D", bound=Desk)


class Seats(QStackedWidget):
    """Holds the desks of one document."""

    seated = pyqtSignal(object)  # a desk that is new
    warmed = pyqtSignal(str)  # what cannot be kept
    clip_seen = pyqtSignal(object)  # the footage of which the Reframe desk shows a picture
    turning_missed = pyqtSignal(object, object)  # take and footage of which nobody knows how it turned
    hold_asked = pyqtSignal(str)  # another way of holding the take still
    recording_asked = pyqtSignal()
    written = pyqtSignal()  # films, by the Export desk
    site_asked = pyqtSignal()
    plan_asked = pyqtSignal()
    take_opened = pyqtSignal(str, str)
    proxies_wanted = pyqtSignal(object)
    unsure = pyqtSignal(object)
    card_came = pyqtSignal(object)

    def __init__(self, document: Document, jobs: Jobs, queue: "Queue | None") -> None:
        super().__init__()
        self._document, self._jobs, self._queue = document, jobs, queue
        self._closed = False

    @cached_property
    def place(self) -> "PlaceDesk":
        from glintor.desktop.place.desk import PlaceDesk

        return self._seat(PlaceDesk(self._document, self._jobs, self))

    @cached_property
    def expose(self) -> "ExposeDesk":
        from glintor.desktop.expose.desk import ExposeDesk

        return self._seat(ExposeDesk(self._document, self._jobs, self))

    @cached_property
    def record(self) -> "RecordDesk":
        from glintor.desktop.record.desk import RecordDesk
        from glintor.desktop.record.simulated import Simulated

        desk = RecordDesk(self._document, self._jobs, self, Simulated(self._document))
        desk.fetched.connect(self.card_came)
        return self._seat(desk)

    @cached_property
    def offload(self) -> "OffloadDesk":
        from glintor.desktop.offload.desk import OffloadDesk

        desk = OffloadDesk(self._document, self._jobs, self)
        desk.opened.connect(self.take_opened)
        desk.proxies_wanted.connect(self.proxies_wanted)
        desk.unsure.connect(self.unsure)
        return self._seat(desk)

    @cached_property
    def reframe(self) -> "ReframeDesk":
        from glintor.desktop.reframe.desk import ReframeDesk

        desk = ReframeDesk(self._document, self._jobs, self)
        desk.clip_seen.connect(self.clip_seen)
        desk.turning_missed.connect(self.turning_missed)
        desk.hold_asked.connect(self.hold_asked)
        desk.recording_asked.connect(self.recording_asked)
        return self._seat(desk)

    @cached_property
    def export(self) -> "ExportDesk":
        from glintor.desktop.export.desk import ExportDesk
        from glintor.export.queue import Queue

        desk = ExportDesk(self._document, self._jobs, self, self._queue if self._queue is not None else Queue())
        desk.written.connect(self.written)
        QTimer.singleShot(0, desk.rendering.resume)
        return self._seat(desk)

    @cached_property
    def unplanned(self) -> Unplanned:
        page = Unplanned(self._document, self._jobs, self)
        page.site_asked.connect(self.site_asked)
        page.plan_asked.connect(self.plan_asked)
        return self._seat(page)

    def _seat(self, desk: _D) -> _D:
        self.addWidget(desk)
        self.seated.emit(desk)
        return desk

    def desk(self, number: int) -> Desk:
        """The desk of that number; on those that plan, of a shot without a plan, the page that says so."""
        desk: Desk = getattr(self, NAMES[number])
        return self.unplanned if desk.plans and self._document.shot not in self._document.project.planned else desk

    def built(self) -> list[Desk]:
        return [self.__dict__[name] for name in NAMES if name in self.__dict__]

    def build_rest(self) -> None:
        """Builds one of the desks that are still missing and comes back for the others; at last loads what they need."""
        missing = [name for name in NAMES if name not in self.__dict__]
        if self._closed:
            return
        if self._jobs.running or not getattr(self.currentWidget(), "settled", True):  # what was asked for comes first
            QTimer.singleShot(_LATER_MS, self.build_rest)
            return
        if not missing:
            _warm(self.warmed.emit)
            return
        getattr(self, missing[-1])
        QTimer.singleShot(0, self.build_rest)

    def close_down(self) -> None:
        """The window closes: end threads."""
        self._closed = True
        for desk in self.built():
            desk.close_down()


def _warm(told: Callable[[str], object]) -> None:
    """Loads in the background what the first clip and the first frame need, once the window is there; tells where
    something has no place to be kept."""

    def load() -> None:
        import av
        import scipy.signal  # noqa: F401

        from glintor.pixels import kernels, sampling
        from glintor.pixels.compiling import Kernels
        from glintor.places import homeless, own_folder

        assert av and kernels and sampling
        if homeless():
            told(f"Your home cannot be written: settings and queue are kept in {own_folder('state').parent} only")
        elif Kernels.words:
            told(Kernels.words)

    threading.Thread(target=load, name="warm", daemon=True).start()

"""The cameras that are held on the link, one for each of the kit's that has an address; the log rolls them and hears of them."""

from collections.abc import Callable
from functools import partial

from msgspec.structs import replace
from PyQt6.QtCore import QObject, pyqtSignal

from glintor.desktop.document import Document
from glintor.desktop.settings import keep_settings, read_settings
from glintor.errors import GlintorError
from glintor.project.log import Event, Log, Tick
from glintor.project.model import Shot
from glintor.recording.held_link import HeldLink, Seen
from glintor.recording.link import CardFile, Options, options_for
from glintor.recording.logbook import now_of, stamp, ticked, with_log
from glintor.recording.web_camera import WebCamera

_LONGEST_S = 6.0  # that the end of a window waits for a camera that does not answer


class Cameras(QObject):
    """`changed` whenever anything is known anew. What cameras say goes into the log; `said` is a word for the person."""

    changed = pyqtSignal()
    said = pyqtSignal(str)
    _heard = pyqtSignal(str, str, object)  # from their threads: which camera, what, and its value

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self._held: dict[str, HeldLink] = {}
        self._shot_of: dict[str, tuple[str, str]] = {}  # for which shot and log each was started
        self._planned: dict[str, Options] = {}
        self._leaving: list[HeldLink] = []
        self._heard.connect(self._hear)

    @property
    def ids(self) -> tuple[str, ...]:
        return tuple(self._held)

    def seen(self, camera_id: str) -> Seen | None:
        held = self._held.get(camera_id)
        return held.seen if held is not None else None

    def address(self, camera_id: str) -> str:
        """The one in use, else the one that was used last."""
        held = self._held.get(camera_id)
        return held.link.wire.address.words if held is not None else read_settings().cameras.get(camera_id, "")

    def hold(self, camera_id: str, address: str) -> None:
        """Takes a camera on the link. Raises LinkError for what is no address."""
        link = WebCamera(address)
        self.let_go(camera_id)
        keep_settings(cameras=read_settings().cameras | {camera_id: link.wire.address.words})
        self._held[camera_id] = HeldLink(link, changed=self.changed.emit, told=partial(self._heard.emit, camera_id))
        self.plan()
        self.changed.emit()

    def let_go(self, camera_id: str) -> None:
        held = self._held.pop(camera_id, None)
        if held is not None:
            held.close()
            self._leaving.append(held)
            self._planned.pop(camera_id, None)
            self.changed.emit()

    def _options(self, camera_id: str) -> Options | None:
        """What the shot at hand asks of a camera."""
        camera = self._document.project.kit.camera(camera_id)
        exposure = self._document.shot.exposure
        return None if camera is None else options_for(exposure, camera.mode_of(exposure))

    def plan(self) -> None:
        """The shot at hand may want other settings: they are compared anew."""
        for camera_id, held in self._held.items():
            options = self._options(camera_id)
            if options is not None and self._planned.get(camera_id) != options:
                self._planned[camera_id] = options
                held.plan(options)

    def put(self, camera_id: str) -> None:
        """Sets a camera as planned; what it is then set to is read back."""
        options = self._options(camera_id)
        if options is not None and camera_id in self._held:
            self._held[camera_id].plan(options, put=True)

    # Rolling
    def start(self, log: Log) -> None:
        """Starts those that a log rolls."""
        for camera_id in log.cameras:
            if camera_id in self._held:
                self._shot_of[camera_id] = self._document.shot.id, log.id
                self._held[camera_id].start()

    def stop(self) -> None:
        """Stops what was started."""
        for camera_id in self._shot_of:
            if camera_id in self._held:
                self._held[camera_id].stop()

    def _hear(self, camera_id: str, what: str, value: object) -> None:
        camera = self._document.project.kit.camera(camera_id)
        name = camera.name if camera is not None else camera_id
        if what == "stopped" and isinstance(value, CardFile):
            self._recorded(camera_id, value)
            words = f"{name}: {value.name} is on its card"
        elif what == "failed" and isinstance(value, GlintorError):
            words = f"{name}: {value.what}"
        elif what == "lost":
            rolling = f", rolling for {value:.0f} s by then" if isinstance(value, float) else ""
            words = f"{name} does not answer any more{rolling}"
        elif what == "back":
            words = f"{name} answers again" + (" and still rolls" if value else "")
        elif what == "ended":
            words = f"{name} stopped by itself"
        else:
            self.changed.emit()
            return
        if camera_id in self._shot_of:
            self._log(camera_id, words)
        if what == "stopped":
            self._shot_of.pop(camera_id, None)
        self.said.emit(words)
        self.changed.emit()

    def _log(self, camera_id: str, words: str) -> None:
        at = stamp(now_of(self._document.project))
        event = Event(at=at, what="note", words=words[:400], cameras=(camera_id,))
        self._in_log(camera_id, "Camera", lambda log: replace(log, events=(*log.events, event)))

    def _recorded(self, camera_id: str, file: CardFile) -> None:
        self._in_log(
            camera_id,
            "Camera",
            lambda log: replace(log, files=(*log.files, f"{camera_id}:{file.size_bytes}:{file.path}")),
        )

    def _in_log(self, camera_id: str, words: str, change: Callable[[Log], Log]) -> None:
        shot_id, log_id = self._shot_of.get(camera_id, ("", ""))

        def changed(shot: Shot) -> Shot:
            log = next((one for one in shot.logs if one.id == log_id), None)
            return shot if log is None else with_log(shot, change(log))

        if shot_id:
            self._document.edit(words, self._document.project.with_shot(shot_id, changed))

    def tick_what_is_read_back(self) -> None:
        """Ticks the line of the mode where every camera that the shot rolls says that it is set so."""
        seen = [held.seen for held in self._held.values()]
        shot = self._document.shot
        agreed = bool(seen) and all(one.differs == () and not one.lost for one in seen)
        there = any(tick.line == "mode" for tick in shot.ticks)
        if agreed and not there:
            at = stamp(now_of(self._document.project))
            self._document.edit_shot(
                "Read back", lambda s: ticked(s, Tick(line="mode", words="set as planned", at=at, by="camera"))
            )

    def close(self) -> None:
        for camera_id in list(self._held):
            self.let_go(camera_id)
        for held in self._leaving:
            held.close(wait_s=_LONGEST_S)

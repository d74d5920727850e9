"""The cameras that are held on the link, one for each of the kit's that has an address; the log rolls them and hears of them."""

import contextlib
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
from glintor.recording.link import CardFile, LinkError, Options, options_for
from glintor.recording.logbook import RollClock, ended, now_of, stamp, ticked, with_log
from glintor.recording.rolling import Light, light_of
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
        self.clock = RollClock(lambda: now_of(document.project))
        self._heard.connect(self._hear)
        self._hold_again()

    def _hold_again(self) -> None:
        """Takes those on the link again that were left rolling for this day."""
        for camera_id, (day, shot_id, log_id) in read_settings().rolling.items():
            log = self._log_of(shot_id, log_id)
            address = read_settings().cameras.get(camera_id)
            if day != str(self._document.file) or log is None or not log.rolling or not address:
                continue
            self._shot_of[camera_id] = shot_id, log_id
            with contextlib.suppress(LinkError):
                self.hold(camera_id, address, rolls_s=log.since_s(stamp(now_of(self._document.project))))

    def _log_of(self, shot_id: str, log_id: str) -> Log | None:
        logs = [log for shot in self._document.project.shots if shot.id == shot_id for log in shot.logs]
        return next((log for log in logs if log.id == log_id), None)

    def light(self, log: Log) -> Light:
        """How the cameras of a log stand."""
        kit = self._document.project.kit
        cameras = [camera for camera in kit.cameras if camera.id in log.cameras]
        return light_of(cameras, {one: held.seen for one, held in self._held.items()})

    def rolls_for(self, shot_id: str) -> bool:
        """Whether one of them was started for a shot."""
        return any(of[0] == shot_id for of in self._shot_of.values())

    @property
    def rolling(self) -> tuple[str, ...]:
        """The names of those on the link that were asked to roll, and that nobody knows to have stopped."""
        kit = self._document.project.kit
        ids = [one for one, held in self._held.items() if held.seen.roll in ("asked", "rolls")]
        return tuple(camera.name for camera in kit.cameras if camera.id in ids)

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

    def hold(self, camera_id: str, address: str, *, rolls_s: float | None = None) -> None:
        """Takes a camera on the link. rolls_s: how long it has been rolling already. Raises LinkError for what is no address."""
        link = WebCamera(address)
        self.let_go(camera_id)
        keep_settings(cameras=read_settings().cameras | {camera_id: link.wire.address.words})
        told = partial(self._heard.emit, camera_id)
        self._held[camera_id] = HeldLink(link, changed=self.changed.emit, told=told, rolls_s=rolls_s)
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
        self._keep_rolling()

    def stop(self) -> None:
        """Stops what was started."""
        for camera_id in self._shot_of:
            if camera_id in self._held:
                self._held[camera_id].stop()

    def _keep_rolling(self) -> None:
        """Keeps for which day each was asked to roll: a window that opens it again asks them."""
        day = str(self._document.file)
        others = {one: kept for one, kept in read_settings().rolling.items() if kept[0] != day}
        keep_settings(rolling=others | {one: (day, *of) for one, of in self._shot_of.items()})

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
            if isinstance(value, CardFile):
                self._recorded(camera_id, value)
                words += f"; {value.name} is on its card"
            else:
                words += "; it names no file of it, look at its card"
        else:
            self.changed.emit()
            return
        if camera_id in self._shot_of:
            self._log(camera_id, words)
        shot_id, log_id = self._shot_of.get(camera_id, ("", ""))
        seen = self.seen(camera_id)
        if what in ("stopped", "ended") or (what == "failed" and seen is not None and seen.roll == "refused"):
            self._shot_of.pop(camera_id, None)
            self._keep_rolling()
            self._end_where_nothing_rolls(shot_id, log_id)
        self.said.emit(words)
        self.changed.emit()

    def _end_where_nothing_rolls(self, shot_id: str, log_id: str) -> None:
        """Ends a log of which every camera says that it does not roll."""
        log = self._log_of(shot_id, log_id)
        if log is None or not log.rolling or any(one.standing != "not" for one in self.light(log).cameras):
            return
        at = self.clock.now(log)
        self._document.edit("Stopped by itself", self._document.project.with_shot(shot_id, lambda s: ended(s, at)))

    def _log(self, camera_id: str, words: str) -> None:
        log = self._log_of(*self._shot_of.get(camera_id, ("", "")))
        at = stamp(self.clock.now(log if log is not None and log.rolling else None))
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

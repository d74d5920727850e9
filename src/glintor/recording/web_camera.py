"""A camera on the air: a client of the open web API of spherical cameras, level 2 (HTTP and JSON; from memory of the published
specification: info, state, commands, options, files)."""

import contextlib
import shutil
import threading
import time
from collections.abc import Iterator
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.errors import Cancelled
from glintor.files import sync_folder, write_error
from glintor.recording.link import (
    BatteryLow,
    Busy,
    CardFile,
    CardFull,
    CardGone,
    LinkError,
    NotPossible,
    Options,
    State,
)
from glintor.recording.settings import Settings, asked
from glintor.recording.web_words import moment, name_of, number, settings_of, wishes
from glintor.recording.wire import Address, Wire, Wrong
from glintor.types import Report

_ERRORS: dict[str, tuple[type[LinkError], str]] = {
    "disabledCommand": (Busy, "The camera does not do that just now."),
    "cameraInExclusiveUse": (Busy, "Another program has the camera."),
    "unknownCommand": (NotPossible, "The camera does not know that command."),
    "invalidParameterName": (NotPossible, "The camera does not have that setting."),
    "invalidParameterValue": (NotPossible, "The camera does not have that value."),
    "missingParameter": (NotPossible, "The camera wants to know more."),
    "storageFull": (CardFull, "The card is full."),
    "noStorage": (CardGone, "There is no card in the camera."),
    "batteryLow": (BatteryLow, "The battery is flat."),
}
_ONCE = ("camera.startCapture", "camera.stopCapture", "camera.takePicture")
_PAGE, _POLL_S, _PATIENCE_S = 50, 0.15, 60.0
_MOST_FILES, _LIST_S = 20_000, 60.0  # of a card's list: more, or longer, is no list
_OLDER_MIN = 2.0  # a file that says that it is so much older than a recording is not its file (judgement)
_STOP_S = 0.2  # between two looks whether one is to stop
_SPARE_BYTES = 50e6  # that a disk keeps when something is fetched (judgement)


class Info(Struct, frozen=True):
    """Who a camera says that it is. level: of the API, as it says."""

    maker: str = ""
    model: str = ""
    serial: str = ""
    firmware: str = ""
    levels: tuple[int, ...] = ()


class _OnCamera(Struct, frozen=True):
    file: CardFile
    path: str  # of its address


class WebCamera:
    """A `CameraLink`. Each call may raise a LinkError; `Lost` where the camera does not answer."""

    def __init__(self, address: str, *, timeout_s: float = 5.0) -> None:
        self.wire = Wire(Address(address), timeout_s)
        self._wanted = Options()
        self._began_at: float | None = None

    def close(self) -> None:
        self.wire.close()

    def __enter__(self) -> "WebCamera":
        return self

    def __exit__(self, *_wrong: object) -> None:
        self.close()

    # What it tells
    def info(self) -> Info:
        told = self.wire.ask("/osc/info")
        levels = told.get("apiLevel")
        names = ("manufacturer", "model", "serialNumber", "firmwareVersion")
        maker, model, serial, firmware = (str(told.get(name, ""))[:80] for name in names)
        known = tuple(level for level in levels if isinstance(level, int)) if isinstance(levels, list) else ()
        return Info(maker, model, serial, firmware, known)

    def state(self) -> State:
        told = self.wire.ask("/osc/state", {})
        inner = told.get("state") if isinstance(told.get("state"), dict) else {}
        options = self._told("captureStatus", "remainingSpace", "remainingVideoSeconds", "dateTimeZone")
        recording = self._records(options)
        left_s, at = number(options.get("remainingVideoSeconds")), moment(options.get("dateTimeZone"))
        charge = number(inner.get("batteryLevel") if isinstance(inner, dict) else None)
        return State(
            recording=recording,
            battery_share=charge if charge is not None and 0.0 <= charge <= 1.0 else None,
            card_free_bytes=number(options.get("remainingSpace")),
            card_left_min=left_s / 60.0 if left_s is not None else None,
            clock_offset_s=(at - datetime.now().astimezone()).total_seconds() if at is not None else None,
            recorded_s=time.monotonic() - self._began_at if recording and self._began_at is not None else 0.0,
        )

    def _records(self, options: dict[str, Any]) -> bool:
        status = options.get("captureStatus")
        if isinstance(status, str):
            return status not in ("idle", "")
        return self._began_at is not None  # it does not say: as far as this side knows

    def forget_rolling(self) -> None:
        """It says itself that it does not roll."""
        self._began_at = None

    def goes_on_rolling(self, since_s: float) -> None:
        """It has been rolling for so long already, as far as this side knows."""
        self._began_at = time.monotonic() - since_s

    @property
    def rolling_s(self) -> float | None:
        """How long it has been rolling as far as this side knows; None where it is not."""
        return None if self._began_at is None else time.monotonic() - self._began_at

    def told(self) -> Settings:
        """What it says that it is set to, as far as it says."""
        names = (
            "captureMode", "exposureProgram", "iso", "shutterSpeed", "exposureCompensation", "whiteBalance", "fileFormat",
            "captureInterval", "colorTemperature", "exposureBracket",
        )  # fmt: skip
        return settings_of(self._told(*names))

    def _told(self, *names: str) -> dict[str, Any]:
        """Options by name; those that it does not have are not in it."""
        try:
            results = self._do("camera.getOptions", {"optionNames": list(names)})
        except NotPossible:
            results = {}
            for name in names if len(names) > 1 else ():
                results |= self._told(name)
            return results
        options = results.get("options")
        return options if isinstance(options, dict) else {}

    def options(self) -> Options:
        """What was asked of it last; `told` is what it says."""
        return self._wanted

    # What it is told
    def set_options(self, options: Options) -> None:
        """Sets what it can be set to; what it refuses is found by `told`."""
        wanted = asked(options.checked())
        for one in wishes(wanted):
            with contextlib.suppress(NotPossible):
                self._do("camera.setOptions", {"options": one})
        self._wanted = options

    def start(self) -> None:
        self._do("camera.startCapture", {})
        self._began_at = time.monotonic()

    def stop(self) -> CardFile:
        results = self._do("camera.stopCapture", {})
        filmed_s = self.rolling_s
        self._began_at = None
        names = results.get("fileUrls")
        if isinstance(names, list) and names and isinstance(names[0], str):
            return self._file_at(names[0], filmed_s)
        files = self._files()
        if not files:
            raise CardGone("The camera names no file of what it recorded.", advice="Look at the card.")
        return max((one.file for one in files), key=lambda file: (file.began_min or 0.0, file.path))

    def ended_file(self) -> CardFile | None:
        """The file of a recording that ended by itself: the newest, where it does not say that it is older than that recording; None where
        there is none."""
        rolled_s, self._began_at = self.rolling_s, None
        files = [one.file for one in self._files()]
        if not files:
            return None
        newest = max(files, key=lambda file: (file.began_min if file.began_min is not None else -1.0, file.path))
        offset_s = self.state().clock_offset_s
        if newest.began_min is not None and rolled_s is not None and offset_s is not None:
            now = datetime.now().astimezone() + timedelta(seconds=offset_s)
            now_min = now.hour * 60.0 + now.minute + now.second / 60.0
            if (now_min - newest.began_min) % 1440.0 > rolled_s / 60.0 + _OLDER_MIN:
                return None
        return newest

    def discard(self) -> None:
        """It cannot: the recording is ended and stays on the card."""
        self.stop()

    def take_picture(self) -> tuple[CardFile, ...]:
        results = self._do("camera.takePicture", {})
        name = results.get("fileUrl")
        return (self._file_at(name, None),) if isinstance(name, str) else ()

    def preview(self, width_px: int) -> NDArray[np.uint8]:
        raise NotPossible("This camera shows no picture by itself here.", advice="Look at its own display.")

    # Files
    def list(self) -> tuple[CardFile, ...]:
        return tuple(one.file for one in self._files())

    def _files(self) -> tuple[_OnCamera, ...]:
        found: tuple[_OnCamera, ...] = ()
        paths: set[str] = set()
        until = time.monotonic() + _LIST_S
        while True:
            wanted = {"fileType": "all", "startPosition": len(found), "entryCount": _PAGE, "maxThumbSize": 0}
            results = self._do("camera.listFiles", wanted)
            entries, total = results.get("entries"), number(results.get("totalEntries"))
            told = entries if isinstance(entries, list) else []
            read = [self._entry(one) for one in told if isinstance(one, dict)]
            page = tuple(one for one in read if one.path not in paths)  # some begin anew whatever they are asked for
            paths |= {one.path for one in page}
            found += page
            if len(found) > _MOST_FILES or time.monotonic() > until:
                raise Wrong("The camera's list of files does not come to an end.", advice="Offload the card instead.")
            if not page or total is None or len(found) >= total:
                return found

    def _entry(self, told: dict[str, Any]) -> _OnCamera:
        url, size = told.get("fileUrl"), number(told.get("size"))
        if not isinstance(url, str) or size is None or size < 0:
            raise Wrong("The camera's list of files makes no sense.", advice="Offload the card instead.")
        at, width = moment(told.get("dateTimeZone")), number(told.get("width"))
        path = self.wire.address.path_of(url)
        return _OnCamera(
            CardFile(
                path=name_of(path),
                size_bytes=int(size),
                began_min=at.hour * 60 + at.minute + at.second / 60.0 if at is not None else None,
                width_px=int(width) if width else None,
            ),
            path,
        )

    def _file_at(self, url: str, film_s: float | None) -> CardFile:
        """A file that was just made, as the list has it; by its name alone where that does not."""
        path = self.wire.address.path_of(url)
        for one in self._files():
            if one.path == path:
                return CardFile(one.file.path, one.file.size_bytes, one.file.began_min, film_s, one.file.width_px, None)
        return CardFile(name_of(path), 0, None, film_s)

    def fetch(self, name: str, folder: Path, report: Report = lambda _share: None) -> Path:
        """A file (by its path or name) in a folder, by parts: what came before is gone on with. It is as long as the camera said, or it is not kept."""
        file = next((one for one in self._files() if name in (one.file.path, one.file.name)), None)
        if file is None:
            raise CardGone(f"There is no {name} on the card.", advice="Look at the list again.")
        target, size = folder / file.file.name, file.file.size_bytes
        part = folder / f".{file.file.name}.{size}.part"
        try:
            folder.mkdir(parents=True, exist_ok=True)
            _need_room(folder, size - (part.stat().st_size if part.exists() else 0), file.file.name)
            self._fill(part, file, size, report)
            if target.exists():
                raise NotPossible(f"There is a {target.name} in {folder} already.", advice="Choose another folder.")
            part.rename(target)
            sync_folder(folder)
        except OSError as error:
            raise write_error(target, error) from error
        return target

    def fetch_all(self, folder: Path, report: Report = lambda _share: None, stop: threading.Event | None = None) -> int:
        """Every file of its card that is not in a folder yet; how many came. Raises Cancelled; what came by then stays."""
        files = [file for file in self.list() if not _is_there(folder / file.path, file.size_bytes)]
        whole, done = sum(file.size_bytes for file in files) or 1, 0
        if files:
            try:
                folder.mkdir(parents=True, exist_ok=True)
            except OSError as error:
                raise write_error(folder / files[0].name, error) from error
            _need_room(folder, whole, f"{len(files)} files" if len(files) > 1 else files[0].name)
        with self._ended_by(stop or threading.Event()):
            for file in files:

                def of_all(share: float, at: int = done, size: int = file.size_bytes) -> None:
                    report((at + share * size) / whole)

                self.fetch(file.path, (folder / file.path).parent, of_all)
                done += file.size_bytes
        return len(files)

    @contextlib.contextmanager
    def _ended_by(self, stop: threading.Event) -> Iterator[None]:
        """What is done in it ends at once where `stop` is set, also while nothing comes. Raises Cancelled."""
        done = threading.Event()

        def watch() -> None:
            while not done.wait(_STOP_S):
                if stop.is_set():
                    self.wire.close()
                    return

        watcher = threading.Thread(target=watch, name="fetching")
        watcher.start()
        try:
            yield
        except LinkError as error:
            raise Cancelled if stop.is_set() else error from error
        finally:
            done.set()
            watcher.join()

    def _fill(self, part: Path, file: _OnCamera, size: int, report: Report) -> None:
        import os

        have = part.stat().st_size if part.exists() else 0
        if have > size:
            part.unlink()
            have = 0
        with part.open("r+b" if part.exists() else "w+b") as out:
            if have < size:
                for at, block in self.wire.fetch(file.path, have):
                    if at + len(block) > size:
                        out.truncate(0)
                        raise self._lied(file.file.name)
                    out.seek(at)
                    out.write(block)
                    report((at + len(block)) / size if size else 1.0)
            out.truncate()
            if out.tell() != size:
                raise self._lied(file.file.name)
            out.flush()
            os.fsync(out.fileno())
        report(1.0)

    def _lied(self, name: str) -> Wrong:
        return Wrong(
            f"{name} is not as long as the camera says.",
            unharmed="Nothing was kept under its name; the card has it.",
            advice="Take the card out and offload it.",
        )

    # Commands
    def _do(self, name: str, parameters: dict[str, Any]) -> dict[str, Any]:
        """The results of a command, waited for where it takes its time. Raises what the camera says is wrong."""
        once = name in _ONCE
        told = self.wire.ask("/osc/commands/execute", {"name": name, "parameters": parameters}, once=once)
        until = time.monotonic() + _PATIENCE_S
        while told.get("state") == "inProgress":
            if time.monotonic() > until or not isinstance(told.get("id"), str | int):
                raise Wrong("The camera does not come to an end.", advice="Look at its own display.")
            time.sleep(_POLL_S)
            told = self.wire.ask("/osc/commands/status", {"id": told["id"]})
        if told.get("state") == "done":
            results = told.get("results")
            return results if isinstance(results, dict) else {}
        error = told.get("error")
        if not isinstance(error, dict):
            raise Wrong("The camera answers what makes no sense.", advice="Switch it off and on.")
        kind, words = _ERRORS.get(str(error.get("code")), (LinkError, "The camera will not."))
        said = str(error.get("message", ""))[:120]
        raise kind(words, advice=f"It says: {said}" if said else "Look at its own display.")


def _need_room(folder: Path, wanting: float, what: str) -> None:
    """Raises NotPossible where a disk has no room for what a camera says that a file holds."""
    free = shutil.disk_usage(folder).free
    if wanting + _SPARE_BYTES > free:
        raise NotPossible(
            f"The camera says that {what} takes {wanting / 1e9:.1f} GB more; {folder} has {free / 1e9:.1f} GB free.",
            unharmed="Nothing more was fetched.",
            advice="Free some space, or take the card out and offload it to another disk.",
        )


def _is_there(file: Path, size: int) -> bool:
    return file.is_file() and file.stat().st_size == size

"""The simulated camera on the air: the open web API of spherical cameras (level 2) on this machine's loopback, and nowhere else."""

import json
import mimetypes
import threading
from collections.abc import Callable
from datetime import datetime
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any
from urllib.parse import quote, unquote

import msgspec
from msgspec.structs import replace

from glintor.exposure.modes import MODES, mode_for
from glintor.exposure.program import Program
from glintor.recording.link import BatteryLow, Busy, CardFile, CardFull, CardGone, LinkError, NotPossible, Options
from glintor.recording.settings import asked
from glintor.simulation.body import SimulatedCamera

MOST_BODY_BYTES = 1 << 20
_BLOCK = 1 << 18
_CODES: tuple[tuple[type[LinkError], str], ...] = (
    (Busy, "disabledCommand"), (CardFull, "storageFull"), (CardGone, "noStorage"), (BatteryLow, "batteryLow"),
    (NotPossible, "invalidParameterValue"),
)  # fmt: skip
_PROGRAMS: dict[int, Program] = {1: "manual", 2: "auto", 4: "shutter", 9: "iso"}
_NAMES = (
    "captureMode", "captureStatus", "exposureProgram", "iso", "shutterSpeed", "exposureCompensation", "colorTemperature", "fileFormat",
    "captureInterval", "exposureBracket", "remainingSpace", "remainingVideoSeconds", "dateTimeZone",
)  # fmt: skip


class Refused(Exception):
    """A request that is answered with an error of the API."""

    def __init__(self, code: str, message: str) -> None:
        super().__init__(message)
        self.code = code


class CameraServer(ThreadingHTTPServer):
    """Serves one simulated camera and its card. It listens on 127.0.0.1 only."""

    daemon_threads = True

    def __init__(
        self, camera: SimulatedCamera, card: Path, port: int = 0, *, now: Callable[[], datetime] | None = None
    ) -> None:
        super().__init__(("127.0.0.1", port), _Request)
        self.camera, self.card = camera, card
        self.now = now or (lambda: datetime.now().astimezone())
        self.turn = threading.Lock()
        self.began: dict[str, datetime] = {}  # of what was recorded here, by its path

    def handle_error(self, _request: object, _address: object) -> None:
        """Whoever hung up has seen enough."""

    @property
    def address(self) -> str:
        return f"127.0.0.1:{self.server_address[1]}"


class _Request(BaseHTTPRequestHandler):
    server: CameraServer
    protocol_version = "HTTP/1.1"
    timeout = 30

    # What comes in
    def _is_ours(self) -> bool:
        """Whether it was asked for by this machine's own name: a page of elsewhere that a name was bent for is not served."""
        host = (self.headers.get("Host") or "").rsplit(":", 1)[0].lower()
        if host in ("127.0.0.1", "localhost"):
            return True
        self.close_connection = True
        self._answer(421, _error("disabledCommand", "This camera is on this machine only."))
        return False

    def do_GET(self) -> None:
        if not self._is_ours():
            return
        if self.path == "/osc/info":
            self._answer(200, self._info())
        elif self.path.startswith("/files/"):
            self._send_file()
        else:
            self._answer(404, _error("unknownCommand", "There is nothing here."))

    def do_POST(self) -> None:
        if not self._is_ours():
            return
        length = self.headers.get("Content-Length", "0")
        if not length.isdigit() or int(length) > MOST_BODY_BYTES:
            self.close_connection = True
            self._answer(413, _error("invalidParameterValue", "Too long."))
            return
        raw = self.rfile.read(int(length))
        try:
            told = json.loads(raw) if raw else {}
            if not isinstance(told, dict):
                raise ValueError
        except (ValueError, RecursionError):
            self._answer(400, _error("invalidParameterValue", "That is no JSON object."))
            return
        with self.server.turn:
            if self.path == "/osc/state":
                self._answer(200, self._state())
            elif self.path == "/osc/checkForUpdates":
                self._answer(200, {"stateFingerprint": self._state()["fingerprint"], "throttleTimeout": 1})
            elif self.path == "/osc/commands/execute":
                self._command(told)
            else:
                self._answer(404, _error("unknownCommand", "There is nothing here."))

    def log_message(self, *_words: object) -> None:
        """Nothing is written about requests."""

    def _answer(self, status: int, told: dict[str, Any]) -> None:
        content = json.dumps(told).encode()
        self.send_response(status)
        self.send_header("Content-Type", "application/json;charset=utf-8")
        self.send_header("Content-Length", str(len(content)))
        if self.close_connection:
            self.send_header("Connection", "close")
        self.end_headers()
        self.wfile.write(content)

    # What it tells
    def _info(self) -> dict[str, Any]:
        return {
            "manufacturer": "Glintor",
            "model": "simulated camera",
            "serialNumber": "1",
            "firmwareVersion": "1",
            "supportUrl": "",
            "gps": False,
            "gyro": True,
            "uptime": 1,
            "api": ["/osc/info", "/osc/state", "/osc/checkForUpdates", "/osc/commands/execute", "/osc/commands/status"],
            "endpoints": {"httpPort": self.server.server_address[1]},
            "apiLevel": [2],
        }

    def _state(self) -> dict[str, Any]:
        state = self.server.camera.state()
        inner = {"batteryLevel": round(state.battery_share or 0.0, 3), "storageUri": "files"}
        return {"fingerprint": f"{state.recording}-{state.battery_share:.3f}", "state": inner}

    def _command(self, told: dict[str, Any]) -> None:
        name, parameters = told.get("name"), told.get("parameters", {})
        does = _COMMANDS.get(name) if isinstance(name, str) else None
        try:
            if does is None:
                raise Refused("unknownCommand", "That is no command of this camera.")
            if not isinstance(parameters, dict):
                raise Refused("invalidParameterValue", "Parameters are an object.")
            results = does(self, parameters)
        except Refused as error:
            self._answer(400, {"name": name, **_error(error.code, str(error))})
        except LinkError as error:
            code = next((code for kind, code in _CODES if isinstance(error, kind)), "disabledCommand")
            self._answer(400, {"name": name, **_error(code, error.what)})
        else:
            self._answer(200, {"name": name, "state": "done", "results": results})

    # Commands
    def _get_options(self, parameters: dict[str, Any]) -> dict[str, Any]:
        names = parameters.get("optionNames")
        if not isinstance(names, list):
            raise Refused("missingParameter", "optionNames is wanted.")
        unknown = [name for name in names if name not in _NAMES]
        if unknown:
            raise Refused("invalidParameterName", f"There is no option {str(unknown[0])[:40]}.")
        known = self._options()
        return {"options": {name: known[name] for name in names if name in known}}

    def _options(self) -> dict[str, Any]:
        camera = self.server.camera
        options, state = camera.options(), camera.state()
        exposure, mode = options.exposure, options.mode
        told = asked(options)
        capture = {"film": "video", "time-lapse": "interval"}.get(str(told["mode"]), "image")
        number = next(number for number, program in _PROGRAMS.items() if program == options.program)
        known: dict[str, Any] = {
            "captureMode": capture,
            "captureStatus": "shooting" if state.recording else "idle",
            "exposureProgram": number,
            "iso": exposure.iso,
            "shutterSpeed": exposure.shutter_s,
            "exposureCompensation": options.offset_stops,
            "fileFormat": {
                "type": "jpeg" if capture == "image" else "mp4",
                "width": mode.width_px,
                "height": mode.width_px // 2,
                "framerate": exposure.rate_fps,
            },
            "captureInterval": options.interval_s,
            "exposureBracket": {
                "shots": options.bracket_frames if mode.kind == "bracket" else 1,
                "increment": options.bracket_stops,
            },
            "remainingSpace": int(state.card_free_bytes or 0),
            "remainingVideoSeconds": int(60 * (state.card_left_min or 0)),
            "dateTimeZone": _stamp(self.server.now()),
        }
        return known | ({"colorTemperature": exposure.white_k} if exposure.white_k is not None else {})

    def _set_options(self, parameters: dict[str, Any]) -> dict[str, Any]:
        wanted = parameters.get("options")
        if not isinstance(wanted, dict):
            raise Refused("missingParameter", "options is wanted.")
        camera = self.server.camera
        options = camera.options()
        for name, value in wanted.items():
            options = _with(options, name, value)
        camera.set_options(options)
        return {}

    def _start(self, _parameters: dict[str, Any]) -> dict[str, Any]:
        self.server.camera.start()
        return {}

    def _stop(self, _parameters: dict[str, Any]) -> dict[str, Any]:
        file = self.server.camera.stop()
        self.server.began[file.path] = self.server.now()
        return {"fileUrls": [self._url(file.path)]}

    def _take_picture(self, _parameters: dict[str, Any]) -> dict[str, Any]:
        files = self.server.camera.take_picture()
        return {"fileUrl": self._url(files[0].path), "_fileUrls": [self._url(file.path) for file in files]}

    def _list(self, parameters: dict[str, Any]) -> dict[str, Any]:
        kinds = {"all": (".mp4", ".jpg"), "video": (".mp4",), "image": (".jpg",)}
        wanted, start, count = (parameters.get(name) for name in ("fileType", "startPosition", "entryCount"))
        if wanted not in kinds or not isinstance(count, int) or not isinstance(start or 0, int) or count < 0:
            raise Refused("invalidParameterValue", "fileType, startPosition and entryCount are wanted.")
        files = [file for file in self.server.camera.list() if file.path.endswith(kinds[wanted])]
        first = max(int(start or 0), 0)
        return {
            "entries": [self._entry(file) for file in files[first : first + min(count, 200)]],
            "totalEntries": len(files),
        }

    def _entry(self, file: CardFile) -> dict[str, Any]:
        changed = datetime.fromtimestamp((self.server.card / file.path).stat().st_mtime).astimezone()
        return {
            "name": file.name,
            "fileUrl": self._url(file.path),
            "size": file.size_bytes,
            "dateTimeZone": _stamp(self.server.began.get(file.path, changed)),
            "isProcessed": True,
        }

    def _url(self, path: str) -> str:
        return f"http://{self.server.address}/files/{quote(path)}"

    # Files
    def _send_file(self) -> None:
        card = self.server.card.resolve()
        wanted = (card / unquote(self.path.removeprefix("/files/").partition("?")[0])).resolve()
        hidden = (
            any(part.startswith(".") for part in wanted.relative_to(card).parts)
            if wanted.is_relative_to(card)
            else True
        )
        if hidden or not wanted.is_file():
            self._answer(404, _error("invalidParameterValue", "There is no such file on the card."))
            return
        size = wanted.stat().st_size
        first = _first_byte(self.headers.get("Range"), size)
        if first is None:
            self._answer(416, _error("invalidParameterValue", "There is no such part."))
            return
        self.send_response(206 if first else 200)
        self.send_header("Content-Type", mimetypes.guess_type(wanted.name)[0] or "application/octet-stream")
        self.send_header("Content-Length", str(size - first))
        self.send_header("Accept-Ranges", "bytes")
        if first:
            self.send_header("Content-Range", f"bytes {first}-{size - 1}/{size}")
        self.end_headers()
        with wanted.open("rb") as handle:
            handle.seek(first)
            while block := handle.read(_BLOCK):
                self.wfile.write(block)


_COMMANDS: dict[str, Callable[[_Request, dict[str, Any]], dict[str, Any]]] = {
    "camera.getOptions": _Request._get_options,
    "camera.setOptions": _Request._set_options,
    "camera.startCapture": _Request._start,
    "camera.stopCapture": _Request._stop,
    "camera.takePicture": _Request._take_picture,
    "camera.listFiles": _Request._list,
}


def _error(code: str, message: str) -> dict[str, Any]:
    return {"state": "error", "error": {"code": code, "message": message}}


def _stamp(at: datetime) -> str:
    zone = at.strftime("%z")
    return f"{at:%Y:%m:%d %H:%M:%S}{zone[:3]}:{zone[3:]}"


def _first_byte(words: str | None, size: int) -> int | None:
    """Where an open range begins (RFC 9110, section 14.1.2); 0 without one, None where it is none that can be sent."""
    if words is None:
        return 0
    start, _, end = words.removeprefix("bytes=").partition("-")
    return int(start) if start.isdigit() and not end and int(start) < size else None


def _with(options: Options, name: str, value: Any) -> Options:
    """Options with one of the API's set. Raises Refused."""
    exposure, mode = options.exposure, options.mode
    try:
        if name == "captureMode":
            kind = {"video": "film", "interval": "lapse", "image": "photo"}[value]
            found = mode if mode.kind == kind else next(one for one in MODES.values() if one.kind == kind)
            return replace(options, mode=found)
        if name == "fileFormat":
            rate = float(value.get("framerate", exposure.rate_fps))
            fits = [
                m
                for m in MODES.values()
                if m.width_px == value["width"] and m.kind == mode.kind and (not m.rates_fps or rate in m.rates_fps)
            ]
            usual = mode_for(rate, 0.0)
            found = mode if mode in fits else fits[0] if fits else usual
            if found.width_px != value["width"]:
                raise KeyError(name)
            return replace(options, mode=found, exposure=replace(exposure, rate_fps=rate))
        if name == "exposureProgram":
            return replace(options, program=_PROGRAMS[value], offset_stops=0.0 if value == 1 else options.offset_stops)
        if name == "exposureBracket":
            bracket = next(one for one in MODES.values() if one.kind == "bracket")
            return replace(
                options, mode=bracket, bracket_frames=int(value["shots"]), bracket_stops=float(value["increment"])
            )
        if name == "exposureCompensation":
            return replace(options, offset_stops=float(value))
        field = {
            "iso": "iso",
            "shutterSpeed": "shutter_s",
            "captureInterval": "interval_s",
            "colorTemperature": "white_k",
        }.get(name)
        if field is not None:
            return replace(
                options, exposure=msgspec.convert(msgspec.to_builtins(exposure) | {field: value}, type(exposure))
            )
        if name == "whiteBalance" and value in ("_colorTemperature", "auto"):
            return options
    except (KeyError, TypeError, ValueError, AttributeError, StopIteration, IndexError) as error:
        raise Refused("invalidParameterValue", f"{name} cannot be that.") from error
    raise Refused("invalidParameterName", f"There is no option {name[:40]}.")

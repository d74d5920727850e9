"""A whole simulated camera behind the one interface: battery, heat, card, clock, and faults that can be provoked."""

import math
import shutil
import threading
from collections.abc import Callable
from datetime import timedelta
from pathlib import Path
from typing import Any

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from glintor.files import WriteError, write_bytes
from glintor.media.encoding import Encoding
from glintor.media.exif import with_exif
from glintor.media.picture import write_picture
from glintor.offload.copy import bring_over
from glintor.placement.sun import local_time
from glintor.project.exposure import Exposure
from glintor.recording.link import BatteryLow, Busy, CardFile, CardFull, CardGone, NotPossible, Options, State, TooHot
from glintor.recording.power import Body, battery_min, card_min
from glintor.recording.settings import Settings, asked
from glintor.simulation.camera import Roll
from glintor.simulation.foresight import foresight
from glintor.simulation.onto_card import ON_CARD, record
from glintor.simulation.recording import Recording
from glintor.types import Report

LEAST_CHARGE = 0.02
_TAIL_BYTES = 200_000  # kept free for the end of a film's file
_PHOTO_BYTES = 12_000_000  # kept free for a photo of full size
_PHOTO_MIN = 0.05  # of battery, for one photo


class Faults(Struct, frozen=True):
    """What is to go wrong, in film seconds after the recording begins; never by default."""

    card_refuses_s: float = math.inf
    card_pulled_s: float = math.inf


class SimulatedCamera:
    """One camera with one card. Time passes for it as it records, or by `rest`; nothing is timed by the wall clock.

    A recording runs on a thread: `start` begins it, `stop` ends it early and keeps it, `wait` lets it come to its end.
    """

    def __init__(
        self,
        recording: Recording,
        card: Path,
        *,
        card_bytes: float = math.inf,
        body: Body = Body(),
        air_c: float = 18.0,
        wireless: bool = False,
        faults: Faults = Faults(),
        encoding: Encoding = ON_CARD,
    ) -> None:
        self._recording, self._card, self._card_bytes = recording, card, card_bytes
        self._body, self._air_c, self._wireless, self._faults = body, air_c, wireless, faults
        self._encoding = encoding
        self._options = recording.set_to
        self._thread: threading.Thread | None = None
        self._ending, self._stopping = threading.Event(), threading.Event()
        self._file: CardFile | None = None
        self._error: Exception | None = None
        self.ended_because, self._recorded_s = "", 0.0

    # What it tells
    @property
    def _mbit_s(self) -> float:
        return self._recording.camera.mbit_s

    def _used_bytes(self) -> int:
        return sum(file.stat().st_size for file in self._files())

    def _files(self) -> list[Path]:
        if not self._card.is_dir():
            raise CardGone("There is no card in the camera.", advice="Put the card in.")
        return sorted(
            file for file in self._card.glob("*/*") if file.suffix in (".mp4", ".jpg") and file.name[0] != "."
        )

    def _free_bytes(self) -> float:
        used = self._used_bytes()
        disk = shutil.disk_usage(self._card).free
        return max(min(self._card_bytes - used, disk), 0.0)

    @property
    def rolling(self) -> bool:
        return self._thread is not None and self._thread.is_alive()

    @property
    def body(self) -> Body:
        return self._body

    def state(self) -> State:
        free = self._free_bytes() if self._card.is_dir() else 0.0
        full = battery_min(self._air_c, wireless=self._wireless)
        return State(
            recording=self.rolling,
            battery_share=self._body.charge,
            battery_left_min=self._body.charge * full,
            temperature_c=self._body.inner_c,
            card_free_bytes=free,
            card_left_min=card_min(free, self._mbit_s),
            clock_offset_s=self._recording.clock.offset_s,
            recorded_s=self._recorded_s,
            ended=self.ended_because,
        )

    def options(self) -> Options:
        return self._options

    def told(self) -> Settings:
        return asked(self._options)

    def set_options(self, options: Options) -> None:
        self._idle()
        self._options = options.checked()

    def rest(self, minutes: float) -> None:
        """Lets time pass while it stands by."""
        self._body = self._body.after(minutes, self._air_c, recording=False, wireless=self._wireless)

    def charge(self) -> None:
        """Another battery, a full one."""
        self._body = replace(self._body, charge=1.0)

    # What it does
    def _idle(self) -> None:
        if self.rolling:
            raise Busy("The camera is recording.", advice="Stop it first.")

    def _ready(self, room_bytes: float) -> None:
        self._idle()
        if self._body.charge <= LEAST_CHARGE:
            raise BatteryLow("The battery is flat.", unharmed="Nothing was begun.", advice="Put a charged one in.")
        if self._body.hot:
            raise TooHot(
                "The camera is still too hot.", unharmed="What it recorded is on the card.", advice="Shade it."
            )
        if self._free_bytes() < room_bytes:
            raise CardFull("The card is full.", unharmed="What is on it is safe.", advice="Put another card in.")

    def start(self) -> None:
        if self._options.mode.is_photo:
            raise NotPossible(f"{self._options.mode.words} takes pictures, no films.", advice="Choose a film mode.")
        self._ready(self._mbit_s * 1e6 / 8)
        self._ending.clear()
        self._stopping.clear()
        self._file, self._error, self.ended_because = None, None, ""
        self._recorded_s = 0.0
        self._thread = threading.Thread(target=self._roll, name="simulated camera")
        self._thread.start()

    def _roll(self) -> None:
        recording = replace(self._recording, options=self._options)
        try:
            self._file = record(
                recording, self._card, encoding=self._encoding, stop=self._stopping, ends=self._watch(recording)
            )
        except WriteError as error:
            self._error = CardGone(
                "The card stopped taking the film.", unharmed="Earlier clips are unharmed.", advice=error.advice
            )
        except Exception as error:
            self._error = error

    def _watch(self, recording: Recording) -> Callable[[float, int], bool]:
        """What is asked after each frame: has anything happened that ends the recording?"""
        room, passed = self._free_bytes(), 0.0
        step_min = (recording.interval_s * recording.rate_fps or 1.0) / 60.0  # true minutes in a second of film

        def ends(film_s: float, packed_bytes: int) -> bool:
            nonlocal passed
            minutes = (film_s - passed) * step_min
            self._body = body = self._body.after(minutes, self._air_c, recording=True, wireless=self._wireless)
            passed = self._recorded_s = film_s
            if film_s >= self._faults.card_pulled_s or not self._card.is_dir():
                raise CardGone(
                    "The card was pulled out while it was written.",
                    unharmed="Earlier clips are unharmed.",
                    advice="Put it back and record the take again.",
                )
            if film_s >= self._faults.card_refuses_s:
                raise CardGone(
                    "The card refuses to be written.",
                    unharmed="Earlier clips are unharmed.",
                    advice="Use another card.",
                )
            reasons = (
                (self._ending.is_set(), "it was stopped"),
                (body.charge <= LEAST_CHARGE, "the battery ran flat"),
                (body.hot, "it grew too hot"),
                (packed_bytes >= room - _TAIL_BYTES, "the card is full"),
            )
            self.ended_because = next((words for true, words in reasons if true), "")
            return bool(self.ended_because)

        return ends

    def stop(self) -> CardFile:
        """Ends the recording and keeps it. Raises what went wrong meanwhile."""
        self._ending.set()
        return self.wait()

    def discard(self) -> None:
        """Ends the recording and keeps nothing of it."""
        self._stopping.set()
        if self._thread is not None:
            self._thread.join()

    def wait(self) -> CardFile:
        """The file when the recording has come to its end. Raises what went wrong meanwhile."""
        if self._thread is None:
            raise Busy("The camera is not recording.", advice="Start it first.")
        self._thread.join()
        if self._error is not None:
            raise self._error
        assert self._file is not None
        return self._file

    def preview(self, width_px: int) -> NDArray[np.uint8]:
        recording = self._recording
        exposure = self._options.exposure
        return foresight(recording.shot, recording.site, recording.camera, width_px, exposure=exposure)[0]

    def take_picture(self) -> tuple[CardFile, ...]:
        options = self._options
        if not options.mode.is_photo:
            raise NotPossible(f"{options.mode.words} takes no pictures.", advice="Choose photo, or a bracket.")
        count = options.bracket_frames if options.mode.kind == "bracket" else 1
        exposure, shortest_s = options.exposure, self._recording.camera.shutter_min_s
        darkest_s = exposure.shutter_s / 2.0 ** ((count - 1) / 2.0 * options.bracket_stops)
        if darkest_s < shortest_s * 0.999:
            raise NotPossible(
                f"The darkest picture would take 1/{1 / darkest_s:.0f} s; the camera's shortest is 1/{1 / shortest_s:.0f} s.",
                advice="Take fewer pictures or smaller steps, or put a filter on.",
            )
        self._ready(_PHOTO_BYTES * count)
        (self._card / "photos").mkdir(exist_ok=True)
        first = 1
        while (self._card / "photos" / f"photo-{first:04d}.jpg").exists():
            first += 1
        out, rows = [], ["file,shutter_s,iso,stops"]
        for number in range(count):
            stops = (number - (count - 1) / 2.0) * options.bracket_stops
            timed = replace(exposure, shutter_s=exposure.shutter_s * 2.0**stops)
            locked = replace(options, exposure=timed, program="manual")
            frame = Roll(replace(self._recording, options=locked)).frame(number)
            file = self._card / "photos" / f"photo-{first + number:04d}.jpg"
            try:
                write_picture(file, frame.picture)
                write_bytes(file, with_exif(file.read_bytes(), **self._taken(timed, number)))
            except WriteError as error:
                raise CardGone(
                    "The card refuses to be written.", unharmed=error.unharmed, advice=error.advice
                ) from error
            self._body = self._body.after(_PHOTO_MIN, self._air_c, recording=True, wireless=self._wireless)
            rows.append(f"{file.name},{timed.shutter_s:.8f},{timed.iso:g},{stops:+.2f}")
            out.append(self._told(file))
        if count > 1:
            write_bytes(self._card / "photos" / f"bracket-{first:04d}.csv", ("\n".join(rows) + "\n").encode())
        return tuple(out)

    def _taken(self, exposure: Exposure, number: int) -> dict[str, Any]:
        """What a photo's file says of how and when it was taken, by the camera's own clock."""
        recording = self._recording
        began = local_time(recording.site.day, recording.site.zone, recording.shot.start_min)
        at = began + timedelta(seconds=recording.clock.shown_s(recording.begins_s) + 0.5 * number)
        f_number = recording.camera.f_number
        return {"exposure_s": exposure.shutter_s, "iso": exposure.iso, "f_number": f_number, "taken": at}

    def list(self) -> tuple[CardFile, ...]:
        return tuple(self._told(file) for file in self._files())

    def _told(self, file: Path) -> CardFile:
        return CardFile(file.relative_to(self._card).as_posix(), file.stat().st_size)

    def fetch(self, name: str, folder: Path, report: Report = lambda _share: None) -> Path:
        """A verified copy of a file of the card."""
        for file in self._files():
            if file.name == name:
                return bring_over(file, folder, card=self._card, report=report).target
        raise CardGone(f"There is no {name} on the card.", advice="Look at the list again.")

"""Frames of a clip in order, as planes, from one moment to another; faults in the middle are skipped and counted."""

import threading
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import av.error
import numpy as np

from glintor.media.probe import ClipError, open_clip
from glintor.pixels.yuv import ColourTags, Plane, Yuv

_PLANAR_420 = {"yuv420p": False, "yuvj420p": True}
_FULL_RANGE = 2  # AVCOL_RANGE_JPEG in libavutil
_BT601 = {5, 6}  # AVCOL_SPC_BT470BG, AVCOL_SPC_SMPTE170M
_UNTAGGED = 2


@dataclass(frozen=True, slots=True)
class Decoded:
    """One frame with its exact time in the clip, counted from the first frame's time stamp."""

    time: Fraction
    picture: Yuv


class ClipReader:
    """Reads one clip's pictures. One thread at a time; `close` or use as a context."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._container = open_clip(path)
        self._stream = self._container.streams.video[0]
        self._stream.thread_type = "AUTO"
        self._base = Fraction(self._stream.time_base or Fraction(1, 90000))
        self._origin = Fraction(self._stream.start_time or 0) * self._base
        self._frame_s = 1 / Fraction(self._stream.average_rate or 25)
        self.faults = 0
        self.last: Fraction | None = None

    def __enter__(self) -> "ClipReader":
        return self

    def __exit__(self, *_exc: object) -> None:
        self.close()

    def close(self) -> None:
        self._container.close()

    def frames(self, start_s: float = 0.0, end_s: float = float("inf")) -> Iterator[Decoded]:
        """Frames whose time lies in [start_s, end_s), half a frame's rounding allowed on both ends.

        Packets that cannot be decoded are left out and counted in `faults`. Raises ClipError where nothing decodes.
        """
        self.faults, self.last = 0, None
        slack = self._frame_s / 2
        target = Fraction(start_s) - slack
        stop = None if end_s == float("inf") else Fraction(end_s) - slack
        self._seek(max(start_s, 0.0))
        for frame in self._decoded():
            if frame.pts is None:
                continue
            time = Fraction(frame.pts) * self._base - self._origin
            self.last = time
            if time < target:
                continue
            if stop is not None and time >= stop:
                return
            yield Decoded(time, planes(frame))
        if self.last is None:
            raise ClipError(f"No picture in {self.path.name} could be decoded.", advice="Copy it from the card again.")

    def at(self, time_s: float) -> Decoded:
        """The frame shown at a time, or the last one where the time is past the end."""
        kept: Decoded | None = None
        for decoded in self.frames(max(time_s, 0.0)):
            return decoded
        for decoded in self.frames(max(float(self.last or 0) - 2.0, 0.0)):
            kept = decoded
        if kept is None:
            raise ClipError(f"No picture in {self.path.name} could be decoded.", advice="Copy it from the card again.")
        return kept

    def _seek(self, start_s: float) -> None:
        offset = int((Fraction(start_s) + self._origin) / self._base)
        try:
            self._container.seek(offset, stream=self._stream, backward=True)
        except av.error.FFmpegError:
            self._container.seek(0)

    def _decoded(self) -> Iterator["av.VideoFrame"]:
        packets = self._container.demux(self._stream)
        while True:
            try:
                packet = next(packets)
            except StopIteration:
                return
            except av.error.FFmpegError:
                self.faults += 1
                return
            try:
                decoded = packet.decode()
            except av.error.FFmpegError:
                self.faults += 1
                continue
            yield from decoded


def plane_rows(plane: "av.video.plane.VideoPlane", width_px: int, height_px: int) -> Plane:
    """A plane's own memory as (height, width); rows are padded, so the view has a longer stride."""
    rows = np.frombuffer(memoryview(plane), np.uint8)[: plane.line_size * height_px].reshape(height_px, plane.line_size)
    return rows[:, :width_px]


def planes(frame: "av.VideoFrame") -> Yuv:
    """The frame as 8-bit 4:2:0 planes; other pixel formats are converted, 8-bit 4:2:0 is not copied."""
    full = _PLANAR_420.get(frame.format.name)
    if full is None:
        frame = frame.reformat(format="yuv420p")
        full = False
    full = full or int(frame.color_range) == _FULL_RANGE
    space = int(frame.colorspace)
    old = space in _BT601 or (space == _UNTAGGED and frame.height < 720)
    half = ((frame.width + 1) // 2, (frame.height + 1) // 2)
    return Yuv(
        plane_rows(frame.planes[0], frame.width, frame.height),
        plane_rows(frame.planes[1], *half),
        plane_rows(frame.planes[2], *half),
        ColourTags("bt601" if old else "bt709", full),
    )


class LatestReader:
    """A reader for scrubbing: keeps its place, so stepping forward decodes on instead of seeking again."""

    def __init__(self, path: Path) -> None:
        self._reader = ClipReader(path)
        self._lock = threading.Lock()
        self._run: Iterator[Decoded] | None = None
        self._now: Decoded | None = None

    def close(self) -> None:
        with self._lock:
            self._run = None
            self._reader.close()

    def at(self, time_s: float) -> Decoded:
        """The frame shown at a time; the newest frame not after it (half a frame's rounding allowed)."""
        with self._lock:
            step = float(self._reader._frame_s)
            if self._now is not None and self._run is not None:
                ahead = time_s - float(self._now.time)
                if abs(ahead) < step / 2:
                    return self._now
                if 0 < ahead < 12 * step:
                    for decoded in self._run:
                        self._now = decoded
                        if float(decoded.time) >= time_s - step / 2:
                            return decoded
                    self._run = None
            self._run = self._reader.frames(time_s)
            self._now = next(self._run, None)
            if self._now is None:
                self._run = None
                self._now = self._reader.at(time_s)
            return self._now

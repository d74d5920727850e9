"""Frames of a clip in order, as planes, from one moment to another; faults in the middle are skipped and counted."""

import threading
from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Self

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from glintor.media.probe import ClipError, open_clip
from glintor.pixels.blend import Blend
from glintor.pixels.spheres import Sphere
from glintor.pixels.yuv import ColourTags, Plane, Yuv

if TYPE_CHECKING:
    import av

_PLANAR = {  # pixel formats whose planes are used as they are, with the bits of a sample
    f"{kind}{chroma}p{depth}": int(depth[:2] or 8)
    for chroma in ("420", "422", "444")
    for kind, depth in (("yuv", ""), ("yuvj", ""), ("yuv", "10le"), ("yuv", "12le"))
}
_FULL_RANGE = 2  # AVCOL_RANGE_JPEG in libavutil
_MATRIX = {1: "bt709", 5: "bt601", 6: "bt601", 9: "bt2020", 10: "bt2020"}  # ITU-T H.273, table 4
_SWS_MATRIX = {"bt709": "ITU709", "bt601": "ITU601", "bt2020": "BT2020"}
_HD_FROM = 720  # lines above which an untagged clip is taken for BT.709 (common practice, no source)
_ROUNDING_S = 1e-3  # some containers round time stamps to a millisecond
_SMEARED_S = 5.0
_SMALL_PX = 2048
_DECODE_ON = 12  # frames ahead up to which decoding on is quicker than seeking
_LAST_STAMP = 2**62
_CHUNK_BYTES = 240e6  # decoded frames kept at once when going backwards


class Decoded(Struct, frozen=True):
    """One frame with its exact time in the clip, counted from the first frame's time stamp, and when the next begins."""

    time: Fraction
    picture: Yuv
    until: Fraction = Fraction(0)


class Reader:
    """Frames of something that is shown in time. A kind of it gives `every_from`; one thread at a time; `close` or use as
    a context. faults_s: places that could not be decoded."""

    name: str
    size_px: tuple[int, int]
    frame_s: Fraction
    last: Fraction | None = None

    def __init__(self) -> None:
        self.faults_s: list[float] = []

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_exc: object) -> None:
        self.close()

    def close(self) -> None:
        """Lets go of the files."""

    def answer_at_once(self) -> None:
        """For single frames of small clips: threads that work on frames ahead would delay each answer by a frame."""

    def every_from(self, start_s: float) -> Iterator[Decoded]:
        """Every whole frame from a moment at or before a time on; `last` is the time of the newest."""
        raise NotImplementedError

    def frames(self, start_s: float = 0.0, end_s: float = float("inf")) -> Iterator[Decoded]:
        """Frames whose time lies in [start_s, end_s), half a frame's rounding allowed on both ends.

        What cannot be decoded is left out and its place noted in `faults_s`. Raises ClipError where nothing decodes.
        """
        slack = self.frame_s / 2
        target = Fraction(start_s) - slack
        stop = None if end_s == float("inf") else Fraction(end_s) - slack
        for decoded in self.every_from(start_s):
            if stop is not None and decoded.time >= stop:
                return
            if decoded.time >= target:
                yield decoded

    def runs(self, start_s: float, end_s: float, *, backwards: bool = False) -> Iterator[Decoded]:
        """Frames that are shown at any moment from start_s to end_s, each until the next one begins; last first where
        backwards. May give one more at either end. Going backwards decodes short parts one by one, so that memory stays small."""
        if backwards:
            yield from self._backwards(start_s, end_s)
            return
        held: Decoded | None = None
        for decoded in self.every_from(start_s):
            if held is not None and decoded.time > start_s:
                yield replace(held, until=decoded.time)
            if decoded.time > end_s + _ROUNDING_S and held is not None:
                return
            held = decoded
        if held is not None:
            yield held

    def _backwards(self, start_s: float, end_s: float) -> Iterator[Decoded]:
        frame_s = float(self.frame_s)
        step = max(_CHUNK_BYTES / max(3 * self.size_px[0] * self.size_px[1], 1), 2.0) * frame_s
        until = max(end_s, start_s + frame_s)
        while until > start_s:
            since = max(until - step, start_s)
            for decoded in reversed(list(self.runs(since, until))):
                if float(decoded.until) <= until + frame_s / 2 or until == end_s:
                    yield decoded
            until = since

    def at(self, time_s: float) -> Decoded:
        """The frame shown at a time, or the last one where the time is past the end."""
        kept: Decoded | None = None
        for decoded in self.frames(max(time_s, 0.0)):
            return decoded
        for decoded in self.frames(max(float(self.last or 0) - 2.0, 0.0)):
            kept = decoded
        if kept is None:
            raise ClipError(f"No picture in {self.name} could be decoded.", advice="Copy it from the card again.")
        return kept


class ClipReader(Reader):
    """Reads one clip's pictures.

    track  which of its picture tracks
    draft  without the filter that smooths the edges of coded blocks: a fifth quicker. What is built on such a frame
           drifts until the next key frame (measured at a third of the size: 46 dB and more): for proxies only

    glance  only frames that are built on none after them, by one thread and without that filter: for a quick look at a few

    turned_deg: by how much clockwise the header asks to turn what was read last: 0, 90, 180 or 270
    """

    def __init__(self, path: Path, *, draft: bool = False, glance: bool = False, track: int = 0) -> None:
        super().__init__()
        self.path, self.name, self._draft, self._track = path, path.name, draft or glance, track
        self._glance = glance
        self.turned_deg = 0
        self._open()
        self._base = Fraction(self._stream.time_base or Fraction(1, 90000))
        self._origin = Fraction(self._stream.start_time or 0) * self._base
        self.frame_s = 1 / Fraction(self._stream.average_rate or 25)
        self.size_px = (self._stream.codec_context.width, self._stream.codec_context.height)

    def _open(self) -> None:
        self._container = open_clip(self.path)
        self._stream = self._container.streams.video[self._track]
        self._stream.thread_type = "AUTO"
        if self._draft:
            self._stream.codec_context.options = {"skip_loop_filter": "all"}
        if self._glance:
            self._stream.thread_type = "NONE"
            self._stream.codec_context.skip_frame = "BIDIR"

    def close(self) -> None:
        self._container.close()

    def answer_at_once(self) -> None:
        if self.size_px[0] <= _SMALL_PX:
            self._stream.thread_type = "SLICE"

    def every_from(self, start_s: float, *, after: bool = False) -> Iterator[Decoded]:
        """Every whole frame from a key frame at or before a time on; after: from the first at or after it, where one comes."""
        self.last = None
        self._seek(max(start_s, 0.0), backward=not after)
        for frame in self._decoded():
            if frame.pts is None:
                continue
            self.last = time = Fraction(frame.pts) * self._base - self._origin
            self.turned_deg = -frame.rotation % 360
            length = frame.duration * self._base if frame.duration else self.frame_s
            yield Decoded(time, planes(frame), time + length)
        if self.last is None:
            raise ClipError(f"No picture in {self.path.name} could be decoded.", advice="Copy it from the card again.")

    def _seek(self, start_s: float, *, backward: bool) -> None:
        import av.error

        offset = min(int((Fraction(start_s) + self._origin) / self._base), _LAST_STAMP)
        try:
            self._container.seek(offset, stream=self._stream, backward=backward)
        except av.error.FFmpegError:
            if not backward:  # no key frame so late
                self._seek(start_s, backward=True)
                return
            self._container.close()  # no index, or a damaged one: from the beginning, and decoded up to the moment
            self._open()

    def _decoded(self) -> Iterator["av.VideoFrame"]:
        """Whole frames. After a damaged place what is built on it is smeared: it is left out up to the next key frame,
        for at most `_SMEARED_S`."""
        import av.error

        packets = self._container.demux(self._stream)
        damaged: int | None = None  # time stamp of the damaged packet
        smeared = round(_SMEARED_S / self._base)
        while True:
            try:
                packet = next(packets)
            except StopIteration:
                return
            except av.error.FFmpegError:
                self._fault()
                return
            try:
                decoded = packet.decode()
            except av.error.FFmpegError:
                self._fault()
                damaged = packet.pts if damaged is None else damaged
                continue
            for frame in decoded:
                pts = frame.pts if frame.pts is not None else 0
                if damaged is not None and pts > damaged and (frame.key_frame or pts - damaged > smeared):
                    damaged = None
                if frame.is_corrupt:
                    self._fault()
                elif damaged is None or pts < damaged:
                    yield frame

    def _fault(self) -> None:
        """Notes a damaged place: just after the last frame that was whole; once for each place."""
        place = float((self.last if self.last is not None else -self.frame_s) + self.frame_s)
        if place not in self.faults_s:
            self.faults_s.append(place)


def plane_rows(plane: "av.video.plane.VideoPlane", width_px: int, height_px: int, bits: int = 8) -> Plane:
    """A plane's own memory as (height, width); rows are padded, so the view has a longer stride."""
    sample = np.uint8 if bits == 8 else np.uint16
    rows = np.frombuffer(memoryview(plane), np.uint8)[: plane.line_size * height_px].reshape(height_px, plane.line_size)
    return rows.view(sample)[:, :width_px]


def frame_planes(frame: "av.VideoFrame", tags: ColourTags) -> Yuv:
    """The memory of a planar frame as planes, not copied."""
    bits, parts = _PLANAR[frame.format.name], frame.format.components
    luma, *colour = (
        plane_rows(plane, part.width, part.height, bits) for plane, part in zip(frame.planes, parts, strict=True)
    )
    return Yuv(luma, colour[0], colour[1], tags, bits)


def planes(frame: "av.VideoFrame") -> Yuv:
    """The frame as planes; formats that are not planar Y'CbCr are converted to 4:2:0 at 8 or 10 bits."""
    full = int(frame.color_range) == _FULL_RANGE or frame.format.name.startswith("yuvj")
    space = int(frame.colorspace)
    matrix = _MATRIX.get(space, "bt601" if frame.height < _HD_FROM else "bt709")
    tags = ColourTags(matrix, full, int(frame.color_primaries), int(frame.color_trc))
    if frame.format.name not in _PLANAR:
        deep = max(part.bits for part in frame.format.components) > 8
        frame = frame.reformat(format="yuv420p10le" if deep else "yuv420p", dst_colorspace=_SWS_MATRIX[matrix])
        tags = replace(tags, full_range=False)
    return frame_planes(frame, tags)


class LatestReader:
    """A reader for scrubbing: keeps its place, so stepping forward decodes on instead of seeking again.

    `stale` says, while frames are decoded, that nobody waits for the answer any more; then it is None.
    """

    def __init__(self, reader: Reader) -> None:
        self._reader = reader
        self._reader.answer_at_once()
        self._lock = threading.Lock()
        self._run: Iterator[Decoded] | None = None
        self._now: Decoded | None = None

    def close(self) -> None:
        with self._lock:
            self._run = None
            self._reader.close()

    def at(self, time_s: float, stale: Callable[[], bool] = lambda: False) -> Decoded | None:
        """The frame shown at a time; the newest frame not after it (half a frame's rounding allowed)."""
        with self._lock:
            return self._at(time_s, stale)

    def _at(self, time_s: float, stale: Callable[[], bool]) -> Decoded | None:
        step = float(self._reader.frame_s)
        ahead = time_s - float(self._now.time) if self._now is not None else -1.0
        if self._now is not None and abs(ahead) < step / 2:
            return self._now
        if self._run is None or not 0 < ahead < _DECODE_ON * step:
            self._run, self._now = self._reader.every_from(time_s), None
        for decoded in self._run:
            self._now = decoded
            if float(decoded.time) >= time_s - step / 2:
                return decoded
            if stale():
                return None
        self._run = None
        self._now = self._reader.at(time_s)
        return self._now

    def mean(
        self, start_s: float, end_s: float, most: int, stale: Callable[[], bool] = lambda: False
    ) -> Decoded | None:
        """The mean of the frames shown from start_s to end_s; of `most` of them, evenly spaced, where there are more."""
        with self._lock:
            count = min(max(round((end_s - start_s) / float(self._reader.frame_s)), 1), most)
            blend, first = Blend(), None
            for number in range(count):
                decoded = self._at(start_s + (end_s - start_s) * number / count, stale)
                if decoded is None:
                    return None
                first = first or decoded
                blend.add(Sphere(decoded.picture), 1.0 / count)
            return None if first is None else replace(first, picture=blend.take().picture)

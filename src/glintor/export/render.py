"""The render engine: one decode, one reprojecting stage, one encoder thread for each output.

    decoder thread -> channel of two frames -> reprojection (the calling thread) -> channel -> encoder threads

Memory does not grow with the clip's length: at most two decoded frames and two frames an output are alive.
"""

import threading
from collections.abc import Callable, Sequence
from contextlib import ExitStack
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av.error

from glintor.errors import Cancelled, GlintorError
from glintor.export.channel import Channel, ChannelClosed
from glintor.files import whole_file, write_error
from glintor.media.probe import ClipInfo, need_sphere, probe
from glintor.media.read import ClipReader, Decoded
from glintor.media.sound import sound_cut
from glintor.media.write import Encoding, FilmWriter
from glintor.pixels.reproject import Filter, Reprojector
from glintor.reframing.path import ViewPath

Report = Callable[[float], None]


@dataclass(frozen=True, slots=True, kw_only=True)
class Output:
    """One flat film wanted: where it goes, its size, its path and how it is packed."""

    target: Path
    size_px: tuple[int, int]
    path: ViewPath
    encoding: Encoding = Encoding()
    quality: Filter = Filter.FINE


@dataclass(frozen=True, slots=True)
class RenderResult:
    """What came out: pictures written to each film, their length, and what the person should know."""

    frames: int
    duration_s: float
    notes: tuple[str, ...]


class RenderError(GlintorError):
    """A render that could not be finished; nothing half written is left."""


@dataclass(slots=True)
class _Failure:
    """The first error of any stage."""

    error: BaseException | None = None

    def keep(self, error: BaseException) -> None:
        if self.error is None and not isinstance(error, ChannelClosed):
            self.error = error


def render(
    source: Path,
    outputs: Sequence[Output],
    *,
    start_s: float = 0.0,
    end_s: float = float("inf"),
    as_sphere: bool = False,
    report: Report = lambda _share: None,
    stop: threading.Event | None = None,
) -> RenderResult:
    """Renders every output from one decode of [start_s, end_s) and returns what was written.

    Output frame n shows the path at the source time of output frame n; time stamps are the source's, moved so that
    the film starts at 0. Raises ClipError, WriteError, RenderError or Cancelled; then no target was touched.
    """
    info = probe(source)
    need_sphere(info, as_sphere=as_sphere)
    end = min(end_s, info.duration_s) if info.duration_s > 0 else end_s
    if not 0.0 <= start_s < end:
        raise RenderError(
            f"The part from {start_s:g} to {end_s:g} s is not in {source.name}, which lasts {info.duration_s:.2f} s.",
            advice="Choose in and out inside the clip.",
        )
    stop = stop or threading.Event()
    with ExitStack() as files:
        parts = [files.enter_context(whole_file(output.target)) for output in outputs]
        with ClipReader(source) as reader:
            frames, duration_s = _run(reader, info, outputs, parts, start_s, end, report, stop)
            notes = _notes(reader, info, end, frames)
        if frames == 0:
            raise RenderError(f"No picture of {source.name} lies in the part asked for.", advice="Move in or out.")
    return RenderResult(frames, duration_s, notes)


def _run(
    reader: ClipReader,
    info: ClipInfo,
    outputs: Sequence[Output],
    parts: Sequence[Path],
    start_s: float,
    end_s: float,
    report: Report,
    stop: threading.Event,
) -> tuple[int, float]:
    decoded: Channel[Decoded] = Channel()
    lanes = [_Lane(output, part, info, start_s, end_s) for output, part in zip(outputs, parts, strict=True)]
    failure = _Failure()

    def abort(error: BaseException) -> None:
        failure.keep(error)
        decoded.abort()
        for lane in lanes:
            lane.channel.abort()

    threads = [threading.Thread(target=_decode, args=(reader, start_s, end_s, decoded, abort), name="decode")]
    threads += [threading.Thread(target=lane.encode, args=(abort,), name="encode") for lane in lanes]
    for thread in threads:
        thread.start()
    frames, first, last, step = 0, Fraction(0), Fraction(0), 1 / info.rate
    try:
        for item in decoded:
            if stop.is_set():
                raise Cancelled
            if frames == 0:
                first = item.time
                step = min(step, Fraction(1, 5))
            for lane in lanes:
                lane.draw(item, first)
            last = item.time
            frames += 1
            report(min((float(item.time) - start_s) / max(end_s - start_s, 1e-9), 1.0))
        for lane in lanes:
            lane.end_s = float(last - first + step)
            lane.channel.finish()
    except BaseException as error:
        abort(error)
    for thread in threads:
        thread.join()
    if failure.error is not None:
        _raise_in_words(failure.error, outputs[0].target)
    return frames, float(last - first + step)


def _decode(
    reader: ClipReader, start_s: float, end_s: float, out: Channel[Decoded], abort: Callable[[BaseException], None]
) -> None:
    try:
        for item in reader.frames(start_s, end_s):
            out.put(item)
        out.finish()
    except BaseException as error:
        abort(error)


class _Lane:
    """One output's way: reprojection into a new frame, then its encoder."""

    def __init__(self, output: Output, part: Path, info: ClipInfo, start_s: float, end_s: float) -> None:
        self._output, self._part, self._info = output, part, info
        self._start_s, self._end_s = start_s, end_s
        self._reprojector = Reprojector(output.size_px, output.quality)
        self._writer: FilmWriter | None = None
        self.channel: Channel[tuple[av.VideoFrame, int]] = Channel()
        self.end_s = 0.0

    def draw(self, item: Decoded, first: Fraction) -> None:
        if self._writer is None:
            info = self._info
            sound = sound_cut(info.path, float(first), self._end_s) if info.has_sound else None
            self._writer = FilmWriter(
                self._part,
                self._output.size_px,
                rate=info.rate,
                time_base=info.time_base,
                encoding=self._output.encoding,
                tags=item.picture.tags,
                sound=sound,
            )
        frame, planes = self._writer.new_frame()
        self._reprojector.draw(item.picture, self._output.path.at(float(item.time)), out=planes)
        self.channel.put((frame, int((item.time - first) / self._info.time_base)))

    def encode(self, abort: Callable[[BaseException], None]) -> None:
        try:
            for frame, pts in self.channel:
                assert self._writer is not None
                self._writer.write(frame, pts, self._info.time_base)
            if self._writer is not None:
                self._writer.close(self.end_s)
        except BaseException as error:
            abort(error)
            if self._writer is not None:
                self._writer.abandon()


def _raise_in_words(error: BaseException, target: Path) -> None:
    if isinstance(error, GlintorError):
        raise error
    if isinstance(error, OSError):
        raise write_error(target, error) from error
    if isinstance(error, av.error.FFmpegError):
        raise RenderError(
            f"The encoder stopped: {error}.", unharmed="The source is unharmed.", advice="Try another preset or size."
        ) from error
    raise error


def _notes(reader: ClipReader, info: ClipInfo, end_s: float, frames: int) -> tuple[str, ...]:
    notes = []
    frame_s = 1 / float(info.rate)
    if reader.faults:
        notes.append(
            f"{info.path.name}: {reader.faults} damaged place(s) were skipped; everything that decodes is kept."
        )
    if frames and reader.last is not None and float(reader.last) + 1.5 * frame_s < min(end_s, info.duration_s):
        notes.append(
            f"{info.path.name} ends at {float(reader.last) + frame_s:.2f} s, though its header says {info.duration_s:.2f} s."
        )
    return tuple(notes)

"""The render engine: one decode, one reprojecting stage, one encoder thread for each output.

    decoder thread -> channel of two frames -> reprojection (the calling thread) -> channel -> encoder threads

Every film of a clip that runs forwards is fed from the same decode; one that runs backwards takes a pass of its own.
Memory does not grow with the clip's length: at most two decoded frames and two frames an output are alive.
"""

import threading
from collections.abc import Callable, Iterator, Sequence
from contextlib import ExitStack, contextmanager
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Literal

import numpy as np
from msgspec import Struct

from glintor.errors import Cancelled, GlintorError
from glintor.export.sound import film_sound
from glintor.export.weave import Part, Run, merged, parts_of
from glintor.files import whole_file, write_error
from glintor.media.channel import Channel, ChannelClosed
from glintor.media.encoding import Encoding
from glintor.media.footage import Footage, open_footage
from glintor.media.read import Decoded, Reader
from glintor.media.write import FilmWriter
from glintor.pixels.reproject import Filter, Reprojector
from glintor.pixels.yuv import Sphere
from glintor.reframing.course import Course
from glintor.reframing.retime import Stretch, Timeline
from glintor.sphere.equirect import Coverage

if TYPE_CHECKING:
    import av

_PLACES_SAID = 5
Report = Callable[[float], None]
Sound = Literal["pitch", "mute", "none"]


class Output(Struct, frozen=True, kw_only=True):
    """One flat film wanted: where it goes, its size, its course and how it is packed."""

    target: Path
    size_px: tuple[int, int]
    course: Course
    encoding: Encoding = Encoding()
    quality: Filter = Filter.FINE


class Film(Struct, frozen=True, kw_only=True):
    """One cut of a clip and every output of it.

    average  where the speed changes: each film frame is the mean of what it skips, instead of the nearest frame
    sound    where the speed changes: kept at pitch where mild, muted, or no track at all
    """

    outputs: tuple[Output, ...]
    start_s: float = 0.0
    end_s: float = float("inf")
    stretches: tuple[Stretch, ...] = ()
    average: bool = True
    sound: Sound = "pitch"


class RenderResult(Struct, frozen=True):
    """What came out: pictures written to each output of a film, its length, and what the person should know."""

    frames: int
    duration_s: float
    notes: tuple[str, ...]


class RenderError(GlintorError):
    """A render that could not be finished; nothing half written is left."""


class _Failure(Struct):
    """The first error of any stage."""

    error: BaseException | None = None

    def keep(self, error: BaseException) -> None:
        if self.error is None and not isinstance(error, ChannelClosed):
            self.error = error


def render(
    source: Footage | Path, outputs: Sequence[Output], *, start_s: float = 0.0, end_s: float = float("inf"), told: Coverage | None = None,
    report: Report = lambda _share: None, stop: threading.Event | None = None,
) -> RenderResult:  # fmt: skip
    """Renders one cut at its own speed in several outputs; see `render_films`."""
    film = Film(outputs=tuple(outputs), start_s=start_s, end_s=end_s)
    return render_films(open_footage(source, told), [film], report=report, stop=stop)[0]


def render_films(
    footage: Footage, films: Sequence[Film], *, keep: Sequence[Path] = (),
    report: Report = lambda _share: None, stop: threading.Event | None = None,
) -> list[RenderResult]:  # fmt: skip
    """Renders every output of every film and returns what was written, a result a film.

    keep  other footage that must not be written over, beside the source itself

    Output frame n shows the path at the clip's time of output frame n. At its own speed a film has the clip's time
    stamps, moved so that it starts at 0; where its speed changes it has a constant frame rate, the clip's.
    Raises ClipError, WriteError, RenderError, PaceError or Cancelled; then no target was touched.
    """
    stop = stop or threading.Event()
    with ExitStack() as files:
        reels = [_Reel(film, footage, files, (*footage.files, *keep)) for film in films]
        with footage.reader() as reader:
            _run(reader, reels, report, stop)
            notes = _fault_notes(reader, footage)
        for reel in reels:
            if reel.frames == 0:
                raise RenderError(f"No picture of {footage.name} lies in the part asked for.", advice="Move in or out.")
    return [RenderResult(reel.frames, reel.duration_s, (*notes, *reel.end_note())) for reel in reels]


class _Pass(Struct):
    """What is decoded in one go and which rows of film frames it feeds."""

    runs: tuple[Run, ...]
    fed: list[tuple["_Reel", Part | None]]

    @property
    def length_s(self) -> float:
        return sum(max(run.end_s - run.start_s, 0.04) for run in self.runs)


def _passes(reels: Sequence["_Reel"]) -> list[_Pass]:
    """Films that only run forwards share the first pass; every row of the others is a pass of its own, in order."""
    shared: list[tuple[_Reel, Part | None]] = []
    spans: list[tuple[float, float]] = []
    alone = []
    for reel in reels:
        if any(part.weave.backwards for part in reel.parts):
            alone += [_Pass(part.runs, [(reel, part)]) for part in reel.parts]
            continue
        shared += [(reel, part) for part in reel.parts] or [(reel, None)]
        runs = [run for part in reel.parts for run in part.runs] or [Run(reel.start_s, reel.end_s)]
        spans += [(run.start_s, run.end_s) for run in runs]
    return ([_Pass(merged(spans), shared)] if shared else []) + alone


def _run(reader: Reader, reels: Sequence["_Reel"], report: Report, stop: threading.Event) -> None:
    passes = _passes(reels)
    decoded: Channel[tuple[int, Decoded]] = Channel()
    lanes = [lane for reel in reels for lane in reel.lanes]
    failure = _Failure()

    def abort(error: BaseException) -> None:
        failure.keep(error)
        decoded.abort()
        for lane in lanes:
            lane.channel.abort()

    threads = [threading.Thread(target=_decode, args=(reader, passes, decoded, abort), name="decode")]
    threads += [threading.Thread(target=lane.encode, args=(abort,), name="encode") for lane in lanes]
    for thread in threads:
        thread.start()
    try:
        total, done, at = sum(p.length_s for p in passes), 0.0, 0
        for number, item in decoded:
            if stop.is_set():
                raise Cancelled
            while at < number:
                _finish(passes, at)
                at += 1
            sphere = Sphere(item.picture)
            for reel, part in passes[number].fed:
                reel.push(item, sphere, part)
            done += float(item.until - item.time)
            report(min(done / max(total, 1e-9), 1.0))
        for number in range(at, len(passes)):
            _finish(passes, number)
    except BaseException as error:
        abort(error)
    for thread in threads:
        thread.join()
    if failure.error is not None:
        raise failure.error


def _finish(passes: Sequence[_Pass], number: int) -> None:
    """Ends the rows that a pass fed, and the films that no later pass feeds."""
    later = {id(reel) for p in passes[number + 1 :] for reel, _ in p.fed}
    for reel, part in passes[number].fed:
        if part is not None:
            reel.rest(part)
    for reel in {id(reel): reel for reel, _ in passes[number].fed}.values():
        if id(reel) not in later:
            reel.finish()


def _decode(
    reader: Reader, passes: Sequence[_Pass], out: Channel[tuple[int, Decoded]], abort: Callable[[BaseException], None]
) -> None:
    try:
        for number, one in enumerate(passes):
            for run in one.runs:
                for item in reader.runs(run.start_s, run.end_s, backwards=run.backwards):
                    out.put((number, item))
        out.finish()
    except BaseException as error:
        abort(error)


class _Reel:
    """One film under way: which frames it takes from the clip, and its outputs."""

    def __init__(self, film: Film, footage: Footage, files: ExitStack, sources: Sequence[Path]) -> None:
        self.film, self.footage = film, footage
        self.start_s = film.start_s
        self.end_s = min(film.end_s, footage.duration_s) if footage.duration_s > 0 else film.end_s
        if not 0.0 <= self.start_s < self.end_s:
            raise RenderError(
                f"The part from {self.start_s:g} to {self.end_s:g} s is not in {footage.name}, which lasts {footage.duration_s:.2f} s.",
                advice="Choose in and out inside the clip.",
            )
        self.timeline = Timeline(self.start_s, self.end_s, film.stretches) if film.stretches else None
        if self.timeline is not None and self.timeline.plain:
            self.timeline = None
        self.parts = parts_of(self.timeline, float(footage.rate), average=film.average) if self.timeline else []
        self.lanes = [_Lane(o, files.enter_context(whole_file(o.target, sources=sources)), self) for o in film.outputs]
        self.frames, self._last_s = 0, 0.0
        self._first: Fraction | None = None
        self._until = Fraction(0)
        self._slack = float(1 / footage.rate) / 2

    @property
    def time_base(self) -> Fraction:
        return 1 / self.footage.rate if self.timeline is not None else self.footage.time_base

    @property
    def duration_s(self) -> float:
        if self.timeline is not None:
            return float(self.frames / self.footage.rate)
        return float(self._until - (self._first or Fraction(0)))

    def sound(self) -> Iterator[np.ndarray] | None:
        """The film's sound, from its first picture on; None where it gets no track."""
        if not self.footage.has_sound or (self.timeline is not None and self.film.sound == "none"):
            return None
        if self.timeline is not None:
            return film_sound(self.footage.sound, self.timeline, muted=self.film.sound == "mute")
        return self.footage.sound(float(self._first or 0), self.end_s)

    def push(self, item: Decoded, sphere: Sphere, part: Part | None) -> None:
        """Takes one frame of the clip."""
        time = float(item.time)
        if part is not None:
            for number, picture, view_s in part.weave.push(time, float(item.until), sphere):
                self._draw(picture, view_s, number)
        elif self.start_s - self._slack <= time < self.end_s - self._slack:
            if self._first is None:
                self._first = item.time
            step = min(item.until - item.time, 1 / self.footage.rate) if self.frames == 0 else item.until - item.time
            self._until = item.time + step
            self._draw(sphere, time, int((item.time - self._first) / self.footage.time_base))
        else:
            return
        self._last_s = max(self._last_s, time)

    def rest(self, part: Part) -> None:
        for number, picture, view_s in part.weave.rest():
            self._draw(picture, view_s, number)

    def _draw(self, sphere: Sphere, view_s: float, pts: int) -> None:
        for lane in self.lanes:
            lane.draw(sphere, view_s, pts)
        self.frames += 1

    def finish(self) -> None:
        for lane in self.lanes:
            lane.end_s = self.duration_s
            lane.channel.finish()

    def end_note(self) -> Iterator[str]:
        """Where the clip ends before its header says."""
        if self.timeline is not None and self.frames < self.timeline.frames(float(self.footage.rate)):
            lost = self.timeline.frames(float(self.footage.rate)) - self.frames
            yield f"{self.footage.name} ends before its header says: the film lacks {lost} frames."
        frame_s, wanted = 2 * self._slack, min(self.end_s, self.footage.duration_s)
        if self.timeline is None and self._last_s + 1.5 * frame_s < wanted:
            yield f"{self.footage.name} ends at {self._last_s + frame_s:.2f} s, though its header says {self.footage.duration_s:.2f} s."


class _Lane:
    """One output's way: reprojection into a new frame, then its encoder."""

    def __init__(self, output: Output, part: Path, reel: _Reel) -> None:
        self.output, self._part, self._reel = output, part, reel
        self._reprojector = Reprojector(output.size_px, output.quality, coverage=reel.footage.coverage)
        self._writer: FilmWriter | None = None
        self.channel: Channel[tuple[av.VideoFrame, int]] = Channel()
        self.end_s = 0.0

    def draw(self, sphere: Sphere, view_s: float, pts: int) -> None:
        if self._writer is None:
            with _writing(self.output.target):
                self._writer = FilmWriter(
                    self._part, self.output.size_px, rate=self._reel.footage.rate, time_base=self._reel.time_base, encoding=self.output.encoding,
                    tags=sphere.picture.tags, source_bits=sphere.picture.bits, sound=self._reel.sound(),
                )  # fmt: skip
        frame, planes = self._writer.new_frame()
        self._reprojector.draw(sphere, self.output.course.sight(view_s), out=planes)
        self.channel.put((frame, pts))

    def encode(self, abort: Callable[[BaseException], None]) -> None:
        try:
            for frame, pts in self.channel:
                assert self._writer is not None
                with _writing(self.output.target):
                    self._writer.write(frame, pts, self._reel.time_base)
            if self._writer is not None:
                with _writing(self.output.target):
                    self._writer.close(self.end_s)
        except BaseException as error:
            abort(error)
            if self._writer is not None:
                self._writer.abandon()


@contextmanager
def _writing(target: Path) -> Iterator[None]:
    """Says what goes wrong while one output is written, by that output's own name."""
    try:
        yield
    except GlintorError:
        raise
    except OSError as error:
        raise write_error(target, error) from error
    except Exception as error:
        import av.error

        if not isinstance(error, av.error.FFmpegError):
            raise
        raise RenderError(
            f"The encoder of {target.name} stopped: {error}.", unharmed="The source is unharmed.", advice="Try another preset or size."
        ) from error  # fmt: skip


def _fault_notes(reader: Reader, footage: Footage) -> tuple[str, ...]:
    if not reader.faults_s:
        return ()
    places = ", ".join(f"{t:.2f}" for t in reader.faults_s[:_PLACES_SAID])
    more = f" and {len(reader.faults_s) - _PLACES_SAID} more" if len(reader.faults_s) > _PLACES_SAID else ""
    return (f"{footage.name} is damaged at {places}{more} s; it was skipped there, everything that decodes is kept.",)

"""The render engine: one decode, one reprojecting stage, one encoder thread for each output.

    decoder thread -> channel of two frames -> reprojection (the calling thread) -> channel -> encoder threads

Every film that is one part of a clip and runs forwards is fed from the same decode of that clip; one that joins parts,
or runs backwards, takes passes of its own. Memory does not grow with the clip's length: at most two decoded frames and
two frames an output are alive.
"""

import threading
from collections.abc import Callable, Sequence
from contextlib import ExitStack
from pathlib import Path

from msgspec import Struct

from glintor.errors import Cancelled
from glintor.export.film import Film, Output, Reel, film_of
from glintor.export.strand import Feed, RenderError
from glintor.export.weave import Run, merged
from glintor.media.channel import Channel, ChannelClosed
from glintor.media.footage import Footage, open_footage
from glintor.media.read import Decoded, Reader
from glintor.media.taken import TakenAs
from glintor.types import Report

_PLACES_SAID = 5
_LEAST_RUN_S = 0.04


class RenderResult(Struct, frozen=True):
    """What came out: pictures written to each output of a film, its length, and what the person should know."""

    frames: int
    duration_s: float
    notes: tuple[str, ...]


class _Failure(Struct):
    """The first error of any stage."""

    error: BaseException | None = None

    def keep(self, error: BaseException) -> None:
        if self.error is None and not isinstance(error, ChannelClosed):
            self.error = error


def render(
    source: Footage | Path,
    outputs: Sequence[Output],
    *,
    start_s: float = 0.0,
    end_s: float = float("inf"),
    taken_as: TakenAs = TakenAs(),
    report: Report = lambda _share: None,
    stop: threading.Event | None = None,
) -> RenderResult:
    """Renders one cut at its own speed in several outputs; see `render_films`."""
    film = film_of(open_footage(source, taken_as), outputs, start_s=start_s, end_s=end_s)
    return render_films([film], report=report, stop=stop)[0]


def render_films(
    films: Sequence[Film],
    *,
    keep: Sequence[Path] = (),
    report: Report = lambda _share: None,
    stop: threading.Event | None = None,
) -> list[RenderResult]:
    """Renders every output of every film and returns what was written, a result a film.

    keep  footage that must not be written over, beside what the films are made of

    Output frame n shows the path at the clip's time of output frame n.
    Raises ClipError, WriteError, RenderError, PaceError or Cancelled; then no target was touched.
    """
    stop = stop or threading.Event()
    with ExitStack() as files, _Readers() as readers:
        reels = [Reel(film, files, keep) for film in films]
        _run(readers, reels, report, stop)
        for reel in reels:
            if reel.frames == 0:
                names = reel.film.strands[0].footage.name
                raise RenderError(f"No picture of {names} lies in the part asked for.", advice="Move in or out.")
        notes = [(*readers.notes(reel), *reel.end_notes()) for reel in reels]
    return [RenderResult(reel.frames, reel.duration_s, said) for reel, said in zip(reels, notes, strict=True)]


class _Readers:
    """The footage that is read, each opened once."""

    def __init__(self) -> None:
        self._open: dict[Footage, Reader] = {}

    def __enter__(self) -> "_Readers":
        return self

    def __exit__(self, *_exc: object) -> None:
        for reader in self._open.values():
            reader.close()

    def of(self, footage: Footage) -> Reader:
        if footage not in self._open:
            self._open[footage] = footage.reader()
        return self._open[footage]

    def notes(self, reel: Reel) -> tuple[str, ...]:
        """What could not be decoded of the footage of a film."""
        own = dict.fromkeys(strand.footage for strand in reel.film.strands)
        return tuple(note for footage in own for note in _fault_notes(self.of(footage), footage))


class _Pass(Struct):
    """What is decoded of a footage in one go, and which rows of which strands it feeds."""

    footage: Footage
    runs: tuple[Run, ...]
    fed: list[tuple[Reel, Feed, int]]

    @property
    def length_s(self) -> float:
        return sum(max(run.end_s - run.start_s, _LEAST_RUN_S) for run in self.runs)


def _passes(reels: Sequence[Reel]) -> list[_Pass]:
    """Films that share a footage and run forwards share a pass; every row of the others is a pass of its own, in order."""
    shared: dict[Footage, list[tuple[Reel, Feed, int]]] = {}
    alone = []
    for reel in reels:
        rows = [(reel, feed, row) for feed in reel.feeds for row in range(len(feed.rows))]
        if reel.alone:
            alone += [_Pass(feed.strand.footage, feed.rows[row], [(reel, feed, row)]) for _, feed, row in rows]
        else:
            shared.setdefault(reel.feeds[0].strand.footage, []).extend(rows)
    together = []
    for footage, fed in shared.items():
        spans = [(run.start_s, run.end_s) for _, feed, row in fed for run in feed.rows[row]]
        together.append(_Pass(footage, merged(spans), fed))
    return together + alone


def _run(readers: _Readers, reels: Sequence[Reel], report: Report, stop: threading.Event) -> None:
    passes = _passes(reels)
    decoded: Channel[tuple[int, Decoded]] = Channel()
    lanes = [lane for reel in reels for lane in reel.lanes]
    failure = _Failure()

    def abort(error: BaseException) -> None:
        failure.keep(error)
        decoded.abort()
        for lane in lanes:
            lane.channel.abort()

    threads = [threading.Thread(target=_decode, args=(readers, passes, decoded, abort), name="decode")]
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
            sphere = passes[number].footage.sphere(item)
            for reel, feed, row in passes[number].fed:
                reel.draw(feed, feed.push(row, item, sphere))
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
    later = {id(reel) for p in passes[number + 1 :] for reel, _, _ in p.fed}
    for reel, feed, row in passes[number].fed:
        reel.draw(feed, feed.rest(row))
    for reel in {id(reel): reel for reel, _, _ in passes[number].fed}.values():
        if id(reel) not in later:
            reel.finish()


def _decode(
    readers: _Readers,
    passes: Sequence[_Pass],
    out: Channel[tuple[int, Decoded]],
    abort: Callable[[BaseException], None],
) -> None:
    try:
        for number, one in enumerate(passes):
            reader = readers.of(one.footage)
            for run in one.runs:
                for item in reader.runs(run.start_s, run.end_s, backwards=run.backwards):
                    out.put((number, item))
        out.finish()
    except BaseException as error:
        abort(error)


def _fault_notes(reader: Reader, footage: Footage) -> tuple[str, ...]:
    if not reader.faults_s:
        return ()
    places = ", ".join(f"{t:.2f}" for t in reader.faults_s[:_PLACES_SAID])
    more = f" and {len(reader.faults_s) - _PLACES_SAID} more" if len(reader.faults_s) > _PLACES_SAID else ""
    return (f"{footage.name} is damaged at {places}{more} s; it was skipped there, everything that decodes is kept.",)

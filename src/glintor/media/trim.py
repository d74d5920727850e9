"""A part of a film as a film of its own, cut at key frames: its packets are carried over as they are, nothing is packed anew."""

import threading
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from msgspec import Struct

from glintor.errors import Cancelled
from glintor.files import whole_file
from glintor.media.probe import ClipError, open_clip
from glintor.media.spherical import mark_film, marks_of
from glintor.types import Report

_FOR_MARKS = (".mp4", ".mov", ".m4v")


class Trimmed(Struct, frozen=True):
    """A trimmed film: which part of its source it holds, and what of it could not be carried over."""

    file: Path
    begin_s: float
    end_s: float
    left_out: tuple[str, ...] = ()


def trim_film(
    source: Path,
    target: Path,
    begin_s: float,
    end_s: float,
    *,
    report: Report = lambda _share: None,
    stop: threading.Event | None = None,
) -> Trimmed:
    """Writes the part from begin_s to end_s of a film, from the key frame before its beginning up to the one after its end, with all
    tracks, its metadata and what it says of its sphere. Raises ClipError, WriteError, SourceError, Cancelled."""
    import av
    import av.error

    try:
        with whole_file(target, sources=[source]) as part, open_clip(source) as film:
            shown = film.streams.video[0]
            assert shown.time_base is not None, "a picture track has a time base"
            zero = float((shown.start_time or 0) * shown.time_base)
            at = round((begin_s + zero) / shown.time_base)
            film.seek(at, stream=shown, backward=True)
            start = _first_key(film, shown)
            film.seek(at, stream=shown, backward=True)
            with av.open(str(part), "w", format=None, options={"movflags": "use_metadata_tags"}) as out:
                ways, left_out = _ways(film, out)
                out.metadata.update(
                    _metadata(film.metadata, start - zero)
                )  # before the first packet, which writes the head
                end = _carry(film, out, ways, shown, (start, end_s + zero), report, stop)
            if target.suffix.lower() in _FOR_MARKS:
                mark_film(part, marks_of(source))
    except av.error.FFmpegError as error:
        raise ClipError(
            f"{source.name} could not be trimmed: {error.strerror}.",
            unharmed="It was not changed.",
            advice="Keep the whole of it.",
        ) from error
    return Trimmed(target, max(start - zero, 0.0), end - zero, left_out)


def _ways(film: Any, out: Any) -> tuple[dict[int, Any], tuple[str, ...]]:
    """For each track of a film that the other can hold its own there; and those that it cannot."""
    ways, left_out = {}, []
    for track in film.streams:
        try:
            own = out.add_stream_from_template(track)
        except (ValueError, TypeError, NotImplementedError):
            left_out.append(f"a track of {track.type or 'data'}")
            continue
        own.metadata.update(track.metadata)
        ways[track.index] = own
    return ways, tuple(left_out)


def _metadata(of_film: dict[str, str], later_s: float) -> dict[str, str]:
    """A film's own words, its time of creation so much later."""
    told = {
        name: words
        for name, words in of_film.items()
        if name not in ("major_brand", "minor_version", "compatible_brands", "encoder")
    }
    try:
        began = datetime.fromisoformat(told["creation_time"].replace("Z", "+00:00")) + timedelta(seconds=later_s)
        told["creation_time"] = began.isoformat(timespec="microseconds").replace("+00:00", "Z")
    except (KeyError, ValueError):
        told.pop("creation_time", None)
    return told


def _first_key(film: Any, shown: Any) -> float:
    """When the first key frame from here on is shown. Raises ClipError."""
    for packet in film.demux(shown):
        if packet.is_keyframe and packet.pts is not None:
            return float(packet.pts * packet.time_base)
    raise ClipError("There are no pictures in that part.", advice="Choose another part.")


def _carry(
    film: Any,
    out: Any,
    ways: dict[int, Any],
    shown: Any,
    span_s: tuple[float, float],
    report: Report,
    stop: threading.Event | None,
) -> float:
    """Carries packets over from a key frame on; when the one is shown before which they end (or the end of the film)."""
    start, end = span_s
    last = start
    ended: set[int] = set()
    begun: set[int] = set()  # picture tracks whose first key frame came
    for packet in film.demux([film.streams[index] for index in ways]):
        if stop is not None and stop.is_set():
            raise Cancelled
        index = packet.stream.index
        if packet.dts is None or packet.pts is None or index in ended:
            continue
        at = float(packet.pts * packet.time_base)
        if packet.stream.type == "video" and packet.is_keyframe:
            begun.add(index)
        if index == shown.index:
            if packet.is_keyframe and at >= end:
                last = at
                ended.add(index)
                continue
            last = max(last, at + float((packet.duration or 0) * packet.time_base))
            report(min(max((at - start) / max(end - start, 1e-3), 0.0), 1.0))
        elif shown.index in ended and at >= last:
            ended.add(index)
            continue
        if len(ended) == len(ways):
            break
        if index in begun or packet.stream.type != "video":
            _put(packet, out, ways, start)
    return last


def _put(packet: Any, out: Any, ways: dict[int, Any], start_s: float) -> None:
    """Writes a packet, its time counted from the start; what is shown before it is left out."""
    zero = round(start_s / packet.time_base)
    if packet.pts < zero:
        return
    packet.pts -= zero
    packet.dts -= zero
    packet.stream = ways[packet.stream.index]
    out.mux(packet)

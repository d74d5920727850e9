"""Only the good part of a recording, as further files: its films trimmed at key frames, what lies beside them trimmed alike."""

import csv
import io
import re
import threading
from collections.abc import Sequence
from datetime import datetime, timedelta
from itertools import accumulate
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from glintor.content import quick_of
from glintor.errors import InputError
from glintor.files import free_name, write_bytes
from glintor.media.parts import parts_of, whole_length_s
from glintor.media.probe import probe
from glintor.media.taken import Paired
from glintor.media.trim import Trimmed, trim_film
from glintor.names import text_of
from glintor.project.take import Take, TakeFile
from glintor.types import Report

_TIME = re.compile(r"^(?:t|time|timestamp)_?(s|ms|us|ns)$")
_TO_S = {"s": 1.0, "ms": 1e-3, "us": 1e-6, "ns": 1e-9}
_STAMP = re.compile(r"(\d+):(\d{2}):(\d{2})([.,])(\d{3})")


class Part(Struct, frozen=True):
    """What was written. begin_s, end_s: which part of the recording it is; words: what could not go along."""

    films: tuple[Path, ...]
    beside: tuple[Path, ...]
    begin_s: float
    end_s: float
    words: str = ""


class _Span(Struct, frozen=True):
    """A film of a recording that the wanted part touches: from when to when of its own time, and when it begins in the whole."""

    file: Path
    begin_s: float
    end_s: float
    zero_s: float


def only_part(
    files: Sequence[Path],
    beside: Sequence[Path],
    span_s: tuple[float, float],
    folder: Path,
    *,
    paired: Paired = "",
    report: Report = lambda _share: None,
    stop: threading.Event | None = None,
) -> Part:
    """Writes the part span_s of a recording (its films in order) into a folder. Nothing is packed anew, and what is there already is
    never written over. Raises ClipError, WriteError, InputError, Cancelled; then nothing half written is left."""
    spans = _spans(files, paired, span_s)
    made: list[tuple[_Span, Trimmed]] = []
    written: list[Path] = []
    try:
        for number, span in enumerate(spans):

            def of_all(share: float, done: int = number) -> None:
                report((done + share) / len(spans))

            name = f"{span.file.stem}-from-{_seconds(span.begin_s)}{span.file.suffix}"
            target = free_name(folder / name)
            made.append((span, trim_film(span.file, target, span.begin_s, span.end_s, report=of_all, stop=stop)))
            written.append(target)
        if paired == "files":
            _in_step(made)
        more, words = _beside(beside, made, folder)
        written += more
    except BaseException:
        for file in written:
            file.unlink(missing_ok=True)
        raise
    first, last = made[0], made[-1]
    words += [f"{span.file.name}: {what} stayed behind" for span, one in made for what in one.left_out]
    return Part(
        tuple(one.file for _, one in made),
        tuple(more),
        first[0].zero_s + first[1].begin_s,
        last[0].zero_s + last[1].end_s,
        ". ".join(words),
    )


def _seconds(at_s: float) -> str:
    return f"{int(at_s) // 60}m{int(at_s) % 60:02d}s"


def _spans(files: Sequence[Path], paired: Paired, span_s: tuple[float, float]) -> list[_Span]:
    parts = parts_of(files, paired)
    ends = list(accumulate(whole_length_s(part.info) for part in parts))
    found = []
    for part, zero, end in zip(parts, [0.0, *ends], ends, strict=False):
        begin_s, end_s = max(span_s[0], zero) - zero, min(span_s[1], end) - zero
        if end_s - begin_s > 1e-3:
            found += [_Span(file, begin_s, end_s, zero) for file in part.files[: 2 if paired == "files" else 1]]
    if not found:
        raise InputError("There is nothing in that part.", advice="Set its beginning and its end anew.")
    return found


def _in_step(made: Sequence[tuple[_Span, Trimmed]]) -> None:
    """Both lenses' films must begin with the same picture. Raises InputError."""
    for (_, one), (span, two) in zip(made[::2], made[1::2], strict=True):
        if abs(one.begin_s - two.begin_s) > 0.5 / float(probe(span.file).rate):
            raise InputError(
                "The films of both lenses have their key frames at different moments.",
                unharmed="They were not changed, and nothing was written.",
                advice="Keep the whole of this recording.",
            )


def _beside(
    beside: Sequence[Path], made: Sequence[tuple[_Span, Trimmed]], folder: Path
) -> tuple[list[Path], list[str]]:
    written, words = [], []
    for file in beside:
        own = next(((s, t) for s, t in made if file.name.lower().startswith(f"{s.file.stem.lower()}.")), None)
        span, trimmed = own or made[0]
        begin_s = trimmed.begin_s if own is not None else span.zero_s + trimmed.begin_s
        end_s = trimmed.end_s if own is not None else made[-1][0].zero_s + made[-1][1].end_s
        content = _trimmed_words(file, begin_s, end_s)
        if content is None:
            words.append(f"{file.name} tells no times that are known here and stays with the whole recording")
            continue
        stem = span.file.stem if own is not None else file.name.split(".")[0]
        target = free_name(folder / f"{trimmed.file.stem}{file.name[len(stem) :]}")
        write_bytes(target, content.encode())
        written.append(target)
    return written, words


def _trimmed_words(file: Path, begin_s: float, end_s: float) -> str | None:
    """A file beside a recording, with what it says of a part, its times counted from there; None where its times are not known."""
    text = file.read_text(errors="replace")
    kind = file.suffix.lower()
    if kind == ".csv":
        return _csv(text, begin_s, end_s)
    if kind == ".gpx":
        return _gpx(text, begin_s, end_s)
    return _subtitles(text, begin_s, end_s) if kind in (".srt", ".vtt") else None


def _csv(text: str, begin_s: float, end_s: float) -> str | None:
    """Rows by their column of time, which begins with the recording."""
    rows = list(csv.reader(io.StringIO(text)))
    names = [re.sub(r"[^a-z0-9]+", "_", name.strip().lower()).strip("_") for name in rows[0]] if rows else []
    at = next(((n, _TO_S[found[1]]) for n, name in enumerate(names) if (found := _TIME.match(name))), None)
    if at is None:
        return None
    column, to_s = at
    kept = [rows[0]]
    for row in rows[1:]:
        try:
            time_s = float(row[column]) * to_s
        except (ValueError, IndexError):
            continue
        if begin_s <= time_s < end_s:
            digits = len(row[column].partition(".")[2])
            kept.append([*row[:column], f"{(time_s - begin_s) / to_s:.{digits}f}", *row[column + 1 :]])
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerows(kept)
    return out.getvalue()


def _gpx(text: str, begin_s: float, end_s: float) -> str | None:
    """Points by their times, of which the first is the recording's beginning; the times themselves stay true."""
    import gpxpy

    try:
        read = gpxpy.parse(text)
    except Exception:  # of whatever is wrong with it, it tells no times
        return None
    times = [
        p.time for track in read.tracks for segment in track.segments for p in segment.points if p.time is not None
    ]
    if not times:
        return None
    first, last = (times[0] + timedelta(seconds=s) for s in (begin_s, end_s))
    for track in read.tracks:
        for segment in track.segments:
            segment.points = [p for p in segment.points if p.time is not None and first <= p.time <= last]
    return str(read.to_xml())


def _subtitles(text: str, begin_s: float, end_s: float) -> str:
    """Blocks of an SRT or VTT by their times."""
    kept: list[str] = []
    number = 0
    for block in re.split(r"\n\s*\n", text.replace("\r\n", "\n").strip()):
        stamps = _STAMP.findall(block)
        if len(stamps) < 2:
            kept += [block] if not kept and block.startswith("WEBVTT") else []
            continue
        start, stop = (int(h) * 3600 + int(m) * 60 + int(s) + int(ms) / 1000 for h, m, s, _, ms in stamps[:2])
        if stop <= begin_s or start >= end_s:
            continue
        number += 1
        moved = iter((max(start - begin_s, 0.0), stop - begin_s))
        block = _STAMP.sub(lambda found, at=moved: _stamp(next(at), found[4]), block, count=2)
        kept.append(re.sub(r"^\d+\n", f"{number}\n", block))
    return "\n\n".join(kept) + "\n"


def _stamp(at_s: float, point: str) -> str:
    whole = round(at_s * 1000)
    return f"{whole // 3600000:02d}:{whole // 60000 % 60:02d}:{whole // 1000 % 60:02d}{point}{whole % 1000:03d}"


def part_take(take: Take, part: Part, project_file: Path) -> Take:
    """The take of a part: what is known of the whole holds for it, its times counted from its beginning."""
    begin, length = part.begin_s, part.end_s - part.begin_s
    base = project_file.parent
    files = tuple(
        TakeFile(
            copy=str(file.relative_to(base)) if file.is_relative_to(base) else "",
            lies="" if file.is_relative_to(base) else text_of(file),
            size_bytes=file.stat().st_size,
            quick=quick_of(file),
        )
        for file in part.films
    )
    try:
        began = (datetime.fromisoformat(take.began) + timedelta(seconds=begin)).isoformat()
    except ValueError:
        began = take.began
    horizon = take.horizon
    if horizon is not None and take.kind == "film":  # of a moment that is not in it it tells nothing
        at = horizon.at_s - begin
        horizon = replace(horizon, at_s=at) if 0.0 <= at <= length else horizon if horizon.by == "file" else None
    return replace(
        take,
        id=f"{take.id}-part",
        name=f"{take.name}, part",
        files=files,
        duration_s=length,
        began=began,
        start_min=None if take.start_min is None else take.start_min + begin / 60.0,
        marks_s=tuple(round(at - begin, 3) for at in take.marks_s if 0.0 <= at - begin <= length),
        part_s=None,
        horizon=horizon,
        heard=tuple(replace(one, offset_s=one.offset_s - begin) for one in take.heard),
        why=f"a part of {take.name}, from {begin:.1f} s",
    )

"""Which files belong together: parts of one recording, brackets, series, the films of two lenses, and what lies beside them.

Nothing is decided by a name alone: a name only says where to look.
"""

import contextlib
import re
from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Sequence
from pathlib import Path

import numpy as np
from msgspec.structs import replace

from glintor.errors import Cancelled, GlintorError, InputError
from glintor.media.first_bytes import sort_of
from glintor.media.footage import follows, open_footage
from glintor.media.lens_profile import guess_lenses
from glintor.media.looks_like import alike
from glintor.media.parts import whole_length_s
from glintor.media.photos_together import numbered, photos_together
from glintor.media.picture import SUFFIXES as PHOTOS
from glintor.media.probe import probe
from glintor.media.read import ClipReader
from glintor.media.reading import COMPANIONS, FILMS, SOUNDS, Reading, read_one
from glintor.media.taken import TakenAs
from glintor.names import text_of
from glintor.report import in_words
from glintor.types import Report
from glintor.walk import walked

_PART_LIKE = 0.9
_STAND_IN_SHARE, _STAND_IN_S = 0.5, 0.25  # of its film's pixels at most, and of its length as near (judgement)
_SAME = 0.985  # how alike two pictures of one that stands still are
_FULL_PART_BYTES = 1_900_000_000  # from which on a film may have ended because a part was full (2 and 4 GB are usual)
_JOIN_S = 2.5  # between the end of a part and when the next says it began
_PAIR_S = 0.3


def recordings_in(places: Iterable[Path]) -> tuple[Path, ...]:
    """The files in these files and folders that may be recordings, each once, those of a folder by name. A file that is
    named is always one of them: what is wrong with it is said later. Raises InputError where a folder cannot be read."""
    found: dict[Path, None] = {}
    for place in places:
        if not place.is_dir():
            found[place] = None
            continue
        try:
            inside = walked(place).files
        except OSError as error:
            raise InputError(
                f"{text_of(place)} cannot be read: {error.strerror or error}.",
                unharmed="Nothing was changed.",
                advice="Is the card or disk still in?",
            ) from error
        found |= {file: None for file in inside if _may_be_one(file)}
    return tuple(found)


def _may_be_one(file: Path) -> bool:
    """Whether a file may be a recording, by its ending, or where that is none that is known by its first bytes."""
    ending = file.suffix.lower()
    if ending in FILMS | PHOTOS | SOUNDS:
        return True
    with contextlib.suppress(OSError):
        return ending not in COMPANIONS and sort_of(file) is not None
    return False


def read_all(files: Sequence[Path], *, report: Report = lambda _share: None) -> tuple[Reading, ...]:
    """What files are, those that belong together as one; in the order of their first files."""
    alone: dict[Path, Reading] = {}
    for number, file in enumerate(files):
        alone[file] = read_one(file)
        report(0.9 * (number + 1) / len(files))
    found: list[Reading] = []
    alone = {one.files[0]: one for one in _or_as_it_is(_without_stand_ins, list(alone.values()))}
    for group in _neighbours(list(alone)):
        readings = [alone[file] for file in group]
        together = photos_together if readings[0].reading in ("photo", "flat") else _films_together
        found += _or_as_it_is(together, readings)
    found = _or_as_it_is(_lens_pairs, found)
    whole = []
    for one in found:
        report(0.95)
        whole += _or_as_it_is(lambda readings: [_with_lenses(_with_companions(readings[0]))], [one])
    report(1.0)
    order = {file: number for number, file in enumerate(files)}
    return tuple(sorted(whole, key=lambda r: min(order[f] for f in r.files)))


def _without_stand_ins(readings: list[Reading]) -> list[Reading]:
    """Without the small copies that cameras write beside their films: of the same name but for its ending, as long, and smaller. What
    they belong to says so."""
    rows: dict[tuple[Path, str], list[Reading]] = defaultdict(list)
    for one in readings:
        if len(one.files) == 1 and one.duration_s:
            rows[(one.files[0].parent, one.files[0].stem.lower())].append(one)
    out = list(readings)
    for row in rows.values():
        large = max(row, key=lambda r: r.size_px[0] * r.size_px[1])
        for small in row:
            less = small.size_px[0] * small.size_px[1] <= _STAND_IN_SHARE * large.size_px[0] * large.size_px[1]
            if (
                small is not large
                and less
                and abs(small.duration_s - large.duration_s) <= _STAND_IN_S
                and small.size_px[0]
            ):
                out.remove(small)
                at = out.index(large)
                names = (*large.companions, small.files[0])
                large = replace(large, companions=names)
                out[at] = large
    return out


def _or_as_it_is(change: Callable[[list[Reading]], list[Reading]], readings: list[Reading]) -> list[Reading]:
    """What a change makes of readings; themselves where one of them is odd in a way that nobody foresaw: it never stops the others."""
    try:
        return change(readings)
    except Cancelled:
        raise
    except Exception as error:
        in_words(f"Looking at {readings[0].name}", error)
        return readings


def read_beside(file: Path) -> Reading:
    """What a file is, with those beside it that belong to it."""
    own = numbered(file)
    beside = [file]
    if own is not None and file.suffix.lower() in FILMS | PHOTOS and file.parent.is_dir():
        beside = sorted(
            one
            for one in file.parent.iterdir()
            if one.suffix.lower() == file.suffix.lower()
            and (number := numbered(one)) is not None
            and number[0] == own[0]
        )
    return next(reading for reading in read_all(beside) if file in reading.files)


def _neighbours(files: Sequence[Path]) -> Iterator[list[Path]]:
    """Files of one folder and kind whose names differ in their last number only, by that number; all others alone."""
    rows: dict[object, list[Path]] = defaultdict(list)
    for file in files:
        number = numbered(file)
        sort = "photo" if file.suffix.lower() in PHOTOS else file.suffix.lower()
        rows[(file.parent, number[0].lower(), sort) if number is not None else file].append(file)
    for row in rows.values():
        yield sorted(row, key=lambda f: (numbered(f) or ("", 0))[1])


def _films_together(readings: list[Reading]) -> list[Reading]:
    found: list[Reading] = []
    for reading in readings:
        before = found[-1] if found else None
        why = _goes_on(before, reading) if before is not None else ""
        if before is not None and why:
            found[-1] = _joined(before, reading, why)
        else:
            if before is not None and _lacks(before, reading):
                gap = _gap_words(before, reading)
                before = found[-1] = replace(before, missing=(*before.missing, gap))
                reading = replace(reading, missing=(*reading.missing, gap))
            found.append(reading)
    return found


def _goes_on(before: Reading, after: Reading) -> str:
    """Why a film is the next part of a recording; "" where it is not."""
    if before.reading != after.reading or before.told != after.told or before.reading in ("broken", "sound", "flat"):
        return ""
    one, two = before.files[-1], after.files[0]
    (_, first), (_, second) = numbered(one) or ("", 0), numbered(two) or ("", 9)
    if second != first + 1:
        return ""
    a, b = probe(one), probe(two)
    if not follows(a, b) or a.codec != b.codec:
        return ""
    timed = a.began is not None and b.began is not None and a.began.tzinfo == b.began.tzinfo
    apart = (b.began - a.began).total_seconds() - a.duration_s if timed and a.began and b.began else None
    if apart is not None and a.began != b.began and abs(apart) > _JOIN_S:
        return ""
    continues = _last_goes_on(one, two)
    if continues is None or continues < _PART_LIKE:
        return ""
    by_time = apart is not None and abs(apart) <= _JOIN_S
    if not by_time and a.size_bytes < _FULL_PART_BYTES and _stands(one):
        return ""  # a camera on a tripod sees the same in every film: nothing tells that one goes on
    return (
        "their names and times go on"
        if by_time
        else "their names go on, and the first picture of each goes on where the last of the one before ends"
    )


def _stands(file: Path) -> bool:
    """Whether a film shows the same picture over its last seconds."""
    info = probe(file)
    with contextlib.suppress(GlintorError), ClipReader(file) as reader:
        step = max(info.width_px // 480, 1)
        shots = [reader.at(max(info.duration_s - before, 0.0)).picture for before in (min(3.0, info.duration_s), 0.0)]
        a, b = ((p.y[::step, ::step] >> (p.bits - 8)).astype(np.uint8) for p in shots)
        return alike(a, b) > _SAME
    return False


def _last_goes_on(one: Path, two: Path) -> float | None:
    """How alike the last picture of a film and the first of another are."""
    with contextlib.suppress(GlintorError), ClipReader(one) as before, ClipReader(two) as after:
        info = probe(one)
        step = max(info.width_px // 480, 1)
        last = before.at(info.duration_s + 1.0).picture
        first = after.at(0.0).picture
        a, b = ((p.y[::step, ::step] >> (p.bits - 8)).astype(np.uint8) for p in (last, first))
        return alike(a, b)
    return None


def _joined(before: Reading, after: Reading, why: str) -> Reading:
    files = (*before.files, *after.files)
    length = sum(whole_length_s(probe(file)) for file in files)
    base = before.why.split("; ")[0]
    return replace(
        before,
        files=files,
        duration_s=length,
        why=f"{base}; {len(files)} parts of one recording: {why}",
        faults=(*before.faults, *after.faults),
    )


def _lacks(before: Reading, after: Reading) -> bool:
    """Whether parts seem to be missing between two films: numbered twice over, with a hole."""
    one, two = numbered(before.files[-1]), numbered(after.files[0])
    return one is not None and two is not None and two[1] > one[1] + 1 and bool(re.search(r"\d[_\-. ]+$", one[0]))


def _gap_words(before: Reading, after: Reading) -> str:
    one, two = numbered(before.files[-1]), numbered(after.files[0])
    assert one is not None and two is not None, "both are numbered"
    digits = len(before.files[-1].stem) - len(one[0])
    lost = [f"{one[0]}{n:0{digits}d}" for n in range(one[1] + 1, min(two[1], one[1] + 4))]
    return f"{', '.join(lost)} between {before.files[-1].name} and {after.files[0].name}"


def _lens_pairs(found: list[Reading]) -> list[Reading]:
    """Two films of one lens each that belong together: alike in size, rate and length, their names in all but one place."""
    out, used = [], set()
    for number, one in enumerate(found):
        if number in used:
            continue
        mate = None
        if one.reading == "one-lens" and one.rate:
            mate = next((n for n in range(number + 1, len(found)) if n not in used and _are_pair(one, found[n])), None)
        if mate is None:
            out.append(one)
            continue
        used.add(mate)
        two = found[mate]
        first, second = sorted((one, two), key=lambda r: r.files[0].name)
        files = tuple(f for pair in zip(first.files, second.files, strict=True) for f in pair)
        out.append(
            replace(
                first,
                reading="two-lenses",
                told="files",
                files=files,
                also=(),
                size_px=(2 * one.size_px[0], one.size_px[1]),
                why="two films of one lens each, alike in size, rate and length, whose names differ in one place",
                duration_s=min(one.duration_s, two.duration_s),
            )
        )
    return out


def _are_pair(one: Reading, two: Reading) -> bool:
    a, b = one.files[0], two.files[0]
    same = two.reading == "one-lens" and one.size_px == two.size_px and one.rate == two.rate
    same = same and abs(one.duration_s - two.duration_s) < _PAIR_S and len(one.files) == len(two.files)
    if not same or a.parent != b.parent or one.size_px[0] != one.size_px[1]:
        return False
    if len(a.stem) == len(b.stem):
        return sum(x != y for x, y in zip(a.stem.lower(), b.stem.lower(), strict=True)) <= 2
    words = [re.split(r"[_\-. ]+", f.stem.lower()) for f in (a, b)]
    return len(words[0]) == len(words[1]) and sum(x != y for x, y in zip(*words, strict=True)) == 1


def _with_companions(reading: Reading) -> Reading:
    """With the files beside it that carry its name in any case of letters: GPX, logs, telemetry, manifests."""
    folder = reading.files[0].parent
    stems = {file.stem.lower() for file in reading.files} | {reading.name.lower()}
    try:
        beside = [f for f in folder.iterdir() if f.suffix.lower() in COMPANIONS]
    except OSError:
        return reading
    found = sorted(f for f in beside if f.name.lower().split(".")[0] in stems)
    return replace(reading, companions=tuple(dict.fromkeys((*reading.companions, *found))))


def _with_lenses(reading: Reading) -> Reading:
    """With a first profile of its lenses, where its pictures tell one."""
    if not reading.told or reading.lenses is not None or reading.reading not in ("two-lenses", "one-lens"):
        return reading
    with contextlib.suppress(GlintorError):
        return replace(reading, lenses=guess_lenses(open_footage(reading.files, TakenAs(reading.told))))
    return reading

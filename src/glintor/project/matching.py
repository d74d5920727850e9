"""The log meets the files: which recording was rolled when, by camera, time, length and clap; wrong clocks are allowed for.

Each camera has one clock that is ahead or behind by so much; that offset is found by a vote of all its recordings. What stays unsure
is said so, with what comes into question.
"""

from collections import defaultdict
from collections.abc import Sequence
from datetime import datetime
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from msgspec import Struct

from glintor.project.log import Log
from glintor.project.model import Project, Shot
from glintor.project.take import Take

NEAR_S = 5.0  # a hand and a camera begin within that of each other (judgement, no source)
_LENGTH_S, _LENGTH_SHARE = 3.0, 0.03
_ALIKE_S = 1.5  # in length, of what has nothing but its length to speak for it
_CLAP_S = 1.5
_LIKELY_S = 90.0  # that a clock which somebody set is off
_APART_S = 2.0 * NEAR_S
_ZONE_S, _MOST_ZONES_S = 1800.0, 14 * 3600.0  # clocks that were set in another zone
_OTHERS = 4


class Offered(Struct, frozen=True):
    """A recording that may have been logged. key: the caller's own; claps_s: when sudden sounds are heard in it, None where nobody
    listened."""

    key: str
    take: Take
    claps_s: tuple[float, ...] | None = None


class Match(Struct, frozen=True):
    """A recording and the log of a shot that it was rolled for. clock_s: how far its camera's clock is ahead, None where that is not
    known; others: further logs (shot, log) that come into question where it is not sure, the likeliest first."""

    key: str
    shot_id: str
    log_id: str
    clock_s: float | None
    sure: bool
    words: str
    others: tuple[tuple[str, str], ...] = ()


class _Pair(Struct, frozen=True):
    offered: Offered
    shot: Shot
    log: Log
    apart_s: float | None  # by which its clock would be ahead
    longer_s: float
    clap: bool
    named: bool  # the camera told the log of this very file


def camera_of(take: Take) -> str:
    """What tells one camera's recordings from another's: who filmed it where that is known, else how its files are made and named."""
    return take.camera or _made_like(take)


def _made_like(take: Take) -> str:
    file = take.files[0]
    name = (file.card or file.lies or file.copy).rsplit("/", 1)[-1]
    letters = "".join(sign for sign in name.split(".")[0] if sign.isalpha()).lower()
    return f"{take.width_px} {take.rate_fps:g} {letters}"


def matches(project: Project, offered: Sequence[Offered]) -> tuple[Match, ...]:
    """The logs that recordings belong to, as far as any comes into question."""
    by_camera: dict[str, list[Offered]] = defaultdict(list)
    for one in offered:
        if one.take.kind in ("film", "lapse"):
            by_camera[camera_of(one.take)].append(one)
    known = _known_clocks(project)
    found: list[Match] = []
    for camera, group in by_camera.items():
        found += _of_camera(project, camera, group, known.get(camera))
    return tuple(found)


def _known_clocks(project: Project) -> dict[str, float]:
    """How far cameras' clocks are ahead, from what was matched already."""
    clocks: dict[str, float] = {}
    for shot in project.shots:
        logged = {take for log in shot.logs for take in log.takes}
        for take in shot.takes:
            if take.id in logged and take.clock_s is not None:
                clocks |= dict.fromkeys((camera_of(take), _made_like(take)), take.clock_s)
    return clocks


def _of_camera(project: Project, camera: str, group: Sequence[Offered], known_s: float | None) -> list[Match]:
    pairs = [
        pair
        for one in group
        for shot in project.shots
        for log in shot.logs
        if (pair := _pair(project, camera, one, shot, log)) is not None
    ]
    if not pairs:
        return []
    told = {pair.offered.key: pair for pair in pairs if pair.named}
    if told:  # the camera said so itself: no clock is needed, and its clock is known from them
        agreed = sorted(pair.apart_s for pair in told.values() if pair.apart_s is not None)
        known_s = agreed[len(agreed) // 2] if agreed else known_s
    clock, sure = _vote(pairs)
    if known_s is not None and len(_one_to_one(pairs, known_s)) >= (
        len(_one_to_one(pairs, clock)) if clock is not None else 0
    ):
        clock, sure = known_s, True  # else it is another camera that makes its files alike
    taken = _one_to_one(pairs, clock) if clock is not None else {}
    found = []
    for one in group:
        own = [pair for pair in pairs if pair.offered is one]
        best = taken.get(one.key)
        if one.key in told:
            found.append(_match(told[one.key], clock, True, own))
        elif best is not None:
            rivals = [p for p in own if p is not best and p.apart_s is not None and clock is not None
                      and abs(p.apart_s - clock) <= NEAR_S]  # fmt: skip
            found.append(_match(best, clock, sure and not rivals, own))
        elif alike := [
            p for p in own if p.clap or abs(p.longer_s) <= max(_ALIKE_S, _LENGTH_SHARE * _rolled_s(one.take))
        ]:
            own = alike
            clapped = [pair for pair in own if pair.clap]
            first = min(clapped or own, key=lambda p: (abs(p.longer_s), abs(p.apart_s or 0.0)))
            found.append(_match(first, first.apart_s if clock is None else clock, len(clapped) == 1, own))
    return found


def _pair(project: Project, camera: str, one: Offered, shot: Shot, log: Log) -> _Pair | None:
    """Both as one, where length and clap allow it and the log may still lack a recording of this camera."""
    length = log.length_s
    if length is None or (log.cameras and one.take.camera and one.take.camera not in log.cameras):
        return None
    filmed_s = _rolled_s(one.take)
    longer = filmed_s - length
    named = _named(log, one.take)
    if not named and _has_its_own(shot, log, camera):
        return None
    if not named and abs(longer) > max(_LENGTH_S, _LENGTH_SHARE * length):
        return None
    claps = [log.since_s(event.at) for event in log.events if event.what == "clap"]
    clap = bool(claps) and bool(one.claps_s) and any(abs(a - b) <= _CLAP_S for a in claps for b in one.claps_s or ())
    if claps and one.claps_s and not clap and not named:
        return None
    began = began_at(project, one.take)
    apart = None if began is None else (began - log.began_at).total_seconds()
    return _Pair(one, shot, log, apart, longer, clap, named)


def _has_its_own(shot: Shot, log: Log, camera: str) -> bool:
    """Whether a log has a recording of a camera already: of one that is known, or as many that are made alike as cameras were rolled."""
    of_log = [take for take in shot.takes if take.id in log.takes]
    alike = [take for take in of_log if camera in (camera_of(take), _made_like(take))]
    return any(take.camera == camera for take in alike) or len(alike) >= max(len(log.cameras), 1)


def _named(log: Log, take: Take) -> bool:
    """Whether a camera on the link told the log of a take's first file."""
    file = take.files[0]
    path = file.card or file.lies or file.copy
    for told in log.files:
        camera, size, name = (*told.split(":", 2), "", "")[:3]
        if size != str(file.size_bytes) or take.camera not in ("", camera):
            continue
        if path == name or path.endswith(f"/{name}") or name.endswith(f"/{path}"):
            return True
    return False


def _rolled_s(take: Take) -> float:
    """How long the camera ran for a take, which for a time-lapse is longer than its film."""
    interval = take.exposure.interval_s if take.exposure is not None else 0.0
    return take.duration_s * take.rate_fps * interval if take.kind == "lapse" and interval else take.duration_s


def began_at(project: Project, take: Take) -> datetime | None:
    """When it began by its camera's own clock, as far as its files tell."""
    try:
        zone = ZoneInfo(project.site.zone)
    except (ZoneInfoNotFoundError, ValueError):
        return None
    if take.began:
        try:
            began = datetime.fromisoformat(take.began)
        except ValueError:
            return None
        return began if began.tzinfo is not None else began.replace(tzinfo=zone)
    if take.start_min is None:
        return None
    from glintor.placement.sun import local_time

    return local_time(project.site.day, project.site.zone, take.start_min)


def _vote(pairs: Sequence[_Pair]) -> tuple[float | None, bool]:
    """The offset of a camera's clock that most of its recordings agree on, and whether no other comes near."""
    offsets = [pair.apart_s for pair in pairs if pair.apart_s is not None]
    if not offsets:
        return None, False
    votes = [(len(_one_to_one(pairs, offset)) + _likely(offset), -abs(offset), offset) for offset in offsets]
    most, _, best = max(votes)
    rival = max((votes_ for votes_, _, offset in votes if abs(offset - best) > _APART_S), default=0.0)
    agreed = [p.apart_s for p in _one_to_one(pairs, best).values() if p.apart_s is not None]
    middle = sorted(agreed)[len(agreed) // 2]
    enough = most >= 2.0 or _likely(best) >= 0.5 or any(p.clap for p in _one_to_one(pairs, best).values())
    return middle, enough and most - rival >= 0.5


def _likely(offset_s: float) -> float:
    """What an offset has for itself before anything votes: a clock that was set, or set in another zone."""
    if abs(offset_s) <= _LIKELY_S:
        return 0.5
    left = abs(offset_s) % _ZONE_S
    return 0.25 if abs(offset_s) <= _MOST_ZONES_S and min(left, _ZONE_S - left) <= _LIKELY_S else 0.0


def _one_to_one(pairs: Sequence[_Pair], clock_s: float) -> dict[str, _Pair]:
    """Recordings with a log each, of those that begin together where the clock is so far ahead: the closest first."""
    near = [pair for pair in pairs if pair.apart_s is not None and abs(pair.apart_s - clock_s) <= NEAR_S]
    found: dict[str, _Pair] = {}
    logs: set[tuple[str, str]] = set()
    for pair in sorted(near, key=lambda p: (not p.clap, abs((p.apart_s or 0.0) - clock_s) + abs(p.longer_s))):
        log = pair.shot.id, pair.log.id
        if pair.offered.key not in found and log not in logs:
            found[pair.offered.key] = pair
            logs.add(log)
    return found


def _match(pair: _Pair, clock_s: float | None, sure: bool, own: Sequence[_Pair]) -> Match:
    by = ["its length"]
    if pair.apart_s is not None and clock_s is not None and abs(pair.apart_s - clock_s) <= NEAR_S:
        by.insert(0, "its time")
    if pair.clap:
        by.append("the clap")
    if pair.named:
        by = ["what its camera told"]
    told = ", ".join(by[:-1]) + (" and " if len(by) > 1 else "") + by[-1]
    words = f"by {told}" + (f", its clock {offset_words(clock_s)}" if clock_s is not None else "")
    others = sorted(
        (p for p in own if p is not pair), key=lambda p: (abs(p.longer_s), abs((p.apart_s or 0.0) - (clock_s or 0.0)))
    )
    return Match(
        pair.offered.key,
        pair.shot.id,
        pair.log.id,
        clock_s,
        sure,
        words + ("" if sure else ": unsure"),
        () if sure else tuple((p.shot.id, p.log.id) for p in others[:_OTHERS]),
    )


def offset_words(clock_s: float) -> str:
    """How far a clock is off, in words."""
    off = abs(clock_s)
    if off < 1.0:
        return "right"
    hours, minutes, seconds = int(off) // 3600, int(off) // 60 % 60, int(off) % 60
    if hours >= 48:
        return f"{hours // 24} days {'fast' if clock_s > 0 else 'slow'}"
    words = f"{hours} h {minutes} min" if hours else f"{minutes} min {seconds} s" if minutes else f"{off:.0f} s"
    return f"{words} {'fast' if clock_s > 0 else 'slow'}"


class Candidate(Struct, frozen=True):
    """A log that a take may come from, and how it fits, in words."""

    shot: Shot
    log: Log
    clock_s: float | None
    fits: str


def candidates(project: Project, take: Take, claps_s: Sequence[float] | None = None) -> list[Candidate]:
    """Every log that has no recording of this camera yet, those that fit better first, also such whose length does not fit."""
    began, claps = began_at(project, take), list(claps_s or ())
    found = []
    for shot in project.shots:
        for log in shot.logs:
            length = log.length_s
            if length is None or _has_its_own(shot, log, camera_of(take)):
                continue
            longer = _rolled_s(take) - length
            apart = None if began is None else (began - log.began_at).total_seconds()
            told = [f"{abs(longer):.1f} s {'longer' if longer > 0 else 'shorter'}" if abs(longer) >= 0.1 else "as long"]
            told += [f"clock {offset_words(apart)}"] if apart is not None else ["when it was filmed is unknown"]
            events = [log.since_s(event.at) for event in log.events if event.what == "clap"]
            near = [(abs(a - b), b) for a in events for b in claps]
            if near and min(near)[0] <= _CLAP_S:
                told.append(f"a sudden sound at {min(near)[1]:.1f} s fits the clap")
            elif events and claps_s is not None:
                told.append("no sound fits the clap")
            clapped = bool(near) and min(near)[0] <= _CLAP_S
            found.append(((not clapped, abs(longer), abs(apart or 0.0)), Candidate(shot, log, apart, "; ".join(told))))
    return [one for _, one in sorted(found, key=lambda pair: pair[0])]

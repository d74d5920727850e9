"""A subject followed through a recording, forward and backward from where a hand (or a detector) said that it is."""

import threading
from collections.abc import Callable, Sequence
from itertools import pairwise
from typing import Any

import numpy as np
from msgspec import Struct

from glintor.errors import Cancelled, InputError
from glintor.media.footage import Footage
from glintor.pixels.subject import LOST, SURE, UNSURE, Seen, SubjectTracker
from glintor.sphere.equirect import direction
from glintor.sphere.turn import TurnTrack
from glintor.types import Report

RATE_HZ = 12.5  # at which pictures are looked at
_TOLD_EVERY = 25  # moments
_STEP_S = 0.95 / RATE_HZ
_BRIDGED_S = 2.5  # a gap so long between two sure moments is bridged by its motion


class Pointed(Struct, frozen=True):
    """Where a subject is at a moment, as somebody says: yaw and pitch in the picture, how high it is, degrees."""

    time_s: float
    yaw_deg: float
    pitch_deg: float
    size_deg: float


def follow_subject(
    footage: Footage,
    pointed: Sequence[Pointed],
    *,
    turns: TurnTrack | None = None,
    span_s: tuple[float, float] | None = None,
    report: Report = lambda _share: None,
    told: Callable[[list[Seen]], object] = lambda _seen: None,
    stop: threading.Event | None = None,
) -> list[Seen]:
    """Where a subject is through a recording (or a span of it), at 12.5 moments a second, in order of time: from each place that was
    pointed at forward to the next one, and from the first backward. turns: how the picture lies, so that patches are upright; told:
    what is known so far, now and then. Raises ClipError, InputError, Cancelled."""
    if footage.kind != "film":
        raise InputError("Only films are followed through.", advice="Choose a film.")
    points = sorted(pointed, key=lambda p: p.time_s)
    begin, end = span_s or (0.0, footage.duration_s)
    legs = [(points[0], begin, False)]
    legs += [(a, b.time_s, True) for a, b in pairwise(points)]
    legs.append((points[-1], end, True))
    whole = sum(abs(until - p.time_s) for p, until, _ in legs) or 1.0
    small = footage.draft() or footage
    found: list[Seen] = []
    done = 0.0

    def on_the_way(seen: list[Seen], far_s: float) -> None:
        report(min((done + far_s) / whole, 1.0))
        if len(seen) % _TOLD_EVERY == 0:
            told(bridged(_once_each([*found, *seen])))

    with small.reader() as reader:
        for point, until, forward in legs:
            found += _leg(small, reader, point, until, forward, turns, on_the_way, stop)
            done += abs(until - point.time_s)
    report(1.0)
    return bridged(_once_each(found))


def _leg(
    footage: Footage,
    reader: Any,
    point: Pointed,
    until_s: float,
    forward: bool,
    turns: TurnTrack | None,
    on_the_way: Callable[[list[Seen], float], None],
    stop: threading.Event | None,
) -> list[Seen]:
    """From a place that was pointed at until a moment, one way."""
    tracker = SubjectTracker(footage.shows)
    seen: list[Seen] = []
    low, high = sorted((point.time_s, until_s))
    for decoded in reader.runs(low, high, backwards=not forward):
        if stop is not None and stop.is_set():
            raise Cancelled
        time_s = float(decoded.time)
        if seen and abs(time_s - seen[-1].time_s) < _STEP_S:
            continue
        turn = np.eye(3) if turns is None else turns.at(time_s)
        sphere = footage.sphere(decoded)
        if not seen:
            look = turn @ direction(point.yaw_deg, point.pitch_deg)
            seen.append(tracker.begin(sphere, time_s, look, point.size_deg, turn))
        else:
            seen.append(tracker.step(sphere, time_s, turn))
        on_the_way(seen, abs(time_s - point.time_s))
    return seen


def _once_each(found: Sequence[Seen]) -> list[Seen]:
    """In order of time; of two at one moment the surer."""
    out: list[Seen] = []
    for seen in sorted(found, key=lambda s: (s.time_s, -s.state)):
        if not out or seen.time_s - out[-1].time_s > 0.2 / RATE_HZ:
            out.append(seen)
    return out


def bridged(seen: Sequence[Seen]) -> list[Seen]:
    """With short gaps between two sure moments gone through at an even pace: where a post was passed it is unsure, not lost."""
    out = list(seen)
    sure = [n for n, one in enumerate(out) if one.state == SURE]
    for a, b in pairwise(sure):
        first, last = out[a], out[b]
        lost = any(one.state == LOST for one in out[a + 1 : b])
        if not lost or last.time_s - first.time_s > _BRIDGED_S:
            continue
        turn = (last.yaw_deg - first.yaw_deg + 180.0) % 360.0 - 180.0
        for n in range(a + 1, b):
            share = (out[n].time_s - first.time_s) / (last.time_s - first.time_s)
            out[n] = Seen(
                out[n].time_s,
                (first.yaw_deg + share * turn + 180.0) % 360.0 - 180.0,
                first.pitch_deg + share * (last.pitch_deg - first.pitch_deg),
                first.size_deg + share * (last.size_deg - first.size_deg),
                UNSURE,
            )
    return out

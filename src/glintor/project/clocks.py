"""Recordings of one moment on one clock: recorders' sound under a take, and what another camera saw at a moment."""

from collections.abc import Callable, Iterator, Sequence
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from glintor.media.align import Heard as HeardSound
from glintor.media.align import heard_in, heard_of_footage
from glintor.media.footage import Footage, open_footage
from glintor.media.sound import RATE_HZ, sound_cut
from glintor.project.store import clip_files
from glintor.project.take import Heard, Recorder, Take
from glintor.types import Report

Sound = Callable[[float, float], Iterator[NDArray[np.float32]]]
_BLOCK_S = 0.5


def _recorded(file: Path) -> Sound:
    return lambda start_s, end_s: sound_cut(file, start_s, end_s, origin_s=0.0)


def sound_file(project_file: Path, recorder: Recorder) -> Path:
    """Where a recorder's sound lies. Raises InputError."""
    stand_in = Take(
        id=recorder.id,
        name=recorder.name,
        files=recorder.files,
        duration_s=recorder.duration_s,
        width_px=0,
        rate_fps=1.0,
    )
    return clip_files(project_file, stand_in)[0]


def heard_of_other(project_file: Path, other: Recorder | Take, *, report: Report = lambda _share: None) -> HeardSound:
    """The sound of a recorder or of another take. Raises InputError, ClipError."""
    if isinstance(other, Recorder):
        file = sound_file(project_file, other)
        return heard_in(other.name, other.duration_s, _recorded(file), report)
    return heard_of_footage(open_footage(clip_files(project_file, other), other.taken_as), report=report)


def other_time(heard: Heard, time_s: float) -> float:
    """What the other recording's clock shows at a moment of the take."""
    return (time_s - heard.offset_s) * (1.0 + heard.drift_ppm * 1e-6)


def same_moment(before: Take, after: Take, time_s: float) -> float | None:
    """What another take shows at a moment of this one; None where their clocks do not lie on one another, or it did not run then."""
    known = next((h for h in before.heard if h.of == after.id), None)
    if known is not None:
        at = other_time(known, time_s)
    else:
        back = next((h for h in after.heard if h.of == before.id), None)
        if back is not None:
            at = back.offset_s + time_s / (1.0 + back.drift_ppm * 1e-6)
        else:  # both beside the same recorder
            pair = next(((a, b) for a in before.heard for b in after.heard if a.of == b.of), None)
            if pair is None:
                return None
            at = pair[1].offset_s + other_time(pair[0], time_s) / (1.0 + pair[1].drift_ppm * 1e-6)
    return at if 0.0 <= at <= after.duration_s else None


def instead_of(take: Take, sounds: Sequence[Recorder]) -> tuple[Heard, Recorder] | None:
    """The recorder whose sound takes the place of a take's own, and how its clock lies."""
    for heard in take.heard:
        if heard.instead:
            recorder = next((r for r in sounds if r.id == heard.of), None)
            if recorder is not None:
                return heard, recorder
    return None


def sound_of(project_file: Path, sounds: Sequence[Recorder], take: Take, footage: Footage) -> Sound | None:
    """The sound that goes with a take: a recorder's in its place, on the take's clock, else its own; None where there is none.
    Raises InputError where the recorder's file is gone."""
    other = instead_of(take, sounds)
    if other is None:
        return footage.sound if footage.has_sound else None
    heard, recorder = other
    return on_clock(_recorded(sound_file(project_file, recorder)), heard)


def on_clock(sound: Sound, heard: Heard) -> Sound:
    """Another recording's sound on a take's clock, its drift taken out by resampling; silence where it did not run yet or any more.
    Cubic interpolation between samples: a drift of some parts in a million moves them by less than a sample a block."""
    pace = 1.0 + heard.drift_ppm * 1e-6

    def cut(start_s: float, end_s: float) -> Iterator[NDArray[np.float32]]:
        first, last = round(start_s * RATE_HZ), round(end_s * RATE_HZ) if np.isfinite(end_s) else None
        at, step = first, round(_BLOCK_S * RATE_HZ)
        while last is None or at < last:
            count = step if last is None else min(step, last - at)
            begins = other_time(heard, at / RATE_HZ)
            ends = begins + (count + 8) * pace / RATE_HZ
            source = _samples(sound, begins - 4.0 / RATE_HZ, ends)
            if source is None and begins > 0.0 and last is None:
                return
            place = 4.0 + np.arange(count) * pace + (begins * RATE_HZ - np.round(begins * RATE_HZ))
            yield np.zeros((2, count), np.float32) if source is None else _at(source, place)
            at += count

    return cut


def _samples(sound: Sound, start_s: float, end_s: float) -> NDArray[np.float32] | None:
    """(2, n) of a part, silence before its beginning; None where nothing is there."""
    wanted, lead = round((end_s - start_s) * RATE_HZ), max(round(-start_s * RATE_HZ), 0)
    if lead >= wanted:
        return None
    blocks = list(sound(max(start_s, 0.0), end_s))
    found = np.concatenate(blocks, axis=1) if blocks else np.zeros((2, 0), np.float32)
    if found.shape[1] == 0:
        return None
    whole = np.zeros((2, wanted), np.float32)
    part = found[:, : wanted - lead]
    whole[:, lead : lead + part.shape[1]] = part
    return whole


def _at(source: NDArray[np.float32], place: NDArray[np.float64]) -> NDArray[np.float32]:
    """Catmull-Rom's cubic between samples."""
    k = np.clip(np.floor(place).astype(int), 1, source.shape[1] - 3)
    f = (place - k).astype(np.float32)
    p0, p1, p2, p3 = (source[:, k + n] for n in (-1, 0, 1, 2))
    return p1 + 0.5 * f * (p2 - p0 + f * (2 * p0 - 5 * p1 + 4 * p2 - p3 + f * (3 * (p1 - p2) + p3 - p0)))

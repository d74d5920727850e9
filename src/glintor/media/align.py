"""Clocks of recordings laid on one another by their sound: roughly by how it swells over the whole length, then to a part of
a sample where much is heard, and a line through those places: where one's zero lies on the other's clock, and how much
faster it runs.

Fine delays: generalised cross-correlation with phase transform (Knapp & Carter, IEEE Trans. ASSP 24, 1976).
"""

from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Any

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from glintor.errors import InputError
from glintor.media.by_phase import by_phase
from glintor.media.footage import Footage, open_footage
from glintor.media.reading import Reading
from glintor.media.sound import RATE_HZ, sound_cut
from glintor.types import Array, Report

_STEP = 96  # samples of one value of how the sound swells: 2 ms
_STEPS_HZ = RATE_HZ / _STEP
_WINDOW_S, _LEAST_WINDOW_S, _PLACES = 2.0, 0.5, 24
_LEAST_REACH_S = 1.5  # from the first place of a part to its last, for their clocks' rate to be told
_LEAST_S, _TOGETHER_S = 0.4, 3.0  # that both must be heard at all; that they are heard together, or most of the shorter
_BAND_HZ = (150.0, 9000.0)
_MOST_OFF_S = 0.06  # between rough and fine
_SAME_S = 6e-5  # parts whose clocks differ by less do not differ
_FITS_S = 0.0025  # a place that lies on the line of all
_MOST_PPM = 600.0
_SURE, _UNSURE = 0.35, 0.3
_STANDS_OUT, _FOR_SURE = 10.0, 18.0  # by phase over the whole length: a place to look at; one that needs nothing else
_RIVAL = 0.7  # another place that fits so nearly as well: sound that repeats itself
_EVENT, _EVENTS = 4.0, 4  # how far from the mean an onset stands out; so many are enough
_SHARP = 7.0  # a peak that noise does not make: the highest of 20,000 is 4.5


class Heard(Struct, frozen=True):
    """A recording's sound: how long it is, and its samples (n,) from one moment to another; how it swells, on the whole and in the
    treble (n, 2), at 500 Hz; where its parts join."""

    name: str
    length_s: float
    samples: Callable[[float, float], NDArray[np.float32]]
    swell: NDArray[np.float32]
    joins_s: tuple[float, ...] = ()


class Aligned(Struct, frozen=True):
    """offset_s: where B's zero lies on A's clock; drift_ppm: how much faster B's clock runs, 0 where only one place tells;
    confidence 0 to 1; places: moments on A's clock, and how far each lies off the line, in seconds; rival_s: another offset that
    fits about as well, as where music repeats itself: then nothing is sure."""

    offset_s: float
    drift_ppm: float
    confidence: float
    places: tuple[tuple[float, float], ...] = ()
    rival_s: float | None = None

    @property
    def sure(self) -> bool:
        return self.confidence >= _SURE

    @property
    def words(self) -> str:
        """How B lies, no finer than it was told: without places only to some hundredths of a second, and no rate of its clock."""
        if not self.places:
            return f"begins at about {self.offset_s:+.2f} s; how fast its clock runs cannot be told"
        faster = "faster" if self.drift_ppm > 0 else "slower"
        return f"begins at {self.offset_s:+.4f} s; its clock runs {abs(self.drift_ppm):.1f} ppm {faster}"

    @property
    def why_unsure(self) -> str:
        """What speaks against it, where something does: a sentence."""
        if self.rival_s is None:
            return ""
        return f"What is heard repeats itself: {self.offset_s:+.2f} s fits no better than {self.rival_s:+.2f} s."


def heard_of(reading: Reading, *, report: Report = lambda _share: None) -> Heard:
    """The sound of a recording, film or recorder. Raises InputError where it has none."""
    if reading.reading == "sound":
        return heard_in(reading.files[0].name, reading.duration_s, _blocks_of(reading.files[0]), report)
    return heard_of_footage(open_footage(reading.files, reading.taken_as), report=report)


def heard_of_footage(footage: Footage, *, report: Report = lambda _share: None) -> Heard:
    """The sound of a film. Raises InputError where it has none."""
    if not footage.has_sound:
        raise InputError(f"{footage.name} has no sound.", advice="Choose recordings that heard the same.")
    return replace(heard_in(footage.name, footage.duration_s, footage.sound, report), joins_s=footage.starts_s[1:])


Blocks = Callable[[float, float], Iterator[NDArray[np.float32]]]


def _blocks_of(file: Path) -> Blocks:
    return lambda start_s, end_s: sound_cut(file, start_s, end_s, origin_s=0.0)


def heard_in(name: str, length_s: float, blocks: Blocks, report: Report) -> Heard:
    """A sound that is read once for how it swells; fine parts are read again where they are needed."""
    rest, values, done = np.zeros(0, np.float32), [], 0
    last = np.float32(0.0)
    for block in blocks(0.0, length_s):
        mono = np.concatenate([rest, block.mean(axis=0)])
        count = len(mono) // _STEP
        sharp = np.diff(mono, prepend=last)
        both = [s[: count * _STEP].reshape(count, _STEP) for s in (mono, sharp)]
        values.append(np.stack([np.sqrt(np.maximum((s**2).mean(axis=1), 0.0)) for s in both], axis=1))
        rest, last = mono[count * _STEP :], mono[count * _STEP - 1] if count else last
        done += block.shape[1]
        report(min(done / RATE_HZ / max(length_s, 1e-6), 1.0))
    swell = np.concatenate(values) if values else np.zeros((0, 2), np.float32)

    def samples(start_s: float, end_s: float) -> NDArray[np.float32]:
        found = list(blocks(max(start_s, 0.0), end_s))
        mono = np.concatenate(found, axis=1).mean(axis=0) if found else np.zeros(0, np.float32)
        wanted = round((end_s - max(start_s, 0.0)) * RATE_HZ)
        return np.pad(mono[:wanted], (0, max(wanted - len(mono), 0)))

    return Heard(name, len(swell) / _STEPS_HZ, samples, swell.astype(np.float32))


def align(a: Heard, b: Heard, *, near_s: float | None = None, within_s: float = 5.0) -> Aligned | None:
    """How B's clock lies on A's; near_s: about where B's zero is, as a person says. None where nothing agrees."""
    rough = _rough(a, b, near_s, within_s)
    if rough is None:
        return None
    offset, clear = rough
    phase = by_phase(
        (a.samples, a.length_s), (b.samples, b.length_s), lambda offsets: _allowed(offsets, near_s, within_s)
    )
    found = _laid(a, b, offset, clear)
    if phase is None or phase.stands_out < _STANDS_OUT:
        return found
    if abs(phase.offset_s - found.offset_s) > _MOST_OFF_S:
        other = _laid(a, b, phase.offset_s, 0.0)
        found = other if len(other.places) >= len(found.places) else found
    if abs(phase.offset_s - found.offset_s) <= _MOST_OFF_S and phase.all_along >= _FOR_SURE:
        found = replace(found, confidence=max(found.confidence, 0.6))
    if phase.rival < _RIVAL:
        return found
    rival = phase.rival_s if abs(phase.offset_s - found.offset_s) <= _MOST_OFF_S else phase.offset_s
    if len(_laid(a, b, rival, 0.0).places) < _RIVAL * len(found.places):
        return found  # one thing in it sounds like another, but not all along
    return replace(found, confidence=min(found.confidence, _UNSURE), rival_s=rival)


def _allowed(offsets_s: Array, near_s: float | None, within_s: float) -> NDArray[np.bool_]:
    return np.ones(len(offsets_s), bool) if near_s is None else np.abs(offsets_s - near_s) <= within_s


def _laid(a: Heard, b: Heard, offset: float, clear: float) -> Aligned:
    """B beside A from about an offset on, by what windows of both tell; clear: of that offset, 0 to 1."""
    places, tried = _places(a, b, offset)
    fitted = _line(places, offset) if places else None
    if fitted is None:  # too much noise for parts of a sample: within some milliseconds
        return Aligned(offset, 0.0, _by_swell(a, b, offset, clear))
    agree = fitted.inside.sum() / max(len(places), 0.4 * tried)
    confidence = float(np.clip(0.35 * clear + 0.65 * agree, 0.0, 1.0) * min(1.0, (fitted.inside.sum() + 1) / 4.0))
    confidence = max(confidence, _by_swell(a, b, offset, clear))
    moments = np.array([p.at_s for p in places])
    kept = zip(moments[fitted.inside].tolist(), fitted.off_s[fitted.inside].tolist(), strict=True)
    # A hears at t what B hears at t - zero - slope t: B's clock runs by -slope faster, and shows 0 at zero / (1 - slope)
    return Aligned(fitted.zero_s / (1.0 - fitted.slope), -fitted.slope * 1e6, confidence, tuple(kept))


def _by_swell(a: Heard, b: Heard, offset: float, clear: float) -> float:
    """Confidence where only the swelling tells: one loud thing is like another, so several must have been heard together."""
    parts = [h.swell[int(max(s, 0.0) * _STEPS_HZ) :] for h, s in ((a, offset), (b, -offset))]
    count = min(len(part) for part in parts)
    events = []
    for part in parts:
        rise = _swells(part[: max(count, 3)])[:, 0]
        loud = np.flatnonzero(rise > _EVENT)
        events.append(1 + int((np.diff(loud) > 0.3 * _STEPS_HZ).sum()) if len(loud) else 0)
    return 0.6 * clear if min(events) >= _EVENTS and count > _TOGETHER_S * _STEPS_HZ else 0.2 * clear


def _swells(values: NDArray[np.float32]) -> Array:
    """How suddenly it gets louder, with no part outweighing the rest."""
    out = []
    for column in values.astype(np.float64).T:
        level = np.log(column + np.percentile(column, 20) + 1e-6)
        short = np.convolve(level, np.ones(3) / 3, mode="same")
        rise = np.maximum(np.diff(short, prepend=short[:1]), 0.0)
        wide = min(250, len(level))
        calm = np.convolve(level, np.ones(wide) / wide, mode="same")
        both = rise * 3.0 + 0.3 * np.clip(level - calm, -2.0, 2.0)
        out.append((both - both.mean()) / (both.std() + 1e-9))
    return np.stack(out, axis=1)


def _rough(a: Heard, b: Heard, near_s: float | None, within_s: float) -> tuple[float, float] | None:
    """The offset at which both swell alike, and how clearly that stands out, 0 to 1."""
    if min(len(a.swell), len(b.swell)) < _LEAST_S * _STEPS_HZ:
        return None
    one, two = _swells(a.swell), _swells(b.swell)
    size = 1 << int(np.ceil(np.log2(len(one) + len(two))))
    cross = np.fft.irfft((np.fft.rfft(one, size, axis=0) * np.conj(np.fft.rfft(two, size, axis=0))).sum(axis=1), size)
    lags = np.arange(-len(two) + 1, len(one))
    values = cross[lags]
    together = np.minimum(np.minimum(len(one), len(two)), np.minimum(lags + len(two), len(one) - lags))
    least = min(_TOGETHER_S * _STEPS_HZ, 0.6 * min(len(one), len(two)))
    values = np.where(together >= least, values / np.sqrt(np.maximum(together, 1.0)), np.nan)
    told = np.isfinite(values)
    allowed = told & _allowed(lags / _STEPS_HZ, near_s, within_s)
    if not allowed.any():
        return None
    best = int(np.nanargmax(np.where(allowed, values, np.nan)))
    others = values[told & (np.abs(lags - lags[best]) > 0.15 * _STEPS_HZ)]
    if len(others) < 50:
        return float(lags[best] / _STEPS_HZ), 0.0
    middle = float(np.median(others))
    spread = 1.4826 * float(np.median(np.abs(others - middle))) + 1e-12
    top = (float(values[best]) - middle) / spread
    second = (
        float(
            (others if near_s is None else values[allowed & (np.abs(lags - lags[best]) > 0.15 * _STEPS_HZ)]).max(
                initial=middle
            )
        )
        - middle
    ) / spread
    clear = np.clip((top / max(second, 1e-9) - 1.3) / 0.7, 0.0, 1.0) * np.clip((top - 7.0) / 5.0, 0.0, 1.0)
    return float(lags[best] / _STEPS_HZ), float(clear)


class _Place(Struct, frozen=True):
    """A window on A's clock, how much later A heard it than B by both clocks, how sharply that is told, and in which part of each
    recording it lies: between parts a container's time stamps may leap by a millisecond."""

    at_s: float
    delay_s: float
    weight: float
    parts: tuple[int, int]


def _part_at(joins: Sequence[float], start_s: float, end_s: float) -> int | None:
    """The part that holds a window; None where it lies across a join."""
    first, last = (int(np.searchsorted(joins, t, side="right")) for t in (start_s + 1e-3, end_s - 1e-3))
    return first if first == last else None


def _places(a: Heard, b: Heard, offset: float) -> tuple[list[_Place], int]:
    """Windows in which much is heard, all along what both hear, as far as they tell; and how many were tried."""
    first, last = max(0.0, offset), min(a.length_s, b.length_s + offset)
    length = float(np.clip((last - first) / 8.0, _LEAST_WINDOW_S, _WINDOW_S))
    if last - first < max(_LEAST_S, length):
        return [], 0
    starts = np.arange(first, last - length + 1e-9, length / 3.0)
    rises = np.maximum(_swells(a.swell), 0.0).sum(axis=1)
    heard = [float(rises[int(s * _STEPS_HZ) : int((s + length) * _STEPS_HZ)].sum()) for s in starts]
    groups = np.array_split(np.arange(len(starts)), min(_PLACES, len(starts)))
    found, tried = [], 0
    for start in starts[[int(max(group, key=lambda n: heard[n])) for group in groups if len(group)]]:
        lead = start - offset
        parts = _part_at(a.joins_s, start, start + length), _part_at(b.joins_s, lead, lead + length)
        if lead < 0.0 or parts[0] is None or parts[1] is None:
            continue
        tried += 1
        delay = fine_delay_s(a.samples(start, start + length), b.samples(lead, lead + length))
        if delay is not None:
            found.append(_Place(float(start + length / 2.0), offset + delay[0], delay[1], (parts[0], parts[1])))
    return found, tried


def fine_delay_s(one: NDArray[np.float32], two: NDArray[np.float32]) -> tuple[float, float] | None:
    """By how much the first hears things later than the second, and how sharply that stands out; None where it does not."""
    n = min(len(one), len(two))
    if n < 0.2 * RATE_HZ:
        return None
    window = np.hanning(n)
    size = 1 << int(np.ceil(np.log2(2 * n)))
    x, y = (np.fft.rfft((s[:n] - s[:n].mean()) * window, size) for s in (one, two))
    bins = np.fft.rfftfreq(size, 1.0 / RATE_HZ)
    cross = x * np.conj(y)
    power = np.abs(cross)
    whiten = power**0.75 + 1e-6 * power.max() + 1e-20
    band = (bins >= _BAND_HZ[0]) & (bins <= _BAND_HZ[1])
    fine = 4  # times as many lags as samples
    curve = np.fft.irfft(np.where(band, cross / whiten, 0.0), size * fine)
    reach = int(_MOST_OFF_S * RATE_HZ * fine)
    around = np.concatenate([curve[-reach:], curve[: reach + 1]])
    top = int(np.argmax(around))
    near = np.abs(np.arange(len(around)) - top) < 0.002 * RATE_HZ * fine
    rest = float(np.sqrt(np.mean(around[~near] ** 2))) + 1e-20
    sharp = float(around[top]) / rest
    if sharp < _SHARP or not 0 < top < len(around) - 1:
        return None
    before, at, after = around[top - 1 : top + 2]
    bend = before - 2 * at + after
    part = 0.5 * (before - after) / bend if bend < 0 else 0.0
    return (top - reach + part) / (RATE_HZ * fine), sharp


class _Line(Struct, frozen=True, eq=False):
    """Delay at A's zero and its change a second; which places lie on it, and how far each is off it."""

    zero_s: float
    slope: float
    inside: NDArray[np.bool_]
    off_s: Array


def _line(places: Sequence[_Place], rough: float) -> _Line | None:
    """A line through most of the places, with a small step of its own for each part; None where they do not agree."""
    t, d, w = (np.array([getattr(p, name) for p in places]) for name in ("at_s", "delay_s", "weight"))
    inside: NDArray[np.bool_] = np.zeros(len(t), bool)
    for i in range(len(t)):
        for j in range(i, len(t)):
            slope = (d[j] - d[i]) / (t[j] - t[i]) if t[j] != t[i] else 0.0
            if abs(slope) <= _MOST_PPM * 1e-6:
                near = np.abs(d - d[i] - slope * (t - t[i])) < _FITS_S
                if w[near].sum() > w[inside].sum():
                    inside = near
    if inside.sum() < max(1, 0.3 * len(t)) or abs(float(np.median(d[inside])) - rough) > _MOST_OFF_S:
        return None
    _, part = np.unique([p.parts for p in places], axis=0, return_inverse=True)
    part = part.reshape(-1)
    for _ in range(2):
        parts = np.unique(part[inside])
        reach = max((float(np.ptp(t[inside & (part == p)])) for p in parts), default=0.0)
        rows = np.stack([(part == p).astype(float) for p in parts], axis=1)
        told = inside.sum() >= 3 + len(parts) and reach >= _LEAST_REACH_S
        found = _fitted(np.column_stack([rows, t]) if told else rows, d, np.where(inside, w**2, 0.0))
        for number in range(1, len(parts)):  # parts whose clocks do not leap are one
            if abs(found[number] - found[number - 1]) < _SAME_S:
                part[part == parts[number]] = parts[number - 1]
                parts[number] = parts[number - 1]
    parts = np.unique(part[inside])
    rows = np.stack([(part == p).astype(float) for p in parts], axis=1)
    rows = np.column_stack([rows, t]) if told else rows
    found = _fitted(rows, d, np.where(inside, w**2, 0.0))
    counts = np.array([(inside & (part == p)).sum() for p in parts], float)
    zero = float(np.average(found[: len(parts)], weights=counts))
    return _Line(zero, float(found[-1]) if told else 0.0, inside, d - rows @ found)


def _fitted(rows: NDArray[Any], values: NDArray[Any], weight: NDArray[Any]) -> NDArray[Any]:
    """Least squares in which places that lie off count less and less."""
    found, now = np.zeros(rows.shape[1]), weight
    for _ in range(6):
        root = np.sqrt(now)[:, None]
        found = np.linalg.lstsq(rows * root, values * root[:, 0], rcond=None)[0]
        off = np.abs(values - rows @ found)
        now = weight / (1.0 + (off / max(float(np.median(off[weight > 0])), 1e-6)) ** 2)
    return np.asarray(found)

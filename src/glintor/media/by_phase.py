"""Where one sound lies within another when nothing in it stands out: generalised cross-correlation with phase transform (Knapp
& Carter, IEEE Trans. ASSP 24, 1976) of some sections of the one with the whole of the other, added up without their signs, so
that clocks which run apart by some tens of ppm smear nothing.
"""

from collections.abc import Callable

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray
from scipy.fft import irfft, next_fast_len, rfft
from scipy.ndimage import maximum_filter1d
from scipy.signal import resample_poly

from glintor.media.sound import RATE_HZ

_LESS = 6
_AT_HZ = RATE_HZ // _LESS
_BAND_HZ = (100.0, 3600.0)
_SECTIONS, _LEAST_SECTIONS, _SECTION_S, _READ_S = 8, 3, 10.0, 60.0
_SMEARED_S = 0.0015  # sections of clocks that run 50 ppm apart for half a minute
_MOST_S = 3600.0  # of the longer: beyond it the transforms no longer fit a small machine
_MOST_OF_ONE = 24.0  # spreads: one horn that sounds like another fills one section, what both heard most of them
_APART_S = 0.35  # lags nearer than this are one: a room rings about so long, beats that repeat are longer

Samples = Callable[[float, float], NDArray[np.float32]]


class ByPhase(Struct, frozen=True):
    """offset_s: where B's zero lies on A's clock, to some milliseconds, or 20 ms in rooms that ring; stands_out: by how many
    spreads it rises above the middle of all lags (noise: 7 at most of 40 pairs); all_along: the same where no section tells more
    than its share (horns of which one sounds like another: 13 at most of 8 pairs; what heard the same: 21 and more); rival_s: the
    next best offset, and how well it does by the best, 0 to 1: sound that repeats itself has one near 1."""

    offset_s: float
    stands_out: float
    all_along: float
    rival_s: float
    rival: float


def by_phase(
    a: tuple[Samples, float], b: tuple[Samples, float], allowed: Callable[[NDArray[np.float64]], NDArray[np.bool_]]
) -> ByPhase | None:
    """Where B lies on A's clock; None where no lag is allowed, nothing is heard, or the longer is longer than an hour.

    a, b: samples from one moment to another at 48 kHz, and the length in seconds; allowed: of offsets in seconds.
    """
    if a[1] < b[1]:  # sections of the shorter are looked for in the longer
        found = by_phase(b, a, lambda offsets: allowed(-offsets))
        return found and replace(found, offset_s=-found.offset_s, rival_s=-found.rival_s)
    if a[1] > _MOST_S:
        return None
    whole = _slower(*a)
    length = min(_SECTION_S, b[1] / _LEAST_SECTIONS)
    count = min(_SECTIONS, max(_LEAST_SECTIONS, int(b[1] / length)))
    size = next_fast_len(len(whole) + round(length * _AT_HZ), real=True)
    spectrum = rfft(whole, size)
    band = np.zeros(len(spectrum), bool)
    band[round(_BAND_HZ[0] * size / _AT_HZ) : round(_BAND_HZ[1] * size / _AT_HZ)] = True
    latest = round(b[1] * _AT_HZ)
    added = np.zeros(len(whole) + latest, np.float32)  # at latest: an offset of 0
    shared = np.zeros_like(added)  # the same where no section tells more than its share
    for start_s in np.linspace(0.0, b[1] - length, count):
        part = resample_poly(b[0](start_s, start_s + length), 1, _LESS).astype(np.float32)
        cross = spectrum * np.conj(rfft(part * np.hanning(len(part)).astype(np.float32), size))
        power = np.abs(cross)
        curve = np.abs(irfft(np.where(band, cross / (power + 1e-3 * power.mean() + 1e-20), 0.0), size))
        curve = maximum_filter1d(curve[: len(whole)], 2 * round(_SMEARED_S * _AT_HZ) + 1)
        begin = latest - round(start_s * _AT_HZ)
        curve /= float(np.median(curve)) + 1e-20
        added[begin : begin + len(curve)] += curve
        shared[begin : begin + len(curve)] += np.minimum(curve, 1.0 + _MOST_OF_ONE * _spread(curve, 1.0))
    offsets = (np.arange(len(added)) - latest) / _AT_HZ
    if not (added > 0.0).any():  # silence
        return None
    heights = np.where(allowed(offsets), added, 0.0)
    best = int(np.argmax(heights))
    if heights[best] <= 0.0:
        return None
    middle, spread = _middle(added)
    level, width = _middle(shared)
    others = np.where(np.abs(offsets - offsets[best]) > _APART_S, heights, 0.0)
    second = int(np.argmax(others))
    tall = float(heights[best]) - middle
    rival = float(np.clip((others[second] - middle) / (tall + 1e-12), 0.0, 1.0))
    all_along = (float(shared[best]) - level) / width
    return ByPhase(float(offsets[best]), tall / spread, all_along, float(offsets[second]), rival)


def _spread(values: NDArray[np.float32], middle: float) -> float:
    return 1.4826 * float(np.median(np.abs(values - middle))) + 1e-12


def _middle(added: NDArray[np.float32]) -> tuple[float, float]:
    """The middle and the spread of all lags at which most sections were laid on."""
    heard = added[added > 0.5 * float(np.median(added[added > 0.0]))]
    middle = float(np.median(heard))
    return middle, _spread(heard, middle)


def _slower(samples: Samples, length_s: float) -> NDArray[np.float32]:
    """The whole sound at 8 kHz, read a minute at a time."""
    parts = [resample_poly(samples(s, min(s + _READ_S, length_s)), 1, _LESS) for s in np.arange(0.0, length_s, _READ_S)]
    return np.concatenate(parts).astype(np.float32)

"""Sudden sounds in a recording: claps and horns by which a log and a film find each other."""

from collections.abc import Sequence
from itertools import accumulate
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from glintor.errors import GlintorError
from glintor.media.parts import whole_length_s
from glintor.media.probe import probe
from glintor.media.sound import RATE_HZ, sound_cut

_STEP = RATE_HZ // 100  # 10 ms
_BEFORE, _RISE_DB, _APART_S, _MOST = 100, 14.0, 0.5, 12


def claps_in(files: Sequence[Path]) -> tuple[float, ...]:
    """When the most sudden sounds of a recording begin, in seconds from its first picture; () where it has no sound."""
    lengths = [whole_length_s(probe(file)) for file in files]
    found: list[tuple[float, float]] = []
    for file, zero in zip(files, [0.0, *accumulate(lengths)], strict=False):
        try:
            found += [(rise, zero + at) for rise, at in sudden(_levels_db(file))]
        except GlintorError:
            continue
    return tuple(sorted(at for _, at in sorted(found, reverse=True)[:_MOST]))


def _levels_db(file: Path) -> NDArray[np.float64]:
    """Loudness of each 10 ms."""
    parts, rest = [], np.zeros(0, np.float32)
    for block in sound_cut(file, 0.0, float("inf")):
        rest = np.concatenate([rest, block.mean(axis=0)])
        whole = len(rest) // _STEP * _STEP
        parts.append(np.mean(rest[:whole].reshape(-1, _STEP) ** 2, axis=1))
        rest = rest[whole:]
    power = np.concatenate(parts) if parts else np.zeros(0)
    return 10.0 * np.log10(power + 1e-9)


def sudden(level_db: NDArray[np.float64]) -> list[tuple[float, float]]:
    """By how many dB sounds rise over the second before them, and when (s): those that rise within a few hundredths."""
    found: list[tuple[float, float]] = []
    for at in range(3, len(level_db)):
        before = level_db[max(at - _BEFORE, 0) : at - 2]
        rise = float(level_db[at] - np.median(before)) if len(before) else 0.0
        if rise < _RISE_DB or level_db[at] - level_db[at - 3] < _RISE_DB / 2:
            continue
        time_s = at * _STEP / RATE_HZ
        if found and time_s - found[-1][1] < _APART_S:
            if rise > found[-1][0]:
                found[-1] = rise, found[-1][1]
            continue
        found.append((rise, time_s))
    return found

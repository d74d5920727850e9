"""The sound of the place: engine, water, birds and steps, the same for the same seed value."""

import numpy as np
from numpy.typing import NDArray

RATE_HZ = 48000


def _noise(rng: "np.random.Generator", samples: int, low_hz: float, high_hz: float) -> NDArray[np.float64]:
    from scipy.signal import butter, sosfilt  # slow to import, and only a recording needs it

    band = butter(2, [low_hz, high_hz], btype="bandpass", fs=RATE_HZ, output="sos")
    sound = sosfilt(band, rng.standard_normal(samples))
    return sound / (np.std(sound) + 1e-9)


def place_sound(stage: str, carrier: str, duration_s: float, seed: int) -> NDArray[np.float32]:
    """(2, n) stereo sound at 48 kHz between -1 and 1; a clap 0.5 s in lines recordings up."""
    n = round(duration_s * RATE_HZ)
    rng = np.random.default_rng(seed)
    t = np.arange(n) / RATE_HZ
    water = np.stack([_noise(rng, n, 300, 1800), _noise(rng, n, 300, 1800)]) * 0.012 * (1 + 0.3 * np.sin(t * 0.9))
    sound = water + np.stack([_noise(rng, n, 60, 240)] * 2) * 0.008
    if carrier == "boat":
        beat = 11.5  # firing strokes a second of a slow two-cylinder diesel (common practice, no source)
        phase = (t * beat) % 1.0
        thump = np.exp(-phase * 14.0) * np.sin(2 * np.pi * 62.0 * t) + 0.5 * np.exp(-phase * 22.0) * np.sin(
            2 * np.pi * 118.0 * t
        )
        sound += 0.13 * thump
    if carrier == "walker":
        step = (t * 1.8) % 1.0
        sound += _noise(rng, n, 900, 5000) * 0.05 * np.exp(-step * 18.0)
    if stage == "lock":
        sound += np.stack([_noise(rng, n, 200, 3500), _noise(rng, n, 200, 3500)]) * 0.06
    for start in rng.uniform(1.0, max(duration_s - 1.0, 1.1), max(int(duration_s / 2.5), 1)):
        local = t - start
        chirp = np.where(
            (local > 0) & (local < 0.35), np.sin(2 * np.pi * (3100 * local + 900 * np.sin(local * 38))), 0.0
        )
        pan = rng.uniform(0.2, 0.8)
        sound += np.stack([chirp * (1 - pan), chirp * pan]) * 0.05 * np.exp(-np.maximum(local, 0) * 6)
    clap = np.where(t >= 0.5, np.exp(-np.maximum(t - 0.5, 0.0) * 90.0), 0.0) * rng.standard_normal(n)
    return np.clip(sound + 0.35 * clap, -1.0, 1.0).astype(np.float32)

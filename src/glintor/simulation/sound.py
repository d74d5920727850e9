"""The sound of the place: engine, water, wind, birds, steps, horns and claps, the same for the same seed value.

The travel of sound through the air (3 ms a metre) is left out.
"""

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.placement.carrier import Carrier

RATE_HZ = 48000


def _noise(rng: "np.random.Generator", samples: int, low_hz: float, high_hz: float) -> NDArray[np.float64]:
    from scipy.signal import butter, sosfilt  # slow to import, and only a recording needs it

    band = butter(2, [low_hz, high_hz], btype="bandpass", fs=RATE_HZ, output="sos")
    sound = sosfilt(band, rng.standard_normal(samples))
    return sound / (np.std(sound) + 1e-9)


class Clock(Struct, frozen=True):
    """A camera's clock: ahead of true time by offset_s, and gaining drift_ppm millionths of every second."""

    offset_s: float = 0.0
    drift_ppm: float = 0.0

    @property
    def pace(self) -> float:
        """Seconds that it counts in a true second."""
        return 1.0 + self.drift_ppm * 1e-6

    def shown_s(self, true_s: float) -> float:
        return self.offset_s + true_s * self.pace


class Heard(Struct, frozen=True):
    """What there is to hear: horns and claps at true seconds after the shot begins, and the air past the microphone."""

    horns_s: tuple[float, ...] = ()
    claps_s: tuple[float, ...] = (0.5,)
    air_m_s: float = 0.0


def _horn(t: NDArray[np.float64]) -> NDArray[np.float64]:
    """A boat's horn of 1.2 s: two notes with their harmonics, beginning within 15 ms; t counts from its start."""
    tone = sum(np.sin(2.0 * np.pi * hz * k * t) / k for hz in (311.0, 370.0) for k in (1, 2, 3, 5))
    shape = np.clip(t / 0.015, 0.0, 1.0) * np.clip((1.2 - t) / 0.08, 0.0, 1.0)
    return np.asarray(np.where((t > 0.0) & (t < 1.2), tone * shape, 0.0))


def _clap(t: NDArray[np.float64], at_s: float) -> NDArray[np.float64]:
    """A clap: noise that dies within 30 ms, the same for everybody who hears it; t counts from its start."""
    burst = np.random.default_rng(round(at_s * 1000)).standard_normal(RATE_HZ // 10)
    place = t * RATE_HZ
    known = np.interp(place, np.arange(len(burst)), burst, left=0.0, right=0.0)
    return np.asarray(np.where(t >= 0.0, np.exp(-np.maximum(t, 0.0) * 90.0) * known, 0.0))


def place_sound(
    stage: str,
    carrier: Carrier,
    duration_s: float,
    seed: int,
    *,
    heard: Heard = Heard(),
    begins_s: float = 0.0,
    clock: Clock = Clock(),
) -> NDArray[np.float32]:
    """(2, n) stereo sound at 48 kHz of the camera's own clock, between -1 and 1, from begins_s after the shot begins.

    Wind grows with the square of the air's speed (pressure of moving air); its size is judgement.
    """
    n = round(duration_s * RATE_HZ)
    rng = np.random.default_rng(seed)
    t = np.arange(n) / RATE_HZ
    true = begins_s + t / clock.pace
    water = np.stack([_noise(rng, n, 300, 1800), _noise(rng, n, 300, 1800)]) * 0.012 * (1 + 0.3 * np.sin(true * 0.9))
    sound = water + np.stack([_noise(rng, n, 60, 240)] * 2) * 0.008
    sound += np.stack([_noise(rng, n, 40, 400), _noise(rng, n, 40, 400)]) * 0.004 * heard.air_m_s**2
    if carrier.engine_hz > 0.0:
        phase = (true * carrier.engine_hz) % 1.0
        thump = np.exp(-phase * 14.0) * np.sin(2 * np.pi * 62.0 * true) + 0.5 * np.exp(-phase * 22.0) * np.sin(
            2 * np.pi * 118.0 * true
        )
        sound += 0.13 * thump
    if carrier.step_hz > 0.0:
        step = (true * carrier.step_hz) % 1.0
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
    for at_s in heard.claps_s:
        sound += 0.35 * _clap(true - at_s, at_s)
    for at_s in heard.horns_s:
        sound += 0.11 * _horn(true - at_s)
    return np.clip(sound, -1.0, 1.0).astype(np.float32)

"""What a sensor holds: how far over mid grey it clips, how far below it drowns, and how grainy mid grey is.

The same numbers make the simulated camera's noise, so that what is told before a shot is what it records.
"""

import numpy as np
from numpy.typing import ArrayLike, NDArray

HEADROOM_STOPS = 4.0  # full scale over mid grey
ELECTRONS_ISO100 = 150_000.0  # at full scale, after the camera's own noise reduction (judgement, no source)
READ_NOISE = 9.0  # electrons, likewise
MID_GREY = 0.18
FULL_SCALE = MID_GREY * 2.0**HEADROOM_STOPS


def grey_noise_percent(iso: ArrayLike, stops_under: ArrayLike = 0.0) -> NDArray[np.float64]:
    """Noise of a surface so many stops under mid grey, in per cent of its own value: sqrt(signal + read^2) / signal, electrons.

    Source: Poisson statistics of photons with a constant read noise (Janesick, Photon Transfer, SPIE 2007; from memory).
    """
    full = ELECTRONS_ISO100 * 100.0 / np.asarray(iso, dtype=np.float64)
    signal = full * 2.0 ** -(HEADROOM_STOPS + np.asarray(stops_under, dtype=np.float64))
    return np.asarray(100.0 * np.sqrt(signal + READ_NOISE**2) / signal)


def floor_ev(setting_ev: ArrayLike, iso: ArrayLike, stops: float, iso_min: float) -> NDArray[np.float64]:
    """The EV100 under which a frame is noise: its range under full scale, a stop less with each stop of ISO, since the same
    read noise then stands against half as much light."""
    lost = np.log2(np.asarray(iso, dtype=np.float64) / iso_min)
    return np.asarray(np.asarray(setting_ev, dtype=np.float64) + HEADROOM_STOPS - stops + lost)

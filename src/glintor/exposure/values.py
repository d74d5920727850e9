"""Exposure values, luminance and filters.

Source: APEX relations, Exif standard (CIPA DC-008), annex on APEX units; ISO 2720:1974 for the meter constants.
"""

import numpy as np
from numpy.typing import ArrayLike, NDArray

from glintor.errors import InputError

REFLECTED_METER_K = 12.5  # cd s m^-2; ISO 2720:1974 allows 10.6 to 13.4
INCIDENT_METER_C = 250.0  # lx s; ISO 2720:1974 allows 240 to 400 for a flat receptor


class SettingError(InputError):
    """An exposure setting that cannot be."""


def ev100(
    f_number: ArrayLike, exposure_s: ArrayLike, *, iso: ArrayLike = 100.0, nd_stops: ArrayLike = 0.0
) -> NDArray[np.float64]:
    """Scene exposure value, referred to ISO 100, that a setting exposes for; broadcasts, in stops.

    log2(N^2 / t) - log2(S / 100) + filter. Raises SettingError where N, t or S is not above zero.
    """
    n, t, s = (np.asarray(value, dtype=np.float64) for value in (f_number, exposure_s, iso))
    for name, value in (("The f-number", n), ("The shutter time", t), ("The ISO", s)):
        if np.any(value <= 0):
            raise SettingError(f"{name} must be above zero.", advice="Give a positive number.")
    return np.log2(n * n / t) - np.log2(s / 100.0) + np.asarray(nd_stops, dtype=np.float64)


def shutter_s(ev: float, f_number: float, *, iso: float = 100.0, nd_stops: float = 0.0) -> float:
    """The time that exposes a scene of this EV100."""
    return float(f_number**2 / (iso / 100.0) * 2.0 ** (nd_stops - ev))


def luminance_cd_m2(ev: ArrayLike) -> NDArray[np.float64]:
    """Luminance that a reflected-light meter reads as this EV100: K/100 x 2^EV = 0.125 x 2^EV."""
    return REFLECTED_METER_K / 100.0 * 2.0 ** np.asarray(ev, dtype=np.float64)


def ev_of_luminance(luminance: ArrayLike) -> NDArray[np.float64]:
    """The inverse of `luminance_cd_m2`; -inf for black."""
    with np.errstate(divide="ignore"):
        return np.log2(np.asarray(luminance, dtype=np.float64) * 100.0 / REFLECTED_METER_K)


def shutter_text(time_s: float) -> str:
    """A shutter time as it is set: "1/50 s" or "2 s"."""
    return f"{time_s:.3g} s" if time_s >= 0.4 else f"1/{round(1.0 / time_s)} s"


def nd_text(stops: float) -> str:
    """A neutral density filter by its factor, such as ND64 for six stops."""
    return "none" if stops <= 0 else f"ND{2 ** round(stops)}"


# Scene brightness by EV100. Source: ANSI PH2.7-1986 exposure guide (from memory).
SCENES = (
    ("distinct sun", 15.0),
    ("hazy sun", 14.0),
    ("cloudy bright", 13.0),
    ("open shade, heavy cloud", 12.0),
    ("just after sunset", 10.0),
    ("lit street at night", 7.5),
    ("lit room", 6.0),
)

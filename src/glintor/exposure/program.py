"""How a camera sets its own exposure: which of shutter and ISO follow the light, and how slowly."""

import math
from typing import Literal

from msgspec import Struct

from glintor.exposure.solve import Sensor
from glintor.exposure.values import ev100

LAG_S = 0.5  # in which the setting goes 63 % of the way to the new light (judgement, no source)
_CLOSEST_DEG = 180.0  # an automatic camera begins with a half-open shutter and then raises the ISO

Program = Literal["manual", "auto", "iso", "shutter"]
PROGRAMS: dict[Program, str] = {
    "manual": "all locked",
    "auto": "all by itself",
    "iso": "ISO fixed, time follows",
    "shutter": "time fixed, ISO follows",
}


class Held(Struct, frozen=True):
    """What a person has set: the frame rate, time and ISO as far as they are held, and the filter that is on the lenses."""

    rate_fps: float
    shutter_s: float
    iso: float
    nd_stops: float = 0.0


class Setting(Struct, frozen=True):
    """What a frame is exposed with."""

    shutter_s: float
    iso: float


def setting_for(program: Program, ev: float, held: Held, sensor: Sensor, offset_stops: float = 0.0) -> Setting:
    """Shutter and ISO for a scene's EV100; offset_stops above 0 makes it brighter. Clamped to what the camera has.

    ISO priority keeps the ISO and lets the time follow up to the frame's; shutter priority the other way; automatic
    keeps half the frame's time and the lowest ISO as long as it can.
    """
    if program == "manual":
        return Setting(held.shutter_s, held.iso)
    longest = 1.0 / held.rate_fps
    wanted = ev - offset_stops - held.nd_stops  # of time, aperture and ISO together

    def time_at(iso: float) -> float:
        return sensor.f_number**2 / 2.0 ** (wanted + math.log2(iso / 100.0))

    def iso_at(shutter_s: float) -> float:
        return 100.0 * sensor.f_number**2 / shutter_s / 2.0**wanted

    if program == "iso":
        return Setting(min(max(time_at(held.iso), sensor.shutter_min_s), longest), held.iso)
    if program == "shutter":
        return Setting(held.shutter_s, min(max(iso_at(held.shutter_s), sensor.iso_min), sensor.iso_max))
    half = longest * _CLOSEST_DEG / 360.0
    shutter = min(max(time_at(sensor.iso_min), sensor.shutter_min_s), half)
    return Setting(shutter, min(max(iso_at(shutter), sensor.iso_min), sensor.iso_max))


class Follower:
    """Keeps up with the light of one lens: a first-order lag in EV, so that brightness pumps at a tunnel's mouth."""

    def __init__(self, lag_s: float = LAG_S) -> None:
        self._lag_s = lag_s
        self._ev: float | None = None

    def follow(self, ev: float, passed_s: float) -> float:
        """The EV that the camera believes in, so long after the last call; the first call believes at once."""
        if self._ev is None:
            self._ev = ev
        else:
            self._ev += (ev - self._ev) * (1.0 - math.exp(-passed_s / self._lag_s))
        return self._ev


def shown_ev(setting: Setting, held: Held, sensor: Sensor) -> float:
    """The EV100 that a setting exposes to mid grey, filter included."""
    return float(ev100(sensor.f_number, setting.shutter_s, iso=setting.iso, nd_stops=held.nd_stops))

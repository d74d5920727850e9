"""How the camera sets its own exposure: which of shutter and ISO follow the light, and how slowly."""

import math

from msgspec import Struct

from glintor.exposure.values import ev100
from glintor.project.model import Camera, Exposure
from glintor.recording.link import Program

LAG_S = 0.5  # in which the setting goes 63 % of the way to the new light (judgement, no source)
_CLOSEST_DEG = 180.0  # an automatic camera begins with a half-open shutter and then raises the ISO


class Setting(Struct, frozen=True):
    """What a frame is exposed with."""

    shutter_s: float
    iso: float


def setting_for(program: Program, ev: float, exposure: Exposure, camera: Camera, offset_stops: float = 0.0) -> Setting:
    """Shutter and ISO for a scene's EV100; offset_stops above 0 makes it brighter. Clamped to what the camera has.

    ISO priority keeps the ISO and lets the time follow up to the frame's; shutter priority the other way; automatic
    keeps half the frame's time and the lowest ISO as long as it can.
    """
    if program == "manual":
        return Setting(exposure.shutter_s, exposure.iso)
    longest = 1.0 / exposure.rate_fps
    wanted = ev - offset_stops - exposure.nd_stops  # of time, aperture and ISO together

    def time_at(iso: float) -> float:
        return camera.f_number**2 / 2.0 ** (wanted + math.log2(iso / 100.0))

    def iso_at(shutter_s: float) -> float:
        return 100.0 * camera.f_number**2 / shutter_s / 2.0**wanted

    if program == "iso":
        return Setting(min(max(time_at(exposure.iso), camera.shutter_min_s), longest), exposure.iso)
    if program == "shutter":
        return Setting(exposure.shutter_s, min(max(iso_at(exposure.shutter_s), camera.iso_min), camera.iso_max))
    half = longest * _CLOSEST_DEG / 360.0
    shutter = min(max(time_at(camera.iso_min), camera.shutter_min_s), half)
    return Setting(shutter, min(max(iso_at(shutter), camera.iso_min), camera.iso_max))


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


def shown_ev(setting: Setting, exposure: Exposure, camera: Camera) -> float:
    """The EV100 that a setting exposes to mid grey, filter included."""
    return float(ev100(camera.f_number, setting.shutter_s, iso=setting.iso, nd_stops=exposure.nd_stops))

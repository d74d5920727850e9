"""The solver: shutter, ISO and filter for a fixed aperture from the scene's EV and the frame rate."""

import numpy as np
from msgspec import Struct

from glintor.exposure import flicker
from glintor.exposure.motion import shutter_for_angle_s
from glintor.exposure.values import ev100, shutter_s

ND_STOPS = (0.0, 2.0, 3.0, 4.0, 5.0, 6.0)  # what screw-on filters commonly come in: ND4, 8, 16, 32, 64


class Sensor(Struct, frozen=True, kw_only=True):
    """What the camera can be set to."""

    f_number: float
    iso_min: float = 100.0
    iso_max: float = 3200.0
    shutter_min_s: float = 1.0 / 8000.0
    stops: float = 11.0  # a frame's usable range; HEADROOM_STOPS of it lie above mid grey


class Setting(Struct, frozen=True):
    """One exposure. `error_stops` is how far it is from the scene (positive: too bright)."""

    shutter_s: float
    iso: float
    nd_stops: float
    error_stops: float


def solve(
    scene_ev: float,
    rate_fps: float,
    sensor: Sensor,
    *,
    angle_deg: float = 180.0,
    mains_hz: float | None = None,
    filters: tuple[float, ...] = ND_STOPS,
) -> Setting:
    """The setting nearest to the wanted shutter angle, then with the weakest filter, then with the lowest ISO.

    With `mains_hz` the shutter is kept to whole pulses of the lamps where one fits the frame.
    """
    wanted = shutter_for_angle_s(rate_fps, angle_deg)
    if mains_hz:
        safe = flicker.safe_times_s(mains_hz, 1.0 / rate_fps)
        if safe:
            wanted = min(safe, key=lambda t: abs(np.log2(t / wanted)))
    best: tuple[float, float, float, Setting] | None = None
    for nd in filters:
        exact = shutter_s(scene_ev, sensor.f_number, iso=sensor.iso_min, nd_stops=nd)
        if exact >= wanted:  # light is scarce: hold the shutter, raise ISO
            iso = float(np.clip(sensor.iso_min * exact / wanted, sensor.iso_min, sensor.iso_max))
            time = float(np.clip(shutter_s(scene_ev, sensor.f_number, iso=iso, nd_stops=nd), wanted, 1.0 / rate_fps))
        else:
            iso, time = sensor.iso_min, max(exact, sensor.shutter_min_s)
        error = scene_ev - float(ev100(sensor.f_number, time, iso=iso, nd_stops=nd))
        setting = Setting(time, iso, nd, error)
        off = abs(float(np.log2(time / wanted))) + 0.5 * float(np.log2(iso / sensor.iso_min))
        rank = (round(abs(error), 3), round(off, 3), nd)
        if best is None or rank < best[:3]:
            best = (*rank, setting)
    assert best is not None, "at least one filter, if only none, is given"
    return best[3]

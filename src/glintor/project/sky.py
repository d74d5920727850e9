"""The sun over a project's site."""

import msgspec

from glintor.placement.scenery import horizon_deg
from glintor.placement.sun import OVERCAST, Sun, local_time, sun_at
from glintor.project.site import Site
from glintor.sphere.angle import wrap_deg


def sun_of(site: Site, minute: float, stage: str = "") -> Sun:
    """Where the sun stands over the site at a minute of its day, and whether the sky and the horizon of a place let it shine."""
    sun = sun_at(site.lat_deg, site.lon_deg, local_time(site.day, site.zone, minute))
    place = site.place(stage) if stage else None
    far = place.horizon if place is not None else ()
    behind = bool(far) and sun.elevation_deg < horizon_deg(far, sun.azimuth_deg)
    hidden = site.cloud_share >= OVERCAST or behind
    return msgspec.structs.replace(sun, shines=False) if hidden else sun


def minute_of_azimuth(site: Site, azimuth_deg: float) -> float:
    """The minute of the day, to five, at which the sun stands nearest to an azimuth while it is up."""
    minutes = range(300, 1320, 5)
    sky = {minute: sun_of(site, float(minute)) for minute in minutes}

    def off(minute: int) -> float:
        sun = sky[minute]
        return abs(float(wrap_deg(sun.azimuth_deg - azimuth_deg))) + (0.0 if sun.elevation_deg > 0 else 400.0)

    return float(min(minutes, key=off))

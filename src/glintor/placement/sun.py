"""Where the sun stands, by the astral package (checked against pvlib and the NREL worked example)."""

from datetime import date, datetime, timedelta
from functools import lru_cache
from zoneinfo import ZoneInfo

import numpy as np
from astral import LocationInfo, Observer
from astral import sun as astral_sun
from msgspec import Struct
from numpy.typing import NDArray

from glintor.errors import InputError

OVERCAST = 0.9  # share of cloud from which the sky is grey all over, without sun and shadows
BEHIND_DEG = 45.0  # sun within this of right behind lights the subject from the front (common practice, no source)


class Sun(Struct, frozen=True):
    """azimuth_deg clockwise from true north; elevation_deg of the disc's centre, refraction included. shines: not behind
    a grey sky, nor behind what stands there."""

    azimuth_deg: float
    elevation_deg: float
    shines: bool = True

    @property
    def direction(self) -> NDArray[np.float64]:
        """(3,) unit vector towards the sun: east, north, up."""
        a, e = np.radians([self.azimuth_deg, self.elevation_deg])
        return np.array([np.cos(e) * np.sin(a), np.cos(e) * np.cos(a), np.sin(e)])


def local_time(day: str, zone: str, minute: float) -> datetime:
    """A moment of the shooting day: ISO date, time zone name and minutes after local midnight."""
    try:
        start = date.fromisoformat(day)
        tz = ZoneInfo(zone)
    except (ValueError, KeyError, OSError) as error:
        raise InputError(
            f"{day} in {zone} is not a day.", advice="Give a date as 2026-09-26 and a zone as Europe/London."
        ) from error
    return datetime(start.year, start.month, start.day, tzinfo=tz) + timedelta(minutes=minute)


@lru_cache(maxsize=2048)  # a search looks at thousands of placements at one moment
def sun_at(lat_deg: float, lon_deg: float, moment: datetime) -> Sun:
    """The sun seen from a place (degrees north and east) at a moment with a time zone."""
    zenith, azimuth = astral_sun.zenith_and_azimuth(Observer(lat_deg, lon_deg), moment)
    return Sun(float(azimuth), 90.0 - float(zenith))


def sunrise_sunset(lat_deg: float, lon_deg: float, day: str, zone: str) -> tuple[float, float]:
    """Minutes after local midnight of sunrise and sunset. Raises InputError where the sun does neither."""
    place = LocationInfo("", "", zone, lat_deg, lon_deg)
    try:
        times = astral_sun.sun(place.observer, date=date.fromisoformat(day), tzinfo=ZoneInfo(zone))
    except ValueError as error:
        raise InputError(
            "The sun does not rise and set on that day there.", advice="Choose another day or place."
        ) from error
    return tuple(t.hour * 60 + t.minute + t.second / 60 for t in (times["sunrise"], times["sunset"]))  # type: ignore[return-value]


def day_span(lat_deg: float, lon_deg: float, day: str, zone: str) -> tuple[float, float]:
    """Sunrise and sunset, or the whole day (0 to 1440) where the sun does neither."""
    try:
        return sunrise_sunset(lat_deg, lon_deg, day, zone)
    except InputError:
        return 0.0, 1440.0

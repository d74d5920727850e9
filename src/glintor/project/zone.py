"""Which time zone a place lies in, by the map of zones that the tzfpy package carries, and whether a day's fits."""

from datetime import timedelta
from functools import lru_cache

from glintor.errors import InputError
from glintor.placement.sun import local_time

_NOON_MIN = 720.0


def zone_at(lat_deg: float, lon_deg: float) -> str:
    """The name of the time zone of a place; at sea the one of its longitude."""
    from tzfpy import get_tz

    return str(get_tz(lon_deg, lat_deg)) or "UTC"


@lru_cache(maxsize=64)
def hours_off(lat_deg: float, lon_deg: float, day: str, zone: str) -> float:
    """How many hours a zone is ahead of the place's own on that day; 0 where both show the same time, or the zone is unknown."""
    try:
        here, told = (local_time(day, name, _NOON_MIN).utcoffset() for name in (zone_at(lat_deg, lon_deg), zone))
    except InputError:
        return 0.0
    return ((told or timedelta()) - (here or timedelta())).total_seconds() / 3600.0

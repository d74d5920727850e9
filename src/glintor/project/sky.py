"""The sun over a project's site."""

from glintor.placement.sun import Sun, local_time, sun_at
from glintor.project.model import Site


def sun_of(site: Site, minute: float) -> Sun:
    """Where the sun stands over the site at a minute of its day."""
    return sun_at(site.lat_deg, site.lon_deg, local_time(site.day, site.zone, minute))

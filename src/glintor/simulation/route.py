"""Where the carrier went, as GPX 1.1 (Topografix, an open format): one point a second by the camera's own clock."""

import math
from datetime import timedelta
from pathlib import Path
from xml.etree import ElementTree

from glintor.earth import moved_deg
from glintor.files import write_bytes
from glintor.placement.sun import local_time
from glintor.project.site import Site
from glintor.simulation.rig import Rig, carrier_s
from glintor.simulation.sound import Clock

_SPACE = "http://www.topografix.com/GPX/1/1"


def route_file(clip: Path) -> Path:
    """Where the route lies beside a clip."""
    return clip.with_suffix(".gpx")


def write_route(
    file: Path,
    site: Site,
    bearing_deg: float,
    rig: Rig,
    start_min: float,
    until_s: float,
    clock: Clock,
    *,
    begins_s: float = 0.0,
) -> None:
    """Points from begins_s to until_s (true seconds after the shot begins); their times are what the clock showed."""
    ElementTree.register_namespace("", _SPACE)
    root = ElementTree.Element(f"{{{_SPACE}}}gpx", version="1.1", creator="Glintor")
    segment = ElementTree.SubElement(ElementTree.SubElement(root, f"{{{_SPACE}}}trk"), f"{{{_SPACE}}}trkseg")
    start = local_time(site.day, site.zone, start_min)
    for second in range(math.floor(until_s - begins_s) + 1):
        true_s = begins_s + second
        lat, lon = moved_deg(site.lat_deg, site.lon_deg, bearing_deg, carrier_s(rig, true_s))
        point = ElementTree.SubElement(segment, f"{{{_SPACE}}}trkpt", lat=f"{lat:.7f}", lon=f"{lon:.7f}")
        shown = start + timedelta(seconds=clock.shown_s(true_s))
        ElementTree.SubElement(point, f"{{{_SPACE}}}time").text = shown.isoformat(timespec="milliseconds")
    write_bytes(file, ElementTree.tostring(root, encoding="utf-8", xml_declaration=True))

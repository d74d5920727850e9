"""From a shot of the document to the camera in the simulated place."""

from glintor.placement.layout import Layout
from glintor.project.model import Camera, Placement, Site
from glintor.project.placed import layout_of
from glintor.project.sky import sun_of
from glintor.simulation.place import Light, Rig

_ANYWHERE = Site(name="", day="2026-06-21", zone="UTC", lat_deg=0.0, lon_deg=0.0)


def plan_of(placement: Placement, camera: Camera) -> Layout:
    """The placement worked out, whatever the hour: the same that the findings take."""
    return layout_of(_ANYWHERE, placement, 720.0, levels=camera.levels)


def rig_of(placement: Placement, camera: Camera, *, walked: float = 0.0) -> Rig:
    """The camera with its mount as the simulation takes it. walked: how far the subject is along its way."""
    plan = plan_of(placement, camera)
    return Rig(plan.moved(walked) if walked else plan, placement.stage, camera.gap_m)


def light_of(site: Site, minute: float) -> Light:
    """Sun and sky over the site at a minute of its day."""
    return Light(sun_of(site, minute), site.way_bearing_deg, site.cloud_share)

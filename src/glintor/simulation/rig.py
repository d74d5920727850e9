"""From a shot of the document to the camera in the simulated place."""

from msgspec import Struct
from msgspec.structs import replace

from glintor.placement.carrier import Carrier
from glintor.placement.layout import Layout
from glintor.placement.scenery import Place
from glintor.project.model import Camera
from glintor.project.placed import layout_of
from glintor.project.site import Placement, Site
from glintor.project.sky import sun_of
from glintor.simulation.light import Light

ANYWHERE = Site(name="", day="2026-06-21", zone="UTC", lat_deg=0.0, lon_deg=0.0)


class Rig(Struct, frozen=True, eq=False):
    """The camera in the place: the worked-out placement, where it stands (a stage of the canal, or a place that is described),
    the gap between its lenses, and how fast its carrier goes (None: as usual)."""

    plan: Layout
    stage: str
    gap_m: float
    place: Place | None = None
    goes_m_s: float | None = None

    @property
    def speed_m_s(self) -> float:
        usual = self.plan.carrier.speed_m_s
        return usual if self.goes_m_s is None or usual == 0.0 else self.goes_m_s

    @property
    def carrier(self) -> Carrier:
        return self.plan.carrier

    @property
    def stick_m(self) -> float:
        return self.plan.stick_m

    @property
    def heading_deg(self) -> float:
        return self.plan.heading_deg


def plan_of(placement: Placement, camera: Camera, site: Site | None = None) -> Layout:
    """The placement worked out, whatever the hour: the same that the findings take. site: that knows its own carriers."""
    there = (
        ANYWHERE
        if site is None
        else replace(ANYWHERE, carriers=site.carriers, places=site.places, way_bearing_deg=site.way_bearing_deg)
    )
    return layout_of(there, placement, 720.0, levels=camera.levels)


def rig_of(placement: Placement, camera: Camera, site: Site, *, walked: float = 0.0) -> Rig:
    """The camera with its mount as the simulation takes it. walked: how far the subject is along its way."""
    return rig_in(site.place(placement.stage), placement, camera, site, walked=walked)


def rig_in(
    place: Place | None, placement: Placement, camera: Camera, site: Site | None = None, *, walked: float = 0.0
) -> Rig:
    """The same in a place that is known already; None is a stage of the canal."""
    there = site or ANYWHERE
    plan = plan_of(placement, camera, replace(there, places=(*there.places, *([place] if place is not None else []))))
    return Rig(plan.moved(walked) if walked else plan, placement.stage, camera.gap_m, place, placement.speed_m_s)


def carrier_s(rig: Rig, time_s: float) -> float:
    """How far along the way the carrier's origin is, metres; on the canal boats lie still but before Cobdale."""
    if rig.place is not None:
        return rig.speed_m_s * time_s
    if rig.carrier.afloat:
        return 4.0 + rig.speed_m_s * time_s if rig.stage == "cobdale" else 0.0
    return rig.speed_m_s * time_s


def light_of(site: Site, minute: float, placement: Placement) -> Light:
    """Sun and sky over the site at a minute of its day, by the way that a placement faces."""
    return Light(sun_of(site, minute, placement.stage), site.bearing_of(placement), site.cloud_share)

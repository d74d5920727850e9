"""From a shot of the document to the camera in the simulated place."""

from glintor.placement.mounts import lens_height_m, setup_by_id
from glintor.project.model import Camera, Placement, Site
from glintor.project.sky import sun_of
from glintor.simulation.place import Light, Rig


def rig_of(placement: Placement, camera: Camera) -> Rig:
    """The camera with its mount as the simulation takes it."""
    setup = setup_by_id(placement.setup)
    height = lens_height_m(setup, placement.stick_m, placement.ahead_m, placement.left_m, placement.lean_deg)
    return Rig(
        stage=placement.stage,
        carrier=setup.carrier,
        ahead_m=placement.ahead_m,
        left_m=placement.left_m,
        height_m=height,
        heading_deg=placement.heading_deg,
        stick_m=placement.stick_m,
        stick_half_m=setup.half_width_m,
        tilt_deg=placement.tilt_deg,
        lean_deg=placement.lean_deg,
        clamp_half_m=setup.clamp_half_m,
        gap_m=camera.gap_m,
        subject_ahead_m=placement.subject_ahead_m,
        subject_left_m=placement.subject_left_m,
        hangs=setup.hangs,
        worn=setup.worn,
    )


def light_of(site: Site, minute: float) -> Light:
    """Sun and sky over the site at a minute of its day."""
    return Light(sun_of(site, minute), site.way_bearing_deg, site.cloud_share)

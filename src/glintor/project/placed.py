"""A shot's placement worked out on its site: the layout, what a set-up can hold, and what the findings take."""

from collections.abc import Callable

import msgspec

from glintor.exposure.modes import USUAL_WIDTH_PX, mode_for
from glintor.finding import Finding
from glintor.placement.carriers import CARRIERS
from glintor.placement.given import Given
from glintor.placement.layout import Layout, layout
from glintor.placement.mounts import held_in_reach, setup_by_id
from glintor.placement.replan import Replan
from glintor.placement.seam import STITCHES
from glintor.placement.sun import day_span
from glintor.project.model import Camera, Exposure, Placement, Project, Shot, Site
from glintor.project.sky import sun_of


def layout_of(site: Site, placement: Placement, minute: float, *, levels: bool = True) -> Layout:
    """A placement worked out at a minute of the site's day. levels: whether the camera levels its recordings."""
    return layout(
        setup_id=placement.setup,
        ahead_m=placement.ahead_m,
        left_m=placement.left_m,
        stick_m=placement.stick_m,
        heading_deg=placement.heading_deg,
        lean_deg=placement.lean_deg,
        tilt_deg=placement.tilt_deg,
        subject=(placement.subject_ahead_m, placement.subject_left_m, placement.subject_up_m),
        sun=sun_of(site, minute, placement.stage),
        way_bearing_deg=site.bearing_of(placement),
        subject_goes_m=(placement.subject_goes_ahead_m, placement.subject_goes_left_m),
        levels=levels,
    )


def plan_of(project: Project, shot: Shot) -> Layout:
    """A shot's placement worked out at its own time, with its own camera."""
    levels = project.camera_of(shot).levels
    return layout_of(project.site, shot.placement, shot.start_min, levels=levels)


def in_reach(placement: Placement) -> Placement:
    """The placement with its camera where the set-up can hold it."""
    setup = setup_by_id(placement.setup)
    ahead, left = held_in_reach(
        setup, placement.stick_m, placement.ahead_m, placement.left_m, placement.lean_deg, placement.heading_deg
    )
    return msgspec.structs.replace(placement, ahead_m=round(ahead, 3), left_m=round(left, 3))


def set_up(placement: Placement, setup_id: str) -> Placement:
    """A placement on another set-up: kept where it can be, begun anew where the carrier is another."""
    setup, old = setup_by_id(setup_id), setup_by_id(placement.setup)
    stick = setup.sticks_m[min(1, len(setup.sticks_m) - 1)]
    values: dict[str, object] = {"setup": setup.id, "stick_m": stick, "tilt_deg": 0.0}
    ahead, left = placement.ahead_m, placement.left_m
    if old.carrier != setup.carrier or old.worn != setup.worn or old.hand != setup.hand or not setup.rails_m:
        ahead, left = setup.place
        feet = setup.subject or CARRIERS[setup.carrier].subject_m
        values |= {"subject_ahead_m": feet[0], "subject_left_m": feet[1], "subject_up_m": feet[2]}
        values |= {"heading_deg": setup.heading_deg, "lean_deg": 0.0}
    return in_reach(msgspec.structs.replace(placement, ahead_m=ahead, left_m=left, **values))


def mode_width_px(camera_width_px: int, exposure: Exposure) -> int:
    """Width of the sphere that a camera records with a setting: at high rates its modes have fewer pixels."""
    return round(camera_width_px * mode_for(exposure.rate_fps, exposure.interval_s).width_px / USUAL_WIDTH_PX)


def given_of(project: Project, shot: Shot) -> Given:
    """What the Place desk's findings take besides the geometry."""
    site, camera, placement = project.site_of(shot), project.camera_of(shot), shot.placement
    mount = project.kit.mount_for(placement.setup)
    return Given(
        gap_m=camera.gap_m,
        overlap_deg=camera.overlap_deg,
        width_px=mode_width_px(camera.width_px, shot.exposure),
        stitch_share=STITCHES[camera.stitch],
        camera_kg=camera.mass_kg,
        stick_m=placement.stick_m,
        tilt_deg=placement.tilt_deg,
        lowest_m=site.lowest_m,
        branches_m=site.branches_m,
        power_line_m=site.power_line_m,
        lean_deg=site.lean_deg,
        wind_m_s=site.wind_m_s,
        speed_m_s=site.speed_m_s if placement.speed_m_s is None else placement.speed_m_s,
        permission=site.permission,
        length_min=shot.length_min,
        start_min=shot.start_min,
        sunset_min=day_span(site.lat_deg, site.lon_deg, site.day, site.zone)[1],
        kit=project.kit.kinds,
        sections=project.kit.sections,
        torque_nm=mount.torque_nm if mount is not None else 0.0,
        load_kg=mount.load_kg if mount is not None else 0.0,
        offset_m=mount.offset_mm / 1000.0 if mount is not None else 0.0,
    )


def in_sun(plan: Layout) -> bool:
    """Whether the sun is up and shines through the clouds."""
    return plan.sun.elevation_deg > 0.0 and plan.sun.shines


Shade = Callable[[Placement, Camera, Layout], bool]  # whether what stands in the place keeps the sun from the camera


def replanned(project: Project, shot: Shot, shade: Shade | None = None) -> Replan:
    """Tries the shot's placement at other minutes and with other values. shade: what is known of the place."""

    def replan(*, minute: float | None = None, **fields: object) -> Layout:
        placement = shot.placement
        if fields:
            placement = in_reach(msgspec.structs.replace(placement, **fields))
        when = shot.start_min if minute is None else minute
        plan = layout_of(project.site, placement, when, levels=project.camera_of(shot).levels)
        if shade is not None and in_sun(plan) and shade(placement, project.camera_of(shot), plan):
            return plan.at(msgspec.structs.replace(plan.sun, shines=False))
        return plan

    return replan


def placing(project: Project, shot: Shot, shade: Shade | None = None) -> list[Finding]:
    """The findings of the Place desk. shade: what is known of the place that the camera stands in."""
    from glintor.placement.review import place_findings  # the window's first picture does without

    replan = replanned(project, shot, shade)
    return place_findings(replan(), given_of(project, shot), replan)

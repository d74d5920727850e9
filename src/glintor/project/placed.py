"""A shot's placement worked out on its site: the layout, what a set-up can hold, and what the findings take."""

from collections.abc import Callable
from functools import lru_cache

import msgspec

from glintor.exposure.modes import USUAL_WIDTH_PX
from glintor.finding import Finding
from glintor.placement.carrier import GROUND, Carrier, ready_carriers
from glintor.placement.figures import goes_through
from glintor.placement.fitting import begins_at, fit, possible, why_not
from glintor.placement.given import Given
from glintor.placement.inside import stuck_in
from glintor.placement.layout import LEVEL, Layout, Shore, Slope, layout
from glintor.placement.mounts import Setup, setup_by_id
from glintor.placement.reach import held_in_reach
from glintor.placement.replan import Replan
from glintor.placement.scenery import BANK_M, UNKNOWN, Place
from glintor.placement.seam import STITCHES
from glintor.placement.standing import walls_of
from glintor.placement.subject import Subject
from glintor.placement.sun import day_span
from glintor.project.model import Camera, Exposure, Project, Shot
from glintor.project.site import Placement, Site
from glintor.project.sky import sun_of
from glintor.project.take import Take

WAY_AHEAD, _NOBODY = "the way ahead", "subject"
_AHEAD = (3.0, 0.4, 0.0)  # somebody in front of who wears the camera
_NOON_MIN = 720.0
_TOWPATH_M, _BANK_M = 1.6, 1.4  # from the middle of the way, or of what stands, to the canal's edge


def layout_of(site: Site, placement: Placement, minute: float, *, levels: bool = True) -> Layout:
    """A placement worked out at a minute of the site's day. levels: whether the camera levels its recordings."""
    carrier, slope = carrier_of(site, placement), slope_of(site, placement)
    return layout(
        setup=setup_by_id(placement.setup),
        carrier=carrier,
        on=placement.on,
        ahead_m=placement.ahead_m,
        left_m=placement.left_m,
        stick_m=placement.stick_m,
        heading_deg=placement.heading_deg,
        lean_deg=placement.lean_deg,
        tilt_deg=placement.tilt_deg,
        filmed=site.filmed(placement),
        together=placement.together,
        sun=sun_of(site, minute, placement.stage),
        way_bearing_deg=site.bearing_of(placement),
        levels=levels,
        shore=shore_of(site, placement),
        slope=slope,
        walls=walls_of(site.place(placement.stage), slope, carrier.floor_m, carrier.afloat),
    )


def slope_of(site: Site, placement: Placement) -> Slope:
    """How the ground rises at a placement: as its place is described, else as its way was recorded; the canal is level."""
    place = site.place(placement.stage)
    return LEVEL if place is None else place.rises(site.bearing_of(placement), placement.slope_deg)


def carrier_of(site: Site, placement: Placement) -> Carrier:
    """What a placement is on; the ground where its carrier is not to be found (a day that names such is refused)."""
    return site.carrier(placement.carrier) or ready_carriers()[GROUND]


def fitted(site: Site, placement: Placement) -> Setup:
    """The set-up of a placement on its carrier."""
    return fit(setup_by_id(placement.setup), carrier_of(site, placement), placement.on)


@lru_cache(maxsize=64)
def _shore(place: Place | None, on_foot: bool) -> Shore:
    if place is None:  # beside the canal
        return Shore(right=_TOWPATH_M if on_foot else _BANK_M, down_m=BANK_M)
    water = [one for one in place.around if one.what == "water"]
    away = {one.side: one.away_m for one in water}
    return (
        Shore(**away, down_m=max((one.height_m for one in water), default=0.0))
        if away and not place.pictured
        else Shore()
    )


def _wet(place: Place | None) -> bool | None:
    """Whether a place has water to float on; the canal has, of a photo and of what nobody described it is not known."""
    if place is None:
        return True
    if place.pictured or place.id == UNKNOWN:
        return None
    return place.wet


def shore_of(site: Site, placement: Placement) -> Shore:
    """Where land ends at a placement."""
    return _shore(site.place(placement.stage), placement.carrier != GROUND)


def plan_of(project: Project, shot: Shot) -> Layout:
    """A shot's placement worked out at its own time, with its own camera."""
    levels = project.camera_of(shot).levels
    return layout_of(project.site, shot.placement, shot.start_min, levels=levels)


def in_reach(site: Site, placement: Placement) -> Placement:
    """The placement with its camera where the set-up can hold it."""
    setup = fitted(site, placement)
    ahead, left = held_in_reach(
        setup, placement.stick_m, placement.ahead_m, placement.left_m, placement.lean_deg, placement.heading_deg
    )
    return msgspec.structs.replace(placement, ahead_m=round(ahead, 3), left_m=round(left, 3))


def set_up(site: Site, placement: Placement, setup_id: str, on: str = "") -> Placement:
    """A placement on another set-up: kept where it can be; begun anew where it is on something else. The carrier stays where
    it takes the set-up, else it is the one that the set-up is usually on."""
    setup = setup_by_id(setup_id)
    carrier = carrier_of(site, placement)
    if why_not(setup, carrier) or _left_alone(setup, carrier):
        carrier = site.carrier(setup.carrier) or carrier
    return begun_on(site, placement, setup, carrier, on)


def _left_alone(setup: Setup, carrier: Carrier) -> bool:
    """Whether a set-up for the hand or the body would be held by nobody in particular."""
    return carrier.id == GROUND and setup.takes in ("hand", "body") and setup.carrier != GROUND


def carried(site: Site, placement: Placement, carrier: Carrier) -> Placement:
    """A placement on another carrier: with the same set-up where it takes it, else with the first that it takes."""
    setup = setup_by_id(placement.setup)
    takes = {s.id: s for s, why in possible(carrier) if not why}
    if setup.id not in takes:
        usual = [s for s in takes.values() if s.carrier == carrier.id and s.on]
        setup = (usual or [takes[name] for name in _FIRST if name in takes] or list(takes.values()))[0]
    return begun_on(site, placement, setup, carrier)


_FIRST = ("tube_clamp", "flat_foot", "worn_chest", "mini_tripod")


def begun_on(site: Site, placement: Placement, setup: Setup, carrier: Carrier, on: str = "") -> Placement:
    """A placement on a set-up and a carrier that takes it: kept where both are what they were, else begun anew."""
    old, new = fitted(site, placement), fit(setup, carrier, on)
    values: dict[str, object] = {"setup": setup.id, "carrier": carrier.id, "on": on, "tilt_deg": 0.0}
    same = placement.carrier == carrier.id and old.takes == new.takes and old.on == new.on and old.grip == new.grip
    if not same or new.grip is not None:
        ahead, left = begins_at(new, carrier)
        values |= {"ahead_m": ahead, "left_m": left, "heading_deg": new.heading_deg, "lean_deg": new.lean_deg}
        values["subjects"] = (_first_subject(placement.subject, new, carrier), *placement.subjects[1:])
    usual = new.sticks_m[min(1, len(new.sticks_m) - 1)]
    shorter = [stick for stick in sorted(new.sticks_m, reverse=True) if stick < usual]
    tried = [in_reach(site, msgspec.structs.replace(placement, **values, stick_m=s)) for s in (usual, *shorter)]
    begun = next((p for p in tried if _has_room(layout_of(site, p, _NOON_MIN))), tried[0])
    if new.place is None and "heading_deg" in values:  # a lens faces the subject
        facing = layout_of(site, msgspec.structs.replace(begun, heading_deg=0.0), _NOON_MIN).chest_yaw_pitch_deg[0]
        begun = msgspec.structs.replace(begun, heading_deg=round(facing, 1))
    return begun


def _has_room(plan: Layout) -> bool:
    return not goes_through(plan) and stuck_in(plan) is None


def _first_subject(subject: Subject, setup: Setup, carrier: Carrier) -> Subject:
    """Where the subject begins on another carrier: who drives; for who wears the camera somebody in front, or the way."""
    replace, worn = msgspec.structs.replace, setup.worn and not any(setup.sticks_m)
    if worn and carrier.solids:  # whoever rides looks where the way leads, or where there is something to see
        ahead, left, up = carrier.looks
        if left == 0.0 and ahead > 0.0:
            return Subject(name=WAY_AHEAD, what="way")
        return Subject(name="the view", what="view", ahead_m=ahead, left_m=left, up_m=up)
    fresh = replace(subject, what="person", name=_NOBODY) if subject.far else subject
    seat = next((s for s in carrier.seats if s.id == setup.on), None) if worn else None
    ahead, left, up = _AHEAD if worn else setup.feet or carrier.usual
    if seat is not None:
        ahead, left, up = ahead + seat.feet[0], left + seat.feet[1], seat.feet[2]
    return replace(fresh, ahead_m=ahead, left_m=left, up_m=up, goes_ahead_m=0.0, goes_left_m=0.0)


def mode_width_px(camera: Camera, exposure: Exposure) -> int:
    """Width of the sphere that a camera records with a setting: its mode's share of the largest of its modes."""
    largest = max((one.width_px for one in camera.modes if not one.single_deg), default=USUAL_WIDTH_PX)
    return round(camera.width_px * camera.mode_of(exposure).width_px / largest)


def given_of(project: Project, shot: Shot) -> Given:
    """What the Place desk's findings take besides the geometry."""
    site, camera, placement = project.site_of(shot), project.camera_of(shot), shot.placement
    place = site.place(placement.stage)
    mount = project.kit.mount_for(placement.setup)
    return Given(
        gap_m=camera.gap_m,
        overlap_deg=camera.overlap_deg,
        width_px=mode_width_px(camera, shot.exposure),
        stitch_share=STITCHES[camera.stitch],
        camera_kg=camera.mass_kg,
        stick_m=placement.stick_m,
        tilt_deg=placement.tilt_deg,
        lowest_m=site.lowest_m,
        branches_m=site.branches_m,
        power_line_m=site.power_line_m,
        lean_deg=site.lean_deg,
        wind_m_s=0.0 if place is not None and place.indoors else site.wind_m_s,
        speed_m_s=site.speed_m_s if placement.speed_m_s is None else placement.speed_m_s,
        permission=site.permission,
        length_min=shot.length_min,
        start_min=shot.start_min,
        sunset_min=day_span(site.lat_deg, site.lon_deg, site.day, site.zone)[1],
        kit=project.kit.kinds,
        sections=project.kit.sections,
        torque_nm=mount.torque_nm if mount is not None else 0.0,
        load_kg=mount.load_kg if mount is not None else 0.0,
        wet=_wet(place),
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
            placement = in_reach(project.site, msgspec.structs.replace(placement, **fields))
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


def layout_of_take(project: Project, take: Take) -> Layout | None:
    """How a take was placed; None where nobody knows."""
    return laid_out(project.site, project.camera_of(take), take)


def laid_out(site: Site, camera: Camera, take: Take) -> Layout | None:
    """The same, of a take that a camera filmed at a site."""
    if take.placement is None or take.began_min is None or not site.known:
        return None
    return layout_of(site, take.placement, take.began_min, levels=camera.levels)

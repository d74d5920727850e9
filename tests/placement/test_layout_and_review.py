import msgspec
import numpy as np
import pytest

from glintor.demo.day import CAMERA, SHOTS, SITE
from glintor.errors import InputError
from glintor.finding import Level
from glintor.placement.clock import clock
from glintor.placement.framing import head_to_feet, person_angle_deg
from glintor.placement.mounts import SETUPS, held_in_reach, lens_height_m, setup_by_id
from glintor.placement.review_mount import tube_finding
from glintor.placement.sun import Sun
from glintor.project.model import Project
from glintor.project.placed import layout_of, placing
from glintor.sphere.equirect import lonlat_deg

PROJECT = Project(site=SITE, camera=CAMERA, shots=SHOTS)
ROOF = PROJECT.shot("roof-cobdale")


def roof(**changes):
    return msgspec.structs.replace(ROOF, placement=msgspec.structs.replace(ROOF.placement, **changes))


def found(shot, kind):
    return next((f for f in placing(PROJECT, shot) if f.kind == kind), None)


def test_a_person_is_drawn_truest_from_half_their_height():
    assert head_to_feet(0.85, 1.70, 2.0) == pytest.approx(1.0)
    assert head_to_feet(2.5, 1.70, 2.0) > 1.2
    # A right triangle: camera on the ground, 1.70 m high, 1.70 m away.
    assert person_angle_deg(0.0, 1.70, 1.70) == pytest.approx(45.0)


def test_directions_follow_the_front_lens():
    plan = layout_of(SITE, ROOF.placement, ROOF.start_min)
    yaw, pitch = plan.chest_yaw_pitch_deg
    assert plan.subject_m == pytest.approx(3.3, abs=0.05)
    assert (yaw, pitch) == (pytest.approx(-7.7, abs=0.3), pytest.approx(-7, abs=1))
    lon, lat = lonlat_deg(plan.directions((plan.subject + [0, 0, 0.72 * 1.7])[None, :]))
    assert (lon[0], lat[0]) == (pytest.approx(yaw), pytest.approx(pitch))
    turned = layout_of(SITE, roof(heading_deg=90.0).placement, ROOF.start_min)
    assert turned.chest_yaw_pitch_deg[0] == pytest.approx(yaw + 90.0)


def test_heights_add_up_over_the_water():
    plan = layout_of(SITE, ROOF.placement, ROOF.start_min)
    assert plan.carrier.surface_m + plan.camera[2] == pytest.approx(1.62 + 0.08 + 0.7)
    assert plan.clearance_m(SITE.lowest_m) == pytest.approx(2.95 - 2.40 - 0.06)


def test_shadows_fall_away_from_the_sun_as_long_as_geometry_says():
    plan = layout_of(SITE, PROJECT.shot("wharf-portrait").placement, 15 * 60)
    points = plan.stick_shadow()
    reach = plan.camera[2] / np.tan(np.radians(plan.sun.elevation_deg))
    assert np.linalg.norm(points[-1][:2] - plan.camera[:2]) == pytest.approx(reach, rel=1e-6)
    world = np.radians(
        plan.way_bearing_deg - np.degrees(np.arctan2(points[-1][1] - plan.camera[1], points[-1][0] - plan.camera[0]))
    )
    assert np.cos(world - np.radians(plan.sun.azimuth_deg)) == pytest.approx(-1.0)
    assert len(layout_of(SITE, ROOF.placement, 3 * 60).stick_shadow()) == 0


def test_beside_the_roof_the_shadow_drops_to_the_water():
    plan = layout_of(SITE, ROOF.placement, ROOF.start_min)
    assert plan.stick_shadow()[-1][2] == pytest.approx(-1.62)


def test_a_held_stick_sinks_as_it_reaches_out():
    setup = setup_by_id("held_stick")
    near, far = (lens_height_m(setup, 1.2, ahead, -0.25, 0.0) for ahead in (0.4, 1.3))
    assert near > far and near == pytest.approx(1.25 + np.sqrt(1.2**2 - 0.1**2))
    ahead, left = held_in_reach(setup, 1.2, 9.0, -0.25, 0.0)
    assert np.hypot(ahead - 0.30, left + 0.25) <= 1.2


def test_a_clamp_stays_on_its_rail():
    assert held_in_reach(setup_by_id("rail_clamp"), 0.7, 1.0, 0.1, 0.0) == (1.0, 0.74)
    assert held_in_reach(setup_by_id("mini_tripod"), 0.7, 1.0, 0.1, 0.0) == (1.0, 0.1)
    with pytest.raises(InputError, match="held_stick"):
        setup_by_id("drone")
    assert all(setup.caution for setup in SETUPS)


def test_the_seam_is_found_and_its_cure_works():
    bad = roof(heading_deg=262.0)
    finding = found(bad, "seam")
    assert finding.level is Level.STOP and finding.value > finding.limit == 4.0
    cured = roof(heading_deg=float(finding.cure.value))
    assert found(cured, "seam").level is Level.NOTE
    assert layout_of(SITE, cured.placement, 636).chest_yaw_pitch_deg[0] == pytest.approx(0.0, abs=0.1)


def test_a_crooked_joint_is_found_with_its_limit():
    finding = found(roof(tilt_deg=2.0), "tilt")
    assert finding.level is Level.CAUTION
    assert finding.limit == pytest.approx(np.degrees(np.arctan(0.004 / 0.7)))
    assert finding.cure.value == 0.0 and found(roof(tilt_deg=0.1), "tilt").level is Level.NOTE


def test_the_shadow_is_found_and_the_time_it_leaves_is_true():
    finding = found(ROOF, "shadow")
    assert finding.level is Level.CAUTION and finding.value > 0.5
    later = msgspec.structs.replace(ROOF, start_min=float(finding.cure.value))
    assert found(later, "shadow").level is Level.NOTE
    assert clock(finding.cure.value) in finding.reason


def test_low_bridges_stop_a_long_stick():
    finding = found(roof(stick_m=1.2), "clearance")
    assert finding.level is Level.STOP and finding.value < 0.0
    assert found(roof(stick_m=float(finding.cure.value)), "clearance").level is Level.NOTE
    assert found(PROJECT.shot("wharf-portrait"), "clearance") is None


def test_nearness_sun_and_safety_are_noted():
    near = roof(ahead_m=-6.15, left_m=0.74, stick_m=0.5)
    assert found(near, "near") is not None
    assert "Local rules" in found(ROOF, "safety").reason
    facing_sun = msgspec.structs.replace(PROJECT.shot("wharf-portrait"), start_min=8 * 60.0)
    assert found(facing_sun, "sun") is not None


def test_with_the_sun_down_there_is_no_shadow():
    plan = layout_of(SITE, ROOF.placement, ROOF.start_min)
    night = type(plan)(plan.setup, plan.carrier, plan.camera, plan.foot, plan.subject, 180.0, Sun(0, -10), 110.0)
    assert night.shadow_in_frame_m(night.start_view, (1920, 1080)) == 0.0
    assert found(msgspec.structs.replace(ROOF, start_min=60.0), "shadow") is None


def test_a_subject_that_walks_over_the_seam_is_found_where_it_does():
    wharf = PROJECT.shot("wharf-portrait")
    assert found(wharf, "seam").level is Level.NOTE
    placement = msgspec.structs.replace(wharf.placement, subject_goes_ahead_m=-3.0, subject_goes_left_m=1.5)
    walking = msgspec.structs.replace(wharf, placement=placement)
    finding = found(walking, "seam")
    assert finding.level is Level.STOP and "along its way" in finding.reason
    end = layout_of(SITE, placement, 490).moved(1.0)
    assert tuple(end.subject[:2]) == (pytest.approx(0.8 - 3.0), pytest.approx(0.9 + 1.5))


def test_a_tube_that_the_clamp_does_not_take_is_found():
    plan = layout_of(SITE, ROOF.placement, ROOF.start_min)
    assert found(ROOF, "tube").level is Level.NOTE
    from msgspec.structs import replace

    thin = replace(plan, carrier=replace(plan.carrier, tube_mm=12.0))
    assert tube_finding(thin).level is Level.STOP and tube_finding(thin).limit == 16.0


def test_the_speed_along_the_route_is_air_on_the_stick():
    fast = msgspec.structs.replace(PROJECT, site=msgspec.structs.replace(SITE, speed_m_s=6.0))
    load = {
        name: next(f for f in placing(p, ROOF) if f.kind == "load") for name, p in (("usual", PROJECT), ("fast", fast))
    }
    assert load["fast"].value > load["usual"].value and "9.0 m/s" in load["fast"].reason  # 3 of wind and 6 of way
    still = PROJECT.shot("wharf-portrait")
    assert [f.value for f in placing(fast, still) if f.kind == "load"] == [
        f.value for f in placing(PROJECT, still) if f.kind == "load"
    ]

import msgspec
import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from glintor.demo.day import CAMERA, SHOTS, SITE
from glintor.errors import InputError
from glintor.finding import Level
from glintor.placement.axes import level_axes
from glintor.placement.carrier import ready_carriers
from glintor.placement.clock import clock
from glintor.placement.fitting import fit
from glintor.placement.framing import head_to_feet, person_angle_deg
from glintor.placement.mounts import SETUPS, setup_by_id
from glintor.placement.reach import held_in_reach, lens_height_m
from glintor.placement.review_mount import tube_finding
from glintor.placement.shadow import seen_shadow_m, stick_shadow
from glintor.placement.sun import Sun
from glintor.project.kit import Kit
from glintor.project.model import Project
from glintor.project.placed import in_reach, layout_of, placing
from glintor.sphere.equirect import lonlat_deg
from glintor.sphere.view import focal_px

PROJECT = Project(site=SITE, shots=SHOTS)
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


def on(setup_id, carrier_id):
    return fit(setup_by_id(setup_id), ready_carriers()[carrier_id])


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
    assert plan.carrier.floor_m + plan.camera[2] == pytest.approx(1.62 + 0.08 + 0.7)
    assert plan.clearance_m(SITE.lowest_m) == pytest.approx(2.95 - 2.40 - 0.06)


def test_shadows_fall_away_from_the_sun_as_long_as_geometry_says():
    plan = layout_of(SITE, PROJECT.shot("wharf-portrait").placement, 15 * 60)
    points = stick_shadow(plan)
    reach = (plan.camera[2] + 0.05) / np.tan(np.radians(plan.sun.elevation_deg))  # of the camera's top
    assert np.linalg.norm(points[-1][:2] - plan.camera[:2]) == pytest.approx(reach, rel=1e-6)
    world = np.radians(
        plan.way_bearing_deg - np.degrees(np.arctan2(points[-1][1] - plan.camera[1], points[-1][0] - plan.camera[0]))
    )
    assert np.cos(world - np.radians(plan.sun.azimuth_deg)) == pytest.approx(-1.0)
    assert len(stick_shadow(layout_of(SITE, ROOF.placement, 3 * 60))) == 0


def test_beside_the_roof_the_shadow_drops_to_the_water():
    plan = layout_of(SITE, ROOF.placement, ROOF.start_min)
    assert stick_shadow(plan)[-1][2] == pytest.approx(-1.62)


def test_the_cameras_axes_follow_its_stick_and_a_joint_turns_them():
    """z along the stick, x at right angles to it as near to the heading as that allows; against scipy's rotations."""
    held = msgspec.structs.replace(PROJECT.shot("towpath-walk").placement, heading_deg=140.0)
    plan = layout_of(SITE, held, 600)
    along = (plan.camera - plan.foot) / 1.2
    assert np.linalg.norm(along) == pytest.approx(1.0) and plan.axes[:, 2] == pytest.approx(along)
    assert plan.axes.T @ plan.axes == pytest.approx(np.eye(3)) and np.linalg.det(plan.axes) == pytest.approx(1.0)
    axis = np.cross([0.0, 0.0, 1.0], along)
    least = Rotation.from_rotvec(axis / np.linalg.norm(axis) * np.arccos(along[2]))
    assert plan.axes == pytest.approx((least * Rotation.from_matrix(level_axes(140.0))).as_matrix())
    bent = layout_of(SITE, msgspec.structs.replace(held, tilt_deg=7.0), 600)
    stick = -along @ bent.axes  # from the camera down, in its own axes: 7 degrees towards the front lens
    assert np.degrees(np.arctan2(stick[0], -stick[2])) == pytest.approx(7.0) and stick[1] == pytest.approx(
        0.0, abs=1e-9
    )
    level, own = (layout_of(SITE, held, 600, levels=levels) for levels in (True, False))
    assert level.frame[:, 2] == pytest.approx([0.0, 0.0, 1.0]) and own.lens_axis == pytest.approx([1.0, 0.0, 0.0])
    assert level.off_seam_deg(level.chest[None]) == pytest.approx(own.off_seam_deg(own.chest[None]))
    hung = layout_of(SITE, msgspec.structs.replace(held, setup="hung_beam", carrier="ground", stick_m=0.7), 600)
    assert hung.axes[:, 2] == pytest.approx([0.0, 0.0, -1.0]) and hung.frame[:, 2] == pytest.approx([0.0, 0.0, 1.0])


def test_who_stands_where_the_stick_points_is_near_the_seam_whatever_way_the_camera_is_turned():
    """A stick held out ahead points back at its filmer: no heading takes them far off, and no cure claims to."""
    walk = PROJECT.shot("towpath-walk")
    off = []
    for heading in range(-180, 180, 15):
        plan = layout_of(SITE, msgspec.structs.replace(walk.placement, heading_deg=float(heading)), 600)
        off.append(abs(float(plan.off_seam_deg(plan.subject[None] + [0.0, 0.0, 1.25])[0])))
    assert max(off) < 35.0


def test_a_held_stick_sinks_as_it_reaches_out():
    setup = on("held_stick", "walker")
    near, far = (lens_height_m(setup, 1.2, ahead, -0.25, setup.grip, 0.0) for ahead in (0.4, 1.3))
    assert near > far and near == pytest.approx(1.25 + np.sqrt(1.2**2 - 0.1**2))
    ahead, left = held_in_reach(setup, 1.2, 9.0, -0.25, 0.0)
    assert np.hypot(ahead - 0.30, left + 0.25) <= 1.2


def test_a_clamp_stays_on_its_rail():
    assert held_in_reach(on("rail_clamp", "boat"), 0.7, 1.0, 0.1, 0.0) == pytest.approx((1.0, 0.74))
    assert held_in_reach(on("mini_tripod", "ground"), 0.7, 1.0, 0.1, 0.0) == (1.0, 0.1)
    with pytest.raises(InputError, match="held_stick"):
        setup_by_id("drone")
    assert all(setup.caution for setup in SETUPS)


def test_the_seam_through_a_face_is_found_by_what_is_left_of_it_and_its_cure_works():
    """The whole way from camera to film: b / D in its pixels, a third of it after an aligning stitch."""
    bad = roof(heading_deg=262.0)
    finding = found(bad, "seam")
    plan = layout_of(SITE, bad.placement, bad.start_min)
    near = float(np.linalg.norm(plan.subject + [0.0, 0.0, 1.58] - plan.camera))
    whole = 0.026 / near * focal_px(plan.start_view, 1920)
    assert finding.value == pytest.approx(whole / 3.0, rel=0.08) and finding.level is Level.NOTE
    plain = PROJECT.with_kit(Kit(cameras=(msgspec.structs.replace(CAMERA, stitch="plain"),)))
    torn = next(f for f in placing(plain, bad) if f.kind == "seam")
    assert torn.level is Level.CAUTION and torn.value == pytest.approx(3.0 * finding.value)
    cured = roof(**{torn.cure.field.partition(".")[2]: torn.cure.value})
    assert next(f for f in placing(plain, cured) if f.kind == "seam").level is Level.NOTE


def test_a_near_face_on_the_seam_is_a_stop_and_no_cure_is_offered_that_does_not_help():
    near = msgspec.structs.replace(PROJECT.shot("wharf-portrait").placement, ahead_m=0.0, left_m=0.9, heading_deg=90.0)
    shot = msgspec.structs.replace(PROJECT.shot("wharf-portrait"), placement=near)
    finding = found(shot, "seam")
    assert finding.level is Level.STOP and finding.value > 10.0
    field = finding.cure.field.partition(".")[2]
    mended = msgspec.structs.replace(shot, placement=msgspec.structs.replace(near, **{field: finding.cure.value}))
    assert found(mended, "seam").level < Level.STOP


def test_a_subject_behind_the_cabin_is_a_stop_with_a_search_for_where_it_is_seen():
    low = roof(setup="bow_clamp", stick_m=0.7, ahead_m=6.0, left_m=0.0)
    finding = found(low, "hidden")
    assert finding.level is Level.STOP and finding.value < 5.0 and finding.reason.endswith("past the narrowboat.")
    field = finding.cure.field.partition(".")[2]
    assert (
        found(
            roof(setup="bow_clamp", **{"stick_m": 0.7, "ahead_m": 6.0, "left_m": 0.0, field: finding.cure.value}),
            "hidden",
        ).level
        is Level.CAUTION
    )
    assert found(ROOF, "hidden") is None


def test_a_camera_where_nothing_can_hold_it_is_a_stop_and_brought_back():
    for changes in (
        {"left_m": 10.0},
        {"ahead_m": 9.0},
        {"setup": "seat_clamp", "carrier": "cycle", "left_m": 0.0, "ahead_m": -0.6, "stick_m": 1.2, "lean_deg": 20.0},
    ):
        shot = roof(**changes)
        assert found(shot, "reach").level is Level.STOP and found(shot, "reach").cure.field == "placement.reach"
        held = msgspec.structs.replace(shot, placement=in_reach(SITE, shot.placement))
        assert found(held, "reach") is None
    hand = msgspec.structs.replace(PROJECT.shot("towpath-walk").placement, ahead_m=10.0)
    assert found(msgspec.structs.replace(ROOF, placement=hand), "reach").value == pytest.approx(
        9.7 - 0.98 * 1.2, abs=0.1
    )


def test_under_a_grey_sky_there_is_no_sun_and_no_shadow():
    grey = msgspec.structs.replace(PROJECT, site=msgspec.structs.replace(SITE, cloud_share=0.95))
    assert {"sun", "shadow"} <= {f.kind for f in placing(PROJECT, ROOF)}
    assert not {"sun", "shadow"} & {f.kind for f in placing(grey, ROOF)}


def test_true_pixels_are_those_of_the_mode_that_the_shot_is_recorded_in():
    """Common practice: slow motion at 100 frames a second has 3K where the largest mode has 5.7K."""
    slow = msgspec.structs.replace(ROOF, exposure=msgspec.structs.replace(ROOF.exposure, rate_fps=100.0))
    assert found(slow, "size").value / found(ROOF, "size").value == pytest.approx(3008 / 5760, rel=1e-3)


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
    night = layout_of(SITE, ROOF.placement, ROOF.start_min).at(Sun(0, -10))
    assert seen_shadow_m(night, night.start_view, (1920, 1080)) == 0.0
    assert found(msgspec.structs.replace(ROOF, start_min=60.0), "shadow") is None


def test_a_subject_that_walks_over_the_seam_is_found_where_it_does():
    wharf = PROJECT.shot("wharf-portrait")
    assert found(wharf, "seam").title == "Face off the seam"
    placement = wharf.placement.with_subject(goes_ahead_m=-3.0, goes_left_m=1.5)
    walking = msgspec.structs.replace(wharf, placement=placement)
    finding = found(walking, "seam")
    assert finding.level > Level.NOTE and "along its way" in finding.reason
    end = layout_of(SITE, placement, 490).moved(1.0)
    assert tuple(end.subject[:2]) == (pytest.approx(0.8 - 3.0), pytest.approx(0.9 + 1.5))


def test_a_tube_that_the_clamp_does_not_take_is_found():
    plan = layout_of(SITE, ROOF.placement, ROOF.start_min)
    assert found(ROOF, "tube").level is Level.NOTE
    rails = msgspec.structs.replace(plan.carrier.tubes[0], diameter_mm=12.0)
    plan.carrier = msgspec.structs.replace(plan.carrier, tubes=(rails,))
    assert tube_finding(plan).level is Level.STOP and tube_finding(plan).limit == 16.0


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

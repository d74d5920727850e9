"""Described places as they are drawn, against the geometry that they were described with and the solids that findings use."""

import math

import numpy as np
import pytest
from msgspec.structs import replace

from glintor.demo.day import CAMERA, SHOTS, SITE
from glintor.placement import solids as made
from glintor.placement.carrier import ready_carriers
from glintor.placement.figures import subject_person
from glintor.placement.mounts import setup_by_id
from glintor.placement.scenery import Place, Standing, ready_places
from glintor.placement.shadow import stick_shadow
from glintor.placement.solids import Solids
from glintor.placement.standing import wall_solids, walls_of
from glintor.placement.sun import Sun
from glintor.project.placed import begun_on, carried, layout_of
from glintor.simulation.light import Light
from glintor.simulation.place import SPHERE, build, masks, see
from glintor.simulation.raytrace import blocked
from glintor.simulation.rig import Rig, light_of, plan_of, rig_of
from glintor.simulation.things import GROUND_Z

WALK = next(s for s in SHOTS if s.id == "towpath-walk").placement
NOON = Light(Sun(200.0, 50.0), 90.0, cover=0.0)


def scene_in(place, light=NOON, time_s=0.0, **placement):
    return build(Rig(plan_of(replace(WALK, **placement), CAMERA), "", CAMERA.gap_m, place), light, time_s)


def hits(scene, directions):
    """Distance and material along unit directions (n, 3) from the camera."""
    from glintor.simulation.raytrace import _nearest

    eye = scene.pose.position_m
    out = [_nearest(*(float(v) for v in (*eye, *way)), scene.world) for way in directions]
    return np.array([one[0] for one in out]), [one[4] for one in out]


@pytest.mark.parametrize("side", ["left", "right", "ahead", "behind"])
def test_a_wall_and_water_stand_where_they_were_said_to(side):
    """A level ray meets the wall at its distance; rays over its top pass; water lies beyond its edge and below the ground."""
    way = {"left": (0, 1, 0), "right": (0, -1, 0), "ahead": (1, 0, 0), "behind": (-1, 0, 0)}[side]
    wall = scene_in(Place(id="a", name="a", around=(Standing(what="wall", side=side, away_m=7.0, height_m=4.0),)))
    eye = wall.pose.position_m
    along = float(np.dot(eye, way))
    far, what = hits(wall, [way])
    assert far[0] == pytest.approx(7.0 - along, abs=1e-6) and what[0] == made.BRICK
    rise = math.atan2(4.3 + GROUND_Z - eye[2], 7.0 - along)
    over = np.array(way) * math.cos(rise) + np.array([0, 0, math.sin(rise)])
    assert hits(wall, [over])[1][0] == 0
    shore = scene_in(Place(id="a", name="a", around=(Standing(what="water", side=side, away_m=3.0, height_m=0.8),)))
    for off, expected, depth in ((2.0, made.GRASS, 0.0), (5.0, made.WATER, 0.8)):
        point = np.array(way) * off + np.array([0, 0, GROUND_Z - depth])
        point += (eye - along * np.array(way)) * np.array([1, 1, 0]) + 0.9 * np.array(
            [way[1], way[0], 0]
        )  # past the person
        ray = point - eye
        far, what = hits(shore, [ray / np.linalg.norm(ray)])
        assert what[0] == expected and far[0] == pytest.approx(np.linalg.norm(ray), abs=1e-6)


@pytest.mark.parametrize("place_id", sorted(ready_places()))
def test_who_is_filmed_is_seen_where_findings_say(place_id):
    """Masks of the drawn subject against rays at the solids that the findings take, from the same camera: 98 % of the pixels."""
    place = ready_places()[place_id]
    scene = scene_in(place)
    seen = see(scene, (480, 240), smooth=False)
    mask = masks(scene, seen) & 1 > 0
    plan = plan_of(WALK, CAMERA)
    parts, _ = subject_person(plan)
    rows, columns = np.mgrid[0:240, 0:480]
    lon, lat = (columns.ravel() + 0.5) / 480 * 2 * np.pi - np.pi, np.pi / 2 - (rows.ravel() + 0.5) / 240 * np.pi
    local = np.stack([np.cos(lat) * np.cos(lon), -np.cos(lat) * np.sin(lon), np.sin(lat)], axis=1)
    rays = local @ scene.pose.turn.T
    eyes = np.repeat(plan.camera[None], len(rays), axis=0)
    met = Solids([parts]).distance(eyes, rays)
    walls = wall_solids(walls_of(place, plan.slope, plan.carrier.floor_m, False))
    said = (np.isfinite(met) & (met < walls.distance(eyes, rays))).reshape(mask.shape)
    assert (said.sum() > 500 or place_id == "car-cabin") and (mask & said).sum() / (mask | said).sum() > 0.98
    assert np.isfinite(seen.luminance).all() and seen.luminance.min() >= 0.0


def test_a_roof_and_a_tunnel_keep_the_sun_off_and_the_light_down():
    light = {}
    for name in ("square", "hall", "road-tunnel"):
        scene = scene_in(ready_places()[name])
        eye = scene.pose.position_m
        shaded = blocked(*(float(v) for v in (*eye, *NOON.sun_vector())), scene.world)
        assert shaded == (name != "square")
        dark = replace(ready_places()[name], lamps=0)
        light[name] = float(np.median(see(scene_in(dark), (96, 48), smooth=False).luminance[30:, :, 1]))
    assert light["hall"] < 0.1 * light["square"] and light["road-tunnel"] < 0.3 * light["square"]


def test_lamps_light_a_street_at_night():
    """Illuminance of one lamp straight below is candela over height squared (inverse-square law), seen on a white card's luminance."""
    night = Light(Sun(0.0, -30.0), 0.0, cover=0.0)
    dark, lit = (
        float(
            see(
                scene_in(replace(ready_places()["street"], lamps=n, people=0, traffic=0), night), (96, 48), smooth=False
            )
            .luminance[..., 1]
            .max()
        )
        for n in (0, 4)
    )
    assert lit > 50.0 * max(dark, 1e-6)


def test_a_shot_has_its_own_bearing_speed_and_place():
    placement = replace(WALK, stage="snow-slope", way_bearing_deg=250.0, speed_m_s=3.0)
    rig, light = rig_of(placement, CAMERA, SITE), light_of(SITE, 600.0, placement)
    assert rig.place is ready_places()["snow-slope"] and rig.speed_m_s == 3.0 and light.bearing_deg == 250.0
    moved = [build(rig, light, t).pose.position_m[0] for t in (0.0, 2.0)]
    assert moved[1] - moved[0] == pytest.approx(6.0)
    assert light_of(SITE, 600.0, WALK).bearing_deg == SITE.way_bearing_deg
    assert rig_of(replace(WALK, stage="unknown"), CAMERA, SITE).place.name == "not described yet"


def test_nothing_of_the_canal_is_drawn_in_a_described_place():
    scene = scene_in(ready_places()["street"])
    kind = see(scene, (240, 120), smooth=False).kind
    assert not set(np.unique(kind)) & {made.GROUND, made.HULL, made.DUCK, made.LEAF, made.WATER}
    assert SPHERE.size == 1 and (kind == made.ASPHALT).any() and (kind == made.PLASTER).any()


def test_who_stays_there_is_passed_and_who_goes_along_is_not():
    """A rider at 4 m/s passes somebody 9 m ahead after two seconds by 1 m; a companion keeps the distance."""
    begun = replace(carried(SITE, WALK, ready_carriers()["cycle"]), stage="plain", speed_m_s=4.0)
    for keeps, behind in (("there", True), ("along", False)):
        placement = begun.with_subject(ahead_m=9.0, left_m=2.0, up_m=0.0, keeps=keeps, faces_deg=0.0)
        placement = replace(placement, heading_deg=0.0, ahead_m=0.47, left_m=0.0)
        truth = [build(rig_of(placement, CAMERA, SITE), NOON, t).truth for t in (0.0, 2.5)]
        assert abs(truth[0].subject_yaw_deg) < 20.0
        assert (abs(truth[1].subject_yaw_deg) > 100.0) == behind


def test_under_its_own_roof_a_car_is_darker_than_the_street_and_a_boat_floats_beside_the_shore():
    inside = replace(carried(SITE, WALK, ready_carriers()["coach"]), stage="street")
    seen = see(build(rig_of(inside, CAMERA, SITE), NOON, 0.0), (480, 240), smooth=False)
    window, seats = seen.luminance[100:125, :, 1], seen.luminance[190:, :, 1]
    assert np.percentile(window, 95) > 4.0 * np.median(seats)
    afloat = replace(carried(SITE, WALK, ready_carriers()["kayak"]), stage="lake-shore")
    scene = build(rig_of(afloat, CAMERA, SITE), NOON, 0.0)
    lake = ready_places()["lake-shore"]
    shore = next(one for one in lake.around if one.what == "water")
    off = scene.pose.position_m[1] * (1.0 if shore.side == "left" else -1.0)
    assert off > shore.away_m and scene.pose.position_m[2] < GROUND_Z + 1.5


@pytest.mark.parametrize(
    ("slope", "falls", "way"), [(18.0, None, 40.0), (-20.0, None, 40.0), (25.0, 130.0, 40.0), (12.0, 310.0, 200.0)]
)
def test_sloping_ground_lies_trees_stand_and_shadows_fall_where_geometry_says(slope, falls, way):
    """Rays down find the ground on its plane; who stands has their feet on it; a shadow ends where the ray of the sun meets it."""
    place = Place(
        id="hill",
        name="hill",
        way="snow",
        beside="snow",
        slope_deg=slope,
        falls_deg=falls,
        around=(Standing(what="trees", side="left"),),
    )
    site = replace(SITE, places=(place,), way_bearing_deg=way, cloud_share=0.0)
    begun = replace(WALK, setup="mini_tripod", carrier="ground", stage="hill", ahead_m=0.0, left_m=0.0, stick_m=1.2)
    begun = begun.with_subject(ahead_m=4.0, left_m=-2.0, up_m=0.0)
    plan = layout_of(site, begun, 780.0)
    down = math.radians((way + 180.0 if falls is None else falls) - way)  # clockwise from the way ahead
    fall = np.array([math.cos(down), -math.sin(down)]) * math.tan(math.radians(slope if falls is None else abs(slope)))
    assert plan.subject[2] == pytest.approx(-float(fall @ [4.0, -2.0])) and np.allclose(plan.slope, -fall)
    light = light_of(site, 780.0, begun)
    scene = build(rig_of(begun, CAMERA, site), light, 0.0)
    eye = scene.pose.position_m
    for spot in ((3.0, 3.0), (-5.0, 1.0), (8.0, -4.0)):
        at = np.array([*spot, GROUND_Z - float(fall @ spot)])
        distance, kind = hits(scene, [(at - eye) / np.linalg.norm(at - eye)])
        assert distance[0] == pytest.approx(np.linalg.norm(at - eye), rel=1e-6) and kind[0] == made.SNOW
    landed = stick_shadow(plan)
    if len(landed):
        on = landed[-1]
        assert on[2] == pytest.approx(-float(fall @ on[:2]), abs=1e-6)
        assert np.allclose(np.cross(on - (plan.camera + [0.0, 0.0, 0.05]), plan.to_sun), 0.0, atol=1e-6)
    assert scene.truth.subject_m == pytest.approx(
        np.linalg.norm(plan.subject + [0.0, 0.0, 1.58] - plan.camera), abs=0.1
    )


def test_water_lies_level_and_a_way_takes_its_recorded_slope_where_the_place_says_nothing():
    for stage, rises in (("lake-shore", 0.0), ("ridge", math.tan(math.radians(9.0)))):
        placement = replace(WALK, stage=stage, slope_deg=9.0)
        assert layout_of(SITE, placement, 720.0).slope == (pytest.approx(rises), 0.0)
    assert layout_of(SITE, replace(WALK, slope_deg=9.0), 720.0).slope == (0.0, 0.0)  # the canal


def test_a_camera_on_a_line_slides_and_one_on_a_table_turns():
    """15 cm a second along the way until the line's end; a turn in a minute, clockwise from above."""
    ground = ready_carriers()["ground"]
    begun = replace(carried(SITE, WALK, ground), stage="plain")
    for setup, at_s, slid, turned in (
        ("line_slide", 4.0, 0.6, 0.0),
        ("line_slide", 300.0, 4.0, 0.0),
        ("turntable", 15.0, 0.0, 90.0),
    ):
        placement = begun_on(SITE, begun, setup_by_id(setup), ground)
        still, later = (build(rig_of(placement, CAMERA, SITE), NOON, t) for t in (0.0, at_s))
        assert later.pose.position_m - still.pose.position_m == pytest.approx([slid, 0.0, 0.0])
        ahead = still.pose.turn.T @ later.pose.turn[:, 0]
        assert np.degrees(np.arctan2(-ahead[1], ahead[0])) == pytest.approx(turned, abs=1e-6)


def test_walls_and_houses_follow_the_hill_and_a_cabin_stands_round_the_shot():
    """Uphill at 15 degrees: a wall's top, seen along it, keeps its height over the ground within half a step of it; a level one
    would be 5 m in the ground 20 m on. A ray up, and a level one to the side below the sill, meet the cabin."""
    wall = Standing(what="wall", side="left", away_m=3.0, height_m=2.0)
    place = Place(id="p", name="p", slope_deg=15.0, around=(wall,))
    here = {"setup": "mini_tripod", "carrier": "ground", "ahead_m": 0.0, "left_m": 0.0}
    site = replace(SITE, places=(place,))
    scene = build(Rig(layout_of(site, replace(WALK, stage="p", **here), 720.0), "", CAMERA.gap_m, place), NOON, 0.0)
    rise = math.tan(math.radians(15.0))
    for ahead in (-20.0, 0.0, 20.0):
        ground = GROUND_Z + rise * ahead
        for up, hits in ((1.0, True), (3.0, False)):
            assert blocked(ahead, 1.0, ground + up, 0.0, 1.0, 0.0, scene.world) == hits
    world = scene_in(ready_places()["car-cabin"], **here).world
    met = [
        blocked(0.2, 0.0, GROUND_Z + up, 0.0, left, rise, world)
        for up, left, rise in ((0.8, 0.0, 1.0), (0.5, 1.0, 0.0))
    ]
    assert met == [True, True] and not blocked(0.2, 0.0, GROUND_Z + 1.0, 0.0, 1.0, 0.0, world)

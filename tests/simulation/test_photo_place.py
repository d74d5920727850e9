"""A photo sphere as a place: its own points lie where geometry says, whoever is drawn into it stands, is hidden and throws a
shadow as in a described place."""

import math
from pathlib import Path
from typing import get_args

import cv2
import numpy as np
import pytest
from msgspec.structs import replace
from PIL import Image

from glintor.demo.day import CAMERA, SHOTS, SITE
from glintor.media.picture import write_picture
from glintor.placement import solids as made
from glintor.placement.figures import subject_person
from glintor.placement.person import HEIGHT_M, Pose
from glintor.placement.scenery import Place, Standing, ready_places, words_of
from glintor.placement.subject import Subject
from glintor.placement.sun import Sun
from glintor.simulation.light import Light
from glintor.simulation.photo import bearing_by_sun, flat_wide_deg, read_photo, sun_in, what_is_wrong
from glintor.simulation.place import build, masks, see
from glintor.simulation.rig import Rig, plan_of
from glintor.simulation.things import GROUND_Z
from glintor.sphere.equirect import direction, lonlat_of_pixel
from tests import foreign

DATA = Path(__file__).parents[1] / "data"
WALK = next(s for s in SHOTS if s.id == "towpath-walk").placement
FOUR_METRES = {
    "setup": "mini_tripod", "ahead_m": 0.0, "left_m": 0.0, "stick_m": 1.2, "subjects": (Subject(ahead_m=4.0),), "carrier": "ground", "heading_deg": 0.0,
}  # fmt: skip
NORTH = Light(Sun(150.0, 40.0), 0.0, cover=0.0)  # the way ahead is north


def scene_of(place, light=NORTH, **placement):
    return build(Rig(plan_of(replace(WALK, **placement), CAMERA), "", CAMERA.gap_m, place), light, 0.0)


def sphere_with(file, marks, width=2048):
    """A grey sphere with a red disc around each bearing (clockwise from the middle) and height, degrees."""
    picture = np.full((width // 2, width, 3), 90, np.uint8)
    for yaw, pitch in marks:
        at = round((yaw / 360 + 0.5) * width), round((0.5 - pitch / 180) * width / 2)
        cv2.circle(picture, at, 6, (250, 20, 20), -1)
    write_picture(file, picture)
    return file


def test_a_point_on_the_ground_stays_there_when_the_camera_is_elsewhere(tmp_path):
    """Photographed from 1.6 m; 3 m east and 2 m north of there lies a red disc. From the camera's own place it is seen in the
    direction of that point, and the one in the sky in its own direction."""
    down = -math.degrees(math.atan2(1.6, math.hypot(3.0, 2.0)))
    on_ground = math.degrees(math.atan2(3.0, 2.0))
    file = sphere_with(tmp_path / "p.png", [(on_ground - 30.0, down), (100.0, 35.0)])
    scene = scene_of(
        Place(id="p", name="p", photo=str(file), photo_faces_deg=30.0, photo_height_m=1.6), ahead_m=0.6, left_m=0.1
    )
    seen = see(scene, (2048, 1024), smooth=False)
    red = seen.luminance[..., 0] > 2.0 * seen.luminance[..., 1]
    names = cv2.connectedComponentsWithStats(red.astype(np.uint8))
    middles = [c for c, stats in zip(names[3][1:], names[2][1:], strict=True) if stats[4] > 20]
    eye = scene.pose.position_m
    ways = []
    for x, y in middles:
        lon, lat = (x + 0.5) / 2048 * 2 * np.pi - np.pi, np.pi / 2 - (y + 0.5) / 1024 * np.pi
        ways.append(scene.pose.turn @ [np.cos(lat) * np.cos(lon), -np.cos(lat) * np.sin(lon), np.sin(lat)])
    ground = np.array([2.0, -3.0, GROUND_Z]) - eye
    sky = np.array(
        [
            math.cos(math.radians(35)) * math.cos(math.radians(130)),
            -math.cos(math.radians(35)) * math.sin(math.radians(130)),
            math.sin(math.radians(35)),
        ]
    )
    for wanted in (ground / np.linalg.norm(ground), sky):
        off = min(math.degrees(math.acos(min(float(way @ wanted), 1.0))) for way in ways)
        assert off < 0.35  # a pixel of the photo


@pytest.fixture
def forest():
    """A real sphere (its licence stands beside it)."""
    return Place(
        id="forest", name="forest", photo=str(DATA / "forest-sphere.jpg"), photo_faces_deg=0.0, photo_height_m=1.7
    )


def surface_of(parts):
    """(n, 3) points on the surface of a person's limbs and blobs: what the renderer's rays are checked against."""
    rng = np.random.default_rng(3)
    way = rng.normal(size=(4000, 3))
    way /= np.linalg.norm(way, axis=1, keepdims=True)
    out = [np.array(blob[:3]) + way * blob[3:6] for blob in parts.ellipsoids]
    for limb in parts.capsules:
        along = np.linspace(np.array(limb[:3]), limb[3:6], 12)
        out += [place + way * limb[6] for place in along]
    return np.concatenate(out)


@pytest.mark.parametrize("pose", get_args(Pose))
def test_who_is_drawn_into_a_real_sphere_is_where_geometry_says_within_a_hundredth(forest, pose):
    """Highest and lowest point, both sides and the far end of the shadow, of people in every pose, against points on the
    surface of their limbs, projected here."""
    placed = {**FOUR_METRES, "subjects": (Subject(ahead_m=2.5, left_m=-0.9, pose=pose),)}
    scene, plan = scene_of(forest, **placed), plan_of(replace(WALK, **placed), CAMERA)
    points = surface_of(subject_person(plan)[0]) + [0.0, 0.0, GROUND_Z + plan.carrier.floor_m]
    points = points[points[:, 2] >= GROUND_Z]
    size = (2560, 1280)
    seen = see(scene, size, smooth=False)
    bits = masks(scene, seen)
    look = direction(*lonlat_of_pixel(*np.meshgrid(*map(np.arange, size)), *size)) @ scene.pose.turn.T
    eye = scene.pose.position_m

    def edges(ways):
        up = np.arctan2(ways[:, 2], np.hypot(ways[:, 0], ways[:, 1]))
        side = np.arctan2(ways[:, 1], ways[:, 0])
        return np.array([up.max(), up.min(), side.max(), side.min()])

    drawn, wanted = edges(look[bits & 1 > 0]), edges(points - eye)
    assert np.abs(drawn - wanted).max() < 0.01 * (wanted[0] - wanted[1])
    sun = NORTH.sun_vector()
    landed = points[:, :2] - sun[:2] * ((points[:, 2] - GROUND_Z) / sun[2])[:, None] - [2.5, -0.9]
    away = -sun[:2] / np.hypot(*sun[:2])
    dark = look[(bits & 4 > 0) & (bits & 3 == 0) & (seen.kind == made.PHOTO)]
    ground = (eye + dark * ((GROUND_Z - eye[2]) / dark[:, 2])[:, None])[:, :2] - [2.5, -0.9]
    assert (ground @ away).max() == pytest.approx((landed @ away).max(), rel=0.01)


def test_a_standing_person_is_as_high_as_told():
    for height in (1.1, HEIGHT_M, 1.95):
        placed = {**FOUR_METRES, "subjects": (Subject(ahead_m=4.0, height_m=height),)}
        plan = plan_of(replace(WALK, **placed), CAMERA)
        top = surface_of(subject_person(plan)[0])[:, 2].max()
        assert top - plan.subject[2] == pytest.approx(height, rel=0.01)


def test_its_shadow_lies_where_the_sun_throws_it_and_darkens_the_photo(forest):
    """The head's shadow is height / tan(elevation) away, opposite the sun's bearing."""
    lit, dark = (
        scene_of(forest, light, **FOUR_METRES)
        for light in (Light(Sun(150.0, 40.0), 0.0, cover=0.0), Light(Sun(150.0, 40.0, shines=False), 0.0, cover=0.0))
    )
    seen, flat = (see(scene, (1024, 512), smooth=False) for scene in (lit, dark))
    bits = masks(lit, seen)
    shadow = (bits & 4 > 0) & (bits & 3 == 0) & (seen.kind == made.PHOTO)
    eye = lit.pose.position_m
    rows, columns = np.nonzero(shadow)
    lon, lat = (columns + 0.5) / 1024 * 2 * np.pi - np.pi, np.pi / 2 - (rows + 0.5) / 512 * np.pi
    ways = np.stack([np.cos(lat) * np.cos(lon), -np.cos(lat) * np.sin(lon), np.sin(lat)], axis=1) @ lit.pose.turn.T
    points = eye + ways * ((GROUND_Z - eye[2]) / ways[:, 2])[:, None]
    away = points[:, :2] - [4.0, 0.0]
    length = HEIGHT_M / math.tan(math.radians(40.0))
    bearing = np.degrees(np.arctan2(-away[:, 1], away[:, 0]))
    farthest = np.argmax(np.hypot(*away.T))
    assert (
        np.hypot(*away[farthest]) == pytest.approx(length, rel=0.05)
        and abs((bearing[farthest] - 330.0 + 180) % 360 - 180) < 3.0
    )
    sun, sky = NORTH.illuminance_lux()
    share = sky / (sun * math.sin(math.radians(40.0)) + sky)
    photo = read_photo(Path(forest.photo))
    assert photo.cd_m2 is None and share < 0.5
    # In its shadow the ground has the sky's light alone: as much as the whole of it where the sun is hidden.
    ratio = np.median(seen.luminance[shadow] / flat.luminance[shadow], axis=0)
    assert ratio == pytest.approx(np.ones(3), rel=0.01)
    ground = (bits == 0) & (seen.kind == made.PHOTO)
    assert np.median(seen.luminance[ground] / flat.luminance[ground]) == pytest.approx(1.0 / share, rel=0.01)


def test_a_photo_says_how_bright_it_was_and_where_its_sun_is(tmp_path):
    """ISO 2720: a grey card metered at f/2, 1/100 s, ISO 100 has K N^2 / (t S) = 50 cd/m2."""
    picture = np.full((256, 512, 3), 30, np.uint8)
    cv2.circle(picture, (384, 64), 4, (255, 255, 255), -1)
    file = tmp_path / "told.jpg"
    exif = Image.Exif()
    exif.get_ifd(0x8769).update({0x829A: 0.01, 0x829D: 2.0, 0x8827: 100, 0x9003: "2026:06:12 09:30:00"})
    Image.fromarray(picture).save(file, quality=98, exif=exif)
    photo = read_photo(file)
    assert photo.cd_m2 * 0.18 == pytest.approx(50.0) and photo.taken.hour == 9
    yaw, pitch = sun_in(photo)
    assert yaw == pytest.approx(90.0, abs=1.0) and pitch == pytest.approx(45.0, abs=1.0)
    import pandas as pd
    import pvlib

    at = pd.DatetimeIndex([pd.Timestamp("2026-06-12 09:30", tz=SITE.zone)])
    sun = pvlib.solarposition.get_solarposition(at, SITE.lat_deg, SITE.lon_deg)
    faces, words = bearing_by_sun(photo, SITE)
    assert faces == pytest.approx((sun["azimuth"].iloc[0] - yaw) % 360.0, abs=0.1)
    assert ("fits within" in words) == (abs(pitch - sun["apparent_elevation"].iloc[0]) <= 8.0)
    assert bearing_by_sun(photo, replace(SITE, known=False))[0] is None
    picture[:100] = 255
    write_picture(tmp_path / "bright.png", picture)
    assert sun_in(read_photo(tmp_path / "bright.png")) is None
    picture[:] = 40
    write_picture(tmp_path / "grey.png", picture)
    assert sun_in(read_photo(tmp_path / "grey.png")) is None and read_photo(tmp_path / "grey.png").cd_m2 is None


def test_a_flat_photo_stands_for_its_own_direction_and_the_rest_is_as_described(tmp_path):
    """90 degrees wide to the east: a disc a quarter of the width to the right of its middle is seen atan(1/2) beyond east."""
    flat = np.full((600, 800, 3), 90, np.uint8)
    cv2.circle(flat, (600, 300), 14, (250, 20, 20), -1)
    file = tmp_path / "flat.png"
    write_picture(file, flat)
    beside = ready_places()["street"]
    place = replace(beside, around=(), photo=str(file), photo_wide_deg=90.0, photo_faces_deg=90.0)
    assert not place.pictured and what_is_wrong(place) == "" and "90 degrees wide to 090" in words_of(place)
    size = (1024, 512)
    with_it, without = (see(scene_of(p, **FOUR_METRES), size, smooth=False) for p in (place, replace(place, photo="")))
    red = (with_it.luminance[..., 0] > 2.0 * with_it.luminance[..., 1]) & np.isin(with_it.kind, (0, made.PHOTO))
    rows, columns = np.nonzero(red)
    assert columns.mean() / 1024 * 360 - 180 == pytest.approx(90.0 + math.degrees(math.atan(0.5)), abs=0.4)
    assert rows.mean() == pytest.approx(255.5, abs=1.0)
    away = np.s_[:, : 512 + 120]  # up to 42 degrees to the right of ahead
    assert np.array_equal(with_it.luminance[away], without.luminance[away]) and not red[away].any()
    assert (with_it.kind == made.PHOTO).any() and (with_it.kind == made.ASPHALT).any()


def test_a_flat_photo_says_how_wide_it_sees_and_where_it_faces(tmp_path):
    """28 mm on 36 x 24 mm sees 65.5 degrees across (handbook: 2 atan(36 / 2 / 28)); CIPA DC-008 gives tag and diagonal."""
    exif = Image.Exif()
    exif.get_ifd(0x8769)[0xA405] = 28
    exif.get_ifd(0x8825)[0x11] = 212.5
    Image.new("RGB", (900, 600), (90, 90, 90)).save(tmp_path / "a.jpg", exif=exif)
    assert flat_wide_deg(tmp_path / "a.jpg") == pytest.approx((65.5, 212.5), abs=0.05)
    Image.new("RGB", (600, 900)).save(tmp_path / "b.jpg")
    assert flat_wide_deg(tmp_path / "b.jpg") == (None, None)


def test_what_a_photo_sphere_shows_keeps_the_sun_off_what_is_drawn_into_it(forest):
    """A wall told between person and sun: the person is in its shade, the photo round them is not darkened twice."""
    wall = (Standing(what="wall", side="behind", away_m=2.0, height_m=30.0),)
    south = Light(Sun(180.0, 40.0), 0.0, cover=0.0)
    shots = [scene_of(replace(forest, around=around), south, **FOUR_METRES) for around in ((), wall)]
    free, shaded = (see(scene, (1024, 512), smooth=False) for scene in shots)
    lit = masks(shots[0], free) & 1 > 0
    assert np.median(shaded.luminance[lit] / free.luminance[lit]) < 0.6
    photo = (free.kind == made.PHOTO) & (masks(shots[0], free) == 0)
    assert np.array_equal(free.luminance[photo], shaded.luminance[photo])
    assert (masks(shots[0], free) & 4).any() and not (masks(shots[1], shaded) & 4).any()


def test_a_tilted_photo_stands_level_and_turned_as_it_says_itself(tmp_path):
    world, looks = foreign.World(), foreign.sphere_looks(1024)
    for name, turn in (("level", foreign.turn(0, 0, 0)), ("tilted", foreign.turn(0, 12, 7))):
        cv2.imwrite(str(tmp_path / f"{name}.jpg"), world.at(looks @ turn.T), [cv2.IMWRITE_JPEG_QUALITY, 97])
    foreign.say(tmp_path / "tilted.jpg", PosePitchDegrees=12, PoseRollDegrees=7, PoseHeadingDegrees=75)
    level, tilted = (read_photo(tmp_path / f"{name}.jpg") for name in ("level", "tilted"))
    apart = np.abs(np.sqrt(level.light) - np.sqrt(tilted.light))
    assert np.median(apart) < 0.02 and np.percentile(apart, 95) < 0.15
    assert bearing_by_sun(tilted, SITE)[0] == 75.0

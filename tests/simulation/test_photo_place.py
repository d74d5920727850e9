"""A photo sphere as a place: its own points lie where geometry says, whoever is drawn into it stands, is hidden and throws a
shadow as in a described place."""

import math
from pathlib import Path

import cv2
import numpy as np
import pytest
from msgspec.structs import replace
from PIL import Image

from glintor.demo.day import CAMERA, SHOTS, SITE
from glintor.media.picture import write_picture
from glintor.placement import solids as made
from glintor.placement.figures import subject_person
from glintor.placement.person import HEIGHT_M
from glintor.placement.scenery import Place
from glintor.placement.solids import Solids
from glintor.placement.subject import Subject
from glintor.placement.sun import Sun
from glintor.simulation.light import Light
from glintor.simulation.photo import bearing_by_sun, read_photo, sun_in
from glintor.simulation.place import build, masks, see
from glintor.simulation.rig import Rig, plan_of
from glintor.simulation.things import GROUND_Z

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


def test_a_person_in_a_real_sphere_stands_and_is_as_high_as_geometry_says(forest):
    scene = scene_of(forest, **FOUR_METRES)
    plan = plan_of(replace(WALK, **FOUR_METRES), CAMERA)
    seen = see(scene, (2048, 1024), smooth=False)
    bits = masks(scene, seen)
    rows = np.nonzero((bits & 1).any(axis=1))[0]
    top, foot = (90.0 - (row + 0.5) / 1024 * 180.0 for row in (rows[0], rows[-1] + 1))
    head, eye = plan.subject[2] + HEIGHT_M, plan.camera[2]
    far = float(np.hypot(*(plan.subject - plan.camera)[:2]))
    high = math.degrees(math.atan2(head - eye, far) + math.atan2(eye - plan.subject[2], far))
    assert top - foot == pytest.approx(high, rel=0.05)
    assert foot == pytest.approx(-math.degrees(math.atan2(eye - plan.subject[2], far)), abs=1.2)  # toes stand nearer
    rays_ok = Solids([subject_person(plan)[0]])
    assert np.isfinite(
        rays_ok.distance(plan.camera[None], ((plan.subject + [0, 0, 1.2]) - plan.camera)[None] / 4.0)
    ).all()


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

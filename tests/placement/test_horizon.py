"""What stands against the sky shades the sun: against pvlib's sun and plain interpolation of the horizon; blue hour and night."""

import math

import numpy as np
import pandas as pd
import pvlib
import pytest
from msgspec.structs import replace

from glintor.demo.day import CAMERA, SHOTS, SITE
from glintor.errors import InputError
from glintor.placement.scenery import Place, horizon_deg, horizon_of, horizon_words
from glintor.placement.windows import BLUE_DEG, NIGHT_DEG, Wanted
from glintor.plan.timetable import day_of, windows_of
from glintor.project.model import Project
from glintor.project.placed import layout_of
from glintor.project.sky import sun_of
from glintor.simulation.place import build
from glintor.simulation.rig import light_of, rig_of

FAR = ((20.0, 8.0), (80.0, 18.0), (120.0, 22.0), (170.0, 10.0), (230.0, 24.0), (290.0, 30.0), (340.0, 12.0))
VALLEY = Place(id="valley", name="upper valley", horizon=FAR)
MOUNTAINS = replace(
    SITE, lat_deg=-44.86, lon_deg=168.4, zone="Pacific/Auckland", day="2026-07-05", cloud_share=0.0, places=(VALLEY,)
)
WALK = next(s for s in SHOTS if s.id == "towpath-walk")


def suns(minutes):
    """Elevation and azimuth by pvlib (NREL SPA), refraction included."""
    start = pd.Timestamp(MOUNTAINS.day, tz=MOUNTAINS.zone)
    times = pd.DatetimeIndex([start + pd.Timedelta(minutes=float(m)) for m in minutes])
    found = pvlib.solarposition.get_solarposition(times, MOUNTAINS.lat_deg, MOUNTAINS.lon_deg)
    return found["apparent_elevation"].to_numpy(), found["azimuth"].to_numpy()


def test_a_horizon_is_interpolated_all_the_way_round():
    assert horizon_deg(FAR, 100.0) == pytest.approx(20.0) and horizon_deg(FAR, 0.0) == pytest.approx(10.0)
    assert horizon_deg(FAR, 380.0) == pytest.approx(8.0) and horizon_deg((), 50.0) == 0.0
    assert horizon_of("080 12, 180 30.5") == ((80.0, 12.0), (180.0, 30.5)) and horizon_of(" ") == ()
    assert horizon_of(horizon_words(FAR)) == FAR
    for wrong in ("80", "80 x", "80 120", "80 12 4"):
        with pytest.raises(InputError):
            horizon_of(wrong)


def test_the_sun_shines_where_pvlib_has_it_over_the_horizon():
    minutes = np.arange(420, 1140, 5)
    elevation, azimuth = suns(minutes)
    far = np.interp(
        azimuth, [b - 360 for b, _ in FAR] + [b for b, _ in FAR] + [b + 360 for b, _ in FAR], [h for _, h in FAR] * 3
    )
    said = np.array([sun_of(MOUNTAINS, float(m), "valley").shines for m in minutes])
    sure = np.abs(elevation - far) > 0.3  # refraction near the horizon is the two libraries' own
    assert ((elevation > far) == said)[sure].all() and 0.2 < said[elevation > 0].mean() < 0.8
    assert sun_of(MOUNTAINS, 800.0, "street").shines and sun_of(MOUNTAINS, 800.0).shines


def test_light_findings_and_pictures_follow_the_horizon():
    shot = replace(WALK, placement=replace(WALK.placement, stage="valley"), light=Wanted(golden=True))
    project = Project(
        site=MOUNTAINS, shots=(shot, replace(shot, id="open", placement=replace(shot.placement, stage="street")))
    )
    assert windows_of(project, shot) == () and len(windows_of(project, project.shots[1])) == 2
    morning = 9 * 60.0  # the sun is up, behind the ridge
    plan = layout_of(MOUNTAINS, shot.placement, morning)
    assert plan.sun.elevation_deg > 0.5 and not plan.sun.shines
    light = light_of(MOUNTAINS, morning, shot.placement)
    assert (
        light.illuminance_lux()[0] == 0.0
        and light_of(MOUNTAINS, morning, replace(shot.placement, stage="street")).illuminance_lux()[0] > 0.0
    )
    from glintor.simulation.raytrace import _hill_height

    scene = build(rig_of(shot.placement, CAMERA, MOUNTAINS), light, 0.0)
    for bearing in (10.0, 95.0, 200.0, 300.0):
        left = math.radians(light.bearing_deg - bearing)
        assert math.degrees(math.atan(_hill_height(left, scene.world))) == pytest.approx(
            horizon_deg(FAR, bearing), abs=0.35
        )


@pytest.mark.parametrize("dark", ["blue", "night"])
def test_blue_hour_and_night_are_where_pvlib_has_them(dark):
    shot = replace(WALK, light=Wanted(dark=dark))
    project = Project(site=MOUNTAINS, shots=(shot,))
    windows = windows_of(project, shot)
    minutes = np.arange(0, 1440, 5)
    elevation, _ = suns(minutes)
    wanted = (elevation >= BLUE_DEG[0]) & (elevation <= BLUE_DEG[1]) if dark == "blue" else elevation < NIGHT_DEG
    inside = np.array([any(a <= m <= b for a, b in windows) for m in minutes])
    sure = np.min([np.abs(elevation - edge) for edge in (*BLUE_DEG, NIGHT_DEG)], axis=0) > 0.7
    assert (inside == wanted)[sure].all() and wanted.any()
    assert day_of(project).begins_min > 480.0  # who wants to be out before the sun is up says so
    early = replace(project, site=replace(MOUNTAINS, leave_min=300.0))
    assert day_of(early).begins_min == 300.0

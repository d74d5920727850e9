from datetime import datetime, timedelta, timezone

import numpy as np
import pandas as pd
import pvlib
import pytest
from pvlib.solarposition import spa_python

from glintor.errors import InputError
from glintor.placement.carrier import ready_carriers
from glintor.placement.layout import Layout, Shore, layout
from glintor.placement.mounts import setup_by_id
from glintor.placement.review_light import sun_finding
from glintor.placement.shadow import seen_shadow_m, stick_shadow, thrown
from glintor.placement.subject import Being, Subject
from glintor.placement.sun import Sun, local_time, sun_at, sunrise_sunset
from glintor.sphere.view import View


def test_nrel_worked_example():
    """Source: Reda & Andreas, NREL/TP-560-34302 (2008), A.5: zenith 50.11162, azimuth 194.34024.

    The example includes pressure and temperature; astral uses standard refraction, so allow 0.01 degree.
    """
    moment = datetime(2003, 10, 17, 12, 30, 30, tzinfo=timezone(timedelta(hours=-7)))
    sun = sun_at(39.742476, -105.1786, moment)
    assert 90.0 - sun.elevation_deg == pytest.approx(50.11162, abs=0.01)
    assert sun.azimuth_deg == pytest.approx(194.34024, abs=0.01)


@pytest.mark.parametrize("minute", range(8 * 60, 19 * 60, 75))
def test_the_demo_day_matches_pvlib(minute):
    """Reference: pvlib's NREL SPA (apparent elevation with standard air)."""
    moment = local_time("2026-09-26", "Europe/London", minute)
    table = spa_python(pd.DatetimeIndex([moment]), 52.9, -1.9)
    sun = sun_at(52.9, -1.9, moment)
    assert sun.azimuth_deg == pytest.approx(table["azimuth"].iloc[0], abs=0.01)
    assert sun.elevation_deg == pytest.approx(table["apparent_elevation"].iloc[0], abs=0.03)


def test_rise_and_set_match_pvlib():
    rise, fall = sunrise_sunset(52.9, -1.9, "2026-09-26", "Europe/London")
    day = pd.DatetimeIndex([pd.Timestamp("2026-09-26", tz="Europe/London")])
    table = pvlib.solarposition.sun_rise_set_transit_spa(day, 52.9, -1.9)
    for ours, theirs in ((rise, table["sunrise"].iloc[0]), (fall, table["sunset"].iloc[0])):
        assert ours == pytest.approx(theirs.hour * 60 + theirs.minute + theirs.second / 60, abs=1.0)


def test_days_and_zones_that_are_not_are_refused():
    for day, zone in (("2026-13-01", "Europe/London"), ("2026-09-26", "Europe/Nowhere")):
        with pytest.raises(InputError):
            local_time(day, zone, 600)
    with pytest.raises(InputError, match="does not rise"):
        sunrise_sunset(80.0, 0.0, "2026-06-21", "UTC")


def test_the_sun_points_where_azimuth_and_elevation_say():
    assert Sun(90.0, 0.0).direction == pytest.approx([1, 0, 0], abs=1e-12)
    assert Sun(180.0, 45.0).direction == pytest.approx([0, -np.sqrt(0.5), np.sqrt(0.5)])


def someone(ahead, left, up=0.0):
    return (Being(Subject(ahead_m=ahead, left_m=left, up_m=up)),)


def stood(**changes) -> Layout:
    """A camera on open ground under a given sun."""
    values = {
        "setup": setup_by_id("weighted_foot"),
        "carrier": ready_carriers()["ground"],
        "shore": Shore(right=1.4, down_m=0.35),
        "ahead_m": 0.0,
        "left_m": 0.0,
        "stick_m": 1.66,
        "heading_deg": 0.0,
        "lean_deg": 0.0,
    }
    values |= {"filmed": someone(3.0, 0.0), "sun": Sun(180.0, 45.0), "way_bearing_deg": 0.0}
    return layout(**{**values, **changes})


def test_shadows_are_as_long_as_things_are_high_at_45_degrees():
    """Geometry: the lenses are 1.70 m up, the sun stands in the south; the shadow's tip lies 1.70 m to the north."""
    landed = thrown(stood(), np.array([[0.0, 0.0, 1.7]]))[0]
    assert landed == pytest.approx([1.7, 0.0, 0.0])
    for sun in (Sun(180.0, -3.0), Sun(180.0, 45.0, shines=False)):  # night; a grey sky
        assert len(stick_shadow(stood(sun=sun))) == 0 and seen_shadow_m(stood(sun=sun), View(), (1920, 1080)) == 0.0


def test_shadows_fall_on_what_catches_them():
    """Off the bank's edge to the water 0.35 m lower; on the car's bonnet, 0.90 m up, instead of the ground beyond."""
    east = Sun(270.0, 45.0)  # from the left of a way that leads north: shadows fall to the right
    plan = stood(left_m=-1.0, sun=east)
    assert thrown(plan, np.array([[0.0, -1.0, 1.0]]))[0] == pytest.approx([0.0, -2.35, -0.35])
    car = layout(
        setup=setup_by_id("bonnet_foot"), carrier=ready_carriers()["car"], ahead_m=1.3, left_m=0.35, stick_m=0.5, heading_deg=180.0, lean_deg=0.0,
        filmed=someone(-0.15, 0.35, -0.42),
        sun=east, way_bearing_deg=0.0,
    )  # fmt: skip
    assert thrown(car, np.array([[1.3, 0.35, 1.3]]))[0] == pytest.approx([1.3, -0.05, 0.90])


def test_who_wears_the_camera_throws_a_shadow_of_some_width():
    plan = layout(
        setup=setup_by_id("worn_chest"), carrier=ready_carriers()["walker"], ahead_m=0.22, left_m=0.0, stick_m=0.0, heading_deg=0.0, lean_deg=0.0,
        filmed=someone(3.0, 0.4),
        sun=Sun(180.0, 30.0), way_bearing_deg=0.0,
    )  # fmt: skip
    points = stick_shadow(plan)
    assert np.ptp(points[:, 1]) == pytest.approx(0.4, abs=0.02) and points[:, 0].max() > 1.6 / np.tan(np.radians(30.0))


@pytest.mark.parametrize(("ahead_m", "seen_m"), [(3.0, 1.27), (1.4, 0.42)])
def test_a_frame_shows_so_many_metres_of_a_shadow(ahead_m, seen_m):
    """By hand: the top is 1.75 m up, so its shadow reaches 1.75 m; the lower edge of 90 degrees in 16:9, 29.4 degrees under a middle
    at -45, sees the ground from 0.48 m on. A block
    1 m high and wide, 1.4 m ahead, catches what would fall beyond 0.9 m, and on the subject it is none."""
    block = Subject(what="thing", ahead_m=ahead_m, height_m=1.0, long_m=1.0)
    plan = stood(filmed=(Being(block),))
    assert seen_shadow_m(plan, View(pitch_deg=-45.0, fov_deg=90.0), (1920, 1080)) == pytest.approx(seen_m, abs=0.05)


def test_a_shadow_on_who_carries_the_camera_is_seen():
    """The sun behind a camera held behind: its shadow lies on the back of who walks there, in the frame towards somebody farther on."""
    seen = {}
    for azimuth in (180.0, 0.0):
        plan = layout(
            setup=setup_by_id("held_behind"), carrier=ready_carriers()["walker"], ahead_m=-1.2, left_m=-0.3, stick_m=1.2,
            heading_deg=0.0, lean_deg=0.0, filmed=someone(3.0, 0.5), sun=Sun(azimuth, 30.0), way_bearing_deg=0.0,
        )  # fmt: skip
        seen[azimuth] = seen_shadow_m(plan, View(pitch_deg=-10.0, fov_deg=110.0), (1920, 1080))
    assert seen[180.0] > 0.2 and seen[0.0] == 0.0


@pytest.mark.parametrize(
    ("azimuth", "title"), [(180.0, "Sun hidden in the first frame"), (0.0, "Sun in the first frame")]
)
def test_a_sun_behind_who_wears_the_camera_is_not_in_sight(azimuth, title):
    """A camera on the chest, the frame towards somebody before or behind it, in whose direction the low sun stands."""
    ahead = 3.0 if azimuth == 0.0 else -3.0
    plan = layout(
        setup=setup_by_id("worn_chest"), carrier=ready_carriers()["walker"], ahead_m=0.22, left_m=0.0, stick_m=0.0, heading_deg=0.0, lean_deg=0.0,
        filmed=someone(ahead, 0.0), sun=Sun(azimuth, 5.0), way_bearing_deg=0.0,
    )  # fmt: skip
    assert sun_finding(plan).title == title

"""A day's way: lengths and bearings against PROJ (geodesics on WGS 84), slopes, paces and hours against how it was made; zones."""

import math
from datetime import UTC, datetime, timedelta

import msgspec
import numpy as np
import pytest
from pyproj import Geod

from glintor.demo.day import SHOTS, SITE
from glintor.earth import moved_deg
from glintor.placement.carrier import ready_carriers
from glintor.plan.sheet import place_of
from glintor.plan.timetable import zone_findings
from glintor.project.model import Project
from glintor.project.placed import carried
from glintor.project.route import on_route, read_gpx
from glintor.project.site import TrackPoint, Waypoint
from glintor.project.track import put_along, way_of
from glintor.project.zone import hours_off, zone_at

GEOD = Geod(ellps="WGS84")
LEGS = ((35.0, 1500.0, 8.0, 1.0), (120.0, 2200.0, -5.0, 1.3), (250.0, 900.0, 0.0, 4.0))  # bearing, length, slope, speed


def written(file, *, times=True, heights=True, start="2026-07-03T04:20:00"):
    """A walk that goes up, then down, then a ride on the flat, in the southern mountains; a point every 10 m."""
    lat, lon, up, at = 46.53, 11.98, 1640.0, datetime.fromisoformat(start).replace(tzinfo=UTC)
    points = []
    for bearing, length, slope, speed in LEGS:
        for _ in range(round(length / 10.0)):
            points.append((lat, lon, up, at))
            lon, lat, _ = GEOD.fwd(lon, lat, bearing, 10.0)
            up, at = up + 10.0 * math.tan(math.radians(slope)), at + timedelta(seconds=10.0 / speed)
    body = "".join(
        f'<trkpt lat="{a:.8f}" lon="{o:.8f}">'
        + (f"<ele>{u:.2f}</ele>" if heights else "")
        + (f"<time>{t.isoformat()}</time>" if times else "")
        + "</trkpt>"
        for a, o, u, t in points
    )
    hut = f'<wpt lat="{points[150][0]:.6f}" lon="{points[150][1]:.6f}"><name>Hut</name></wpt>'
    file.write_text(
        f'<gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1">{hut}<trk><trkseg>{body}</trkseg></trk></gpx>'
    )
    return file, points


@pytest.fixture
def site(tmp_path):
    return on_route(msgspec.structs.replace(SITE, day="2026-07-05"), read_gpx(written(tmp_path / "w.gpx")[0]))[0]


def test_lengths_and_bearings_are_those_of_geodesics(tmp_path, site):
    _, points = written(tmp_path / "w.gpx")
    way = way_of(site)
    lat, lon = [p[0] for p in points], [p[1] for p in points]
    assert way.length_m == pytest.approx(GEOD.line_length(lon, lat), rel=1e-5)
    for along, bearing in ((700.0, 35.0), (2500.0, 120.0), (4200.0, 250.0)):
        assert way.at(along).bearing_deg == pytest.approx(bearing, abs=0.3)
    east, north = way.position_m(1500.0)
    azimuth, _, far = GEOD.inv(lon[0], lat[0], lon[150], lat[150])
    assert (np.degrees(np.arctan2(east, north)), np.hypot(east, north)) == (
        pytest.approx(azimuth, abs=0.05),
        pytest.approx(far, rel=1e-4),
    )
    for lat0 in (0.0, 46.5, -75.0):
        there = moved_deg(lat0, 11.0, 70.0, 800.0)
        assert GEOD.inv(11.0, lat0, there[1], there[0])[2] == pytest.approx(800.0, rel=1e-4)


def test_slope_pace_and_hour_are_those_of_the_place(site):
    """Recorded on the 3rd from 04:20 UTC; planned on the 5th in the place's own zone, two hours ahead in summer."""
    way = way_of(site)
    assert site.zone == "Europe/Rome" and site.known and site.route == ("Hut",)
    up, down, flat = way.at(700.0), way.at(2500.0), way.at(4200.0)
    assert [spot.slope_deg for spot in (up, down, flat)] == pytest.approx([8.0, -5.0, 0.0], abs=0.2)
    assert [spot.speed_m_s for spot in (up, down, flat)] == pytest.approx([1.0, 1.3, 4.0], abs=0.05)
    assert up.minute == pytest.approx(6 * 60 + 20 + 700.0 / 60.0, abs=0.1)
    assert way.nearest(*way.position_m(2345.0)) == pytest.approx(2345.0, abs=0.5)
    assert way.minutes_between(0.0, 700.0) == pytest.approx(700.0 / 60.0, abs=0.1)


def test_a_shot_takes_from_the_way_what_fits_it(site):
    walk, ride = (
        msgspec.structs.replace(SHOTS[1], placement=carried(site, SHOTS[1].placement, ready_carriers()[c]))
        for c in ("walker", "cycle")
    )
    walked, ridden = put_along(site, walk, 700.0), put_along(site, ride, 700.0)
    assert (walked.placement.way_bearing_deg, walked.placement.slope_deg) == (
        pytest.approx(35.0, abs=0.3),
        pytest.approx(8.0, abs=0.2),
    )
    assert (
        walked.placement.speed_m_s == pytest.approx(1.0, abs=0.05) and ridden.placement.speed_m_s is None
    )  # a walker's pace
    assert put_along(site, ride, 4200.0).placement.speed_m_s == pytest.approx(4.0, abs=0.05)
    assert walked.start_min == pytest.approx(392.0, abs=1.0) and walked.along_m == 700.0
    lat, lon = place_of(Project(site=site, shots=(walked,)), walked)
    spot = way_of(site).at(700.0)
    assert (lat, lon) == (spot.lat_deg, spot.lon_deg)
    hut = site.waypoints[0]
    assert (
        np.hypot(*np.subtract(way_of(site).plane_of(hut.lat_deg, hut.lon_deg), way_of(site).position_m(1500.0))) < 1.0
    )


def test_what_a_track_does_not_tell_is_not_made_up(tmp_path):
    bare = on_route(SITE, read_gpx(written(tmp_path / "w.gpx", times=False, heights=False)[0]))
    spot = way_of(bare[0]).at(700.0)
    assert (spot.up_m, spot.slope_deg, spot.speed_m_s, spot.minute) == (
        None,
        None,
        None,
        None,
    ) and "without times" in bare[1]
    shot = put_along(bare[0], SHOTS[1], 700.0)
    assert shot.start_min == SHOTS[1].start_min and shot.placement.slope_deg == 0.0 and shot.placement.speed_m_s is None
    assert way_of(SITE) is None and put_along(SITE, SHOTS[1], 5.0) == SHOTS[1]
    late = on_route(SITE, read_gpx(written(tmp_path / "n.gpx", start="2026-07-03T23:30:00")[0]))[0]
    assert 0.0 <= way_of(late).minute[0] < 1440.0  # begun after midnight by the place's clock


def test_a_track_is_kept_as_short_lists():
    point = TrackPoint(46.5, 11.9, 1640.0, 260.5)
    assert msgspec.json.encode(point) == b"[46.5,11.9,1640.0,260.5]"
    assert msgspec.json.decode(b"[46.5,11.9]", type=TrackPoint) == TrackPoint(46.5, 11.9)
    assert Waypoint(name="x", lat_deg=0, lon_deg=0).name == "x"


@pytest.mark.parametrize(
    ("lat", "lon", "zone"),
    [
        (52.9, -1.9, "Europe/London"),
        (46.53, 11.98, "Europe/Rome"),
        (35.7, 139.7, "Asia/Tokyo"),
        (-33.9, 18.4, "Africa/Johannesburg"),
    ],
)
def test_zones_of_places_and_a_mistaken_one(lat, lon, zone):
    """IANA names of places in their middle (from memory)."""
    assert zone_at(lat, lon) == zone and hours_off(lat, lon, "2026-07-05", zone) == 0.0


def test_a_mistaken_zone_is_found_with_its_hours():
    assert (
        hours_off(46.53, 11.98, "2026-07-05", "Europe/London") == -1.0
        and hours_off(46.5, 11.9, "2026-07-05", "Nowhere") == 0.0
    )
    wrong = msgspec.structs.replace(SITE, lat_deg=46.53, lon_deg=11.98)
    assert (
        zone_findings(SITE) == []
        and "Europe/Rome" in zone_findings(wrong)[0].reason
        and zone_findings(wrong)[0].value == -1.0
    )

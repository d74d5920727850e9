import dataclasses

import numpy as np
import pytest

from glintor.demo.day import CAMERA, SHOTS, SITE
from glintor.errors import InputError
from glintor.exposure.values import ev_of_luminance
from glintor.placement import seam
from glintor.placement.sun import Sun
from glintor.simulation import table as rt
from glintor.simulation.place import LOCK_FILL_S, Light, Rig, build, carrier_s, render_sphere
from glintor.simulation.raytrace import _sky, render
from glintor.simulation.rig import light_of, rig_of, sun_of
from glintor.simulation.sound import RATE_HZ, place_sound
from glintor.sphere.equirect import direction, lonlat_deg, lonlat_of_pixel, pixel

ROOF = next(s for s in SHOTS if s.id == "roof-cobdale")
RIG = rig_of(ROOF.placement, CAMERA)
LIGHT = light_of(SITE, ROOF.start_min)
WIDTH = 480


def kinds(rig: Rig, light: Light = LIGHT, time_s: float = 0.0, width: int = WIDTH):
    """What each pixel of the sphere shows, its luminance, and its distance."""
    scene = build(rig, light, time_s)
    out = np.empty((width // 2, width, 3), np.float32)
    depth, kind = np.empty(out.shape[:2], np.float32), np.empty(out.shape[:2], np.int16)
    render(out, depth, kind, 0, width // 2, scene.eye, scene.ahead_rad, scene.world)
    return kind, out, depth, scene


def test_the_helmsman_is_where_the_truth_says():
    kind, _, depth, scene = kinds(RIG, width=1920)
    skin = kind == rt.CAP
    u, v = pixel(scene.truth.subject_yaw_deg, scene.truth.subject_pitch_deg, 1920, 960)
    rows, columns = np.nonzero(skin)
    assert abs(columns.mean() - u) < 6 and 0 < v - rows.mean() < 22  # the cap sits on the head
    assert depth[skin].mean() == pytest.approx(scene.truth.subject_m, abs=0.2)


def test_the_truth_is_geometry():
    yaw, pitch = build(RIG, LIGHT, 0.0).truth.subject_yaw_deg, build(RIG, LIGHT, 0.0).truth.subject_pitch_deg
    head = np.array([-6.15 + 2.9, 0.30 - 0.74, 0.775 + 1.58 - (1.62 + 0.78)])
    lon, lat = lonlat_deg(head)
    assert (yaw - (lon - 180.0) + 180) % 360 - 180 == pytest.approx(0.0, abs=1.0)
    assert pitch == pytest.approx(lat, abs=1.0)


def test_the_boat_moves_on_and_the_lock_fills():
    assert carrier_s(RIG, 10.0) - carrier_s(RIG, 0.0) == pytest.approx(17.9)
    lock = rig_of(next(s for s in SHOTS if s.id == "pell-lock").placement, CAMERA)
    low, high = (build(lock, LIGHT, t).world[rt.LOCK_WATER] for t in (0.0, LOCK_FILL_S))
    assert (low, high) == (-2.0, 0.0)
    heads = [build(lock, LIGHT, t).truth.subject_pitch_deg for t in (0.0, 150.0, 300.0)]
    assert heads == sorted(heads) and heads[2] - heads[0] > 15


def test_the_sun_stands_where_astronomy_puts_it():
    kind, out, _, _ = kinds(RIG, width=1440)
    v, u = np.unravel_index(np.argmax(out[..., 1]), kind.shape)
    lon, lat = lonlat_of_pixel(u, v, 1440, 720)
    sun = sun_of(SITE, ROOF.start_min)
    assert (lon - (sun.azimuth_deg - 110.0 - 180.0) + 180) % 360 - 180 == pytest.approx(0.0, abs=1.0)
    assert lat == pytest.approx(sun.elevation_deg, abs=1.0)


@pytest.mark.parametrize(("azimuth", "elevation"), [(200.0, 40.0), (340.0, 25.0), (290.0, 60.0)])
def test_shadows_fall_where_sun_and_geometry_say(azimuth, elevation):
    """The camera's own shadow on open ground: dark at the computed place, lit beside it."""
    rig = dataclasses.replace(
        RIG,
        stage="wharf",
        carrier="ground",
        ahead_m=-14.0,
        left_m=0.35,
        height_m=1.0,
        stick_m=0.9,
        heading_deg=0.0,
        subject_ahead_m=40.0,
    )
    light = Light(Sun(azimuth, elevation), 0.0, cover=0.0)
    turn, reach = np.radians(azimuth), 1.0 / np.tan(np.radians(elevation))
    shadow = np.array([-np.cos(turn) * reach, np.sin(turn) * reach, -1.0])
    _, out, _, _ = kinds(rig, light, width=2880)
    lon, lat = lonlat_deg(np.stack([shadow, shadow + [0.0, 0.25, 0.0], shadow - [0.0, 0.25, 0.0]]))
    u, v = (np.round(a).astype(int) for a in pixel(lon, lat, 2880, 1440))
    dark, left, right = (float(out[b - 1 : b + 2, a - 1 : a + 2, 1].min()) for a, b in zip(u % 2880, v, strict=True))
    assert dark < 0.55 * min(left, right)


def stick_pixels(rig: Rig) -> int:
    kind, _, _, _ = kinds(rig, width=1440)
    return int((kind == rt.STICK).sum())


def test_the_stick_is_hidden_or_seen_by_the_rule_of_the_gap():
    bare = dataclasses.replace(RIG, clamp_half_m=0.0, stick_m=0.9, height_m=1.2)
    limit = seam.hidden_tilt_deg(0.9, gap_m=bare.gap_m, half_thickness_m=bare.stick_half_m)
    assert stick_pixels(bare) == 0
    assert stick_pixels(dataclasses.replace(bare, tilt_deg=limit * 0.95)) == 0
    assert stick_pixels(dataclasses.replace(bare, tilt_deg=3.0)) > 200


def test_a_clamp_wider_than_the_gap_shows():
    assert stick_pixels(RIG) > 10
    assert stick_pixels(dataclasses.replace(RIG, clamp_half_m=0.012)) == 0


def test_light_is_in_real_units():
    """An 18 % grey card turned to a clear midday sun reads EV 15 within half a stop (ANSI exposure guide, from memory)."""
    light = Light(Sun(180.0, 60.0), 0.0)
    sun_e, sky_e = light.illuminance_lux()
    card = 0.18 * (sun_e + 0.5 * sky_e) / np.pi
    assert float(ev_of_luminance(card)) == pytest.approx(15.0, abs=0.5)
    assert Light(Sun(180.0, -6.0), 0.0).illuminance_lux()[1] < 100.0


def test_the_sky_is_the_published_one():
    """Source: CIE S 011/E:2003 type 12: relative luminance phi(Z) f(chi) / (phi(0) f(Z_sun)), without clouds."""
    light = Light(Sun(180.0, 35.0), 180.0, cover=0.0)
    zenith, a, b, c, d, e = light.sky_numbers()[:6]
    for height, bearing in ((90.0, 0.0), (60.0, 180.0), (45.0, 90.0)):
        look = direction(-bearing, height)
        ours = _sky(*look, build(dataclasses.replace(RIG, stage="towpath"), light, 0.0).world)
        chi = np.arccos(np.clip(look @ light.sun_vector(), -1, 1))
        z, zs = np.radians(90 - height), np.radians(55.0)
        f = lambda x: 1 + c * (np.exp(d * x) - np.exp(d * np.pi / 2)) + e * np.cos(x) ** 2  # noqa: E731
        phi = lambda x: 1 + a * np.exp(b / np.cos(x))  # noqa: E731
        wanted = zenith * phi(z) * f(chi) / (phi(0) * f(zs))
        assert 0.2126 * ours[0] + 0.7152 * ours[1] + 0.0722 * ours[2] == pytest.approx(wanted, rel=0.12)


def test_the_tunnel_is_many_stops_darker_than_the_cut():
    outside = render_sphere(build(RIG, LIGHT, 0.0), 240, smooth=False)
    inside = render_sphere(build(RIG, LIGHT, 40.0), 240, smooth=False)
    assert float(ev_of_luminance(np.median(outside))) - float(ev_of_luminance(np.median(inside))) > 7.0


def test_smoothing_only_touches_edges():
    scene = build(RIG, LIGHT, 0.0)
    plain, smooth = render_sphere(scene, 360, smooth=False), render_sphere(scene, 360)
    changed = np.any(plain != smooth, axis=-1).mean()
    assert 0.02 < changed < 0.6


def test_an_unknown_stage_is_refused():
    with pytest.raises(InputError, match="cobdale"):
        build(dataclasses.replace(RIG, stage="sea"), LIGHT, 0.0)


@pytest.mark.parametrize(("stage", "carrier"), [("cobdale", "boat"), ("towpath", "walker"), ("lock", "ground")])
def test_sound_is_in_range_repeats_and_claps(stage, carrier):
    sound = place_sound(stage, carrier, 3.0, 7)
    assert sound.shape == (2, 3 * RATE_HZ) and np.abs(sound).max() <= 1.0
    assert (sound == place_sound(stage, carrier, 3.0, 7)).all()
    loudest = np.abs(sound).max(axis=0).argmax() / RATE_HZ
    assert loudest == pytest.approx(0.5, abs=0.05)

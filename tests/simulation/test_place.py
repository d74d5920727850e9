import msgspec
import numpy as np
import pytest
from msgspec.structs import replace
from scipy.signal import correlate, correlation_lags

from glintor.demo.day import CAMERA, SHOTS, SITE
from glintor.errors import InputError
from glintor.exposure.metering import meter
from glintor.exposure.values import ev_of_luminance
from glintor.finding import Level
from glintor.placement import seam
from glintor.placement import solids as made
from glintor.placement.carrier import ready_carriers
from glintor.placement.solids import Parts
from glintor.placement.subject import Subject
from glintor.placement.sun import Sun
from glintor.project.sky import sun_of
from glintor.simulation import table as rt
from glintor.simulation.camera import Roll
from glintor.simulation.canal import LOCK_FILL_S
from glintor.simulation.light import Light
from glintor.simulation.motion import Motion
from glintor.simulation.place import bare, build, masks, render_sphere, see
from glintor.simulation.pose import Pose, levelled, turned
from glintor.simulation.raytrace import _sky
from glintor.simulation.recording import Recording
from glintor.simulation.rig import Rig, carrier_s, light_of, rig_of
from glintor.simulation.sound import RATE_HZ, Clock, Heard, place_sound
from glintor.sphere.equirect import direction, lonlat_deg, lonlat_of_pixel, pixel

GROUND = ready_carriers()["ground"]

ROOF = next(s for s in SHOTS if s.id == "roof-cobdale")
RIG = rig_of(ROOF.placement, CAMERA, SITE)
LIGHT = light_of(SITE, ROOF.start_min, ROOF.placement)
WIDTH = 480


def other(clamp_half_m: float = RIG.plan.setup.clamp_half_m, **placement) -> Rig:
    """The roof's camera placed otherwise, with another clamp."""
    rig = rig_of(msgspec.structs.replace(ROOF.placement, **placement), CAMERA, SITE)
    rig.plan.setup = replace(rig.plan.setup, clamp_half_m=clamp_half_m)
    return rig


def kinds(rig: Rig, light: Light = LIGHT, time_s: float = 0.0, width: int = WIDTH):
    """What each pixel of the sphere shows, its luminance, and its distance."""
    scene = build(rig, light, time_s)
    seen = see(scene, (width, width // 2), smooth=False)
    return seen.kind, seen.luminance, seen.depth_m, scene


def test_the_helmsman_is_where_the_truth_says():
    kind, _, depth, scene = kinds(RIG, width=1920)
    skin = kind == made.CAP
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
    lock = rig_of(next(s for s in SHOTS if s.id == "pell-lock").placement, CAMERA, SITE)
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
    rig = other(
        setup="mini_tripod", stage="wharf", ahead_m=-14.0, left_m=0.35, stick_m=0.94, heading_deg=0.0, carrier="ground",
        subjects=(Subject(ahead_m=40.0),),
    )  # fmt: skip
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
    return int((kind == made.STICK).sum())


def test_the_stick_is_hidden_or_seen_by_the_rule_of_the_gap():
    limit = seam.hidden_tilt_deg(0.9, gap_m=RIG.gap_m, half_thickness_m=RIG.plan.setup.half_width_m)
    for tilt, shows in ((0.0, False), (limit * 0.95, False), (3.0, True)):
        pixels = stick_pixels(other(clamp_half_m=0.0, stick_m=0.9, tilt_deg=tilt))
        assert pixels > 200 if shows else pixels == 0


def test_a_clamp_wider_than_the_gap_shows():
    assert stick_pixels(RIG) > 10
    assert stick_pixels(other(clamp_half_m=0.012)) == 0
    assert stick_pixels(other(clamp_half_m=0.012, tilt_deg=1.0)) > 10  # a joint takes it out of the gap


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
        ours = _sky(*look, build(other(stage="towpath"), light, 0.0).world)
        chi = np.arccos(np.clip(look @ light.sun_vector(), -1, 1))
        z, zs = np.radians(90 - height), np.radians(55.0)
        f = lambda x: 1 + c * (np.exp(d * x) - np.exp(d * np.pi / 2)) + e * np.cos(x) ** 2  # noqa: E731
        phi = lambda x: 1 + a * np.exp(b / np.cos(x))  # noqa: E731
        wanted = zenith * phi(z) * f(chi) / (phi(0) * f(zs))
        assert 0.2126 * ours[0] + 0.7152 * ours[1] + 0.0722 * ours[2] == pytest.approx(wanted, rel=0.12)


def test_the_tunnel_is_twelve_stops_darker_than_its_mouth():
    """Seen from 25 m inside: the bright mouth against the walls."""
    inside = ev_of_luminance(np.maximum(render_sphere(build(RIG, LIGHT, 23.5), 480, smooth=False)[..., 1], 1e-6))
    outside = ev_of_luminance(render_sphere(build(RIG, LIGHT, 0.0), 240, smooth=False)[..., 1])
    assert inside.max() - np.median(inside) >= 12.0
    assert np.median(outside) - np.median(inside) > 8.0


def test_smoothing_only_touches_edges():
    scene = build(RIG, LIGHT, 0.0)
    plain, smooth = render_sphere(scene, 360, smooth=False), render_sphere(scene, 360)
    changed = np.any(plain != smooth, axis=-1).mean()
    assert 0.02 < changed < 0.6


def test_an_unknown_stage_is_refused():
    with pytest.raises(InputError, match="cobdale"):
        build(other(stage="sea"), LIGHT, 0.0)


def card_ev(light: Light, facing_deg: float) -> float:
    """What a meter reads off an upright 18 % grey card on open ground that faces a bearing, out of the rendered picture."""
    turn = np.radians(facing_deg)
    out = np.array([np.cos(turn), -np.sin(turn), 0.0])
    across, flat = np.array([-out[1], out[0], 0.0]), np.eye(3)[2]
    faces = [(*k * n, float(k * n @ middle) + half) for n, half, middle in (
        (out, 0.05, CARD), (across, 1.0, CARD), (flat, 1.0, CARD)) for k in (1.0, -1.0)]  # fmt: skip
    card = Parts(prisms=[(np.array([*faces, *AXES]), made.WHITE)])
    scene = bare([card], Pose(CARD + 3.0 * out, levelled(facing_deg + 180.0)), light)
    seen = see(scene, (360, 180), smooth=False)
    assert seen.kind[90, 180] == made.WHITE
    return float(ev_of_luminance(seen.luminance[88:93, 178:183, 1].mean() * 0.18 / 0.74))


CARD = np.array([0.0, 8.0, 2.2])
AXES = [(s * (k == 0), s * (k == 1), s * (k == 2), 40.0) for k in range(3) for s in (1.0, -1.0)]  # bounds


def test_cards_read_as_the_exposure_guide_says():
    """Source: ANSI PH2.7-1986 exposure guide, from memory: sun 15, cloudy bright 13, heavy overcast and open shade 12."""
    clear, grey = Light(Sun(180.0, 50.0), 0.0, cover=0.0), Light(Sun(180.0, 40.0), 0.0, cover=1.0)
    assert card_ev(clear, 180.0) == pytest.approx(15.0, abs=0.6)
    assert card_ev(clear, 0.0) == pytest.approx(12.0, abs=1.0)
    assert 11.5 <= card_ev(grey, 90.0) <= 13.5


def test_scenes_meter_as_the_exposure_guide_says():
    """The same guide: heavy overcast to cloudy bright 12 to 13; just after sunset 9 to 11; tunnels far below a lit room."""
    overcast = meter(render_sphere(build(RIG, Light(Sun(180.0, 40.0), 110.0, cover=1.0), 0.0), 240, smooth=False)).mean
    evening = build(RIG, Light(Sun(270.0, -3.0), 110.0, cover=0.1), 0.0)
    seen = see(evening, (360, 180), smooth=False)
    columns = (int(evening.truth.sun_yaw_deg + 180.0) + np.arange(-30, 31)) % 360
    skyline = seen.luminance[60:87, columns, 1][seen.kind[60:87, columns] == 0]  # 3 to 30 degrees high, where it went
    dusk = float(ev_of_luminance(skyline).mean())
    tunnel = meter(render_sphere(build(RIG, LIGHT, 45.0), 240, smooth=False)).mean
    assert 11.5 <= overcast <= 13.6 and 9.0 <= dusk <= 11.0 and tunnel < 5.0


def test_the_overcast_sky_is_the_published_one():
    """Source: CIE S 011/E:2003 type 1: the zenith is three times as bright as the horizon, whatever the bearing."""
    world = build(RIG, Light(Sun(180.0, 40.0), 110.0, cover=1.0), 0.0).world
    zenith, low = (sum(_sky(*direction(30.0, lat), world)) for lat in (90.0, 6.0))
    phi = 1.0 + 4.0 * np.exp(-0.70 / np.sin(np.radians(6.0)))
    assert low / zenith == pytest.approx(phi / (1.0 + 4.0 * np.exp(-0.70)), rel=0.05)


def test_the_masks_say_who_is_seen_and_whose_shadow_lies_where():
    rig = other(
        setup="weighted_foot", stage="wharf", ahead_m=0.0, left_m=0.0, stick_m=1.56, heading_deg=0.0, carrier="ground",
        subjects=(Subject(ahead_m=3.0, left_m=1.0),),
    )  # fmt: skip
    light = Light(Sun(200.0, 40.0), 0.0, cover=0.0)
    scene = build(rig, light, 0.0)
    seen = see(scene, (1440, 720), smooth=False)
    mask = masks(scene, seen)
    rows, columns = np.nonzero(mask & rt.SEES_SUBJECT)
    u, _ = pixel(scene.truth.subject_yaw_deg, 0.0, 1440, 720)
    assert abs(columns.mean() - u) < 12 and seen.depth_m[rows, columns].mean() == pytest.approx(3.2, abs=0.4)
    # The shadow of her head lies a height over tan(elevation) away from the sun (formula), on the ground.
    yaw, pitch, far = scene.truth.subject_yaw_deg, scene.truth.subject_pitch_deg, scene.truth.subject_m
    head = far * direction(yaw, pitch)
    drop = (head[2] + 1.6) / np.tan(np.radians(40.0))
    away = head - drop * np.array([np.cos(np.radians(200.0)), -np.sin(np.radians(200.0)), 0.0])
    u, v = pixel(*lonlat_deg(np.array([away[0], away[1], -1.6])), 1440, 720)
    patch = mask[int(v) - 3 : int(v) + 4, int(u) - 3 : int(u) + 4]
    assert (patch & rt.SHADOW_OF_SUBJECT).mean() > 1.5 and not (patch & rt.SEES_SUBJECT).any()
    cast = np.argwhere(mask & rt.SHADOW_OF_MOUNT)  # stick and camera throw theirs too, hidden as they are
    foot = rig.plan.foot - rig.plan.camera
    tip = np.array([np.cos(np.radians(200.0)), -np.sin(np.radians(200.0)), 0.0]) * -1.6 / np.tan(np.radians(40.0))
    for place in (foot + 0.5 * tip, foot + 0.9 * tip):
        u, v = pixel(*lonlat_deg(np.array([place[0], place[1], -1.6])), 1440, 720)
        assert np.hypot(*(cast - [v, u]).T).min() < 4.0


def test_a_turned_camera_sees_the_same_place_turned():
    nominal = build(RIG, LIGHT, 0.0)
    moved = build(RIG, LIGHT, 0.0, moved=Pose(np.array([0.0, 0.0, 0.02]), turned(np.array([0.1, -0.2, 0.3]))))
    place = nominal.pose.position_m + 5.0 * nominal.pose.turn @ direction(
        nominal.truth.subject_yaw_deg, nominal.truth.subject_pitch_deg
    )
    yaw, pitch, _ = moved.pose.seen(place)
    seen = see(moved, (1440, 720), smooth=False)
    cap = np.argwhere(masks(moved, seen) & rt.SEES_SUBJECT)
    u, v = pixel(moved.truth.subject_yaw_deg, moved.truth.subject_pitch_deg, 1440, 720)
    assert np.hypot(*(cap - [v, u]).T).min() < 3.0
    assert abs(yaw - moved.truth.subject_yaw_deg) < 2.0 and abs(pitch - moved.truth.subject_pitch_deg) < 2.0


def test_blur_is_angular_speed_times_time_times_density(monkeypatch):
    """The sun's disc smears into a line: speed x time x W / 360, out of the averaged sub-frames."""
    speed_deg_s, shutter_s, width = 30.0, 0.25, 720
    unheld = lambda recording, scene: see(scene, recording.size_px, smooth=False).luminance  # noqa: E731
    monkeypatch.setattr("glintor.simulation.camera.picture_of", unheld)  # smoothing holds the sun to what clips
    shot = msgspec.structs.replace(ROOF, exposure=msgspec.structs.replace(ROOF.exposure, shutter_s=shutter_s))
    lengths = []
    for samples in (1, 24):
        roll = Roll(Recording(shot, SITE, CAMERA, 1.0, width, steady=False, blur_samples=samples))
        slow = 0.02  # Hz: about zero its sine is a straight line
        turn = np.radians(speed_deg_s) / (2 * np.pi * slow)
        roll.motion = Motion(
            np.array([slow]), np.zeros(1), np.zeros((1, 3)), np.array([[0.0, 0.0, turn]]), RIG.heading_deg
        )
        luminance, _ = roll._light(0.0)
        bright = luminance[..., 1] > 1e5
        lengths.append(int(np.ptp(np.nonzero(bright.any(axis=0))[0])) + 1)
    wanted = speed_deg_s * shutter_s * width / 360.0
    assert lengths[1] - lengths[0] == pytest.approx(wanted, abs=2.0)


def test_rows_read_late_show_a_later_moment():
    shot = msgspec.structs.replace(ROOF, exposure=msgspec.structs.replace(ROOF.exposure, shutter_s=0.001))
    still, later, rolling = (
        Roll(Recording(shot, SITE, CAMERA, 1.0, 480, readout_s=r))._light(2.0 + late)[0]
        for r, late in ((0.0, 0.0), (0.0, 0.125), (0.4, 0.0))
    )
    part = slice(180, 210)  # seventh of eight: read 0.4 (6.5/8 - 1/2) s after the middle
    assert (rolling[part] == later[part]).all() and (rolling[part] != still[part]).any()


@pytest.mark.parametrize(("stage", "carrier"), [("cobdale", "boat"), ("towpath", "walker"), ("lock", "ground")])
def test_sound_is_in_range_repeats_and_claps(stage, carrier):
    sound = place_sound(stage, ready_carriers()[carrier], 3.0, 7)
    assert sound.shape == (2, 3 * RATE_HZ) and np.abs(sound).max() <= 1.0
    assert (sound == place_sound(stage, ready_carriers()[carrier], 3.0, 7)).all()
    loudest = np.abs(sound).max(axis=0).argmax() / RATE_HZ
    assert loudest == pytest.approx(0.5, abs=0.05)


def test_a_horn_lines_two_cameras_up():
    """The offset found by correlation (`scipy.signal`) is the clocks' own, within a twentieth of a frame of film."""
    heard, clock = Heard(horns_s=(3.0,), claps_s=()), Clock(offset_s=2.25, drift_ppm=40.0)
    first = place_sound("lock", GROUND, 6.0, 1, heard=heard)
    second = place_sound("lock", GROUND, 6.0, 2, heard=heard, begins_s=1.5, clock=clock)
    mono = [sound.mean(axis=0) for sound in (first, second)]
    peak = correlate(mono[0], mono[1], method="fft")
    found = correlation_lags(len(mono[0]), len(mono[1]))[peak.argmax()] / RATE_HZ
    assert found == pytest.approx(1.5, abs=1 / 24 / 20)
    started = clock.shown_s(1.5)  # what its clock showed when it began; from this follows the clocks' difference
    assert started - found == pytest.approx(clock.offset_s + 1.5 * 40e-6, abs=1 / 24 / 20)


def test_wind_grows_with_the_square_of_the_airs_speed():
    quiet, windy = (
        place_sound("wharf", GROUND, 2.0, 3, heard=Heard(claps_s=(), air_m_s=v)) - place_sound(
            "wharf", GROUND, 2.0, 3, heard=Heard(claps_s=(), air_m_s=0.0)) for v in (1.0, 3.0)
    )  # fmt: skip
    assert windy.std() / quiet.std() == pytest.approx(9.0, rel=0.05)


def test_every_set_up_begins_without_a_stop_and_can_be_foreseen():
    from glintor.demo.day import SHOTS as DAY_SHOTS
    from glintor.placement.mounts import SETUPS
    from glintor.project.model import Project
    from glintor.project.placed import layout_of, placing, set_up

    project = Project(site=SITE, shots=DAY_SHOTS)
    for setup in SETUPS:
        begun = set_up(SITE, DAY_SHOTS[0].placement, "mini_tripod" if setup.carrier != "ground" else "held_stick")
        begun = set_up(SITE, begun, setup.id)
        stage = {"boat": "cobdale", "walker": "towpath", "cycle": "towpath"}.get(begun.carrier, "wharf")
        placement = msgspec.structs.replace(begun, stage=stage)
        shot = msgspec.structs.replace(DAY_SHOTS[0], placement=placement, start_min=840.0)
        assert not [f for f in placing(project, shot) if f.level is Level.STOP], setup.id
        scene = build(rig_of(shot.placement, CAMERA, SITE), light_of(SITE, shot.start_min, shot.placement), 0.0)
        seen = see(scene, (480, 240), smooth=False)
        assert np.isfinite(seen.luminance).all() and seen.luminance.mean() > 100.0
        # The person whom the frame faces is where the chart says, unless the carrier itself stands between.
        plan = layout_of(SITE, shot.placement, shot.start_min)
        yaw, pitch, _ = scene.truth.subject_yaw_deg, scene.truth.subject_pitch_deg, scene.truth.subject_m
        chart_yaw, chart_pitch = plan.yaw_pitch_deg(plan.subject + [0.0, 0.0, 1.58])
        if np.hypot(*(plan.subject - plan.camera)[:2]) > 0.5:
            assert abs((yaw - chart_yaw + 180) % 360 - 180) < 8.0 and abs(pitch - chart_pitch) < 8.0, setup.id


def test_what_stands_there_keeps_the_sun_off_where_the_picture_shows_no_sun():
    from glintor.project.model import Project
    from glintor.project.placed import layout_of
    from glintor.review import placing_there
    from glintor.simulation.shade import in_shade

    both = set()
    for minute in range(480, 1090, 120):
        plan = layout_of(SITE, ROOF.placement, minute)
        _, light, _, _ = kinds(RIG, light_of(SITE, minute, ROOF.placement), width=960)
        shaded = in_shade(SITE, ROOF.placement, CAMERA, plan)
        assert shaded == (light.max() < 1e6), minute  # the sun's disk is brighter than anything it shines on
        both.add(shaded)
        shot = msgspec.structs.replace(ROOF, start_min=minute)
        said = {f.kind for f in placing_there(Project(site=SITE, shots=[shot]), shot)}
        assert ("shaded" in said) == shaded and ("sun" in said) != shaded
        assert not (shaded and "shadow" in said)
    assert both == {True, False}


@pytest.mark.parametrize("setup", ["held_stick", "mini_tripod"])
def test_nobody_stands_inside_the_bridge(setup):
    placement = msgspec.structs.replace(
        ROOF.placement,
        stage="cobdale",
        setup=setup,
        carrier="walker" if setup == "held_stick" else "ground",
        stick_m=1.5,
    )
    for ahead in np.arange(0.0, 12.0, 1.0):
        rig = rig_of(
            msgspec.structs.replace(placement.with_subject(ahead_m=float(ahead)), ahead_m=float(ahead) - 0.5),
            CAMERA,
            SITE,
        )
        scene = build(rig, LIGHT, 0.0)
        bridge = scene.world[rt.BRIDGE_S]
        yaw, pitch = np.radians([scene.truth.subject_yaw_deg, scene.truth.subject_pitch_deg])
        way = np.array([np.cos(yaw) * np.cos(pitch), -np.sin(yaw) * np.cos(pitch), np.sin(pitch)])
        on = scene.pose.position_m + scene.truth.subject_m * (scene.pose.turn @ way)
        for s, n, _ in (scene.pose.position_m, on):
            assert abs(s - bridge) > rt.BRIDGE_HALF or abs(n) < rt.ARCH_HALF, (ahead, s, n)

"""Schools, aims and the light along a take, against the simulated camera and the arithmetic that they stand for."""

import math

import numpy as np
import pytest
from msgspec.structs import replace
from scipy.integrate import solve_ivp

from glintor.demo.day import CAMERA, SHOTS, SITE
from glintor.errors import InputError
from glintor.exposure.aims import AIMS, Moves, answer, cost_of, top_ev, wanted_ev
from glintor.exposure.course import course_of
from glintor.exposure.metering import EVS, measured, told
from glintor.exposure.noise import FULL_SCALE, HEADROOM_STOPS, floor_ev, grey_noise_percent
from glintor.exposure.program import LAG_S, Held
from glintor.exposure.schools import all_runs, followed, lighter_filter, lost, recommended, run
from glintor.exposure.sources import LightFrom, read_light
from glintor.exposure.values import ev100
from glintor.placement.mounts import setup_by_id
from glintor.project.model import Project
from glintor.project.placed import begun_on
from glintor.recording.link import options_for
from glintor.review import light_of_shot
from glintor.simulation.camera import Roll
from glintor.simulation.light_course import light_course, moves_of
from glintor.simulation.place import build, render_sphere
from glintor.simulation.recording import Recording
from glintor.simulation.rig import light_of, rig_of
from glintor.simulation.sensor import exposed, noisy
from glintor.sphere.angle import wrap_deg

ROOF = next(s for s in SHOTS if s.id == "roof-cobdale")
SENSOR = CAMERA.sensor
LOCKED = Held(24.0, 1 / 50, 100.0, 6.0)


def steady(ev, span=8.0, rear=None, seconds=60.0):
    return course_of([0.0, seconds], [told(ev, span, rear)] * 2, ((0.0, "told"),))


def test_facts_of_the_trade_come_out_of_the_computation():
    """180 degrees at 30 fps in full sun (EV 15) wants about seven stops of filter at f/2; lamps at 50 Hz want 1/100 s."""
    sunny = answer("look", steady(15.0), SENSOR, rate_fps=30.0, filters=(7.0,))
    assert sunny.nd_stops == 7.0 and sunny.shutter_s == pytest.approx(1 / 60, rel=0.1) and not sunny.limit
    bare = answer("look", steady(15.0), SENSOR, rate_fps=30.0, filters=())
    assert "filter" in bare.limit and any("7" in words for words in bare.would_move)
    lamps = answer("clean", steady(7.0), SENSOR, rate_fps=24.0, filters=(), mains_hz=50.0)
    assert (lamps.shutter_s * 100.0) % 1.0 == pytest.approx(0.0, abs=0.02) and lamps.cost.beat_hz[0] == 0.0


def test_each_aim_gets_what_it_asks_for():
    course = steady(12.0)
    found = {
        aim: answer(aim, course, SENSOR, rate_fps=24.0, filters=(2.0, 4.0, 6.0), moves=Moves(20.0)) for aim in AIMS
    }
    assert abs(found["look"].cost.angle_deg - 180.0) < 8.0 and found["clean"].iso == 100.0
    assert found["freeze"].shutter_s < found["look"].shutter_s / 8 and found["freeze"].cost.blur_px < 2.0
    bright = replace(course, shown=np.roll(course.shown, 16, axis=1))  # the views hold two stops more
    keep, look = (answer(aim, bright, SENSOR, rate_fps=24.0, filters=(2.0, 4.0, 6.0)) for aim in ("highlights", "look"))
    assert wanted_ev("highlights", bright) == pytest.approx(min(top_ev(bright) - HEADROOM_STOPS + 0.07, 14.5), abs=1e-9)
    assert keep.cost.clipped[2] < 0.006 < look.cost.clipped[2]


def test_nothing_works_is_said_with_what_would_move_it():
    dark = answer("look", steady(-5.0), SENSOR, rate_fps=50.0, filters=())
    assert "too dark" in dark.limit and "a lower frame rate" in dark.would_move
    glare = answer("clean", steady(19.0), replace(SENSOR, shutter_min_s=1 / 1000), rate_fps=24.0, filters=())
    assert "too bright" in glare.limit and glare.error_stops > 0.5


def test_the_lag_is_that_of_its_differential_equation():
    """db/dt = (s - b) / L, integrated by scipy's Runge-Kutta of eighth order."""
    times = np.array([0.0, 0.4, 0.5, 2.0, 2.2, 6.0])
    light = np.array([14.0, 13.5, 6.0, 5.5, 12.0, 12.5])
    found = solve_ivp(
        lambda t, b: (np.interp(t, times, light) - b) / LAG_S,
        (0.0, 6.0),
        [14.0],
        "DOP853",
        times,
        rtol=1e-9,
        max_step=0.01,
    )
    assert followed(times, light) == pytest.approx(found.y[0], abs=1e-5)


def test_locked_neither_pumps_nor_steps_and_following_a_tunnel_does_not_lose_it():
    course = light_course(ROOF, SITE, CAMERA, 60.0, ())
    open_held = replace(LOCKED, nd_stops=2.0)
    runs = {one.school: one for one in all_runs(course, open_held, SENSOR, -0.7)}
    assert (runs["locked"].pumping, runs["locked"].step) == (0.0, 0.0)
    assert runs["auto"].drowned < runs["locked"].drowned and runs["auto"].pumping > 0.5
    assert runs["each lens"].step > runs["auto"].step == 0.0
    best, why = recommended(tuple(runs.values()), course)
    assert best.school != "locked" and "stops" in why
    dark = next(one for one in all_runs(course, LOCKED, SENSOR, -0.7) if one.school == "iso")
    assert "instead of" in lighter_filter(course, dark, LOCKED, SENSOR, (2.0, 4.0))
    calm = steady(14.0)
    kept, why = recommended(all_runs(calm, LOCKED, SENSOR, 0.0), calm)
    assert kept.school == "locked" and "nothing pumps" in why
    apart = steady(15.0, 6.0, rear=8.0)
    assert run(apart, "each lens", open_held, SENSOR).step == pytest.approx(7.0, abs=0.01)


@pytest.mark.parametrize("seed", range(5))
def test_clipped_share_noise_and_step_are_what_the_simulated_camera_records(seed):
    """Four random placements each: share over full scale within 2 points, noise of mid grey within 10 %."""
    rng = np.random.default_rng(seed)
    for _ in range(4):
        base = SHOTS[rng.integers(len(SHOTS))]
        heading = float(rng.uniform(-180, 180))
        shot = replace(
            base, placement=replace(base.placement, heading_deg=heading), start_min=float(rng.uniform(540, 1020))
        )
        held = Held(24.0, 1 / float(rng.choice([50, 100, 800])), float(rng.choice([100, 400, 1600])), 4.0)
        course = light_course(shot, SITE, CAMERA, 1.0, (), fine=True)
        ev = np.array([float(ev100(CAMERA.f_number, held.shutter_s, iso=held.iso, nd_stops=held.nd_stops))])
        said = lost(course.whole[:1], ev, np.array([held.iso]), SENSOR)[0][0]
        exposure = replace(shot.exposure, rate_fps=24.0, shutter_s=held.shutter_s, iso=held.iso, nd_stops=held.nd_stops)
        roll = Roll(Recording(shot, SITE, CAMERA, film_s=1.0, width_px=640))
        luminance = render_sphere(roll._scene(0.0), 640)
        linear = exposed(luminance, CAMERA, exposure) @ np.array([0.2126, 0.7152, 0.0722])
        weight = np.cos(np.radians(90.0 - (np.arange(320) + 0.5) / 320 * 180.0))[:, None] * np.ones(640)
        assert said == pytest.approx(float(weight[linear > FULL_SCALE].sum() / weight.sum()), abs=0.02)
        grey = noisy(np.full((200, 200, 3), 0.18, np.float32), held.iso, rng)[..., 1]
        assert float(grid_percent(grey)) == pytest.approx(float(grey_noise_percent(held.iso)), rel=0.1)


def grid_percent(grey):
    return 100.0 * grey.std() / grey.mean()


@pytest.mark.parametrize(
    ("program", "each_lens"), [("auto", False), ("auto", True), ("iso", False), ("shutter", False)]
)
def test_the_course_of_an_automatic_exposure_is_the_simulated_cameras(program, each_lens):
    """Frame by frame into the tunnel: within 0.2 stop at every moment, the step at the seam within 0.1."""
    begins, span = 19.0, 8.0
    exposure = replace(ROOF.exposure, rate_fps=24.0, program=program, each_lens=each_lens, offset_stops=-0.7)
    shot = replace(ROOF, exposure=exposure)
    course = light_course(shot, SITE, CAMERA, begins + span, (), fine=True)
    school = "each lens" if each_lens else program
    told_run = run(course, school, exposure.held, SENSOR, -0.7)
    recording = Recording(shot, SITE, CAMERA, film_s=span, width_px=256, options=options_for(exposure))
    early = begins - 6.0  # long enough for the automatic to have settled, from wherever it began
    roll = Roll(replace(recording, begins_s=early))
    for number in range(0, int((begins + span - early) * 24), 4):
        frame = roll.frame(number)
        now = early + number / 24.0
        if now < begins:
            continue
        apart = [0.0, 0.0]
        for lens, setting in enumerate(frame.settings):
            seen = float(ev100(CAMERA.f_number, setting.shutter_s, iso=setting.iso, nd_stops=exposure.nd_stops))
            said = float(np.interp(now, course.time_s, told_run.ev[:, lens]))
            assert said == pytest.approx(seen, abs=0.2), (now, lens)
            apart[lens] = said - seen
        assert abs(apart[0] - apart[1]) < 0.1  # the step at the seam


@pytest.mark.parametrize("seed", range(10))
def test_blur_is_what_the_moving_camera_sees(seed):
    """From a bicycle at random speeds somebody stands abeam at random distances: the angle that their head moves by in the time of a
    shutter, in the simulated place, against v t / d in pixels of the frame, within 10 %."""
    rng = np.random.default_rng(seed)
    speed, away = float(rng.uniform(1.0, 8.0)), float(rng.uniform(3.0, 12.0)) * float(rng.choice([-1.0, 1.0]))
    placement = begun_on(SITE, ROOF.placement, setup_by_id("bar_clamp"), SITE.carrier("cycle"))
    placement = placement.with_subject(ahead_m=float(placement.ahead_m), left_m=away, up_m=0.0, keeps="there")
    placement = replace(placement, stage="plain", speed_m_s=speed)
    shot = replace(ROOF, placement=placement, opening=None, closing=None, cuts=())
    moves = moves_of(Project(site=SITE, shots=(shot,)), shot)
    rig, light = rig_of(placement, CAMERA, SITE), light_of(SITE, 720.0, placement)
    time = 1 / 50
    a, b = (build(rig, light, t).truth for t in (-time / 2, time / 2))
    level = abs(float(wrap_deg(b.subject_yaw_deg - a.subject_yaw_deg)))
    said = cost_of(steady(13.0), SENSOR, time, 100.0, 4.0, 24.0, moves).blur_px
    assert said == pytest.approx(level * moves.px_per_deg, rel=0.1)


def test_light_is_read_as_it_is_typed():
    """ISO 2720: 2500 lx is EV 10 at C = 250; f/8, 1/125 s, ISO 100 is EV 13."""
    assert read_light("EV 12.5").ev == 12.5 and read_light("2500 lux").ev == pytest.approx(math.log2(1000.0))
    assert (
        read_light("f/8 1/125 ISO 100").ev == pytest.approx(math.log2(64 * 125)) and read_light("hazy sun").ev == 14.0
    )
    for wrong in ("", "EV 40", "-3 lux", "f/8 1/0 ISO 100", "bright", "f/8", "0 lux"):
        with pytest.raises(InputError):
            read_light(wrong)


def test_sources_are_mixed_along_the_take():
    light = (LightFrom(kind="meter", ev=15.0), LightFrom(kind="table", ev=3.0, from_s=20.0, words="tunnel"))
    course = light_course(replace(ROOF, exposure=replace(ROOF.exposure, light=light)), SITE, CAMERA, 60.0, ())
    assert course.metered[course.at(10.0), 0] == 15.0 and course.metered[course.at(40.0), 0] == 3.0
    gone = (
        LightFrom(kind="frame", words="gone.jpg", file="/nowhere/gone.jpg"),
        LightFrom(kind="meter", ev=9.0, from_s=30.0),
    )
    shot = replace(ROOF, exposure=replace(ROOF.exposure, light=gone))
    kept = light_course(shot, SITE, CAMERA, 60.0, ())
    assert "gone.jpg cannot be read" in kept.source_at(0.0) and kept.metered[kept.at(0.0), 0] > 11.0
    assert light_of_shot(Project(site=SITE, shots=(shot,)), shot).mean > 11.0
    nowhere = replace(ROOF, placement=replace(ROOF.placement, stage="unknown", setup="mini_tripod", carrier="ground"))
    assert "nobody described" in light_course(nowhere, SITE, CAMERA, 1.0, ()).source_at(0.0)
    assert course.source_at(10.0) == "hand meter" and course.source_at(30.0) == "published table: tunnel"


def test_a_measured_sphere_and_the_floor_of_noise():
    flat = np.full((64, 128, 3), 0.125 * 2.0**10)
    one = measured(flat)
    assert one.metered == pytest.approx((10.0, 10.0, 10.0), abs=1e-6) and one.shown.sum() == pytest.approx(1.0)
    assert EVS[one.shown.argmax()] == pytest.approx(10.0, abs=0.07)
    assert floor_ev(12.0, 400.0, 11.0, 100.0) == pytest.approx(7.0)

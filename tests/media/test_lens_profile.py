"""Lens profiles found from recordings that other code made, and what is drawn straight from the fisheyes."""

import json
import subprocess

import cv2
import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from glintor.cli import main
from glintor.errors import InputError
from glintor.media.footage import open_footage
from glintor.media.lens_profile import WRONG_PX, find_lenses, guess_lenses, misfit_px, read_lenses, write_lenses
from glintor.media.proxy import make_proxy
from glintor.media.taken import TakenAs
from glintor.pixels import colour
from glintor.pixels.join import Joiner, band, plain_join
from glintor.pixels.picture import Flat, Whole, drawn, steady
from glintor.pixels.reproject import Reprojector
from glintor.pixels.spheres import Sphere, parts_of
from glintor.pixels.unrolled import unrolled_level
from glintor.sphere.lenses import TWIN, Eye, Lenses, look_of_pixel, pixel_of
from glintor.sphere.rotation import angles_of, view_matrix
from glintor.sphere.view import View, frame_direction
from tests import foreign
from tests.conftest import psnr

SIZE = (480, 270)


def true_lenses() -> Lenses:
    n = foreign.LENS["size"]

    def eye(side):
        (cx, cy), angles, _ = foreign.LENS[side]
        return Eye(
            centre=((cx + 0.5) / n, (cy + 0.5) / n),
            radius=foreign.LENS["radius"],
            half_deg=foreign.LENS["half_deg"],
            k3=foreign.LENS["k3"],
            turn_deg=angles,
        )

    return Lenses(eyes=(eye("front"), eye("rear")))


@pytest.fixture(scope="module")
def world():
    return foreign.World()


@pytest.fixture(scope="module")
def pair(tmp_path_factory, world):
    return foreign.pair(tmp_path_factory.mktemp("pair") / "pair.mp4", world, 45)


def apart_px(one: Lenses, other: Lenses, n: int = 480) -> np.ndarray:
    """How far apart two profiles see things, in pixels of a sphere 5760 wide, turned on one another as well as can be."""
    at = np.stack(np.meshgrid(np.arange(10, n, 20), np.arange(10, n, 20)), -1).reshape(-1, 2).astype(float)
    at = at[np.hypot(*(at - n / 2).T) < 0.46 * n]
    a, b = (np.concatenate([look_of_pixel(e, (n, n), at[:, 0], at[:, 1]) for e in p.eyes]) for p in (one, other))
    turn, _ = Rotation.align_vectors(a, b)
    return np.linalg.norm(a - turn.apply(b), axis=1) * 5760 / 2 / np.pi


def test_places_and_looks_are_inverse_and_angles_are_those_of_the_turn():
    lenses = true_lenses()
    rng = np.random.default_rng(1)
    for eye in lenses.eyes:
        u, v = rng.uniform(60, 420, (2, 50))
        again = pixel_of(eye, (480, 480), look_of_pixel(eye, (480, 480), u, v))
        assert np.allclose(again[0], u, atol=1e-6) and np.allclose(again[1], v, atol=1e-6)
    for angles in ((30, 20, 10), (-170, -80, 120), (180.7, -0.5, 0.6)):
        assert np.allclose(view_matrix(*angles_of(view_matrix(*angles))), view_matrix(*angles))
    own, _ = foreign.lens_looks("rear")  # the other code's directions, in the other axes
    y, x = np.mgrid[40:440:40, 40:440:40].astype(float)
    ours = look_of_pixel(lenses.eyes[1], (480, 480), x, y)
    theirs = own[y.astype(int), x.astype(int)]
    assert np.allclose(ours, np.stack([theirs[..., 2], -theirs[..., 0], theirs[..., 1]], -1), atol=1e-4)


def test_a_profile_found_blind_is_the_true_one(pair, tmp_path, capsys):
    footage = open_footage(pair, TakenAs("side"))
    found = find_lenses(footage)
    apart = apart_px(true_lenses(), found.lenses)
    assert (
        found.residual_px < 0.5 and np.median(apart) < 2.0 and np.percentile(apart, 95) < 3.0
    )  # of a sphere 5760 wide
    assert found.lenses.eyes[0].k3 == pytest.approx(-0.02, abs=0.006) and found.turned_deg > 1.0
    wrong = misfit_px(footage, TWIN)  # so far off that nothing is found again, or far apart
    assert misfit_px(footage, found.lenses) < 2.0 and (wrong is None or wrong > WRONG_PX)
    assert main(["lenses", str(pair), str(tmp_path / "p.json")]) == 0 and "residual" in capsys.readouterr().out
    kept = read_lenses(tmp_path / "p.json")
    assert np.percentile(apart_px(kept, found.lenses), 95) < 1.0 and kept.found_from == "pair.mp4"
    assert main(["lenses", str(pair), str(pair)]) == 2  # never over the recording itself


def test_a_profile_that_is_none_is_refused_in_words(tmp_path):
    for content in (
        "{}",
        "[1]",
        '{"glintor_lenses": 1, "lenses": {"eyes": []}}',
        '{"glintor_lenses": 9, "lenses": null}',
    ):
        (tmp_path / "x.json").write_text(content)
        with pytest.raises(InputError):
            read_lenses(tmp_path / "x.json")
    write_lenses(tmp_path / "y.json", true_lenses())
    assert read_lenses(tmp_path / "y.json") == true_lenses()
    raw = json.loads((tmp_path / "y.json").read_text())
    raw["lenses"]["eyes"][0]["radius"] = -1
    (tmp_path / "y.json").write_text(json.dumps(raw))
    with pytest.raises(InputError, match="radius"):
        read_lenses(tmp_path / "y.json")


@pytest.mark.parametrize(
    "view",
    [
        View(fov_deg=80),
        View(yaw_deg=88, pitch_deg=10, fov_deg=70),
        View(pitch_deg=-88, fov_deg=110),
        View(yaw_deg=180, roll_deg=30, fov_deg=60),
        View(pitch_deg=-90, fov_deg=270, bend=1.0),
    ],
)
def test_a_view_straight_from_two_fisheyes_is_the_scenes_own(world, view):
    """Against the scene itself, looked at by other code; also across the seam and on the foot."""
    front, rear = (np.where(s[1][..., None], world.at(s[0]), 5.0) for s in map(foreign.lens_looks, ("front", "rear")))
    picture = colour.fine_yuv(np.hstack([front, rear])[..., ::-1].clip(0, 255).astype(np.uint8))
    lenses = true_lenses()
    frame = drawn(Flat(SIZE, steady(view), shows=lenses), Sphere(picture))
    look = np.nan_to_num(frame_direction(view, SIZE, np.arange(SIZE[0]), np.arange(SIZE[1])[:, None]))
    theirs = np.stack([-look[..., 1], look[..., 2], look[..., 0]], -1)
    wanted = world.at(theirs)[..., ::-1]
    small = [cv2.GaussianBlur(p.astype(np.float32), (0, 0), 2.0) for p in (colour.rgb(frame), wanted)]
    seen = np.isfinite(frame_direction(view, SIZE, np.arange(SIZE[0]), np.arange(SIZE[1])[:, None])[..., 0])
    assert psnr(small[0][seen], small[1][seen]) > 33.0


def test_the_step_between_the_lenses_is_levelled_and_does_not_flicker(pair):
    footage = open_footage(pair, TakenAs("side", true_lenses()))
    joiner, steps = Joiner(true_lenses()), []
    with footage.reader() as reader:
        for decoded in reader.frames():
            join = joiner.join(decoded.picture, float(decoded.time))
            steps.append(join.step_stops)
            last = decoded
    stops = np.log2(1 / foreign.LENS["rear"][2])
    assert steps[0] == pytest.approx(stops, abs=0.1) and np.ptp(steps[5:]) < 0.02
    view = View(yaw_deg=89.8, fov_deg=60)
    plain, level = (
        drawn(Flat(SIZE, steady(view), shows=true_lenses()), Sphere(last.picture, how)).y.astype(float)
        for how in (plain_join(true_lenses()), joiner.join(last.picture, float(last.time)))
    )
    truth = colour.yuv(_true_frame(view, float(last.time))).y.astype(float)
    off = [
        np.log2((p[:, s] + 1).mean() / (truth[:, s] + 1).mean())
        for p in (plain, level)
        for s in (slice(0, 160), slice(320, 480))
    ]
    assert abs(off[1] - off[0]) > 0.15 and abs(off[3] - off[2]) < 0.1


def _true_frame(view, time_s):
    look = frame_direction(view, SIZE, np.arange(SIZE[0]), np.arange(SIZE[1])[:, None])
    theirs = np.stack([-look[..., 1], look[..., 2], look[..., 0]], -1)
    turn = foreign.turn(*foreign.shake(time_s, 0.5))
    return foreign.World().at(theirs @ turn.T)[..., ::-1].clip(0, 255).astype(np.uint8)


def test_near_things_at_the_seam_are_laid_on_one_another():
    """Things 16 pixels of a 5760 sphere apart in both lenses, which is a person at 1.5 m: what is left of the break is less than a
    third, and the mixture is sharper."""
    lenses = Lenses(eyes=(Eye(half_deg=96), Eye(half_deg=96, turn_deg=(180, 0, 0))))
    rng = np.random.default_rng(4)
    texture = cv2.GaussianBlur(rng.uniform(0, 255, (400, 1600)).astype(np.float32), (0, 0), 5)
    texture = ((texture - texture.mean()) * 6 + 128).clip(0, 255)

    def lens(side, shift_deg):
        y, x = np.mgrid[:960, :960].astype(float)
        look = look_of_pixel(lenses.eyes[side], (960, 960), x, y)
        off = np.degrees(np.arccos(np.clip(look[..., 0], -1, 1))) - 90
        around = np.degrees(np.arctan2(look[..., 2], -look[..., 1])) + 180
        at = ((around / 360 * 1600).astype(np.float32), ((off + shift_deg + 20) * 10).astype(np.float32))
        return cv2.remap(texture, *at, cv2.INTER_LINEAR)

    both = np.hstack([lens(0, 0.5), lens(1, -0.5)]).astype(np.uint8)
    picture = colour.yuv(np.repeat(both[..., None], 3, axis=2))
    mender = Joiner(lenses)
    joins = [mender.join(picture, n / 24) for n in range(12)]  # as long as a film's seam takes to settle
    half = lenses.mixed_deg
    one, two = band(lenses, [p[0] for p in parts_of(lenses, picture)], half, 48, 2880)
    moved = cv2.resize(mender.flow[0], (2880, 48)) * 48 / np.radians(2 * half)
    y, x = np.mgrid[:48, :2880].astype(np.float32)
    laid = cv2.remap(two, x, y + moved.astype(np.float32), cv2.INTER_LINEAR)
    torn, left = (np.abs(one - other)[12:36].mean() for other in (two, laid))
    assert left < torn / 3 and np.degrees(np.median(mender.flow[0])) == pytest.approx(1.0, abs=0.02)

    def sharpness(join):
        frame = drawn(
            Flat((960, 540), steady(View(yaw_deg=90, fov_deg=30)), shows=lenses), Sphere(picture, join)
        ).y.astype(float)
        return (np.diff(frame[100:440, 440:520], axis=1) ** 2).mean()

    plain = Joiner(lenses, mends=False).join(picture, 0.0)
    assert sharpness(joins[-1]) > 1.25 * sharpness(plain)
    assert np.abs(joins[-1].shift - joins[-2].shift).max() < np.radians(0.01)  # it does not flicker


def test_the_whole_sphere_comes_the_same_way_and_a_small_copy_has_the_same_profile(pair, tmp_path):
    footage = open_footage(pair, TakenAs("side", true_lenses()))
    with footage.reader() as reader:
        sphere = footage.sphere(reader.at(0.0))
    whole = drawn(Whole((640, 320), shows=footage.shows), sphere)
    view = View(yaw_deg=100, fov_deg=80)
    through = Reprojector((320, 180)).draw(whole, view)
    straight = Reprojector((320, 180), shows=footage.shows).draw(sphere, view)
    assert psnr(cv2.blur(through.y, (5, 5)), cv2.blur(straight.y, (5, 5))) > 34.0
    assert psnr(unrolled_level(sphere, (640, 320), footage.shows, None).y, whole.y) > 30.0
    part = footage.parts[0]
    small = open_footage(make_proxy(part), TakenAs("side", true_lenses()))
    assert small.shows == footage.shows and len(parts_of(small.shows, sphere.picture)) == 2


def test_two_tracks_are_read_in_step_and_drawn_as_one(pair, tmp_path, world):
    pictures = [foreign.lens_pictures(world, k) for k in range(12)]
    front, rear = (foreign.film(tmp_path / f"{n}.mp4", (p[n] for p in pictures), 15) for n in (0, 1))
    tracks = tmp_path / "tracks.mp4"
    subprocess.run(
        ["ffmpeg", "-v", "error", "-i", front, "-i", rear, "-map", "0", "-map", "1", "-c", "copy", tracks], check=True
    )
    one = open_footage(tracks, TakenAs("streams", true_lenses()))
    two = open_footage([front, rear], TakenAs("files", true_lenses()))
    with one.reader() as a, two.reader() as b:
        frames = list(zip(a.frames(), b.frames(), strict=True))
        late = a.at(0.5)
    assert len(frames) == 12 and all((x.picture.y == y.picture.y).all() for x, y in frames)
    assert float(late.time) == pytest.approx(7 / 15, abs=1e-3) or float(late.time) == pytest.approx(8 / 15, abs=1e-3)
    target = tmp_path / "still.png"
    write_lenses(tmp_path / "p.json", true_lenses())
    assert (
        main(
            [
                "still",
                str(tracks),
                str(target),
                "--yaw",
                "90",
                "--size",
                "320x180",
                "--lenses",
                str(tmp_path / "p.json"),
            ]
        )
        == 0
    )
    assert cv2.imread(str(target)).shape == (180, 320, 3)


def test_v360_of_ffmpeg_sees_the_same(tmp_path, world):
    """An equidistant pair without bending: ffmpeg's own filter on the same two circles (its axes need each lens's view alone)."""
    lenses = Lenses(eyes=(Eye(half_deg=95), Eye(half_deg=95, turn_deg=(180, 0, 0))))
    y, x = np.mgrid[:480, :480].astype(float)
    both = []
    for eye in lenses.eyes:
        look = look_of_pixel(eye, (480, 480), x, y)
        both.append(cv2.GaussianBlur(world.at(np.stack([-look[..., 1], look[..., 2], look[..., 0]], -1)), (0, 0), 1.5))
    cv2.imwrite(str(tmp_path / "in.png"), np.hstack(both))
    filters = "crop=480:480:0:0,v360=fisheye:flat:ih_fov=190:iv_fov=190:h_fov=80:v_fov=50.6:w=480:h=270:interp=cubic"
    subprocess.run(
        ["ffmpeg", "-v", "error", "-i", tmp_path / "in.png", "-vf", filters, tmp_path / "out.png"], check=True
    )
    picture = colour.fine_yuv(np.hstack(both)[..., ::-1].clip(0, 255).astype(np.uint8))
    ours = colour.rgb(drawn(Flat(SIZE, steady(View(fov_deg=80, bend=0.0)), shows=lenses), Sphere(picture)))
    theirs = cv2.imread(str(tmp_path / "out.png"))[..., ::-1]
    blurred = [cv2.GaussianBlur(p.astype(np.float32), (0, 0), 3.0)[20:-20, 20:-20] for p in (ours, theirs)]
    assert psnr(*blurred) > 33.0


def test_a_guess_is_near_and_darkness_is_refused(pair, tmp_path):
    footage = open_footage(pair, TakenAs("side"))
    assert np.median(apart_px(true_lenses(), guess_lenses(footage))) < 40.0
    night = foreign.film(tmp_path / "night.mp4", [np.full((240, 480, 3), 6.0)] * 6, 15)
    with pytest.raises(InputError, match="do not tell"):
        find_lenses(open_footage(night, TakenAs("side")))

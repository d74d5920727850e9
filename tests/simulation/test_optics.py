import math

import cv2
import numpy as np
import pytest
from msgspec.structs import replace

from glintor.errors import InputError
from glintor.placement import seam
from glintor.placement import solids as made
from glintor.placement.solids import Parts
from glintor.placement.sun import Sun
from glintor.simulation import optics
from glintor.simulation.camera import picture_of
from glintor.simulation.light import Light
from glintor.simulation.place import bare, build, see
from glintor.simulation.pose import Pose, levelled
from glintor.simulation.recording import Recording
from glintor.sphere.fisheye import Fisheye, Guard
from tests.simulation.test_place import LIGHT, RIG, other

GAP_M, WIDTH = 0.026, 1920
LENS = Fisheye(math.radians(98.0))
NOON = Light(Sun(180.0, 50.0), 0.0, cover=0.0)
POSE = Pose(np.array([0.0, 0.0, 3.0]), levelled(0.0))


def spot(mask: np.ndarray) -> tuple[float, float]:
    rows, columns = np.nonzero(mask > 0.5)
    return float(columns.mean()), float(rows.mean())


def on_sphere(mask: np.ndarray, which: int, far_m: float = math.inf) -> tuple[float, float]:
    """Where a thing that one lens sees is drawn on the sphere, pixels: through the stitch's own maps."""
    maps, _ = optics._stitch_maps(WIDTH, mask.shape[0], LENS, GAP_M, far_m)
    return spot(cv2.remap(mask.astype(np.float32), *maps[which], cv2.INTER_LINEAR))


@pytest.mark.parametrize("far_m", [math.inf, 1.0])
@pytest.mark.parametrize("distance_m", [0.5, 0.7, 1.0, 2.0, 4.0])
def test_parallax_at_the_seam_is_the_formulas(distance_m, far_m):
    """b |1/D - 1/S| W / 2 pi, for a ball in the seam plane seen by both lenses from their own centres."""
    ball = Parts()
    ball.blob((0.0, distance_m, 3.0), (0.03 * distance_m,) * 3, made.CAP)
    front, back = optics.circles(bare([ball], POSE, NOON), WIDTH // 2, LENS, GAP_M, smooth=False)
    seen = [on_sphere(part.kind == made.CAP, which, far_m)[0] for which, part in enumerate((front, back))]
    wanted = GAP_M * abs(1.0 / distance_m - (0.0 if math.isinf(far_m) else 1.0 / far_m)) * WIDTH / (2 * np.pi)
    assert abs(seen[0] - seen[1]) == pytest.approx(wanted, abs=1.0)
    assert seam.seam_offset_px(distance_m, gap_m=GAP_M, width_px=WIDTH, stitched_at_m=far_m) == pytest.approx(wanted)


def stick_begins_m(tilt_deg: float) -> float:
    """Where on the stitched sphere a stick of 0.9 m begins to show: the least distance of its pixels."""
    rig = other(clamp_half_m=0.0, stick_m=0.9, tilt_deg=tilt_deg)
    scene = build(rig, LIGHT, 0.0, apart=True)
    depths = []
    for which, seen in enumerate(optics.circles(scene, 1440, LENS, rig.gap_m, smooth=False)):
        maps, ahead = optics._stitch_maps(2880, 1440, LENS, rig.gap_m, math.inf, optics.level_of(scene))
        depth, kind = (
            cv2.remap(part.astype(np.float32), *maps[which], cv2.INTER_NEAREST) for part in (seen.depth_m, seen.kind)
        )
        mine = (kind == made.STICK) & ((ahead > 0) if which == 0 else (ahead < 0))
        depths += [depth[mine]]
    found = np.concatenate(depths)
    return float(found.min()) if found.size else math.inf


def test_a_straight_stick_vanishes_and_a_tilted_one_shows_from_the_computed_length():
    assert stick_begins_m(0.0) == math.inf
    for tilt in (0.5, 1.0):
        length = seam.hidden_length_m(tilt, gap_m=RIG.gap_m, half_thickness_m=RIG.plan.setup.half_width_m)
        assert 0.1 < length < 0.9
        assert stick_begins_m(tilt) == pytest.approx(length, rel=0.05)


def test_the_stitch_of_far_things_is_the_sphere_itself():
    sphere = see(build(RIG, LIGHT, 0.0), (960, 480))
    lens = Fisheye(math.radians(98.0), falloff=2.0)
    front, back = optics.circles(build(RIG, LIGHT, 0.0, apart=True), 960, lens, RIG.gap_m)
    stitched = optics.stitch(*(optics.evened(s.luminance, lens) for s in (front, back)), 960, lens, RIG.gap_m)
    far = sphere.depth_m > 30.0
    off = np.abs(np.log2(stitched[far][:, 1] / sphere.luminance[far][:, 1]))
    assert np.median(off) < 0.03 and far.mean() > 0.3
    assert front.luminance[4, 4, 1] == 0.0 and front.kind[4, 4] == -1  # outside the image circle


def test_the_lens_is_an_equidistant_polynomial():
    plain = Fisheye(math.radians(100.0), k3=0.0, k5=0.0)
    assert plain.angles() == pytest.approx(np.linspace(0, math.radians(100.0), 512), abs=1e-6)
    theta = np.radians([10.0, 45.0, 90.0])
    assert LENS.radius(theta) == pytest.approx(
        (theta - 0.012 * theta**3 + 0.0015 * theta**5) / float(LENS._bent(np.array(LENS.half_rad)))
    )
    assert np.interp(LENS.radius(theta), np.linspace(0, 1, 512), LENS.angles()) == pytest.approx(theta, abs=1e-4)
    assert LENS.light(np.array([0.0, 1.4]))[0] == 1.0 and LENS.light(np.array([0.0, 1.4]))[1] < 0.8
    with pytest.raises(InputError, match="180"):
        Fisheye(math.radians(80.0))


def test_a_guard_bends_rays_by_snell_and_shifts_the_stitch():
    guard, off = Guard(), np.radians([0.0, 30.0, 60.0, 90.0])
    assert guard.beyond(off, 0.0) == pytest.approx(off, abs=1e-9)  # through the middle of a dome nothing is bent
    bent = guard.beyond(off)
    assert bent[0] == pytest.approx(0.0) and 0.05 < np.degrees(abs(bent[3] - off[3])) < 3.0
    # First order, for a thin wall: the ray turns by (1 - 1/n) x wall / radius x tan(angle of incidence).
    incidence = np.arcsin(0.004 / 0.024 * np.sin(off[3]))
    thin = Guard(0.024, 0.0001).beyond(off)[3] - off[3]
    assert abs(thin) == pytest.approx((1 - 1 / 1.49) * 0.0001 / 0.024 * np.tan(incidence), rel=0.05)
    ball = Parts()
    ball.blob((0.0, 4.0, 3.0), (0.12,) * 3, made.CAP)
    bare_lens, guarded = (
        on_sphere(optics.circles(bare([ball], POSE, NOON), 960, lens, GAP_M, smooth=False)[0].kind == made.CAP, 0)[0]
        for lens in (LENS, replace(LENS, guard=guard))
    )
    shift = np.degrees(float(np.interp(np.pi / 2, off, off - bent))) * WIDTH / 360.0
    assert guarded - bare_lens == pytest.approx(shift, abs=1.0) or bare_lens - guarded == pytest.approx(shift, abs=1.0)
    assert abs(guarded - bare_lens) > 0.5


def test_a_drop_spoils_only_what_is_behind_it():
    picture = np.random.default_rng(1).random((200, 200, 3), dtype=np.float32)
    wet = optics.wetted(picture, optics.Drop(0.0, 0.2, 0.2))
    changed = np.any(wet != picture, axis=-1)
    rows, columns = np.nonzero(changed)
    assert 0.02 < changed.mean() < 0.05
    assert np.hypot(columns - 100, rows - 120).max() <= 21
    assert wet[changed].std() < 0.6 * picture[changed].std()


def test_one_lens_and_unstitched_modes_have_their_shapes():
    from tests.simulation.test_body import recording

    for mode, wide in (("single-150", 150.0), ("single-170", 170.0)):
        one: Recording = recording(mode, width_px=320)
        picture = picture_of(one, build(RIG, LIGHT, 0.0, apart=True))
        assert picture.shape == (180, 320, 3) and one.across_deg == wide and (picture[90] > 0).all()
    both = replace(recording("sphere-5k7", width_px=320), circles=True)
    picture = picture_of(both, build(RIG, LIGHT, 0.0, apart=True))
    assert picture.shape == (160, 320, 3) and (picture[80, [80, 240], 1] > 0).all() and picture[1, 1, 1] == 0.0

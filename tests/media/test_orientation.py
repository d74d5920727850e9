"""How a camera turned, from pictures that other code turned and from logs without noise and with it."""

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from glintor.cli import main
from glintor.errors import Cancelled, InputError
from glintor.media.footage import open_footage
from glintor.media.inertial import Log, log_beside, read_log, write_inertial
from glintor.media.orientation import (
    by_picture,
    known_orientation,
    log_offset_s,
    log_orientation,
    orientation_of,
    with_log,
)
from glintor.media.taken import TakenAs
from glintor.sphere.horizon import horizon_of, horizon_through
from glintor.sphere.rotation import view_matrix
from glintor.sphere.steady import Orientation, held
from tests import foreign

RATE, FRAMES = 20, 60


def true_turns(count: int = FRAMES, rate: float = RATE, big: float = 1.0) -> Rotation:
    return Rotation.from_matrix(
        np.stack([foreign.in_body(foreign.turn(*foreign.shake(k / rate, big))) for k in range(count)])
    )


def left_over_deg(found: Orientation, truth: Rotation) -> np.ndarray:
    """What is left at each moment when the found turn is taken out of the true one, both against the first frame."""
    a, b = truth[0].inv() * truth, found.turns[0].inv() * found.turns
    return np.degrees((a.inv() * b).magnitude())


@pytest.fixture(scope="module")
def shaken(tmp_path_factory):
    return foreign.shaken(tmp_path_factory.mktemp("shaken") / "walk.mp4", foreign.World())


def log_of(turns_at, seconds: float, *, noise: float = 0.0, seed: int = 0) -> Log:
    """What a gyroscope and an accelerometer feel of turns, by differences: no code of Glintor's."""
    step = 0.005
    times = np.arange(0.0, seconds, step)
    turns = turns_at(times)
    ahead = turns_at(times + step / 2).as_matrix()
    behind = turns_at(times - step / 2)
    gyro = (behind.inv() * Rotation.from_matrix(ahead)).as_rotvec() / step
    accel = turns.inv().apply([0.0, 0.0, 9.80665])
    rng = np.random.default_rng(seed)
    return Log(
        times,
        gyro + noise * 0.006 * rng.standard_normal(gyro.shape),
        accel + noise * 0.08 * rng.standard_normal(accel.shape),
    )


def walk_at(times) -> Rotation:
    return Rotation.from_matrix(
        np.stack([foreign.in_body(foreign.turn(*foreign.shake(float(t)))) for t in np.atleast_1d(times)])
    )


def test_a_place_at_rest_is_followed_within_a_tenth_of_a_degree(shaken):
    found = by_picture(open_footage(shaken))
    assert left_over_deg(found, true_turns()).max() < 0.1 and found.trust.min() > 0.8
    assert np.allclose(found.time_s, np.arange(FRAMES) / RATE, atol=1e-3)


def test_people_and_water_do_not_pull_it(tmp_path):
    """A third of the picture moves by itself."""
    world, looks = foreign.World(), foreign.sphere_looks(768)
    rng = np.random.default_rng(8)
    noise = rng.uniform(0, 255, (384, 768, 3))

    def frames():
        for k in range(40):
            picture = world.at(looks @ foreign.turn(*foreign.shake(k / RATE)).T)
            picture[230:300] = np.roll(noise, 3 * k, axis=1)[230:300]  # water that flows
            at = 60 + 9 * k
            picture[140:260, at : at + 60] = noise[140:260, :60]  # somebody who walks by
            yield picture

    found = by_picture(open_footage(foreign.film(tmp_path / "busy.mp4", frames(), RATE, "-g", 10)))
    assert np.percentile(left_over_deg(found, true_turns(40)), 95) < 0.25


def test_two_lenses_turn_as_one_sphere(tmp_path):
    from tests.media.test_lens_profile import true_lenses

    footage = open_footage(foreign.pair(tmp_path / "pair.mp4", foreign.World(), 30), TakenAs("side", true_lenses()))
    assert left_over_deg(by_picture(footage), true_turns(30, 15, 0.5)).max() < 0.2


def test_the_filter_finds_up_and_every_shake_of_a_log_without_noise():
    log = log_of(walk_at, 6.0)
    times, quaternions = log_orientation(log)
    found, truth = Rotation.from_quat(quaternions), walk_at(times)
    late = slice(200, None)  # once the filter knows which way is up
    tilt = np.degrees(
        np.arccos(np.clip(np.sum(found.inv().apply([0, 0, 1]) * truth.inv().apply([0, 0, 1]), axis=1), -1, 1))
    )
    assert tilt[late].max() < 0.3
    apart = (truth[late] * found[late].inv()).as_rotvec()
    assert np.degrees(np.ptp(apart, axis=0)).max() < 0.5


def test_a_log_gives_shake_and_up_and_its_offset_is_found(shaken, tmp_path, capsys):
    seen = by_picture(open_footage(shaken))
    late = log_of(lambda t: walk_at(np.asarray(t) - 0.12), 3.6, noise=1.0)
    assert log_offset_s(seen, late) == pytest.approx(0.12, abs=0.008)
    both = with_log(seen, late, "walk.csv")
    assert np.percentile(left_over_deg(both, true_turns()), 95) < 0.1
    up = true_turns()[0].inv().apply([0.0, 0.0, 1.0])
    assert np.degrees(np.arccos(np.clip(both.turns[0].inv().apply(both.up) @ up, -1, 1))) < 1.0
    other = log_of(lambda t: walk_at(np.asarray(t) * 1.7 + 9), 4.0)
    with pytest.raises(InputError, match="another take"):
        with_log(seen, other, "other.csv")
    rows = np.column_stack([other.time_s, other.gyro_rad_s, other.accel_m_s2])
    write_inertial(tmp_path / "other.csv", rows)
    target = tmp_path / "turns.csv"
    assert main(["steady", str(shaken), str(target), "--log", str(tmp_path / "other.csv")]) == 2
    assert "another take" in capsys.readouterr().err and not target.exists()


def test_the_command_writes_the_cameras_own_turn(shaken, tmp_path, capsys):
    target = tmp_path / "turns.csv"
    assert main(["steady", str(shaken), str(target)]) == 0 and "60 moments" in capsys.readouterr().out
    table = np.genfromtxt(target, delimiter=",", names=True)
    assert table.dtype.names == ("time_s", "qw", "qx", "qy", "qz", "trust")
    turns = Rotation.from_quat(np.stack([table[n] for n in ("qx", "qy", "qz", "qw")], axis=1))
    truth = true_turns()
    assert np.degrees(((truth[0].inv() * truth).inv() * turns).magnitude()).max() < 0.1
    assert main(["steady", str(shaken), str(target), "--mode", "level", "--strength", "0.4"]) == 0
    assert main(["steady", str(shaken), str(target), "--mode", "heading"]) == 2  # it does not travel, and that is said
    assert "travels is not known" in capsys.readouterr().err
    assert main(["steady", str(shaken), str(target), "--strength", "900"]) == 2


def test_what_was_found_is_kept_and_stopping_leaves_nothing(shaken):
    import threading

    footage, stop = open_footage(shaken), threading.Event()
    stop.set()
    if known_orientation(footage) is None:
        with pytest.raises(Cancelled):
            orientation_of(footage, stop=stop)
    found = orientation_of(footage)
    kept = orientation_of(footage, stop=stop)  # nothing is sought again
    assert np.array_equal(kept.quaternions, found.quaternions) and kept.made_by == found.made_by


def test_logs_are_read_by_the_names_and_units_of_their_columns(tmp_path):
    head = "Time (ms), Gyro X [deg/s], gyro_y_deg_s, gyro_z_deg_s, ACC_X_g, acc_y_g, acc_z_g"
    (tmp_path / "REC_1.CSV").write_text(
        head + "\n" + "".join(f"{10 * k},90,0,0,0,0,1\n" for k in range(30)) + "5,1,1,1,1,1,1\n"
    )
    log = read_log(tmp_path / "REC_1.CSV")
    assert len(log.time_s) == 30 and log.time_s[-1] == pytest.approx(0.29)
    assert log.gyro_rad_s[0, 0] == pytest.approx(np.pi / 2) and log.accel_m_s2[0, 2] == pytest.approx(9.80665)
    assert (
        log_beside([tmp_path / "rec_1.mp4"]) == tmp_path / "REC_1.CSV" and log_beside([tmp_path / "rec_2.mp4"]) is None
    )
    for content, words in (
        ("a,b\n1,2\n", "no inertial|not an inertial"),
        (head + "\n1,2\n", "no row"),
        (head + "\n", "hardly"),
    ):
        (tmp_path / "bad.csv").write_text(content)
        with pytest.raises(InputError, match=words):
            read_log(tmp_path / "bad.csv")


def some_walk() -> Orientation:
    times = np.arange(200) / 50.0
    lean = Rotation.from_euler("y", 20, degrees=True)  # the world of the first picture is not level
    return Orientation(times, (lean * walk_at(times)).as_quat(), np.ones(200), up=lean.apply([0.0, 0.0, 1.0]))


def test_ways_to_hold_still():
    walk = some_walk()
    lock, level, smooth = (held(walk, mode, 0.5) for mode in ("lock", "level", "smooth"))
    turns = walk.turns.as_matrix()
    still = np.einsum("nij,nkj->nik", lock.at(walk.time_s), turns)  # from the world to the held frame
    assert np.ptp(still, axis=0).max() < 1e-6
    assert np.allclose(still[0] @ walk.up, [0, 0, 1], atol=1e-9)
    upright = np.einsum("nij,nkj->nik", level.at(walk.time_s), turns)
    assert np.allclose(upright @ walk.up, [0, 0, 1], atol=1e-9)
    own = Rotation.from_matrix(np.einsum("nij,njk->nik", turns, smooth.at(walk.time_s).transpose(0, 2, 1)))

    def shake_of(turning: Rotation) -> float:
        return float(
            np.degrees(
                (turning[:-2].inv() * turning[1:-1] * (turning[1:-1].inv() * turning[2:]).inv()).magnitude()
            ).max()
        )

    assert shake_of(own) < 0.1 * shake_of(walk.turns)
    blank = Orientation(walk.time_s, walk.quaternions, walk.trust)
    with pytest.raises(InputError, match="up in this recording"):
        held(blank, "level")
    assert np.allclose(held(blank, "lock").at(0.0), np.eye(3), atol=1e-9)


def test_a_horizon_is_set_by_two_points():
    for pitch, roll in ((12.0, 7.0), (-30.0, 60.0), (0.0, 0.0), (70.0, -20.0)):
        matrix = view_matrix(0.0, pitch, roll)
        a, b = (matrix.T @ np.array([np.cos(t), np.sin(t), 0.0]) for t in (0.4, 2.1))
        assert horizon_through(a, b) == pytest.approx((pitch, roll), abs=1e-3)
        assert horizon_of(matrix.T @ [0, 0, 1]) == pytest.approx((pitch, roll), abs=1e-3)
    assert horizon_through(np.array([1.0, 0, 0]), np.array([0.99, 0.05, 0.0])) is None


def shaken_by(rate_hz, log_hz, offset_s, gain=1.0, length_s=12.0):
    """A camera that shakes at several frequencies, seen by its pictures and written by its gyroscope on a clock of its own."""
    fine = np.arange(-1.0, length_s + 1.0, 1e-3)
    spin = np.stack(
        [np.sin(2 * np.pi * f * fine + p) * a for f, p, a in ((2.3, 0.2, 0.5), (4.1, 1.0, 0.4), (1.2, 2.0, 0.7))],
        axis=1,
    )
    turns = [Rotation.identity()]
    for step in spin[:-1] * 1e-3:
        turns.append(turns[-1] * Rotation.from_rotvec(step))
    all_turns = Rotation.concatenate(turns)
    pictures = np.arange(0.0, length_s, 1.0 / rate_hz)
    at = np.searchsorted(fine, pictures - 1e-9)
    seen = Orientation(pictures, all_turns[at].as_quat(), np.ones(len(pictures)))
    logged = np.arange(0.0, length_s, 1.0 / log_hz)
    gyro = np.stack([np.interp(logged, fine, c) for c in spin.T], axis=1) * gain
    return seen, Log(logged + offset_s, gyro, np.tile([0.0, 0.0, 9.81], (len(logged), 1)))


@pytest.mark.parametrize("log_hz", [60.0, 90.0, 100.0, 200.0, 480.0])
@pytest.mark.parametrize("offset_s", [0.0, 0.037])
def test_a_logs_clock_is_found_to_two_milliseconds_however_often_it_was_written(log_hz, offset_s):
    """Two samples of a log at 60 Hz between two pictures are an even number: a window of them has no middle of its own."""
    assert log_offset_s(*shaken_by(30.0, log_hz, offset_s)) == pytest.approx(offset_s, abs=0.002)


@pytest.mark.parametrize(("gain", "fits"), [(1.3, True), (1.42, False), (0.78, True), (0.7, False), (57.3, False)])
def test_a_log_that_shakes_otherwise_than_its_picture_is_refused(gain, fits):
    """57.3: degrees written where radians are meant."""
    assert (log_offset_s(*shaken_by(30.0, 200.0, 0.01, gain)) is not None) == fits

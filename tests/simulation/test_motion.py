import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from glintor.errors import InputError
from glintor.media.inertial import read_log, write_inertial
from glintor.placement.stick import generic_stick, sway_hz
from glintor.simulation import motion
from glintor.simulation.pose import turned
from tests.simulation.test_place import RIG, other


@pytest.mark.parametrize("carrier", ["boat", "walker", "ground"])
def test_integrating_the_exact_gyro_gives_the_pose(carrier):
    setups = {"boat": "rail_clamp", "walker": "held_behind", "ground": "mini_tripod"}
    moves = motion.motion_of(other(setup=setups[carrier], carrier=carrier), 3)
    log = motion.inertial_log(moves, 30.0, 3, motion.EXACT)
    rates = (log[1:, 1:4] + log[:-1, 1:4]) / 2.0
    pose = moves.turns(log[:1, 0])[0]
    worst = 0.0
    truth = moves.turns(log[1:, 0])
    for number, step in enumerate(Rotation.from_rotvec(rates / motion.RATE_HZ)):
        pose = pose * step
        worst = max(worst, float(np.degrees((pose.inv() * truth[number]).magnitude())))
    assert worst < 0.1
    swing = np.degrees((moves.turns(log[:1, 0])[0].inv() * moves.turns(log[:, 0])).magnitude())
    assert swing.max() > (0.3 if carrier != "ground" else 0.003)


def test_the_accelerometer_feels_gravity_and_what_moves_it():
    moves = motion.motion_of(RIG, 3)
    felt = motion.inertial_log(moves, 20.0, 3, motion.EXACT)[:, 4:]
    assert np.linalg.norm(felt.mean(axis=0)) == pytest.approx(motion.GRAVITY_M_S2, rel=0.01)
    still = motion.motion_of(other(setup="mini_tripod", carrier="ground", stick_m=0.0), 3)
    upright = motion.inertial_log(still, 2.0, 3, motion.EXACT)[:, 4:]
    assert upright == pytest.approx(np.tile([0.0, 0.0, motion.GRAVITY_M_S2], (401, 1)), abs=0.02)


def test_the_stick_sways_at_its_own_frequency():
    rig = other(setup="mini_tripod", carrier="ground", stick_m=1.2)
    log = motion.inertial_log(motion.motion_of(rig, 5), 30.0, 5, motion.EXACT)
    spectrum = np.abs(np.fft.rfft(log[:, 5] - log[:, 5].mean()))
    peak = np.fft.rfftfreq(len(log), 1 / motion.RATE_HZ)[spectrum.argmax()]
    assert peak == pytest.approx(sway_hz(generic_stick(1.2)), rel=0.08)


def test_a_log_has_bias_and_noise_of_the_stated_size_and_can_be_made_again():
    moves = motion.motion_of(RIG, 3)
    exact, noisy = motion.inertial_log(moves, 20.0, 9, motion.EXACT), motion.inertial_log(moves, 20.0, 9)
    off = noisy[:, 1:] - exact[:, 1:]
    assert off[:, :3].std(axis=0) == pytest.approx(np.full(3, 0.006), rel=0.1)
    assert off[:, 3:].std(axis=0) == pytest.approx(np.full(3, 0.08), rel=0.1)
    assert (noisy == motion.inertial_log(moves, 20.0, 9)).all()


def test_a_log_is_read_as_it_was_written_and_a_broken_one_is_refused(tmp_path):
    log, file = motion.inertial_log(motion.motion_of(RIG, 3), 1.0, 9), tmp_path / "clip-0001.inertial.csv"
    write_inertial(file, log)
    read = read_log(file)
    assert np.column_stack([read.time_s, read.gyro_rad_s, read.accel_m_s2]) == pytest.approx(log, abs=1e-5)
    file.write_text(file.read_text().replace("0.0050,", "0.0050,x"))
    with pytest.raises(InputError, match="no row of numbers"):
        read_log(file)
    file.write_text("time\n1\n")
    with pytest.raises(InputError, match="not an inertial log"):
        read_log(file)


def test_a_turn_about_a_vector_is_scipys():
    vector = np.array([0.3, -0.2, 0.9])
    assert turned(vector) == pytest.approx(Rotation.from_rotvec(vector).as_matrix())


def test_gravity_is_felt_in_the_bodys_own_axes():
    """A camera rolled clockwise by 10 degrees (positive about its x, ahead) feels its upward push on its right-hand side's
    opposite: +g sin(10) along y, its left (ROS REP 103 axes; at rest an accelerometer reads the push of the ground)."""
    still = motion.Motion(
        np.array([1e-6]), np.array([np.pi / 2]), np.zeros((1, 3)), np.array([[np.radians(10.0), 0.0, 0.0]]), 40.0
    )
    felt = still.accel_m_s2(np.array([0.0]))[0] / motion.GRAVITY_M_S2
    assert felt == pytest.approx([0.0, np.sin(np.radians(10.0)), np.cos(np.radians(10.0))], abs=1e-6)
    nods = motion.Motion(
        np.array([1e-6]), np.array([np.pi / 2]), np.zeros((1, 3)), np.array([[0.0, np.radians(10.0), 0.0]]), 40.0
    )
    felt = nods.accel_m_s2(np.array([0.0]))[0] / motion.GRAVITY_M_S2  # about y, left: the front sinks
    assert felt == pytest.approx([-np.sin(np.radians(10.0)), 0.0, np.cos(np.radians(10.0))], abs=1e-6)

"""How the camera moves on its mount: the carrier's own motion, a walker's bounce, the engine's buzz, the stick's sway.

Every motion is a sum of sines, so that places, rates and accelerations are exact at any moment and the same for the
same seed. Offsets are metres along the scene's axes (ahead, left, up), turns are rotation vectors of the body (x ahead,
y left, z up; radians).
"""

from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct

from glintor.placement.holding import GRAVITY_M_S2
from glintor.placement.stick import compliance_m_n, generic_stick, sway_hz
from glintor.simulation.pose import Array, Pose, levelled, turned
from glintor.simulation.rig import Rig

if TYPE_CHECKING:
    from scipy.spatial.transform import Rotation

RATE_HZ = 200.0
_SPREAD = (0.94, 1.0, 1.06)  # each motion is three near frequencies, so that it swells and ebbs


class Motion(Struct, frozen=True, eq=False):
    """Sines: frequency (n,) in Hz, phase (n,), and amplitudes (n, 3) of offset in metres and of turn in radians."""

    frequency_hz: Array
    phase_rad: Array
    offset_m: Array
    turn_rad: Array
    heading_deg: float

    def _sum(self, amplitude: Array, times_s: Array, derivative: int = 0) -> Array:
        rate = 2.0 * np.pi * self.frequency_hz
        angle = times_s[:, None] * rate + self.phase_rad + derivative * np.pi / 2.0
        return np.asarray((np.sin(angle) * rate**derivative) @ amplitude)

    def at(self, time_s: float) -> Pose:
        """How the camera is moved and turned from its nominal place at a moment."""
        moment = np.array([time_s])
        return Pose(self._sum(self.offset_m, moment)[0], turned(self._sum(self.turn_rad, moment)[0]))

    def turns(self, times_s: Array) -> "Rotation":
        """Body to scene at each moment."""
        from scipy.spatial.transform import Rotation

        nominal = Rotation.from_matrix(levelled(self.heading_deg))
        return nominal * Rotation.from_rotvec(self._sum(self.turn_rad, times_s))

    def gyro_rad_s(self, times_s: Array) -> Array:
        """(n, 3) angular velocity in the body's axes: the logarithm of a short turn about each moment."""
        short = 5e-4
        before, after = self.turns(times_s - short), self.turns(times_s + short)
        return np.asarray((before.inv() * after).as_rotvec() / (2.0 * short))

    def accel_m_s2(self, times_s: Array) -> Array:
        """(n, 3) what an accelerometer at the camera feels, in the body's axes; +g upwards at rest."""
        felt = self._sum(self.offset_m, times_s, 2) + np.array([0.0, 0.0, GRAVITY_M_S2])
        return np.asarray(self.turns(times_s).inv().apply(felt))


def motion_of(rig: Rig, seed: int) -> Motion:
    """The motion of a camera on its mount; the stick sways at its computed frequency."""
    lines = [(sway.hz, sway.offset_mm, sway.turn_deg) for sway in rig.carrier.sways]
    lines = lines or [(0.4, (0.0, 0.0, 0.0), (0.0, 0.0, 0.0))]
    if rig.stick_m > 0.0:
        sections = generic_stick(rig.stick_m)
        push_n = rig.carrier.drive_m_s2 * (0.2 + sum(s.mass_kg for s in sections))
        sway_m = compliance_m_n(sections) * push_n
        slope = float(np.degrees(1.5 * sway_m / rig.stick_m))  # of a beam's tip, 3/2 of its sway over its length
        lines.append((sway_hz(sections), (sway_m * 600.0, sway_m * 1000.0, 0.0), (slope, slope * 0.6, 0.0)))
    rng = np.random.default_rng([seed, 77])
    frequency = np.array([hz * spread for hz, _, _ in lines for spread in _SPREAD])
    share = rng.uniform(0.2, 0.45, (len(frequency), 1))
    offset = np.array([mm for _, mm, _ in lines for _ in _SPREAD]) / 1000.0 * share
    turn = np.radians(np.array([deg for _, _, deg in lines for _ in _SPREAD])) * share
    return Motion(frequency, rng.uniform(0.0, 2.0 * np.pi, len(frequency)), offset, turn, rig.heading_deg)


class Inertial(Struct, frozen=True):
    """A log's errors: constant bias and white noise of each axis (small MEMS sensors; judgement, no source)."""

    gyro_bias_rad_s: float = 0.004
    gyro_noise_rad_s: float = 0.006
    accel_bias_m_s2: float = 0.06
    accel_noise_m_s2: float = 0.08


EXACT = Inertial(0.0, 0.0, 0.0, 0.0)


def inertial_log(motion: Motion, duration_s: float, seed: int, errors: Inertial = Inertial()) -> Array:
    """(n, 7) rows of `media.inertial.COLUMNS` at 200 Hz from the take's first frame to its end."""
    times = np.arange(round(duration_s * RATE_HZ) + 1) / RATE_HZ
    rng = np.random.default_rng([seed, 78])
    gyro, accel = motion.gyro_rad_s(times), motion.accel_m_s2(times)
    for values, bias, noise in (
        (gyro, errors.gyro_bias_rad_s, errors.gyro_noise_rad_s),
        (accel, errors.accel_bias_m_s2, errors.accel_noise_m_s2),
    ):
        values += bias * rng.standard_normal(3) + noise * rng.standard_normal(values.shape)
    return np.column_stack([times, gyro, accel])

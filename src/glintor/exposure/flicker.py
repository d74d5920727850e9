"""Lamps on the mains: safe shutter times and the beat that is left."""


def safe_times_s(mains_hz: float, longest_s: float) -> tuple[float, ...]:
    """Shutter times that see whole pulses of light: multiples of 1/(2 f) up to `longest_s`."""
    pulse = 1.0 / (2.0 * mains_hz)
    return tuple(pulse * n for n in range(1, int(longest_s / pulse + 1e-9) + 1))


def is_safe(mains_hz: float, shutter_s: float, tolerance: float = 0.02) -> bool:
    """Whether a time is a whole number of pulses, within a share of one."""
    pulses = shutter_s * 2.0 * mains_hz
    return pulses > 0.5 and abs(pulses - round(pulses)) <= tolerance


def beat_hz(mains_hz: float, rate_fps: float) -> float:
    """Residual beat |n x fps - 2 f| for the nearest n: how fast brightness is seen to roll."""
    pulses = 2.0 * mains_hz
    return abs(max(round(pulses / rate_fps), 1) * rate_fps - pulses)

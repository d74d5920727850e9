"""A camera spun on a cord."""

import math

CORD_FACTOR = 5.0  # a cord is to stand five times the pull (common practice, no source)
CLEAR_MARGIN_M = 1.0  # beyond the cord (judgement, no source)


def pull_n(mass_kg: float, turns_per_s: float, radius_m: float) -> float:
    """Pull on the cord: m (2 pi n)^2 r."""
    return float(mass_kg * (2.0 * math.pi * turns_per_s) ** 2 * radius_m)


def rim_speed_m_s(turns_per_s: float, radius_m: float) -> float:
    """2 pi r n."""
    return 2.0 * math.pi * radius_m * turns_per_s

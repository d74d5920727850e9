"""How long battery and card last, and how warm a camera gets: the budget's formulas."""

import math
from functools import lru_cache

from msgspec import Struct

USUAL_AIR_C = 20.0  # at which batteries are stated; where nobody knows the day's
STATED_MIN = 80.0  # of continuous recording at 20 degrees (common practice, no source)
_COLD_C = ((-10.0, 0.55), (0.0, 0.75), (20.0, 1.0), (45.0, 1.0))  # share of the stated time (judgement)
WIRELESS_SHARE, STANDBY_SHARE = 0.85, 0.35
HOT_C, COOL_AGAIN_C = 62.0, 50.0  # inside; it stops, and it may begin again (judgement)
_RISE_C, _WARMING_MIN = 30.0, 14.0
V30_MB_S = 30.0  # least sustained writing of that class (SD Association)


@lru_cache(maxsize=64)
def battery_min(air_c: float, *, wireless: bool, stated_min: float = STATED_MIN) -> float:
    """Minutes of recording on a full battery: stated x temperature factor x wireless factor."""
    cold, share = zip(*_COLD_C, strict=True)
    factor = share[0] if air_c <= cold[0] else share[-1]
    for low, high, a, b in zip(cold[:-1], cold[1:], share[:-1], share[1:], strict=True):
        if low <= air_c <= high:
            factor = a + (b - a) * (air_c - low) / (high - low)
    return stated_min * factor * (WIRELESS_SHARE if wireless else 1.0)


def card_min(free_bytes: float, mbit_s: float) -> float:
    """Minutes of recording that fit: GB x 8000 / Mbit/s / 60."""
    return free_bytes / 1e9 * 8000.0 / mbit_s / 60.0


class Body(Struct, frozen=True):
    """Charge (0 to 1) and inner temperature of a camera; hot from HOT_C on until it has cooled to COOL_AGAIN_C."""

    charge: float = 1.0
    inner_c: float = 18.0
    hot: bool = False

    def after(self, minutes: float, air_c: float, *, recording: bool, wireless: bool) -> "Body":
        """So many minutes later: charge runs down evenly, warmth goes towards the air plus the electronics' rise."""
        drain = minutes / battery_min(air_c, wireless=wireless) * (1.0 if recording else STANDBY_SHARE)
        aim = air_c + (_RISE_C if recording else _RISE_C * 0.3)
        inner = aim + (self.inner_c - aim) * math.exp(-minutes / _WARMING_MIN)
        return Body(max(self.charge - drain, 0.0), inner, inner >= HOT_C or (self.hot and inner > COOL_AGAIN_C))

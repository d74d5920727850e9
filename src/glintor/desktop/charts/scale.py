"""A linear scale between values and pixels, with round tick values."""

import math
from typing import overload

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

FAR_PX = 1e6  # nothing is drawn farther out: what paints ends the program where a place is beyond its numbers, or none


class Scale(Struct, frozen=True):
    """Values low..high lie at pixels start..end; start may be the larger one (upward axes). What is no number lies far outside; in an
    array it stays none, for lines that break there."""

    low: float
    high: float
    start: float
    end: float

    @overload
    def px(self, value: float) -> float: ...
    @overload
    def px(self, value: NDArray[np.float64]) -> NDArray[np.float64]: ...
    def px(self, value: float | NDArray[np.float64]) -> float | NDArray[np.float64]:
        wide = self.high - self.low or 1.0
        if isinstance(value, np.ndarray):
            with np.errstate(all="ignore"):
                return np.clip(self.start + (value - self.low) / wide * (self.end - self.start), -FAR_PX, FAR_PX)
        at = self.start + (value - self.low) / wide * (self.end - self.start)
        return min(max(at, -FAR_PX), FAR_PX) if at == at else -FAR_PX

    def value(self, px: float) -> float:
        return self.low + (px - self.start) / (self.end - self.start) * (self.high - self.low)

    @property
    def px_per_unit(self) -> float:
        return abs((self.end - self.start) / (self.high - self.low or 1.0))

    def ticks(self, spacing_px: float = 70.0) -> list[float]:
        """Round values about `spacing_px` apart (steps of 1, 2 or 5 times a power of ten)."""
        if not (math.isfinite(self.low) and math.isfinite(self.high) and self.px_per_unit > 0.0):
            return []
        raw = spacing_px / self.px_per_unit
        power = 10.0 ** math.floor(math.log10(raw))
        step = next(m * power for m in (1, 2, 5, 10) if m * power >= raw * 0.999)
        first = math.ceil(self.low / step - 1e-9)
        return [n * step for n in range(first, math.floor(self.high / step + 1e-9) + 1)]

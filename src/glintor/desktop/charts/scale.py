"""A linear scale between values and pixels, with round tick values."""

import math
from typing import overload

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray


class Scale(Struct, frozen=True):
    """Values low..high lie at pixels start..end; start may be the larger one (upward axes)."""

    low: float
    high: float
    start: float
    end: float

    @overload
    def px(self, value: float) -> float: ...
    @overload
    def px(self, value: NDArray[np.float64]) -> NDArray[np.float64]: ...
    def px(self, value: float | NDArray[np.float64]) -> float | NDArray[np.float64]:
        return self.start + (value - self.low) / (self.high - self.low) * (self.end - self.start)

    def value(self, px: float) -> float:
        return self.low + (px - self.start) / (self.end - self.start) * (self.high - self.low)

    @property
    def px_per_unit(self) -> float:
        return abs((self.end - self.start) / (self.high - self.low))

    def ticks(self, spacing_px: float = 70.0) -> list[float]:
        """Round values about `spacing_px` apart (steps of 1, 2 or 5 times a power of ten)."""
        raw = spacing_px / self.px_per_unit
        power = 10.0 ** math.floor(math.log10(raw))
        step = next(m * power for m in (1, 2, 5, 10) if m * power >= raw * 0.999)
        first = math.ceil(self.low / step - 1e-9)
        return [n * step for n in range(first, math.floor(self.high / step + 1e-9) + 1)]

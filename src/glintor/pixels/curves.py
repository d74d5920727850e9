"""From code values to linear light: the curves that pictures come with, and a guess which of them it is."""

from typing import Literal

import numpy as np
from numpy.typing import NDArray

Curve = Literal["display", "log", "linear"]
CURVES: dict[Curve, str] = {"display": "display (sRGB)", "log": "log (ACEScct)", "linear": "linear light"}
_SAMPLES = 60_000
_LOG_BLACK, _LOG_WHITE = 0.07, 0.90  # a log picture leaves the lowest and the highest codes empty (judgement)


def linear_of(code: NDArray[np.floating], curve: Curve) -> NDArray[np.float32]:
    """Linear values of codes of 0 to 1. Sources: IEC 61966-2-1 for display; Academy S-2016-001 for log, 1 at code 0.555."""
    code = np.asarray(code, dtype=np.float32)
    if curve == "linear":
        return code
    if curve == "display":
        return np.where(code <= 0.04045, code / 12.92, ((code + 0.055) / 1.055) ** 2.4).astype(np.float32)
    high = np.exp2(code * np.float32(17.52) - np.float32(9.72))
    low = (code - np.float32(0.0729055341958355)) / np.float32(10.5402377416545)
    return np.where(code > 0.155251141552511, high, low).astype(np.float32)


def display_of(linear: NDArray[np.floating]) -> NDArray[np.float32]:
    """sRGB codes of 0 to 1 of linear values, what lies beyond held (IEC 61966-2-1)."""
    x = np.clip(linear, 0.0, 1.0)
    return np.where(x <= 0.0031308, 12.92 * x, 1.055 * x ** (1 / 2.4) - 0.055).astype(np.float32)


def table_of(curve: Curve, depth: int) -> NDArray[np.float32]:
    """(2^depth,) linear value of each whole code."""
    return linear_of(np.arange(2**depth, dtype=np.float64) / (2**depth - 1.0), curve)


def guessed(pixels: NDArray[np.generic]) -> tuple[Curve, str]:
    """Which curve a picture (H, W, 3) seems to have, and by what one sees it."""
    if pixels.dtype.kind == "f":
        return "linear", "its file holds light"
    some = pixels.reshape(-1, 3)[:: max(pixels.shape[0] * pixels.shape[1] // _SAMPLES, 1)]
    code = some.mean(axis=1) / float(np.iinfo(pixels.dtype).max)  # type: ignore[type-var]
    low, high = np.percentile(code, (0.5, 99.5))
    if low > _LOG_BLACK and high < _LOG_WHITE and high - low < 0.72:
        return "log", "it has neither black nor white"
    return "display", "it reaches from black to white"

"""The colour of light and the white balance that makes it grey."""

import numpy as np
from numpy.typing import NDArray

DAYLIGHT_K = 4000.0  # from here on light is taken to be daylight, below a lamp's


def daylight_xy(kelvin: float) -> tuple[float, float]:
    """Chromaticity of daylight of 4000 to 25000 K. Source: CIE 15:2004, equations for the D illuminants."""
    t = 1e3 / min(max(kelvin, DAYLIGHT_K), 25000.0)
    if kelvin <= 7000.0:
        x = -4.6070 * t**3 + 2.9678 * t**2 + 0.09911 * t + 0.244063
    else:
        x = -2.0064 * t**3 + 1.9018 * t**2 + 0.24748 * t + 0.237040
    return x, -3.000 * x * x + 2.870 * x - 0.275


def _black_body_xy(kelvin: float) -> tuple[float, float]:
    """Chromaticity of a black body of 1667 to 4000 K. Source: cubic fit of Kim et al., US patent 7024034 (from memory)."""
    t = 1e3 / max(kelvin, 1667.0)
    x = -0.2661239 * t**3 - 0.2343589 * t**2 + 0.8776956 * t + 0.179910
    if kelvin >= 2222.0:
        return x, -0.9549476 * x**3 - 1.37418593 * x**2 + 2.09137015 * x - 0.16748867
    return x, -1.1063814 * x**3 - 1.34811020 * x**2 + 2.18555832 * x - 0.20219683


def white_of_patch(linear_rgb: NDArray[np.floating], set_k: float) -> tuple[float, float]:
    """The white balance that makes a patch (3,) of linear values grey, in kelvin, and its tint (distance from the daylight line in
    CIE 1960 uv x 1000, above 0 greener). set_k: what the camera was set to, whose white is grey in the picture.

    The light's colour is that white's times what is left in the patch. Correlated colour temperature: McCamy, Color Res. Appl. 17
    (1992) 142, good to 2 K round 2000 to 12500 K.
    """
    rgb = np.asarray(linear_rgb, dtype=np.float64)
    if not (np.isfinite(rgb).all() and rgb.min() > 1e-5):
        raise ValueError("too dark, or clipped in a colour")
    x, y = _xy(white_rgb(set_k) * rgb / rgb[1])
    n = (x - 0.3320) / (0.1858 - y)
    kelvin = float(449.0 * n**3 + 3525.0 * n**2 + 6823.3 * n + 5520.33)
    near = _xy(white_rgb(kelvin))
    v, v0 = (6.0 * b / (-2.0 * a + 12.0 * b + 3.0) for a, b in ((x, y), near))
    return kelvin, 1000.0 * (v - v0)


_TO_RGB = np.array([[3.2406, -1.5372, -0.4986], [-0.9689, 1.8758, 0.0415], [0.0557, -0.2040, 1.0570]])  # IEC 61966-2-1


def white_rgb(kelvin: float) -> NDArray[np.float64]:
    """Linear red, green, blue of light of that temperature: daylight from 4000 K, below the black body (Kim et al. fit)."""
    x, y = daylight_xy(kelvin) if kelvin >= DAYLIGHT_K else _black_body_xy(kelvin)
    rgb = _TO_RGB @ np.array([x / y, 1.0, (1.0 - x - y) / y])
    return np.asarray(rgb / rgb[1])


def _xy(rgb: NDArray[np.float64]) -> tuple[float, float]:
    xyz = np.linalg.solve(_TO_RGB, rgb)
    return float(xyz[0] / xyz.sum()), float(xyz[1] / xyz.sum())

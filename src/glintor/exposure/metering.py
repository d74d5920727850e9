"""Light measured in a sphere: each pixel weighted by its solid angle."""

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.exposure.values import ev_of_luminance
from glintor.sphere.equirect import lonlat_of_pixel, solid_angle_weight

LUMA = np.array([0.2126, 0.7152, 0.0722])  # Rec. ITU-R BT.709-6, 3.2


class Light(Struct, frozen=True):
    """EV100 of a sphere: the mean of the whole, of the front and rear lens, and what darkest and lightest parts hold.

    low and high are the 2nd and 99.5th percentile by solid angle.
    """

    mean: float
    front: float
    rear: float
    low: float
    high: float

    @property
    def step(self) -> float:
        """Stops between the two lenses."""
        return abs(self.front - self.rear)

    @property
    def span(self) -> float:
        """Stops the scene holds."""
        return self.high - self.low


def meter(luminance_rgb: NDArray[np.floating]) -> Light:
    """Measures a sphere of luminance (H, W, 3) in cd/m2. A metered mean is of logarithms, as a matrix meter's is.

    The sun's own disc would outshine everything: luminance is held to 64 times the plain mean.
    """
    luma = np.asarray(luminance_rgb, dtype=np.float64) @ LUMA
    height, width = luma.shape
    weight = np.repeat(solid_angle_weight(height)[:, None], width, axis=1)
    plain = float((luma * weight).sum() / weight.sum())
    ev = ev_of_luminance(np.clip(luma, plain * 1e-5, plain * 64.0))
    lon, _ = lonlat_of_pixel(np.arange(width), 0.0, width, height)
    front = np.broadcast_to(np.abs(lon) < 90.0, ev.shape)
    order = np.argsort(ev, axis=None)
    share = np.cumsum(weight.ravel()[order])
    share /= share[-1]
    low, high = (float(ev.ravel()[order][np.searchsorted(share, q)]) for q in (0.02, 0.995))
    mean, ahead, behind = (
        float((ev * weight)[part].sum() / weight[part].sum()) for part in (np.full(ev.shape, True), front, ~front)
    )
    return Light(mean, ahead, behind, low, high)

"""Light measured in a sphere: each pixel weighted by its solid angle."""

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.exposure.values import ev_of_luminance
from glintor.pixels.colour import LUMA_709
from glintor.sphere.equirect import lonlat_of_pixel, solid_angle_weight

LUMA = np.array(LUMA_709)


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


LOW_EV, HIGH_EV, STEP_EV = -8.0, 24.0, 0.125
BINS = int((HIGH_EV - LOW_EV) / STEP_EV)
EVS = LOW_EV + STEP_EV * (np.arange(BINS) + 0.5)  # the middle of each bin of brightness


class Measured(Struct, frozen=True, eq=False):
    """One moment's light: metered EV100 of the whole sphere, front lens and rear lens; shares by brightness (2, BINS) of each
    lens and (BINS,) of the planned views."""

    metered: tuple[float, float, float]
    lenses: NDArray[np.float64]
    shown: NDArray[np.float64]


def measured(luminance_rgb: NDArray[np.floating], shown: NDArray[np.bool_] | None = None) -> Measured:
    """A sphere of luminance (H, W, 3) in cd/m2 as a course takes it. shown (H, W): what the planned views show, all where None."""
    luma = np.asarray(luminance_rgb, dtype=np.float64) @ LUMA
    height, width = luma.shape
    weight = np.repeat(solid_angle_weight(height)[:, None], width, axis=1)
    ev = ev_of_luminance(np.maximum(luma, 1e-6))
    number = np.clip(((ev - LOW_EV) / STEP_EV).astype(np.int64), 0, BINS - 1)
    lon, _ = lonlat_of_pixel(np.arange(width), 0.0, width, height)
    front = np.broadcast_to(np.abs(lon) < 90.0, ev.shape)

    def shares(part: NDArray[np.bool_]) -> NDArray[np.float64]:
        found = np.bincount(number[part], weights=weight[part], minlength=BINS)
        return np.asarray(found / max(float(found.sum()), 1e-12))

    light = meter(luminance_rgb)
    seen = np.full(ev.shape, True) if shown is None or not shown.any() else shown
    return Measured((light.mean, light.front, light.rear), np.stack([shares(front), shares(~front)]), shares(seen))


def told(mean_ev: float, span_stops: float, rear_ev: float | None = None) -> Measured:
    """The light of a meter's reading or of a table: brightness spread evenly round it in the way of a bell, so wide that all but
    a hundredth lies within the span."""
    rear = mean_ev if rear_ev is None else rear_ev
    spread = max(span_stops, 0.5) / 5.2

    def bell(middle: float) -> NDArray[np.float64]:
        share = np.exp(-0.5 * ((EVS - middle) / spread) ** 2)
        return np.asarray(share / share.sum())

    lenses = np.stack([bell(mean_ev), bell(rear)])
    return Measured(((mean_ev + rear) / 2.0, mean_ev, rear), lenses, lenses.mean(axis=0))


def light_of(one: Measured) -> Light:
    """What a ladder shows of a moment's light."""
    share = np.cumsum(one.lenses.mean(axis=0))
    low, high = (float(EVS[np.argmax(share >= q * share[-1])]) for q in (0.02, 0.995))
    return Light(*one.metered, low, high)


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

"""From luminance to code values: exposure, clipping, noise and a display curve.

A linear value of 0.18 is mid grey: the luminance that a reflected-light meter reads as the setting's EV100.
Full scale lies HEADROOM_STOPS above it. Curves take linear values and give 0 to 1.
"""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from glintor.errors import InputError
from glintor.exposure.solve import HEADROOM_STOPS
from glintor.exposure.values import ev100, luminance_cd_m2
from glintor.project.model import Camera, Exposure

MID_GREY = 0.18
FULL_SCALE = MID_GREY * 2.0**HEADROOM_STOPS
ELECTRONS_ISO100 = 150_000.0  # at full scale, after the camera's own noise reduction (judgement, no source)
READ_NOISE = 9.0  # electrons, likewise

Array = NDArray[np.float32]


def exposed(luminance_rgb: Array, camera: Camera, exposure: Exposure) -> Array:
    """Linear sensor values, unclipped, of a luminance picture under a setting."""
    ev = float(ev100(camera.f_number, exposure.shutter_s, iso=exposure.iso, nd_stops=exposure.nd_stops))
    return luminance_rgb * np.float32(MID_GREY / float(luminance_cd_m2(ev)))


def noisy(linear: Array, iso: float, rng: "np.random.Generator") -> Array:
    """Values with shot and read noise, clipped to full scale. Variance = signal + read^2, in electrons."""
    full = np.float32(ELECTRONS_ISO100 * 100.0 / iso)
    electrons = np.clip(linear, 0.0, FULL_SCALE) * np.float32(full / FULL_SCALE)
    spread = np.sqrt(electrons + np.float32(READ_NOISE**2))
    electrons += spread * rng.standard_normal(linear.shape[:2], dtype=np.float32)[..., None]
    return np.clip(electrons, 0.0, full) * np.float32(FULL_SCALE / full)


def _bt709(x: Array) -> Array:
    """Source: Rec. ITU-R BT.709-6, 1.2, opto-electronic transfer."""
    return np.where(x < 0.018, 4.5 * x, 1.099 * np.power(np.maximum(x, 1e-6), np.float32(0.45)) - 0.099).astype(
        np.float32
    )


def standard_curve(linear: Array) -> Array:
    """A soft shoulder x (1 + x/w^2) / (1 + x), w = full scale (Reinhard et al. 2002, eq. 4), then BT.709; +0.35 stop."""
    x = linear * np.float32(1.28)
    w = np.float32(FULL_SCALE * 1.28)
    return _bt709(np.minimum(x * (1.0 + x / (w * w)) / (1.0 + x), 1.0))


def vivid_curve(linear: Array) -> Array:
    """The standard curve with a steeper middle (smoothstep mix of 35 %) and colours drawn 25 % from grey."""
    y = standard_curve(linear)
    y = 0.65 * y + 0.35 * y * y * (3.0 - 2.0 * y)
    grey = (y @ np.array([0.2126, 0.7152, 0.0722], np.float32))[..., None]
    return np.clip(grey + (y - grey) * np.float32(1.25), 0.0, 1.0)


def log_curve(linear: Array) -> Array:
    """Logarithmic: 11 stops, 7 below mid grey and HEADROOM_STOPS above, spread evenly over the code values."""
    stops = np.log2(np.maximum(linear, 1e-6) / MID_GREY)
    return np.clip((stops + 7.0) / (7.0 + HEADROOM_STOPS), 0.0, 1.0).astype(np.float32)


CURVES: dict[str, Callable[[Array], Array]] = {"standard": standard_curve, "vivid": vivid_curve, "log": log_curve}


def develop(
    luminance_rgb: Array, camera: Camera, exposure: Exposure, rng: "np.random.Generator | None" = None
) -> NDArray[np.uint8]:
    """An 8-bit picture (H, W, 3) of a luminance picture as the camera records it; without `rng` free of noise."""
    if exposure.curve not in CURVES:
        raise InputError(f"There is no curve {exposure.curve}.", advice=f"Choose {', '.join(CURVES)}.")
    linear = exposed(luminance_rgb, camera, exposure)
    held = np.minimum(linear, np.float32(FULL_SCALE)) if rng is None else noisy(linear, exposure.iso, rng)
    return (CURVES[exposure.curve](held) * np.float32(255.0) + np.float32(0.5)).astype(np.uint8)

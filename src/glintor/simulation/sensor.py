"""From luminance to code values: exposure, clipping, noise and a display curve.

A linear value of 0.18 is mid grey: the luminance that a reflected-light meter reads as the setting's EV100.
Full scale lies HEADROOM_STOPS above it. Curves take linear values and give 0 to 1.
"""

from collections.abc import Callable

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.errors import InputError
from glintor.exposure.noise import ELECTRONS_ISO100, FULL_SCALE, MID_GREY, READ_NOISE
from glintor.exposure.values import ev100, luminance_cd_m2
from glintor.exposure.white import white_rgb
from glintor.pixels.colour import LUMA_709
from glintor.project.model import Camera, Exposure

NATURAL_K = 5600.0

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
    grey = (y @ np.array(LUMA_709, np.float32))[..., None]
    return np.clip(grey + (y - grey) * np.float32(1.25), 0.0, 1.0)


def log_curve(linear: Array) -> Array:
    """ACEScct: (log2(x) + 9.72) / 17.52 above 2^-7, below that a straight line; mid grey lies at 0.4136.

    Source: Academy S-2016-001, "ACEScct: A Quasi-Logarithmic Encoding of ACES Data", equations for ACES to ACEScct.
    """
    log = (np.log2(np.maximum(linear, 1e-9)) + 9.72) / 17.52
    return np.clip(np.where(linear > 0.0078125, log, 10.5402377416545 * linear + 0.0729055341958355), 0.0, 1.0).astype(
        np.float32
    )


CURVES: dict[str, Callable[[Array], Array]] = {"standard": standard_curve, "vivid": vivid_curve, "log": log_curve}


def white_gains(kelvin: float) -> Array:
    """(3,) gains of a camera balanced for that daylight; 1 at NATURAL_K, where the place looks as it is."""
    gains = white_rgb(NATURAL_K) / white_rgb(kelvin)
    return np.asarray(gains / gains[1], np.float32)


def sharpened(code: Array, amount: float) -> Array:
    """Values with `amount` of what a blur of 0.8 px takes away added once more (unsharp mask)."""
    import cv2

    return np.clip(code + np.float32(amount) * (code - cv2.GaussianBlur(code, (0, 0), 0.8)), 0.0, 1.0)


_WHY = {
    "standard": "as it will look; little to grade, little to go wrong",
    "vivid": "colourful at once; what is steep clips early and cannot be taken back",
    "log": "holds the whole range for a grade; wants one, and is grey until then",
}


def codes_a_stop(curve: str, stops: float) -> float:
    """8-bit code values of the stop that begins so many stops from mid grey, as the camera writes them."""
    grey = np.float32(MID_GREY) * np.exp2(np.array([stops, stops + 1.0], np.float32))
    codes = CURVES[curve](np.repeat(grey[:, None, None], 3, axis=2))[:, 0, 1] * 255.0
    return float(codes[1] - codes[0])


def profile_words(curve: str) -> str:
    """What a profile gives: code values a stop in the shade and in the light, whether a grade will band, and why one takes it."""
    if curve not in CURVES:
        return ""
    shade, middle, light = (codes_a_stop(curve, stops) for stops in (-3.0, 0.0, 2.0))
    graded = codes_a_stop("standard", 0.0) / max(
        middle, 1e-6
    )  # a grade stretches so many times to look as standard does
    bands = "" if graded < 1.8 else f"; a grade stretches it {graded:.1f} times, so that skies may band in 8 bits"
    return f"{curve}: {shade:.0f}, {middle:.0f}, {light:.0f} code values for a stop in the shade, at mid grey, in the light{bands}. {_WHY.get(curve, '')}."


class Finish(Struct, frozen=True):
    """What the camera does to a picture beside the curve: white balance, in-camera sharpening, HDR.

    hdr_stops  how far a second, shorter exposure of each frame lifts full scale; less noise there, more highlight
    """

    white_k: float = NATURAL_K
    sharpen: float = 0.0
    hdr_stops: float = 0.0


def develop(
    luminance_rgb: Array,
    camera: Camera,
    exposure: Exposure,
    rng: "np.random.Generator | None" = None,
    finish: Finish = Finish(),
) -> NDArray[np.uint8]:
    """An 8-bit picture (H, W, 3) of a luminance picture as the camera records it; without `rng` free of noise."""
    if exposure.curve not in CURVES:
        raise InputError(f"There is no curve {exposure.curve}.", advice=f"Choose {', '.join(CURVES)}.")
    linear = exposed(luminance_rgb, camera, exposure)
    held = np.minimum(linear, np.float32(FULL_SCALE)) if rng is None else noisy(linear, exposure.iso, rng)
    if finish.hdr_stops > 0.0:
        held = _with_short(held, linear, exposure.iso, finish.hdr_stops, rng)
    if finish.white_k != NATURAL_K:
        held = held * white_gains(finish.white_k)
    code = CURVES[exposure.curve](held)
    if finish.sharpen > 0.0:
        code = sharpened(code, finish.sharpen)
    return (code * np.float32(255.0) + np.float32(0.5)).astype(np.uint8)


def _with_short(held: Array, linear: Array, iso: float, stops: float, rng: "np.random.Generator | None") -> Array:
    """The long exposure, and a short one where the long is near clipping, drawn together under full scale.

    Above a quarter of full scale the values bend along r x / (x + r), so that the short exposure's full scale comes to
    full scale and the curve runs on without a corner.
    """
    part = np.float32(2.0**-stops)
    short = linear * part
    short = np.minimum(short, np.float32(FULL_SCALE)) if rng is None else noisy(short, iso, rng)
    share = np.clip((held / np.float32(FULL_SCALE) - 0.6) / 0.3, 0.0, 1.0)
    whole = held + (short / part - held) * share
    full, white = np.float32(FULL_SCALE), np.float32(FULL_SCALE) / part
    knee = np.maximum(whole - full * np.float32(0.25), 0.0)
    room, reach = full * np.float32(0.75), white - full * np.float32(0.25)
    soft = room * reach / (reach - room)
    bent = soft * knee / (knee + soft)
    return np.where(whole > full * np.float32(0.25), full * np.float32(0.25) + np.minimum(bent, room), whole).astype(
        np.float32
    )

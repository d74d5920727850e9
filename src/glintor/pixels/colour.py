"""Between Y'CbCr planes and RGB, with the matrix and range that the clip is tagged with."""

import cv2
import numpy as np
from numpy.typing import NDArray

from glintor.pixels.bands import in_bands
from glintor.pixels.yuv import ColourTags, Yuv

LUMA_709 = (0.2126, 0.7152, 0.0722)  # of red, green and blue (Rec. ITU-R BT.709-6, 3.2)
# Luma weights (red, blue). Source: Rec. ITU-R BT.601-7, 2.5.1; BT.2020-2, table 4.
_WEIGHTS = {"bt601": (0.299, 0.114), "bt709": (LUMA_709[0], LUMA_709[2]), "bt2020": (0.2627, 0.0593)}


def _scales(tags: ColourTags) -> tuple[float, float, float]:
    """Gain of luma, black level and gain of colour differences to full scale 255."""
    return (1.0, 0.0, 1.0) if tags.full_range else (255.0 / 219.0, 16.0, 255.0 / 224.0)


def rgb32(picture: Yuv) -> NDArray[np.uint32]:
    """(H, W) of 0xFFRRGGBB, the form that a window paints fastest."""
    from glintor.pixels.kernels import rgb32_of_yuv

    width, height = picture.size_px
    red, blue = _WEIGHTS[picture.tags.matrix]
    green = 1.0 - red - blue
    gain, black, chroma = _scales(picture.tags)
    u, v = (cv2.resize(plane, (width, height), interpolation=cv2.INTER_LINEAR) for plane in (picture.u, picture.v))
    out = np.empty((height, width), np.uint32)
    rv, bu = 2.0 * (1.0 - red) * chroma, 2.0 * (1.0 - blue) * chroma
    f = np.float32
    gains = (f(gain), f(black), f(rv), f(rv * red / green), f(bu * blue / green), f(bu))
    luma = np.ascontiguousarray(picture.y)
    in_bands(height, lambda first, last: rgb32_of_yuv(first, last, luma, u, v, gains, out))
    return out


def rgb32_plain(picture: Yuv) -> NDArray[np.uint32]:
    """`rgb32` of a small picture without compiled kernels."""
    width, height = picture.size_px
    u, v = (cv2.resize(plane, (width, height), interpolation=cv2.INTER_LINEAR) for plane in (picture.u, picture.v))
    parts = rgb16(Yuv(picture.y, u, v, picture.tags, picture.bits)) >> 8
    r, g, b = (parts[..., i].astype(np.uint32) for i in range(3))
    return np.uint32(0xFF000000) | (r << np.uint32(16)) | (g << np.uint32(8)) | b


def rgb(picture: Yuv) -> NDArray[np.uint8]:
    """(H, W, 3) red, green, blue."""
    return np.ascontiguousarray(rgb32(picture).view(np.uint8).reshape(*picture.y.shape, 4)[..., 2::-1])


def rgb16(picture: Yuv) -> NDArray[np.uint16]:
    """(H, W, 3) red, green, blue over the whole of 16 bits, of planes of any depth and colour all the same size."""
    red, blue = _WEIGHTS[picture.tags.matrix]
    gain, black, chroma = _scales(picture.tags)
    unit = (2.0**picture.bits - 1.0) / 255.0 if picture.tags.full_range else 2.0 ** (picture.bits - 8)
    luma = (picture.y / np.float32(unit) - np.float32(black)) * np.float32(gain)
    cb, cr = ((p - np.float32(2.0 ** (picture.bits - 1))) / np.float32(unit) for p in (picture.u, picture.v))
    r, b = luma + cr * np.float32(2 * (1 - red) * chroma), luma + cb * np.float32(2 * (1 - blue) * chroma)
    g = (luma - np.float32(red) * r - np.float32(blue) * b) / np.float32(1.0 - red - blue)
    return (np.clip(np.stack([r, g, b], axis=-1), 0.0, 255.0) * 257.0 + 0.5).astype(np.uint16)


_STRIP_ROWS = 128  # worked at once: a photo of 60 million pixels as floats would fill the memory


def fine_yuv(picture_rgb: NDArray[np.uint8], tags: ColourTags = ColourTags()) -> Yuv:
    """Planes of an RGB picture (H, W, 3) of any size, colour as fine as brightness."""
    planes = [np.empty(picture_rgb.shape[:2], np.uint8) for _ in range(3)]
    for first in range(0, picture_rgb.shape[0], _STRIP_ROWS):
        rows = slice(first, first + _STRIP_ROWS)
        part = yuv(picture_rgb[rows], tags, halved=False)
        for plane, strip in zip(planes, (part.y, part.u, part.v), strict=True):
            plane[rows] = strip
    return Yuv(planes[0], planes[1], planes[2], tags)


def yuv(picture_rgb: NDArray[np.uint8], tags: ColourTags = ColourTags(), *, halved: bool = True) -> Yuv:
    """Planes of an RGB picture (H, W, 3); `halved`, of even size: colour is averaged over 2x2 pixels."""
    red, blue = _WEIGHTS[tags.matrix]
    gain, black, chroma = _scales(tags)
    r, g, b = (picture_rgb[..., i].astype(np.float32) for i in range(3))
    luma = red * r + (1.0 - red - blue) * g + blue * b
    half = (picture_rgb.shape[1] // 2, picture_rgb.shape[0] // 2)
    cb, cr = ((p - luma) / (2.0 * (1.0 - weight) * chroma) + 128.0 for p, weight in ((b, blue), (r, red)))
    if halved:
        cb, cr = (cv2.resize(plane, half, interpolation=cv2.INTER_AREA) for plane in (cb, cr))
    y, u, v = (np.clip(plane + 0.5, 0, 255).astype(np.uint8) for plane in (luma / gain + black, cb, cr))
    return Yuv(y, u, v, tags)

"""JPEG with a gain map: a picture for plain screens, and beside it how much brighter each part was. Source: ISO 21496-1 and the open
`hdrgm` XMP that goes with it (from memory)."""

import re
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from glintor.pixels.curves import linear_of

MARK = b"hdrgm:"
_BEGINS = b"\xff\xd8\xff"
_USUAL = {"GainMapMin": 0.0, "GainMapMax": 1.0, "Gamma": 1.0, "OffsetSDR": 1.0 / 64.0, "OffsetHDR": 1.0 / 64.0}


def light_in(content: bytes, picture_rgb: NDArray[Any]) -> NDArray[np.float32] | None:
    """Light (H, W, 3), 1 where the plain picture is white, of a JPEG with a gain map whose plain picture is given; None where it has
    no map that can be read.

    gain = 2^(min + (max - min) map^(1 / gamma)); light = (plain + offset) gain - offset, plain in linear values
    """
    begins = content.find(_BEGINS, 2)
    while begins > 0:
        ends = content.find(_BEGINS, begins + 3)
        part = content[begins : ends if ends > 0 else len(content)]
        if MARK + b"GainMapMax" in part:
            break
        begins = ends
    if begins <= 0:
        return None
    try:
        gains = cv2.imdecode(np.frombuffer(part, np.uint8), cv2.IMREAD_COLOR)
        told = {name: _number(part, name, usual) for name, usual in _USUAL.items()}
    except (cv2.error, ValueError):
        return None
    if gains is None or (told["Gamma"] <= 0.0).any() or (np.abs(told["GainMapMax"]) > 32.0).any():
        return None
    height, width = picture_rgb.shape[:2]
    shares = cv2.resize(gains, (width, height), interpolation=cv2.INTER_LINEAR)[..., ::-1].astype(
        np.float32
    ) / np.float32(255.0)
    low, high = told["GainMapMin"], told["GainMapMax"]
    gain = np.exp2(low + (high - low) * shares ** (1.0 / told["Gamma"]))
    plain = linear_of(picture_rgb.astype(np.float32) / np.float32(np.iinfo(picture_rgb.dtype).max), "display")
    light = (plain + told["OffsetSDR"]) * gain - told["OffsetHDR"]
    return np.maximum(np.nan_to_num(light, nan=0.0, posinf=3e38, neginf=0.0), 0.0).astype(np.float32)


def _number(part: bytes, name: str, usual: float) -> NDArray[np.float32]:
    """One value of the map, or one for each colour. Raises ValueError."""
    found = re.search(MARK + name.encode() + rb'\s*=\s*"([^"]+)"', part)
    if found:
        return np.array([float(found.group(1))], np.float32)
    listed = re.search(MARK + name.encode() + rb"\s*>(.*?)</" + MARK + name.encode(), part, re.DOTALL)
    values = re.findall(rb"<rdf:li>\s*([-+.0-9eE]+)\s*</rdf:li>", listed.group(1)) if listed else []
    return np.array([float(v) for v in values[:3]] if len(values) >= 3 else [usual], np.float32)

"""Copies of somebody who moves before a camera that stands still, in one picture: a background without them, and them at several moments."""

from collections.abc import Sequence

import cv2
import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

Picture = NDArray[np.uint8]
Mask = NDArray[np.float32]
_DIFFERS, _FEATHER_PX = 20.0, 2.0  # of 255, by which somebody stands out; how soft the edge of a copy is
_STILL = 6.0  # of 255, by which what stands still may differ from one moment to the next: noise, leaves, water


class Copy(Struct, frozen=True, eq=False):
    """A picture (H, W, 3) of a moment, and where somebody is in it: middle and size of a box, pixels."""

    picture: Picture
    middle_px: tuple[float, float]
    size_px: tuple[float, float]


def background(pictures: Sequence[Picture]) -> Picture:
    """What stands still in pictures (H, W, 3) of several moments: the median of each pixel."""
    rows = [np.median(np.stack([p[y : y + 64] for p in pictures]), axis=0) for y in range(0, len(pictures[0]), 64)]
    return np.rint(np.concatenate(rows)).astype(np.uint8)


def unrest(pictures: Sequence[Picture], behind: Picture) -> float:
    """How far pictures differ from what stands still in most places, of 255: little where the camera stood still."""
    return float(np.median([np.percentile(np.abs(p.astype(np.int16) - behind).max(axis=2), 60) for p in pictures]))


def stands_still(pictures: Sequence[Picture], behind: Picture) -> bool:
    """Whether a camera stood still well enough."""
    return unrest(pictures, behind) <= _STILL


def mask_of(copy: Copy, behind: Picture) -> Mask:
    """(H, W) 0 to 1: where somebody stands before the background."""
    height, width = behind.shape[:2]
    (x, y), (w, h) = copy.middle_px, copy.size_px
    left, right = int(max(x - 0.9 * w, 0)), int(min(x + 0.9 * w, width))
    top, bottom = int(max(y - 0.75 * h, 0)), int(min(y + 0.75 * h, height))
    out = np.zeros((height, width), np.float32)
    if right - left < 3 or bottom - top < 3:
        return out
    there, still = copy.picture[top:bottom, left:right], behind[top:bottom, left:right]
    off = cv2.GaussianBlur(np.abs(there.astype(np.float32) - still).max(axis=2), (0, 0), 1.2)
    found = (off > _DIFFERS).astype(np.uint8)
    reach = max(int(0.06 * h), 3)
    found = np.asarray(cv2.morphologyEx(found, cv2.MORPH_CLOSE, np.ones((reach, reach), np.uint8)), np.uint8)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(found)
    keep = np.zeros_like(found)
    for n in range(1, count):  # what is large enough to be of it; specks are noise
        if stats[n, cv2.CC_STAT_AREA] > 0.02 * w * h:
            keep[labels == n] = 1
    out[top:bottom, left:right] = cv2.GaussianBlur(keep.astype(np.float32), (0, 0), _FEATHER_PX)
    return out


def trail(behind: Picture, copies: Sequence[Copy]) -> Picture:
    """The background with all copies in it, later ones over earlier ones."""
    out = behind.astype(np.float32)
    for copy in copies:
        mask = mask_of(copy, behind)[..., None]
        out = out * (1.0 - mask) + copy.picture.astype(np.float32) * mask
    return np.rint(out).astype(np.uint8)


def spaced(places_px: NDArray[np.float64], widths_px: NDArray[np.float64], overlap: float) -> list[int]:
    """Which of moments to show, of places (n, 2) and widths (n,) of somebody: each at least so far from the last that the two share no
    more than an overlap (0 to 0.9) of a width."""
    chosen = [0]
    for n in range(1, len(places_px)):
        apart = float(np.hypot(*(places_px[n] - places_px[chosen[-1]])))
        if apart >= (1.0 - overlap) * max(float(widths_px[n]), float(widths_px[chosen[-1]])):
            chosen.append(n)
    return chosen

"""What a picture looks like where no metadata tell: image circles, a sphere whose edges meet, or a plain flat picture."""

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from glintor.pixels.circle import circle_in
from glintor.pixels.yuv import Plane

_OUTSIDE, _EVEN, _LIT = (
    34.0,
    7.0,
    12.0,
)  # of 255: what lies outside a circle is darker and evener than that; inside lighter
_CIRCLE_PX = 480  # circles are looked for in pictures about so wide
_LEAST_OUTSIDE = 0.012  # of the picture, else nothing of a circle's edge is seen
_MEETS, _STEP = 2.5, 4.0  # how much more the two edges of a sphere may differ than columns beside each other
_PLAIN, _LIKE = 2.0, 0.7  # an edge with less than that in it cannot be compared; how alike the two are
_POLE = 0.4  # how much of a middle row's variety a pole's row may have


def shows_circle(frames: Sequence[Plane]) -> bool:
    """Whether the image circle of one lens is to be seen: dark and even outside, lit inside. frames: (H, W) luma of 8 bits of some
    moments."""
    step = max(1, frames[0].shape[1] // _CIRCLE_PX)
    frames = [frame[::step, ::step] for frame in frames]
    mean = np.mean(np.stack(frames), axis=0).astype(np.float32)
    found = circle_in(frames)
    if found is None:
        return False
    x, y, radius = found
    rows, columns = np.mgrid[: mean.shape[0], : mean.shape[1]]
    off = np.hypot(columns - x, rows - y)
    outside, inside = mean[off > radius * 1.04 + 2.0], mean[off < radius * 0.9]
    if outside.size < _LEAST_OUTSIDE * mean.size or inside.size == 0:
        return False
    dark = float(np.median(outside))
    even = float(np.median(np.abs(outside - dark))) <= _EVEN
    lit = float(np.percentile(inside, 70)) >= dark + _LIT
    return dark <= _OUTSIDE and even and lit


def edges_meet(frames: Sequence[Plane]) -> tuple[bool, bool]:
    """Whether the left edge goes on at the right one, and whether the rows at both poles hold as little as poles do."""
    mean = np.stack(frames).astype(np.float32)
    first, last = mean[:, :, :2], mean[:, :, -2:]
    beside = np.abs(first[..., 0] - first[..., 1]).mean() + np.abs(last[..., 0] - last[..., 1]).mean()
    meets = float(np.abs(first[..., 0] - last[..., 1]).mean()) < _MEETS * beside / 2.0 + _STEP
    left, right = first[..., 0].ravel(), last[..., 1].ravel()
    varied = min(float(left.std()), float(right.std()))
    meets = bool(meets) and (varied < _PLAIN or float(np.corrcoef(left, right)[0, 1]) > _LIKE)
    height = mean.shape[1]
    smooth = [cv2.blur(frame, (max(frame.shape[1] // 64, 3), 1)) for frame in mean]
    middle = np.mean([f[height // 4 : 3 * height // 4 : 8].std(axis=1).mean() for f in smooth])
    poles = [float(np.mean([f[row].std() for f in smooth])) for row in (0, -1)]
    return meets, all(pole < _POLE * float(middle) + 3.0 for pole in poles)


def edges_tell(frames: Sequence[Plane]) -> bool:
    """Whether both sides hold enough for their meeting to say something: those of fog, night or a plain wall meet anywhere."""
    mean = np.stack(frames).astype(np.float32)
    return min(float(mean[:, :, 0].std()), float(mean[:, :, -1].std())) >= _PLAIN


def alike(a: NDArray[np.uint8], b: NDArray[np.uint8]) -> float:
    """How alike two pictures of one size are, -1 to 1: correlation of what is left without the slow changes of light."""
    left = []
    for picture in (a, b):
        small = cv2.resize(picture, (96, 48), interpolation=cv2.INTER_AREA).astype(np.float32)
        left.append((small - cv2.GaussianBlur(small, (0, 0), 12.0)).ravel())
    spread = float(left[0].std() * left[1].std())
    return float(np.mean(left[0] * left[1]) / spread) if spread > 1e-3 else 1.0

"""The image circle of a lens in its own pictures."""

from collections.abc import Sequence

import cv2
import numpy as np

from glintor.pixels.yuv import Plane

_LARGE = (0.3, 0.42)  # a circle's radius is more than that of the width, or of the height of a wider picture
_LIT = (4.0, 14.0)  # above the darkest: inside an image circle; at least, and at most


def circle_in(frames: Sequence[Plane]) -> tuple[float, float, float] | None:
    """Middle (x, y) and radius of the image circle in pixels, out of pictures of one lens; None where no edge is seen."""
    lightest = np.max(np.stack(frames), axis=0).astype(np.float32)
    height, width = lightest.shape
    lightest = cv2.GaussianBlur(lightest, (0, 0), max(width / 500.0, 0.8))
    side = max(round(min(height, width) * 0.06), 2)
    corners = np.concatenate(
        [lightest[r, c].ravel() for r in (slice(side), slice(-side, None)) for c in (slice(side), slice(-side, None))]
    )
    dark = float(np.percentile(lightest, 1.0))
    lit = lightest > dark + np.clip(5.0 * np.median(np.abs(corners - dark)), *_LIT)
    middle = np.array([width, height]) / 2.0 - 0.5
    around = np.radians(np.arange(0.0, 360.0, 2.0))
    radii = np.arange(0.25 * min(width, height), 0.75 * max(width, height), 0.5)
    x = middle[0] + np.cos(around)[:, None] * radii
    y = middle[1] + np.sin(around)[:, None] * radii
    inside = (x >= 1) & (x <= width - 2) & (y >= 1) & (y <= height - 2)
    seen = lit[np.clip(np.rint(y), 0, height - 1).astype(int), np.clip(np.rint(x), 0, width - 1).astype(int)] & inside
    last = seen.shape[1] - 1 - np.argmax(seen[:, ::-1], axis=1)
    ends = inside[np.arange(len(around)), np.minimum(last + 4, len(radii) - 1)] & seen.any(
        axis=1
    )  # not at the picture's edge
    if ends.sum() < 30:
        return None
    edge = np.stack([x[np.arange(len(x)), last], y[np.arange(len(y)), last]], axis=1)[ends]
    kept = np.ones(len(edge), bool)
    for _ in range(8):  # an algebraic circle, and again without what lies far inside: dark things at the rim
        a = np.column_stack([2.0 * edge[kept], np.ones(kept.sum())])
        cx, cy, c = np.linalg.lstsq(a, (edge[kept] ** 2).sum(axis=1), rcond=None)[0]
        radius = float(np.sqrt(max(c + cx * cx + cy * cy, 1.0)))
        off = np.hypot(edge[:, 0] - cx, edge[:, 1] - cy) - radius
        limit = max(1.5, 2.0 * float(np.median(np.abs(off[kept]))))
        kept = np.abs(off - np.median(off[kept])) < limit
        if kept.sum() < 20:
            return None
    off = max(abs(cx - middle[0]), abs(cy - middle[1]))
    large = radius > min(_LARGE[0] * width, _LARGE[1] * height)
    if off > 0.15 * width or not large or radius > 0.75 * width:
        return None
    return float(cx), float(cy), radius

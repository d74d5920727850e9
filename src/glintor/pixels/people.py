"""People in a flat picture, found by a small shipped network on the CPU."""

from functools import cache
from pathlib import Path

import cv2
import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

MODEL = Path(__file__).parent.parent / "models" / "person_detect.onnx"
SIDE_PX = 416
_STRIDES, _BINS = (8, 16, 32), 11
_MEAN, _SPREAD = (np.array(v, np.float32) for v in ((103.53, 116.28, 123.675), (57.375, 57.12, 58.395)))
_PERSON, _CLASSES, _OVERLAP = 0, 80, 0.5


class Box(Struct, frozen=True):
    """A person in a picture, px: left, top, width, height; score 0 to 1."""

    x: float
    y: float
    w: float
    h: float
    score: float

    @property
    def middle(self) -> tuple[float, float]:
        return self.x + self.w / 2.0, self.y + self.h / 2.0


@cache
def _net() -> cv2.dnn.Net:
    return cv2.dnn.readNetFromONNX(str(MODEL))


@cache
def _cells() -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Middles (n, 2) of the network's cells, px, and the stride (n,) of each."""
    middles, strides = [], []
    for stride in _STRIDES:
        n = SIDE_PX // stride
        y, x = np.mgrid[0:n, 0:n]
        middles.append(np.stack([x.ravel() + 0.5, y.ravel() + 0.5], axis=1) * stride)
        strides.append(np.full(n * n, stride))
    return np.concatenate(middles).astype(np.float32), np.concatenate(strides).astype(np.float32)


def people_in(picture: NDArray[np.uint8], least: float = 0.35) -> list[Box]:
    """People in a picture (H, W, 3) BGR, the surest first. It should be about square, and upright."""
    height, width = picture.shape[:2]
    blob = (cv2.resize(picture, (SIDE_PX, SIDE_PX)).astype(np.float32) - _MEAN) / _SPREAD
    net = _net()
    net.setInput(np.ascontiguousarray(blob.transpose(2, 0, 1)[None]))
    outs = net.forward(net.getUnconnectedOutLayersNames())
    scores, sides = _parted([np.asarray(out, np.float32) for out in outs])
    person = scores[:, _PERSON]
    keep = np.flatnonzero(person >= least)
    if not len(keep):
        return []
    bins = sides[keep].reshape(-1, 4, _BINS)
    share = np.exp(bins - bins.max(axis=2, keepdims=True))
    middles, strides = _cells()
    reach = (share * np.arange(_BINS)).sum(axis=2) / share.sum(axis=2) * strides[keep][:, None]
    x0, y0 = middles[keep, 0] - reach[:, 0], middles[keep, 1] - reach[:, 1]
    x1, y1 = middles[keep, 0] + reach[:, 2], middles[keep, 1] + reach[:, 3]
    boxes = np.stack([x0, y0, x1 - x0, y1 - y0], axis=1)
    chosen = np.asarray(cv2.dnn.NMSBoxes(boxes.tolist(), person[keep].tolist(), least, _OVERLAP)).ravel()
    across, down = width / SIDE_PX, height / SIDE_PX
    found = [
        Box(boxes[n, 0] * across, boxes[n, 1] * down, boxes[n, 2] * across, boxes[n, 3] * down, float(person[keep][n]))
        for n in chosen
    ]
    return sorted(found, key=lambda box: -box.score)


def _parted(outs: "list[NDArray[np.float32]]") -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Scores (n, 80) and sides (n, 44) of all cells, in the order of the strides, whatever order they come out in."""
    flat = [out.reshape(-1, out.shape[-1]) for out in outs]
    by_stride = sorted(flat, key=len, reverse=True)
    scores, sides = ([out for out in by_stride if out.shape[1] == width] for width in (_CLASSES, 4 * _BINS))
    return np.concatenate(scores), np.concatenate(sides)

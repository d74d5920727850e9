"""Where round a camera the picture changes, moment by moment: only a camera that stands tells that from its own motion."""

from threading import Event

import cv2
import numpy as np
from msgspec import Struct

from glintor.errors import Cancelled
from glintor.media.footage import Footage
from glintor.pixels.unrolled import unrolled_level
from glintor.sphere.turn import TurnTrack
from glintor.types import Array, Report

_SIZE_PX = (180, 90)  # of the sphere unrolled: 2 degrees a pixel
CELL_DEG, HIGHEST_DEG = 10, 40  # of what is looked at, and how far above and below the horizon
_APART_FRAMES, _MOST = 4, 160  # between two pictures that are compared, and so many pairs
_NOISE = 3.0  # of 256: less is the packing's doing (judgement)
_TEXTURED = 75.0  # percentile of cells by their texture, from which on they would show that the camera moves
_EVERYWHERE = 0.25  # by which half of those change more than noise (judgement)


class Changing(Struct, frozen=True, eq=False):
    """How much the picture changes at moments of the clip (n,), in cells (n, heights, bearings) of 10 degrees, the highest and the
    leftmost first, in the frame that views are meant in. everywhere: whatever has texture changes, so that nothing can be told"""

    time_s: Array
    amount: Array
    everywhere: bool


def changing(
    footage: Footage,
    span_s: tuple[float, float],
    turns: TurnTrack | None = None,
    *,
    report: Report = lambda _share: None,
    stop: Event | None = None,
) -> Changing:
    """What changes between two moments of a clip, looked at in at most 160 places. Raises ClipError, Cancelled."""
    small = footage.draft() or footage
    apart_s = float(_APART_FRAMES / footage.rate)
    start, end = span_s[0], max(span_s[1] - apart_s, span_s[0])
    times = np.linspace(start, end, int(np.clip((end - start) / (2 * apart_s), 1, _MOST)))
    rows = slice((90 - HIGHEST_DEG) // 2, (90 + HIGHEST_DEG) // 2)
    side, found, textures = CELL_DEG // 2, [], []

    def in_cells(values: Array) -> Array:
        return values.reshape(len(values) // side, side, values.shape[1] // side, side).mean(axis=(1, 3))

    with small.reader() as reader:

        def seen(time_s: float) -> Array:
            turn = None if turns is None else turns.at(time_s)
            level = unrolled_level(small.sphere(reader.at(time_s)), _SIZE_PX, small.shows, turn).y[rows]
            return np.asarray(cv2.GaussianBlur(level.astype(np.float64), (0, 0), 1.0), np.float64)

        for number, time_s in enumerate(times.tolist()):
            if stop is not None and stop.is_set():
                raise Cancelled
            first = seen(time_s)
            off = seen(time_s + apart_s) - first
            off = np.maximum(np.abs(off - np.median(off)) - _NOISE, 0.0)  # light that changes all over is no event
            found.append(in_cells(off))
            textures.append(in_cells(np.hypot(*np.gradient(first))))
            report((number + 1) / len(times))
    amount, texture = np.array(found), np.array(textures).mean(axis=0)
    rich = texture >= np.percentile(texture, _TEXTURED)
    return Changing(times, amount, bool(np.median(amount.mean(axis=0)[rich]) > _EVERYWHERE))

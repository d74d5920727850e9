"""A series of exposures of one sphere merged into its light, in one pass over the sphere."""

import math

import numpy as np
from numpy.typing import NDArray

from glintor.pixels.bands import in_bands
from glintor.pixels.colour import LUMA_709
from glintor.pixels.compiling import compiled

Array = NDArray[np.float32]
_TAPER, _FULL = 0.80, 0.965  # of full code, between which a frame's say fades out near clipping (judgement)
_READ = 0.0012  # of full scale: what a code cannot tell in the dark; with it goes the weight of 1 / variance
_RED, _GREEN, _BLUE = LUMA_709


@compiled(nogil=True, fastmath=True)
def _merge(first, last, out, best, frames, table, turns, times, ghosts):  # type: ignore[no-untyped-def]
    """out (H, W, 3) light; best (H, W): 0 where frames agreed on it, 1 all too bright, 2 all too dark. frames (n, H, W, 3) codes;
    turns (n, 9) from the sphere's axes to each frame's; times (n,) relative exposure; ghosts (n, h, w) weight of each."""
    count, height, width = frames.shape[0], frames.shape[1], frames.shape[2]
    small_h, small_w = ghosts.shape[1], ghosts.shape[2]
    top = float(len(table) - 1)
    for j in range(first, last):
        lat = math.pi / 2.0 - (j + 0.5) / height * math.pi
        z, flat = math.sin(lat), math.cos(lat)
        gj = min(j * small_h // height, small_h - 1)
        for i in range(width):
            lon = (i + 0.5) / width * 2.0 * math.pi - math.pi
            x, y = flat * math.cos(lon), -flat * math.sin(lon)
            gi = min(i * small_w // width, small_w - 1)
            sr, sg, sb, sw = 0.0, 0.0, 0.0, 0.0
            dark_t, dr, dg, db = 1e30, 0.0, 0.0, 0.0
            light_t, lr, lg, lb = -1.0, 0.0, 0.0, 0.0
            for k in range(count):
                a = turns[k, 0] * x + turns[k, 1] * y + turns[k, 2] * z
                b = turns[k, 3] * x + turns[k, 4] * y + turns[k, 5] * z
                c = turns[k, 6] * x + turns[k, 7] * y + turns[k, 8] * z
                u = (math.atan2(-b, a) / (2.0 * math.pi) + 0.5) * width - 0.5
                v = (0.5 - math.asin(min(max(c, -1.0), 1.0)) / math.pi) * height - 0.5
                v = min(max(v, 0.0), height - 1.0)
                u0, v0 = math.floor(u), min(int(v), max(height - 2, 0))
                p, q = u - u0, v - v0
                if p < 1e-4 or p > 0.9999:  # on a pixel: nothing to mix
                    u0, p = math.floor(u + 0.5), 0.0
                if q < 1e-4:
                    q = 0.0
                i0, i1, j1 = int(u0) % width, (int(u0) + 1) % width, min(v0 + 1, height - 1)
                w00, w01, w10, w11 = (1 - p) * (1 - q), p * (1 - q), (1 - p) * q, p * q
                most = 0.0
                r = g = bl = 0.0
                for corner in range(4):
                    jj = v0 if corner < 2 else j1
                    ii = i0 if corner % 2 == 0 else i1
                    w = w00 if corner == 0 else (w01 if corner == 1 else (w10 if corner == 2 else w11))
                    if w > 0.0:
                        cr, cg, cb = frames[k, jj, ii, 0], frames[k, jj, ii, 1], frames[k, jj, ii, 2]
                        most = max(most, float(cr), float(cg), float(cb))
                        r, g, bl = r + w * table[cr], g + w * table[cg], bl + w * table[cb]
                t = times[k]
                if t < dark_t:
                    dark_t, dr, dg, db = t, r / t, g / t, bl / t
                if t > light_t:
                    light_t, lr, lg, lb = t, r / t, g / t, bl / t
                code = most / top
                if code >= _FULL:
                    continue
                say = 1.0 if code <= _TAPER else (_FULL - code) / (_FULL - _TAPER)
                grey = _RED * r + _GREEN * g + _BLUE * bl
                weight = say * say * t * t / (grey * 0.002 + _READ * _READ) * ghosts[k, gj, gi]
                sr, sg, sb, sw = sr + weight * r / t, sg + weight * g / t, sb + weight * bl / t, sw + weight
            if sw > 0.0:
                out[j, i, 0], out[j, i, 1], out[j, i, 2] = sr / sw, sg / sw, sb / sw
                best[j, i] = 2 if _RED * lr + _GREEN * lg + _BLUE * lb <= 0.0 else 0
            else:
                out[j, i, 0], out[j, i, 1], out[j, i, 2] = dr, dg, db
                best[j, i] = 1


def merge(
    frames: NDArray[np.generic], table: Array, turns: NDArray[np.float64], times: NDArray[np.float64], ghosts: Array
) -> tuple[Array, NDArray[np.uint8]]:
    """Light (H, W, 3) of a series (n, H, W, 3) of whole codes, and what of it no frame holds (H, W): 1 too bright, 2 too dark.

    table   (codes,) linear value of each; turns: (n, 3, 3) from the sphere's axes to each frame's; times: (n,) exposure
    ghosts  (n, h, w) from 0 to 1, how much each frame counts where something moved

    Weights are 1 / variance of what a frame says of the light, fading near clipping (Debevec & Malik, SIGGRAPH 1997, with
    variances in place of a hat). One scale for the whole sphere; its left and right edge are neighbours.
    """
    height, width = frames.shape[1:3]
    out, best = np.empty((height, width, 3), np.float32), np.empty((height, width), np.uint8)
    rows = np.ascontiguousarray(turns.reshape(-1, 9))
    in_bands(height, lambda a, b: _merge(a, b, out, best, frames, table, rows, times, ghosts))
    return out, best

"""Compiled loops over whole pictures: to what a window paints, and means in time.

Importing this imports numba (slow): `colour` and `blend` do so when they are used.
"""

import numpy as np

from glintor.pixels.compiling import compiled

_F = np.float32


@compiled(fastmath=True, nogil=True)
def rgb32_of_yuv(first, last, y, u, v, gains, out):
    """out (h, w) uint32 0xFFRRGGBB from full-size planes; gains: luma gain and black, Cr to red and green, Cb to
    green and blue, which hold matrix and range."""
    luma_gain, luma_black, rv, gv, gu, bu = gains
    for j in range(first, last):
        for i in range(y.shape[1]):
            l = (_F(y[j, i]) - luma_black) * luma_gain + _F(0.5)
            cu, cv = _F(u[j, i]) - _F(128.0), _F(v[j, i]) - _F(128.0)
            r = min(max(l + rv * cv, _F(0.0)), _F(255.0))
            g = min(max(l - gu * cu - gv * cv, _F(0.0)), _F(255.0))
            b = min(max(l + bu * cu, _F(0.0)), _F(255.0))
            out[j, i] = np.uint32(0xFF000000) | (np.uint32(r) << 16) | (np.uint32(g) << 8) | np.uint32(b)


@compiled(fastmath=True, nogil=True)
def add_share(first, last, plane, weight, sums):
    """sums (h, w) uint32 += plane x weight, for some rows."""
    for j in range(first, last):
        for i in range(plane.shape[1]):
            sums[j, i] += np.uint32(plane[j, i]) * weight


@compiled(fastmath=True, nogil=True)
def mean_of_shares(first, last, sums, weight, out):
    """out (h, w) = sums / weight, rounded, for some rows."""
    scale = _F(1.0) / _F(weight)
    kind = out.dtype.type
    for j in range(first, last):
        for i in range(sums.shape[1]):
            out[j, i] = kind(np.int32(_F(sums[j, i]) * scale + _F(0.5)))


@compiled(fastmath=True, nogil=True)
def box_mean(first, last, plane, factor, shift, out):
    """out (h, w): means of factor x factor samples of plane, brought down by `shift` bits, for some rows of out."""
    width = out.shape[1] * factor
    sums = np.empty(width, np.int32)
    scale = _F(1.0 / (factor * factor * (1 << shift)))
    for j in range(first, last):
        for i in range(width):
            sums[i] = np.int32(plane[j * factor, i])
        for k in range(1, factor):
            for i in range(width):
                sums[i] += np.int32(plane[j * factor + k, i])
        if factor == 3:
            for i in range(out.shape[1]):
                out[j, i] = np.uint8(_F(sums[3 * i] + sums[3 * i + 1] + sums[3 * i + 2]) * scale + _F(0.5))
        else:
            for i in range(out.shape[1]):
                total = np.int32(0)
                for k in range(factor):
                    total += sums[i * factor + k]
                out[j, i] = np.uint8(_F(total) * scale + _F(0.5))

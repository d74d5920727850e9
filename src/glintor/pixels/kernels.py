"""Compiled inner loops. Plain top-level functions: two cached functions from one factory can share a cache entry.

Importing this module imports numba (slow): only `reproject` and `colour` do so, and only when first used.
"""

import numpy as np
from numba import njit, prange

_F = np.float32
_PI = _F(np.pi)
_HALF_PI = _F(np.pi / 2)


@njit(cache=True, fastmath=True, inline="always")
def _atan01(x):  # type: ignore[no-untyped-def]
    """atan on 0..1 within 2e-8. Source: Abramowitz & Stegun (1964), 4.4.49."""
    s = x * x
    p = _F(0.0028662257)
    p = p * s + _F(-0.0161657367)
    p = p * s + _F(0.0429096138)
    p = p * s + _F(-0.0752896400)
    p = p * s + _F(0.1065626393)
    p = p * s + _F(-0.1420889944)
    p = p * s + _F(0.1999355085)
    p = p * s + _F(-0.3333314528)
    return x * (_F(1.0) + s * p)


@njit(cache=True, fastmath=True, inline="always")
def _atan2(y, x):  # type: ignore[no-untyped-def]
    ax, ay = abs(x), abs(y)
    big, small = max(ax, ay), min(ax, ay)
    a = _atan01(small / max(big, _F(1e-20)))
    a = _HALF_PI - a if ay > ax else a
    a = _PI - a if x < _F(0.0) else a
    return -a if y < _F(0.0) else a


@njit(cache=True, fastmath=True, parallel=True, nogil=True, error_model="numpy")
def source_map(rotation, focal_px, bend, siting_px, source_w, source_h, edge_px, map_u, map_v):  # type: ignore[no-untyped-def]
    """Fills map_u, map_v (h, w) float32 with the equirectangular position that each frame pixel shows.

    siting_px shifts both pictures' sample centres to the left of the pixel's (chroma: 0.25). v is held `edge_px`
    inside the picture, since the border rule that wraps u would wrap v too. Off the ball (bend > 1) u is -1e6.
    """
    height, width = map_u.shape
    d = _F(bend)
    k1 = _F(1.0 / (focal_px * (1.0 + bend)))
    r00, r01, r02 = _F(rotation[0, 0]), _F(rotation[0, 1]), _F(rotation[0, 2])
    r10, r11, r12 = _F(rotation[1, 0]), _F(rotation[1, 1]), _F(rotation[1, 2])
    r20, r21, r22 = _F(rotation[2, 0]), _F(rotation[2, 1]), _F(rotation[2, 2])
    per_lon, per_lat = _F(source_w / (2.0 * np.pi)), _F(source_h / np.pi)
    u0, v0 = _F(source_w / 2.0 - 0.5 + siting_px), _F(source_h / 2.0 - 0.5)
    v_low, v_high = _F(edge_px), _F(source_h - 1.0 - edge_px)
    x0, y0 = _F(0.5 - siting_px - width / 2.0), _F(height / 2.0 - 0.5)
    for j in prange(height):
        up = y0 - _F(j)
        for i in range(width):
            right = _F(i) + x0
            kk = (right * right + up * up) * k1 * k1
            inv_q2 = _F(1.0) / (_F(1.0) + kk)
            inside = _F(1.0) - kk * d * d * inv_q2
            cos_b = np.sqrt(max(inside, _F(0.0)))
            inv_q = np.sqrt(inv_q2)
            cos_t = inv_q * cos_b - kk * d * inv_q2
            side = k1 * inv_q * (cos_b + d * inv_q)
            ly, lz = -right * side, up * side
            x = r00 * cos_t + r01 * ly + r02 * lz
            y = r10 * cos_t + r11 * ly + r12 * lz
            z = r20 * cos_t + r21 * ly + r22 * lz
            u = u0 + per_lon * _atan2(-y, x)
            v = v0 - per_lat * _atan2(z, np.sqrt(x * x + y * y))
            map_u[j, i] = u if inside >= _F(0.0) else _F(-1e6)
            map_v[j, i] = min(max(v, v_low), v_high)


@njit(cache=True, parallel=True, nogil=True)
def blend_levels(stack, level, out):  # type: ignore[no-untyped-def]
    """out (h, w) from stack (n, h, w) at the fractional `level` (h, w) of each pixel."""
    top = stack.shape[0] - 1
    for j in prange(out.shape[0]):
        for i in range(out.shape[1]):
            a = min(max(level[j, i], _F(0.0)), _F(top))
            low = min(int(a), top - 1)
            share = a - _F(low)
            out[j, i] = np.uint8(_F(stack[low, j, i]) * (_F(1.0) - share) + _F(stack[low + 1, j, i]) * share + _F(0.5))


@njit(cache=True, fastmath=True, parallel=True, nogil=True)
def rgb32_of_yuv(y, u, v, gains, out):  # type: ignore[no-untyped-def]
    """out (h, w) uint32 0xFFRRGGBB from full-size planes; gains: luma gain and black, Cr to red and green, Cb to
    green and blue, which hold matrix and range."""
    luma_gain, luma_black, rv, gv, gu, bu = gains
    for j in prange(y.shape[0]):
        for i in range(y.shape[1]):
            l = (_F(y[j, i]) - luma_black) * luma_gain + _F(0.5)
            cu, cv = _F(u[j, i]) - _F(128.0), _F(v[j, i]) - _F(128.0)
            r = min(max(l + rv * cv, _F(0.0)), _F(255.0))
            g = min(max(l - gu * cu - gv * cv, _F(0.0)), _F(255.0))
            b = min(max(l + bu * cu, _F(0.0)), _F(255.0))
            out[j, i] = np.uint32(0xFF000000) | (np.uint32(r) << 16) | (np.uint32(g) << 8) | np.uint32(b)

"""The compiled heart of reprojection: one plane of a flat frame out of one plane of a sphere.

A row is worked in chunks of `CHUNK` pixels, in four passes that each suit the machine: where every pixel looks
(arithmetic only, vectorised), which sixteen samples surround it (plain loads: one load takes four neighbours of a
row as one word, since gather instructions are slower here), the weighing (vectorised again) and the rounding.
Measured against a whole map and a library's remap: less than half the time, without a map in memory.

Importing this module imports numba (slow): only `reproject` does so, and only when it first draws.
Plain top-level functions, since two cached functions from one factory can share a cache entry.
"""

import numpy as np
from numba import types
from numba.extending import intrinsic, overload

from glintor.pixels.compiling import compiled

CHUNK = 128
STEP = 16  # distance of the exactly computed positions where those between can be interpolated
NODES = 16  # CHUNK / STEP + 3 are needed; a whole number of vectors is faster
OFF_THE_BALL = np.float32(-1e9)
F = np.float32
_PI = F(np.pi)
_HALF_PI = F(np.pi / 2)
_T = np.arange(STEP) / STEP
_L0 = (-_T * (_T - 1) * (_T - 2) / 6).astype(np.float32)  # Lagrange's cubic through four equally spaced values
_L1 = ((_T + 1) * (_T - 1) * (_T - 2) / 2).astype(np.float32)
_L2 = (-(_T + 1) * _T * (_T - 2) / 2).astype(np.float32)
_L3 = ((_T + 1) * _T * (_T - 1) / 6).astype(np.float32)


@intrinsic
def _load(typingctx, address, example):
    """The value of the example's type at an address in memory, which need not be aligned.

    Addresses instead of arrays: an array taken out of a tuple is reference-counted, and two threads that count on
    the same counter wait for each other at every chunk. The caller keeps the memory alive.
    """

    def code(context, builder, signature, arguments):
        kind = context.get_value_type(example)
        loaded = builder.load(builder.inttoptr(arguments[0], kind.as_pointer()))
        loaded.align = 1
        return loaded

    return example(types.intp, example), code


@compiled(fastmath=True, inline="always")
def _atan01(x):
    """atan on 0..1 within 2e-8. Source: Abramowitz & Stegun (1964), 4.4.49."""
    s = x * x
    p = F(0.0028662257)
    p = p * s + F(-0.0161657367)
    p = p * s + F(0.0429096138)
    p = p * s + F(-0.0752896400)
    p = p * s + F(0.1065626393)
    p = p * s + F(-0.1420889944)
    p = p * s + F(0.1999355085)
    p = p * s + F(-0.3333314528)
    return x * (F(1.0) + s * p)


@compiled(fastmath=True, inline="always")
def atan2(y, x):
    ax, ay = abs(x), abs(y)
    big, small = max(ax, ay), min(ax, ay)
    a = _atan01(small / max(big, F(1e-20)))
    a = _HALF_PI - a if ay > ax else a
    a = _PI - a if x < F(0.0) else a
    return -a if y < F(0.0) else a


@compiled(fastmath=True, inline="always")
def ray(k1, d, right, up):
    """The direction (ahead, left, up) of a frame position off the axis in frame pixels, and above 0 where the lens sees it."""
    kk = (right * right + up * up) * k1 * k1
    inv_q2 = F(1.0) / (F(1.0) + kk)
    inside = F(1.0) - kk * d * d * inv_q2
    cos_b = np.sqrt(max(inside, F(0.0)))
    inv_q = np.sqrt(inv_q2)
    side = k1 * inv_q * (cos_b + d * inv_q)
    return inv_q * cos_b - kk * d * inv_q2, -right * side, up * side, inside


@compiled(fastmath=True, inline="always")
def ray_round(k1, right, up):
    """The same of a frame that unrolls the whole sphere: k1 radians a pixel, both ways."""
    lon, lat = right * k1, up * k1
    c = np.cos(lat)
    return c * np.cos(lon), -c * np.sin(lon), np.sin(lat), F(1.0)


@compiled(fastmath=True, inline="always")
def _onto(turn, grid, ahead, left, up, inside):
    r00, r01, r02, r10, r11, r12, r20, r21, r22 = turn
    u0, v0, per_lon, per_lat = grid
    x = r00 * ahead + r01 * left + r02 * up
    y = r10 * ahead + r11 * left + r12 * up
    z = r20 * ahead + r21 * left + r22 * up
    lon, lat = atan2(-y, x), atan2(z, np.sqrt(x * x + y * y))
    return u0 + per_lon * lon if inside >= F(0.0) else OFF_THE_BALL, v0 - per_lat * lat if inside >= F(
        0.0
    ) else OFF_THE_BALL


@compiled(fastmath=True, nogil=True, error_model="numpy")
def _look(lens, turn, grid, x0, step, up, count, u, v):
    """Exact source positions of `count` frame positions (x0 + i step, up) off the axis in frame pixels.

    lens (k1, d): 1 / (f (1 + d)) and the shift, or d below 0 where the frame unrolls the sphere; turn: the view's matrix by
    rows; grid (u0, v0, per_lon, per_lat).
    Positions count from sample (width // 2, height // 2): small numbers keep their thousandths in single precision.
    """
    k1, d = lens
    if d < F(0.0):
        for i in range(count):
            ahead, left, high, inside = ray_round(k1, F(i) * step + x0, up)
            u[i], v[i] = _onto(turn, grid, ahead, left, high, inside)
    else:
        for i in range(count):
            ahead, left, high, inside = ray(k1, d, F(i) * step + x0, up)
            u[i], v[i] = _onto(turn, grid, ahead, left, high, inside)


@compiled(nogil=True, error_model="numpy", forceinline=True)
def is_smooth(node_u, node_v, period):
    """Makes u run on over the seam, and says whether a cubic between the nodes errs by less than 0.0003 pixels.

    Its error is at most 0.0234 fourth differences (Abramowitz & Stegun, 25.2.13); near a pole it is far more.
    """
    for i in range(1, NODES):
        step = node_u[i] - node_u[i - 1]
        if step > period * F(0.5):
            node_u[i] -= period
        elif step < -period * F(0.5):
            node_u[i] += period
    worst = F(0.0)
    for i in range(CHUNK // STEP - 1):
        bend_u = node_u[i] + node_u[i + 4] - F(4.0) * (node_u[i + 1] + node_u[i + 3]) + F(6.0) * node_u[i + 2]
        bend_v = node_v[i] + node_v[i + 4] - F(4.0) * (node_v[i + 1] + node_v[i + 3]) + F(6.0) * node_v[i + 2]
        worst = max(worst, abs(bend_u), abs(bend_v))
    return worst < F(0.012)


@compiled(nogil=True, error_model="numpy", forceinline=True)
def is_inside(node_u, node_v, shape, period):
    """Shifts u by whole turns into the picture, and says whether no pixel of the chunk comes near an edge of it."""
    _, width, height = shape
    turns = np.floor((node_u[1] + period * F(0.5)) / period)
    low_u = high_u = node_u[0] - turns * period
    low_v = high_v = node_v[0]
    for i in range(NODES):
        node_u[i] -= turns * period
        if i <= CHUNK // STEP + 2:
            low_u, high_u = min(low_u, node_u[i]), max(high_u, node_u[i])
            low_v, high_v = min(low_v, node_v[i]), max(high_v, node_v[i])
    half_u, half_v, margin = F(width // 2), F(height // 2), F(4.0)
    return low_u > margin - half_u and high_u < half_u - margin and low_v > margin - half_v and high_v < half_v - margin


@compiled(fastmath=True, nogil=True, error_model="numpy", forceinline=True)
def between_inside(node_u, node_v, shape, size, u, v, offset):
    """Interpolates and splits in one pass: fractions into u, v, and the offset of the first of 4x4 samples in bytes."""
    stride, width, height = shape
    mid_u, mid_v = np.int32(width // 2 - 1), np.int32(height // 2 - 1)
    up_u, up_v = F(mid_u), F(mid_v)  # above zero, cutting off is rounding down, and quicker
    row, size = np.int32(stride * size), np.int32(size)
    for k in range(CHUNK // STEP):
        a0, a1, a2, a3 = node_u[k], node_u[k + 1], node_u[k + 2], node_u[k + 3]
        c0, c1, c2, c3 = node_v[k], node_v[k + 1], node_v[k + 2], node_v[k + 3]
        for i in range(STEP):
            a = _L0[i] * a0 + _L1[i] * a1 + _L2[i] * a2 + _L3[i] * a3
            b = _L0[i] * c0 + _L1[i] * c1 + _L2[i] * c2 + _L3[i] * c3
            column, line = np.int32(a + up_u), np.int32(b + up_v)
            at = np.uintp(k * STEP + i)
            offset[at] = np.int32(line * row) + np.int32(column * size)
            u[at], v[at] = a - F(np.int32(column - mid_u)), b - F(np.int32(line - mid_v))


@compiled(fastmath=True, nogil=True, error_model="numpy")
def between(node_u, node_v, u, v):
    for k in range(CHUNK // STEP):
        a0, a1, a2, a3 = node_u[k], node_u[k + 1], node_u[k + 2], node_u[k + 3]
        c0, c1, c2, c3 = node_v[k], node_v[k + 1], node_v[k + 2], node_v[k + 3]
        for i in range(STEP):
            u[k * STEP + i] = _L0[i] * a0 + _L1[i] * a1 + _L2[i] * a2 + _L3[i] * a3
            v[k * STEP + i] = _L0[i] * c0 + _L1[i] * c1 + _L2[i] * c2 + _L3[i] * c3


@compiled(fastmath=True, nogil=True, error_model="numpy")
def split(u, v, shape, size, period, iu, iv, offset):
    """Positions into whole and fraction (left in u, v), and the offset of the first of 4x4 samples; -1 at edges."""
    stride, width, height = shape
    half = period * F(0.5)
    mid_u, mid_v = np.int32(width // 2), np.int32(height // 2)
    last_u, last_v, row = np.int32(width - 3), np.int32(height - 3), np.int32(stride * size)
    one, size = np.int32(1), np.int32(size)
    for i in range(CHUNK):
        a, b = u[i], v[i]
        a = a + period if a < -half else a
        a = a - period if a >= half else a
        fa, fb = np.floor(a), np.floor(b)
        column, line = np.int32(np.int32(fa) + mid_u), np.int32(np.int32(fb) + mid_v)
        whole = (column >= one) & (column < last_u) & (line >= one) & (line < last_v)
        iu[i], iv[i] = column, line
        offset[i] = np.int32((line - one) * row + (column - one) * size) if whole else np.int32(-1)
        u[i], v[i] = a - fa, b - fb


@compiled(nogil=True, error_model="numpy")
def _edge_word(plane, sample, shape, whole, row, column):
    """Four samples of a row that crosses the picture's edge: round the seam, over the pole, or the last one again."""
    stride, width, height = shape
    round_about, over_the_pole = whole
    turn = 0
    if row < 0 or row >= height:
        if over_the_pole:
            row = -1 - row if row < 0 else 2 * height - 1 - row
            turn = width // 2
        else:
            row = min(max(row, 0), height - 1)
    word = np.uint64(0)
    size = np.intp(sample.itemsize)
    for k in range(4):
        at = (column + k + turn) % width if round_about else min(max(column + k, 0), width - 1)
        word |= np.uint64(_load(plane + (row * stride + at) * size, sample[0])) << np.uint64(8 * size * k)
    return word


@compiled(nogil=True, error_model="numpy", forceinline=True)
def fetch(plane, row_bytes, offset, words):
    """Four rows of four samples around every pixel of a chunk that meets no edge."""
    word = words[0]
    for i in range(CHUNK):
        at = plane + np.intp(offset[i])
        words[i] = _load(at, word)
        words[CHUNK + i] = _load(at + row_bytes, word)
        words[2 * CHUNK + i] = _load(at + 2 * row_bytes, word)
        words[3 * CHUNK + i] = _load(at + 3 * row_bytes, word)


@compiled(nogil=True, error_model="numpy", forceinline=True)
def fetch_middle(plane, row_bytes, offset, words):
    """Only the two rows in the middle, which are all that `weigh_linear` looks at."""
    word = words[0]
    for i in range(CHUNK):
        at = plane + np.intp(offset[i])
        words[CHUNK + i] = _load(at + row_bytes, word)
        words[2 * CHUNK + i] = _load(at + 2 * row_bytes, word)


@compiled(nogil=True, error_model="numpy")
def fetch_at_edge(plane, sample, shape, whole, iu, iv, offset, blank, words):
    """The same for any chunk; what no source shows is `blank`. Apart, since its many cases slow the plain loop down."""
    stride, width, height = shape
    row_bytes = np.intp(stride * sample.itemsize)
    for i in range(CHUNK):
        if offset[i] >= 0:
            for k in range(4):
                words[k * CHUNK + i] = _load(plane + np.intp(offset[i]) + k * row_bytes, words[0])
            continue
        column, row = np.intp(iu[i]), np.intp(iv[i])
        seen_u = whole[0] or (-1 <= column < width)
        seen_v = whole[1] or (-1 <= row < height)
        seen = row >= -2 and seen_u and seen_v
        for k in range(4):
            word = blank
            if seen:
                word = _edge_word(plane, sample, shape, whole, row + k - 1, column - 1)
            words[k * CHUNK + i] = word


def _samples_of(word):
    """The four samples of a word as floats, lowest first; the compiled form depends on the word's type."""
    raise NotImplementedError


@overload(_samples_of, jit_options={"fastmath": True})
def _samples_of_type(word):
    if word == types.uint32:

        def bytes_of(word):
            m, b, c, d = np.uint32(255), np.uint32(8), np.uint32(16), np.uint32(24)
            one, two, three = np.int32(word & m), np.int32((word >> b) & m), np.int32((word >> c) & m)
            return F(one), F(two), F(three), F(np.int32(word >> d))

        return bytes_of

    def shorts_of(word):
        m, b, c, d = np.uint64(65535), np.uint64(16), np.uint64(32), np.uint64(48)
        one, two, three = np.int32(word & m), np.int32((word >> b) & m), np.int32((word >> c) & m)
        return F(one), F(two), F(three), F(np.int32(word >> d))

    return shorts_of


@compiled(fastmath=True, inline="always")
def _row_of(word, a0, a1, a2, a3):
    s0, s1, s2, s3 = _samples_of(word)
    return a0 * s0 + a1 * s1 + a2 * s2 + a3 * s3


@compiled(fastmath=True, nogil=True, error_model="numpy", forceinline=True)
def weigh_cubic(u, v, sharpness, words, sums, to):
    """Adds the cubic convolution of each pixel's 4x4 samples. Source: Keys, IEEE Trans. ASSP 29 (1981), a = -sharpness."""
    s = F(-sharpness)
    for i in range(CHUNK):
        a, b = u[i], v[i]
        c, d = F(1.0) - a, F(1.0) - b
        ac, bd = a * c, b * d
        a0, a3 = s * ac * c, s * ac * a
        a1 = ((s + F(2.0)) * a - (s + F(3.0))) * a * a + F(1.0)
        a2 = F(1.0) - a0 - a1 - a3
        b0, b3 = s * bd * d, s * bd * b
        b1 = ((s + F(2.0)) * b - (s + F(3.0))) * b * b + F(1.0)
        b2 = F(1.0) - b0 - b1 - b3
        sums[np.uintp(to + i)] += (
            b0 * _row_of(words[i], a0, a1, a2, a3)
            + b1 * _row_of(words[CHUNK + i], a0, a1, a2, a3)
            + b2 * _row_of(words[2 * CHUNK + i], a0, a1, a2, a3)
            + b3 * _row_of(words[3 * CHUNK + i], a0, a1, a2, a3)
        )


@compiled(fastmath=True, nogil=True, error_model="numpy", forceinline=True)
def weigh_linear(u, v, words, sums, to):
    """Adds the mean of the 2x2 samples in the middle, weighed by nearness."""
    for i in range(CHUNK):
        a, b = u[i], v[i]
        _, p0, p1, _ = _samples_of(words[CHUNK + i])
        _, q0, q1, _ = _samples_of(words[2 * CHUNK + i])
        upper, lower = p0 + a * (p1 - p0), q0 + a * (q1 - q0)
        sums[np.uintp(to + i)] += upper + b * (lower - upper)


@compiled(fastmath=True, nogil=True, error_model="numpy", forceinline=True)
def rounded(sums, to, gain, top, out, start, count):
    kind = out.dtype.type
    if count == CHUNK:  # a known number of turns: no rest to be done one by one
        for i in range(CHUNK):
            out[np.uintp(start + i)] = kind(np.int32(min(max(sums[np.uintp(to + i)] * gain + F(0.5), F(0.0)), top)))
    else:
        for i in range(count):
            out[np.uintp(start + i)] = kind(np.int32(min(max(sums[np.uintp(to + i)] * gain + F(0.5), F(0.0)), top)))


@compiled(nogil=True, error_model="numpy")
def draw_planes(
    first, last, places, shapes, whole, coverage, lens, turn, siting, plan, filter_, scale, kinds, outs, frame
):
    """Draws the rows from first to last of one plane of a flat frame, or of two that lie alike (the colour planes).

    places    (planes, 4) int64, addresses: each source and its copies at half, quarter and eighth size, as far as
              `plan` asks for them
    shapes    (4, 3) int64: stride, width, height of each copy
    whole     (seam, poles): whether the source runs all round and from pole to pole
    coverage  (centre_lon, centre_lat, lon, lat) in radians: what the source shows
    lens      (k1, d) float32; turn: nine float32; siting (source_px, frame_px): by how much samples lie to the left
    plan      (levels, counts, spreads), each (h, chunks): which copy, how many samples a side, how far apart
    filter_   sharpness of the cubic, or 0 for bilinear
    scale     (gain, top, blank): to the frame's depth, its largest value, and what stands where nothing is seen
    kinds     two arrays: of the type of a sample, and of the type that holds four
    outs      two flat targets (the second is used with two planes)
    frame     (stride, width, height, aspect) of both; aspect: height of a sample over its width
    """
    levels, counts, spreads = plan
    stride, width, height, aspect = frame
    gain, top, blank = scale
    centre_lon, centre_lat, lon, lat = coverage
    sample, word = kinds
    size, parts = sample.itemsize, places.shape[0]
    bits = np.uint64(8 * size)
    blanks = np.uint64(blank) * (np.uint64(1) | (np.uint64(1) << bits))
    blanks = blanks | (blanks << (np.uint64(2) * bits))
    u, v, sums = np.empty(CHUNK, np.float32), np.empty(CHUNK, np.float32), np.empty(2 * CHUNK, np.float32)
    iu, iv, offset = np.empty(CHUNK, np.int32), np.empty(CHUNK, np.int32), np.empty(CHUNK, np.int32)
    node_u, node_v = np.empty(NODES, np.float32), np.empty(NODES, np.float32)
    words = np.empty(4 * CHUNK, word.dtype)
    grids, periods = np.empty((shapes.shape[0], 4), np.float32), np.empty(shapes.shape[0], np.float32)
    for level in range(shapes.shape[0]):
        across, down = shapes[level, 1], shapes[level, 2]
        grids[level, 0] = across % 2 / 2.0 - 0.5 + siting[0] / (1 << level) - centre_lon * across / lon
        grids[level, 1] = down % 2 / 2.0 - 0.5 + centre_lat * down / lat
        grids[level, 2], grids[level, 3] = across / lon, down / lat
        periods[level] = 2.0 * np.pi * across / lon
    for j in range(first, last):
        for chunk in range(levels.shape[1]):
            x = chunk * CHUNK
            level, n, spread = levels[j, chunk], counts[j, chunk], spreads[j, chunk]
            shape = (shapes[level, 0], shapes[level, 1], shapes[level, 2])
            grid = (grids[level, 0], grids[level, 1], grids[level, 2], grids[level, 3])
            period = periods[level]
            for i in range(2 * CHUNK):
                sums[i] = F(0.0)
            for sy in range(n):
                up = F(aspect * (height / 2.0 - 0.5 - j - spread * ((sy + 0.5) / n - 0.5)))
                for sx in range(n):
                    x0 = F(x + 0.5 - siting[1] - width / 2.0 + spread * ((sx + 0.5) / n - 0.5))
                    _look(lens, turn, grid, x0 - F(STEP), F(STEP), up, NODES, node_u, node_v)
                    smooth = is_smooth(node_u, node_v, period)
                    inside = smooth and is_inside(node_u, node_v, shape, period)
                    if inside:
                        between_inside(node_u, node_v, shape, size, u, v, offset)
                    else:
                        if smooth:
                            between(node_u, node_v, u, v)
                        else:
                            _look(lens, turn, grid, x0, F(1.0), up, CHUNK, u, v)
                        split(u, v, shape, size, period, iu, iv, offset)
                    for part in range(parts):
                        if inside and filter_ <= 0.0:
                            fetch_middle(places[part, level], shape[0] * size, offset, words)
                        elif inside:
                            fetch(places[part, level], shape[0] * size, offset, words)
                        else:
                            fetch_at_edge(places[part, level], sample, shape, whole, iu, iv, offset, blanks, words)
                        if filter_ > 0.0:
                            weigh_cubic(u, v, filter_, words, sums, part * CHUNK)
                        else:
                            weigh_linear(u, v, words, sums, part * CHUNK)
            count = min(CHUNK, width - x)
            rounded(sums, 0, F(gain / (n * n)), F(top), outs[0], j * stride + x, count)
            if parts == 2:
                rounded(sums, CHUNK, F(gain / (n * n)), F(top), outs[1], j * stride + x, count)


@compiled(nogil=True, error_model="numpy")
def source_map(first, last, coverage, lens, turn, source, map_u, map_v):
    """Fills the rows from first to last of map_u, map_v (h, w) with the source position of each frame pixel, found as `draw_planes` finds it.

    source (width, height). u lies within the picture's turn; off the ball both are far below zero.
    """
    height, width = map_u.shape
    centre_lon, centre_lat, lon, lat = coverage
    u0 = F(source[0] % 2 / 2.0 - 0.5 - centre_lon * source[0] / lon)
    v0 = F(source[1] % 2 / 2.0 - 0.5 + centre_lat * source[1] / lat)
    mid_u, mid_v = F(source[0] // 2), F(source[1] // 2)
    grid, period = (u0, v0, F(source[0] / lon), F(source[1] / lat)), F(2.0 * np.pi * source[0] / lon)
    u, v = np.empty(CHUNK, np.float32), np.empty(CHUNK, np.float32)
    node_u, node_v = np.empty(NODES, np.float32), np.empty(NODES, np.float32)
    for j in range(first, last):
        for x in range(0, width, CHUNK):
            x0, up = F(x + 0.5 - width / 2.0), F(height / 2.0 - 0.5 - j)
            _look(lens, turn, grid, x0 - F(STEP), F(STEP), up, NODES, node_u, node_v)
            if is_smooth(node_u, node_v, period):
                between(node_u, node_v, u, v)
            else:
                _look(lens, turn, grid, x0, F(1.0), up, CHUNK, u, v)
            for i in range(min(CHUNK, width - x)):
                map_u[j, x + i] = u[i] + mid_u
                map_v[j, x + i] = v[i] + mid_v

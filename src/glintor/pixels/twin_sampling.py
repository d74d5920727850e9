"""The compiled heart of reprojection from fisheyes: one plane of a flat frame straight out of one or two lenses' pictures.

Worked in chunks as `sampling` does, with its passes. A chunk that one lens shows is drawn from it alone; where both are
mixed it is drawn from each. Tone and seam are looked up in small tables at the exactly computed positions only.

Importing this imports numba (slow): only `reproject` does so, when it first draws from fisheyes.
"""

import numpy as np

from glintor.pixels.compiling import compiled
from glintor.pixels.sampling import (
    CHUNK,
    NODES,
    OFF_THE_BALL,
    STEP,
    F,
    atan2,
    between,
    between_inside,
    fetch,
    fetch_at_edge,
    fetch_middle,
    is_inside,
    is_smooth,
    ray,
    ray_round,
    rounded,
    split,
    weigh_cubic,
    weigh_linear,
)

_NO_TURN = F(8e9)  # a picture that does not run round; what no lens sees lies nearer than half of it
_TWO_PI = F(2.0 * np.pi)


@compiled(fastmath=True, nogil=True, error_model="numpy")
def _aim(lens, turn, x0, step, up, count, xs, ys, zs):  # type: ignore[no-untyped-def]
    """Directions in the camera of `count` frame positions; none is longer than 0 where the frame's lens sees nothing."""
    k1, d = lens
    r00, r01, r02, r10, r11, r12, r20, r21, r22 = turn
    if d < F(0.0):
        for i in range(count):
            ahead, left, high, _ = ray_round(k1, F(i) * step + x0, up)
            xs[i] = r00 * ahead + r01 * left + r02 * high
            ys[i] = r10 * ahead + r11 * left + r12 * high
            zs[i] = r20 * ahead + r21 * left + r22 * high
    else:
        for i in range(count):
            ahead, left, high, inside = ray(k1, d, F(i) * step + x0, up)
            seen = F(1.0) if inside >= F(0.0) else F(0.0)
            xs[i] = (r00 * ahead + r01 * left + r02 * high) * seen
            ys[i] = (r10 * ahead + r11 * left + r12 * high) * seen
            zs[i] = (r20 * ahead + r21 * left + r22 * high) * seen


@compiled(fastmath=True, nogil=True, error_model="numpy")
def _place(eye, xs, ys, zs, count, shift, u, v):  # type: ignore[no-untyped-def]
    """Positions in a lens's part. eye (17,): its axes by columns of the camera's, centre, focal length, k3, k5, largest angle, and
    the band of angles that `shift` (2, T, A) moves: by so many radians outward and round the axis."""
    e00, e01, e02, e10, e11, e12, e20, e21, e22 = eye[0], eye[1], eye[2], eye[3], eye[4], eye[5], eye[6], eye[7], eye[8]
    cx, cy, focal, k3, k5, limit = eye[9], eye[10], eye[11], eye[12], eye[13], eye[14]
    if shift.shape[1] == 1:
        for i in range(count):
            a = e00 * xs[i] + e01 * ys[i] + e02 * zs[i]
            b = e10 * xs[i] + e11 * ys[i] + e12 * zs[i]
            c = e20 * xs[i] + e21 * ys[i] + e22 * zs[i]
            side = np.sqrt(b * b + c * c)
            t = atan2(side, a)
            t2 = t * t
            scale = focal * t * (F(1.0) + t2 * (k3 + t2 * k5)) / max(side, F(1e-12))
            seen = t <= limit and a * a + side * side > F(0.25)
            u[i] = cx - b * scale if seen else OFF_THE_BALL
            v[i] = cy - c * scale if seen else OFF_THE_BALL
        return
    first, per = eye[15], eye[16]
    rows, columns = shift.shape[1], shift.shape[2]
    for i in range(count):
        a = e00 * xs[i] + e01 * ys[i] + e02 * zs[i]
        b = e10 * xs[i] + e11 * ys[i] + e12 * zs[i]
        c = e20 * xs[i] + e21 * ys[i] + e22 * zs[i]
        side = np.sqrt(b * b + c * c)
        t = atan2(side, a)
        around = atan2(c, -b)
        row = (t - first) * per
        if row > F(0.0) and row < F(rows - 1):
            column = (around / _TWO_PI + F(0.5)) * F(columns) - F(0.5)
            j, k = int(row), int(np.floor(column))
            p, q = row - F(j), column - F(k)
            k0, k1 = k % columns, (k + 1) % columns
            out = (shift[0, j, k0] * (F(1.0) - q) + shift[0, j, k1] * q) * (F(1.0) - p)
            out += (shift[0, j + 1, k0] * (F(1.0) - q) + shift[0, j + 1, k1] * q) * p
            turned = (shift[1, j, k0] * (F(1.0) - q) + shift[1, j, k1] * q) * (F(1.0) - p)
            turned += (shift[1, j + 1, k0] * (F(1.0) - q) + shift[1, j + 1, k1] * q) * p
            t += out
            cos_r, sin_r = F(1.0) - turned * turned * F(0.5), turned
            b, c = b * cos_r + c * sin_r, c * cos_r - b * sin_r
        t2 = t * t
        scale = focal * t * (F(1.0) + t2 * (k3 + t2 * k5)) / max(side, F(1e-12))
        seen = t <= limit and a * a + side * side > F(0.25)
        u[i] = cx - b * scale if seen else OFF_THE_BALL
        v[i] = cy - c * scale if seen else OFF_THE_BALL


@compiled(fastmath=True, nogil=True, error_model="numpy")
def _tones(eye, xs, ys, zs, tone, part, gains, lifts):  # type: ignore[no-untyped-def]
    """gains, lifts (NODES,) of one plane at the nodes, out of tone (parts, 2, T, A)."""
    rows, columns = tone.shape[2], tone.shape[3]
    for i in range(NODES):
        a = eye[0] * xs[i] + eye[1] * ys[i] + eye[2] * zs[i]
        b = eye[3] * xs[i] + eye[4] * ys[i] + eye[5] * zs[i]
        c = eye[6] * xs[i] + eye[7] * ys[i] + eye[8] * zs[i]
        t = atan2(np.sqrt(b * b + c * c), a)
        row = min(t / eye[14], F(0.9999)) * F(rows - 1)
        column = (atan2(c, -b) / _TWO_PI + F(0.5)) * F(columns) - F(0.5)
        j, k = int(row), int(np.floor(column))
        p, q = row - F(j), column - F(k)
        k0, k1 = k % columns, (k + 1) % columns
        low = tone[part, 0, j, k0] * (F(1.0) - q) + tone[part, 0, j, k1] * q
        high = tone[part, 0, j + 1, k0] * (F(1.0) - q) + tone[part, 0, j + 1, k1] * q
        gains[i] = low + (high - low) * p
        low = tone[part, 1, j, k0] * (F(1.0) - q) + tone[part, 1, j, k1] * q
        high = tone[part, 1, j + 1, k0] * (F(1.0) - q) + tone[part, 1, j + 1, k1] * q
        lifts[i] = low + (high - low) * p


@compiled(fastmath=True, nogil=True, error_model="numpy")
def _add_toned(own, gains, lifts, shares, total, to):  # type: ignore[no-untyped-def]
    """total += (own x gain + lift) x share; gain and lift straight between the nodes."""
    for k in range(CHUNK // STEP):
        g0, g1, l0, l1 = gains[k + 1], gains[k + 2], lifts[k + 1], lifts[k + 2]
        for i in range(STEP):
            f = F(i) / F(STEP)
            at = np.uintp(k * STEP + i)
            total[np.uintp(to + at)] += (own[at] * (g0 + (g1 - g0) * f) + l0 + (l1 - l0) * f) * shares[at]


@compiled(fastmath=True, nogil=True, error_model="numpy")
def _shares(axis, per, xs, ys, zs, ahead, shares):  # type: ignore[no-untyped-def]
    """How much of the first lens each pixel of a chunk takes, by nodes; whether only it, only the other, or both are seen."""
    low, high = F(10.0), F(-10.0)
    for k in range(CHUNK // STEP + 3):
        ahead[k] = F(0.5) + (axis[0] * xs[k] + axis[1] * ys[k] + axis[2] * zs[k]) * per
        low, high = min(low, ahead[k]), max(high, ahead[k])
    if low >= F(1.0):
        return 1
    if high <= F(0.0):
        return 2
    for k in range(CHUNK // STEP):
        a, b = ahead[k + 1], ahead[k + 2]
        for i in range(STEP):
            s = min(max(a + (b - a) * (F(i) / F(STEP)), F(0.0)), F(1.0))
            shares[np.uintp(k * STEP + i)] = s * s * (F(3.0) - F(2.0) * s)
    return 3


@compiled(nogil=True, error_model="numpy")
def draw_twin(  # type: ignore[no-untyped-def]
    first, last, places, shapes, eyes, mix, lens, turn, siting, plan, filter_, scale, kinds, outs, frame, tone, shift
):
    """Draws the rows from first to last of one plane of a frame, or of two that lie alike (the colour planes).

    places   (lenses, planes, 4) int64, addresses of each lens's part of a plane and its smaller copies
    shapes   (4, 3) int64: stride, width, height of each copy
    eyes     (lenses, 4, 17) float32: `_place`'s numbers for each copy
    mix      (4,) float32: difference of the two axes, and how fast the share of the first rises along it
    tone     (lenses, planes, 2, T, A) float32; shift (lenses, 2, T, A), with T = 1 where nothing is moved
    all else as `sampling.draw_planes` has it
    """
    levels, counts, spreads = plan
    stride, width, height, aspect = frame
    gain, top, blank = scale
    sample, word = kinds
    size, lenses, parts = sample.itemsize, places.shape[0], places.shape[1]
    bits = np.uint64(8 * size)
    blanks = np.uint64(blank) * (np.uint64(1) | (np.uint64(1) << bits))
    blanks = blanks | (blanks << (np.uint64(2) * bits))
    u, v, own = np.empty(CHUNK, np.float32), np.empty(CHUNK, np.float32), np.empty(CHUNK, np.float32)
    iu, iv, offset = np.empty(CHUNK, np.int32), np.empty(CHUNK, np.int32), np.empty(CHUNK, np.int32)
    node_u, node_v = np.empty(NODES, np.float32), np.empty(NODES, np.float32)
    node_x, node_y, node_z = np.empty(NODES, np.float32), np.empty(NODES, np.float32), np.empty(NODES, np.float32)
    xs, ys, zs = np.empty(CHUNK, np.float32), np.empty(CHUNK, np.float32), np.empty(CHUNK, np.float32)
    ahead, gains, lifts = np.empty(NODES, np.float32), np.empty(NODES, np.float32), np.empty(NODES, np.float32)
    full, shares, sums = np.ones(CHUNK, np.float32), np.empty(CHUNK, np.float32), np.empty(2 * CHUNK, np.float32)
    words, whole = np.empty(4 * CHUNK, word.dtype), (False, False)
    still = np.zeros((2, 1, 1), np.float32)
    for j in range(first, last):
        for chunk in range(levels.shape[1]):
            x = chunk * CHUNK
            level, n, spread = levels[j, chunk], counts[j, chunk], spreads[j, chunk]
            shape = (shapes[level, 0], shapes[level, 1], shapes[level, 2])
            for i in range(2 * CHUNK):
                sums[i] = F(0.0)
            for sy in range(n):
                up = F(aspect * (height / 2.0 - 0.5 - j - spread * ((sy + 0.5) / n - 0.5)))
                for sx in range(n):
                    x0 = F(x + 0.5 - siting - width / 2.0 + spread * ((sx + 0.5) / n - 0.5))
                    _aim(lens, turn, x0 - F(STEP), F(STEP), up, NODES, node_x, node_y, node_z)
                    seen = 1 if lenses == 1 else _shares(mix, mix[3], node_x, node_y, node_z, ahead, shares)
                    aimed = False
                    for eye in range(lenses):
                        if seen != 3 and seen != eye + 1:
                            continue
                        moved = shift[eye] if seen == 3 else still
                        if seen == 3 and eye == 1:
                            for i in range(CHUNK):
                                shares[i] = F(1.0) - shares[i]
                        _place(eyes[eye, level], node_x, node_y, node_z, NODES, moved, node_u, node_v)
                        smooth = is_smooth(node_u, node_v, _NO_TURN)
                        inside = smooth and is_inside(node_u, node_v, shape, _NO_TURN)
                        if inside:
                            between_inside(node_u, node_v, shape, size, u, v, offset)
                        else:
                            if smooth:
                                between(node_u, node_v, u, v)
                            else:
                                if not aimed:
                                    _aim(lens, turn, x0, F(1.0), up, CHUNK, xs, ys, zs)
                                    aimed = True
                                _place(eyes[eye, level], xs, ys, zs, CHUNK, moved, u, v)
                            split(u, v, shape, size, _NO_TURN, iu, iv, offset)
                        for part in range(parts):
                            at = places[eye, part, level]
                            if inside and filter_ <= 0.0:
                                fetch_middle(at, shape[0] * size, offset, words)
                            elif inside:
                                fetch(at, shape[0] * size, offset, words)
                            else:
                                fetch_at_edge(at, sample, shape, whole, iu, iv, offset, blanks, words)
                            for i in range(CHUNK):
                                own[i] = F(0.0)
                            if filter_ > 0.0:
                                weigh_cubic(u, v, filter_, words, own, 0)
                            else:
                                weigh_linear(u, v, words, own, 0)
                            _tones(eyes[eye, level], node_x, node_y, node_z, tone[eye], part, gains, lifts)
                            _add_toned(own, gains, lifts, shares if seen == 3 else full, sums, part * CHUNK)
            count = min(CHUNK, width - x)
            rounded(sums, 0, F(gain / (n * n)), F(top), outs[0], j * stride + x, count)
            if parts == 2:
                rounded(sums, CHUNK, F(gain / (n * n)), F(top), outs[1], j * stride + x, count)

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
_USED = CHUNK // STEP + 3  # of a chunk's nodes
LEAVES_DEG = (
    17.0  # over which what is moved at the seam comes back to where its own lens shows it (judgement: a person's width)
)
_LEAVES_RAD = F(np.radians(LEAVES_DEG))


@compiled(fastmath=True, nogil=True, error_model="numpy")
def _aim(lens, turn, x0, step, up, count, xs, ys, zs):
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
def _place(eye, last, xs, ys, zs, count, shift, u, v):
    """Positions in a lens's part, of what it sees `last` off its axis where more: nothing of that is mixed in, and what lies at the
    picture's edge is slow to fetch.

    eye (26,): its axes by columns of the camera's, centre, focal length, k3, k5, largest angle, and the band of angles that `shift`
    (2, T, A) moves: by so many radians outward and round the axis, less and less over LEAVES_DEG beside the band; what `_lag` takes;
    samples down to one across."""
    e00, e01, e02, e10, e11, e12, e20, e21, e22 = eye[0], eye[1], eye[2], eye[3], eye[4], eye[5], eye[6], eye[7], eye[8]
    cx, cy, focal, k3, k5, tall = eye[9], eye[10], eye[11], eye[12], eye[13], eye[25]
    limit = min(eye[14], last)
    first, per = eye[15], eye[16]
    rows, columns = shift.shape[1], shift.shape[2]
    for i in range(count):
        a = e00 * xs[i] + e01 * ys[i] + e02 * zs[i]
        b = e10 * xs[i] + e11 * ys[i] + e12 * zs[i]
        c = e20 * xs[i] + e21 * ys[i] + e22 * zs[i]
        side = np.sqrt(b * b + c * c)
        t = atan2(side, a)
        row = (t - first) * per
        beside = max(-row, row - F(rows - 1)) / (per * _LEAVES_RAD)
        if rows > 1 and beside < F(1.0):
            row = min(max(row, F(0.0)), F(rows - 1) - F(1e-3))
            beside = max(beside, F(0.0))
            kept = F(1.0) - beside * beside * (F(3.0) - F(2.0) * beside)
            column = (atan2(c, -b) / _TWO_PI + F(0.5)) * F(columns) - F(0.5)
            j, k = np.int32(row), np.int32(column + F(1.0)) - np.int32(1)
            p, q = row - F(j), column - F(k)
            k0 = k + columns if k < 0 else k
            k1 = k0 + 1 if k0 + 1 < columns else 0
            low = shift[0, j, k0] + (shift[0, j, k1] - shift[0, j, k0]) * q
            high = shift[0, j + 1, k0] + (shift[0, j + 1, k1] - shift[0, j + 1, k0]) * q
            t += (low + (high - low) * p) * kept
            low = shift[1, j, k0] + (shift[1, j, k1] - shift[1, j, k0]) * q
            high = shift[1, j + 1, k0] + (shift[1, j + 1, k1] - shift[1, j + 1, k0]) * q
            turned = (low + (high - low) * p) * kept
            cos_r = F(1.0) - turned * turned * F(0.5)
            b, c = b * cos_r + c * turned, c * cos_r - b * turned
        t = min(t, limit)
        t2 = t * t
        scale = focal * t * (F(1.0) + t2 * (k3 + t2 * k5)) / max(side, F(1e-12))
        seen = a * a + side * side > F(0.25)
        u[i] = cx - b * scale if seen else OFF_THE_BALL
        v[i] = cy - c * scale * tall if seen else OFF_THE_BALL


@compiled(fastmath=True, nogil=True, error_model="numpy")
def _lag(eye, xs, ys, zs, count, caught):
    """Directions in which rolling shutter caught what lies at others when the lens's axis is read: `rolling.as_read` of eye[17:25]:
    seconds a sample across and down, angular velocity, half its change. caught (3, count)."""
    e00, e01, e02, e10, e11, e12, e20, e21, e22 = eye[0], eye[1], eye[2], eye[3], eye[4], eye[5], eye[6], eye[7], eye[8]
    focal, k3, k5 = eye[11], eye[12], eye[13]
    across, down = eye[17], eye[18]
    w0, w1, w2, h0, h1, h2 = eye[19], eye[20], eye[21], eye[22], eye[23], eye[24]
    for i in range(count):
        x, y, z = xs[i], ys[i], zs[i]
        for _ in range(3):
            a = e00 * x + e01 * y + e02 * z
            b = e10 * x + e11 * y + e12 * z
            c = e20 * x + e21 * y + e22 * z
            side = np.sqrt(b * b + c * c)
            t = atan2(side, a)
            t2 = t * t
            scale = focal * t * (F(1.0) + t2 * (k3 + t2 * k5)) / max(side, F(1e-12))
            late = -(across * b + down * c) * scale
            r0, r1, r2 = (w0 + h0 * late) * late, (w1 + h1 * late) * late, (w2 + h2 * late) * late
            p0 = ys[i] * r2 - zs[i] * r1
            p1 = zs[i] * r0 - xs[i] * r2
            p2 = xs[i] * r1 - ys[i] * r0
            x = xs[i] + p0 + F(0.5) * (p1 * r2 - p2 * r1)
            y = ys[i] + p1 + F(0.5) * (p2 * r0 - p0 * r2)
            z = zs[i] + p2 + F(0.5) * (p0 * r1 - p1 * r0)
        caught[0, i], caught[1, i], caught[2, i] = x, y, z


@compiled(fastmath=True, nogil=True, error_model="numpy")
def _place_seen(eye, xs, ys, zs, count, shift, u, v):
    """Exactly; nothing beyond the lens's rim."""
    _place(eye, eye[14], xs, ys, zs, count, shift, u, v)
    edge = np.cos(eye[14])
    for i in range(count):
        if eye[0] * xs[i] + eye[1] * ys[i] + eye[2] * zs[i] < edge:
            u[i], v[i] = OFF_THE_BALL, OFF_THE_BALL


@compiled(fastmath=True, nogil=True, error_model="numpy", forceinline=True)
def _look_through(lens, turn, eye, x0, step, up, u, v):
    """Positions in one lens's part of NODES frame positions in a row; turn (9,): from the frame's axes to this lens's."""
    k1, d = lens
    t00, t01, t02, t10, t11, t12, t20, t21, t22 = (
        turn[0],
        turn[1],
        turn[2],
        turn[3],
        turn[4],
        turn[5],
        turn[6],
        turn[7],
        turn[8],
    )
    cx, cy, focal, k3, k5, limit, tall = eye[9], eye[10], eye[11], eye[12], eye[13], eye[14], eye[25]
    if d < F(0.0):
        for i in range(NODES):
            ahead, left, high, inside = ray_round(k1, F(i) * step + x0, up)
            a, b, c = (
                t00 * ahead + t01 * left + t02 * high,
                t10 * ahead + t11 * left + t12 * high,
                t20 * ahead + t21 * left + t22 * high,
            )
            side = np.sqrt(b * b + c * c)
            t = atan2(side, a)
            scale = focal * t * (F(1.0) + t * t * (k3 + t * t * k5)) / max(side, F(1e-12))
            u[i] = cx - b * scale if t <= limit else OFF_THE_BALL
            v[i] = cy - c * scale * tall if t <= limit else OFF_THE_BALL
        return
    for i in range(NODES):
        ahead, left, high, inside = ray(k1, d, F(i) * step + x0, up)
        a, b, c = (
            t00 * ahead + t01 * left + t02 * high,
            t10 * ahead + t11 * left + t12 * high,
            t20 * ahead + t21 * left + t22 * high,
        )
        side = np.sqrt(b * b + c * c)
        t = atan2(side, a)
        scale = focal * t * (F(1.0) + t * t * (k3 + t * t * k5)) / max(side, F(1e-12))
        seen = t <= limit and inside >= F(0.0)
        u[i] = cx - b * scale if seen else OFF_THE_BALL
        v[i] = cy - c * scale * tall if seen else OFF_THE_BALL


@compiled(fastmath=True, nogil=True, error_model="numpy", forceinline=True)
def _which(lens, turn, mix, x0, up, xs, ys, zs):
    """Directions in the camera at the beginning, the middle and the end of a chunk, and which lens shows all of it: 1, 2, or 3 where
    both are mixed in it, or something is moved, or may be."""
    _aim(lens, turn, x0, F(CHUNK // 2), up, 3, xs, ys, zs)
    low, high = F(10.0), F(-10.0)
    for k in range(3):
        ahead = F(0.5) + (mix[0] * xs[k] + mix[1] * ys[k] + mix[2] * zs[k]) * mix[3]
        low, high = min(low, ahead), max(high, ahead)
    room = F(0.15) * (high - low) + F(0.02)  # between the three it runs nearly straight
    if low > F(1.0) + mix[5] + room:
        return 1
    if high < -mix[5] - room:
        return 2
    return 3


@compiled(fastmath=True, nogil=True, error_model="numpy", forceinline=True)
def _tones(eye, xs, ys, zs, tone, gains, lifts):
    """gains, lifts (planes, 3) at the beginning, the middle and the end of a chunk, out of tone (planes, 2, T, A)."""
    rows, columns = tone.shape[2], tone.shape[3]
    for n in range(3):
        a = eye[0] * xs[n] + eye[1] * ys[n] + eye[2] * zs[n]
        b = eye[3] * xs[n] + eye[4] * ys[n] + eye[5] * zs[n]
        c = eye[6] * xs[n] + eye[7] * ys[n] + eye[8] * zs[n]
        t = atan2(np.sqrt(b * b + c * c), a)
        row = min(t / eye[14], F(0.9999)) * F(rows - 1)
        column = (atan2(c, -b) / _TWO_PI + F(0.5)) * F(columns) - F(0.5)
        j, k = int(row), int(np.floor(column))
        p, q = row - F(j), column - F(k)
        k0 = k + columns if k < 0 else k
        k1 = k0 + 1 if k0 + 1 < columns else 0
        for part in range(tone.shape[0]):
            low = tone[part, 0, j, k0] + (tone[part, 0, j, k1] - tone[part, 0, j, k0]) * q
            high = tone[part, 0, j + 1, k0] + (tone[part, 0, j + 1, k1] - tone[part, 0, j + 1, k0]) * q
            gains[part, n] = low + (high - low) * p
            low = tone[part, 1, j, k0] + (tone[part, 1, j, k1] - tone[part, 1, j, k0]) * q
            high = tone[part, 1, j + 1, k0] + (tone[part, 1, j + 1, k1] - tone[part, 1, j + 1, k0]) * q
            lifts[part, n] = low + (high - low) * p


@compiled(fastmath=True, nogil=True, error_model="numpy", forceinline=True)
def _tone(own, gains, lifts, total, to):
    """total += own x gain + lift; gain and lift straight from the chunk's beginning to its middle and to its end."""
    half = CHUNK // 2
    for k in range(2):
        g0, l0 = gains[k], lifts[k]
        g1, l1 = (gains[k + 1] - g0) / F(half), (lifts[k + 1] - l0) / F(half)
        for i in range(half):
            at = np.uintp(k * half + i)
            total[np.uintp(to + at)] += own[at] * (g0 + g1 * F(i)) + l0 + l1 * F(i)


@compiled(fastmath=True, nogil=True, error_model="numpy")
def _tone_share(own, gains, lifts, shares, total, to):
    """The same of one of two lenses that are mixed."""
    half = CHUNK // 2
    for k in range(2):
        g0, l0 = gains[k], lifts[k]
        g1, l1 = (gains[k + 1] - g0) / F(half), (lifts[k + 1] - l0) / F(half)
        for i in range(half):
            at = np.uintp(k * half + i)
            total[np.uintp(to + at)] += (own[at] * (g0 + g1 * F(i)) + l0 + l1 * F(i)) * shares[at]


@compiled(nogil=True, error_model="numpy")
def _is_whole(node_u, node_v):
    """Whether all of a chunk's nodes are seen and none leaps: what was moved along a seam bends between the nodes by less than shows."""
    worst = F(0.0)
    for i in range(CHUNK // STEP + 1):
        bend_u = node_u[i] - F(2.0) * node_u[i + 1] + node_u[i + 2]
        bend_v = node_v[i] - F(2.0) * node_v[i + 1] + node_v[i + 2]
        worst = max(worst, abs(bend_u), abs(bend_v))
    return worst < F(64.0)


@compiled(fastmath=True, nogil=True, error_model="numpy")
def _shares(axis, per, xs, ys, zs, ahead, shares):
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
def draw_twin(
    first, last, places, shapes, eyes, mix, lens, turn, siting, plan, filter_, scale, kinds, outs, frame, tone, shift
):
    """Draws the rows from first to last of one plane of a frame, or of two that lie alike (the colour planes).

    places   (lenses, planes, 4) int64, addresses of each lens's part of a plane and its smaller copies
    shapes   (4, 3) int64: stride, width, height of each copy
    eyes     (lenses, 4, 26) float32: `_place`'s numbers for each copy
    mix      (6,) float32: difference of the two axes, how fast the share of the first rises along it, the largest angle off an axis
             that is mixed in, and how far beside the mixing things are moved, as a share of its width
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
    at_x, at_y, at_z = np.empty(3, np.float32), np.empty(3, np.float32), np.empty(3, np.float32)
    xs, ys, zs = np.empty(CHUNK, np.float32), np.empty(CHUNK, np.float32), np.empty(CHUNK, np.float32)
    caught, caught_nodes = np.empty((3, CHUNK), np.float32), np.empty((3, NODES), np.float32)
    ahead, gains, lifts = np.empty(NODES, np.float32), np.empty((2, 3), np.float32), np.empty((2, 3), np.float32)
    shares, sums = np.empty(CHUNK, np.float32), np.empty(2 * CHUNK, np.float32)
    words, whole = np.empty(4 * CHUNK, word.dtype), (False, False)
    still, moves = np.zeros((2, 1, 1), np.float32), shift.shape[2] > 1
    # own copies: parts of an array are counted, and two threads that count on the same one wait for each other
    eyes, tone, shift, mix = eyes.copy(), tone.copy(), shift.copy(), mix.copy()
    through = np.empty((lenses, 9), np.float32)
    for eye in range(lenses):
        for row in range(3):
            for column in range(3):
                through[eye, 3 * row + column] = (
                    eyes[eye, 0, 3 * row] * turn[column]
                    + eyes[eye, 0, 3 * row + 1] * turn[3 + column]
                    + eyes[eye, 0, 3 * row + 2] * turn[6 + column]
                )
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
                    seen = _which(lens, turn, mix, x0, up, at_x, at_y, at_z) if lenses == 2 else 1
                    if lenses == 1:
                        _aim(lens, turn, x0, F(CHUNK // 2), up, 3, at_x, at_y, at_z)
                    near = seen == 3
                    if near:
                        _aim(lens, turn, x0 - F(STEP), F(STEP), up, NODES, node_x, node_y, node_z)
                        seen = _shares(mix, mix[3], node_x, node_y, node_z, ahead, shares)
                        near = moves or seen == 3
                    aimed = False
                    for eye in range(lenses):
                        if seen != 3 and seen != eye + 1:
                            continue
                        if seen == 3 and eye == 1:
                            for i in range(CHUNK):
                                shares[i] = F(1.0) - shares[i]
                        rolls = eyes[eye, level, 17] != 0.0 or eyes[eye, level, 18] != 0.0
                        if rolls:
                            if not near:
                                _aim(lens, turn, x0 - F(STEP), F(STEP), up, NODES, node_x, node_y, node_z)
                            _lag(eyes[eye, level], node_x, node_y, node_z, NODES, caught_nodes)
                            lag_x, lag_y, lag_z = caught_nodes[0], caught_nodes[1], caught_nodes[2]
                        if near:
                            from_x, from_y, from_z = node_x, node_y, node_z
                            if rolls:
                                from_x, from_y, from_z = lag_x, lag_y, lag_z
                            _place(eyes[eye, level], mix[4], from_x, from_y, from_z, _USED, shift[eye], node_u, node_v)
                            for i in range(_USED, NODES):
                                node_u[i], node_v[i] = node_u[_USED - 1], node_v[_USED - 1]
                        elif rolls:
                            _place_seen(eyes[eye, level], lag_x, lag_y, lag_z, NODES, still, node_u, node_v)
                        else:
                            _look_through(
                                lens, through[eye], eyes[eye, level], x0 - F(STEP), F(STEP), up, node_u, node_v
                            )
                        if near:  # the tables of the seam are even enough between the nodes
                            smooth = _is_whole(node_u, node_v)
                        else:
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
                                from_x, from_y, from_z = xs, ys, zs
                                if rolls:
                                    _lag(eyes[eye, level], xs, ys, zs, CHUNK, caught)
                                    from_x, from_y, from_z = caught[0], caught[1], caught[2]
                                moved = shift[eye] if near else still
                                _place_seen(eyes[eye, level], from_x, from_y, from_z, CHUNK, moved, u, v)
                            split(u, v, shape, size, _NO_TURN, iu, iv, offset)
                        _tones(eyes[eye, level], at_x, at_y, at_z, tone[eye], gains, lifts)
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
                            if seen == 3:
                                _tone_share(own, gains[part], lifts[part], shares, sums, part * CHUNK)
                            else:
                                _tone(own, gains[part], lifts[part], sums, part * CHUNK)
            count = min(CHUNK, width - x)
            rounded(sums, 0, F(gain / (n * n)), F(top), outs[0], j * stride + x, count)
            if parts == 2:
                rounded(sums, CHUNK, F(gain / (n * n)), F(top), outs[1], j * stride + x, count)

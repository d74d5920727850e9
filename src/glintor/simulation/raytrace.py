"""The compiled renderer: rays from the camera against the place, lit by sun and sky, in cd/m2.

Plain numba functions on scalars and arrays. `place.Scene` holds the arrays that `render` takes. Solids are boxes,
capsules, ellipsoids and convex prisms in groups with bounds; hedges and trees are rows of ellipsoids placed by a hash.

The whole place is one flat array `w`: numbered places at its head (the constants below), tables behind it that rows
of the head point at. One array and plain indices, because slices and tuples of arrays make numba count references,
which two threads then fight over (measured: ten times slower).

One file, because numba's cache on disk asks only whether the file of the
calling function has changed: a kernel in another file would go on using yesterday's functions.
"""

import math

from glintor.pixels.compiling import compiled
from glintor.placement.solids import (
    ASPHALT,
    BARK,
    BLUE,
    BRASS,
    BRICK,
    CABIN,
    CAP,
    CLOTH,
    DARK,
    DUCK,
    EARTH,
    FLOOR,
    FLOWERS,
    FUR,
    GRASS,
    GRAVEL,
    GROUND,
    HAIR,
    HULL,
    JACKET,
    JEANS,
    LEAF,
    MOUNT,
    NOT_PICTURED,
    PAVING,
    PHOTO,
    PICTURED,
    PLACE,
    PLASTER,
    RAIL,
    ROCK,
    ROOF,
    ROPE,
    SAND,
    SCARF,
    SKIN,
    SNOW,
    STEEL,
    STONE,
    SUBJECT,
    TILE,
    WATER,
    WHITE,
    WOOD,
    YELLOW,
)
from glintor.simulation.table import (
    ARCH_HALF,
    ARCH_RISE,
    BANK,
    BESIDE_OF,
    BORE_HALF,
    BORE_RISE,
    BOX_SIZE,
    BRIDGE_HALF,
    BRIDGE_S,
    CAPSULE_SIZE,
    COVERED,
    DESCRIBED,
    EDGE_AHEAD,
    EDGE_BEHIND,
    EDGE_LEFT,
    EDGE_RIGHT,
    ELLIPSOID_SIZE,
    GROUND_Z,
    GROUP_COUNT,
    GROUP_SIZE,
    GROUPS,
    HAZE,
    HILLS,
    HORIZON,
    HORIZON_COUNT,
    LAMP_COUNT,
    LAMP_SIZE,
    LAMPS,
    LOCK_S0,
    LOCK_S1,
    LOCK_WATER,
    LOW_WATER,
    LUX,
    NOTHING,
    ORIGIN,
    PHOTO_AT,
    PHOTO_GAIN,
    PHOTO_H,
    PHOTO_PART,
    PHOTO_SHADE,
    PHOTO_TURN,
    PHOTO_W,
    PHOTO_Z,
    PLANE_SIZE,
    PORTAL_HALF,
    PORTAL_TOP,
    PRISM_SIZE,
    ROW_COUNT,
    ROW_SIZE,
    ROWS,
    SEES_MOUNT,
    SEES_SUBJECT,
    SHADOW_OF_MOUNT,
    SHADOW_OF_SUBJECT,
    SKY,
    SLOPE_AHEAD,
    SLOPE_LEFT,
    SUN,
    TIME,
    TUNNEL_LENGTH,
    TUNNEL_S,
    WATER_Z,
    WAY_HALF,
    WAY_OF,
)

_compiled = compiled(nogil=True, fastmath=True, error_model="numpy")


@_compiled
def _hash(ix, iy):  # type: ignore[no-untyped-def]
    h = (ix * 374761393 + iy * 668265263) & 0xFFFFFFFF
    h = ((h ^ (h >> 13)) * 1274126177) & 0xFFFFFFFF
    return ((h ^ (h >> 16)) & 0xFFFF) / 65536.0


@_compiled
def _noise(x, y):  # type: ignore[no-untyped-def]
    fx, fy = math.floor(x), math.floor(y)
    ix, iy = int(fx), int(fy)
    u, v = x - fx, y - fy
    u, v = u * u * (3 - 2 * u), v * v * (3 - 2 * v)
    low = _hash(ix, iy) * (1 - u) + _hash(ix + 1, iy) * u
    high = _hash(ix, iy + 1) * (1 - u) + _hash(ix + 1, iy + 1) * u
    return low * (1 - v) + high * v


@_compiled
def _grain(x, y, frequency, footprint):  # type: ignore[no-untyped-def]
    """Noise about 0 that fades where a pixel covers more than its grains, so that far texture does not shimmer."""
    fade = min(max(1.2 - footprint * frequency * 1.6, 0.0), 1.0)
    return (_noise(x * frequency, y * frequency) - 0.5) * fade if fade > 0.0 else 0.0


@_compiled
def _box(ox, oy, oz, ix, iy, iz, w, q):  # type: ignore[no-untyped-def]
    """Entry distance and axis (0, 1, 2) of a box; NOTHING where missed or left. ix, iy, iz: inverses of the direction."""
    a, c = (w[q] - ox) * ix, (w[q + 3] - ox) * ix
    near, t1, axis = min(a, c), max(a, c), 0
    a, c = (w[q + 1] - oy) * iy, (w[q + 4] - oy) * iy
    t1 = min(t1, max(a, c))
    a = min(a, c)
    if a > near:
        near, axis = a, 1
    a, c = (w[q + 2] - oz) * iz, (w[q + 5] - oz) * iz
    t1 = min(t1, max(a, c))
    a = min(a, c)
    if a > near:
        near, axis = a, 2
    return (near, axis) if near > 1e-4 and near <= t1 else (NOTHING, 0)


@_compiled
def _meets_bounds(ox, oy, oz, ix, iy, iz, w, q, best):  # type: ignore[no-untyped-def]
    """Whether a ray meets a box before `best`; ix, iy, iz are the inverses of its direction."""
    a, c = (w[q] - ox) * ix, (w[q + 3] - ox) * ix
    t0, t1 = min(a, c), max(a, c)
    a, c = (w[q + 1] - oy) * iy, (w[q + 4] - oy) * iy
    t0, t1 = max(t0, min(a, c)), min(t1, max(a, c))
    a, c = (w[q + 2] - oz) * iz, (w[q + 5] - oz) * iz
    t0, t1 = max(t0, min(a, c)), min(t1, max(a, c))
    return max(t0, 0.0) <= min(t1, best)


@_compiled
def _inverse(d):  # type: ignore[no-untyped-def]
    return 1.0 / (d if abs(d) > 1e-12 else 1e-12)


@_compiled
def _capsule(ox, oy, oz, dx, dy, dz, w, q):  # type: ignore[no-untyped-def]
    bx, by, bz = w[q + 3] - w[q], w[q + 4] - w[q + 1], w[q + 5] - w[q + 2]
    px, py, pz = ox - w[q], oy - w[q + 1], oz - w[q + 2]
    bb, bd, bp = bx * bx + by * by + bz * bz, bx * dx + by * dy + bz * dz, bx * px + by * py + bz * pz
    dp, pp, r2 = dx * px + dy * py + dz * pz, px * px + py * py + pz * pz, w[q + 6] * w[q + 6]
    qa, qb, qc = bb - bd * bd, bb * dp - bp * bd, bb * pp - bp * bp - r2 * bb
    h = qb * qb - qa * qc
    if h < 0.0:
        return NOTHING
    if qa > 1e-12:
        t = (-qb - math.sqrt(h)) / qa
        y = bp + t * bd
        if 0.0 < y < bb:
            return t if t > 1e-4 else NOTHING
        if y > 0.0:
            px, py, pz = ox - w[q + 3], oy - w[q + 4], oz - w[q + 5]
    elif bd < 0.0:
        px, py, pz = ox - w[q + 3], oy - w[q + 4], oz - w[q + 5]
    e = dx * px + dy * py + dz * pz
    h = e * e - (px * px + py * py + pz * pz - r2)
    if h < 0.0:
        return NOTHING
    t = -e - math.sqrt(h)
    return t if t > 1e-4 else NOTHING


@_compiled
def _ellipsoid(ox, oy, oz, dx, dy, dz, cx, cy, cz, rx, ry, rz):  # type: ignore[no-untyped-def]
    px, py, pz = (ox - cx) / rx, (oy - cy) / ry, (oz - cz) / rz
    qx, qy, qz = dx / rx, dy / ry, dz / rz
    a, b, c = qx * qx + qy * qy + qz * qz, px * qx + py * qy + pz * qz, px * px + py * py + pz * pz - 1.0
    h = b * b - a * c
    if h < 0.0:
        return NOTHING
    t = (-b - math.sqrt(h)) / a
    return t if t > 1e-4 else NOTHING


@_compiled
def _prism(ox, oy, oz, dx, dy, dz, w, first, last):  # type: ignore[no-untyped-def]
    t0, t1, face = -NOTHING, NOTHING, first
    for k in range(first, last, PLANE_SIZE):
        along = w[k] * dx + w[k + 1] * dy + w[k + 2] * dz
        off = w[k + 3] - (w[k] * ox + w[k + 1] * oy + w[k + 2] * oz)
        if abs(along) < 1e-12:
            if off < 0.0:
                return NOTHING, first
            continue
        t = off / along
        if along < 0.0:
            if t > t0:
                t0, face = t, k
        elif t < t1:
            t1 = t
    return (t0, face) if t0 <= t1 and t0 > 1e-4 else (NOTHING, first)


@_compiled
def _arch(oy, oz, dy, dz, half, rise):  # type: ignore[no-untyped-def]
    """Far side of an elliptic bore about the canal's axis, seen from inside; NOTHING where the ray runs along it."""
    a = dy * dy / (half * half) + dz * dz / (rise * rise)
    b = oy * dy / (half * half) + oz * dz / (rise * rise)
    c = oy * oy / (half * half) + oz * oz / (rise * rise) - 1.0
    h = b * b - a * c
    if h < 0.0 or a < 1e-14:
        return NOTHING
    t = (-b + math.sqrt(h)) / a
    return t if t > 1e-4 else NOTHING


@_compiled
def _in_arch(y, z, half, rise):  # type: ignore[no-untyped-def]
    return y * y / (half * half) + z * z / (rise * rise) < 1.0


@_compiled
def _water_z(s, w):  # type: ignore[no-untyped-def]
    if s < w[LOCK_S0]:
        return w[LOW_WATER]
    return w[LOCK_WATER] if s < w[LOCK_S1] else 0.0


@_compiled
def _dry(s, n, w):  # type: ignore[no-untyped-def]
    """Whether there is ground of a described place, and not the water beside it."""
    return -w[EDGE_BEHIND] < s < w[EDGE_AHEAD] and -w[EDGE_RIGHT] < n < w[EDGE_LEFT]


@_compiled
def _ground(ox, oy, oz, dx, dy, dz, w, best):  # type: ignore[no-untyped-def]
    """The level ground of a described place, the water beside it and the bank between."""
    t_hit, nx, ny, nz, mat = best, 0.0, 0.0, 0.0, 0
    gz = w[GROUND_Z]
    if dz < -1e-9:
        t = (gz - oz) / dz
        if 1e-4 < t < t_hit and _dry(ox + t * dx, oy + t * dy, w):
            way = abs(oy + t * dy) < w[WAY_HALF]
            t_hit, nx, ny, nz, mat = t, 0.0, 0.0, 1.0, int(w[WAY_OF] if way else w[BESIDE_OF])
        t = (w[WATER_Z] - oz) / dz
        if 1e-4 < t < t_hit and not _dry(ox + t * dx, oy + t * dy, w):
            t_hit, nx, ny, nz, mat = t, 0.0, 0.0, 1.0, WATER
    for side in range(4):  # the bank's face is seen from the water
        edge = w[EDGE_LEFT]
        if side == 1:
            edge = -w[EDGE_RIGHT]
        elif side == 2:
            edge = w[EDGE_AHEAD]
        elif side == 3:
            edge = -w[EDGE_BEHIND]
        if abs(edge) > 1e5:
            continue
        o, d = (oy, dy) if side < 2 else (ox, dx)
        sign = 1.0 if edge > 0.0 else -1.0
        if d * sign < -1e-9 and (o - edge) * sign > 0.0:
            t = (edge - o) / d
            z = oz + t * dz
            if 1e-4 < t < t_hit and w[WATER_Z] < z < gz:
                t_hit, nx, ny, nz, mat = t, sign if side >= 2 else 0.0, sign if side < 2 else 0.0, 0.0, STONE
    return t_hit, nx, ny, nz, mat


@_compiled
def _land(ox, oy, oz, dx, dy, dz, w, best):  # type: ignore[no-untyped-def]
    """Ground, banks, water, bridge and tunnel: distance, normal and material of the nearest."""
    if w[DESCRIBED] > 0.5:
        a, b = w[SLOPE_AHEAD], w[SLOPE_LEFT]
        if a == 0.0 and b == 0.0:
            return _ground(ox, oy, oz, dx, dy, dz, w, best)
        # Ground that slopes is level ground sheared upright: so is the ray, and its distances stay what they are.
        t_hit, nx, ny, nz, mat = _ground(ox, oy, oz - a * ox - b * oy, dx, dy, dz - a * dx - b * dy, w, best)
        nx, ny = nx - a * nz, ny - b * nz
        norm = math.sqrt(nx * nx + ny * ny + nz * nz) if mat else 1.0
        return t_hit, nx / norm, ny / norm, nz / norm, mat
    t_hit, nx, ny, nz, mat = best, 0.0, 0.0, 0.0, 0
    bank, gz, tunnel, bridge = w[BANK], w[GROUND_Z], w[TUNNEL_S], w[BRIDGE_S]
    inside = ox > tunnel and _in_arch(oy, oz, BORE_HALF, BORE_RISE)
    if dz < -1e-9 or oz < gz:
        if dz < -1e-9:
            t = (gz - oz) / dz
            if 1e-4 < t < t_hit:
                y, s = oy + t * dy, ox + t * dx
                if abs(y) > bank and (s < tunnel or (abs(y) > 9.0 and not inside)):
                    t_hit, nx, ny, nz, mat = t, 0.0, 0.0, 1.0, GROUND
        if dz < -1e-9:
            t = (_water_z(ox + (0.0 - oz) / dz * dx, w) - oz) / dz
            t = (_water_z(ox + t * dx, w) - oz) / dz
            if 1e-4 < t < t_hit and abs(oy + t * dy) < bank:
                t_hit, nx, ny, nz, mat = t, 0.0, 0.0, 1.0, WATER
        if abs(dy) > 1e-9:
            side = bank if dy > 0 else -bank
            t = (side - oy) / dy
            if 1e-4 < t < t_hit:
                s, z = ox + t * dx, oz + t * dz
                if _water_z(s, w) - 0.3 < z < gz and s < tunnel:
                    t_hit, nx, ny, nz, mat = t, 0.0, -1.0 if dy > 0 else 1.0, 0.0, STONE
    across = False
    if bridge < 1e6:  # only rays that are low enough where they cross the bridge
        inv = _inverse(dx)
        a, c = (bridge - BRIDGE_HALF - ox) * inv, (bridge + BRIDGE_HALF - ox) * inv
        t0, t1 = max(min(a, c), 0.0), min(max(a, c), t_hit)
        across = t0 <= t1 and min(oz + t0 * dz, oz + t1 * dz) < 4.3
    if across:
        for face in range(2):
            fs = bridge - BRIDGE_HALF if face == 0 else bridge + BRIDGE_HALF
            if abs(dx) > 1e-9:
                t = (fs - ox) / dx
                if 1e-4 < t < t_hit and (face == 0) == (dx > 0):
                    y, z = oy + t * dy, oz + t * dz
                    if z < 4.3 - 0.010 * y * y and abs(y) < 16.0 and not _in_arch(y, z, ARCH_HALF, ARCH_RISE):
                        t_hit, nx, ny, nz, mat = t, -1.0 if dx > 0 else 1.0, 0.0, 0.0, BRICK
        t = _arch(oy, oz, dy, dz, ARCH_HALF, ARCH_RISE)
        if t < t_hit and abs(ox + t * dx - bridge) < BRIDGE_HALF and oz + t * dz > 0.0:
            y, z = oy + t * dy, oz + t * dz
            ly, lz = -y / (ARCH_HALF * ARCH_HALF), -z / (ARCH_RISE * ARCH_RISE)
            norm = math.sqrt(ly * ly + lz * lz)
            t_hit, nx, ny, nz, mat = t, 0.0, ly / norm, lz / norm, BRICK
    if tunnel < 1e6:
        if dx > 1e-9 and ox < tunnel:
            t = (tunnel - ox) / dx
            if 1e-4 < t < t_hit:
                y, z = oy + t * dy, oz + t * dz
                if abs(y) < PORTAL_HALF and z < PORTAL_TOP and not _in_arch(y, z, BORE_HALF, BORE_RISE):
                    t_hit, nx, ny, nz, mat = t, -1.0, 0.0, 0.0, BRICK
        t = _arch(oy, oz, dy, dz, BORE_HALF, BORE_RISE) if ox > tunnel or dx > 0.0 else NOTHING
        if t < t_hit:
            s, y, z = ox + t * dx, oy + t * dy, oz + t * dz
            if tunnel < s < tunnel + TUNNEL_LENGTH and z > 0.0:
                ly, lz = -y / (BORE_HALF * BORE_HALF), -z / (BORE_RISE * BORE_RISE)
                norm = math.sqrt(ly * ly + lz * lz)
                t_hit, nx, ny, nz, mat = t, 0.0, ly / norm, lz / norm, BRICK
        if not inside:  # the hill over the tunnel: a bank of 40 degrees from the portal's sides and top
            slope = dz - 0.84 * dx
            for part in range(2):
                foot = gz if part == 0 else PORTAL_TOP
                if abs(slope) > 1e-9:
                    t = (foot + 0.84 * (ox - tunnel) - oz) / slope
                    if 1e-4 < t < t_hit:
                        s, y, z = ox + t * dx, oy + t * dy, oz + t * dz
                        beside = abs(y) > PORTAL_HALF
                        if s > tunnel and z < 14.0 and beside == (part == 0):
                            t_hit, nx, ny, nz, mat = t, -0.643, 0.0, 0.766, GROUND
    return t_hit, nx, ny, nz, mat


@_compiled
def _trunk(px, py, dx, dy, radius):  # type: ignore[no-untyped-def]
    """Entry into an endless upright cylinder."""
    a = dx * dx + dy * dy + 1e-12
    b = px * dx + py * dy
    h = b * b - a * (px * px + py * py - radius * radius)
    if h < 0.0:
        return NOTHING
    t = (-b - math.sqrt(h)) / a
    return t if t > 1e-4 else NOTHING


@_compiled
def _rows(ox, oy, oz, dx, dy, dz, w, best, shadow):  # type: ignore[no-untyped-def]
    """Hedges and trees: rows (n, spacing, radius, height of the crown's middle, spread, s from, s to, seed)."""
    if w[SLOPE_AHEAD] != 0.0 or w[SLOPE_LEFT] != 0.0:  # they stand on ground that slopes
        oz, dz = oz - w[SLOPE_AHEAD] * ox - w[SLOPE_LEFT] * oy, dz - w[SLOPE_AHEAD] * dx - w[SLOPE_LEFT] * dy
    t_hit, nx, ny, nz, mat, tint = best, 0.0, 0.0, 0.0, 0, 0.0
    iy, iz = _inverse(dy), _inverse(dz)
    for k in range(int(w[ROW_COUNT])):
        q = int(w[ROWS]) + k * ROW_SIZE
        reach, top = w[q + 2] * 1.5 + w[q + 4], w[q + 3] + w[q + 2] * 1.9
        t0, t1 = 0.0, t_hit
        a, b = (w[q] - reach - oy) * iy, (w[q] + reach - oy) * iy
        t0, t1 = max(t0, min(a, b)), min(t1, max(a, b))
        rise = 14.0 if w[TUNNEL_S] < 1e6 else 0.0
        a, b = (w[GROUND_Z] - oz) * iz, (w[GROUND_Z] + top + rise - oz) * iz
        t0, t1 = max(t0, min(a, b)), min(t1, max(a, b))
        if t0 >= t1:
            continue
        s0, s1 = ox + t0 * dx, ox + min(t1, t0 + 400.0) * dx
        if s0 > s1:
            s0, s1 = s1, s0
        i0, i1 = int(math.floor((s0 - reach) / w[q + 1])), int(math.floor((s1 + reach) / w[q + 1])) + 1
        if i1 - i0 > 40:
            if dx > 0:
                i1 = i0 + 40
            else:
                i0 = i1 - 40
        seed = int(w[q + 7])
        wide = (
            w[q + 2] * 1.25 + w[q + 4] + 0.35 * w[q + 1]
        )  # no crown of this row reaches farther from its cell's middle
        wide *= wide * (dx * dx + dy * dy)
        for step in range(i1 - i0 + 1):
            i = i0 + step if dx > 0 else i1 - step
            if mat != 0 and abs(dx) > 1e-6:
                begin = ((i - 0.5) * w[q + 1] - reach - ox) / dx if dx > 0 else ((i + 0.5) * w[q + 1] + reach - ox) / dx
                if begin > t_hit:
                    break
            aside = (i * w[q + 1] - ox) * dy - (w[q] - oy) * dx
            if aside * aside > wide:
                continue
            h1, h2, h3 = _hash(i, seed), _hash(i, seed + 71), _hash(i, seed + 151)
            cs = (i + 0.7 * (h1 - 0.5)) * w[q + 1]
            if cs < w[q + 5] or cs > w[q + 6]:
                continue
            cn = w[q] + (h2 - 0.5) * 2.0 * w[q + 4]
            size = w[q + 2] * (0.75 + 0.5 * h3)
            base = w[GROUND_Z]
            if cs > w[TUNNEL_S]:
                base = min(w[GROUND_Z] + 0.84 * (cs - w[TUNNEL_S]), 14.0)
                if abs(cn) < PORTAL_HALF:
                    base = min(PORTAL_TOP + 0.84 * (cs - w[TUNNEL_S]), 14.0)
            middle = base + w[q + 3] * (0.8 + 0.4 * h1)
            tall = max(size * (0.9 + 0.5 * h2), 0.8 * w[q + 3]) if w[q + 3] < 2.0 else size * (0.9 + 0.5 * h2)
            t = _ellipsoid(ox, oy, oz, dx, dy, dz, cs, cn, middle, size, size, tall)
            if t < t_hit:
                if shadow:
                    return t, 0.0, 0.0, 1.0, LEAF, h3
                wx, wy, wz = ox + t * dx, oy + t * dy, oz + t * dz
                ax, ay, az = (wx - cs) / size, (wy - cn) / size, (wz - middle) / tall
                facing = -(ax * dx + ay * dy + az * dz)
                px, py = (wx + 0.6 * wz) * 1.9 + 9.0 * h2, (wz - 0.5 * wy) * 1.9 + wy * 1.1
                fade = min(max(1.3 - t * 0.02, 0.15), 1.0)
                lumps = (
                    0.55 * _noise(px * 1.1, py * 1.1)
                    + (0.50 * _noise(px * 4.5, py * 4.5) + 0.25 * _noise(px * 13.0, py * 13.0)) * fade
                )
                if facing > lumps * 0.80:
                    bx, by = _noise(px * 1.4 + 1.7, py * 1.4) - 0.5, _noise(px * 1.4, py * 1.4 + 8.3) - 0.5
                    if t < 30.0:
                        bx, by = (
                            bx + 0.8 * (_noise(px * 5.0, py * 5.0 + 3.0) - 0.5),
                            by + 0.8 * (_noise(px * 5.0 + 7.0, py * 5.0) - 0.5),
                        )
                    ax, ay, az = ax + bx * 1.1, ay + by * 1.1, az + (bx - by) * 0.9
                    norm = math.sqrt(ax * ax + ay * ay + az * az)
                    t_hit, nx, ny, nz, mat, tint = t, ax / norm, ay / norm, az / norm, LEAF, h3
            if w[q + 3] > 2.0:
                t = _trunk(ox - cs, oy - cn, dx, dy, 0.10 + 0.04 * w[q + 2])
                if t < t_hit and base < oz + t * dz < middle:
                    hx, hy = ox + t * dx - cs, oy + t * dy - cn
                    norm = math.sqrt(hx * hx + hy * hy) + 1e-9
                    t_hit, nx, ny, nz, mat, tint = t, hx / norm, hy / norm, 0.0, BARK, h3
    return t_hit, nx, ny, nz, mat, tint


@_compiled
def _solids(ox, oy, oz, dx, dy, dz, w, best, shadow, only):  # type: ignore[no-untyped-def]
    """Made things and people. A group: bounds (6), where its boxes, capsules, ellipsoids and prisms begin and end in
    `w` (8), whether it only throws a shadow (the camera and what the lens gap hides), and whose it is.
    `only` looks at the groups of one owner, -1 at all, NOT_PICTURED at all but those that a place's photo already shows."""
    t_hit, nx, ny, nz, mat, owner = best, 0.0, 0.0, 0.0, 0, 0
    ix, iy, iz = _inverse(dx), _inverse(dy), _inverse(dz)
    number, count = -1, int(w[GROUP_COUNT])
    while number + 1 < count:
        number += 1
        g = int(w[GROUPS]) + number * GROUP_SIZE
        if w[g + 16] > 0.5:  # bounds of the groups that follow
            if not _meets_bounds(ox, oy, oz, ix, iy, iz, w, g, t_hit):
                number += int(w[g + 16])
            continue
        if (w[g + 14] > 0.5 and not shadow) or not _meets_bounds(ox, oy, oz, ix, iy, iz, w, g, t_hit):
            continue
        if (only >= 0 and int(w[g + 15]) != only) or (only == NOT_PICTURED and int(w[g + 15]) == PICTURED):
            continue
        before = t_hit
        for k in range(int(w[g + 6]), int(w[g + 7]), BOX_SIZE):
            t, axis = _box(ox, oy, oz, ix, iy, iz, w, k)
            if t < t_hit:
                t_hit, mat = t, int(w[k + 6])
                nx = (-1.0 if dx > 0 else 1.0) if axis == 0 else 0.0
                ny = (-1.0 if dy > 0 else 1.0) if axis == 1 else 0.0
                nz = (-1.0 if dz > 0 else 1.0) if axis == 2 else 0.0
        for k in range(int(w[g + 8]), int(w[g + 9]), CAPSULE_SIZE):
            t = _capsule(ox, oy, oz, dx, dy, dz, w, k)
            if t < t_hit:
                t_hit, mat = t, int(w[k + 7])
                px, py, pz = ox + t * dx - w[k], oy + t * dy - w[k + 1], oz + t * dz - w[k + 2]
                bx, by, bz = w[k + 3] - w[k], w[k + 4] - w[k + 1], w[k + 5] - w[k + 2]
                h = min(max((px * bx + py * by + pz * bz) / (bx * bx + by * by + bz * bz + 1e-12), 0.0), 1.0)
                nx, ny, nz = (px - h * bx) / w[k + 6], (py - h * by) / w[k + 6], (pz - h * bz) / w[k + 6]
        for k in range(int(w[g + 10]), int(w[g + 11]), ELLIPSOID_SIZE):
            t = _ellipsoid(ox, oy, oz, dx, dy, dz, w[k], w[k + 1], w[k + 2], w[k + 3], w[k + 4], w[k + 5])
            if t < t_hit:
                t_hit, mat = t, int(w[k + 6])
                nx, ny, nz = (
                    (ox + t * dx - w[k]) / w[k + 3] ** 2,
                    (oy + t * dy - w[k + 1]) / w[k + 4] ** 2,
                    (oz + t * dz - w[k + 2]) / w[k + 5] ** 2,
                )
                norm = math.sqrt(nx * nx + ny * ny + nz * nz)
                nx, ny, nz = nx / norm, ny / norm, nz / norm
        for k in range(int(w[g + 12]), int(w[g + 13]), PRISM_SIZE):
            t, face = _prism(ox, oy, oz, dx, dy, dz, w, int(w[k]), int(w[k + 1]))
            if t < t_hit:
                t_hit, mat = t, int(w[k + 2])
                nx, ny, nz = w[face], w[face + 1], w[face + 2]
        if t_hit < before:
            owner = int(w[g + 15])
            if shadow:
                break  # what throws it does not matter
    return t_hit, nx, ny, nz, mat, owner


@_compiled
def _open_share(px, py, pz, nx, ny, nz, w):  # type: ignore[no-untyped-def]
    """Share of the sky that a surface under a roof, in a tunnel or under a bridge still sees: seven rays, each weighed by how
    much it would bring."""
    seen, all_of = 0.0, 0.0
    for k in range(7):
        dx, dy, dz = 0.0, 0.0, 1.0
        if k >= 5:
            dx, dz = 0.97 if k == 5 else -0.97, 0.243
        elif k >= 3:
            dy, dz = 0.707 if k == 3 else -0.707, 0.707
        elif k >= 1:
            dx, dz = 0.707 if k == 1 else -0.707, 0.707
        weight = max(nx * dx + ny * dy + nz * dz, 0.0) + 0.12
        t, _a, _b, _c, _m, _o = _solids(
            px + nx * 0.02, py + ny * 0.02, pz + nz * 0.02, dx, dy, dz, w, NOTHING, True, PLACE
        )
        all_of += weight
        if t >= NOTHING:
            seen += weight
    return 0.006 + 0.994 * seen / all_of


HILL_MOST = 0.028 + 0.045 + 0.012


@_compiled
def _hill_height(azimuth, w):  # type: ignore[no-untyped-def]
    """Tangent of the far hills' height over the horizon: as a place's own is described, else at most HILL_MOST."""
    count = int(w[HORIZON_COUNT])
    if count > 0:
        place = (azimuth / (2.0 * math.pi)) % 1.0 * count
        k = int(place)
        low, high = w[int(w[HORIZON]) + k % count], w[int(w[HORIZON]) + (k + 1) % count]
        return low + (high - low) * (place - k)
    a = azimuth * 3.0
    return 0.028 + 0.045 * _noise(a + 7.0, 3.1) + 0.012 * _noise(a * 5.0, 9.7)


@_compiled
def _sky(dx, dy, dz, w):  # type: ignore[no-untyped-def]
    """Sky, far hills and sun. Numbers from SKY: zenith luminance, CIE a b c d e, 1/(f phi) at zenith, sun disc luminance, cloud share,
    whether the sky is grey all over, exp(d pi / 2).

    Source: CIE S 011/E:2003 (ISO 15469:2004), relative luminance phi(Z) f(chi).
    """
    z = max(dz, 0.015)
    cos_chi = min(max(dx * w[SUN] + dy * w[SUN + 1] + dz * w[SUN + 2], -1.0), 1.0)
    chi = math.acos(cos_chi)
    phi = 1.0 + w[SKY + 1] * math.exp(w[SKY + 2] / z)
    f = 1.0 + w[SKY + 3] * (math.exp(w[SKY + 4] * chi) - w[SKY + 10]) + w[SKY + 5] * cos_chi * cos_chi
    l = w[SKY] * phi * f * w[SKY + 6]
    low = math.exp(-z * 5.0)
    white = min(0.75 * low + 0.5 * math.exp(-chi * 3.2), 1.0)
    if w[SKY + 9] > 0.5:
        white = 1.0
    r, g, b = l * (0.50 + 0.50 * white), l * (0.90 + 0.10 * white), l * (2.15 - 1.05 * white)
    if dz > 0.02:
        x, y = dx / (dz + 0.12), dy / (dz + 0.12)
        c = (
            0.55 * _noise(x * 1.3 + 3.0, y * 1.3)
            + 0.28 * _noise(x * 3.1, y * 3.1 + 5.0)
            + 0.17 * _noise(x * 7.3 + 1.0, y * 7.3)
        )
        if c > 0.5:
            c += 0.06 * (_noise(x * 17.0, y * 17.0) - 0.5)
        cover = min(max((c - (1.0 - w[SKY + 8])) * 5.0, 0.0), 1.0) * min(dz * 8.0, 1.0)
        lit = w[SKY] * (3.4 + 2.4 * math.exp(-chi * 1.5)) * (1.0 - 0.35 * min(max((c - 0.62) * 4.0, 0.0), 1.0))
        r, g, b = r + (lit - r) * cover, g + (lit - g) * cover, b + (lit * 1.04 - b) * cover
    flat = math.sqrt(dx * dx + dy * dy)
    hill = 0.0
    if w[HORIZON_COUNT] > 0.5 or (w[HILLS] > 0.0 and dz < HILL_MOST * flat):
        hill = _hill_height(math.atan2(dy, dx), w)
    if dz < hill * flat:
        shade = 0.35 + 0.30 * _noise(math.atan2(dy, dx) * 60.0, dz * 90.0)
        near = min(max((hill * flat - dz) * 22.0, 0.0), 1.0)
        hr, hg, hb = w[SKY] * 0.55 * shade, w[SKY] * 0.66 * shade, w[SKY] * 0.42 * shade
        mix = 0.62 - 0.34 * near
        r, g, b = hr + (r - hr) * mix, hg + (g - hg) * mix, hb + (b - hb) * mix
    elif cos_chi > 0.99999:
        r, g, b = r + w[SKY + 7], g + w[SKY + 7] * 0.96, b + w[SKY + 7] * 0.88
    elif cos_chi > 0.97:
        glow = w[SKY] * 22.0 * math.exp(-(chi * 57.3) * 0.9)
        r, g, b = r + glow, g + glow * 0.97, b + glow * 0.9
    return r, g, b


@_compiled
def _ground_albedo(mat, x, y, z, nz, foot, w):  # type: ignore[no-untyped-def]
    """Diffuse reflectance of what grounds of described places are made of. Means: grass 0.13 in the luminous band, bare earth
    0.2, asphalt 0.1, concrete 0.3, dry sand 0.4, fresh snow 0.8 and more, rock 0.26 (handbook values, from memory)."""
    if mat == GRASS:
        n1 = _noise(x * 0.35, y * 0.35) - 0.5
        v = 0.125 + 0.045 * n1 + 0.05 * _grain(x, y, 2.3, foot) + 0.07 * _grain(x + 31.0, y, 9.0, foot)
        v = max(v + 0.08 * _grain(x, y + 5.0, 31.0, foot), 0.02)
        dry = min(max(0.5 + n1 * 1.4, 0.0), 1.0)
        return v * (0.85 + 0.5 * dry), v * 1.25, v * 0.42
    if mat == EARTH:
        v = 0.20 + 0.05 * (_noise(x * 0.5, y * 0.5) - 0.5) + 0.06 * _grain(x, y, 5.0, foot)
        v += 0.08 * _grain(x, y, 23.0, foot)
        return v * 1.15, v * 0.95, v * 0.72
    if mat == GRAVEL:
        v = 0.30 + 0.08 * _grain(x, y, 3.0, foot) + 0.16 * _grain(x, y, 33.0, foot)
        return v, v * 0.97, v * 0.90
    if mat == ASPHALT:
        v = 0.10 + 0.02 * (_noise(x * 0.4, y * 0.9) - 0.5) + 0.04 * _grain(x, y, 45.0, foot)
        half = w[WAY_HALF]
        middle = abs(y) < 0.06 and (x % 9.0) < 4.0 and 2.4 < half < 1e5
        if middle or abs(abs(y) - half + 0.25) < 0.06:
            return 0.55, 0.55, 0.53
        return v, v, v * 1.02
    if mat == PAVING:
        tone = _hash(int(math.floor(x / 0.4)), int(math.floor(y / 0.4)) + 77)
        fade = min(max(1.3 - foot * 6.0, 0.0), 1.0)
        v = 0.30 + 0.07 * (tone - 0.5) * fade + 0.05 * _grain(x, y, 11.0, foot)
        if (x % 0.4) < 0.02 or (y % 0.4) < 0.02:
            v -= 0.10 * fade
        return v * 1.02, v, v * 0.94
    if mat == SAND:
        v = 0.40 + 0.05 * (_noise(x * 0.25, y * 0.6) - 0.5) + 0.05 * _grain(x, y * 2.0, 3.0, foot)
        v += 0.05 * _grain(x, y, 40.0, foot)
        return v * 1.10, v * 0.95, v * 0.70
    if mat == SNOW:
        v = 0.82 + 0.05 * (_noise(x * 0.3, y * 0.3) - 0.5) + 0.05 * _grain(x, y, 4.0, foot)
        return v * 0.98, v, min(v * 1.03, 0.95)
    up = z if nz < 0.6 else y
    if mat == ROCK:
        v = 0.26 + 0.16 * (_noise(x * 0.25 + 3.0, up * 0.5) - 0.5) + 0.12 * _grain(x + y, up * 2.0, 1.6, foot)
        v = max(v + 0.12 * _grain(x + y, up, 8.0, foot), 0.06)
        return v * 1.04, v, v * 0.92
    if mat == FLOOR:
        v = 0.34 + 0.03 * _grain(x, y * 6.0, 4.0, foot)
        if foot < 0.08 and ((y % 0.15) < 0.006 or ((x + math.floor(y / 0.15) * 0.7) % 2.0) < 0.008):
            v *= 0.7
        return v * 1.15, v * 0.92, v * 0.66
    v = 0.32 + 0.06 * _grain(x, up, 1.2, foot) + 0.05 * _grain(x, up, 14.0, foot)
    return v, v * 0.98, v * 0.94


@_compiled
def _albedo(mat, x, y, z, nx, ny, nz, tint, foot, w):  # type: ignore[no-untyped-def]
    """Diffuse reflectance (red, green, blue) of a material at a place; x is counted from the carrier for its parts."""
    if mat == GROUND:
        d = abs(y) - w[BANK]
        steep = nz < 0.9
        path = 0.55 < d < 2.5 and y > 0 and not steep
        n1 = _noise(x * 0.35, y * 0.35) - 0.5
        g1, g2 = _grain(x, y, 2.3, foot), _grain(x + 31.0, y, 9.0, foot)
        if d < 0.5 and not steep:
            v = 0.34 + 0.10 * _grain(x, y, 6.0, foot) + (-0.10 if foot < 0.03 and (x % 1.1) < 0.03 else 0.0)
            return v * 1.02, v * 0.98, v * 0.88
        edge = _noise(x * 0.9, y * 2.0) * 0.5
        if path and 0.55 + edge * 0.5 < d < 2.5 - edge:
            v = 0.30 + 0.07 * g1 + 0.10 * g2 + 0.05 * n1 + 0.14 * _grain(x, y, 42.0, foot)
            return v * 1.08, v * 0.97, v * 0.80
        v = max(0.115 + 0.045 * n1 + 0.05 * g1 + 0.07 * g2 + 0.09 * _grain(x, y + 5.0, 31.0, foot), 0.02)
        dry = min(max(0.5 + n1 * 1.4, 0.0), 1.0)
        return v * (0.85 + 0.5 * dry), v * 1.25, v * 0.42
    if mat >= GRASS:
        return _ground_albedo(mat, x, y, z, nz, foot, w)
    if mat == STONE:
        up = z if nz < 0.5 else y
        v = (
            0.24
            + 0.12 * _grain(x, up * 3.0, 2.5, foot)
            + 0.10 * _grain(x, up, 9.0, foot)
            + 0.10 * _grain(x, up, 37.0, foot)
        )
        if foot < 0.05 and ((x % 1.3) < 0.025 or (up % 0.45) < 0.02):
            v *= 0.6
        damp = 0.45 if z < _water_z(x, w) + 0.18 else 1.0
        return v * damp, v * damp * 0.97, v * damp * 0.86
    if mat == BRICK:
        along = y if abs(nx) > 0.5 else (x if abs(ny) + abs(nz) > 0.5 else y)
        up = z if abs(nz) < 0.7 else y
        row = math.floor(up / 0.085)
        column = math.floor(along / 0.24 + 0.5 * (row % 2))
        tone = _hash(int(column), int(row) + 999)
        fade = min(max(1.4 - foot * 14.0, 0.0), 1.0)
        v = 0.20 + 0.10 * (tone - 0.5) * fade + 0.10 * _grain(along, up, 0.8, foot)
        joint = (up / 0.085) % 1.0 < 0.14 or (along / 0.24 + 0.5 * (row % 2)) % 1.0 < 0.06
        if joint:
            v += 0.06 * fade
        soot = 0.55 if _in_arch(y, z, BORE_HALF + 0.9, BORE_RISE + 0.8) and x > w[TUNNEL_S] - 0.5 else 1.0
        ring = (
            w[DESCRIBED] < 0.5
            and ARCH_RISE + 0.35 > z > 0.0
            and abs(nx) > 0.5
            and _in_arch(y, z, ARCH_HALF + 0.42, ARCH_RISE + 0.42)
        )
        mouth = abs(nx) > 0.5 and _in_arch(y, z, BORE_HALF + 0.45, BORE_RISE + 0.45) and x > w[TUNNEL_S] - 0.5
        if ring or mouth:
            return 0.36 * soot, 0.34 * soot, 0.30 * soot
        damp = 0.6 if z < 0.35 and w[DESCRIBED] < 0.5 else 1.0
        return v * 1.35 * soot * damp, v * 0.92 * soot * damp, v * 0.70 * soot * damp
    if mat == LEAF:
        px, py = x + 0.6 * z, z - 0.5 * y + y * 0.6
        v = (
            0.085
            + 0.10 * _grain(px, py, 3.0, foot)
            + 0.13 * _grain(px, py, 11.0, foot)
            + 0.10 * _grain(px, py, 29.0, foot)
        )
        v = max(v, 0.012)
        autumn = max(tint - 0.62, 0.0) * 2.2
        return v * (0.80 + 1.3 * autumn), v * (1.22 + 0.1 * autumn), v * (0.36 - 0.1 * autumn)
    if mat == BARK:
        v = 0.13 + 0.05 * _grain(x * 3.0 + y * 3.0, z, 6.0, foot)
        return v * 1.1, v, v * 0.85
    bx = x - w[ORIGIN]
    if mat == HULL:
        if z > 0.66:
            return 0.55, 0.12, 0.06
        return 0.022, 0.030, 0.045
    if mat == CABIN:
        if abs(ny) > 0.5:
            pane = bx % 2.5
            if 0.75 < pane < 1.65 and 1.02 < z < 1.42:
                if pane < 0.79 or pane > 1.61 or z < 1.05 or z > 1.39:
                    return 0.62, 0.46, 0.14
                return 0.02, 0.03, 0.035
            border = z < 0.84 or z > 1.54 or bx % 5.0 < 0.05
            if border:
                return 0.62, 0.40, 0.05
            return (0.03, 0.13, 0.09) if int(math.floor(bx / 5.0)) % 2 == 0 else (0.30, 0.04, 0.03)
        return 0.30, 0.04, 0.03
    if mat == ROOF:
        v = 0.20 + 0.03 * _grain(x - w[ORIGIN], y, 7.0, foot)
        if abs(y) > 0.66:
            return 0.03, 0.13, 0.09
        return v * 0.86, v * 0.98, v * 0.94
    if mat == TILE:
        v = 0.16 + 0.05 * _grain(x, z, 3.0, foot) + (0.03 if (z / 0.16) % 1.0 < 0.5 and foot < 0.08 else 0.0)
        return v * 1.25, v * 0.85, v * 0.68
    if mat == PLASTER:
        if (0.9 < z - w[GROUND_Z] < 2.0 and 0.8 < (x + y) % 3.0 < 1.7) or (
            z - w[GROUND_Z] < 2.05 and 2.1 < (x + y) % 9.0 < 3.0
        ):
            return 0.05, 0.07, 0.08
        v = 0.58 + 0.04 * _grain(x + y, z, 1.5, foot)
        return v, v * 0.96, v * 0.86
    if mat == FLOWERS:
        pick = _hash(int(math.floor(bx * 22.0)), int(math.floor(y * 22.0)) + int(math.floor(z * 22.0)) * 17)
        if pick > 0.72:
            return 0.62, 0.10, 0.12
        if pick > 0.55:
            return 0.75, 0.55, 0.10
        return 0.06, 0.16, 0.04
    if mat == SKIN:
        return 0.46, 0.29, 0.21
    if mat == HAIR:
        return 0.10, 0.055, 0.03
    if mat == JACKET:
        return 0.44, 0.085, 0.035
    if mat == JEANS:
        return 0.055, 0.085, 0.16
    if mat == CAP:
        return 0.035, 0.05, 0.06
    if mat == SCARF:
        return 0.62, 0.48, 0.16
    if mat == RAIL:
        return 0.30, 0.04, 0.03
    if mat == WOOD:
        v = 0.26 + 0.05 * _grain(bx * 0.4, y * 6.0, 3.0, foot)
        return v * 1.15, v * 0.85, v * 0.52
    if mat == BRASS:
        return 0.62, 0.46, 0.14
    if mat == ROPE:
        return 0.50, 0.45, 0.34
    if mat == WHITE:
        return 0.75, 0.74, 0.70
    if mat == STEEL:
        return 0.34, 0.35, 0.36
    if mat == BLUE:
        return 0.04, 0.09, 0.26
    if mat == YELLOW:
        return 0.68, 0.47, 0.06
    if mat == CLOTH:
        return 0.22, 0.20, 0.17
    if mat == FUR:
        v = 0.20 + 0.08 * _grain(x, z + y, 14.0, foot)
        return v * 1.15, v * 0.85, v * 0.55
    if mat == DUCK:
        return (0.03, 0.16, 0.10) if z > 0.17 else (0.33, 0.28, 0.22)
    return 0.035, 0.035, 0.038


@_compiled
def _nearest(ox, oy, oz, dx, dy, dz, w):  # type: ignore[no-untyped-def]
    t, nx, ny, nz, mat, _owner = _solids(ox, oy, oz, dx, dy, dz, w, NOTHING, False, -1)
    tint = 0.0
    t2, ax, ay, az, mat2 = _land(ox, oy, oz, dx, dy, dz, w, t)
    if mat2:
        t, nx, ny, nz, mat = t2, ax, ay, az, mat2
    t2, ax, ay, az, mat2, tint2 = _rows(ox, oy, oz, dx, dy, dz, w, t, False)
    if mat2:
        t, nx, ny, nz, mat, tint = t2, ax, ay, az, mat2, tint2
    return t, nx, ny, nz, mat, tint


@_compiled
def _lit(px, py, pz, nx, ny, nz, mat, tint, foot, w):  # type: ignore[no-untyped-def]
    """Luminance (red, green, blue) of a diffuse surface."""
    r, g, b = _albedo(mat, px, py, pz, nx, ny, nz, tint, foot, w)
    facing = nx * w[SUN] + ny * w[SUN + 1] + nz * w[SUN + 2]
    if mat == LEAF:
        facing = 0.65 * facing + 0.35  # light through leaves
    seen = 0.0
    if facing > 0.0 and w[SUN + 2] > 0.0:
        qx, qy, qz = px + nx * 0.01, py + ny * 0.01, pz + nz * 0.01
        t, _a, _b, _c, _m, _o = _solids(qx, qy, qz, w[SUN], w[SUN + 1], w[SUN + 2], w, NOTHING, True, -1)
        if t >= NOTHING:
            t, _a, _b, _c, _m = _land(qx, qy, qz, w[SUN], w[SUN + 1], w[SUN + 2], w, NOTHING)
        if t >= NOTHING and mat != LEAF:
            t, _a, _b, _c, _m, _t = _rows(qx, qy, qz, w[SUN], w[SUN + 1], w[SUN + 2], w, NOTHING, True)
            seen = 1.0 if t >= NOTHING else 0.0
        elif t >= NOTHING:
            seen = 1.0
    open_sky, around = 0.5 + 0.5 * nz, 1.0  # of the sky, and of what the ground about throws back
    if (
        px > w[TUNNEL_S]
        and mat != GROUND
        and mat != LEAF
        and mat != BARK
        and _in_arch(py, pz, BORE_HALF + 0.05, BORE_RISE + 0.05)
    ):
        deep = px - w[TUNNEL_S]
        open_sky = 0.22 * math.exp(-deep / 3.2) + 0.0016 / (1.0 + deep * 0.05) + 0.0004
        seen, around = 0.0, min(open_sky * 4.0, 1.0)
    elif px > w[TUNNEL_S] - 4.0 and _in_arch(py, pz, BORE_HALF, BORE_RISE):
        open_sky *= 0.22 + 0.195 * (w[TUNNEL_S] - px)
        around = min(open_sky * 4.0, 1.0)
    elif abs(px - w[BRIDGE_S]) < BRIDGE_HALF + 0.1 and _in_arch(py, pz, ARCH_HALF + 0.05, ARCH_RISE + 0.05):
        open_sky = 0.16 + 0.10 * abs(px - w[BRIDGE_S]) / BRIDGE_HALF
        around = min(open_sky * 4.0, 1.0)
    if mat == GROUND and abs(py) > w[BANK]:
        open_sky *= 0.9
    if w[COVERED] > 0.5:
        share = _open_share(px, py, pz, nx, ny, nz, w)
        open_sky *= share
        around = 0.5 if w[COVERED] > 1.5 else min(share * 4.0, 1.0)  # much comes in under a carrier's own roof
    sun_e, sky_e, bounce = (
        w[LUX] * max(facing, 0.0) * seen,
        w[LUX + 1] * open_sky,
        w[LUX + 2] * (0.5 - 0.5 * nz) * around,
    )
    er = sun_e * 1.06 + sky_e * 0.86 + bounce
    eg = sun_e * 0.99 + sky_e * 1.00 + bounce
    eb = sun_e * 0.86 + sky_e * 1.24 + bounce * 0.7
    for k in range(int(w[LAMP_COUNT])):  # what stands between is left out
        q = int(w[LAMPS]) + k * LAMP_SIZE
        lx, ly, lz = w[q] - px, w[q + 1] - py, w[q + 2] - pz
        far = lx * lx + ly * ly + lz * lz + 0.02
        toward = (nx * lx + ny * ly + nz * lz) / math.sqrt(far)
        if toward > 0.0:
            lux = w[q + 3] * toward / far
            er, eg, eb = er + lux * 1.20, eg + lux, eb + lux * 0.62
    return r * er / math.pi, g * eg / math.pi, b * eb / math.pi


@_compiled
def _photo(dx, dy, dz, w):  # type: ignore[no-untyped-def]
    """Luminance that a place's photo has in a direction, between its pixels evenly; below 0 where it shows nothing."""
    width, height = int(w[PHOTO_W]), int(w[PHOTO_H])
    u = ((w[PHOTO_TURN] - math.atan2(dy, dx)) / (2.0 * math.pi) + 0.5) % 1.0 * width - 0.5
    v = (0.5 - math.atan2(dz, math.sqrt(dx * dx + dy * dy)) / math.pi) * height - 0.5
    v = min(max(v, 0.0), height - 1.001)
    i, j = int(math.floor(u)), int(v)
    a, b = u - math.floor(u), v - j
    q, at = int(w[PHOTO_AT]), w[PHOTO_GAIN]
    left, right = (i % width) * 3, ((i + 1) % width) * 3
    up, down = q + j * width * 3, q + min(j + 1, height - 1) * width * 3
    if min(w[up + left], w[up + right], w[down + left], w[down + right]) < 0.0:
        return -1.0, -1.0, -1.0
    p00, p01, p10, p11 = (1 - a) * (1 - b), a * (1 - b), (1 - a) * b, a * b
    r = p00 * w[up + left] + p01 * w[up + right] + p10 * w[down + left] + p11 * w[down + right]
    g = p00 * w[up + left + 1] + p01 * w[up + right + 1] + p10 * w[down + left + 1] + p11 * w[down + right + 1]
    c = p00 * w[up + left + 2] + p01 * w[up + right + 2] + p10 * w[down + left + 2] + p11 * w[down + right + 2]
    return r * at, g * at, c * at


@_compiled
def _radiance(ox, oy, oz, dx, dy, dz, pixel_rad, w):  # type: ignore[no-untyped-def]
    """Luminance along one ray, the distance and the material it meets (0 for sky)."""
    t, nx, ny, nz, mat, tint = _nearest(ox, oy, oz, dx, dy, dz, w)
    far = w[TUNNEL_S] + TUNNEL_LENGTH
    if w[PHOTO_W] > 0.5:
        px, py, pz = ox + t * dx, oy + t * dy, oz + t * dz
        if mat == 0 or t > 900.0:
            r, g, b = _photo(dx, dy, dz, w)
            if r >= 0.0:
                return r, g, b, 1e4, 0
        elif mat == PHOTO or (
            w[PHOTO_PART] > 0.5 and nz > 0.5 and (mat == w[WAY_OF] or mat == w[BESIDE_OF] or mat == WATER)
        ):
            r, g, b = _photo(px, py, pz - w[PHOTO_Z], w)
            if r >= 0.0:
                if w[SUN + 2] > 0.0 and w[LUX] > 0.0:
                    s, _a, _b, _c, _m, _o = _solids(
                        px, py, pz + 0.01, w[SUN], w[SUN + 1], w[SUN + 2], w, NOTHING, True, NOT_PICTURED
                    )
                    if s < NOTHING:
                        r, g, b = r * w[PHOTO_SHADE], g * w[PHOTO_SHADE], b * w[PHOTO_SHADE]
                return r, g, b, t, PHOTO
    if mat == 0 or t > 900.0:
        r, g, b = _sky(dx, dy, dz, w)
        if ox > w[TUNNEL_S] and abs(dx) > 0.5 and dx > 0:  # the far mouth of the tunnel
            r, g, b = w[SKY] * 0.9, w[SKY] * 1.05, w[SKY] * 0.8
        return r, g, b, 1e4, 0
    px, py, pz = ox + t * dx, oy + t * dy, oz + t * dz
    foot = t * pixel_rad / max(abs(nx * dx + ny * dy + nz * dz), 0.08)
    if mat == WATER:
        calm = 1.0 / (1.0 + t * 0.035)
        now = w[TIME]
        wx = _grain(px + 0.6 * now, py + 0.2 * now, 1.7, foot) + 0.6 * _grain(
            px - 0.5 * now, py * 1.3 + 0.7 * now, 3.9, foot
        )
        wy = _grain(px + 17.0, py + 0.5 * now, 2.1, foot) + 0.6 * _grain(
            px + 5.0 + 0.4 * now, py - 0.6 * now, 4.3, foot
        )
        nx, ny = wx * 0.055 * calm, wy * 0.055 * calm
        nz = 1.0 / math.sqrt(1.0 + nx * nx + ny * ny)
        nx, ny = nx * nz, ny * nz
        along = dx * nx + dy * ny + dz * nz
        rx, ry, rz = dx - 2 * along * nx, dy - 2 * along * ny, dz - 2 * along * nz
        rz = max(rz, 0.004)
        share = 0.02 + 0.98 * (1.0 - min(abs(along), 1.0)) ** 5
        t2, ax, ay, az, mat2, tint2 = _nearest(px, py, pz + 0.002, rx, ry, rz, w)
        if mat2 == 0 or mat2 == WATER:
            r, g, b = _sky(rx, ry, rz, w)
            if px > w[TUNNEL_S]:
                r, g, b = 0.0, 0.0, 0.0
            limit = w[SKY] * 40.0
            r, g, b = min(r, limit), min(g, limit), min(b, limit)
        else:
            r, g, b = _lit(
                px + t2 * rx, py + t2 * ry, pz + t2 * rz, ax, ay, az, mat2, tint2, (t + t2) * pixel_rad * 2.0, w
            )
        br, bg, bb = _lit(px, py, pz, 0.0, 0.0, 1.0, DARK, 0.0, foot, w)
        br, bg, bb = br * 1.9, bg * 2.1, bb * 1.0
        r, g, b = br + (r - br) * share, bg + (g - bg) * share, bb + (b - bb) * share
    else:
        r, g, b = _lit(px, py, pz, nx, ny, nz, mat, tint, foot, w)
    if px < w[TUNNEL_S] or pz > BORE_RISE:
        air = 1.0 - math.exp(-t / w[HAZE])
        veil = w[SKY] * 1.1
        r, g, b = r + (veil * 0.88 - r) * air, g + (veil * 0.97 - g) * air, b + (veil * 1.12 - b) * air
    elif px > far:
        r, g, b = w[SKY] * 0.9, w[SKY] * 1.05, w[SKY] * 0.8
    return r, g, b, t, mat


@_compiled
def _ray(x, y, width, height, lens, turn):  # type: ignore[no-untyped-def]
    """Direction in the scene of a place in the picture (pixels, its corner at 0), and the angle of a pixel; 0 outside.

    lens: the angle off the axis at evenly spaced radii of the image circle, or one number for the whole sphere.
    turn: rows of the rotation from the camera's body (x ahead, y left, z up) to the scene.
    """
    if len(lens) < 2:
        lon, lat = (x / width - 0.5) * 2.0 * math.pi, (0.5 - y / height) * math.pi
        bx, by, bz, pixel = (
            math.cos(lat) * math.cos(lon),
            -math.cos(lat) * math.sin(lon),
            math.sin(lat),
            math.pi / height,
        )
    else:
        px, py = x - 0.5 * width, y - 0.5 * height
        radius, steps = math.sqrt(px * px + py * py), len(lens) - 1
        place = radius / (0.5 * height) * steps
        if place >= steps:
            return 0.0, 0.0, 0.0, 0.0
        k = int(place)
        pixel = (lens[k + 1] - lens[k]) * steps / (0.5 * height)
        off = lens[k] + (lens[k + 1] - lens[k]) * (place - k)
        out = math.sin(off) / max(radius, 1e-9)
        bx, by, bz = math.cos(off), -out * px, -out * py
    return (
        turn[0] * bx + turn[1] * by + turn[2] * bz,
        turn[3] * bx + turn[4] * by + turn[5] * bz,
        turn[6] * bx + turn[7] * by + turn[8] * bz,
        pixel,
    )


@_compiled
def render(out, depth, kind, first, last, lens, eye, turn, w):  # type: ignore[no-untyped-def]
    """Fills rows first to last of out (H, W, 3) cd/m2, depth (H, W) m and kind (H, W): one ray a pixel."""
    height, width = depth.shape
    for j in range(first, last):
        for i in range(width):
            dx, dy, dz, pixel = _ray(i + 0.5, j + 0.5, width, height, lens, turn)
            if pixel == 0.0:
                out[j, i, 0], out[j, i, 1], out[j, i, 2] = 0.0, 0.0, 0.0
                depth[j, i], kind[j, i] = 0.0, -1
                continue
            r, g, b, t, m = _radiance(eye[0], eye[1], eye[2], dx, dy, dz, pixel, w)
            out[j, i, 0], out[j, i, 1], out[j, i, 2] = r, g, b
            depth[j, i], kind[j, i] = t, m


@_compiled
def refine(out, source, depth, kind, limit, first, last, lens, eye, turn, w):  # type: ignore[no-untyped-def]
    """Averages three more rays into each pixel of `source` whose neighbours show another thing, depth or light.

    Each ray is held to `limit` (cd/m2), above which the sensor clips anyway, so that edges against sky stay smooth.
    """
    height, width = depth.shape
    for j in range(first, last):
        up, down = max(j - 1, 0), min(j + 1, height - 1)
        for i in range(width):
            left, right = (i - 1) % width, (i + 1) % width
            m, t, l = kind[j, i], depth[j, i], min(source[j, i, 1], limit)
            edge = False
            for k in range(4):
                y, x = (j if k < 2 else (up if k == 2 else down)), (left if k == 0 else (right if k == 1 else i))
                other = min(source[y, x, 1], limit)
                if kind[y, x] != m or abs(depth[y, x] - t) > 0.06 * t or abs(other - l) > 0.35 * (other + l):
                    edge = True
            if not edge or m < 0:
                continue
            r, g, b, rays = min(source[j, i, 0], limit), l, min(source[j, i, 2], limit), 1.0
            for k in range(3):
                ou, ov = (0.25 if k == 0 else -0.25 if k == 1 else 0.3), (0.3 if k == 0 else 0.25 if k == 1 else -0.3)
                dx, dy, dz, pixel = _ray(i + 0.5 + ou, j + 0.5 + ov, width, height, lens, turn)
                if pixel == 0.0:
                    continue
                r2, g2, b2, _t, _m = _radiance(eye[0], eye[1], eye[2], dx, dy, dz, pixel, w)
                r, g, b, rays = r + min(r2, limit), g + min(g2, limit), b + min(b2, limit), rays + 1.0
            out[j, i, 0], out[j, i, 1], out[j, i, 2] = r / rays, g / rays, b / rays


@_compiled
def blocked(ox, oy, oz, dx, dy, dz, w):  # type: ignore[no-untyped-def]
    """Whether what stands in the place (not the subject, nor the camera and who carries it) meets a ray."""
    t, _a, _b, _c, _m, _o = _solids(ox, oy, oz, dx, dy, dz, w, NOTHING, True, PLACE)
    if t < NOTHING:
        return True
    t, _a, _b, _c, _m = _land(ox, oy, oz, dx, dy, dz, w, NOTHING)
    if t < NOTHING:
        return True
    t, _a, _b, _c, _m, _t = _rows(ox, oy, oz, dx, dy, dz, w, NOTHING, True)
    return t < NOTHING


@_compiled
def mark(mask, depth, first, last, lens, eye, turn, w):  # type: ignore[no-untyped-def]
    """Fills mask (H, W): what is seen (SEES_... of each owner) and whose shadow lies there (SHADOW_... of each)."""
    height, width = depth.shape
    for j in range(first, last):
        for i in range(width):
            dx, dy, dz, pixel = _ray(i + 0.5, j + 0.5, width, height, lens, turn)
            t = depth[j, i]
            mask[j, i] = 0
            if pixel == 0.0 or t > 900.0:
                continue
            found = 0
            hit, _a, _b, _c, _m, owner = _solids(eye[0], eye[1], eye[2], dx, dy, dz, w, t * 1.0005 + 1e-3, False, -1)
            if owner == SUBJECT and hit <= t * 1.0005 + 1e-3:
                found |= SEES_SUBJECT
            if owner == MOUNT and hit <= t * 1.0005 + 1e-3:
                found |= SEES_MOUNT
            if w[SUN + 2] > 0.0:
                px, py, pz = eye[0] + t * dx, eye[1] + t * dy, eye[2] + t * dz
                px, py, pz = px + 0.012 * w[SUN], py + 0.012 * w[SUN + 1], pz + 0.012 * w[SUN + 2]
                by, _a, _b, _c, _m, _o = _solids(px, py, pz, w[SUN], w[SUN + 1], w[SUN + 2], w, NOTHING, True, PLACE)
                if w[PHOTO_W] > 0.5 and by >= NOTHING:
                    by, _a, _b, _c, _m, _o = _solids(
                        px, py, pz, w[SUN], w[SUN + 1], w[SUN + 2], w, NOTHING, True, PICTURED
                    )
                for who in (
                    range(SUBJECT, MOUNT + 1) if by >= NOTHING else range(0)
                ):  # what is in shade anyway is no one's
                    far, _a, _b, _c, _m, _o = _solids(px, py, pz, w[SUN], w[SUN + 1], w[SUN + 2], w, NOTHING, True, who)
                    if far < NOTHING:
                        found |= SHADOW_OF_SUBJECT if who == SUBJECT else SHADOW_OF_MOUNT
            mask[j, i] = found

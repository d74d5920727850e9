"""How a camera turned, out of its pictures: small flat faces that look into the world, held still by what is known so far.

Each frame's faces are drawn where the world was when the last frame was looked at, so that what is far stands nearly
still in them; what is left is found by following features from a key frame (Shi & Tomasi, "Good Features to Track",
CVPR 1994; Lucas & Kanade with pyramids after Bouguet, 2001) and one rotation fitted to them all. Key frames keep it from
drifting: a new one is tied to those before it that look the same way.
"""

import cv2
import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.pixels.bands import in_bands
from glintor.pixels.reproject import Filter, Reprojector
from glintor.pixels.spheres import Sphere
from glintor.pixels.yuv import Plane
from glintor.sphere.lenses import Projection
from glintor.sphere.turn import Turned
from glintor.sphere.view import View, frame_direction
from glintor.types import Array

FACE_PX = 256
_FACES = tuple(
    View(yaw_deg=yaw, pitch_deg=pitch, fov_deg=94.0, bend=0.0)
    for yaw, pitch in ((0.0, 5.0), (90.0, 5.0), (180.0, 5.0), (-90.0, 5.0))
)
_UP = View(yaw_deg=0.0, pitch_deg=90.0, fov_deg=94.0, bend=0.0)
_SIGHTS = tuple(Turned(view.matrix, view.lens) for view in (*_FACES, _UP))
_CELL_PX, _EDGE_PX = 32, 8  # of a face: a feature is sought in each cell
_CORNER = 2e-5  # the least strength of a corner: noise has less
_TRIES = 48
_NEAR_RAD = np.radians(0.22)  # a point that fits the turn of all lies so near
_FRESH_SHARE = 0.55  # of a key frame's points that must still be followed, else a new one is made
_FRESH_RAD = np.radians(25.0)  # a key frame turned so far away
_TIED = 3  # earlier key frames that a new one is compared with
_FAR_DEG = 2.5  # things that moved so far look another way: a new key frame is due
_WENT_DEG, _MOST_STEP_RAD = 0.08, float(np.radians(1.5))  # so much travel counts; no turn is mended by more
_ENOUGH = 40  # points that fit, for full trust
_LEAST = 12


class Seen(Struct, frozen=True, eq=False):
    """One moment: time in the clip, the turn (3, 3) from the picture to the first one's axes, and trust 0 to 1; way: where to the
    camera went since the key frame, in those axes, as long as things moved by degrees for it; zeros where nothing tells."""

    time_s: float
    turn: Array
    trust: float
    way: Array = np.zeros(3)


class _Key(Struct, frozen=True, eq=False):
    """Faces as they were drawn at a turn, with their features: pixels and directions in the first picture's axes."""

    turn: Array
    faces: tuple[Plane, ...]
    points: tuple[NDArray[np.float32], ...]


class Turning:
    """Follows one footage's turning, frame after frame."""

    def __init__(self, shows: Projection) -> None:
        self._drawer = Reprojector((FACE_PX, FACE_PX), Filter.FAST, shows=shows)
        self._turn = np.eye(3)
        self._rate = np.zeros(3)  # radians a second about the first picture's axes, as of late
        self._last_s: float | None = None
        self._keys: list[_Key] = []
        self._way = np.zeros(3)
        self._rng = np.random.default_rng(5)

    def push(self, sphere: Sphere, time_s: float) -> Seen:
        """The turn of the next frame."""
        if self._last_s is None:
            self._last_s = time_s
            self._keys.append(self._new_key(sphere, self._turn))
            return Seen(time_s, self._turn, 1.0)
        passed = max(time_s - self._last_s, 1e-6)
        guess = small_turn(self._rate * passed) @ self._turn
        turn, trust, left = self._fit(self._drawn(sphere, guess), guess, self._keys[-1])
        if trust == 0.0 and np.linalg.norm(self._rate) > 0.0:  # it may have stopped at once
            turn, trust, left = self._fit(self._drawn(sphere, self._turn), self._turn, self._keys[-1])
        if trust == 0.0:
            turn = guess
        way = self._way if trust > 0.0 else np.zeros(3)
        self._rate = _axis_angle(turn @ self._turn.T) / passed if trust > 0.0 else self._rate * 0.5
        self._turn, self._last_s = turn, time_s
        apart = np.linalg.norm(_axis_angle(turn @ self._keys[-1].turn.T))
        if left < _FRESH_SHARE or apart > _FRESH_RAD:
            self._turn = self._rekeyed(sphere, turn)
        return Seen(time_s, self._turn, trust, way)

    # Key frames
    def _new_key(self, sphere: Sphere, turn: Array) -> _Key:
        faces = self._drawn(sphere, turn)
        points = tuple(_features(face) for face in faces)
        return _Key(turn, faces, points)

    def _rekeyed(self, sphere: Sphere, turn: Array) -> Array:
        """Ties the present moment to earlier key frames that look nearly the same way, and makes it one itself."""
        older = sorted(self._keys[:-1], key=lambda key: float(np.linalg.norm(_axis_angle(turn @ key.turn.T))))
        votes, faces = [], self._drawn(sphere, turn)
        for key in older[:_TIED]:
            if np.linalg.norm(_axis_angle(turn @ key.turn.T)) > _FRESH_RAD / 2.0:
                continue
            found, trust, left = self._fit(faces, turn, key)
            if trust > 0.3 and left > 0.3 and np.linalg.norm(_axis_angle(found @ turn.T)) < np.radians(3.0):
                votes.append(_axis_angle(found @ turn.T))
        if votes:
            turn = small_turn(np.mean([np.zeros(3), *votes], axis=0)) @ turn
        self._keys.append(self._new_key(sphere, turn))
        self._keys = self._keys[-40:]
        return turn

    # Fitting
    def _drawn(self, sphere: Sphere, turn: Array) -> tuple[Plane, ...]:
        """Luma of the faces, as the world would lie in them if the picture were turned so."""
        faces: list[Plane] = [np.zeros((0, 0), np.uint8)] * len(_SIGHTS)

        def draw(first: int, last: int) -> None:
            for number in range(first, last):
                sight = _SIGHTS[number]
                faces[number] = self._drawer.draw_luma(sphere, Turned(turn.T @ sight.matrix, sight.lens), alone=True)

        in_bands(len(_SIGHTS), draw, least=1)
        return tuple(faces)

    def _fit(self, faces: tuple[Plane, ...], guess: Array, key: _Key) -> tuple[Array, float, float]:
        """The turn that fits best near a guess, its trust, and the share of the key frame's points that are still followed.

        The key frame's faces were drawn with its own turn, these with the guess: what is still stands at the same place in both.
        """
        world, now = [], []
        total = sum(len(points) for points in key.points)
        for view, old, new, points in zip(_SIGHTS, key.faces, faces, key.points, strict=True):
            if len(points) == 0:
                continue
            there, ok, _ = cv2.calcOpticalFlowPyrLK(
                old,
                new,
                points[:, None],
                points[:, None].copy(),
                winSize=(17, 17),
                maxLevel=3,
                flags=cv2.OPTFLOW_USE_INITIAL_FLOW,
                criteria=(cv2.TERM_CRITERIA_COUNT | cv2.TERM_CRITERIA_EPS, 20, 0.01),
            )
            at = np.asarray(there, np.float32)[:, 0]
            kept = (np.asarray(ok)[:, 0] == 1) & (at > 4).all(axis=1) & (at < FACE_PX - 5).all(axis=1)
            world.append(_directions(view, points[kept]))
            now.append(_directions(view, at[kept]))
        a, b = (np.concatenate(p) if p else np.zeros((0, 3)) for p in (world, now))
        if len(a) < _LEAST:
            return guess, 0.0, 0.0
        best = self._voted(a, b)
        if best is None:
            return guess, 0.0, len(a) / max(total, 1)
        turn, inside = best
        turn, self._way = travelled(a, b, turn) if len(a) > 2 * _LEAST else (turn, np.zeros(3))
        went = float(np.linalg.norm(self._way))
        if went > 0.0:  # what moves because the camera does fits as well
            across = np.cross(a, self._way / went)
            size = np.maximum(np.linalg.norm(across, axis=1), 0.1)
            inside = np.abs(np.sum((b @ turn - a) * across, axis=1)) / size < _NEAR_RAD
        spread = np.linalg.svd(a[inside] - a[inside].mean(axis=0), compute_uv=False) if inside.any() else np.zeros(3)
        wide = float(
            np.clip(spread[-1] / np.sqrt(max(inside.sum(), 1)) / 0.1, 0.2, 1.0)
        )  # all in one corner tells little
        trust = float(
            np.clip(inside.sum() / _ENOUGH, 0.0, 1.0) * np.clip((inside.mean() - 0.15) / 0.35, 0.0, 1.0) * wide
        )
        left = inside.sum() / max(total, 1) * (1.0 if went < _FAR_DEG else 0.5)
        return turn.T @ guess, trust, float(left)

    def _voted(self, a: Array, b: Array) -> tuple[Array, NDArray[np.bool_]] | None:
        """The turn (3, 3) that most directions a agree on to be at b, by tries with two of them each, and which agree."""
        first, second = (self._rng.integers(0, len(a), _TRIES) for _ in range(2))
        turns = np.matmul(_triads(b[first], b[second]), _triads(a[first], a[second]).transpose(0, 2, 1))
        off = np.linalg.norm(np.matmul(turns, a.T) - b.T[None], axis=1)
        counts = (off < _NEAR_RAD).sum(axis=1)
        inside = off[int(np.argmax(counts))] < _NEAR_RAD
        if inside.sum() < _LEAST:
            return None
        turn, weight = np.eye(3), inside.astype(float)
        for _ in range(4):  # Tukey's biweight, narrower each time it is needed
            turn = _kabsch(a, b, weight)
            left = np.linalg.norm(b - a @ turn.T, axis=1)
            scale = max(1.4826 * float(np.median(left[inside])) * 4.0, np.radians(0.02))
            weight = np.where(left < scale, (1.0 - (left / scale) ** 2) ** 2, 0.0)
            inside = left < max(scale, _NEAR_RAD * 0.5)
            if inside.sum() < _LEAST:
                return None
        return turn, left < _NEAR_RAD


def travelled(a: Array, b: Array, turn: Array) -> tuple[Array, Array]:
    """The turn from directions a to b when the camera also went somewhere, and where to: things move along great circles through
    the way, however near they are, so only what they moved across those tells of the turn (Longuet-Higgins, Nature 293, 1981)."""
    way = _way(a, b @ turn)
    for _ in range(2):
        if float(np.linalg.norm(way)) < _WENT_DEG:
            return turn, way
        c = a @ turn.T
        across = np.cross(c, turn @ way)
        across /= np.maximum(np.linalg.norm(across, axis=1, keepdims=True), 1e-9)
        left = np.sum((b - c) * across, axis=1)
        rows = np.cross(c, across)  # of a small turn w: (w x c) . across = w . (c x across)
        weight = np.ones(len(a))
        step = np.zeros(3)
        for _ in range(4):
            off = left - rows @ step
            scale = max(3.0 * 1.4826 * float(np.median(np.abs(off))), np.radians(0.02))
            weight = np.where(np.abs(off) < scale, (1.0 - (off / scale) ** 2) ** 2, 0.0)
            step = np.linalg.solve((rows * weight[:, None]).T @ rows + 1e-6 * np.eye(3), rows.T @ (weight * left))
        if float(np.linalg.norm(step)) > _MOST_STEP_RAD:
            return turn, way
        turn = small_turn(step) @ turn
        way = _way(a, b @ turn)
    return turn, way


def _way(a: Array, b: Array) -> Array:
    """Where to a camera went while directions a became b with its turn taken out: away from where things come, all along great
    circles through it. As long as what moved most of them, in degrees; zeros where they do not agree."""
    left = b - a
    moved = np.linalg.norm(left, axis=1)
    across = np.cross(a, left)
    size = np.maximum(np.linalg.norm(across, axis=1, keepdims=True), 1e-9)
    weight = np.clip(moved / np.radians(0.3), 0.0, 1.0)
    circles = across / size
    way = np.zeros(3)
    for _ in range(4):
        values, vectors = np.linalg.eigh((circles * weight[:, None]).T @ circles)
        way = vectors[:, 0]
        off = np.abs(circles @ way)
        weight = np.clip(moved / np.radians(0.3), 0.0, 1.0) * np.exp(-((off / 0.2) ** 2))
    share = float(weight.sum() / max(np.clip(moved / np.radians(0.3), 0.0, 1.0).sum(), 1e-9))
    if values[0] > 0.12 * values[1] or share < 0.5:
        return np.zeros(3)
    ahead = -np.sign(float(np.sum(weight * (left @ way))))  # what one nears moves away from where one goes to
    return way * ahead * float(np.degrees(np.median(moved)))


def _features(face: Plane) -> NDArray[np.float32]:
    """The best corner of each cell of a face: spread out, so that what is sharp and moves has no more say than what is dim and far."""
    strength = cv2.cornerMinEigenVal(face, 5)
    strength[:_EDGE_PX], strength[-_EDGE_PX:], strength[:, :_EDGE_PX], strength[:, -_EDGE_PX:] = 0, 0, 0, 0
    count = FACE_PX // _CELL_PX
    cells = strength.reshape(count, _CELL_PX, count, _CELL_PX).transpose(0, 2, 1, 3).reshape(count * count, -1)
    best = cells.argmax(axis=1)
    told = cells[np.arange(len(cells)), best] > _CORNER
    row, column = np.divmod(np.arange(count * count), count)
    y, x = row * _CELL_PX + best // _CELL_PX, column * _CELL_PX + best % _CELL_PX
    return np.stack([x, y], axis=1)[told].astype(np.float32)


def _directions(sight: Turned, points: NDArray[np.float32]) -> Array:
    """Of pixels of a face, whose lens keeps straight lines straight."""
    across = (points.astype(np.float64) + 0.5 - FACE_PX / 2.0) / (sight.lens.focal * FACE_PX)
    own = np.column_stack([np.ones(len(points)), -across])
    return (own / np.linalg.norm(own, axis=1, keepdims=True)) @ sight.matrix.T


def _triads(a: Array, b: Array) -> Array:
    """(n, 3, 3) axes by columns, out of two directions each."""
    x = a / np.linalg.norm(a, axis=1, keepdims=True)
    z = np.cross(a, b)
    z /= np.maximum(np.linalg.norm(z, axis=1, keepdims=True), 1e-9)
    return np.stack([x, np.cross(z, x), z], axis=2)


def _kabsch(a: Array, b: Array, weight: Array) -> Array:
    """The turn of directions a to b: by singular values (Kabsch, Acta Cryst. A32, 1976)."""
    u, _, vt = np.linalg.svd((b * weight[:, None]).T @ a)
    return np.asarray(u @ np.diag([1.0, 1.0, np.linalg.det(u @ vt)]) @ vt)


def _axis_angle(turn: Array) -> Array:
    from scipy.spatial.transform import Rotation

    return np.asarray(Rotation.from_matrix(turn).as_rotvec())


def small_turn(vector: Array) -> Array:
    from scipy.spatial.transform import Rotation

    return np.asarray(Rotation.from_rotvec(vector).as_matrix())


def upright_of(lines: Array, weights: Array, near: Array) -> tuple[Array, float] | None:
    """The upward direction that most verticals agree on: lines (n, 3) are the normals of the planes in which they are seen; near:
    about where up is. With the share of the weight that agrees."""
    close = np.abs(lines @ near) < np.sin(np.radians(35.0))
    lines, weights = lines[close], weights[close]
    if len(lines) < 8:
        return None
    rng = np.random.default_rng(3)
    i, j = (rng.integers(0, len(lines), 400) for _ in range(2))
    ups = np.cross(lines[i], lines[j])
    sound = np.linalg.norm(ups, axis=1) > 0.05
    ups = ups[sound] / np.linalg.norm(ups[sound], axis=1, keepdims=True)
    ups *= np.sign(ups @ near)[:, None]
    ups = ups[ups @ near > np.cos(np.radians(35.0))]
    if len(ups) == 0:
        return None
    agree = (np.abs(ups @ lines.T) < np.sin(np.radians(2.0))) @ weights
    up = ups[int(np.argmax(agree))]
    for limit in (3.0, 2.0, 1.5):
        inside = np.abs(lines @ up) < np.sin(np.radians(limit))
        if inside.sum() < 6:
            return None
        w = weights[inside, None]
        _, vectors = np.linalg.eigh((lines[inside] * w).T @ lines[inside])
        up = vectors[:, 0] * np.sign(vectors[:, 0] @ near)
    return up, float(weights[inside].sum() / weights.sum())


def verticals_in(sphere: Sphere, shows: Projection, turn: Array) -> tuple[Array, Array]:
    """(n, 3) normals of straight lines in a frame's side faces, in the axes that `turn` leads to, and their lengths in degrees.
    Segments: OpenCV's LSD (Grompone von Gioi et al., IPOL 2012)."""
    drawer = Reprojector((2 * FACE_PX, 2 * FACE_PX), Filter.FAST, shows=shows)
    finder = cv2.createLineSegmentDetector(cv2.LSD_REFINE_STD)
    normals, lengths = [], []
    for yaw in (0.0, 90.0, 180.0, -90.0):
        view = View(yaw_deg=yaw, fov_deg=94.0, bend=0.0)
        face = np.ascontiguousarray(drawer.draw_luma(sphere, Turned(turn.T @ view.matrix, view.lens)))
        found = finder.detect(face)[0]
        if found is None:
            continue
        ends = np.asarray(found, np.float64).reshape(-1, 4)
        a, b = (frame_direction(view, (2 * FACE_PX, 2 * FACE_PX), ends[:, n], ends[:, n + 1]) for n in (0, 2))
        across = np.cross(a, b)
        size = np.linalg.norm(across, axis=1)
        long = size > np.sin(np.radians(2.5))
        normals.append(across[long] / size[long, None])
        lengths.append(np.degrees(np.arcsin(np.clip(size[long], 0.0, 1.0))))
    return (np.concatenate(normals), np.concatenate(lengths)) if normals else (np.zeros((0, 3)), np.zeros(0))

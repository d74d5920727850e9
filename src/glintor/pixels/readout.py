"""How quickly a camera reads its rows, from pictures in which it turns and a log of that turning: what turns with the camera as a
whole must lie where the log says once each row has its own moment."""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from glintor.sphere.lenses import Lenses, look_of_pixel, middle_px
from glintor.sphere.rolling import spun, turn_by
from glintor.types import Array

_ROUNDS = 6
_LEAST = 150  # points
_LONGEST_S = 0.05  # that a picture is read in
_SIGMAS = 6.0  # by which a reading must stand out
_FINER = 0.93  # of what was left before must be left with it


class Step(Struct, frozen=True, eq=False):
    """Two pictures one after the other.

    points  for each lens pixels (n, 2) of the same things in the first and in the second
    turns   (2, 3, 3) from the camera's axes to fixed ones at both, spins (2, 2, 3) as `Rows` has them
    """

    points: Sequence[tuple[Array, Array]]
    turns: Array
    spins: Array


def readouts_s(steps: Sequence[Step], lenses: Lenses, part_px: tuple[int, int]) -> Array | None:
    """(lenses, 2) as `Rows` has them; None where nothing tells, or nothing rolls."""
    count = 2 * len(lenses.eyes)
    found = np.zeros(count)
    seen = [_Seen.of(step, lenses, part_px) for step in steps]
    if sum(len(s.look[0]) for s in seen) < _LEAST:
        return None
    scale, before, sure = None, 0.0, np.zeros(count)
    for _ in range(_ROUNDS):
        left = [s.left(found) for s in seen]
        off = np.concatenate([np.linalg.norm(r, axis=1) for r, _ in left])
        if scale is None:
            before = float(np.median(off))
        scale = max(4.0 * 1.4826 * float(np.median(off)), 1e-5)
        normal, pull, spread, kept = np.zeros((count, count)), np.zeros(count), 0.0, 0.0
        for r, slopes in left:
            weight = np.where(np.linalg.norm(r, axis=1) < scale, (1 - (np.linalg.norm(r, axis=1) / scale) ** 2) ** 2, 0)
            normal += np.einsum("n,nij,nik->jk", weight, slopes, slopes)
            pull -= np.einsum("n,nij,ni->j", weight, slopes, r)
            spread += float((weight * (r**2).sum(axis=1)).sum())
            kept += float(weight.sum())
        damped = normal + np.eye(count) * max(float(np.trace(normal)), 1e-30) * 1e-9
        found = np.clip(found + np.linalg.solve(damped, pull), -_LONGEST_S, _LONGEST_S)
        sure = np.sqrt(np.diag(np.linalg.inv(damped)) * spread / max(2.0 * kept, 1.0))
    after = float(np.median(np.concatenate([np.linalg.norm(s.left(found)[0], axis=1) for s in seen])))
    told = (np.abs(found) > _SIGMAS * sure) & (np.abs(found) < 0.98 * _LONGEST_S)
    if after > _FINER * before or not told.any():
        return None
    return np.where(told, found, 0.0).reshape(-1, 2)


class _Seen(Struct, frozen=True, eq=False):
    """A step's points: look (2, n, 3) in the camera, at (2, n, unknowns) how much each unknown makes each point later."""

    step: Step
    look: Array
    at: Array

    @staticmethod
    def of(step: Step, lenses: Lenses, part_px: tuple[int, int]) -> "_Seen":
        looks, ats = [], []
        for both in range(2):
            look, at = [], []
            for number, (eye, points) in enumerate(zip(lenses.eyes, step.points, strict=True)):
                p = points[both]
                look.append(look_of_pixel(eye, part_px, p[:, 0], p[:, 1]))
                late = np.zeros((len(p), 2 * len(lenses.eyes)))
                late[:, 2 * number : 2 * number + 2] = (p - middle_px(eye, part_px)) / part_px[0]
                at.append(late)
            looks.append(np.concatenate(look))
            ats.append(np.concatenate(at))
        return _Seen(step, np.stack(looks), np.stack(ats))

    def left(self, readouts: Array) -> tuple[Array, Array]:
        """(n, 3) by how much the first picture's things are off the second's in fixed axes, and (n, 3, unknowns) how that changes; what
        the two turned against the log by is taken out of both."""
        fixed, slopes = [], []
        for both, sign in ((0, 1.0), (1, -1.0)):
            spin, turn = self.step.spins[both], self.step.turns[both]
            late = self.at[both] @ readouts
            then = turn_by(spun(spin, late), self.look[both])  # where it is when the axis is read
            speed = np.cross(spin[0] + 2.0 * spin[1] * late[:, None], then)
            fixed.append(then @ turn.T)
            slopes.append(sign * (speed @ turn.T)[:, :, None] * self.at[both][:, None, :])
        r, slope = fixed[0] - fixed[1], slopes[0] + slopes[1]
        arms = _crosses(fixed[1])  # (n, 3, 3): of a small turn w, w x d
        size = np.linalg.norm(r, axis=1)
        calm = np.exp(-((size / max(3.0 * float(np.median(size)), 1e-6)) ** 2))
        flat = (arms * calm[:, None, None] ** 0.5).reshape(-1, 3)
        weighed = np.concatenate([r[:, :, None], slope], axis=2) * calm[:, None, None] ** 0.5
        tie = np.linalg.lstsq(flat, weighed.reshape(len(flat), -1), rcond=None)[0]
        tied = np.concatenate([r[:, :, None], slope], axis=2) - arms @ tie
        return tied[:, :, 0], tied[:, :, 1:]


def _crosses(look: Array) -> Array:
    zero = np.zeros(len(look))
    x, y, z = look.T
    return np.stack([np.stack([zero, z, -y], 1), np.stack([-z, zero, x], 1), np.stack([y, -x, zero], 1)], axis=1)

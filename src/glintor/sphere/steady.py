"""What is held still of a recording that turns: from how the camera turned to the frame in which its views are meant.

All turns are matrices (n, 3, 3) from the camera's axes (x ahead, y left, z up) to others. `Orientation` is how the camera lay
in a fixed world; a held frame is one that moves less. What the picture is drawn with is the turn from camera to held frame.
"""

from typing import TYPE_CHECKING, Literal

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from glintor.errors import InputError
from glintor.sphere.rotation import view_matrix
from glintor.sphere.turn import TurnTrack
from glintor.types import Array

if TYPE_CHECKING:
    from scipy.spatial.transform import Rotation

Mode = Literal["off", "smooth", "level", "lock", "heading"]
_REACH = 3.0  # of the smoothing's spread, both ways


class Orientation(Struct, frozen=True, eq=False):
    """How a camera lay in a fixed world at each moment.

    time_s (n,), quaternions (n, 4) as x, y, z, w from the camera's axes to the world's, trust (n,) 0 to 1
    up      (3,) the world's upward direction, as far as it is known; None where nobody knows; up_sure: whether it is more than likely
    heading_deg  (n,) the way of travel in the world, clockwise seen from above, where it is known
    made_by in words
    """

    time_s: Array
    quaternions: Array
    trust: Array
    up: Array | None = None
    heading_deg: Array | None = None
    made_by: str = ""
    up_sure: bool = True

    @property
    def turns(self) -> "Rotation":
        from scipy.spatial.transform import Rotation

        return Rotation.from_quat(self.quaternions)


def upright(up: Array) -> Array:
    """(3, 3) the smallest turn that brings an upward direction to the z axis."""
    from scipy.spatial.transform import Rotation

    u = np.asarray(up, np.float64) / np.linalg.norm(up)
    axis = np.cross(u, [0.0, 0.0, 1.0])
    sine, cosine = float(np.linalg.norm(axis)), float(u[2])
    if sine < 1e-12:
        return np.eye(3) if cosine > 0 else view_matrix(0.0, 0.0, 180.0)
    return np.asarray(Rotation.from_rotvec(axis / sine * np.arctan2(sine, cosine)).as_matrix())


def headings_deg(turns: Array) -> Array:
    """(n,) bearings of the camera's front in a level world, unwrapped: clockwise from its x axis; taken from whichever of front
    and left lies flatter, so that a camera that looks up or down has one too."""
    front = np.degrees(np.arctan2(-turns[:, 1, 0], turns[:, 0, 0]))
    left = np.degrees(np.arctan2(turns[:, 0, 1], turns[:, 1, 1]))
    flat = np.hypot(turns[:, 0, 0], turns[:, 1, 0])
    steep = np.hypot(turns[:, 0, 1], turns[:, 1, 1])
    share = flat**2 / np.maximum(flat**2 + steep**2, 1e-12)
    angle = np.radians(np.stack([front, left]))
    mean = np.arctan2(
        share * np.sin(angle[0]) + (1 - share) * np.sin(angle[1]),
        share * np.cos(angle[0]) + (1 - share) * np.cos(angle[1]),
    )
    return np.degrees(np.unwrap(mean))


def smoothed(values: Array, time_s: Array, spread_s: float) -> Array:
    """(n, m) Gaussian means over time, on unevenly spaced moments; at the ends over what is there, mirrored, so that neither is
    pulled in."""
    time = np.asarray(time_s, np.float64)
    step = max(float(np.median(np.diff(time))) if len(time) > 1 else 1.0, 1e-4)
    grid = np.arange(time[0], time[-1] + step / 2, step)
    even = np.stack([np.interp(grid, time, column) for column in values.T], axis=1)
    half = min(max(round(_REACH * spread_s / step), 1), 4 * len(grid))
    weight = np.exp(-0.5 * (np.arange(-half, half + 1) * step / spread_s) ** 2)
    weight /= weight.sum()
    start, end = even[:1], even[-1:]
    padded = np.concatenate(
        [2 * start - _around(even, half, first=True), even, 2 * end - _around(even, half, first=False)]
    )
    out = np.stack([np.convolve(column, weight, mode="valid") for column in padded.T], axis=1)
    return np.stack([np.interp(time, grid, column) for column in out.T], axis=1)


def _around(even: Array, count: int, *, first: bool) -> Array:
    """What lies beyond an end when the values are mirrored there, (count, m)."""
    at = np.arange(count, 0, -1) if first else len(even) - 1 - np.arange(1, count + 1)
    return even[np.clip(at, 0, len(even) - 1)]


def held(orientation: Orientation, mode: Mode, strength_s: float = 0.8) -> TurnTrack:
    """The turn from camera to held frame at each moment.

    lock     the world stands still: level where up is known for sure, its first bearing the camera's
    smooth   the camera's own motion without its shake, however it leans
    level    the same round the upright alone: the horizon is level, quick turns are smoothed
    heading  level, and ahead is the way of travel

    Raises InputError where what it needs is not known.
    """
    from scipy.spatial.transform import Rotation

    turns = orientation.turns
    if mode == "off":
        return TurnTrack([0.0], [[0.0, 0.0, 0.0, 1.0]])
    if mode == "smooth":
        quaternions = orientation.quaternions.copy()
        quaternions[1:] *= np.where(np.cumsum(np.sum(quaternions[1:] * quaternions[:-1], axis=1) < 0) % 2, -1.0, 1.0)[
            :, None
        ]
        calm = smoothed(quaternions, orientation.time_s, strength_s)
        frame = Rotation.from_quat(calm / np.linalg.norm(calm, axis=1, keepdims=True))
        return TurnTrack(orientation.time_s, (frame.inv() * turns).as_quat())
    if mode != "lock" and orientation.up is None:
        raise InputError(
            "Which way is up in this recording is not known.",
            advice="Set the horizon by hand, or let it be found from the picture.",
        )
    known = orientation.up if orientation.up_sure or mode != "lock" else None  # what stands still need not be level
    level = Rotation.from_matrix(np.eye(3) if known is None else upright(known)) * turns
    bearings = headings_deg(np.asarray(level.as_matrix()))
    if mode == "lock":
        start = Rotation.from_matrix(view_matrix(bearings[0], 0.0, 0.0)) if known is not None else turns[0]
        return TurnTrack(orientation.time_s, (start.inv() * level).as_quat())
    if mode == "heading":
        if orientation.heading_deg is None:
            raise InputError(
                "Which way this recording travels is not known: there is no track beside it, and its picture does not tell.",
                advice="Choose another way to hold it still.",
            )
        bearings = orientation.heading_deg
    calm = smoothed(np.asarray(bearings)[:, None], orientation.time_s, strength_s)[:, 0]
    frame = Rotation.from_matrix(view_matrix(calm, np.zeros_like(calm), np.zeros_like(calm)))
    return TurnTrack(orientation.time_s, (frame.inv() * level).as_quat())


def as_told(orientation: Orientation, mode: Mode, strength_s: float = 0.8) -> TurnTrack:
    """What a table tells: as `held`, but `lock` against the first frame itself, without levelling."""
    return held(replace(orientation, up=None) if mode == "lock" else orientation, mode, strength_s)

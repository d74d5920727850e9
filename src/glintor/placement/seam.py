"""The two lenses: parallax where their pictures meet, and why a stick between them vanishes.

Lens centres are b apart along the body's x axis; the seam is the plane x = 0.
"""

import math
from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray

SEAM_LIMIT_PX = 4.0
# Share of the parallax that the camera's own stitch leaves: aligning ones bring near things together (judgement, no source).
STITCHES = {"plain": 1.0, "aligning": 1.0 / 3.0}
TEAR_NOTE_PX, TEAR_STOP_PX = 3.0, 10.0  # of the flat film: under it nobody sees it; over it a face is cut (judgement)
BLEND_DEG = 1.5  # half-width of the strip beside the seam in which both pictures are mixed (judgement)


def tear_px(
    distance_m: float | NDArray[np.float64], *, gap_m: float, px_per_rad: float | NDArray[np.float64], left_share: float
) -> NDArray[np.float64]:
    """How far things on the seam are torn in a film, any shape: b / D in its pixels where they lie, times what the stitch leaves of it."""
    return np.asarray(gap_m / np.maximum(distance_m, 1e-6) * px_per_rad * left_share)


def seam_offset_px(distance_m: float, *, gap_m: float, width_px: int, stitched_at_m: float = float("inf")) -> float:
    """Pixels by which a thing on the seam breaks: b |1/D - 1/S| W / (2 pi)."""
    inverse = 0.0 if np.isinf(stitched_at_m) else 1.0 / stitched_at_m
    return float(gap_m * abs(1.0 / max(distance_m, 1e-6) - inverse) * width_px / (2.0 * np.pi))


def seam_yaws_deg(pitch_deg: ArrayLike, axis: tuple[float, float, float]) -> NDArray[np.float64]:
    """(n, 2) yaws at which the seam lies at heights (n,) of the picture; NaN where it does not come that high or low.

    axis  where the front lens looks, in the picture's axes: the seam is the great circle at right angles to it
    """
    x, y, z = axis
    flat = max(float(np.hypot(x, y)), 1e-9)
    with np.errstate(invalid="ignore"):
        off = np.degrees(
            np.arccos(-np.tan(np.radians(np.atleast_1d(np.asarray(pitch_deg, dtype=np.float64)))) * z / flat)
        )
    yaw = float(np.degrees(np.arctan2(-y, x)))
    return np.stack([yaw + off, yaw - off], axis=-1)


def seam_circle(axis: ArrayLike, off_deg: float = 0.0, points: int = 181) -> NDArray[np.float64]:
    """(n, 3) directions of the seam, or of a circle beside it, closed."""
    a, b, c = (float(v) for v in np.asarray(axis, dtype=np.float64))
    far = math.sqrt(a * a + b * b + c * c)
    a, b, c = a / far, b / far, c / far
    y = (-b, a, 0.0) if abs(c) < 0.9 else (0.0, -c, b)  # at right angles to the axis
    far = math.hypot(*y)
    u, v, w = (value / far for value in y)
    off = math.radians(off_deg)
    across = np.array([[u, v, w], [b * w - c * v, c * u - a * w, a * v - b * u]])
    return np.asarray(math.cos(off) * (_round(points) @ across) + math.sin(off) * np.array([a, b, c]))


@lru_cache(maxsize=8)
def _round(points: int) -> NDArray[np.float64]:
    """(n, 2) cosine and sine of so many turns, the last as the first."""
    turn = np.linspace(0.0, 2.0 * np.pi, points)
    return np.stack([np.cos(turn), np.sin(turn)], axis=1)


def seam_band_deg(
    distance_m: float, *, gap_m: float, width_px: int, overlap_deg: float, limit_px: float = SEAM_LIMIT_PX
) -> float:
    """Half-width in degrees of the band in which a thing at this distance breaks by more than `limit_px`.

    Both lenses see a thing within `overlap_deg` of the seam; there the blend of the two pictures shows the parallax,
    which falls with the cosine of the angle off the seam. No band where even on the seam it stays under the limit.
    """
    worst = seam_offset_px(distance_m, gap_m=gap_m, width_px=width_px)
    if worst <= limit_px:
        return 0.0
    return float(min(np.degrees(np.arccos(limit_px / worst)), overlap_deg))


def near_limit_m(*, gap_m: float, width_px: int, limit_px: float = SEAM_LIMIT_PX) -> float:
    """Distance at which a thing on the seam breaks by exactly `limit_px` (stitch set for far away)."""
    return gap_m * width_px / (2.0 * np.pi * limit_px)


def hidden_tilt_deg(stick_m: float, *, gap_m: float, half_thickness_m: float) -> float:
    """Largest angle off the camera's line at which a straight stick of this length stays hidden: atan((b/2 - h)/L)."""
    return float(np.degrees(np.arctan2(max(gap_m / 2.0 - half_thickness_m, 0.0), stick_m)))


def hidden_length_m(tilt_deg: float, *, gap_m: float, half_thickness_m: float) -> float:
    """Length of stick that stays hidden at an angle off the seam plane: (b/2 - h) / tan(angle)."""
    room = gap_m / 2.0 - half_thickness_m
    if room <= 0.0:
        return 0.0
    tangent = abs(np.tan(np.radians(tilt_deg)))
    return float("inf") if tangent < 1e-9 else float(room / tangent)


def excess_deg(half_width_m: float, distance_m: float, *, gap_m: float, tilt_deg: float = 0.0) -> float:
    """Angle by which a thing at the end of the stick, wider than the lens gap, shows on the side where more of it does, at the end that is
    nearest to the lens: it is taken to be as long as wide. atan((half-width + distance x sin(tilt) - b/2) / (distance x cos(tilt) -
    half-width)). A joint takes it out of the middle of the gap."""
    turn = np.radians(tilt_deg)
    out = max(half_width_m + distance_m * abs(np.sin(turn)) - gap_m / 2.0, 0.0)
    return float(np.degrees(np.arctan2(out, max(distance_m * np.cos(turn) - half_width_m, 1e-3))))

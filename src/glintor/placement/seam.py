"""The two lenses: parallax where their pictures meet, and why a stick between them vanishes.

Lens centres are b apart along the body's x axis; the seam is the plane x = 0.
"""

import numpy as np

SEAM_LIMIT_PX = 4.0


def seam_offset_px(distance_m: float, *, gap_m: float, width_px: int, stitched_at_m: float = float("inf")) -> float:
    """Pixels by which a thing on the seam breaks: b |1/D - 1/S| W / (2 pi)."""
    inverse = 0.0 if np.isinf(stitched_at_m) else 1.0 / stitched_at_m
    return float(gap_m * abs(1.0 / max(distance_m, 1e-6) - inverse) * width_px / (2.0 * np.pi))


def seam_angle_deg(bearing_deg: float, height_deg: float) -> float:
    """Angle of a direction (yaw, pitch in the body frame) off the seam plane, 0 on it, 90 at a lens axis."""
    b, h = np.radians([bearing_deg, height_deg])
    return float(np.degrees(np.arcsin(abs(np.cos(h) * np.cos(b)))))


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


def excess_deg(half_width_m: float, distance_m: float, *, gap_m: float) -> float:
    """Angle on each side by which a thing wider than the lens gap shows: (half-width - b/2) / distance."""
    return float(np.degrees(max(half_width_m - gap_m / 2.0, 0.0) / distance_m))

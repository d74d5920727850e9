"""How large a person stands in the frame, and how true their proportions are."""

import numpy as np

PERSON_M = 1.70


def person_angle_deg(camera_m: float, person_m: float, distance_m: float) -> float:
    """Angle from feet to head: atan((H - c)/x) + atan(c/x), camera at height c over the feet, distance x > 0."""
    x = max(distance_m, 1e-3)
    return float(np.degrees(np.arctan((person_m - camera_m) / x) + np.arctan(camera_m / x)))


def head_to_feet(camera_m: float, person_m: float, distance_m: float) -> float:
    """How much larger the head is drawn than the feet: distance to feet / distance to head; 1 at c = H/2."""
    return float(np.hypot(distance_m, camera_m) / np.hypot(distance_m, person_m - camera_m))


def size_words(share: float) -> str:
    """How large a person stands in the frame, in words, by the share of the frame's height (common practice, no source)."""
    for least, words in ((1.4, "close"), (1.0, "half"), (0.5, "whole"), (0.2, "small")):
        if share >= least:
            return words
    return "tiny"

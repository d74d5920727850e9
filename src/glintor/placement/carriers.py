"""What carries the camera: the surface it stands on and where the subject usually is."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Carrier:
    """surface_m: height of the surface over the water; half_width_m: where it ends sideways; below it lies the water.

    subject_m: the usual subject's feet, ahead, left and up from the carrier's middle and surface.
    """

    id: str
    words: str
    surface_m: float
    half_width_m: float
    subject_m: tuple[float, float, float]
    speed_m_s: float = 0.0


BANK_M = 0.35
# Speeds: 4 mph, the usual limit on narrow canals, and a stroll (common practice, no source).
CARRIERS = {
    "boat": Carrier(
        id="boat",
        words="Tansy",
        surface_m=1.62,
        half_width_m=0.90,
        subject_m=(-6.15, 0.30, 0.775 - 1.62),
        speed_m_s=1.79,
    ),
    "walker": Carrier(
        id="walker", words="Mira walking", surface_m=BANK_M, half_width_m=1e9, subject_m=(0.0, 0.0, 0.0), speed_m_s=1.25
    ),
    "ground": Carrier(id="ground", words="the bank", surface_m=BANK_M, half_width_m=1e9, subject_m=(2.0, 0.5, 0.0)),
}

"""What carries the camera: the surface it stands on and where the subject usually is."""

from msgspec import Struct


class Carrier(Struct, frozen=True, kw_only=True):
    """surface_m: height of the surface over the water; half_width_m: where it ends sideways; below it lies the water.
    edge_m: where the ground ends on the right, at the bank's edge

    subject_m  the usual subject's feet, ahead, left and up from the carrier's middle and surface
    tube_mm    of the rails or bars that a clamp takes there, 0 where there are none or nobody knows
    busy       whether who moves it needs both hands for that
    """

    id: str
    words: str
    surface_m: float
    half_width_m: float
    edge_m: float = -1e9
    subject_m: tuple[float, float, float]
    speed_m_s: float = 0.0
    busy: bool = False
    tube_mm: float = 0.0


BANK_M = 0.35
_PATH_EDGE_M = -1.6  # from the middle of the towpath to the bank's edge
# Speeds: 4 mph, the usual limit on narrow canals; a stroll; an easy ride; a lane (common practice, no source).
CARRIERS = {
    "boat": Carrier(
        id="boat", words="narrowboat", surface_m=1.62, half_width_m=0.90, subject_m=(-6.15, 0.30, 0.775 - 1.62), speed_m_s=1.79,
        busy=True, tube_mm=36.0,
    ),
    "walker": Carrier(
        id="walker", words="someone walking", surface_m=BANK_M, half_width_m=1e9, edge_m=_PATH_EDGE_M, subject_m=(0.0, 0.0, 0.0),
        speed_m_s=1.25,
    ),
    "cycle": Carrier(
        id="cycle", words="bicycle", surface_m=BANK_M, half_width_m=1e9, edge_m=_PATH_EDGE_M, subject_m=(-0.05, 0.0, 0.26), speed_m_s=4.0,
        busy=True, tube_mm=32.0,
    ),
    "car": Carrier(
        id="car", words="open car", surface_m=BANK_M, half_width_m=1e9, edge_m=_PATH_EDGE_M, subject_m=(-0.15, 0.35, -0.42), speed_m_s=8.0,
        busy=True,
    ),
    "ground": Carrier(id="ground", words="the bank", surface_m=BANK_M, half_width_m=1e9, edge_m=-1.4, subject_m=(2.0, 0.5, 0.0)),
}  # fmt: skip

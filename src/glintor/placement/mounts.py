"""Set-ups: what carries the camera, by family, with the numbers that decide whether it shows."""

from dataclasses import dataclass

import numpy as np

from glintor.errors import InputError

FAMILIES = ("held", "clamped", "stood")


@dataclass(frozen=True, slots=True, kw_only=True)
class Setup:
    """A generic mount. base_m is the stick's foot (or the hand) over the carrier's surface.

    carrier        what it moves with: "walker", "boat" or "ground"
    sticks_m       lengths it can be used with; rails_m: sideways places it can be clamped at, empty for anywhere
    half_width_m   half-thickness of the stick; clamp_half_m: of the widest part at its foot
    torque_nm      the moment at its foot that it stands or holds; inf where a hand does
    caution        what to mind, always with local rules first
    """

    id: str
    family: str
    words: str
    carrier: str
    base_m: float
    sticks_m: tuple[float, ...]
    half_width_m: float = 0.009
    clamp_half_m: float = 0.0
    rails_m: tuple[float, ...] = ()
    hand: tuple[float, float] | None = None
    torque_nm: float = float("inf")
    caution: str = ""


# Common practice, no source: stick lengths 0.7, 1.2 and 3 m; sections of 18 to 20 mm; a clamp's jaw of 60 mm.
# Judgement: what a clamp on a rail, three short legs and a foot of some 3 kg stand.
SETUPS = (
    Setup(
        id="held_stick", family="held", words="held stick", carrier="walker", base_m=1.25, sticks_m=(0.7, 1.2, 3.0),
        hand=(0.30, -0.25), caution="Look where you walk; keep the stick clear of people, branches and power lines.",
    ),
    Setup(
        id="rail_clamp", family="clamped", words="rail clamp, stick", carrier="boat", base_m=0.08, sticks_m=(0.5, 0.7, 1.2),
        clamp_half_m=0.030, torque_nm=6.0, rails_m=(-0.74, 0.74),
        caution="Over water: tether the camera. Both hands steer: start the camera before casting off.",
    ),
    Setup(
        id="mini_tripod", family="stood", words="mini tripod", carrier="ground", base_m=0.06, sticks_m=(0.25, 0.7, 1.2),
        clamp_half_m=0.020, torque_nm=0.9, caution="Keep it out of people's way; it falls in wind when the stick is long.",
    ),
    Setup(
        id="weighted_foot", family="stood", words="weighted foot", carrier="ground", base_m=0.04, sticks_m=(1.2, 1.6, 2.2),
        clamp_half_m=0.025, torque_nm=7.0, caution="Keep ropes, gate beams and people clear of the foot.",
    ),
)  # fmt: skip


def setup_by_id(setup_id: str) -> Setup:
    """The set-up of that id. Raises InputError."""
    for setup in SETUPS:
        if setup.id == setup_id:
            return setup
    raise InputError(f"There is no set-up {setup_id}.", advice=f"Choose one of {', '.join(s.id for s in SETUPS)}.")


def lens_height_m(setup: Setup, stick_m: float, ahead_m: float, left_m: float, lean_deg: float) -> float:
    """Height of the lenses over the carrier's surface.

    A held stick runs from the hand to the camera: the farther out the camera, the lower it is. Others lean.
    """
    if setup.hand is None:
        return setup.base_m + stick_m * float(np.cos(np.radians(lean_deg)))
    out = min(float(np.hypot(ahead_m - setup.hand[0], left_m - setup.hand[1])), 0.98 * stick_m)
    return setup.base_m + float(np.sqrt(stick_m**2 - out**2))


def held_in_reach(setup: Setup, stick_m: float, ahead_m: float, left_m: float, lean_deg: float) -> tuple[float, float]:
    """The camera's place (ahead, left) brought to where this set-up can hold it: in reach of the hand, on a rail."""
    if setup.hand is not None:
        way = np.array([ahead_m - setup.hand[0], left_m - setup.hand[1]])
        out = float(np.hypot(*way))
        if out > 0.98 * stick_m:
            way *= 0.98 * stick_m / out
        return float(setup.hand[0] + way[0]), float(setup.hand[1] + way[1])
    if setup.rails_m:
        return ahead_m, min(setup.rails_m, key=lambda rail: abs(rail - left_m))
    return ahead_m, left_m

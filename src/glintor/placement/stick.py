"""A telescopic stick as a beam held at its foot: how much it gives, and how fast it sways with a camera on top."""

import math
from collections.abc import Sequence

from msgspec import Struct

from glintor.errors import InputError

ALUMINIUM_PA, ALUMINIUM_KG_M3 = 69e9, 2700.0  # handbook values
_OUTER_M = (0.024, 0.021, 0.018, 0.015, 0.012, 0.0095)  # foot to tip of a generic stick (common practice, no source)
_WALL_M, _SECTION_M, _BODY_M = 0.0009, 0.24, 0.2
_PIECES = 40  # of a section, for its shape
HOLDS_KG = 0.20  # a generic camera


class Section(Struct, frozen=True):
    """One tube."""

    length_m: float
    outer_m: float
    wall_m: float
    modulus_pa: float = ALUMINIUM_PA
    density_kg_m3: float = ALUMINIUM_KG_M3

    @property
    def second_moment_m4(self) -> float:
        return math.pi / 64.0 * (self.outer_m**4 - (self.outer_m - 2.0 * self.wall_m) ** 4)

    @property
    def mass_kg(self) -> float:
        area = math.pi / 4.0 * (self.outer_m**2 - (self.outer_m - 2.0 * self.wall_m) ** 2)
        return area * self.length_m * self.density_kg_m3


def generic_stick(length_m: float) -> tuple[Section, ...]:
    """The sections that are pulled out for a length, foot first. Raises InputError for a length of nothing."""
    if length_m <= 0.0:
        raise InputError("A stick needs a length.", advice="Choose a stick, or a mount without one.")
    whole = _BODY_M + (len(_OUTER_M) - 1) * _SECTION_M
    if length_m > whole:  # longer sticks have longer sections
        pieces = [length_m / whole * _BODY_M] + [length_m / whole * _SECTION_M] * (len(_OUTER_M) - 1)
    else:  # as few as reach, all pulled out alike
        body = min(length_m, _BODY_M)
        count = math.ceil(round((length_m - body) / _SECTION_M, 6))
        pieces = [body] + [(length_m - body) / count] * count if count else [body]
    return tuple(Section(piece, outer, _WALL_M) for piece, outer in zip(pieces, _OUTER_M, strict=False))


def compliance_m_n(sections: Sequence[Section]) -> float:
    """How far the tip gives for each newton across it: the sum of the integrals of (L - x)^2 / (E I) (Euler-Bernoulli)."""
    reach, total = sum(s.length_m for s in sections), 0.0
    for section in sections:
        beyond = reach - section.length_m
        total += (reach**3 - beyond**3) / 3.0 / (section.modulus_pa * section.second_moment_m4)
        reach = beyond
    return total


def sway_hz(sections: Sequence[Section], tip_kg: float = HOLDS_KG) -> float:
    """First frequency by Rayleigh: sqrt(k / (m + share of the stick's mass)) / (2 pi).

    The share is taken with the shape that a push at the tip bends the stick into; 33/140 for an even one (Blevins,
    from memory).
    """
    reach = sum(s.length_m for s in sections)
    slope = bend = moving = beyond = 0.0  # at the place along the stick, for a push of one newton
    for section in sections:
        step, stiffness = section.length_m / _PIECES, section.modulus_pa * section.second_moment_m4
        for _ in range(_PIECES):
            curvature = (reach - beyond - step / 2.0) / stiffness
            middle = bend + slope * step / 2.0 + curvature * step**2 / 8.0
            moving += section.mass_kg / _PIECES * middle**2
            bend, slope, beyond = (
                bend + slope * step + curvature * step**2 / 2.0,
                slope + curvature * step,
                beyond + step,
            )
    compliance = compliance_m_n(sections)
    return math.sqrt(1.0 / (compliance * (tip_kg + moving / compliance**2))) / (2.0 * math.pi)

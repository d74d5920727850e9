"""What wind and bumps do to a camera on its mount: sway of the tip, and the moment at the clamp or foot."""

from collections.abc import Sequence

from msgspec import Struct

from glintor.placement.stick import HOLDS_KG, Section, compliance_m_n, sway_hz

AIR_KG_M3 = 1.2  # at 20 degrees and sea level (handbook value)
_CAMERA_M2, _CAMERA_DRAG = 0.048 * 0.13, 1.1  # a generic camera's side; a box across the wind (handbook)
_TUBE_DRAG = 1.2  # a long cylinder across slow wind (handbook)
_GUST = 0.4  # of the mean force, up and down (judgement, no source)
BUMP_M_S2 = 3.0  # a boat's nudge against a bank (judgement, no source)


def wind_force_n(area_m2: float, drag: float, speed_m_s: float) -> float:
    """1/2 rho Cd A v^2."""
    return 0.5 * AIR_KG_M3 * drag * area_m2 * speed_m_s**2


class Load(Struct, frozen=True):
    """Moments about the foot in N m, and how far the tip sways in a gusty wind of that speed, at which frequency."""

    wind_nm: float
    bump_nm: float
    sway_mm: float
    sway_hz: float
    sway_without_last_mm: float  # with the thinnest section pulled in


def _sway_mm(sections: Sequence[Section], air_m_s: float) -> float:
    force = wind_force_n(_CAMERA_M2, _CAMERA_DRAG, air_m_s)
    # A force along the stick bends the tip about 3/8 as far as the same at the tip (even beam under an even load).
    force += 0.375 * sum(wind_force_n(s.length_m * s.outer_m, _TUBE_DRAG, air_m_s) for s in sections)
    return compliance_m_n(sections) * _GUST * force * 1000.0


def load_of(
    sections: Sequence[Section], air_m_s: float, *, bump_m_s2: float = BUMP_M_S2, tip_kg: float = HOLDS_KG
) -> Load:
    """What an upright stick with a camera on top suffers."""
    reach = sum(s.length_m for s in sections)
    wind, bump, at = wind_force_n(_CAMERA_M2, _CAMERA_DRAG, air_m_s) * reach, tip_kg * bump_m_s2 * reach, 0.0
    for section in sections:
        middle = at + section.length_m / 2.0
        wind += wind_force_n(section.length_m * section.outer_m, _TUBE_DRAG, air_m_s) * middle
        bump += section.mass_kg * bump_m_s2 * middle
        at += section.length_m
    shorter = _sway_mm(sections[:-1], air_m_s) if len(sections) > 1 else 0.0
    return Load(wind, bump, _sway_mm(sections, air_m_s), sway_hz(sections, tip_kg), shorter)

"""What wind and bumps do to a camera on its mount: sway of the tip, and the moment at the clamp or foot."""

import math
from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from glintor.placement.stick import HOLDS_KG, Section, compliance_m_n, sway_hz

AIR_KG_M3 = 1.2  # at 20 degrees and sea level (handbook value)
_CAMERA_M2, _CAMERA_DRAG = 0.048 * 0.13, 1.1  # a generic camera's side; a box across the wind (handbook)
_TUBE_DRAG = 1.2  # a long cylinder across slow wind (handbook)
_GUST = 0.4  # of the mean force, up and down (judgement, no source)
_PIECES = 40  # of a tube, for its shape under wind
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
    tip = compliance_m_n(sections) * wind_force_n(_CAMERA_M2, _CAMERA_DRAG, air_m_s)
    return _GUST * (tip + _bend_m(sections, air_m_s)) * 1000.0


def _bend_m(sections: Sequence[Section], air_m_s: float) -> float:
    """How far the wind on the tubes themselves bends the tip: the integral of M(x) (L - x) / (E I), M from what blows beyond
    x (virtual work, Euler-Bernoulli), in small pieces."""
    reach = sum(s.length_m for s in sections)
    middles, steps, loads, stiff, at = [], [], [], [], 0.0
    for s in sections:
        step = s.length_m / _PIECES
        middles += [at + (n + 0.5) * step for n in range(_PIECES)]
        steps += [step] * _PIECES
        loads += [wind_force_n(step * s.outer_m, _TUBE_DRAG, air_m_s)] * _PIECES
        stiff += [s.modulus_pa * s.second_moment_m4] * _PIECES
        at += s.length_m
    x, widths, load, stiffness = (np.array(v) for v in (middles, steps, loads, stiff))
    beyond = np.maximum(x[None, :] - x[:, None], 0.0)  # arms of the loads about each place
    moments = beyond @ load
    return float((moments * (reach - x) / stiffness * widths).sum())


def load_of(
    sections: Sequence[Section], air_m_s: float, *, bump_m_s2: float = BUMP_M_S2, tip_kg: float = HOLDS_KG
) -> Load:
    """What an upright stick with a camera on top suffers; nothing without one."""
    if not sections:
        return Load(0.0, 0.0, 0.0, math.inf, 0.0)
    reach = sum(s.length_m for s in sections)
    wind, bump, at = wind_force_n(_CAMERA_M2, _CAMERA_DRAG, air_m_s) * reach, tip_kg * bump_m_s2 * reach, 0.0
    for section in sections:
        middle = at + section.length_m / 2.0
        wind += wind_force_n(section.length_m * section.outer_m, _TUBE_DRAG, air_m_s) * middle
        bump += section.mass_kg * bump_m_s2 * middle
        at += section.length_m
    shorter = _sway_mm(sections[:-1], air_m_s) if len(sections) > 1 else 0.0
    return Load(wind, bump, _sway_mm(sections, air_m_s), sway_hz(sections, tip_kg), shorter)

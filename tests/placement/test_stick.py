import numpy as np
import pytest
from scipy.linalg import eigh

from glintor.errors import InputError
from glintor.placement.stick import ALUMINIUM_PA, Section, compliance_m_n, generic_stick, sway_hz


def tip_under_forces(sections: list[Section], along_n, tip_n: float, pieces: int = 40) -> float:
    """How far the tip of the beam bends under a force on each piece (along_n(section, length)) and one at the tip."""
    lengths = [(s, s.length_m / pieces) for s in sections for _ in range(pieces)]
    stiff, _ = matrices(lengths)
    force = np.zeros(len(stiff))
    for n, (s, h) in enumerate(lengths):  # consistent nodal loads of an even load on the element
        load = along_n(s, h)
        force[2 * n : 2 * n + 4] += load * np.array([0.5, h / 12, 0.5, -h / 12])
    force[-2] += tip_n
    return float(np.linalg.solve(stiff[2:, 2:], force[2:])[-2])


def by_elements(sections: list[Section], tip_kg: float, pieces: int = 12) -> tuple[float, float]:
    """Tip compliance and first frequency of the same beam by Hermite finite elements (a textbook beam element)."""
    lengths = [(s, s.length_m / pieces) for s in sections for _ in range(pieces)]
    stiff, mass = matrices(lengths)
    mass[-2, -2] += tip_kg
    push = np.zeros(len(stiff) - 2)
    push[-2] = 1.0
    return (
        float(np.linalg.solve(stiff[2:, 2:], push)[-2]),
        float(np.sqrt(eigh(stiff[2:, 2:], mass[2:, 2:], eigvals_only=True)[0]) / (2 * np.pi)),
    )


def matrices(lengths: list[tuple[Section, float]]) -> tuple[np.ndarray, np.ndarray]:
    """Stiffness and mass of a row of beam elements."""
    size = 2 * len(lengths) + 2
    stiff, mass = np.zeros((size, size)), np.zeros((size, size))
    for n, (s, h) in enumerate(lengths):
        k = np.array([[12, 6 * h, -12, 6 * h], [6 * h, 4 * h * h, -6 * h, 2 * h * h]])
        k = np.vstack([k, [-12, -6 * h, 12, -6 * h], [6 * h, 2 * h * h, -6 * h, 4 * h * h]])
        m = np.array([[156, 22 * h, 54, -13 * h], [22 * h, 4 * h * h, 13 * h, -3 * h * h]])
        m = np.vstack([m, [54, 13 * h, 156, -22 * h], [-13 * h, -3 * h * h, -22 * h, 4 * h * h]])
        part = slice(2 * n, 2 * n + 4)
        stiff[part, part] += k * s.modulus_pa * s.second_moment_m4 / h**3
        mass[part, part] += m * s.mass_kg / s.length_m * h / 420
    return stiff, mass


def test_an_even_stick_gives_by_the_handbook():
    """Source: k = 3 E I / L^3 of a cantilever, any handbook."""
    one = Section(1.2, 0.02, 0.001)
    assert compliance_m_n([one]) == pytest.approx(1.2**3 / (3 * ALUMINIUM_PA * one.second_moment_m4), rel=1e-9)
    halves = [Section(0.5, 0.02, 0.001), Section(0.7, 0.02, 0.001)]
    assert compliance_m_n(halves) == pytest.approx(compliance_m_n([one]), rel=1e-9)


@pytest.mark.parametrize("length_m", [0.7, 1.2, 3.0])
def test_sway_agrees_with_finite_elements(length_m):
    sections = list(generic_stick(length_m))
    compliance, frequency = by_elements(sections, 0.2)
    assert sum(s.length_m for s in sections) == pytest.approx(length_m)
    assert compliance_m_n(sections) == pytest.approx(compliance, rel=1e-6)
    assert sway_hz(sections, 0.2) == pytest.approx(frequency, rel=0.01)


def test_pulling_in_the_thinnest_section_calms_it():
    whole = generic_stick(1.4)
    assert sway_hz(whole[:-1]) > 1.4 * sway_hz(whole)
    even = [Section(1.0, 0.02, 0.001)]
    shape = 33.0 / 140.0 * even[0].mass_kg  # Blevins, from memory
    assert sway_hz(even, 0.1) == pytest.approx(np.sqrt(1 / compliance_m_n(even) / (0.1 + shape)) / 2 / np.pi, rel=1e-3)
    with pytest.raises(InputError, match="length"):
        generic_stick(0.0)

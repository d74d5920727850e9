import math

import msgspec
import numpy as np
import pytest

from glintor.demo.day import SHOTS, SITE
from glintor.finding import Level
from glintor.placement.holding import STRENGTH_NM, endurance_min, shoulder_moment_nm
from glintor.placement.load import load_of, wind_force_n
from glintor.placement.stick import Section, compliance_m_n, generic_stick
from glintor.project.model import Project
from glintor.project.placed import placing

PROJECT = Project(site=SITE, shots=SHOTS)


def found(shot_id: str, kind: str, *, wind: float = 3.0, **placement):
    shot = PROJECT.shot(shot_id)
    shot = msgspec.structs.replace(shot, placement=msgspec.structs.replace(shot.placement, **placement))
    project = msgspec.structs.replace(PROJECT, site=msgspec.structs.replace(SITE, wind_m_s=wind))
    return next((f for f in placing(project, shot) if f.kind == kind), None)


def test_wind_is_the_handbooks():
    """Worked example: 1 m2 of Cd 1 in 10 m/s of air of 1.2 kg/m3 is pressed with 60 N (1/2 rho v^2)."""
    assert wind_force_n(1.0, 1.0, 10.0) == pytest.approx(60.0)
    assert load_of(generic_stick(1.2), 6.0).wind_nm == pytest.approx(4.0 * load_of(generic_stick(1.2), 3.0).wind_nm)


def test_a_load_along_an_even_stick_bends_it_three_eighths_as_far():
    """Source: w L^4 / 8 E I against P L^3 / 3 E I of a cantilever, any handbook."""
    even = Section(1.0, 0.02, 0.001)
    stiffness = even.modulus_pa * even.second_moment_m4
    assert (1.0 / 8.0 / stiffness) / compliance_m_n([even]) == pytest.approx(0.375)


def test_the_moment_of_a_bump_is_that_of_the_weights():
    even = [Section(1.0, 0.02, 0.001)]
    load = load_of(even, 0.0, bump_m_s2=2.0, tip_kg=0.3)
    assert load.bump_nm == pytest.approx(0.3 * 2.0 * 1.0 + even[0].mass_kg * 2.0 * 0.5) and load.wind_nm == 0.0


def test_rohmerts_curve():
    """Source: Rohmert (1960), from memory: full strength a few seconds, half about a minute, below 15 % for long."""
    assert endurance_min(1.0) == pytest.approx(0.1, abs=0.01)
    assert endurance_min(0.5) == pytest.approx(1.1, abs=0.2)
    assert math.isinf(endurance_min(0.14))
    assert np.all(np.diff([endurance_min(f) for f in np.linspace(0.16, 1.0, 40)]) < 0)


@pytest.mark.parametrize("stick_m", [0.7, 1.2])
def test_a_stick_held_straight_out_tires_soon(stick_m):
    """Common practice, no source: half a minute to a minute or two; nothing near half an hour."""
    minutes = endurance_min(shoulder_moment_nm(stick_m, stick_m + 0.5) / STRENGTH_NM)
    assert 0.5 < minutes < 2.5
    assert shoulder_moment_nm(stick_m, 0.3) < shoulder_moment_nm(stick_m, stick_m)


def test_findings_of_load_sway_and_holding():
    roof = found("roof-cobdale", "load")
    assert roof.level is Level.NOTE and "bump" in roof.reason and roof.limit == 6.0
    storm = found("wharf-portrait", "load", wind=11.0)
    assert storm.level is Level.STOP and storm.cure.field == "placement.stick_m" and storm.cure.value < 1.2
    assert found("wharf-portrait", "load", wind=11.0, stick_m=storm.cure.value).level is Level.NOTE
    assert found("wharf-portrait", "load", wind=40.0).cure is None  # nothing that it has would stand
    assert found("towpath-walk", "load") is None  # a hand does not tip over
    assert found("towpath-walk", "sway", stick_m=3.0).level is Level.CAUTION
    short, long = found("roof-cobdale", "sway", stick_m=0.5), found("roof-cobdale", "sway", stick_m=1.2)
    assert short.value < long.value and "thinnest" in long.reason
    arm = found("towpath-walk", "holding")
    assert arm.level is Level.CAUTION and arm.value < 5.0 and "40 min" in arm.reason
    assert found("pell-lock", "holding") is None


@pytest.mark.parametrize("length_m", [0.7, 1.2, 3.0])
def test_the_tips_sway_under_wind_agrees_with_finite_elements(length_m):
    """Wind on camera and tubes, 40 % of it in gusts: nodal forces on the same beam of Hermite elements (textbook)."""
    from tests.placement.test_stick import tip_under_forces

    sections, air = list(generic_stick(length_m)), 6.0
    along = lambda s, h: wind_force_n(h * s.outer_m, 1.2, air)  # noqa: E731
    tip = wind_force_n(0.048 * 0.13, 1.1, air)
    want = 0.4 * tip_under_forces(sections, along, tip)
    assert load_of(sections, air).sway_mm == pytest.approx(1000.0 * want, rel=0.01)


def test_stick_and_camera_hang_at_the_arms_end_and_the_stick_between():
    """Moments by hand: arm 3.5 kg at 0.28 m, camera 0.2 kg at 1.5 m, the stick in the middle between grip (0.6 m) and
    camera; all held straight out (handbook body segments, from memory)."""
    stick = sum(s.mass_kg for s in generic_stick(0.9))
    want = (3.5 * 0.28 + 0.2 * 1.5 + stick * (0.6 + 1.5) / 2.0) * 9.80665
    assert shoulder_moment_nm(0.9, 1.5) == pytest.approx(want)
    near = (3.5 * 0.28 * 0.3 / 0.6 + 0.2 * 0.3 + stick * 0.3) * 9.80665  # drawn in to 0.3 m
    assert shoulder_moment_nm(0.9, 0.3) == pytest.approx(near)

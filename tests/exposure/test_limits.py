"""Named limits of exposure, each just below and just above, by numbers written here (docs/science.md names where each comes from)."""

import msgspec
import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from glintor.demo.day import SHOTS, SITE
from glintor.exposure.flicker import is_safe
from glintor.exposure.hdr import _ghosts
from glintor.exposure.review import _brightness
from glintor.exposure.schools import Run
from glintor.finding import Level
from glintor.plan.budget import budget_of
from glintor.project.kit import Item, default_kit
from glintor.project.model import Project


def costs(**changes):
    values = {"clipped": 0.0, "drowned": 0.0, "pumping": 0.0, "step": 0.0, "noise_percent": 0.0} | changes
    return Run(school="locked", offset_stops=0.0, ev=np.zeros((1, 2)), iso=np.zeros((1, 2)), **values).cost


@pytest.mark.parametrize(
    ("what", "value", "cost"),
    [
        ("clipped", 0.02, 2.0), ("drowned", 0.02, 0.7), ("pumping", 0.29, 0.0), ("pumping", 0.8, 1.0), ("step", 0.29, 0.0),
        ("step", 0.8, 2.0), ("noise_percent", 3.0, 1.5),
    ],
)  # fmt: skip
def test_what_a_school_costs(what, value, cost):
    """A per cent clipped 1, drowned 0.35; a stop a second of pumping 2 and a stop of step 4, both beyond 0.3; a per cent of noise 0.5
    (judgements)."""
    assert costs(**{what: value}) == pytest.approx(cost)


@pytest.mark.parametrize(
    ("stops", "level", "title"),
    [
        (0.99, Level.NOTE, "Exposure fits"), (1.01, Level.CAUTION, "Too bright"), (-1.01, Level.CAUTION, "Too dark"),
        (1.99, Level.CAUTION, "Too bright"), (2.01, Level.STOP, "Too bright"), (-2.01, Level.STOP, "Too dark"),
    ],
)  # fmt: skip
def test_too_bright_and_too_dark_begin_at_a_stop(stops, level, title):
    found = _brightness(stops, None)
    assert (found.level, found.title) == (level, title)


@pytest.mark.parametrize(
    ("pulses", "safe"), [(2.019, True), (2.021, False), (1.981, True), (1.979, False), (0.4, False)]
)
def test_a_time_is_safe_within_two_hundredths_of_whole_pulses(pulses, safe):
    """Lamps on 50 Hz mains pulse 100 times a second."""
    assert is_safe(50.0, pulses / 100.0) == safe


@pytest.mark.parametrize(("stops", "set_aside"), [(0.43, False), (0.47, True)])
def test_a_ghost_differs_by_almost_half_a_stop(stops, set_aside):
    grey = np.full((90, 180, 3), 0.1, np.float32)
    other = grey.copy()
    other[30:60, 60:120] *= 2.0**stops
    counts = _ghosts([grey, other], np.zeros(2), [Rotation.identity()] * 2, 0)
    assert (counts[1][45, 90] < 0.1) == set_aside and counts[1][5, 5] > 0.99 and (counts[0] == 1.0).all()


@pytest.mark.parametrize(("over_min", "changed"), [(0.3, True), (0.5, False)])
def test_a_battery_keeps_three_hundredths_that_nobody_plans_to_use(over_min, changed):
    """Two shots of ten minutes and a battery of 20 minutes / 0.97 and some: what is left after both is just under and over 3 %."""
    shots = tuple(
        msgspec.structs.replace(s, start_min=600.0 + 60.0 * n, length_min=10.0, fit_min=0.0)
        for n, s in enumerate(SHOTS[:2])
    )
    battery = Item(kind="battery", words="b", count=4, value=20.0 / 0.97 + over_min - 0.4)
    kit = msgspec.structs.replace(default_kit(), items=(battery, Item(kind="card", words="c", value=256.0)))
    site = msgspec.structs.replace(SITE, air_c=23.0, wireless=False)
    changes = [what for _, what in budget_of(Project(site=site, kit=kit, shots=shots)).changes]
    assert (changes == ["battery"]) == changed

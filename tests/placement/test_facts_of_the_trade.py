"""What people who do this say, against what is computed. Each line: common practice, no source."""

import math

import msgspec
import numpy as np
import pytest

from glintor.demo.day import SHOTS, SITE
from glintor.placement import seam
from glintor.placement.framing import head_to_feet
from glintor.placement.holding import STRENGTH_NM, endurance_min, shoulder_moment_nm
from glintor.placement.load import load_of
from glintor.placement.mounts import SETUPS, setup_by_id
from glintor.placement.stick import generic_stick, sway_hz
from glintor.project.model import Project
from glintor.project.placed import layout_of, placing, set_up

DAY = Project(site=SITE, shots=SHOTS)


def held(stick_m: float, out_m: float) -> float:
    return endurance_min(shoulder_moment_nm(stick_m, out_m) / STRENGTH_NM)


def sway(stick_m: float) -> float:
    return load_of(generic_stick(stick_m), 4.0).sway_mm


def without_last(stick_m: float) -> float:
    return load_of(generic_stick(stick_m), 4.0).sway_without_last_mm


def findings(setup_id: str) -> dict[str, float]:
    shot = SHOTS[1 if setup_by_id(setup_id).carrier == "walker" else 2]
    shot = msgspec.structs.replace(shot, placement=set_up(DAY.site, SHOTS[0].placement, setup_id))
    return {f.kind: f.value for f in placing(DAY, shot)}


FACTS = {
    "an arm tires after about 30 to 60 s held straight out": lambda: 0.5 <= held(1.2, 1.8) <= 2.0,
    "nothing held straight out lasts near 30 minutes": lambda: held(0.7, 1.3) < 5.0,
    "a 3 m stick is heavy": lambda: held(3.0, 3.0) < 0.6 * held(1.2, 1.8),
    "a fixed shot needs no arm": lambda: "holding" not in findings("rail_clamp") and "holding" in findings("held_stick"),
    "short sticks wobble less": lambda: sway(0.7) < sway(1.2) < sway(3.0),
    "pulling the last section in is the first cure for wobble": lambda: without_last(1.2) < 0.6 * sway(1.2),
    "a shorter stick shakes faster": lambda: sway_hz(generic_stick(0.7)) > sway_hz(generic_stick(1.2)),
    "near things on the seam break up, the more the nearer": lambda: all(
        np.diff([seam.seam_offset_px(d, gap_m=0.026, width_px=5760) for d in (0.5, 1, 2, 4)]) < 0
    ),
    "a stick out of line shows": lambda: seam.hidden_length_m(5.0, gap_m=0.026, half_thickness_m=0.009) < 0.1,
    "chest height gives truer proportions than overhead": lambda: (
        abs(head_to_feet(1.25, 1.7, 2.0) - 1) < 0.2 < head_to_feet(2.6, 1.7, 2.0) - 1
    ),
    "from overhead heads grow and legs shrink": lambda: head_to_feet(2.6, 1.7, 0.5) > 2.0,
    "extra mass on a helmet is to be minded": lambda: "helmet" in findings("worn_helmet"),
    "high or over water a camera is tethered": lambda: all("tether" in findings(s) for s in ("rail_clamp", "hung_beam", "low_clamp")),
    "a spinning camera needs a clear circle": lambda: findings("spin_cord")["spin"] > 1.7,
    "free set-ups take an arm, fixed ones last half an hour": lambda: all(
        (s.hold_min <= 3.0) == (s.hand is not None or s.id == "worn_mouth") for s in SETUPS
    ),
}  # fmt: skip


@pytest.mark.parametrize("fact", FACTS)
def test_the_computation_agrees_with(fact):
    assert FACTS[fact]()


def test_the_sun_behind_the_filmer_is_told_from_the_sun_ahead():
    wharf = SHOTS[0]
    off = {minute: layout_of(SITE, wharf.placement, minute).sun_off_back_deg for minute in (8 * 60, 13 * 60, 18 * 60)}
    assert off[8 * 60] > 135.0 > off[13 * 60] > off[18 * 60] and not math.isnan(off[8 * 60])  # the camera looks east

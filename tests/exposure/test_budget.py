"""The day's battery and card: swaps, takes that cannot end, what helps; takes over time; profiles."""

import msgspec
import pytest
from msgspec.structs import replace

from glintor.demo.day import SHOTS, SITE
from glintor.exposure.over_time import over_time
from glintor.finding import Level
from glintor.plan.budget import WhatIf, budget_findings, budget_of, charge_at, mbit_of, what_helps
from glintor.project.kit import Item, default_kit, read_kit, write_kit
from glintor.project.model import Project
from glintor.recording.power import card_min
from glintor.simulation.sensor import codes_a_stop, profile_words

DAY = Project(site=replace(SITE, air_c=20.0, wireless=False), shots=tuple(SHOTS))


def test_facts_of_the_trade():
    """Common practice, no source: 64 GB at 100 Mbit/s hold about 85 minutes; a battery about 80."""
    assert card_min(64e9, 100.0) == pytest.approx(85.0, abs=1.0)
    lapse = over_time(3600.0, 2.0, 24.0, mbit_s=100.0, deg_s=0.0, px_per_deg=19.2, longest_battery_s=4800.0)
    assert (lapse.frames, lapse.film_s) == (1801, pytest.approx(75.0, abs=0.1)) and lapse.speed_up == 48.0
    stars = over_time(3600.0, 20.0, 24.0, mbit_s=100.0, deg_s=0.0, px_per_deg=19.2, longest_battery_s=4800.0)
    assert stars.better == "lapse" and 15.0 < stars.star_s < 25.0  # 1.5 px at the sky's 15 degrees an hour
    assert (
        over_time(600.0, 2.0, 24.0, mbit_s=100.0, deg_s=30.0, px_per_deg=19.2, longest_battery_s=4800.0).better
        == "film"
    )


def test_the_days_battery_is_changed_where_it_would_not_last():
    """25 + 40 of 80 minutes leave too little for 65: changed before the third shot."""
    budget = budget_of(DAY)
    shots = sorted(SHOTS, key=lambda s: s.start_min)
    assert budget.changes[0] == (shots[2].start_min - shots[2].fit_min, "battery") and not budget.short
    assert budget.batteries == sum(what == "battery" for _, what in budget.changes) + 1
    left = 1.0 - (25 + 40 + 0.35 * (shots[0].fit_min + shots[1].fit_min)) / 80.0
    assert charge_at(budget, shots[2].start_min - shots[2].fit_min - 1) == pytest.approx(left, abs=1e-6)
    assert budget_of(DAY, WhatIf(power_bank=True)).batteries == 1


def test_a_take_that_the_battery_ends_is_a_stop_with_what_helps():
    cold = replace(DAY, site=replace(DAY.site, air_c=-5.0, wireless=True))
    budget = budget_of(cold)
    roof = next(s for s in SHOTS if s.id == "roof-cobdale")
    assert budget.short_min(roof.id) > 10.0 and any("power bank" in words for words in what_helps(cold, budget))
    stop = next(f for f in budget_findings(cold, roof) if f.kind == "battery")
    assert stop.level is Level.STOP and "power bank" in stop.reason
    assert any(f.kind == "heat" for f in budget_findings(replace(DAY, site=replace(DAY.site, air_c=40.0)), roof))
    fast = default_kit()
    fast = replace(fast, cameras=(replace(fast.cameras[0], mbit_s=400.0),))
    assert any(f.kind == "card speed" for f in budget_findings(replace(DAY, kit=fast), roof))
    small = replace(fast, items=(*fast.items, Item(kind="card", words="small", value=32.0)))
    assert budget_of(replace(DAY, kit=small)).cards > 10
    half = replace(roof, exposure=replace(roof.exposure, codec="H.265"))
    assert mbit_of(DAY, half) == mbit_of(DAY, roof) / 2


def test_the_matrix_of_modes_is_open_json_in_the_kit(tmp_path):
    kit = default_kit()
    modes = (*kit.cameras[0].modes[:1], replace(kit.cameras[0].modes[0], id="own", words="8K sphere", width_px=7680))
    write_kit(tmp_path / "kit.json", replace(kit, cameras=(replace(kit.cameras[0], modes=modes),)))
    assert [m.id for m in read_kit(tmp_path / "kit.json").cameras[0].modes] == ["sphere-5k7", "own"]
    raw = msgspec.json.decode((tmp_path / "kit.json").read_bytes())
    raw["cameras"][0]["modes"][0]["programs"] = ["by magic"]
    (tmp_path / "kit.json").write_bytes(msgspec.json.encode(raw))
    with pytest.raises(Exception, match="programs"):
        read_kit(tmp_path / "kit.json")


def test_profiles_tell_their_codes():
    """ACEScct writes 255 / 17.52 codes a stop over its whole upper part (Academy S-2016-001)."""
    assert codes_a_stop("log", 1.0) == pytest.approx(255 / 17.52, abs=0.01)
    assert "band" in profile_words("log") and "band" not in profile_words("standard") and profile_words("none") == ""

"""The simulated scale and vacuum gauge do what the visit says, and what they show is judged as what it is."""

from __future__ import annotations

import pytest

from dry_gauge.core.dimensions import MICRON_PA
from dry_gauge.core.electrical.power import odd_factor, power_factor
from dry_gauge.core.electrical.supply import LEGS, PAIRS, judge_supply
from dry_gauge.core.sealed.vacuum import END_POINTS, judge_decay
from dry_gauge.probes.meter import Meter
from dry_gauge.probes.rig import SYSTEMS, Rig


def weight(rig: Rig) -> float:
    return rig.lines(0)[0]["value"]


def test_a_cylinder_grows_lighter_only_while_a_pour_is_on_and_never_below_what_it_holds():
    rig = Rig(gross_kg=10.0, pour_kg_min=60.0, most_kg=2.5)
    assert weight(rig) == pytest.approx(10.0, abs=0.01)
    rig.follow("off", "in")
    for _ in range(9):
        rig.lines(0)
    assert weight(rig) == pytest.approx(7.5, abs=0.01)
    rig.follow("off", "")
    rig.follow("off", "out")
    rig.lines(0)
    assert weight(rig) > 8.4


@pytest.mark.parametrize(("sort", "verdicts"), [("tight", {"tight"}), ("wet", {"moisture"}), ("leak", {"leak", "both"})])
def test_a_gauge_goes_down_with_the_pump_and_its_rise_reads_as_the_system_is(sort, verdicts):
    rig = Rig(system=SYSTEMS[sort])
    assert rig.lines(0)[1].get("state") == "out_of_range"
    rig.follow("open", "")
    for _ in range(45 * 60):
        rig.lines(0)
    rig.follow("shut", "")
    shown = [rig.lines(0)[1] for _ in range(16 * 60)]
    seconds = [float(i) for i, one in enumerate(shown) if "value" in one][::5]
    pressures = [one["value"] * MICRON_PA for one in shown if "value" in one][::5]
    assert judge_decay(seconds, pressures, END_POINTS["strict"]).verdict.value in verdicts
    rig.follow("swept", "")
    assert rig.pressure_pa > 5000 * MICRON_PA
    rig.follow("off", "")
    assert rig.lines(0)[1].get("state") == "out_of_range"


@pytest.mark.parametrize(
    ("supply", "code"), [("sound", None), ("lost_leg", "leg_lost"), ("unbalanced", "unbalanced"), ("low", "off_label")]
)
def test_a_meter_shows_a_supply_that_is_judged_as_what_it_is(supply, code):
    shown = {name: value for name, (value, _) in Meter(3, supply).shown(16.0).items()}
    pairs = {pair: shown[f"volts_{pair}"] for pair in PAIRS}
    ground = {leg: shown[f"volts_{leg}_ground"] for leg in LEGS}
    found = [one.code for one in judge_supply(pairs, ground, three_phase=True, label_v=208).findings]
    assert found == ([] if code is None else [code])
    factor = power_factor(shown["watts"], shown["volts_l1_l2"], sum(shown[f"amps_{leg}"] for leg in LEGS) / 3, three_phase=True)
    assert odd_factor(factor) is None


def test_a_meter_is_told_nothing_that_no_supply_does():
    for told in ({"phases": 2}, {"supply": "sour"}, {"phases": 1, "supply": "lost_leg"}, {"slip": 1.0}):
        with pytest.raises(ValueError, match="phase"):
            Meter(**told)
    assert Meter(slip=0.1).shown(9.0)["rpm"][0] == pytest.approx(0.9 * Meter().shown(9.0)["rpm"][0])
    assert Meter().shown(0.0)["rpm"][0] == 0.0

"""The simulated scale and vacuum gauge do what the visit says, and what they show is judged as what it is."""

from __future__ import annotations

import pytest

from dry_gauge.core.dimensions import MICRON_PA
from dry_gauge.core.sealed.vacuum import END_POINTS, judge_decay
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


@pytest.mark.parametrize(
    ("sort", "verdicts"), [("tight", {"tight"}), ("wet", {"moisture"}), ("leak", {"leak", "both"})]
)
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

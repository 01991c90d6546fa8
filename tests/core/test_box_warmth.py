"""How far a walk-in stands over its target is evidence like any gap: of extra load, and only a little of anything else."""

from __future__ import annotations

import pytest

from dry_gauge.core.circuit import derive
from dry_gauge.core.intake import make_observation, make_reading
from dry_gauge.core.judgement.assess import assess
from dry_gauge.core.judgement.baseline import baseline_of
from dry_gauge.core.judgement.features import FEATURES, observe
from dry_gauge.core.quantities import to_kelvin
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.sheet import EarlierSet, Sheet, UnitFacts
from dry_gauge.core.vocabulary import Fault, Kind, Metering, State
from tests.pictures import Gaps, readings_for

DESIGN_F = 36.0
COOLER = UnitFacts(Kind.WALK_IN_COOLER, find("R-448A"), metering=Metering.TXV, receiver=True, design_box_k=to_kelvin(DESIGN_F))
PROVEN = tuple(make_observation(name, State.YES) for name in ("evaporator_air_proven", "condenser_air_proven"))


def sheet(box_f, facts=COOLER, td=12.5, superheat=28.0, coil_superheat=7.0, split=22.0, subcooling=6.0):
    gaps = Gaps(80.0, box_f, td, superheat, split, subcooling, coil_superheat=coil_superheat)
    readings = tuple(make_reading(facts, one.quantity, one.value, one.unit) for one in readings_for(facts, gaps))
    return Sheet(facts, readings, PROVEN, minutes_running=40)


def chance(box_f, fault, **gaps):
    return assess(sheet(box_f, **gaps)).first.judgement.probability(fault)


def test_a_warm_box_with_every_gap_right_may_have_too_much_load():
    there, warm = (chance(DESIGN_F + over, Fault.HIGH_EVAPORATOR_LOAD, td=16.0) for over in (2, 9.5))
    assert warm > 5 * there
    assert assess(sheet(DESIGN_F + 2, td=16.0)).first.verdict == "healthy"
    assert assess(sheet(DESIGN_F + 9.5, td=16.0)).first.verdict == "not_enough"


def test_a_box_that_its_unit_cannot_hold_has_no_more_load_for_it():
    starved = {"td": 22.0, "superheat": 45.0, "coil_superheat": 20.0, "subcooling": 1.0, "split": 17.0}
    found = assess(sheet(DESIGN_F + 9.5, **starved)).first
    assert found.causes[0].fault is Fault.UNDERCHARGE
    assert chance(DESIGN_F + 9.5, Fault.HIGH_EVAPORATOR_LOAD, **starved) < 0.3


@pytest.mark.parametrize(("box_f", "shown_f"), [(DESIGN_F - 9, 0.0), (DESIGN_F + 4, 4.0), (DESIGN_F + 30, 10.0)])
def test_warmth_counts_from_its_target_to_where_it_is_being_pulled_down(box_f, shown_f):
    view = sheet(box_f).circuit(1)
    found = observe(view, derive(view))
    warmth = dict(zip((FEATURES[i] for i in found.at), found.values, strict=True))["box_warmth"]
    assert warmth * 1.8 == pytest.approx(shown_f, abs=0.05)


def test_without_a_target_of_its_own_a_box_is_not_called_warm():
    view = sheet(45.0, UnitFacts(Kind.WALK_IN_COOLER, find("R-448A"), metering=Metering.TXV)).circuit(1)
    assert "box_warmth" not in [FEATURES[i] for i in observe(view, derive(view)).at]


def test_other_days_say_nothing_of_todays_box():
    then = tuple(EarlierSet(f"2026-0{month}-02", True, sheet(DESIGN_F + month).readings) for month in (3, 5, 7))
    today = sheet(DESIGN_F + 9)
    found = baseline_of(Sheet(COOLER, today.readings, PROVEN, minutes_running=40, earlier=then).circuit(1))
    assert "box_warmth" not in found.used
    assert "subcooling" in found.used
    assert not assess(Sheet(COOLER, today.readings, PROVEN, minutes_running=40, earlier=then)).first.judgement.drifts

"""Made-up calls: a unit answers in its present state, what mends it mends it, and what harms it is told."""

from __future__ import annotations

import numpy as np
import pytest

from dry_gauge.bench.practice.calls import draw_calls
from dry_gauge.bench.practice.hidden import REMEDIES, Remedy, parts_behind
from dry_gauge.bench.practice.policies import follow_next_check, gauges_and_gas, in_textbook_order
from dry_gauge.bench.practice.unit import PracticeUnit
from dry_gauge.core.vocabulary import Fault, Kind, State


def call(*faults: Fault, seed: int = 1, kind: Kind = Kind.SPLIT_AC):
    """A drawn call with exactly those faults."""
    return next(draw_calls(12, np.random.default_rng(seed), kinds=(kind,), truths=[frozenset(faults)] * 12))


def codes(unit: PracticeUnit) -> list[str]:
    return [harm.code for harm in unit.harms]


def test_a_reading_is_the_same_until_something_is_done_and_another_then():
    unit = PracticeUnit(call(Fault.UNDERCHARGE))
    before = unit.read("liquid_pressure", 60)
    assert unit.read("liquid_pressure", 60) == before
    assert unit.do(Remedy.LEAK, 10) == []
    assert unit.held
    assert unit.read("liquid_pressure", 60).value_si > before.value_si
    assert unit.read("box_air_temp", 60) is None


@pytest.mark.parametrize("fault", [fault for fault in Fault if fault is not Fault.NONE])
@pytest.mark.parametrize("kind", [Kind.SPLIT_AC, Kind.WALK_IN_COOLER])
def test_every_fault_has_a_part_behind_it_and_each_of_its_cures_mends_it(fault, kind):
    drawn = call(fault, kind=kind)
    (hidden,) = drawn.wrong
    assert hidden.part in parts_behind(fault, drawn.facts)
    for cure in hidden.part.cures:
        unit = PracticeUnit(drawn)
        assert unit.do(cure, 0) == []
        assert unit.held
        assert unit.read("suction_pressure", 60) is not None


def test_gas_into_bad_air_and_into_a_full_unit_is_harm_and_changes_the_unit():
    unit = PracticeUnit(call(Fault.LOW_EVAPORATOR_AIRFLOW))
    head = unit.read("liquid_pressure", 60).value_si
    unit.do(Remedy.GAS_IN, 5)
    assert codes(unit) == ["gas_on_bad_air", "overfilled"]
    assert unit.faults == {Fault.LOW_EVAPORATOR_AIRFLOW, Fault.OVERCHARGE}
    assert unit.read("liquid_pressure", 60).value_si > head
    unit.do(Remedy.GAS_OUT, 9)
    assert unit.faults == {Fault.LOW_EVAPORATOR_AIRFLOW}


def test_gas_eases_a_leak_that_comes_back_until_it_is_mended():
    unit = PracticeUnit(call(Fault.UNDERCHARGE))
    unit.do(Remedy.GAS_IN, 5)
    assert (unit.wrong, unit.held, codes(unit)) == ((), False, ["leak_left"])
    unit.do(Remedy.LEAK, 60)
    assert unit.held


def test_sound_parts_and_opened_systems_are_told():
    unit = PracticeUnit(call())
    for remedy, found in ((Remedy.FILTER, []), (Remedy.OUTDOOR_FAN, ["sound_part"]), (Remedy.RECHARGE, ["opened_for_nothing"]),
                          (Remedy.COMPRESSOR, ["sound_part", "opened_for_nothing"])):  # fmt: skip
        assert [harm.code for harm in unit.do(remedy, 0)] == found
        assert REMEDIES[remedy].minutes > 0


def test_what_is_missed_once_is_seen_the_next_time():
    drawn = call(Fault.LOW_EVAPORATOR_AIRFLOW)
    (sight,) = drawn.wrong[0].part.sights
    unit = PracticeUnit(type(drawn)(drawn.facts, drawn.machine, drawn.labelled, drawn.weather, drawn.wrong, drawn.errors,
                                    frozenset({sight})))  # fmt: skip
    assert [unit.look(sight), unit.look(sight)] == [State.NO, State.YES]
    assert unit.look("evaporator_air_proven") is State.NO
    assert unit.look("condenser_air_proven") is State.YES


def test_next_checks_take_less_time_and_do_less_harm_than_an_order_or_the_habit():
    calls = list(draw_calls(26, np.random.default_rng(11)))
    chance = np.random.default_rng(0)

    def sums(policy):
        played = [policy(one, chance) for one in calls]
        return sum(one.checking + one.mending for one in played), sum(one.harm for one in played), sum(one.held for one in played)

    checked, taught, habit = (sums(policy) for policy in (follow_next_check, in_textbook_order, gauges_and_gas))
    assert checked[0] < taught[0]
    assert checked[1] <= taught[1] < habit[1]
    assert checked[2] > habit[2]

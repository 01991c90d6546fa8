"""Made-up calls: a unit answers in its present state, what mends it mends it, and what harms it is told."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from functools import cache

import numpy as np
import pytest

from dry_gauge.bench.practice.calls import draw_calls
from dry_gauge.bench.practice.dead import drawn_dead
from dry_gauge.bench.practice.dead_policies import DEAD_POLICIES
from dry_gauge.bench.practice.debrief import debrief, in_order, sound_way
from dry_gauge.bench.practice.game import offers_on, played, take
from dry_gauge.bench.practice.hidden import RATED_UF, REMEDIES, Hidden, Motor, Remedy, Sealing, parts_behind
from dry_gauge.bench.practice.policies import Player, follow_next_check, gauges_and_gas, in_textbook_order
from dry_gauge.bench.practice.unit import PracticeCall, PracticeUnit
from dry_gauge.bench.practice.worker import Worker
from dry_gauge.core.controls.chain import LinkSort
from dry_gauge.core.controls.walker import How
from dry_gauge.core.vocabulary import Fault, Kind, State


@cache
def call(*faults: Fault, seed: int = 1, kind: Kind = Kind.SPLIT_AC) -> PracticeCall:
    """A drawn call with exactly those faults."""
    return next(draw_calls(12, np.random.default_rng(seed), kinds=(kind,), truths=[frozenset(faults)] * 12))


def sealed(unit: PracticeUnit, at: float = 0.0) -> None:
    """What follows once a system was opened, done as it should be."""
    for step in (Sealing.JOINT, Sealing.HOLD, Sealing.EVACUATE, Sealing.WEIGH_IN):
        unit.seal(step, at)


def codes(unit: PracticeUnit) -> list[str]:
    return [harm.code for harm in unit.harms]


def test_a_reading_is_the_same_until_something_is_done_and_another_then():
    unit = PracticeUnit(call(Fault.UNDERCHARGE))
    before = unit.read("liquid_pressure", 60)
    assert unit.read("liquid_pressure", 60) == before
    assert unit.do(Remedy.LEAK, 10) == []
    assert (unit.runs, unit.held, unit.read("suction_pressure", 11)) == (False, False, None)
    sealed(unit, 30)
    assert unit.held
    assert unit.read("liquid_pressure", 60).value_si > before.value_si
    assert unit.read("box_air_temp", 60) is None


def test_in_heating_a_coil_is_looked_at_where_it_stands_and_weighed_by_what_it_does():
    calls = draw_calls(
        40, np.random.default_rng(3), kinds=(Kind.SPLIT_HEAT_PUMP,), truths=[frozenset({Fault.LOW_CONDENSER_AIRFLOW})] * 40
    )
    drawn = next(one for one in calls if one.facts.heating and not one.missed & {"evaporator_dirty", "condenser_dirty"})
    matted = next(part for part in parts_behind(Fault.LOW_CONDENSER_AIRFLOW, drawn.facts) if part.name == "indoor_coil")
    worker = Worker(replace(drawn, wrong=(replace(drawn.wrong[0], part=matted),)))
    worker.ask("air", ("evaporator_air_proven", "condenser_air_proven"), 5.0)
    worker.ask("coils", ("evaporator_dirty", "condenser_dirty"), 5.0)
    seen = {what: one.state for what, one in worker.seen.items()}
    assert seen == {"evaporator_dirty": State.YES, "condenser_dirty": State.NO,
                    "evaporator_air_proven": State.NO, "condenser_air_proven": State.YES}  # fmt: skip
    assert worker.judge().view.seen("condenser_dirty")


@pytest.mark.parametrize("fault", [fault for fault in Fault if fault is not Fault.NONE])
@pytest.mark.parametrize("kind", [Kind.SPLIT_AC, Kind.WALK_IN_COOLER])
def test_every_fault_has_a_part_behind_it_and_each_of_its_cures_mends_it(fault, kind):
    drawn = call(fault, kind=kind)
    (hidden,) = drawn.wrong
    assert hidden.part in parts_behind(fault, drawn.facts)
    for cure in hidden.part.cures:
        unit = PracticeUnit(drawn)
        assert unit.do(cure, 0) == []
        if REMEDIES[cure].opens:
            sealed(unit)
        assert (unit.held, unit.harms) == (True, [])
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
    sealed(unit, 60)
    assert unit.held


def test_what_is_left_out_of_sealing_shows_later():
    unit = PracticeUnit(call(Fault.LIQUID_LINE_RESTRICTION))
    unit.do(Remedy.DRIER, 0)
    unit.seal(Sealing.WEIGH_IN, 80)  # neither held nor evacuated
    assert (codes(unit), unit.faults) == (["not_evacuated"], {Fault.NON_CONDENSABLES})
    leaking = PracticeUnit(call(Fault.UNDERCHARGE))
    leaking.do(Remedy.RECHARGE, 0)  # and nobody looked for the leak
    assert [leaking.seal(step, 30)[0] for step in (Sealing.HOLD, Sealing.EVACUATE)] == ["falls", "rises"]
    leaking.seal(Sealing.WEIGH_IN, 60)
    assert (leaking.faults, leaking.held, codes(leaking)) == ({Fault.NON_CONDENSABLES}, False, ["not_evacuated", "leak_left"])
    loose = PracticeUnit(replace(call(Fault.LIQUID_LINE_RESTRICTION), loose=True))
    loose.do(Remedy.DRIER, 0)
    assert loose.seal(Sealing.HOLD, 30) == ("falls", [])
    sealed(loose, 60)
    assert loose.held


def test_sound_parts_and_opened_systems_are_told():
    unit = PracticeUnit(call())
    for remedy, found in (
        (Remedy.FILTER, []),
        (Remedy.OUTDOOR_FAN, ["sound_part"]),
        (Remedy.RECHARGE, ["opened_for_nothing"]),
        (Remedy.COMPRESSOR, ["sound_part", "opened_for_nothing"]),
    ):
        assert [harm.code for harm in unit.do(remedy, 0)] == found
        assert REMEDIES[remedy].minutes > 0


def test_what_was_changed_shows_bit_by_bit_and_a_panel_that_is_off_takes_air():
    unit = PracticeUnit(call(Fault.LOW_CONDENSER_AIRFLOW))
    (hidden,) = unit.wrong
    dirty = unit.read("liquid_pressure", 5).value_si
    unit.do(hidden.part.cures[0], 10)
    at_once, later, settled = (unit.read("liquid_pressure", minutes).value_si for minutes in (10, 13, 90))
    assert settled < later < at_once == pytest.approx(dirty)
    assert (unit.settled(11), unit.settled(90)) == (False, True)
    unit.set_panel(off=True, at_minutes=90)
    assert unit.read("suction_pressure", 120).value_si < unit.read("suction_pressure", 90).value_si
    unit.set_panel(off=False, at_minutes=120)
    assert unit.read("liquid_pressure", 200).value_si == pytest.approx(settled)


def test_whoever_looks_behind_a_panel_has_it_off_until_it_is_put_back():
    worker = Worker(call())
    worker.ask("evaporator_dirty", ("evaporator_dirty",), 2.0)
    assert (worker.unit.panel_off, worker.minutes) == (True, 5.0)
    worker.panel("panel_on", off=False)
    assert not worker.unit.panel_off


@cache
def dead_calls(kind: Kind = Kind.SPLIT_AC) -> Mapping[LinkSort, PracticeCall]:
    """One call to a unit that does not run by each sort of link."""
    chance, found = np.random.default_rng(2), {}
    for _ in range(300):
        dead, faults = drawn_dead(kind, chance)
        sort = dead.chain.by_name[dead.link].sort
        one = None if sort in found else next(draw_calls(1, chance, kinds=(kind,), truths=[faults]), None)
        if one is not None:
            found[sort] = replace(one, dead=dead)
    return found


@pytest.mark.parametrize(("sort", "one"), dead_calls().items(), ids=lambda value: getattr(value, "value", ""))
def test_a_dead_unit_shows_where_it_is_open_and_runs_once_its_cause_is_gone(sort, one):
    unit = PracticeUnit(one)
    assert not unit.runs
    assert unit.read("suction_pressure", 0) is None
    assert unit.read("outdoor_air_temp", 0) is not None
    way = one.dead.chain.way_to(one.dead.chain.coils[0].name)
    if sort is not LinkSort.COMMON and one.dead.link != way[-1]:
        assert unit.chain.volts(one.dead.link, How.COMMON).volts == 0
    other = next(name for name in way if name != one.dead.link and one.dead.chain.by_name[name].sort is not LinkSort.PLUG)
    unit.mend_link(other, 0)
    assert (codes(unit), unit.runs) == (["sound_part"], False)
    worker = Worker(one)
    steps = [step.name for step in sound_way(one)]
    for name in steps:
        take(worker, offers_on(one)[name])
    assert (worker.unit.held, worker.unit.harms) == (True, [])


def test_resetting_bridging_and_another_fuse_mend_nothing():
    calls = dead_calls()
    high = PracticeUnit(calls[LinkSort.HIGH_PRESSURE])
    high.reset(0)
    assert (codes(high), high.runs) == (["ran_into_stop"], False)
    high.bridge(5)
    assert (codes(high)[-1], high.runs, high.held) == ("bridged", True, False)
    high.comes_back()
    assert not high.runs
    fuse = PracticeUnit(calls[LinkSort.FUSE])
    fuse.mend_link(fuse.call.dead.link, 0)
    assert (codes(fuse), fuse.runs) == (["fuse_spent"], False)
    coil = PracticeUnit(calls[LinkSort.COIL])
    coil.bridge(0)
    assert (codes(coil), coil.runs) == ([], False)


def test_a_debrief_believes_the_link_more_as_it_is_walked():
    one = dead_calls()[LinkSort.FLOAT]
    found = debrief(one, played(one, ["volts_4", "volts_2", "volts_3", "drain_blocked", "drain"]), [f"link:{one.dead.link}"])
    beliefs = [worth.believed.get("link") for worth in found.worths[:4]]
    assert beliefs == sorted(beliefs)
    assert (found.named_right, found.in_order, found.held) == (True, True, True)
    assert found.shortest[-1].runs


def test_a_boards_lamp_says_where_to_look():
    calls = dead_calls(Kind.PACKAGE_AC)
    high, fuse, coil = (calls[sort] for sort in (LinkSort.HIGH_PRESSURE, LinkSort.FUSE, LinkSort.COIL))
    worker = played(high, ["lamp"])
    assert worker.log[0].lamp.flashes_s
    (worth,) = debrief(high, worker, [f"link:{high.dead.link}"]).worths
    assert worth.believed["link"] > 0.8
    assert played(fuse, ["lamp"]).log[0].lamp.words == "It is dark."
    assert played(coil, ["lamp"]).log[0].lamp.words == "It is lit steadily."
    assert "lamp" not in offers_on(dead_calls()[LinkSort.FUSE])  # no board in its way


def test_the_order_of_the_work():
    assert in_order(["link:Control fuse", "low_condenser_airflow", "undercharge"])
    assert not in_order(["undercharge", "low_evaporator_airflow"])
    assert not in_order(["low_condenser_airflow", "link:Control fuse"])


def test_what_is_missed_once_is_seen_the_next_time():
    drawn = call(Fault.LOW_EVAPORATOR_AIRFLOW, seed=2)
    sight, *_ = drawn.wrong[0].part.sights
    unit = PracticeUnit(
        type(drawn)(drawn.facts, drawn.machine, drawn.labelled, drawn.weather, drawn.wrong, drawn.errors, frozenset({sight}))
    )
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


def part_named(name: str, fault: Fault, facts) -> Hidden:
    return Hidden(fault, next(part for part in parts_behind(fault, facts) if part.name == name), 0.6)


def test_the_walk_finds_what_keeps_a_unit_from_running_and_parts_by_habit_do_harm():
    walked, habit = (
        [DEAD_POLICIES[name][1](one, np.random.default_rng(0)) for one in dead_calls().values()]
        for name in ("next_point", "parts")
    )
    assert all(one.held and one.harm == 0 for one in walked)
    assert sum(one.held for one in habit) < len(habit) < sum(one.harm for one in habit)


def test_a_weak_capacitor_is_heard_seen_measured_and_no_motor_mends_it():
    found = call(Fault.LOW_CONDENSER_AIRFLOW)
    for name, measured, cure, harm in (
        ("fan_capacitor", 0.6, Remedy.CAPACITOR, Remedy.OUTDOOR_FAN),
        ("outdoor_fan", 1.0, Remedy.OUTDOOR_FAN, Remedy.CAPACITOR),
    ):
        worker = Worker(replace(found, wrong=(part_named(name, Fault.LOW_CONDENSER_AIRFLOW, found.facts),), missed=frozenset()))
        offers = offers_on(worker.unit.call)
        take(worker, offers["unusual_sound"])
        assert len(worker.log[-1].sounds) == 1
        take(worker, offers["discharge_air_pulsing"])
        assert worker.log[-1].seen[0].state is State.YES
        take(worker, offers["capacitors"])
        held = dict(worker.log[-1].capacitors)
        assert held[Motor.OUTDOOR_FAN] / RATED_UF[Motor.OUTDOOR_FAN] == pytest.approx(measured, abs=0.1)
        assert held[Motor.COMPRESSOR] / RATED_UF[Motor.COMPRESSOR] == pytest.approx(1, abs=0.02)
        assert [one.code for one in worker.unit.do(harm, 60)] == ["sound_part"]
        assert worker.unit.faults
        assert worker.unit.do(cure, 90) == []
        take(worker, offers["unusual_sound"])
        assert worker.log[-1].sounds == ()


def test_before_a_motor_or_capacitor_is_bought_the_capacitor_is_measured():
    found = call(Fault.LOW_CONDENSER_AIRFLOW)
    for name in ("fan_capacitor", "outdoor_fan"):
        wrong = (part_named(name, Fault.LOW_CONDENSER_AIRFLOW, found.facts),)
        player = Player(replace(found, wrong=wrong, missed=frozenset()))
        player.mend(Fault.LOW_CONDENSER_AIRFLOW)
        assert (player.unit.held, player.unit.harm) == (True, 0)

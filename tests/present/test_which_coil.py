"""A heat pump's coils change roles: a visit names them by where they stand, the judgement by what they do."""

from __future__ import annotations

from dataclasses import replace

import pytest

from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.roles import by_role, swapped
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.visit.survey import places
from dry_gauge.core.vocabulary import SIGHTS, Kind, Metering, Mode, State
from dry_gauge.core.words import Reader
from dry_gauge.notebook.subjects.actions import ActionBody
from dry_gauge.notebook.subjects.clock import ClockBody
from dry_gauge.notebook.subjects.closing import ClosingBody, before_leaving
from dry_gauge.notebook.subjects.mode import ModeBody
from dry_gauge.notebook.subjects.observations import ObservationBody
from dry_gauge.notebook.subjects.running import Running
from dry_gauge.notebook.subjects.verdicts import OverrideBody
from dry_gauge.present.closing import outline_of
from dry_gauge.present.judge import judge
from dry_gauge.present.lists import banner_of
from dry_gauge.present.owner_report import owner_report
from dry_gauge.present.permit import permit_of
from dry_gauge.present.proof import finals, finals_otherwise
from dry_gauge.present.proving import open_in
from dry_gauge.present.rows import sheet_rows
from dry_gauge.present.visit import judged_before
from dry_gauge.web.timeline import told_to
from tests.present.test_kept_off import PROVEN, RUNS, SOUND, read
from tests.present.test_views import NOW, visit_of

HEAT_PUMP = UnitFacts(Kind.SPLIT_HEAT_PUMP, find("R-410A"), metering=Metering.TXV, label_charge_kg=3.0)
HEATS, COOLS = ModeBody(mode=Mode.HEATING), ModeBody(mode=Mode.COOLING)
IN_HEATING = {
    "outdoor_air_temp": 42,
    "return_air_temp": 70,
    "supply_air_temp": 96,
    "suction_pressure": 92,
    "suction_line_temp": 36,
    "liquid_pressure": 340,
    "liquid_line_temp": 95,
}


def seen(what, state="yes"):
    return ObservationBody(what=what, state=state)


def on_a_heat_pump(*bodies):
    return visit_of(*bodies, unit=HEAT_PUMP)


def states(view):
    return dict(view.assessment.first.view.states)


@pytest.mark.parametrize("what", sorted(SIGHTS))
def test_every_name_by_place_comes_back_from_its_role(what):
    assert swapped(swapped(what, heating=True), heating=True) == what
    assert swapped(what, heating=False) == what
    assert by_role(what, State.YES, heating=False) == (what, State.YES)


@pytest.mark.parametrize(("seen_at", "words", "leads"), [
    ("condenser_dirty", "Outdoor coil dirty", "low_evaporator_airflow"),
    ("evaporator_dirty", "Indoor coil dirty", "low_condenser_airflow"),
])  # fmt: skip
def test_a_matted_coil_is_judged_by_what_it_does_and_named_by_where_it_stands(seen_at, words, leads):
    cools, heats = (
        on_a_heat_pump(mode, RUNS, *read(values), seen(seen_at)) for mode, values in ((COOLS, SOUND), (HEATS, IN_HEATING))
    )
    assert states(cools) == {seen_at: State.YES}
    assert states(heats) == {swapped(seen_at, heating=True): State.YES}
    causes = {one.fault.value: one for one in heats.assessment.first.causes}
    assert f"{words}: yes." in [one.phrase.read(Reader()) for one in causes[leads].evidence_for]
    for view in (cools, heats):
        now = judge(view, Reader(), 1)
        assert now.judged.next_checks[0].words == f"Mend the air first: {words.lower()}"
        assert now.judged.next_checks[0].asks == (seen_at,)  # it leads to the field in which it was answered
        assert any(words.lower() in one for one in outline_of(view, Reader()).found)


def test_air_is_proven_at_each_coil_by_where_it_stands():
    indoors = on_a_heat_pump(HEATS, RUNS, *read(IN_HEATING), seen("evaporator_air_proven"))
    assert states(indoors) == {"condenser_air_proven": State.YES}
    gate = next(one for one in indoors.assessment.first.gates if one.name == "air_unproven")
    assert gate.released_by.read(Reader()).startswith("Prove the air on the outdoor coil:")
    check = judge(indoors, Reader(), 1).judged.next_checks[0]
    assert (check.words, check.asks) == ("Prove the air on the outdoor coil", ("condenser_air_proven",))
    # Air that blows back outdoors is no name of that coil's role: it stands against the proof, whichever was said first.
    for order in ((0, 1), (1, 0)):
        told = [seen("condenser_air_proven"), seen("condenser_air_recirculating")]
        view = on_a_heat_pump(HEATS, RUNS, *read(IN_HEATING), *(told[i] for i in order))
        assert states(view) == {"evaporator_air_proven": State.NO}
    # What is cleaned is the coil that was named.
    cleaned = on_a_heat_pump(HEATS, RUNS, seen("condenser_dirty"), seen("evaporator_air_proven"),
                             ActionBody(sort="condenser_cleaned"), *read(IN_HEATING))  # fmt: skip
    assert states(cleaned) == {"condenser_air_proven": State.YES}


def test_a_thaw_is_of_the_coil_that_evaporates():
    iced = [seen("ice_on_evaporator_even"), *PROVEN]
    for mode, left in ((COOLS, "condenser_air_proven"), (HEATS, "evaporator_air_proven")):
        view = on_a_heat_pump(mode, RUNS, *iced, ActionBody(sort="thawed"))
        assert {what for what in view.kept.observations.states() if what.endswith("proven")} == {left}
    asked = {place.name: place.sights for place in places(replace(HEAT_PUMP, mode=Mode.HEATING))}
    assert "ice_on_evaporator_even" in asked["condenser"]
    assert "ice_on_evaporator_even" not in asked["evaporator"]


def test_what_was_read_in_the_other_mode_waits_and_is_judged_by_nobody():
    cooled = [RUNS, *PROVEN, *read(SOUND)]
    view = on_a_heat_pump(*cooled, HEATS)
    assert set(view.assessment.first.view.measured) == {"outdoor_air_temp", "return_air_temp", "return_air_wet_bulb"}
    assert view.assessment.first.verdict == "not_enough"
    waiting = [label for _, label in banner_of(view).of_other_mode]
    assert waiting == ["Supply air", "Suction pressure", "Suction line", "Liquid pressure", "Liquid line"]
    rows = {row.quantity.name: row for side in sheet_rows(view, Reader(), 1).usual.values() for row in side}
    assert (rows["suction_pressure"].tags, rows["outdoor_air_temp"].tags) == ("in cooling", "")
    # Read again it counts, settles from the turn, and drifts from nothing that was read before.
    again = on_a_heat_pump(*cooled, HEATS, *read(IN_HEATING))
    assert banner_of(again).of_other_mode == []
    assert again.assessment.first.view.get("suction_pressure").value < view.facts.atmosphere_pa + 93 * 6895
    assert not {"suction_pressure", "liquid_line_temp"} & again.assessment.first.view.history.keys()
    assert again.assessment.sheet.minutes_since_change < again.assessment.sheet.minutes_running
    # Turned back, what was read then counts again; what is read from then on settles from that turn.
    back = on_a_heat_pump(*cooled, HEATS, COOLS)
    assert banner_of(back).of_other_mode == []
    assert "liquid_pressure" in back.assessment.first.view.measured
    assert back.state[Running].turned_at > on_a_heat_pump(*cooled, HEATS).state[Running].turned_at
    # A before of the other mode is none.
    mended = on_a_heat_pump(*cooled, HEATS, ActionBody(sort="filter_changed"), *read(IN_HEATING))
    assert "suction_pressure" not in judged_before(mended).first.view.measured


def test_what_must_not_run_in_one_mode_is_not_let_go_by_turning_it_to_the_other():
    hot = [RUNS, *PROVEN, *read(SOUND, discharge_line_temp=250)]
    assert [stop.code for stop in on_a_heat_pump(*hot).assessment.first.stops] == ["discharge_too_hot"]
    turned = on_a_heat_pump(*hot, HEATS)
    assert [stop.code for stop in turned.assessment.first.stops] == ["discharge_too_hot"]
    assert {check.unit for check in turned.assessment.first.next_checks} == {"off"}
    assert not permit_of(turned, NOW).granted
    assert "stop" in [one.code for one in before_leaving(turned.state, turned.assessment)]
    # What is a stop in cooling alone says nothing of heating; and what was done about it, or a new reading, ends it.
    icing = read(SOUND, suction_pressure=80, suction_line_temp=30)
    assert on_a_heat_pump(RUNS, *PROVEN, *icing, HEATS).assessment.first.stops == []
    for ends in ([ActionBody(sort="condenser_cleaned")], read({"discharge_line_temp": 180})):
        assert on_a_heat_pump(*hot, HEATS, *ends).assessment.first.stops == []
    # On one of two circuits it holds the other too.
    two = on_a_heat_pump(RUNS, *PROVEN, *read(SOUND, 2, discharge_line_temp=250), HEATS, *read(IN_HEATING, 1)).assessment
    assert ([stop.code for stop in two.circuits[2].stops], two.circuits[1].stopped_by) == (["discharge_too_hot"], 2)


def test_turned_over_and_left_unread_it_closes_as_it_was_read():
    read_in_cooling = [RUNS, *PROVEN, *read(SOUND), HEATS]
    ended = on_a_heat_pump(*read_in_cooling, ClosingBody(outcome="nothing_wrong", summary="right in cooling"))
    assert not ended.assessment.sheet.unit.heating
    assert ended.assessment.first.verdict == on_a_heat_pump(*read_in_cooling[:-1]).assessment.first.verdict
    assert owner_report(ended).numbers
    assert on_a_heat_pump(*read_in_cooling).assessment.sheet.unit.heating  # until then it heats
    both = on_a_heat_pump(*read_in_cooling, *read(IN_HEATING), ClosingBody(outcome="nothing_wrong", summary="right"))
    assert both.assessment.sheet.unit.heating


def test_turned_back_it_stands_as_it_was_read_then_and_nothing_is_to_be_read_again():
    cooled = [RUNS, *PROVEN, *read(SOUND)]
    turned = [*cooled, HEATS, *read(IN_HEATING), COOLS]
    back, never = on_a_heat_pump(*turned), on_a_heat_pump(*cooled)
    assert banner_of(back).of_other_mode == []
    told = {row.quantity.name: row.value for side in sheet_rows(back, Reader(), 1).usual.values() for row in side}
    assert (told["suction_pressure"], told["liquid_line_temp"]) == ("122", "93")
    assert back.assessment.first.derived["subcooling"] == never.assessment.first.derived["subcooling"]
    again = on_a_heat_pump(*turned, HEATS)
    assert again.assessment.first.derived["subcooling"] == on_a_heat_pump(*turned[:-1]).assessment.first.derived["subcooling"]
    # What was done to it ends both.
    mended = on_a_heat_pump(*turned, ActionBody(sort="condenser_cleaned"), HEATS)
    assert not {"suction_pressure", "liquid_line_temp"} & mended.assessment.first.view.measured.keys()
    assert finals_otherwise(mended, Reader()) == []


def test_of_a_unit_that_was_read_in_both_modes_the_papers_have_both():
    both = on_a_heat_pump(RUNS, *PROVEN, *read(SOUND), HEATS, *read(IN_HEATING))
    cooled, heated = on_a_heat_pump(RUNS, *PROVEN, *read(SOUND)), on_a_heat_pump(HEATS, RUNS, *read(IN_HEATING))
    assert finals(both, Reader()) == finals(heated, Reader())
    # Targets of one mode are worked out with the air of that mode.
    assert finals_otherwise(both, Reader()) == finals(cooled, Reader())
    numbers = owner_report(both).numbers
    assert {(one.what.key, one.mode) for one in numbers} >= {("gap-superheat", "cooling"), ("gap-superheat", "heating")}
    told = {one.mode: one.now for one in numbers if one.what.key == "gap-subcooling"}
    assert told["cooling"].value_si == pytest.approx(cooled.assessment.first.derived["subcooling"].value)
    # Of one that was read in one mode alone nothing is said of modes.
    assert {one.mode for one in owner_report(cooled).numbers} == {""}
    assert finals_otherwise(cooled, Reader()) == []


def test_who_typed_before_saying_that_it_heats_says_so_once():
    typed = [ClockBody(event="started", minutes_ago=30), *read(IN_HEATING)]
    view = on_a_heat_pump(*typed, HEATS, ModeBody(mode=Mode.HEATING, read_since=True))
    assert banner_of(view).of_other_mode == []
    assert {"suction_pressure", "liquid_line_temp"} <= view.assessment.first.view.measured.keys()
    assert view.assessment.sheet.minutes_since_change is None
    first = on_a_heat_pump(HEATS, *typed)  # as if it had been said at once
    assert view.assessment.first.derived.keys() == first.assessment.first.derived.keys()


def test_a_fault_of_one_s_own_is_called_by_place_in_heating_and_what_was_typed_stays():
    own = OverrideBody(fault="low_condenser_airflow", reason="condenser short of air, as I said")
    view = on_a_heat_pump(HEATS, RUNS, *read(IN_HEATING), own)
    assert told_to(own, view, Reader()) == ("Own verdict: Indoor coil short of air", "condenser short of air, as I said")
    done = ActionBody(sort="filter_changed", words="condenser short of air", against="low_condenser_airflow")
    assert told_to(done, view, Reader()) == ("Filter changed", "condenser short of air, against indoor coil short of air")
    assert "Found: indoor coil short of air." in " ".join(one.words for one in open_in(view, Reader()))


def test_what_was_found_in_a_box_is_told_at_close_as_a_box_calls_it():
    box = UnitFacts(Kind.WALK_IN_COOLER, find("R-448A"), metering=Metering.TXV, receiver=True)
    found = [seen("evaporator_dirty"), seen("blower_stopped")]
    for facts, coil, fan in (
        (box, "evaporator dirty", "evaporator fan stopped"),
        (HEAT_PUMP, "indoor coil dirty", "indoor fan stopped"),
    ):
        view = visit_of(*found, unit=facts)
        told = " ".join(one.words for one in open_in(view, Reader()))
        assert f"Found: {coil}." in told
        assert f"Found: {fan}." in told or f"{fan[0].upper()}{fan[1:]}" in told
        assert {coil, fan} <= set(outline_of(view, Reader()).found)

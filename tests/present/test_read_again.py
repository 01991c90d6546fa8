"""What was read on the unit's way is read again once it has settled: a wait cut short is no wait."""

from __future__ import annotations

from dataclasses import replace
from uuid import UUID

import pytest

from dry_gauge.core.charge.trim import Move
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.sheet import CircuitFacts, UnitFacts
from dry_gauge.core.vocabulary import HeadPressureControl, Kind, Metering
from dry_gauge.core.words import Reader
from dry_gauge.notebook.subjects.actions import ActionBody
from dry_gauge.notebook.subjects.clock import ClockBody
from dry_gauge.notebook.subjects.ledger import LockoutBody, RestoredBody, TemporaryBody, TripBody
from dry_gauge.notebook.subjects.movements import MovementBody
from dry_gauge.notebook.subjects.observations import ObservationBody
from dry_gauge.notebook.subjects.readings import InUseBody, ReadingBody
from dry_gauge.notebook.subjects.remarks import NoteBody
from dry_gauge.notebook.subjects.running import ConditionBody, Running, StageBody
from dry_gauge.present.lists import banner_of
from dry_gauge.present.rows import sheet_rows
from dry_gauge.present.scene import Scene
from dry_gauge.present.settling import settling_of
from dry_gauge.present.weigh import trim_of
from tests.present.test_kept_off import PROVEN, RUNS, SOUND, read
from tests.present.test_views import BLUE, CYLINDERS, NOW, UNIT, visit_of

STARTED = ClockBody(event="started", minutes_ago=0)
A_MINUTE = NoteBody(text="waits")  # each entry is written a minute after the one before
LATER = {"liquid_line_temp": SOUND["liquid_line_temp"]}


def settled(view, circuit=1):
    return next(gate for gate in view.assessment.circuits[circuit].gates if gate.name == "not_settled")


def waiting(view):
    return {name for listed in banner_of(view).outdated.values() for name, _ in listed}


def test_numbers_of_the_first_minutes_wait_to_be_read_again():
    typed = [STARTED, *PROVEN, *read(SOUND)]
    view = visit_of(*typed)
    assert waiting(view) == set()  # it has not settled: the clock says so itself
    assert settled(view).asks == ("minutes_running",)
    view = visit_of(*typed, *[A_MINUTE] * 8, *read(LATER))
    assert waiting(view) == {"supply_air_temp", "suction_pressure", "suction_line_temp", "liquid_pressure"}
    assert set(settled(view).asks) == waiting(view)
    assert view.assessment.first.verdict == "held"
    asked = next(check for check in view.assessment.first.next_checks if check.name == "not_settled")
    assert set(asked.asks) == waiting(view)
    assert not settling_of(view).ready
    assert "suction pressure" in settling_of(view).reason
    rows = {row.quantity.name: row.read_again for side in sheet_rows(view, Reader(), 1).usual.values() for row in side}
    assert (rows["suction_pressure"], rows["liquid_line_temp"], rows["outdoor_air_temp"]) == ("before it had settled", "", "")
    again = visit_of(*typed, *[A_MINUTE] * 8, *read(SOUND))
    assert (waiting(again), settled(again).holding, settling_of(again).ready) == (set(), False, True)
    assert again.assessment.first.verdict == visit_of(RUNS, *PROVEN, *read(SOUND)).assessment.first.verdict


def test_the_last_five_minutes_on_the_way_are_as_good_as_settled():
    for minutes, early in ((9, set()), (8, {"suction_pressure"})):
        view = visit_of(ClockBody(event="started", minutes_ago=minutes), *read({"suction_pressure": 120}),
                        *[A_MINUTE] * 6, *read(LATER))  # fmt: skip
        assert waiting(view) == early


def test_it_counts_from_refrigerant_that_went_in_as_well():
    charged = ClockBody(event="charged", minutes_ago=0)
    after = [RUNS, *PROVEN, charged, *read(SOUND), *[A_MINUTE] * 15]
    assert "liquid_pressure" in waiting(visit_of(*after, *read(LATER)))
    assert waiting(visit_of(RUNS, *PROVEN, charged, *[A_MINUTE] * 15, *read(SOUND), *read(LATER))) == set()


def test_an_alarming_number_of_the_first_minutes_still_keeps_it_off():
    view = visit_of(STARTED, *PROVEN, *read({"discharge_line_temp": 250}), *read(SOUND), *[A_MINUTE] * 7, *read(LATER))
    assert "discharge_line_temp" in waiting(view)
    assert [stop.code for stop in view.assessment.first.stops] == ["discharge_too_hot"]


def test_one_circuit_waits_for_its_own_numbers():
    two = replace(UNIT, more_circuits=(CircuitFacts(2, UNIT.refrigerant),))
    view = visit_of(STARTED, *PROVEN, *read(SOUND, 2), *[A_MINUTE] * 8, *read(SOUND, 1), unit=two)
    assert settled(view, 2).holding
    assert not settled(view, 1).holding
    assert (settling_of(view, 1).ready, settling_of(view, 2).ready) == (True, False)


def test_a_restart_makes_what_was_read_before_it_old():
    view = visit_of(RUNS, *PROVEN, *read(SOUND), STARTED, *[A_MINUTE] * 15, *read(LATER))
    assert "suction_pressure" in waiting(view)
    # What a change left behind is asked for anyway, and is no reading of now.
    changed = visit_of(RUNS, *PROVEN, *read(SOUND), ActionBody(sort="filter_changed"), *[A_MINUTE] * 6, *read(LATER))
    assert waiting(changed) == set()


def test_what_is_judged_together_was_read_within_an_hour():
    for between, old in ((50, set()), (70, {"liquid_pressure", "liquid_line_temp", "outdoor_air_temp", "return_air_temp"})):
        view = visit_of(
            RUNS, *PROVEN, *read(SOUND), *[A_MINUTE] * between, *read({"suction_pressure": 122, "suction_line_temp": 54})
        )
        assert waiting(view) >= old
        assert settled(view).holding == bool(old)
        assert waiting(view) <= set(SOUND) - {"suction_pressure", "suction_line_temp"}
    assert list(banner_of(view).outdated) == ["over an hour before the rest"]
    # Amps or a static an hour later make none of it old; what a repair has left as it was grows old with the rest.
    amps = ReadingBody(quantity="compressor_amps", value=12, unit="A")
    assert waiting(visit_of(RUNS, *PROVEN, *read(SOUND), *[A_MINUTE] * 90, amps)) == set()
    mended = visit_of(RUNS, *PROVEN, *read(SOUND), ActionBody(sort="condenser_cleaned"), *[A_MINUTE] * 70, *read(LATER))
    assert waiting(mended) == {"outdoor_air_temp", "return_air_temp", "return_air_wet_bulb"}


def test_a_box_that_is_watched_for_hours_makes_nothing_old():
    box = UnitFacts(Kind.WALK_IN_COOLER, find("R-448A"), metering=Metering.TXV, receiver=True)
    numbers = read(
        {"suction_pressure": 40, "coil_outlet_temp": 30, "liquid_pressure": 210, "liquid_line_temp": 90, "outdoor_air_temp": 85}
    )
    air = read({"box_air_temp": 38})
    assert waiting(visit_of(RUNS, *PROVEN, *numbers, *air, *[A_MINUTE] * 90, *air, unit=box)) == set()
    assert waiting(visit_of(RUNS, *PROVEN, *air, *[A_MINUTE] * 90, *numbers, unit=box)) == {"box_air_temp"}


def test_a_unit_that_was_locked_out_settles_from_when_it_was_unlocked():
    locked, unlocked = (LockoutBody(disconnect="roof", locked=on) for on in (True, False))
    sound = [RUNS, *PROVEN, *read(SOUND)]
    before = visit_of(*sound, locked, *[A_MINUTE] * 10, unlocked)
    assert not settled(before).holding  # what was read then was settled, and nothing was read since
    view = visit_of(*sound, locked, *[A_MINUTE] * 10, unlocked, *read(LATER))
    assert view.state[Running].start_is_assumed
    assert settled(view).released_by.read(Reader()) == "About 14 min more: 15 from the start."
    assert settling_of(view).minutes_more == 14
    later = visit_of(*sound, locked, *[A_MINUTE] * 10, unlocked, *[A_MINUTE] * 15, *read(LATER))
    assert "suction_pressure" in waiting(later)
    assert not settled(visit_of(*sound, locked, unlocked, *[A_MINUTE] * 15, *read(SOUND))).holding
    # One of two disconnects is no start, amps of a fan are no number of a unit that runs, and who knows better says so.
    two = visit_of(*sound, locked, LockoutBody(disconnect="attic", locked=True), unlocked, *read(LATER))
    assert not two.state[Running].start_is_assumed
    fan = ReadingBody(quantity="condenser_fan_amps", value=1.1, unit="A")
    assert not visit_of(*sound, locked, unlocked, fan).state[Running].start_is_assumed
    told = visit_of(*sound, locked, unlocked, *read(LATER), ClockBody(event="started", minutes_ago=0), *read(LATER))
    assert not told.state[Running].start_is_assumed
    assert told.assessment.sheet.minutes_running == 1


def test_a_reset_is_a_start():
    view = visit_of(RUNS, *PROVEN, *read(SOUND), TripBody(event="reset", switch="high pressure"), *read(SOUND))
    assert view.assessment.sheet.minutes_running == len(SOUND)
    assert settled(view).holding


def read_at(minutes_between, *values, quantity="suction_pressure"):
    """The same number read again and again, so many minutes apart."""
    listed = [[*[A_MINUTE] * (minutes_between - 1), *read({quantity: value})] for value in values]
    return [body for each in listed for body in each]


def test_what_still_moves_waits_and_what_swings_is_said_to_hunt():
    sound = [RUNS, *PROVEN, *read(SOUND)]
    view = visit_of(*sound, *read_at(6, 114))
    assert settled(view).released_by.read(Reader()).startswith("Still moving: suction saturation.")
    assert settled(view).asks == ("suction_pressure",)
    assert settling_of(view).reason == "Still moving: suction saturation."
    assert view.assessment.first.verdict == "held"
    check = next(one for one in view.assessment.first.next_checks if one.name == "not_settled")
    assert check.words == "Read again in five minutes: suction pressure"
    assert not settled(visit_of(*sound, *read_at(6, 114, 114))).holding  # it stands still by now
    assert not settled(visit_of(*sound, *read_at(6, 121.5))).holding
    hunts = ObservationBody(what="superheat_hunting", state="yes")
    assert not settled(visit_of(*sound, *read_at(6, 114), hunts)).holding
    head = [*sound, *read_at(6, 310, quantity="liquid_pressure")]
    assert settled(visit_of(*head)).holding
    cycled = replace(UNIT, head_pressure_control=HeadPressureControl.FAN_CYCLING)
    assert not settled(visit_of(*head, unit=cycled)).holding


def test_a_number_put_right_at_once_has_not_moved_and_what_moved_on_the_way_moves_no_more():
    others = {name: value for name, value in SOUND.items() if name != "suction_pressure"}
    put_right = [*read({"suction_pressure": 112}), *read({"suction_pressure": 122})]
    assert not settled(visit_of(RUNS, *PROVEN, *read(others), *put_right)).holding
    gauges = [InUseBody(dimension="pressure", instrument=name) for name in ("Gauge 1", "Gauge 2")]
    changed = visit_of(RUNS, *PROVEN, gauges[0], *read(SOUND), gauges[1], *read_at(6, 118))
    assert not settled(changed).holding  # what two instruments have between them is no drift
    way = [ClockBody(event="started", minutes_ago=2), *read({"suction_pressure": 95}), *[A_MINUTE] * 12]
    assert not settled(visit_of(*way, *read(SOUND))).holding
    # A restart takes what was read before it out of the way as well: it is no second instrument.
    again = visit_of(RUNS, *PROVEN, *read_at(4, 122, 95), STARTED, *[A_MINUTE] * 15, *read(SOUND))
    assert not again.assessment.first.oddities
    assert not settled(again).holding


@pytest.mark.parametrize(("one_way", "and_back"), [
    (StageBody(commanded="low", actual="low"), StageBody(commanded="high", actual="high")),
    (ConditionBody(condition="coil_wet", on=True), ConditionBody(condition="coil_wet", on=False)),
    (TemporaryBody(sort="valve", where="king valve"), RestoredBody(change=UUID(int=107 + len(SOUND)))),
])  # fmt: skip
def test_another_stage_a_panel_or_a_valve_is_a_change_for_what_is_read_from_then_on(one_way, and_back):
    sound = [RUNS, *PROVEN, *read(SOUND), A_MINUTE, A_MINUTE, A_MINUTE, one_way, and_back]
    assert not settled(visit_of(*sound)).holding  # nothing was read since
    soon = visit_of(*sound, *read(LATER))
    assert settled(soon).released_by.read(Reader()) == "About 4 min more: 5 after each change."
    # Read a minute after it, it is read again; what was read before is what the unit showed then.
    early = visit_of(*sound, *read({"suction_line_temp": 54}), *[A_MINUTE] * 6, *read(LATER))
    assert waiting(early) == {"suction_line_temp"}
    assert not settled(visit_of(*sound, *[A_MINUTE] * 6, *read(LATER))).holding
    told = visit_of(*sound, ClockBody(event="changed", minutes_ago=30), *read(LATER))
    assert not settled(told).holding


def test_air_of_hours_ago_is_old_after_a_restart_too():
    view = visit_of(RUNS, *PROVEN, *read(SOUND), *[A_MINUTE] * 70, STARTED, *[A_MINUTE] * 16, *read(LATER))
    assert {"outdoor_air_temp", "suction_pressure"} <= waiting(view)


def test_next_day_nobody_knows_since_when_it_runs():
    sound = [RUNS, *PROVEN, *read(SOUND), *[A_MINUTE] * 400]
    for first in ([], read({"outdoor_air_temp": 80})):
        assert settled(visit_of(*sound, *first, *read(LATER))).asks == ("minutes_running",)
    told = visit_of(*sound, *read(LATER), ClockBody(event="started", minutes_ago=30))
    assert waiting(told) == set(SOUND) - {"liquid_line_temp"}
    for minutes_ago in (30, 900):  # said first, and since yesterday: a box runs on
        said = visit_of(*sound, ClockBody(event="started", minutes_ago=minutes_ago), *read(SOUND))
        assert not settled(said).holding
    # What says nothing of how it runs asks for nothing.
    assert not settled(visit_of(*sound, *read({"space_temp": 75}))).holding


@pytest.mark.parametrize(("looked", "move"), [(1, Move.HOLD), (9, Move.HOLD), (10, Move.ADD)])
def test_a_glass_that_was_looked_at_right_after_a_step_says_nothing_of_it(looked, move):
    box = UnitFacts(Kind.WALK_IN_COOLER, find("R-448A"), metering=Metering.TXV, receiver=True, label_charge_kg=5.0)
    numbers = read({"suction_pressure": 45, "coil_outlet_temp": 30, "suction_line_temp": 36, "liquid_pressure": 210,
                    "liquid_line_temp": 90, "outdoor_air_temp": 85, "box_air_temp": 38})  # fmt: skip
    step = MovementBody(way="added", cylinder=BLUE, grams=100, reason="to save the food")
    glass = ObservationBody(what="sight_glass_bubbles", state="yes")
    waits = [A_MINUTE] * (looked - 1), [A_MINUTE] * (24 - looked)
    view = visit_of(RUNS, *PROVEN, step, *waits[0], glass, *waits[1], *numbers, unit=box)
    assert trim_of(Scene(view, Reader(), NOW, cylinders=CYLINDERS)).move is move

"""The sealed work's fold: no gram made or lost whatever is poured, ended and taken back; late entries take their place."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from functools import reduce
from uuid import UUID, uuid5

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dry_gauge.core.errors import Refused
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.sheet import CircuitFacts, UnitFacts
from dry_gauge.core.vocabulary import Kind, Metering
from dry_gauge.notebook.kind import KINDS, Case, Entry, VisitState, obstacles
from dry_gauge.notebook.state import fold, fold_all
from dry_gauge.notebook.subjects.agenda import FollowUpBody, FollowUpSort
from dry_gauge.notebook.subjects.clock import ClockBody
from dry_gauge.notebook.subjects.hold import HoldBody, HoldReadingBody, Holds, hold_of
from dry_gauge.notebook.subjects.leak import LeakCureBody, LeakPlaceBody, Leaks
from dry_gauge.notebook.subjects.ledger import LockoutBody
from dry_gauge.notebook.subjects.movements import (
    INTO_UNIT,
    OUT_OF_UNIT,
    Charge,
    MovementBody,
    MovementSort,
    PourBody,
    PourEndBody,
    PourMarkBody,
    RecoveredToBody,
    in_unit_g,
    standing_of,
)
from dry_gauge.notebook.subjects.opening import SealedPlanBody, StepBody, is_pumped_down, steps_in
from dry_gauge.notebook.subjects.record import VoidBody
from dry_gauge.notebook.subjects.vacuum import (
    EvacuationBody,
    TraceBody,
    Vacuum,
    VacuumEvent,
    VacuumEventBody,
    VacuumPointBody,
    evacuation_of,
)

START = datetime(2026, 3, 4, 9, 0, tzinfo=UTC)
SOMEONE, BLUE = UUID(int=7), UUID(int=8)
UNIT = UnitFacts(Kind.SPLIT_AC, find("R-410A"), metering=Metering.TXV, label_charge_kg=3.0)
BOX = UnitFacts(Kind.WALK_IN_COOLER, find("R-448A"), metering=Metering.TXV, receiver=True, label_charge_kg=3.6)


def ident(sequence: int) -> UUID:
    return uuid5(SOMEONE, str(sequence))


def entry(sequence, body, minutes=None, waited=0):
    at = START + timedelta(minutes=sequence if minutes is None else minutes)
    return Entry(
        id=ident(sequence),
        sequence=sequence,
        person_id=SOMEONE,
        received_at=at,
        written_at=at - timedelta(seconds=waited),
        body=body,
    )


def folded(*bodies) -> VisitState:
    return fold_all((entry(i, body) for i, body in enumerate(bodies, start=1)), UNIT)


WAYS = st.sampled_from(MovementSort)
GRAMS = st.integers(1, 9000)
PART = st.one_of(
    st.builds(MovementBody, way=WAYS, grams=GRAMS, cylinder=st.just(BLUE)),
    st.builds(PourBody, way=WAYS, cylinder=st.just(BLUE), gross_g=st.integers(9000, 20_000)),
    st.builds(PourMarkBody, pour=st.integers(1, 30).map(ident), gross_g=st.integers(0, 20_000)),
    st.builds(PourEndBody, pour=st.integers(1, 30).map(ident), gross_g=st.integers(0, 20_000)),
    st.builds(PourEndBody, pour=st.integers(1, 30).map(ident), grams=st.integers(0, 9000), reason=st.just("zero lost")),
    st.builds(RecoveredToBody, appliance=st.just("any"), value=st.just(0.0), unit=st.just("psig")),
)


@given(st.lists(PART, max_size=30), st.data())
def test_what_moved_is_what_stands_whatever_is_taken_back(bodies, data):
    entries = [entry(i, body) for i, body in enumerate(bodies, start=1)]
    gone = data.draw(st.sets(st.integers(1, len(entries)))) if entries else set()
    voids = [entry(len(entries) + i, VoidBody(voids=ident(one))) for i, one in enumerate(sorted(gone), start=1)]
    state = fold_all([*entries, *voids], UNIT)[Charge]
    assert state == fold_all([one for one in entries if one.sequence not in gone], UNIT)[Charge]
    assert state == reduce(fold, [one for one in entries if one.sequence not in gone], VisitState())[Charge]
    assert all(one.grams > 0 for one in state.moved.values())
    out = sum(one.grams for one in state.moved.values() if one.way in OUT_OF_UNIT)
    into = sum(one.grams - one.hose_g for one in state.moved.values() if one.way in INTO_UNIT)
    assert (state.recovered_g, state.put_in_g) == (out, into)
    standing = {str(one.id) for one in entries if one.sequence not in gone}
    assert set(state.moved) <= standing


@pytest.mark.parametrize(
    ("way", "shown", "grams"), [("weighed_in", 9000, 1000), ("recovered", 11_500, 1500), ("weighed_in", 10_004, 0)]
)
def test_a_pour_is_the_difference_of_two_weights_and_never_less_than_nothing(way, shown, grams):
    state = folded(PourBody(way=way, cylinder=BLUE, gross_g=10_000), PourEndBody(pour=ident(1), gross_g=shown))[Charge]
    assert sum(one.grams for one in state.moved.values()) == grams
    assert state.pouring is None


def test_what_is_in_is_known_once_it_was_emptied_and_a_pump_down_empties_nothing():
    added = MovementBody(way=MovementSort.ADDED, grams=200, cylinder=BLUE)
    assert in_unit_g(folded(added)) is None
    emptied = RecoveredToBody(appliance="any", value=0, unit="psig")
    assert in_unit_g(folded(added, emptied, added, added)) == 400
    for kept, known in ((False, 0), (True, None)):
        assert in_unit_g(folded(EvacuationBody(what="system", charge_kept=kept))) == known
    assert in_unit_g(folded(EvacuationBody(what="rig"))) is None
    standing = standing_of(folded(emptied, added), UNIT)
    assert standing is not None
    assert standing.to_go_kg == pytest.approx(2.8)


def test_a_reading_of_a_hold_that_waited_for_a_signal_takes_its_place():
    def reading(psig, temp):
        return HoldReadingBody(hold=ident(1), pressure=psig, pressure_unit="psig", temp=temp, temp_unit="F")

    state = fold_all(
        [
            entry(1, HoldBody(section="all", vacuum_gauge_off=True)),
            entry(2, reading(300.0, 70), minutes=1200),
            entry(3, reading(300.1, 70), minutes=1210, waited=1200 * 60),  # read ten minutes after the hold began
        ],
        UNIT,
    )
    kept = state[Holds].holds[str(ident(1))]
    assert [one.body.pressure for one in kept.readings] == [300.1, 300.0]
    verdict = hold_of(str(ident(1)), kept, UNIT).verdict
    assert verdict is not None
    assert verdict.left_out == 0
    assert verdict.hours == pytest.approx(1190 / 60)


def test_a_trace_that_comes_twice_adds_nothing_and_a_long_one_keeps_its_end():
    trace = TraceBody(evacuation=ident(1), seconds_ago=tuple(float(x) for x in range(240, 0, -1)), micron=tuple([500.0] * 240))
    once = folded(EvacuationBody(), VacuumEventBody(evacuation=ident(1), event=VacuumEvent.PUMP_ON), trace)
    again = fold(once, entry(4, trace, minutes=3))[Vacuum].evacuations[str(ident(1))]
    assert len(again.points) == 240
    state = once
    for i in range(4, 12):
        state = fold(state, entry(i, trace, minutes=10 * i))
    points = state[Vacuum].evacuations[str(ident(1))].points
    assert len(points) <= 600
    assert points[-1][0] == START + timedelta(minutes=110, seconds=-1)


def test_points_belong_to_the_watch_in_which_they_were_taken():
    def event(what):
        return VacuumEventBody(evacuation=ident(1), event=what)

    def point(micron):
        return VacuumPointBody(evacuation=ident(1), micron=micron)

    state = folded(
        EvacuationBody(),
        event(VacuumEvent.PUMP_ON),
        point(400),
        event(VacuumEvent.ISOLATED),
        point(700),
        event(VacuumEvent.OPENED),
        point(350),
        event(VacuumEvent.ISOLATED),
        point(380),
    )
    kept = state[Vacuum].evacuations[str(ident(1))]
    assert [kept.points_between(*watch) for watch in kept.watches()] == [[(60.0, 700.0)], [(60.0, 380.0)]]
    assert kept.watching
    found = evacuation_of(str(ident(1)), kept)
    assert [watch.decay.verdict.value for watch in found.watches] == ["too_soon", "too_soon"]
    assert not found.passed


def test_the_plan_knows_what_was_done_from_the_entries_and_asks_for_the_rest():
    def progress(*bodies):
        return {one.step.code: one.progress for one in steps_in(folded(*bodies), UNIT)}

    plan = SealedPlanBody(repair="drier")
    assert progress() == {}
    assert progress(plan)["lock"] == "next"
    lock = LockoutBody(disconnect="roof", locked=True)
    assert progress(plan, lock) == {**progress(plan), "lock": "done", "recover": "next"}
    skipped = progress(plan, lock, StepBody(step="hold", done=False, reason="no nitrogen here"))
    assert (skipped["hold"], skipped["recover"]) == ("skipped", "next")


EMPTIED = RecoveredToBody(appliance="any", value=0, unit="psig")
WEIGHED_IN = MovementBody(way=MovementSort.WEIGHED_IN, grams=3000, cylinder=BLUE)


@pytest.mark.parametrize(
    ("bodies", "codes"),
    [
        ((PourBody(way=MovementSort.ADDED, cylinder=BLUE, gross_g=9000),), {"pour"}),
        ((HoldBody(section="all", vacuum_gauge_off=True),), {"hold", "close_up"}),
        ((EvacuationBody(what="system", charge_kept=True),), {"evacuation", "close_up"}),
        ((EvacuationBody(what="rig"),), {"evacuation"}),
        ((EMPTIED,), {"close_up", "empty"}),
        ((EMPTIED, WEIGHED_IN), {"close_up"}),
        ((EMPTIED, WEIGHED_IN, EMPTIED), {"close_up", "empty"}),  # it leaked on, and came out again
        ((LeakPlaceBody(place="flares", result="failed"),), {"leak"}),
        (
            (LeakPlaceBody(place="flares", result="failed"), LeakCureBody(leak=ident(1), cure="patch", months=6)),
            {"patch", "close_up"},
        ),
        ((MovementBody(way=MovementSort.ADDED, grams=200, cylinder=BLUE),), {"top_up"}),
        ((MovementBody(way=MovementSort.TRIMMED, grams=200, cylinder=BLUE),), set()),
    ],
)
def test_what_sealed_work_leaves_open_is_named_and_each_booking_answers_its_own(bodies, codes):
    assert {one.code for one in obstacles(folded(*bodies), fixed=False)} == codes
    # Somebody comes back to finish, or to look again: neither stands for the other.
    for sort, answers in ((FollowUpSort.RETURN, {"hold", "empty", "leak"}), (FollowUpSort.RECHECK, {"patch", "top_up"})):
        booked = FollowUpBody(sort=sort, what="come back", due=START.date())
        assert {one.code for one in obstacles(folded(*bodies, booked), fixed=False)} == codes - answers


LEAK = (LeakPlaceBody(place="flares", result="failed"),)
ADDED = MovementBody(way=MovementSort.ADDED, grams=400, cylinder=BLUE, reason="product at risk")


def progress(facts, *bodies):
    return {one.step.code: one.progress for one in steps_in(folded(*bodies), facts)}


def test_a_recheck_does_not_end_a_lock_out_and_a_nut_that_is_tightened_opens_nothing():
    locked = (LockoutBody(disconnect="roof", locked=True), FollowUpBody(sort=FollowUpSort.RECHECK, what="x", due=START.date()))
    assert [one.code for one in obstacles(folded(*locked), fixed=False)] == ["locked"]
    tightened = folded(*LEAK, LeakCureBody(leak=ident(1), cure="tightened"), ADDED)
    assert obstacles(tightened, fixed=False) == ()  # mended for good: no drier, no recheck of a top-up


def test_the_plan_goes_on_once_unlocked_and_an_emergency_top_up_proves_nothing():
    plan = SealedPlanBody(repair="drier", receiver_holds=True)
    lock, unlock = (LockoutBody(disconnect="roof", locked=locked) for locked in (True, False))
    assert progress(BOX, ADDED, plan)["trim"] == "open"
    done = [StepBody(step=code, done=True) for code in ("pump_down", "braze", "close_up", "hold")]
    pull = EvacuationBody(what="system", charge_kept=True)
    over = VacuumEventBody(evacuation=ident(8), event=VacuumEvent.BROKEN, reason="held")
    shown = progress(BOX, ADDED, plan, *done, lock, pull, over, unlock)
    assert (shown["lock"], shown["start"], shown["trim"]) == ("done", "done", "next")
    trim = MovementBody(way=MovementSort.TRIMMED, grams=40, cylinder=BLUE)
    assert progress(BOX, ADDED, plan, *done, lock, pull, over, unlock, trim)["trim"] == "done"


def test_pumped_down_lasts_until_it_is_started():
    down = (SealedPlanBody(repair="drier", receiver_holds=True), StepBody(step="pump_down", done=True, reason="to 1.5 psig"))
    assert is_pumped_down(folded(*down))
    assert not is_pumped_down(folded(*down, ClockBody(event="started", minutes_ago=0)))
    assert not is_pumped_down(folded(*down, StepBody(step="start", done=True)))


def test_each_circuit_of_a_unit_has_its_own_account_and_its_own_steps():
    twin = replace(UNIT, label_charge_kg=4.0, more_circuits=(CircuitFacts(2, None, 5.0),))
    bodies = [
        SealedPlanBody(repair="leak_low", circuit=2),
        LockoutBody(disconnect="roof", locked=True),
        MovementBody(way=MovementSort.RECOVERED, grams=4100, cylinder=BLUE, circuit=2),
        RecoveredToBody(appliance="any", value=0.0, unit="psig", circuit=2),
        LeakPlaceBody(place="flares", result="failed", circuit=2),
        LeakPlaceBody(place="flares", result="passed"),  # of the first circuit: the leak of the second stands
        HoldBody(section="circuit 2", vacuum_gauge_off=True, circuit=2),
        MovementBody(way=MovementSort.TRIMMED, grams=200, cylinder=BLUE),
    ]
    visit = fold_all((entry(i, body) for i, body in enumerate(bodies, start=1)), twin)
    assert visit.circuits == (1, 2)
    first, second = visit.of_circuit(1), visit.of_circuit(2)
    assert (in_unit_g(first), in_unit_g(second)) == (None, 0)
    standing = standing_of(second, twin.of_circuit(2))
    assert standing is not None
    assert standing.target_kg == pytest.approx(5.0)
    assert standing_of(first, twin.of_circuit(1)) is None
    assert [one.progress for one in steps_in(second, twin) if one.step.code == "recover"] == ["done"]
    assert steps_in(first, twin) == ()
    assert [one.body.circuit for one in visit[Leaks].to_mend] == [2]
    # The circuit under nitrogen takes no refrigerant; the other does.
    late = {"visit": visit, "facts": twin, "judged": None}
    for circuit, refused in ((2, True), (1, False)):
        body = MovementBody(way=MovementSort.TRIMMED, grams=100, cylinder=BLUE, circuit=circuit, reason="by the gauges")
        case = Case(entry=entry(20, body), body=body, **late)
        if refused:
            with pytest.raises(Refused, match="under nitrogen"):
                KINDS["movement"].collides(case)
        else:
            KINDS["movement"].collides(case)
    # Emptied and not filled: said of the circuit that is meant, whatever the other got.
    assert [one.words for one in obstacles(visit) if one.code == "empty"] == [
        "It was emptied and nothing was weighed in, circuit 2: lock it out and book the return."
    ]
    assert {one.code for one in obstacles(visit) if "circuit 2" in one.words} == {"hold", "leak", "empty", "close_up"}


@given(st.lists(st.tuples(PART, st.sampled_from([None, 1, 2])), max_size=30))
def test_the_circuits_add_up_to_the_unit(drawn):
    bodies = [
        body.model_copy(update={"circuit": circuit}) if "circuit" in type(body).model_fields else body for body, circuit in drawn
    ]
    visit = fold_all([entry(i, body) for i, body in enumerate(bodies, start=1)], UNIT)
    apart = [visit.of_circuit(number)[Charge] for number in (1, 2)]
    assert visit[Charge].moved == {**apart[0].moved, **apart[1].moved}
    assert sum(one.put_in_g for one in apart) == visit[Charge].put_in_g
    assert sum(one.recovered_g for one in apart) == visit[Charge].recovered_g
    assert set(visit.circuits) <= {1, 2}

"""The sealed work's fold: no gram made or lost whatever is poured, ended and taken back; late entries take their place."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from functools import reduce
from uuid import UUID, uuid5

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import Kind, Metering
from dry_gauge.notebook import calling as c
from dry_gauge.notebook import sealed as s
from dry_gauge.notebook.entries import Entry, VoidBody
from dry_gauge.notebook.sealed_work import evacuation_of, hold_of, sealed_obstacles, standing_of, steps_in
from dry_gauge.notebook.state import VisitState, fold, fold_all

START = datetime(2026, 3, 4, 9, 0, tzinfo=UTC)
SOMEONE, BLUE = UUID(int=7), UUID(int=8)
UNIT = UnitFacts(Kind.SPLIT_AC, find("R-410A"), metering=Metering.TXV, label_charge_kg=3.0)
BOX = UnitFacts(Kind.WALK_IN_COOLER, find("R-448A"), metering=Metering.TXV, receiver=True, label_charge_kg=3.6)


def ident(sequence: int) -> UUID:
    return uuid5(SOMEONE, str(sequence))


def entry(sequence, body, minutes=None, waited=0):
    at = START + timedelta(minutes=sequence if minutes is None else minutes)
    return Entry(
        id=ident(sequence), sequence=sequence, person_id=SOMEONE, received_at=at, waited_seconds=waited, body=body
    )


def folded(*bodies) -> VisitState:
    return fold_all(entry(i, body) for i, body in enumerate(bodies, start=1))


WAYS = st.sampled_from(s.Way)
GRAMS = st.integers(1, 9000)
PART = st.one_of(
    st.builds(s.MovementBody, way=WAYS, grams=GRAMS, cylinder=st.just(BLUE)),
    st.builds(s.PourBody, way=WAYS, cylinder=st.just(BLUE), gross_g=st.integers(9000, 20_000)),
    st.builds(s.PourMarkBody, pour=st.integers(1, 30).map(ident), gross_g=st.integers(0, 20_000)),
    st.builds(s.PourEndBody, pour=st.integers(1, 30).map(ident), gross_g=st.integers(0, 20_000)),
    st.builds(
        s.PourEndBody, pour=st.integers(1, 30).map(ident), grams=st.integers(0, 9000), reason=st.just("zero lost")
    ),
    st.builds(s.RecoveredToBody, appliance=st.just("any"), value=st.just(0.0), unit=st.just("psig")),
)


@given(st.lists(PART, max_size=30), st.data())
def test_what_moved_is_what_stands_whatever_is_taken_back(bodies, data):
    entries = [entry(i, body) for i, body in enumerate(bodies, start=1)]
    gone = data.draw(st.sets(st.integers(1, len(entries)))) if entries else set()
    voids = [entry(len(entries) + i, VoidBody(voids=ident(one))) for i, one in enumerate(sorted(gone), start=1)]
    state = fold_all([*entries, *voids]).sealed
    assert state == fold_all([one for one in entries if one.sequence not in gone]).sealed
    assert state == reduce(fold, [one for one in entries if one.sequence not in gone], VisitState()).sealed
    assert all(one.grams > 0 for one in state.moved.values())
    out = sum(one.grams for one in state.moved.values() if one.way in s.OUT_OF_UNIT)
    into = sum(one.grams - one.hose_g for one in state.moved.values() if one.way in s.INTO_UNIT)
    assert (state.recovered_g, state.put_in_g) == (out, into)
    standing = {str(one.id) for one in entries if one.sequence not in gone}
    assert set(state.moved) <= standing


@pytest.mark.parametrize(("way", "shown", "grams"), [(s.Way.WEIGHED_IN, 9000, 1000), (s.Way.RECOVERED, 11_500, 1500),
                                                     (s.Way.WEIGHED_IN, 10_004, 0)])  # fmt: skip
def test_a_pour_is_the_difference_of_two_weights_and_never_less_than_nothing(way, shown, grams):
    state = folded(
        s.PourBody(way=way, cylinder=BLUE, gross_g=10_000), s.PourEndBody(pour=ident(1), gross_g=shown)
    ).sealed
    assert sum(one.grams for one in state.moved.values()) == grams
    assert state.pouring is None


def test_what_is_in_is_known_once_it_was_emptied_and_a_pump_down_empties_nothing():
    added = s.MovementBody(way=s.Way.ADDED, grams=200, cylinder=BLUE)
    assert folded(added).sealed.in_unit_g() is None
    emptied = s.RecoveredToBody(appliance="any", value=0, unit="psig")
    assert folded(added, emptied, added, added).sealed.in_unit_g() == 400
    for kept, known in ((False, 0), (True, None)):
        assert folded(s.EvacuationBody(what="system", charge_kept=kept)).sealed.in_unit_g() == known
    assert folded(s.EvacuationBody(what="rig")).sealed.in_unit_g() is None
    standing = standing_of(folded(emptied, added).sealed, UNIT)
    assert standing is not None
    assert standing.to_go_kg == pytest.approx(2.8)


def test_a_reading_of_a_hold_that_waited_for_a_signal_takes_its_place():
    def reading(psig, temp):
        return s.HoldReadingBody(hold=ident(1), pressure=psig, pressure_unit="psig", temp=temp, temp_unit="F")

    state = fold_all([
        entry(1, s.HoldBody(section="all", vacuum_gauge_off=True)),
        entry(2, reading(300.0, 70), minutes=1200),
        entry(3, reading(300.1, 70), minutes=1210, waited=1200 * 60),  # read ten minutes after the hold began
    ])  # fmt: skip
    kept = state.sealed.holds[str(ident(1))]
    assert [one.body.pressure for one in kept.readings] == [300.1, 300.0]
    verdict = hold_of(str(ident(1)), kept, UNIT).verdict
    assert verdict is not None
    assert verdict.left_out == 0
    assert verdict.hours == pytest.approx(1190 / 60)


def test_a_trace_that_comes_twice_adds_nothing_and_a_long_one_keeps_its_end():
    trace = s.TraceBody(
        evacuation=ident(1), seconds_ago=tuple(float(x) for x in range(240, 0, -1)), micron=tuple([500.0] * 240)
    )
    once = folded(s.EvacuationBody(), s.VacuumEventBody(evacuation=ident(1), event=s.VacuumEvent.PUMP_ON), trace)
    again = fold(once, entry(4, trace, minutes=3)).sealed.evacuations[str(ident(1))]
    assert len(again.points) == 240
    state = once
    for i in range(4, 12):
        state = fold(state, entry(i, trace, minutes=10 * i))
    points = state.sealed.evacuations[str(ident(1))].points
    assert len(points) <= 600
    assert points[-1][0] == START + timedelta(minutes=110, seconds=-1)


def test_points_belong_to_the_watch_in_which_they_were_taken():
    def event(what):
        return s.VacuumEventBody(evacuation=ident(1), event=what)

    def point(micron):
        return s.VacuumPointBody(evacuation=ident(1), micron=micron)

    state = folded(s.EvacuationBody(), event(s.VacuumEvent.PUMP_ON), point(400), event(s.VacuumEvent.ISOLATED), point(700),
                   event(s.VacuumEvent.OPENED), point(350), event(s.VacuumEvent.ISOLATED), point(380))  # fmt: skip
    kept = state.sealed.evacuations[str(ident(1))]
    assert [kept.points_between(*watch) for watch in kept.watches()] == [[(60.0, 700.0)], [(60.0, 380.0)]]
    assert kept.watching
    found = evacuation_of(str(ident(1)), kept)
    assert [watch.decay.verdict.value for watch in found.watches] == ["too_soon", "too_soon"]
    assert not found.passed


def test_the_plan_knows_what_was_done_from_the_entries_and_asks_for_the_rest():
    def progress(*bodies):
        return {one.step.code: one.progress for one in steps_in(folded(*bodies), UNIT)}

    plan = s.SealedPlanBody(repair="drier")
    assert progress() == {}
    assert progress(plan)["lock"] == "next"
    lock = c.LockoutBody(disconnect="roof", locked=True)
    assert progress(plan, lock) == {**progress(plan), "lock": "done", "recover": "next"}
    skipped = progress(plan, lock, s.StepBody(step="hold", done=False, reason="no nitrogen here"))
    assert (skipped["hold"], skipped["recover"]) == ("skipped", "next")


@pytest.mark.parametrize(
    ("bodies", "codes"),
    [
        ((s.PourBody(way=s.Way.ADDED, cylinder=BLUE, gross_g=9000),), {"pour"}),
        ((s.HoldBody(section="all", vacuum_gauge_off=True),), {"hold", "close_up"}),
        ((s.EvacuationBody(what="system", charge_kept=True),), {"evacuation", "close_up"}),
        ((s.EvacuationBody(what="rig"),), {"evacuation"}),
        ((s.RecoveredToBody(appliance="any", value=0, unit="psig"),), {"close_up", "empty"}),
        ((s.LeakPlaceBody(place="flares", result="failed"),), {"leak"}),
        ((s.LeakPlaceBody(place="flares", result="failed"), s.LeakCureBody(leak=ident(1), cure="patch", months=6)),
         {"patch", "close_up"}),
        ((s.MovementBody(way=s.Way.ADDED, grams=200, cylinder=BLUE),), {"top_up"}),
        ((s.MovementBody(way=s.Way.TRIMMED, grams=200, cylinder=BLUE),), set()),
    ],
)  # fmt: skip
def test_what_sealed_work_leaves_open_is_named_and_a_booked_return_answers_most_of_it(bodies, codes):
    assert {code for code, _, _ in sealed_obstacles(folded(*bodies))} == codes
    booked = c.FollowUpBody(sort=c.FollowUpSort.RETURN, what="come back", due=START.date())
    left = {code for code, _, _ in sealed_obstacles(folded(*bodies, booked))}
    assert left == codes & {"pour", "evacuation", "close_up"}

"""The fold: whatever is entered, taken back and late, in whatever order it arrives, the entries give one state."""

from __future__ import annotations

from datetime import timedelta
from random import Random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dry_gauge.core.errors import Refused
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import Kind, State
from dry_gauge.notebook.arriving import Arriving
from dry_gauge.notebook.kind import Entry, VisitState, obstacles, said
from dry_gauge.notebook.sheets import sheet_of
from dry_gauge.notebook.state import check, fold_all, restored, stored, written_at
from dry_gauge.notebook.subjects.actions import ActionBody, ActionSort
from dry_gauge.notebook.subjects.clock import ClockBody
from dry_gauge.notebook.subjects.closing import Closing, ClosingBody, after_closing, check_closed
from dry_gauge.notebook.subjects.hold import HoldBody, HoldEndBody, HoldReadingBody, Holds
from dry_gauge.notebook.subjects.movements import Charge, MovementBody, PourBody, PourEndBody
from dry_gauge.notebook.subjects.observations import ObservationBody, Observations
from dry_gauge.notebook.subjects.readings import ReadingBody, Readings
from dry_gauge.notebook.subjects.record import ExplainedBody, VoidBody
from dry_gauge.notebook.subjects.running import StageBody
from tests.notebook.entries_of import START, UNIT, entry, folded
from tests.notebook.every_kind import BLUE, MOST, SOMEONE, bodies, ident


def suction(value, **more):
    return ReadingBody(quantity="suction_pressure", value=value, unit="psig", **more)


moments = st.lists(st.tuples(bodies(), st.integers(0, 20), st.sampled_from([0.0, 0.5, 90.0])), max_size=MOST)


def arrived(rows):
    found = [entry(i, body, at, waited) for i, (body, at, waited) in enumerate(rows, start=1)]
    # A void of what is not there yet is refused where it arrives, and never folded.
    to_come = {one.id: one.sequence for one in found}
    return [one for one in found if not (isinstance(one.body, VoidBody) and to_come.get(one.body.voids, 0) >= one.sequence)]


@settings(max_examples=300)
@given(moments, st.randoms(use_true_random=False))
def test_any_entries_of_any_kind_in_any_order_give_one_state(rows, chance: Random):
    entries = arrived(rows)
    state = fold_all(entries, UNIT)
    chance.shuffle(shuffled := list(entries))
    assert fold_all(shuffled, UNIT) == state
    # One by one, as they came: late ones take their place.
    step = VisitState()
    for i, one in enumerate(entries):
        arriving = Arriving(step, UNIT, lambda i=i: entries[:i])
        case = arriving.case(one)
        arriving.add(one, arriving.preview(case))
        step = arriving.finished()
    assert step == state
    # All together, as an outbox sends them.
    together = Arriving(VisitState(), UNIT, list)
    for one in entries:
        case = together.case(one)
        together.add(one, together.preview(case))
    assert together.finished() == state
    assert restored(stored(state)) == state
    for one in entries:
        assert said(one.body, state)[0]
    obstacles(state)
    sheet_of(state, UNIT)


@settings(max_examples=150)
@given(moments, st.data())
def test_what_is_taken_back_leaves_the_rest_as_if_it_had_never_been(rows, data):
    entries = arrived(rows) or [entry(1, ClockBody(event="started", minutes_ago=1))]
    gone = data.draw(st.sampled_from(entries))
    void = entry(MOST + 1, VoidBody(voids=gone.id), at=30)
    after, without = folded(*entries, void), folded(*(one for one in entries if one.id != gone.id))
    if not isinstance(gone.body, VoidBody):
        assert after.parts == without.parts


def test_a_late_action_takes_its_place_and_a_late_answer_replaces_no_newer_one():
    cleaned = entry(3, ActionBody(sort=ActionSort.CONDENSER_CLEANED), at=10, waited=30)
    state = folded(entry(1, suction(100), at=5), entry(2, suction(120), at=20), cleaned)
    assert [one.body.value for one in state[Readings].latest.values()] == [120]
    assert [one.body.value for one in state[Readings].before.values()] == [100]
    seen = [
        entry(1, ObservationBody(what="filter_dirty", state=State.NO), at=9),
        entry(2, ObservationBody(what="filter_dirty", state=State.YES), at=3, waited=30),
    ]
    assert folded(*seen)[Observations].states() == {"filter_dirty": State.NO}


def test_a_void_gives_back_the_reading_before():
    entries = [entry(1, suction(110)), entry(2, suction(118))]
    assert folded(*entries)[Readings].of("suction_pressure").body.value == 118
    assert folded(*entries, entry(3, VoidBody(voids=ident(2))))[Readings].of("suction_pressure").body.value == 110


def test_readings_of_two_stages_and_places_stand_beside_each_other_and_the_latest_is_judged():
    state = folded(
        entry(1, StageBody(commanded="low", actual="low")),
        entry(2, suction(140)),
        entry(3, suction(141, place="rack")),
        entry(4, StageBody(commanded="high", actual="High")),
        entry(5, suction(120)),
        entry(8, suction(119)),
    )
    assert set(state[Readings].latest) == {"suction_pressure/1/low/", "suction_pressure/1/low/rack", "suction_pressure/1/high/"}
    # Both stages stand in the sheet; which one is judged, the sheet says, and never a mixture.
    sheet = sheet_of(state, UNIT).sheet
    assert [one.stage for one in sheet.readings] == ["low", "high"]
    assert sheet.circuit(1).stage == "high"
    assert len(state[Readings].of("suction_pressure").earlier) == 1  # drift is of one stage


def test_minutes_count_to_the_latest_reading_not_to_now():
    state = folded(entry(1, ClockBody(event="started", minutes_ago=10)), entry(6, suction(120)))
    assert sheet_of(state, UNIT).sheet.minutes_running == 15


def test_a_reading_the_card_no_longer_allows_is_named_not_dropped():
    state = folded(entry(1, ReadingBody(quantity="liquid_pressure", value=1700, unit="psig")))
    corrected = UnitFacts(Kind.SPLIT_AC, find("R-1234yf"))
    assert sheet_of(state, corrected).sheet.readings == ()
    assert "1,500 psig" in sheet_of(state, corrected).refused["liquid_pressure"]


def test_a_pressure_beyond_the_table_stays_in_the_sheet():
    state = folded(entry(1, ReadingBody(quantity="liquid_pressure", value=420, unit="psig")))
    assert [one.quantity for one in sheet_of(state, UnitFacts(Kind.SPLIT_AC, find("R-1234yf"))).sheet.readings]


def test_shared_air_belongs_to_no_circuit():
    one, other = (ReadingBody(quantity="return_air_temp", value=75, unit="F", circuit=circuit) for circuit in (2, None))
    assert len(folded(entry(1, one), entry(2, other))[Readings].latest) == 1


# -- when it was written ---------------------------------------------------


@pytest.mark.parametrize(
    ("waited", "floor", "found"),
    [(0, None, 0), (600, None, -600), (-50, None, 0), (600, -100, -100), (600, 100, 0), (31 * 86_400, None, -30 * 86_400)],
)
def test_written_is_received_less_the_wait_within_what_can_be(waited, floor, found):
    moments = [None] if floor is None else [START + timedelta(seconds=floor)]
    assert written_at(START, timedelta(seconds=waited), moments) == START + timedelta(seconds=found)


def _stamped(arriving, sequence, body, at, waited, sender=""):
    arrived_at = START + timedelta(minutes=at)
    one = Entry(
        id=ident(sequence), sequence=0, person_id=SOMEONE, written_at=arrived_at, received_at=arrived_at, sender=sender, body=body
    )
    return arriving.stamped(one, timedelta(minutes=waited))


def test_one_browsers_entries_keep_their_order_and_nothing_stands_before_what_it_is_about():
    state = folded(
        entry(1, HoldBody(section="whole", vacuum_gauge_off=True), at=60), entry(2, suction(100), at=70, sender="phone")
    )
    arriving = Arriving(state, UNIT, list)
    reading = HoldReadingBody(hold=ident(1), pressure=300, pressure_unit="psig", temp=70, temp_unit="F")
    assert _stamped(arriving, 3, reading, 80, 40).written_at == START + timedelta(minutes=60)
    assert _stamped(arriving, 3, suction(99), 80, 40, "phone").written_at == START + timedelta(minutes=70)
    assert _stamped(arriving, 3, suction(99), 80, 40, "tablet").written_at == START + timedelta(minutes=40)
    closing = ClosingBody(outcome="waiting", summary="to be gone on with", override="dark")
    assert _stamped(arriving, 3, closing, 80, 40).written_at == START + timedelta(minutes=80)  # it is about all before it


# -- what does not go together ---------------------------------------------


def held(psig_then=300.0):
    """A hold that was ended as tight by what was known, and a reading from before that which arrives late."""

    def read(sequence, psig, at, waited=0.0):
        body = HoldReadingBody(hold=ident(1), pressure=psig, pressure_unit="psig", temp=70, temp_unit="F")
        return entry(sequence, body, at, waited)

    return [
        entry(1, HoldBody(section="whole", vacuum_gauge_off=True), at=0),
        read(2, 300, 10),
        read(3, 300, 1440),
        read(4, 300, 2880),
        entry(5, HoldEndBody(hold=ident(1), verdict="tight"), at=2890),
        read(6, psig_then, 2885, 60),
    ]


def test_a_late_entry_that_makes_a_later_one_impossible_stands_beside_it_and_both_are_named():
    assert folded(*held()).clashes == ()
    state = folded(*held(psig_then=250.0))
    (clash,) = state.clashes
    assert (clash.entry_id, clash.other_id, clash.firm) == (ident(5), ident(6), True)
    assert "arithmetic says" in clash.words
    assert [one.code for one in obstacles(state)][:1] == ["clash"]
    assert len(state[Holds].holds[str(ident(1))].readings) == 4
    explained = entry(7, ExplainedBody(clash=ident(5), reason="gauge knocked while packing up"), at=2950)
    assert "clash" not in [one.code for one in obstacles(folded(*held(250.0), explained))]
    taken_back = entry(7, VoidBody(voids=ident(6)), at=2950)
    assert folded(*held(250.0), taken_back).clashes == ()


def test_what_happened_and_waited_is_kept_with_its_clash_and_a_decision_is_refused():
    dry = entry(1, ReadingBody(quantity="return_air_temp", value=70, unit="F"), at=0)
    wet = ReadingBody(quantity="return_air_wet_bulb", value=80, unit="F")
    arriving = Arriving(folded(dry), UNIT, lambda: [dry])
    with pytest.raises(Refused, match="no air can be"):
        check(arriving.case(entry(2, wet, at=5)))
    late = entry(2, wet, at=5, waited=10)
    check(arriving.case(late))
    (clash,) = folded(dry, late).clashes
    assert (clash.entry_id, clash.other_id, clash.firm) == (ident(2), None, False)
    with pytest.raises(Refused):  # whatever it waited: that cannot be
        check(arriving.case(entry(2, suction(9000), at=5, waited=10)))
    lifted = entry(2, ClosingBody(outcome="fixed", summary="mended"), at=5, waited=10)
    pour = entry(1, PourBody(way="trimmed", cylinder=BLUE, gross_g=9000), at=0)
    with pytest.raises(Refused, match="pour is still on"):
        check(Arriving(folded(pour), UNIT, lambda: [pour]).case(lifted))


def test_two_pours_by_two_phones_are_both_counted_and_said():
    state = folded(
        entry(1, PourBody(way="trimmed", cylinder=BLUE, gross_g=9000), at=0),
        entry(2, PourBody(way="trimmed", cylinder=BLUE, gross_g=8000), at=2, waited=9),
        entry(3, PourEndBody(pour=ident(1), gross_g=8900), at=12),
        entry(4, PourEndBody(pour=ident(2), gross_g=7800), at=13),
    )
    assert sorted(one.grams for one in state[Charge].moved.values()) == [100, 200]
    assert [one.entry_id for one in state.clashes] == [ident(2)]


# -- after closing ---------------------------------------------------------


def test_a_closed_visit_takes_only_what_was_written_before_and_says_what_that_opened():
    closing = entry(2, ClosingBody(outcome="waiting", summary="part ordered"), at=60)
    state = folded(entry(1, suction(110), at=10), closing)
    closed_at = closing.written_at
    check_closed(state, entry(3, suction(100), at=50, waited=30), closed_at, may_reopen=False)
    for later in (
        entry(3, suction(100), at=61),
        entry(3, ClosingBody(outcome="fixed", summary="x"), at=50),
        entry(3, VoidBody(voids=ident(2)), at=70),
    ):
        with pytest.raises(Refused, match="closed"):
            check_closed(state, later, closed_at, may_reopen=False)
    check_closed(state, entry(3, VoidBody(voids=ident(2)), at=70), closed_at, may_reopen=True)
    assert after_closing(state) == ()
    added = entry(3, MovementBody(way="added", grams=200, cylinder=BLUE, reason="kept it running"), at=50, waited=30)
    late = folded(entry(1, suction(110), at=10), closing, added)
    assert late[Closing].closing == state[Closing].closing
    assert [one.code for one in after_closing(late)] == ["top_up"]

"""The fold: incremental and from scratch the same, whatever is entered and taken back in whatever order."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from functools import reduce
from uuid import UUID, uuid5

from hypothesis import given
from hypothesis import strategies as st

from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import Kind, Mode, State
from dry_gauge.notebook.entries import Entry, VoidBody
from dry_gauge.notebook.measuring import ClockBody, ModeBody, NoteBody, ObservationBody, ReadingBody
from dry_gauge.notebook.state import VisitState, fold, fold_all, refused_now, sheet_of

START = datetime(2026, 3, 4, 9, 0, tzinfo=UTC)
SOMEONE = UUID(int=7)
UNIT = UnitFacts(Kind.SPLIT_AC, find("R-410A"))


def entry(sequence, body):
    at = START + timedelta(minutes=sequence)
    return Entry(id=uuid5(SOMEONE, str(sequence)), sequence=sequence, person_id=SOMEONE, received_at=at, body=body)


def void(sequence, of):
    return entry(sequence, VoidBody(voids=uuid5(SOMEONE, str(of))))


bodies = st.one_of(
    st.builds(
        ReadingBody,
        quantity=st.sampled_from(["suction_pressure", "liquid_pressure", "return_air_temp"]),
        value=st.floats(60, 300),
        unit=st.just("psig"),
        circuit=st.sampled_from([None, 1, 2]),
    ),
    st.builds(ObservationBody, what=st.sampled_from(["filter_dirty", "oil_stain"]), state=st.sampled_from(State)),
    st.builds(ModeBody, mode=st.sampled_from(Mode)),
    st.builds(NoteBody, text=st.text("abc", min_size=1)),
    st.builds(ClockBody, event=st.sampled_from(["started", "changed"]), minutes_ago=st.floats(0, 99)),
)


@given(st.lists(bodies, max_size=25))
def test_one_at_a_time_is_the_same_as_all_at_once(listed):
    entries = [entry(i, body) for i, body in enumerate(listed, start=1)]
    assert reduce(fold, entries, VisitState()) == fold_all(reversed(entries))


@given(st.lists(bodies, min_size=1, max_size=25), st.data())
def test_a_voided_entry_counts_no_more_and_leaves_the_rest_as_if_it_had_never_been(listed, data):
    entries = [entry(i, body) for i, body in enumerate(listed, start=1)]
    gone = data.draw(st.integers(1, len(entries)))
    after = fold_all([*entries, void(len(entries) + 1, gone)])
    without = fold_all([item for item in entries if item.sequence != gone])
    for name in ("readings", "observations", "notes", "started_at", "changed_at", "last_read_at", "mode"):
        assert getattr(after, name) == getattr(without, name)
    assert after.voided == 1
    assert after.entries == len(entries) + 1


@given(st.lists(bodies, max_size=20))
def test_a_state_survives_being_stored(listed):
    state = fold_all([entry(i, body) for i, body in enumerate(listed, start=1)])
    assert VisitState.model_validate(state.model_dump(mode="json", exclude_none=True)) == state


def test_voiding_gives_back_the_reading_before():
    readings = [ReadingBody(quantity="suction_pressure", value=value, unit="psig") for value in (110.0, 118.0)]
    entries = [entry(i, body) for i, body in enumerate(readings, start=1)]
    assert fold_all(entries).reading("suction_pressure").body.value == 118
    assert fold_all([*entries, void(3, 2)]).reading("suction_pressure").body.value == 110


def test_minutes_count_to_the_latest_reading_not_to_now():
    entries = [
        entry(1, ClockBody(event="started", minutes_ago=10)),
        entry(6, ReadingBody(quantity="suction_pressure", value=120, unit="psig")),
    ]
    assert sheet_of(fold_all(entries), UNIT).minutes_running == 15


def test_a_reading_the_card_no_longer_allows_is_named_not_dropped():
    state = fold_all([entry(1, ReadingBody(quantity="liquid_pressure", value=420, unit="psig"))])
    corrected = UnitFacts(Kind.SPLIT_AC, find("R-1234yf"))
    assert sheet_of(state, corrected).readings == ()
    assert "R-1234yf" in refused_now(state, corrected)["liquid_pressure"]


def test_shared_air_belongs_to_no_circuit():
    entries = [
        entry(1, ReadingBody(quantity="return_air_temp", value=75, unit="F", circuit=2)),
        entry(2, ReadingBody(quantity="return_air_temp", value=76, unit="F")),
    ]
    assert len(fold_all(entries).readings) == 1

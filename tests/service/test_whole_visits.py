"""The call in the database: what is refused, closing and opening again, follow-ups across visits, late entries."""

from __future__ import annotations

import json
from datetime import UTC, date, datetime, timedelta

import pytest
import uuid6
from sqlalchemy import select

from dry_gauge.core.errors import Refused
from dry_gauge.core.settling import gaps_over_time
from dry_gauge.core.visit.complaints import Complaint
from dry_gauge.core.vocabulary import QUANTITIES, State
from dry_gauge.core.words import Reader
from dry_gauge.exchange.reading_sheet import parse_sheet
from dry_gauge.notebook.subjects.agenda import FollowUpBody, FollowUpDoneBody, FollowUpSort, TimerEndBody
from dry_gauge.notebook.subjects.call import ClaimCheckBody
from dry_gauge.notebook.subjects.clock import ClockBody
from dry_gauge.notebook.subjects.closing import ClosingBody, Outcome
from dry_gauge.notebook.subjects.failed_tests import FailedTestBody, RepeatBody
from dry_gauge.notebook.subjects.ledger import ChangeSort, RestoredBody, TemporaryBody
from dry_gauge.notebook.subjects.observations import ObservationBody
from dry_gauge.notebook.subjects.readings import InUseBody, ReadingBody
from dry_gauge.notebook.subjects.record import VoidBody
from dry_gauge.notebook.subjects.remarks import NoteBody
from dry_gauge.present.rows import row_of
from dry_gauge.present.settling import settling_of
from dry_gauge.service.history import history_of
from dry_gauge.service.notebooks import facts_of, load
from dry_gauge.store import samples
from dry_gauge.store.follow_ups import open_follow_ups, settle
from dry_gauge.store.models import FollowUp
from tests.builders import HEALTHY, TXV, judged, sheet
from tests.keeping import keep_one

NOW = datetime(2026, 11, 24, 15, tzinfo=UTC)


@pytest.fixture
def keep(as_shop, shop):
    """Appends to the shop's visit, each a minute after the other."""
    at = [NOW]

    def add(body, role="technician", waited=0, minutes=1.0):
        at[0] += timedelta(minutes=minutes)
        with as_shop(shop) as connection:
            return keep_one(connection, shop.someone(role), shop.visit, uuid6.uuid7(), body, at[0], None, waited)

    return add


def closing(**more):
    return ClosingBody(outcome=Outcome.FIXED, summary="found and mended", **more)


def test_closing_waits_for_what_is_open_and_names_what_was_let_go(keep, as_shop, shop):
    change = keep(TemporaryBody(sort=ChangeSort.JUMPER, where="float switch")).entry
    with pytest.raises(Refused, match="float switch"):
        keep(closing())
    kept = keep(closing(override="the owner wants it so"))
    assert "float switch" in kept.entry.body.let_go[0]
    with as_shop(shop) as connection:
        visit = load(connection, shop.someone(), shop.visit).visit
    assert (visit.status, visit.outcome, visit.summary) == ("closed", "fixed", "found and mended")
    with pytest.raises(Refused, match="closed"):
        keep(RestoredBody(change=change.id))


def test_a_bypassed_safety_is_not_let_go_for_any_reason(keep):
    keep(TemporaryBody(sort=ChangeSort.SAFETY, where="high-pressure switch"))
    with pytest.raises(Refused, match="bypass out"):
        keep(closing(override="they insist"))


def test_what_was_written_before_closing_and_only_now_sent_is_kept(keep, as_shop, shop):
    keep(closing())
    late = keep(NoteBody(text="hatch locked again"), minutes=30, waited=45 * 60)
    assert not late.repeated
    with pytest.raises(Refused, match="closed"):
        keep(NoteBody(text="afterthought"), waited=60)
    with as_shop(shop) as connection:
        assert load(connection, shop.someone(), shop.visit).visit.status == "closed"


def test_only_a_lead_opens_a_closed_visit_again(keep, as_shop, shop):
    closed = keep(closing()).entry
    with pytest.raises(Refused, match="lead"):
        keep(VoidBody(voids=closed.id))
    keep(VoidBody(voids=closed.id), role="lead")
    keep(NoteBody(text="open again"))
    with as_shop(shop) as connection:
        visit = load(connection, shop.someone(), shop.visit).visit
    assert (visit.status, visit.closed_at, visit.outcome) == ("open", None, "")


@pytest.mark.parametrize(
    ("body", "reason"),
    [
        (ClaimCheckBody(claim=uuid6.uuid7(), true=True), "not in this visit"),
        (RestoredBody(change=uuid6.uuid7()), "not in this visit"),
        (TimerEndBody(timer=uuid6.uuid7()), "not in this visit"),
        (FailedTestBody(quantity="moon_phase", should="full"), "Choose the measurement"),
        (FollowUpBody(sort=FollowUpSort.RECHECK, what="x", due=date(2020, 1, 1)), "past"),
    ],
)
def test_what_points_nowhere_is_refused_with_a_sentence(keep, body, reason):
    with pytest.raises(Refused, match=reason):
        keep(body)


def test_a_proof_needs_a_reading_after_it_was_named(keep):
    keep(ReadingBody(quantity="supply_air_temp", value=66, unit="F"))
    test = keep(FailedTestBody(quantity="supply_air_temp", should="below 58")).entry
    with pytest.raises(Refused, match="Read supply air again"):
        keep(RepeatBody(failed_test=test.id, passed=True))
    keep(ReadingBody(quantity="supply_air_temp", value=57, unit="F"))
    keep(RepeatBody(failed_test=test.id, passed=True))


def test_an_instrument_beyond_its_range_is_asked_about_and_its_number_kept(keep):
    keep(InUseBody(dimension="pressure", instrument="Gauge 1", unit="psig", low=0, high=500))
    for value, asked in ((510, True), (490, False)):
        view = keep(ReadingBody(quantity="liquid_pressure", value=value, unit="psig")).view
        row = row_of(QUANTITIES["liquid_pressure"], view, Reader())
        assert row.value == str(value)
        assert ("Gauge 1 reads from 0 psig to 500 psig" in row.asked) is asked


def test_follow_ups_stand_in_a_table_as_long_as_their_entry_does(keep, as_shop, shop, owner):
    booked = keep(FollowUpBody(sort=FollowUpSort.RECHECK, what="flare", due=date(2026, 12, 1))).entry
    second = keep(FollowUpBody(sort=FollowUpSort.PART, what="fan motor", due=date(2026, 11, 27))).entry
    with as_shop(shop) as connection:
        assert [row.what for row in open_follow_ups(connection)] == ["fan motor", "flare"]
        assert [row.what for row in history_of(connection, shop.someone(), shop.unit, shop.visit).card.follow_ups] == [
            "fan motor",
            "flare",
        ]
    keep(VoidBody(voids=second.id))
    keep(FollowUpDoneBody(follow_up=booked.id))
    with as_shop(shop) as connection:
        assert open_follow_ups(connection) == []
    third = keep(FollowUpBody(sort=FollowUpSort.SEASON, what="wash", due=date(2027, 4, 1))).entry
    with as_shop(shop) as connection:
        settle(connection, third.id, NOW)
        assert open_follow_ups(connection, shop.unit) == []
    with owner.connect() as connection:
        assert len(connection.execute(select(FollowUp.id).where(FollowUp.shop_id == shop.id)).all()) == 2


def test_typed_twice_five_minutes_apart_the_unit_is_settled_or_not(keep):
    keep(ClockBody(event="started", minutes_ago=30))
    for value, line in ((120, 52), (120.5, 52.2)):
        keep(ReadingBody(quantity="suction_pressure", value=value, unit="psig"), minutes=4)
        keep(ReadingBody(quantity="suction_line_temp", value=line, unit="F"), minutes=1)
    found = settling_of(keep(NoteBody(text="x")).view)
    assert found.ready
    assert {drift.quantity for drift in found.drifts} == {"suction_saturation", "superheat"}
    keep(ReadingBody(quantity="suction_pressure", value=108, unit="psig"), minutes=4)
    view = keep(ObservationBody(what="recently_charged", state=State.YES)).view
    assert not settling_of(view).ready


def test_gaps_over_time_are_those_of_the_circuit_arithmetic():
    # The healthy split of the builders, read twice; the judgement's own arithmetic is the reference, to rounding.
    series = {}
    for reading in parse_sheet(json.dumps(sheet(unit=TXV, **HEALTHY))).readings:
        series[reading.quantity] = [(-5.0, reading.value_si), (0.0, reading.value_si)]
    derived = judged(sheet(unit=TXV, **HEALTHY)).first.derived
    gaps = gaps_over_time(series, facts_of({"kind": "split_ac", "refrigerant": "R-410A"}))
    for name in ("superheat", "subcooling", "air_split"):
        assert [k for _, k in gaps[name]] == pytest.approx([derived[name].value] * 2, abs=1e-9)
    late = {**series, "suction_line_temp": [(-30.0, 285.0), (-20.0, 285.0)]}
    assert gaps_over_time(late, facts_of({"kind": "split_ac", "refrigerant": "R-410A"}))["superheat"] == []


def test_a_sheet_may_carry_the_complaint(shop):
    sheet = parse_sheet('{"unit": {"kind": "split_ac", "refrigerant": "R-410A"}, "complaints": ["ice", "water"]}')
    assert sheet.complaints == (Complaint.ICE, Complaint.WATER)
    with pytest.raises(Refused):
        parse_sheet('{"unit": {"kind": "split_ac", "refrigerant": "R-410A"}, "complaints": ["haunted"]}')


def test_days_of_samples_are_made_ahead_and_dropped_after_their_time(owner, as_shop, shop):
    from sqlalchemy import text

    with as_shop(shop) as connection:
        samples.keep_days(connection)
    with owner.begin() as connection:
        connection.execute(
            text("CREATE TABLE sample_20200101 PARTITION OF sample FOR VALUES FROM ('2020-01-01') TO ('2020-01-02')")
        )
        days = connection.execute(text("SELECT count(*) FROM pg_class WHERE relname ~ '^sample_[0-9]{8}$'")).scalar_one()
    assert days >= 4
    with as_shop(shop) as connection:
        assert samples.keep_days(connection) == 1

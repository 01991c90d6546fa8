"""Entries that waited, in a real PostgreSQL: the book stays right, the batch answers each, nothing goes in another's name."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest
import uuid6

from dry_gauge.core.charge.cylinders import balances
from dry_gauge.core.errors import Refused
from dry_gauge.core.quantities import PSI_PA
from dry_gauge.notebook.subjects.closing import ClosingBody
from dry_gauge.notebook.subjects.movements import MovementBody, PourBody, PourEndBody
from dry_gauge.notebook.subjects.readings import ReadingBody, Readings
from dry_gauge.notebook.subjects.record import VoidBody
from dry_gauge.notebook.subjects.remarks import NoteBody
from dry_gauge.service.append import IdTaken, Sent, Taken, append_all
from dry_gauge.service.notebooks import load
from dry_gauge.store import cylinders as store
from dry_gauge.store.visits import add_visit, closed_with_something_open, find_visit
from tests.keeping import keep_one

NOW = datetime.now(UTC)
FACTS = {"kind": "split_ac", "refrigerant": "R-410A", "metering": "txv", "label_charge_g": 3000}


@pytest.fixture
def shop(make_shop):
    return make_shop(FACTS)


@pytest.fixture
def grey(as_shop, shop):
    """An empty recovery cylinder."""
    grey = uuid6.uuid7()
    with as_shop(shop) as connection:
        store.add_cylinder(
            connection,
            shop_id=shop.id,
            id=grey,
            name="Grey 1",
            kind="recovery",
            refrigerant="R-410A",
            tare_g=12_000,
            water_capacity_g=21_600,
            service_pressure_pa=400 * PSI_PA,
        )
    return grey


@pytest.fixture
def other_visit(as_shop, shop):
    visit = uuid6.uuid7()
    with as_shop(shop) as connection:
        add_visit(
            connection, shop_id=shop.id, id=visit, unit_id=shop.unit, technician_id=shop.people["technician"], planned_for=NOW
        )
    return visit


@pytest.fixture
def keep(as_shop, shop):
    def add(body, minutes=0.0, waited=0.0, visit=None, role="technician"):
        with as_shop(shop) as connection:
            return keep_one(
                connection,
                shop.someone(role),
                visit or shop.visit,
                uuid6.uuid7(),
                body,
                NOW + timedelta(minutes=minutes),
                None,
                waited * 60,
            )

    return add


def book(as_shop, shop):
    with as_shop(shop) as connection:
        holds = {held.cylinder.name: held.holds_g for held in store.all_held(connection)}
        lines = [line for line in store.lines(connection) if line.taken_back_at is None]
    assert sum(balances(line.movement for line in lines).values()) == 0
    return holds["Grey 1"], {(line.movement.origin.value, line.movement.goal.value): line.movement.grams for line in lines}


def test_a_recovery_that_waited_arrives_after_somebody_drew_from_its_cylinder_and_the_sums_are_right(
    keep, as_shop, shop, grey, other_visit
):
    # At minute 0 phone A recovers 2,400 g into Grey 1, without signal. At 30, phone B puts 1,000 g of it back elsewhere.
    drawn = MovementBody(way="added", grams=1000, cylinder=grey, reason="cooling today, leak booked", converting=False)
    with pytest.raises(Refused, match="By the book"):
        keep(drawn, 30, visit=other_visit)
    keep(drawn, 32, waited=2, visit=other_visit)  # it went in already: kept, and the book finds what it lacked
    assert book(as_shop, shop) == (0, {("count", "cylinder"): 1000, ("cylinder", "unit"): 1000})
    late = keep(MovementBody(way="recovered", grams=2400, cylinder=grey), 60, waited=60)
    assert not late.late  # nothing in its own visit was written after it
    assert book(as_shop, shop) == (1400, {("unit", "cylinder"): 2400, ("cylinder", "unit"): 1000})


def test_a_late_filling_that_covers_a_part_leaves_only_the_rest_counted(keep, as_shop, shop, grey, other_visit):
    keep(MovementBody(way="added", grams=1000, cylinder=grey, reason="kept it cold"), 32, waited=2, visit=other_visit)
    keep(MovementBody(way="recovered", grams=700, cylinder=grey), 60, waited=60)
    assert book(as_shop, shop) == (0, {("count", "cylinder"): 300, ("unit", "cylinder"): 700, ("cylinder", "unit"): 1000})


def test_a_late_pour_end_changes_an_earlier_amount_by_value_and_is_booked_anew(keep, as_shop, shop, grey):
    pour = keep(PourBody(way="recovered", cylinder=grey, gross_g=12_000), 0).entry
    keep(PourEndBody(pour=pour.id, gross_g=13_000), 20)
    assert book(as_shop, shop)[0] == 1000
    # Another phone had ended it before, and only now sends that: the first end counts, the second is a clash.
    keep(PourEndBody(pour=pour.id, gross_g=12_600), 30, waited=20)
    assert book(as_shop, shop)[0] == 600
    with as_shop(shop) as connection:
        (clash,) = load(connection, shop.someone(), shop.visit).state.clashes
        taken_back = [line for line in store.lines(connection) if line.taken_back_at]
    assert clash.firm
    assert [line.movement.grams for line in taken_back] == [1000]


def test_what_waited_together_is_answered_one_by_one_and_folded_once(keep, as_shop, shop):
    def suction(value):
        return ReadingBody(quantity="suction_pressure", value=value, unit="psig")

    keep(suction(120), 20)
    first = uuid6.uuid7()
    sent = [
        Sent(first, suction(100), timedelta(minutes=55), "phone"),
        Sent(uuid6.uuid7(), suction(9000), timedelta(minutes=50)),
        Sent(uuid6.uuid7(), suction(104), timedelta(minutes=45), "phone"),
        Sent(first, suction(100), timedelta(minutes=55)),
        Sent(uuid6.uuid7(), VoidBody(voids=first), timedelta(minutes=1), "phone"),
        Sent(first, NoteBody(text="other")),
        Sent(uuid6.uuid7(), NoteBody(text="last")),
    ]
    with as_shop(shop) as connection:
        found = append_all(connection, shop.someone(), shop.visit, sent, NOW + timedelta(minutes=60))
    assert isinstance(found.found[1], Refused)
    assert isinstance(found.found[5], IdTaken)  # the reused id is said, and the entry that has it is kept
    assert [one.repeated for one in found.found if isinstance(one, Taken)] == [False, False, True, False, False]
    state = found.state
    assert (state.entries, state.voided) == (5, 1)
    assert [one.body.value for one in state[Readings].latest.values()] == [120]
    assert [one.value for one in state[Readings].latest["suction_pressure/1//"].earlier] == [104]
    with as_shop(shop) as connection:
        assert load(connection, shop.someone(), shop.visit).state == state


def test_after_closing_an_entry_from_before_stays_beside_what_was_proven(keep, as_shop, shop, grey):
    keep(NoteBody(text="begun"), 0)
    keep(ClosingBody(outcome="waiting", summary="part ordered"), 60)
    keep(MovementBody(way="recovered", grams=500, cylinder=grey), 80, waited=50)
    with as_shop(shop) as connection:
        visit = find_visit(connection, shop.visit)
    assert (visit.status, visit.outcome, visit.summary) == ("closed", "waiting", "part ordered")
    assert visit.opened_after == []
    assert book(as_shop, shop)[0] == 500
    pour = keep(PourBody(way="recovered", cylinder=grey, gross_g=12_000), 90, waited=55).entry
    with as_shop(shop) as connection:
        (visit,) = closed_with_something_open(connection)
    assert [one["code"] for one in visit.opened_after] == ["pour"]
    with pytest.raises(Refused, match="closed"):
        keep(PourEndBody(pour=pour.id, gross_g=12_400), 95)

"""Appending: once is once, whoever sends it however often, and what is refused leaves nothing behind."""

from __future__ import annotations

import json
import threading
from datetime import UTC, datetime

import pytest
import uuid6

from dry_gauge.core.errors import Refused
from dry_gauge.notebook.kind import VisitState
from dry_gauge.notebook.state import fold_all, stored
from dry_gauge.notebook.subjects.clock import ClockBody
from dry_gauge.notebook.subjects.observations import ObservationBody
from dry_gauge.notebook.subjects.readings import ReadingBody, Readings
from dry_gauge.notebook.subjects.record import VoidBody
from dry_gauge.notebook.subjects.remarks import NoteBody
from dry_gauge.service.allowed import NotAllowed
from dry_gauge.service.append import IdTaken
from dry_gauge.service.notebooks import load
from dry_gauge.store.visits import all_entries, timeline
from tests.keeping import keep_one


def suction(value: float = 120.0) -> ReadingBody:
    return ReadingBody(quantity="suction_pressure", value=value, unit="psig")


def add(connection, shop, body, entry_id=None, role="technician"):
    return keep_one(connection, shop.someone(role), shop.visit, entry_id or uuid6.uuid7(), body, datetime.now(UTC))


def test_the_same_entry_twice_is_one_entry(shop, as_shop):
    entry_id = uuid6.uuid7()
    for repeated in (False, True, True):
        with as_shop(shop) as connection:
            assert add(connection, shop, suction(), entry_id).repeated is repeated
    with as_shop(shop) as connection:
        assert len(all_entries(connection, shop.visit)) == 1


def test_an_id_cannot_stand_for_two_things(shop, as_shop):
    entry_id = uuid6.uuid7()
    with as_shop(shop) as connection:
        add(connection, shop, suction(), entry_id)
    with as_shop(shop) as connection, pytest.raises(IdTaken):
        add(connection, shop, suction(99), entry_id)


def test_two_tabs_at_the_same_moment_lose_nothing_and_double_nothing(shop, as_shop):
    shared = uuid6.uuid7()
    problems = []

    def tab(number):
        try:
            for i in range(10):
                with as_shop(shop) as connection:
                    add(connection, shop, NoteBody(text=f"{number} {i}"))
                with as_shop(shop) as connection:
                    add(connection, shop, suction(), shared)
        except Exception as problem:
            problems.append(problem)

    tabs = [threading.Thread(target=tab, args=(number,)) for number in range(4)]
    for thread in tabs:
        thread.start()
    for thread in tabs:
        thread.join()
    assert problems == []
    with as_shop(shop) as connection:
        entries = all_entries(connection, shop.visit)
        view = load(connection, shop.someone(), shop.visit)
    assert [entry.sequence for entry in entries] == list(range(1, 42))
    assert view.state == fold_all(entries, view.facts)


def test_the_stored_state_is_what_the_entries_fold_to_after_voids(shop, as_shop):
    listed = [suction(110), ClockBody(event="started", minutes_ago=20), suction(118), NoteBody(text="n")]
    for body in listed:
        with as_shop(shop) as connection:
            last = add(connection, shop, body)
    with as_shop(shop) as connection:
        third = all_entries(connection, shop.visit)[2]
        done = add(connection, shop, VoidBody(voids=third.id, reason="wrong port"))
        assert done.taken_back.id == third.id
        assert done.view.state[Readings].of("suction_pressure").body.value == 110
    with as_shop(shop) as connection:
        again = add(connection, shop, VoidBody(voids=third.id))
        assert again.repeated
        entries = all_entries(connection, shop.visit)
        view = load(connection, shop.someone(), shop.visit)
        assert view.state == fold_all(entries, view.facts)
        row = next(row for row in timeline(connection, shop.visit) if row.entry.id == third.id)
        assert (row.voided_by, row.void_reason) == ("Ida technician", "wrong port")
    assert last.view.state.entries == 4


@pytest.mark.parametrize(
    ("body", "words"),
    [
        (suction(1e9), "1,500 psig"),
        (suction(-20), "zero or less"),
        (ReadingBody(quantity="suction_pressure", value=1, unit="F"), "psig"),
        (ReadingBody(quantity="sucktion", value=1, unit="psig"), "not a known quantity"),
        (ObservationBody(what="filter_dirt", state="yes"), "filter_dirty"),
        (VoidBody(voids=uuid6.uuid7()), "not in this visit"),
    ],
)
def test_what_is_refused_leaves_nothing_behind(shop, as_shop, body, words):
    with as_shop(shop) as connection, pytest.raises(Refused, match=words):
        add(connection, shop, body)
    with as_shop(shop) as connection:
        assert all_entries(connection, shop.visit) == []
        assert load(connection, shop.someone(), shop.visit).state == VisitState()


def test_a_wet_bulb_above_the_dry_bulb_is_refused_against_what_is_kept(shop, as_shop):
    with as_shop(shop) as connection:
        add(connection, shop, ReadingBody(quantity="return_air_temp", value=70, unit="F"))
    with as_shop(shop) as connection, pytest.raises(Refused, match="above the dry bulb"):
        add(connection, shop, ReadingBody(quantity="return_air_wet_bulb", value=75.5, unit="F"))


def test_someone_who_reads_along_adds_nothing(shop, as_shop):
    with as_shop(shop) as connection, pytest.raises(NotAllowed):
        add(connection, shop, suction(), role="read_only")
    with as_shop(shop) as connection:
        assert add(connection, shop, suction(), role="lead").view.state.entries == 1


def test_ten_thousand_entries_cost_no_more_at_the_end_than_at_the_start(shop, as_shop, owner):
    # Written straight into the table: the point is the last append, and that its state stays small.
    from sqlalchemy import text

    with owner.begin() as connection:
        connection.execute(
            text(
                "INSERT INTO entry (shop_id, id, visit_id, sequence, person_id, received_at, written_at, body) "
                "SELECT :shop, gen_random_uuid(), :visit, i, :person, now(), now(), "
                "jsonb_build_object('kind', 'reading', 'quantity', 'suction_pressure', 'value', 100 + i % 40, 'unit', 'psig')"
                " FROM generate_series(1, 10000) AS i"
            ),
            {"shop": shop.id, "visit": shop.visit, "person": shop.people["technician"]},
        )
        connection.execute(text("UPDATE visit SET sequence = 10000, fold_version = 0 WHERE id = :visit"), {"visit": shop.visit})
    with as_shop(shop) as connection:
        appended = add(connection, shop, suction(121))
        assert appended.entry.sequence == 10_001
        assert len(json.dumps(stored(appended.view.state))) < 2000
        assert len(timeline(connection, shop.visit, limit=40)) == 40
    with as_shop(shop) as connection:  # a void folds all of them again
        done = add(connection, shop, VoidBody(voids=appended.entry.id))
        assert done.view.state[Readings].of("suction_pressure").body.value == 100


def test_what_was_acknowledged_stays_so_even_if_it_would_be_refused_today(shop, as_shop, owner):
    from sqlalchemy import text

    entry_id = uuid6.uuid7()
    with as_shop(shop) as connection:
        add(connection, shop, suction(), entry_id)
    with owner.begin() as connection:
        connection.execute(text("UPDATE visit SET status = 'closed' WHERE id = :id"), {"id": shop.visit})
    with as_shop(shop) as connection:
        assert add(connection, shop, suction(), entry_id).repeated
    with as_shop(shop) as connection, pytest.raises(Refused, match="closed"):
        add(connection, shop, suction())

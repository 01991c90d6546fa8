"""Units to look at: what speaks for each, in the order of what to do first, and nothing where nothing does."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta

import pytest
import uuid6
from bs4 import BeautifulSoup
from hypothesis import given
from hypothesis import strategies as st
from sqlalchemy import insert, text

from dry_gauge.core.office.watch import Drift, UnitSums, Urgency, concerns
from dry_gauge.store.models import FollowUp, PartOrder
from tests.builders import HEALTHY
from tests.sound import sound_visit

SPRING = datetime.now(UTC) - timedelta(days=200)


def watched(browser):
    page = BeautifulSoup(browser.get("/watch").text, "html.parser")
    return page, [line.get_text(" ", strip=True) for line in page.select(".watched")]


@pytest.fixture
def visits(as_shop, shop):
    def make(*heads_psig):
        with as_shop(shop) as connection:
            for i, head in enumerate(heads_psig):
                values = HEALTHY | {"liquid_pressure": head}
                sound_visit(connection, shop.someone("technician"), shop.unit, SPRING + timedelta(days=50 * i), values)

    return make


def test_a_head_that_climbs_visit_by_visit_stands_there_with_its_line(browser, visits):
    assert watched(browser)[1] == []
    visits(340.0, 372.0)
    assert watched(browser)[1] == []  # two points are no line
    visits(340.0, 372.0, 405.0)
    page, lines = watched(browser)
    assert len(lines) == 1
    assert "drifts away from like units" in lines[0]
    assert len(page.select(".drift circle")) >= 3
    assert page.select_one(".drift desc").get_text().startswith("Against like units: ")


def test_a_second_circuit_drifts_by_itself(browser, visits, owner, shop):
    visits(340.0, 372.0, 405.0)
    with owner.begin() as connection:
        whose = {"unit": shop.unit}
        steady = "(SELECT gaps -> '1' FROM sound_day WHERE unit_id = :unit ORDER BY at LIMIT 1)"
        connection.execute(
            text(f"UPDATE sound_day SET gaps = jsonb_build_object('1', {steady}, '2', gaps -> '1') WHERE unit_id = :unit"), whose
        )
        connection.execute(text("UPDATE unit SET circuits = 2 WHERE id = :unit"), whose)
    (line,) = watched(browser)[1]
    assert "ircuit 2: condenser gap drifts" in line
    assert "ircuit 1" not in line
    life = BeautifulSoup(browser.get(f"/units/{shop.unit}").text, "html.parser").select_one("svg.life")
    assert len(life.select("circle.life-full")) == 6
    assert {"1", "2"} <= {label.get_text() for label in life.select("text.life-unit")}


def test_a_unit_s_life_holds_what_happened_to_it_and_nothing_of_others(browser, visits, shop):
    visits(340.0, 372.0)
    form = {"what": "Drier", "installed_on": str(date.today() - timedelta(days=2000))}  # long before the first visit
    browser.post(f"/units/{shop.unit}/components", False, **form)
    page = BeautifulSoup(browser.get(f"/units/{shop.unit}").text, "html.parser")
    life = page.select_one("svg.life")
    assert len(life.select("a")) == len(page.select(".follow"))
    assert len(life.select("circle.life-full")) == len(life.select("circle.life-hollow")) == 2
    assert f"Drier in {date.today() - timedelta(days=2000):%b %Y}" in life.select_one("desc").get_text()
    assert all(0 <= float(mark["cx"]) <= 840 for mark in life.select("circle"))


def test_a_part_changed_begins_the_line_again(browser, visits, owner, shop):
    visits(340.0, 372.0, 405.0)
    with owner.begin() as connection:
        latest = "(SELECT max(at) FROM sound_day WHERE unit_id = :unit)"
        change = text(f"UPDATE sound_day SET changed = true WHERE unit_id = :unit AND at = {latest}")
        assert connection.execute(change, {"unit": shop.unit}).rowcount == 1
    assert watched(browser)[1] == []


def test_what_is_overdue_stands_after_what_came_back(browser, visits, owner, shop):
    visits(350.0)
    with owner.begin() as connection:
        overdue = {"id": uuid6.uuid7(), "visit_id": shop.visit, "unit_id": shop.unit, "sort": "clean", "what": "coil"}
        connection.execute(insert(FollowUp).values(shop_id=shop.id, due=date.today() - timedelta(days=30), **overdue))
        connection.execute(
            text(
                "INSERT INTO visit_held SELECT shop_id, gen_random_uuid(), visit_id, :person, now(), false, 'warm', '' "
                "FROM visit_result WHERE shop_id = :shop"
            ),
            {"shop": shop.id, "person": shop.people["technician"]},
        )
    page, lines = watched(browser)
    assert [title.get_text(" ", strip=True) for title in page.select("h2")] == ["Came back 1"]
    assert "A repair of the last year came back" in lines[0]
    assert "overdue: coil, due" in lines[0]


def test_a_unit_that_waits_says_for_what(browser, visits, owner, shop):
    visits(350.0)
    with owner.begin() as connection:
        connection.execute(text("UPDATE visit_result SET outcome = 'waiting' WHERE shop_id = :shop"), {"shop": shop.id})
    assert "Waits for a part or an answer" in watched(browser)[1][0]
    with owner.begin() as connection:
        for what, ordered in (("fan motor", None), ("contactor", date.today())):
            connection.execute(
                insert(PartOrder).values(
                    shop_id=shop.id,
                    id=uuid6.uuid7(),
                    unit_id=shop.unit,
                    what=what,
                    number="",
                    pieces=1,
                    other_piece="",
                    from_whom="",
                    made_at=datetime.now(UTC),
                    ordered_on=ordered,
                    expected_on=ordered,
                    dropped="",
                    person_id=shop.people["lead"],
                )
            )
    assert "Waits for contactor, ordered" in watched(browser)[1][0]


@given(st.floats(-20, 20), st.floats(-20, 20), st.integers(2, 9), st.floats(0, 1))
def test_only_what_leaves_its_sort_is_a_drift(first_k, last_k, visits, straight):
    drift = Drift("superheat", first_k, last_k, visits, straight)
    if drift.goes_away:
        assert abs(last_k) > abs(first_k)
        assert abs(last_k - first_k) >= 4.0
        assert visits >= 3


@given(
    st.one_of(st.none(), st.floats(0, 3)),
    st.booleans(),
    st.integers(0, 3),
    st.integers(0, 3),
    st.sampled_from(["", "fixed", "waiting", "not_fixed"]),
    st.booleans(),
    st.dictionaries(st.sampled_from("abc"), st.integers(1, 4)),
)
def test_concerns_come_in_the_order_of_what_to_do(leak, over, overdue, came_back, outcome, old, causes):
    found = concerns(UnitSums(leak, over, causes, (), overdue, came_back, outcome, old))
    assert [one.urgency for one in found] == sorted(one.urgency for one in found)
    assert (Urgency.LEAKS_OVER in {one.urgency for one in found}) == bool(leak and over)

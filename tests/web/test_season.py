"""The season: a plan becomes something left for later, its page lists it, and the kit comes from the unit's history."""

from __future__ import annotations

from datetime import date, timedelta

import pytest
import uuid6
from bs4 import BeautifulSoup
from sqlalchemy import insert, select

from dry_gauge.core.season import MONTHS, SeasonPart, Surroundings, next_due
from dry_gauge.store.models import FollowUp, Unit
from tests.web.calls import Browser


@pytest.mark.parametrize(
    ("seen", "months", "due"),
    [
        (date(2026, 1, 31), 1, date(2026, 2, 28)),
        (date(2026, 11, 30), 3, date(2027, 2, 28)),
        (date(2026, 5, 4), None, date(2026, 11, 4)),
    ],
)
def test_a_day_is_kept_within_its_month(seen, months, due):
    assert next_due(SeasonPart.OUTDOOR_COIL, Surroundings.SEA, seen, months) == due
    assert all(set(row) == set(Surroundings) for row in MONTHS.values())


@pytest.fixture
def browser(server, shop):
    made = Browser(server)
    made.sign_in(shop.logins["technician"])
    made.get(f"/visits/{shop.visit}")
    return made


def season_page(browser):
    return BeautifulSoup(browser.get("/season").text, "html.parser").get_text(" ", strip=True)


def test_a_plan_is_listed_with_its_neighbours_and_what_to_bring(browser, shop, owner):
    with owner.begin() as connection:
        own = connection.execute(select(Unit.site_id, Unit.facts).where(Unit.id == shop.unit)).one()
        beside = insert(Unit).values(shop_id=shop.id, id=uuid6.uuid7(), site_id=own.site_id, tag="U-9", facts=own.facts)
        connection.execute(beside)
    where = f"/visits/{shop.visit}/entries"
    assert "Nothing is planned" in season_page(browser)
    for fields in (
        {"kind": "season", "part": "outdoor_coil", "surroundings": "sea"},
        {"kind": "season", "part": "outdoor_coil", "surroundings": "kitchen", "months": "1"},
        {"kind": "filter", "place": "return", "size": "20 x 25 x 2", "count": "4", "found": "loaded"},
    ):
        assert browser.post(where, entry_id=str(uuid6.uuid7()), **fields).status_code == 200
    for name, kind, what in (("Blue 1", "new", "bought"), ("Grey 1", "recovery", "weighed")):
        stamped = {"name": name, "kind": kind, "refrigerant": "R-410A", "water": "40 lb", "service_psi": "400"}
        made = browser.post("/cylinders", False, **stamped).headers["location"]
        held = {"what": what, "weight": "10 lb 3 oz", "weight_unit": "lb", "reason": "counted"}
        assert browser.post(f"{made}/book", False, **held).status_code == 303
    found = season_page(browser)
    assert "10 lb 3.0 oz to charge with on hand" in found  # what was recovered is not
    assert found.count("Outdoor coil: look and clean") == 2  # the later plan in place of the earlier one: due, and in the kit
    assert "kitchen air" in found
    assert "sea air" not in found
    assert "U-9" in found
    assert "4 filters 20 x 25 x 2" in found
    assert "Water, hose, nozzle" in found
    odd = browser.post(where, entry_id=str(uuid6.uuid7()), kind="season", part="roof", surroundings="sea")
    assert odd.status_code == 422


def test_a_shop_with_much_to_come_back_for_sees_all_of_it(browser, shop, owner):
    with owner.begin() as connection:
        own = connection.execute(select(Unit.site_id, Unit.facts).where(Unit.id == shop.unit)).one()
        other = uuid6.uuid7()
        connection.execute(insert(Unit).values(shop_id=shop.id, id=other, site_id=own.site_id, tag="U-9", facts=own.facts))
        rows = [
            {
                "shop_id": shop.id,
                "id": uuid6.uuid7(),
                "visit_id": shop.visit,
                "unit_id": unit,
                "sort": "season",
                "what": f"Outdoor coil {n}",
                "due": date.today() + timedelta(days=n // 30),
            }
            for n, unit in enumerate([shop.unit] * 250 + [other])
        ]
        connection.execute(insert(FollowUp), rows)
    season = season_page(browser)
    assert season.count("Outdoor coil 2") >= 60
    assert "Outdoor coil 250" in season
    assert "Beside them, without a plan" not in season
    plan = BeautifulSoup(browser.get("/plan").text, "html.parser").get_text(" ", strip=True)
    assert "191 more that are due after these" in plan

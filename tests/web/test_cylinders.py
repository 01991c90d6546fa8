"""Cylinders, the refrigerant book and the shop's settings over HTTP: what adds up, what is refused, who may."""

from __future__ import annotations

import csv
import io
from datetime import UTC, datetime

import pytest
import uuid6
from bs4 import BeautifulSoup
from sqlalchemy import select

from dry_gauge.core.shop import ShopSettings
from dry_gauge.store.models import Shop
from tests.web.calls import Browser

STAMPED = {
    "name": "Blue 7",
    "kind": "in_use",
    "refrigerant": "R-410A",
    "tare": "6",
    "tare_oz": "4",
    "tare_unit": "lb",
    "water": "31",
    "water_unit": "lb",
    "service_psi": "400",
    "keeper": "van 2",
}
FACTS = {"kind": "split_ac", "refrigerant": "R-410A", "metering": "txv", "seer": 14, "label_charge_g": 3000}


@pytest.fixture
def shop(make_shop):
    return make_shop(FACTS)


def words(answer) -> str:
    return BeautifulSoup(answer.text, "html.parser").get_text(" ", strip=True)


def book(browser, cylinder, what, weight, reason="", **more):
    return browser.post(f"{cylinder}/book", False, what=what, weight=weight, weight_unit="lb", reason=reason, **more)


def top_up(browser, shop, cylinder, weight):
    return browser.post(
        f"/visits/{shop.visit}/entries",
        entry_id=str(uuid6.uuid7()),
        kind="movement",
        way="added",
        weight=weight,
        weight_unit="lb",
        cylinder=cylinder.rpartition("/")[2],
        reason="leak not found",
    )


@pytest.fixture
def cylinder(browser):
    made = browser.post("/cylinders", False, **STAMPED)
    assert made.status_code == 303
    return made.headers["location"]


def test_a_cylinder_is_bought_weighed_drawn_on_and_the_year_adds_up(browser, shop, cylinder):
    assert "Nothing is booked yet" in words(browser.get(cylinder))
    doubtful = book(browser, cylinder, "bought", "24.5")
    assert "24.5 pounds is 24 lb 8.0 oz. Or did you mean 24 lb 5.0 oz?" in words(doubtful)
    assert book(browser, cylinder, "bought", "24.5", choose="24 lb 8.0 oz").status_code == 303
    assert "On the scale it should read 30 lb 12.0 oz" in words(browser.get(cylinder))
    # Weighed with the cylinder: the tare comes off, and the difference is on the book with its reason.
    assert "Say why" in words(book(browser, cylinder, "weighed", "30 lb 4 oz", with_cylinder="yes"))
    assert book(browser, cylinder, "weighed", "30 lb 4 oz", "yearly count", with_cylinder="yes").status_code == 303
    added = top_up(browser, shop, cylinder, "3 lb")
    assert added.status_code == 200
    page = words(browser.get(cylinder))
    assert "21 lb 0.0 oz" in page
    assert "Signal House, U-1" in page
    year = datetime.now(UTC).astimezone().year
    (sums,) = csv.DictReader(io.StringIO(browser.get(f"/cylinders/year.csv?year={year}").text))
    assert (sums["bought_g"], sums["charged_g"], sums["counted_g"], sums["closing_g"]) == ("11113", "1361", "-227", "9525")
    assert sums["adds_up"] == "yes"
    rows = list(csv.DictReader(io.StringIO(browser.get(f"/cylinders/book.csv?year={year}").text)))
    assert [(row["from"], row["to"]) for row in rows] == [("supplier", "Blue 7"), ("Blue 7", "count"), ("Blue 7", "unit")]
    assert "45 % a year" in words(browser.get("/cylinders"))
    assert "first addition on record" in words(browser.get(f"/units/{shop.unit}"))


@pytest.mark.parametrize(
    ("wrong", "says"),
    [
        ({"name": ""}, "A name is needed"),
        ({"kind": "barrel"}, "what sort"),
        ({"refrigerant": ""}, "Choose its refrigerant"),
        ({"refrigerant": "R-999"}, "R-999"),
        ({"tare": "-3"}, "cannot be negative"),
        ({"tare": "six"}, "not a weight"),
        ({"service_psi": "4"}, "whole number from 50"),
        ({"retest_by": "soon"}, "is a date"),
        ({"name": "x" * 61}, "too long"),
    ],
)
def test_a_cylinder_that_cannot_be_is_refused_and_what_was_typed_stays(browser, wrong, says):
    refused = browser.post("/cylinders", False, **{**STAMPED, **wrong})
    assert refused.status_code == 422
    assert says in words(refused)
    assert 'value="van 2"' in refused.text
    assert "No cylinder is on record yet" in words(browser.get("/cylinders"))


def test_the_book_refuses_what_did_not_happen(browser, cylinder):
    assert "already" in words(browser.post("/cylinders", False, **STAMPED))
    assert book(browser, cylinder, "bought", "20").status_code == 303
    for what, weight, says in (
        ("lost", "30", "more than it holds"),
        ("stolen", "1", "Choose what happened"),
        ("bought", "", "Type a weight"),
        ("bought", "5000 kg", "more than any cylinder"),
        ("weighed", "2", "less than its tare"),
    ):
        refused = book(browser, cylinder, what, weight, "counted", **({"with_cylinder": "yes"} if what == "weighed" else {}))
        assert refused.status_code == 422
        assert says in words(refused)
    assert "book that out first" in words(browser.post(cylinder, False, keeper="", retired="yes"))
    assert book(browser, cylinder, "reclaimed", "20", "all of it").status_code == 303
    assert browser.post(cylinder, False, keeper="", retired="yes").status_code == 303
    assert "Blue 7" not in words(browser.get("/cylinders"))
    assert "is retired" in words(book(browser, cylinder, "bought", "20"))


def test_recovered_refrigerant_moves_between_cylinders_within_their_limits(browser, shop, as_shop):
    recovery = {**STAMPED, "kind": "recovery", "water": "47.7", "retest_by": "2038-01-01"}
    first, second, small = (
        browser.post("/cylinders", False, **{**recovery, "name": name, **more}).headers["location"]
        for name, more in (("Grey 1", {}), ("Grey 2", {}), ("Small", {"water": "4"}))
    )
    browser.get(f"/visits/{shop.visit}")
    assert (
        browser.post(
            f"/visits/{shop.visit}/entries",
            entry_id=str(uuid6.uuid7()),
            kind="movement",
            way="recovered",
            weight="6 lb",
            weight_unit="lb",
            cylinder=first.rpartition("/")[2],
        ).status_code
        == 200
    )
    move = {"what": "moved", "weight": "5 lb"}
    assert "Choose the other cylinder" in words(book(browser, first, **move))
    assert "Choose the other cylinder" in words(book(browser, first, **move, into="that one"))
    assert "beyond 80 %" in words(book(browser, first, **move, into=small.rpartition("/")[2]))
    assert book(browser, first, **move, into=second.rpartition("/")[2]).status_code == 303
    assert "1 lb 0.0 oz" in words(browser.get(first))
    assert "Moved, Grey 1 to Grey 2" in words(browser.get(second))
    assert "5 lb 0.0 oz" in words(browser.get(second))


def test_who_reads_along_books_nothing_and_another_shop_sees_nothing(browser, shop, make_shop, cylinder):
    reader, stranger = Browser(browser.base), Browser(browser.base)
    reader.sign_in(shop.logins["read_only"])
    reader.get(cylinder)
    assert book(reader, cylinder, "bought", "20").status_code == 403
    assert reader.post("/cylinders", False, **{**STAMPED, "name": "Mine"}).status_code == 403
    stranger.sign_in(make_shop().logins["technician"])
    assert stranger.get(cylinder).status_code == 404
    assert "Blue 7" not in stranger.get("/cylinders/book.csv").text


def test_a_spreadsheet_finds_no_formula_in_the_book(browser, cylinder):
    book(browser, cylinder, "bought", "20")
    book(browser, cylinder, "lost", "1", '=HYPERLINK("x")')
    assert "'=HYPERLINK" in browser.get("/cylinders/book.csv").text


def test_a_lead_sets_the_rule_and_it_stands_beside_every_rate(browser, shop, cylinder):
    book(browser, cylinder, "bought", "20")
    top_up(browser, shop, cylinder, "1 lb")
    lead = Browser(browser.base)
    lead.sign_in(shop.logins["lead"])
    form = BeautifulSoup(lead.get("/register/settings").text, "html.parser").select_one(".settings-form")
    fields = {one["name"]: one.get("value", "") for one in form.select("input[name]") if one["name"] != "csrftoken"}
    fields |= {"method": "rolling", "vacuum_school": "common", "recovery": "Small = 0\nLarge = 10"}
    browser.get("/register/settings")
    assert browser.post("/register/settings", False, **fields).status_code == 403
    for wrong, says in (
        ({"comfort": "lots"}, "Comfort"),
        ({"comfort": "900"}, "Comfort: at most 200."),
        ({"recovery": "Small = 0\nLarge = 40"}, "The table of vacuums, line 2: at most 29.9."),
        ({"hours_high": "9999"}, "Hours at full load, high end: at most 8784."),
        ({"recovery": "Small"}, "write it as"),
        ({"small_kg": "-2"}, "cannot be negative"),
        ({"price_per_kg": "1e9"}, "only a number"),
        ({"food_limit_f": "400"}, "Food's limit: at most 70."),
        ({"food_minutes": ""}, "Minutes above food's limit"),
    ):
        refused = lead.post("/register/settings", False, **{**fields, **wrong})
        assert refused.status_code == 422
        assert says in words(refused)
    fields |= {
        "rule_name": "Harbour rule 7",
        "from_kg": "5",
        "small_kg": "5",
        "comfort": "10",
        "food_limit_f": "39",
        "food_minutes": "120",
    }
    assert lead.post("/register/settings", False, **fields).status_code == 303
    unit = words(browser.get(f"/units/{shop.unit}"))
    assert "Harbour rule 7" in unit
    assert "over it, find and mend the leak" in unit
    assert "Small: to 0 psig" in words(browser.get(f"/visits/{shop.visit}?at=recover"))
    box = BeautifulSoup(browser.get(f"/visits/{shop.visit}?at=box").text, "html.parser")
    assert [box.select_one(f"#food-{name}")["value"] for name in ("limit", "minutes")] == ["39", "120"]


def test_who_reads_metric_units_sets_the_shop_in_them_and_what_was_not_touched_stays(browser, shop, owner):
    lead = Browser(browser.base)
    lead.sign_in(shop.logins["lead"])
    lead.get("/register/settings")
    lead.post("/me/preferences", False, temperature_unit="C", pressure_unit="kPa", weight_unit="kg")
    form = BeautifulSoup(lead.get("/register/settings").text, "html.parser").select_one(".settings-form")
    fields = {one["name"]: one.get("value", "") for one in form.select("input[name]") if one["name"] != "csrftoken"}
    fields |= {one["name"]: one.get_text() for one in form.select("textarea")}
    fields |= {one["name"]: one.select_one("option[selected]")["value"] for one in form.select("select")}
    assert (fields["food_limit_f"], fields["small_kg"], fields["hold_loss_psi_h"]) == ("5", "6.8", "1.72")
    assert "High pressure, 200 lb and more = 67.5" in fields["recovery"]
    assert "Very high pressure = 101.3" in fields["recovery"]
    for line, says in (("Mine = 300", "above atmospheric"), ("Mine = 40 torr", "kPa absolute"), ("Mine = -4", "no pressure")):
        refused = lead.post("/register/settings", False, **{**fields, "recovery": line})
        assert (refused.status_code, says in words(refused)) == (422, True)
    fields["recovery"] += "\nMine = 50 kPa\nTheirs = 10 inHg"
    assert "Food's limit: at most 21.1." in words(lead.post("/register/settings", False, **{**fields, "food_limit_f": "30"}))
    assert lead.post("/register/settings", False, **{**fields, "food_limit_f": "4", "price_per_kg": "20"}).status_code == 303
    with owner.begin() as connection:
        kept = connection.execute(select(Shop.settings).where(Shop.id == shop.id)).scalar_one()
    assert kept["food_limit_f"] == pytest.approx(39.2)
    usual = ShopSettings()
    assert (kept["small_kg"], kept["from_kg"], kept["hold_loss_psi_h"]) == (usual.small_kg, usual.from_kg, usual.hold_loss_psi_h)
    *same, mine, theirs = kept["recovery"]
    assert same == [row.model_dump() for row in usual.recovery]
    assert (mine["to_inhg"], theirs["to_inhg"]) == (pytest.approx(15.16, abs=0.01), 10)

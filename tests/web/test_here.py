"""A visit opened where one stands: found while typing, put down in a few facts, filled from a unit like it or from one sheet."""

from __future__ import annotations

import json
from datetime import UTC, datetime, timedelta
from urllib.parse import urlencode

import pytest
import uuid6
from bs4 import BeautifulSoup
from sqlalchemy import func, insert, select

from dry_gauge.store.models import Site, Unit, Visit
from tests.conftest import FACTS
from tests.web.calls import Browser
from tests.web.test_register import words

NEW = {
    "site": "Kiln Lane Pottery",
    "unit": "AC-4, drying room",
    "kind": "split_ac",
    "refrigerant": "R-410A",
    "metering": "txv",
    "size": "3 ton",
    "model": "NR-036",
}


def parsed(answer) -> BeautifulSoup:
    return BeautifulSoup(answer.text, "html.parser")


def test_a_unit_in_no_register_is_registered_as_its_visit_opens_and_twice_is_once(browser, owner, shop):
    sent = NEW | {"visit_id": str(uuid6.uuid7())}
    first, again = browser.post("/here", False, **sent), browser.post("/here", False, **sent)
    assert (first.status_code, first.headers["location"]) == (303, f"/visits/{sent['visit_id']}?at=arrive")
    assert again.headers["location"] == first.headers["location"]
    with owner.connect() as connection:
        (unit,) = connection.execute(select(Unit).where(Unit.shop_id == shop.id, Unit.id != shop.unit)).all()
        visits = connection.execute(select(func.count()).select_from(Visit).where(Visit.unit_id == unit.id)).scalar_one()
    assert (unit.tag, unit.serves, unit.facts["nominal_capacity_btuh"], visits) == ("AC-4", "drying room", 36000, 1)
    page = parsed(browser.get(f"/units/{unit.id}"))
    assert "SEER" not in page.select_one(".facts").text
    assert "says how far above the outdoor air it may condense" in page.select_one(".facts").text

    # At the same site, whatever its capitals; without a tag it gets the next one of its sort.
    other = browser.post("/here", False, **NEW | {"site": "kiln  lane POTTERY", "unit": "glaze store", "visit_id": ""})
    assert other.status_code == 303
    with owner.connect() as connection:
        sites = connection.execute(select(func.count()).select_from(Site).where(Site.shop_id == shop.id)).scalar_one()
        tags = set(connection.execute(select(Unit.tag).where(Unit.shop_id == shop.id)).scalars())
    assert (sites, tags) == (2, {"U-1", "AC-4", "AC-1"})


def test_what_cannot_be_is_said_beside_its_field_and_nothing_typed_is_lost(browser):
    for field, value, reason in (
        ("site", " ", "Where it is is needed"),
        ("kind", "", "Choose what sort"),
        ("refrigerant", "", "Choose the refrigerant"),
        ("size", "3", "3 of what?"),
        ("seer", "-2", "above zero"),
        ("site", "x" * 201, "too long"),
        ("target_subcooling", "ten", "not a number"),
    ):
        page = browser.post("/here", False, **NEW | {field: value})
        assert page.status_code == 422
        assert reason in parsed(page).select_one(".error[role=alert]").text
        assert "drying room" in page.text


def test_a_unit_like_it_fills_the_rest_and_says_so(browser, owner, shop):
    browser.post("/here", False, **NEW | {"target_subcooling": "9", "seer": "15", "design_box_temp": "36"})
    filled = parsed(browser.post("/here/like", model="nr-036", seer="16"))
    assert "AC-4, Kiln Lane Pottery" in filled.select_one(".here-alike").text
    assert filled.select_one("#h-metering-txv").has_attr("checked")
    assert [filled.select_one(f"#h-{name}")["value"] for name in ("size", "target_subcooling", "seer")] == ["3 ton", "9", "16"]
    assert browser.post("/here/like", model="NR-037").status_code == 204
    browser.post("/here", False, site="Gull Pier", unit="", model="NR-036", kind="split_ac", refrigerant="R-410A")
    with owner.connect() as connection:
        unit = connection.execute(select(Unit).where(Unit.shop_id == shop.id, Unit.tag == "AC-1")).one()
    assert (unit.facts["target_subcooling_f"], unit.label_from) == (9, "as AC-4, Kiln Lane Pottery (same model)")
    assert "design_box_temp_f" not in unit.facts


def test_known_units_are_found_while_typing_and_todays_visit_goes_on(browser, server, shop):
    found = parsed(browser.get("/here/known?site=signal"))
    assert "go on with its visit" in found.text
    assert found.select_one(f"a[href='/visits/{shop.visit}?at=arrive']")
    assert "Nothing known fits" in parsed(browser.get("/here/known?site=%25nowhere")).text
    reader = Browser(server)
    reader.sign_in(shop.logins["read_only"])
    assert reader.get("/here").status_code == 403
    assert reader.post("/here", **NEW).status_code == 403


def test_a_page_of_a_visit_to_come_opens_none_and_waiting_counts_from_when_it_was_begun(browser, server, owner, shop, make_shop):
    with owner.begin() as connection:
        site = connection.execute(select(Unit.site_id).where(Unit.id == shop.unit)).scalar_one()
        unit = uuid6.uuid7()
        connection.execute(insert(Unit).values(shop_id=shop.id, id=unit, site_id=site, tag="U-2", facts=FACTS))
    form = parsed(browser.get("/here")).select_one("form[data-opens]")
    visit = form.select_one("[name=visit_id]")["value"]
    assert form["action"] == f"/units/{unit}/visits"
    ahead = json.loads(parsed(browser.get("/")).body["data-ahead"])
    assert f"/visits/{visit}?at=read&opens={unit}" in ahead
    page = parsed(browser.get(f"/visits/{visit}?at=read&opens={unit}"))
    assert page.body["data-visit"] == visit
    assert page.select_one("#q-suction_pressure")
    assert browser.get(f"/visits/{visit}?at=read").status_code == 404  # nothing of it stays
    assert browser.get(f"/visits/{visit}?at=read&opens={uuid6.uuid7()}").status_code == 404
    stranger = Browser(server)
    stranger.sign_in(make_shop().logins["technician"])
    assert stranger.get(f"/visits/{visit}?opens={unit}").status_code == 404
    reader = Browser(server)
    reader.sign_in(shop.logins["read_only"])
    assert reader.get(f"/visits/{visit}?opens={unit}").status_code == 403
    assert str(unit) not in parsed(reader.get("/")).body["data-ahead"]

    headers = {"x-waited-ms": "600000", "x-quiet": "1", "x-csrftoken": browser.token}
    for _ in range(2):
        assert browser.ask("POST", form["action"], {"visit_id": visit}, **headers).status_code == 204
    with owner.connect() as connection:
        (began,) = connection.execute(select(Visit.planned_for).where(Visit.unit_id == unit)).scalars()
    assert timedelta(minutes=10) <= datetime.now(UTC) - began < timedelta(minutes=11)
    assert not parsed(browser.get("/here")).select_one("form[data-opens]")  # it is gone on with


@pytest.mark.parametrize(
    ("sheet", "kept"),
    [
        ("suction_pressure=118&units=C+bar", "118"),  # absurd in bar: asked about or refused, never lost
        ("suction_pressure=%00118%00&discharge_line_temp=%00hot", "118"),
        ("kind=nonsense&refrigerant=R-0&supply_air_temp=1e99", "1e99"),
        ("liquid_line_temp=" + "9" * 3000, "1e+24"),
        ("filter_dirty=yes&suction_line_temp=-", "Suction line -"),
    ],
)
def test_a_sheet_that_is_odd_is_kept_as_far_as_it_can_be_and_said(browser, shop, sheet, kept):
    there = browser.get(f"/here?{urlencode({'sheet': sheet})}")
    assert there.status_code == 200
    for _ in range(2):
        answer = browser.post(f"/units/{shop.unit}/visits", False, visit_id=str(shop.visit), sheet=sheet)
        assert answer.status_code == 303
    shown = words(browser.get(f"/visits/{shop.visit}?at=read"))
    page = browser.get(f"/visits/{shop.visit}?at=read").text
    assert kept in shown or f'value="{kept}"' in page


def test_an_empty_or_broken_sheet_changes_nothing(browser, shop):
    for sheet in ("", "%", "&&==", "kind=split_ac&units=", "x" * 9000):
        assert browser.get(f"/here?{urlencode({'sheet': sheet})}").status_code == 200
        assert browser.post(f"/units/{shop.unit}/visits", False, visit_id=str(shop.visit), sheet=sheet).status_code == 303
    assert "0 entries" in words(browser.get(f"/visits/{shop.visit}?at=read"))

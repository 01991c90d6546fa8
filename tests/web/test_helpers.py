"""Helpers: cards before a step with consequence, who stands by, and a trail of what was done beyond them."""

from __future__ import annotations

import pytest
import uuid6
from bs4 import BeautifulSoup

from tests.web.calls import Browser
from tests.web.test_register import words


@pytest.fixture
def helper(server, shop):
    browser = Browser(server)
    browser.sign_in(shop.logins["helper"])
    return browser


@pytest.fixture
def lead(server, shop):
    browser = Browser(server)
    browser.sign_in(shop.logins["lead"])
    return browser


def send(browser: Browser, shop, **fields: str):
    return browser.post(f"/visits/{shop.visit}/entries", entry_id=str(uuid6.uuid7()), **fields)


def trail(lead: Browser) -> str:
    return words(lead.get("/register/trail?subject=helpers"))


BYPASS = {"kind": "temporary", "sort": "safety", "where": "low-pressure switch"}
RESET = {"kind": "trip", "event": "reset", "switch": "high-pressure switch"}


def test_a_reset_is_kept_and_told_unless_somebody_stands_by(helper, lead, shop):
    card = helper.get(f"/visits/{shop.visit}?at=look")
    assert "press a reset before the cause is named" in words(card)
    assert send(helper, shop, **RESET).status_code == 200
    assert "high-pressure switch" in words(helper.get(f"/visits/{shop.visit}"))
    told = trail(lead)
    assert "resetting what has tripped" in told
    assert send(helper, shop, kind="stood_by", step="reset", who="Ida technician").status_code == 200
    assert "Ida technician stands by" in words(helper.get(f"/visits/{shop.visit}?at=look"))
    send(helper, shop, **RESET)
    assert trail(lead) == told


def test_what_a_helper_does_not_do_is_told_whoever_stands_by(helper, lead, shop):
    send(helper, shop, kind="stood_by", step="bridge", who="Ida lead")
    assert send(helper, shop, **BYPASS).status_code == 200
    assert "bridging or lifting something" in trail(lead)


@pytest.mark.parametrize("who", ["Ida read_only", "Ida helper", "nobody", ""])
def test_only_a_technician_of_the_shop_stands_by(helper, shop, who):
    assert send(helper, shop, kind="stood_by", step="charge", who=who).status_code == 422


def test_the_shop_sets_its_limits_and_the_trail_says_so(helper, lead, shop):
    form = lead.get("/register/settings")
    assert 'name="limit_reset"' in form.text
    fields = {}
    for field in BeautifulSoup(form.text, "html.parser").select("form.settings-form [name]"):
        chosen = field.select_one("option[selected]")
        fields[field["name"]] = chosen["value"] if chosen else field.get("value") or field.text
    fields.pop("leads_second_step", None)
    assert lead.post("/register/settings", False, **{**fields, "limit_reset": "alone"}).status_code == 303
    assert "a helper, resetting what has tripped: beside to alone" in words(lead.get("/register/trail"))
    assert lead.post("/register/settings", False, **{**fields, "limit_reset": "perhaps"}).status_code == 422
    send(helper, shop, **RESET)
    assert "resetting what has tripped" not in trail(lead)
    assert "a helper: alone" in words(helper.get("/teach"))


def test_a_technician_sees_no_cards_and_a_helper_binds_nobody(browser, helper, shop):
    assert "Not yours" not in words(browser.get(f"/visits/{shop.visit}?at=look"))
    assert helper.get("/").status_code == 200
    warranty = helper.post(f"/units/{shop.unit}/warranty", False, what="Compressor", starts_on="2026-01-01")
    part = helper.post("/parts", False, unit=str(shop.unit), what="Motor")
    assert {warranty.status_code, part.status_code} <= {403}
    assert "A helper does not do this" in words(warranty)

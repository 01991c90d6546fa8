"""The stations over HTTP: a caution at its moment and once, the order of checks, what each page shows of the unit."""

from __future__ import annotations

import uuid6
from bs4 import BeautifulSoup

from tests.web.calls import Browser


def send(browser, shop, **data):
    return browser.post(f"/visits/{shop.visit}/entries", entry_id=str(uuid6.uuid7()), **data)


def part(browser, shop, station, selector):
    page = BeautifulSoup(browser.get(f"/visits/{shop.visit}?at={station}").text, "html.parser")
    return page.select_one(selector).get_text(" ", strip=True)


def test_a_caution_comes_at_its_moment_once_and_others_bring_theirs(browser, shop):
    assert "prove it dead" in part(browser, shop, "look", "#cautions")
    send(browser, shop, kind="caution", code="lock_out")
    assert part(browser, shop, "look", "#cautions") == ""
    send(browser, shop, kind="observation", what="fan_blade_damaged", state="yes")
    assert "cracked or loose blade" in part(browser, shop, "look", "#cautions")
    send(browser, shop, kind="observation", what="ice_on_evaporator_even", state="yes")
    assert "1 more after this" in part(browser, shop, "look", "#cautions")
    assert "locked out until it is replaced" in part(browser, shop, "mend", "#permit")


def test_complaints_order_the_checks_and_answers_tick_them_off(browser, shop):
    send(browser, shop, kind="complaint", sorts="trips_hot_afternoons", words="every day at four")
    checks = BeautifulSoup(browser.get(f"/visits/{shop.visit}?at=arrive").text, "html.parser").select("#checks li")
    assert checks[0].get_text(strip=True).startswith("Condenser face")
    send(browser, shop, kind="observation", what="condenser_dirty", state="no")
    assert "done" in part(browser, shop, "arrive", "#checks li.done")


def test_an_unknown_station_is_the_sheet_and_a_reader_can_send_nothing(browser, shop, server):
    assert "Suction" in part(browser, shop, "nowhere", "#sheet")
    reader = Browser(server)
    reader.sign_in(shop.logins["read_only"])
    for station in ("arrive", "look", "air", "read", "mend", "close"):
        page = BeautifulSoup(reader.get(f"/visits/{shop.visit}?at={station}").text, "html.parser")
        assert not page.select(".station-page .work-form, .tap button:not([disabled])")


def test_a_refused_entry_says_so_beside_its_own_form(browser, shop):
    answer = send(browser, shop, kind="temporary", sort="jumper", beside="ledger-form")
    said = BeautifulSoup(answer.text, "html.parser").select_one("#said-ledger-form")
    assert answer.status_code == 422
    assert "so that someone else finds it" in said.text
    stray = send(browser, shop, kind="temporary", sort="jumper", beside='"><script>')
    assert "<script>" not in stray.text

"""A survey's sheets, and the feet of models that a shop has measured before."""

from __future__ import annotations

import uuid6
from bs4 import BeautifulSoup

from tests.web.test_register import words

THERE = {"kind": "survey", "stands": "curb", "unit": "in", "length": "76", "width": "44", "inner_length": "73",
         "inner_width": "41", "supply_from_left": "4", "supply_from_front": "10", "supply_long": "16", "supply_wide": "24",
         "return_from_left": "52",
         "return_from_front": "8", "return_long": "20", "return_wide": "28"}  # fmt: skip
NEW = {"kind": "new_unit", "unit": "in", "maker": "Norrland", "model": "NR-060-5", "length": "80", "width": "48",
       "recess_length": "77", "recess_width": "45", "supply_from_left": "6", "supply_from_front": "12", "supply_long": "16",
       "supply_wide": "24", "return_from_left": "54", "return_from_front": "10", "return_long": "20",
       "return_wide": "28"}  # fmt: skip


def send(browser, shop, **fields):
    entry = str(uuid6.uuid7())
    assert browser.post(f"/visits/{shop.visit}/entries", entry_id=entry, **fields).status_code == 200
    return entry


def test_the_adapters_sheet_is_there_where_an_adapter_is_needed_and_measured(browser, shop):
    sheet = f"/visits/{shop.visit}/adapter.pdf"
    assert "Measure both first" in words(browser.get(sheet))
    send(browser, shop, **THERE)
    send(browser, shop, **NEW)
    assert "needs no adapter" in words(browser.get(sheet))
    bare = {name: value for name, value in NEW.items() if not name.startswith("recess")}
    send(browser, shop, **{**bare, "supply_from_left": "30"})
    assert "without the curb that the new unit is made for" in words(browser.get(sheet))
    send(browser, shop, **{**NEW, "recess_length": "66", "length": "70", "return_from_left": "44"})
    made = browser.get(sheet)
    assert (made.status_code, made.content[:4]) == (200, b"%PDF")
    assert f"{sheet}" in browser.get(f"/visits/{shop.visit}?at=survey").text


def test_a_models_foot_is_offered_again_the_latest_that_stands(browser, shop, make_shop):
    send(browser, shop, **NEW)
    later = send(browser, shop, **{**NEW, "model": "nr-060-5", "length": "81"})
    send(browser, shop, **{**NEW, "model": ""})
    page = browser.get(f"/visits/{shop.visit}?at=survey").text
    assert page.count("put down") == 1
    assert 'name="length" value="81"' in page
    send(browser, shop, kind="void", voids=later, reason="another unit")
    assert 'name="length" value="80"' in browser.get(f"/visits/{shop.visit}?at=survey").text


def test_what_stands_there_keeps_its_size_in_whatever_unit_it_is_typed_on(browser, shop):
    send(browser, shop, **THERE, weight_lb="640")
    browser.post("/me/preferences", False, temperature_unit="C", weight_unit="kg")
    page = BeautifulSoup(browser.get(f"/visits/{shop.visit}?at=survey").text, "html.parser")
    form = page.select_one("#survey-form")
    shown = {one["name"]: one.get("value", "") for one in form.select("input[name]:not([type=checkbox]):not([type=radio])")}
    assert (shown["length"], shown["weight_lb"]) == ("193.04 cm", "290.3 kg")
    del shown["csrftoken"], shown["entry_id"]
    send(browser, shop, **{**shown, "kind": "survey", "unit": "mm", "height": "900", "stands": "curb"})
    browser.post("/me/preferences", False, temperature_unit="F", weight_unit="lb_oz")
    form = BeautifulSoup(browser.get(f"/visits/{shop.visit}?at=survey").text, "html.parser").select_one("#survey-form")
    values = {name: form.select_one(f"input[name={name}]")["value"] for name in ("length", "supply_wide", "height", "weight_lb")}
    assert values == {"length": "76 in", "supply_wide": "24 in", "height": "35.433 in", "weight_lb": "640 lb"}

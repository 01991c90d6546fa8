"""A micro-channel rooftop cleaned: the wrong cleaner refused, dwell, rinse, evidence at three places, drying, the ledger."""

from __future__ import annotations

import re
from datetime import UTC, datetime

import pytest
import uuid6
from playwright.sync_api import expect

from dry_gauge.notebook.subjects.agenda import TimerBody
from dry_gauge.service.append import Sent, append
from tests.browser.steps import SEVEN, answer, at_visit, findings, go, keep, send, tap, type_all

ROOFTOP = {
    "kind": "package_ac",
    "refrigerant": "R-410A",
    "metering": "txv",
    "nominal_capacity_btuh": 60000,
    "target_subcooling_f": 10,
}


@pytest.mark.parametrize(("size", "scheme"), [("desk", "light"), ("phone", "dark")])
def test_a_micro_channel_rooftop_is_cleaned(open_page, make_shop, size, scheme):
    page = at_visit(open_page(size, scheme), make_shop(ROOFTOP))
    type_all(page, SEVEN)
    go(page, "Look")
    answer(page, "condenser_dirty", "yes")
    go(page, "Mend")
    page.click("summary:has-text('Clean a coil')")
    page.select_option("#cleaning-kind", "micro_channel")
    page.select_option("#cleaning-cleaner", "acid")
    page.fill("#cleaning-ratio", "1 to")
    page.fill("#cleaning-volume", "2")
    tap(page, "#cleaning-form button[type=submit]")
    expect(page.locator("#said-cleaning-form")).to_contain_text("All-aluminium takes only what its maker allows")
    page.select_option("#cleaning-cleaner", "neutral")
    tap(page, "#cleaning-form button[type=submit]")
    expect(page.locator("#said-cleaning-form")).to_contain_text("is no ratio")
    assert page.input_value("#cleaning-volume") == "2"  # nothing typed is lost
    page.fill("#cleaning-ratio", "1:10")
    keep(page, "#cleaning-form button[type=submit]")
    row = page.locator("#cleanings")
    expect(row).to_contain_text("23 fl oz into 233 fl oz of water")
    expect(page.locator("#ledger")).to_contain_text("Electrics bagged at the condenser")
    expect(page.locator("#ledger")).to_contain_text("Fan of the condenser locked out")
    keep(page, "[aria-label='cleaner is on, condenser']")
    expect(page.locator("#timers")).to_contain_text("rinse before it dries")
    tap(page, "[aria-label='It is clean, condenser']")
    expect(row).to_contain_text("rinse it; water through at the top")
    keep(page, "[aria-label='rinsed, from the clean side out, condenser']")
    expect(page.locator("#timers")).not_to_contain_text("rinse before it dries")
    for place in ("top", "middle", "bottom"):
        keep(page, f"[aria-label='Runs through at the {place}, condenser']")
    keep(page, "[aria-label='blown out, condenser']")
    expect(page.locator("#timers")).to_contain_text("dries: run it, then read")
    keep(page, "[aria-label='It is clean, condenser']")
    expect(row).to_contain_text("Cleaning of the condenser: clean")
    expect(page.locator("#actions")).to_contain_text("Condenser cleaned")
    assert findings(page) == []
    # Wet until said; bags and lock are still on the ledger, and stand in the way of closing.
    go(page, "Read")
    expect(page.locator("body")).to_contain_text("coil wet")
    go(page, "Close")
    expect(page.locator("#obstacles")).to_contain_text("Electrics bagged at the condenser")
    # Read again: the ladder shows what it was before.
    go(page, "Mend")
    for label in ("Electrics bagged at the condenser", "Fan of the condenser locked out"):
        keep(page, f"[aria-label='Put back: {label}']")
    expect(page.locator("#ledger .line-item.open")).to_have_count(0)
    # Dry, run and read again: what it moved stands there as a pair.
    go(page, "Read")
    page.click("#banner button:has-text('coil is dry')")
    expect(page.locator("#banner")).not_to_contain_text("Coil wet")
    for name, value in (("liquid_pressure", "318"), ("supply_air_temp", "56.5"), ("suction_pressure", "118")):
        page.fill(f"#q-{name}", value)
        page.press(f"#q-{name}", "Enter")
        expect(page.locator(f"#said-{name} .kept")).to_have_count(1)
    go(page, "Mend")
    pair = page.locator(".cleaned")
    expect(pair).to_contain_text("365.0 psig")
    expect(pair).to_contain_text("318.0 psig")
    expect(pair).to_contain_text("Condenser gap")
    assert findings(page) == []


@pytest.mark.parametrize(("size", "scheme"), [("desk", "dark"), ("phone", "light")])
def test_the_weather_at_the_roof(open_page, make_shop, size, scheme):
    page = at_visit(open_page(size, scheme), make_shop(ROOFTOP))
    go(page, "Arrive")
    keep(page, "[aria-label='Weather: rain']")
    page.click("summary:has-text('How warm and damp')")
    page.fill("#weather-temp", "190")
    tap(page, "#weather-form button[type=submit]")
    expect(page.locator("#said-weather-form")).to_contain_text("a thermometer can show")
    page.fill("#weather-temp", "94")
    page.fill("#weather-humidity", "60")
    keep(page, "#weather-form button[type=submit]")
    expect(page.locator("#weather")).to_contain_text("Rain, 94.0 °F, 60 % humidity, feels like 110")
    go(page, "Electrical")
    expect(page.locator("#cautions")).to_contain_text("Rain: no live panel")
    keep(page, "#cautions button")
    expect(page.locator("#cautions")).not_to_contain_text("Rain")
    go(page, "Arrive")
    keep(page, "[aria-label='Weather: thunder']")
    expect(page.locator("#cautions")).to_contain_text("Thunder: off the roof")
    expect(page.locator("body")).to_contain_text("Off the roof: since the last thunder")
    keep(page, "#cautions button")
    keep(page, "[aria-label='Weather: thunder']")  # heard again
    expect(page.locator("#cautions")).to_contain_text("Thunder: off the roof")
    assert findings(page) == []


@pytest.mark.parametrize(("size", "scheme"), [("desk", "dark")])
def test_a_cleaning_can_end_as_a_quote(open_page, make_shop, size, scheme):
    page = at_visit(open_page(size, scheme), make_shop(ROOFTOP))
    go(page, "Mend")
    send(page, "cleaning-form", dirt="salt", rows="2")
    row = page.locator("#cleanings")
    expect(row).to_contain_text("two rows: split it")
    tap(page, "#cleanings button:has-text('quote it')")
    expect(row).to_contain_text("Cleaning of the condenser: to be quoted")


@pytest.mark.parametrize("size", ["desk", "phone"])
def test_a_timer_that_comes_due_rings_once(open_page, make_shop, as_shop, size):
    shop, page = make_shop(ROOFTOP), open_page(size, "light")
    page.add_init_script("window.buzzed = 0; navigator.vibrate = () => { window.buzzed += 1; return true; };")
    with as_shop(shop) as connection:
        dwell = Sent(uuid6.uuid7(), TimerBody(what="Cleaner on the condenser", minutes=0.25))
        append(connection, shop.someone("technician"), shop.visit, dwell, datetime.now(UTC))
    at_visit(page, shop)
    go(page, "Mend")
    expect(page.locator("#timers")).to_contain_text(re.compile(r"min left, due \d\d:\d\d"))
    expect(page.locator("#timers")).to_contain_text("A locked phone may stay silent")
    expect(page.locator("html.awake")).to_have_count(1)  # the screen stays on
    expect(page.locator("#line")).to_have_text("Time: Cleaner on the condenser", timeout=40_000)
    assert page.title().startswith("Time: ")
    expect(page.locator("html.awake")).to_have_count(0)
    page.wait_for_timeout(6000)  # it counts on, and does not ring again
    assert page.evaluate("window.buzzed") == 1
    page.reload()
    page.wait_for_timeout(1000)
    assert page.evaluate("window.buzzed") == 0  # over before this page was opened

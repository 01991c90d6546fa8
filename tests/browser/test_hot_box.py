"""A hot cooler as it is walked, from product at risk to the forecast met; a freezer whose defrost never ends by temperature."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect
from sqlalchemy import text

from dry_gauge.bench.box import Box, pull_down
from dry_gauge.core.quantities import to_fahrenheit, to_kelvin
from dry_gauge.notebook.subjects.defrosts import DefrostBody
from dry_gauge.notebook.subjects.movements import MovementBody
from dry_gauge.notebook.subjects.readings import ReadingBody
from tests.browser.steps import add_cylinders, at_visit, findings, go, send, show, tap

COOLER = {"kind": "walk_in_cooler", "refrigerant": "R-448A", "metering": "txv", "receiver": True, "design_box_temp_f": 38}
FREEZER = {"kind": "walk_in_freezer", "refrigerant": "R-404A", "metering": "txv", "receiver": True, "design_box_temp_f": -5}
BOX = Box(to_kelvin(80), to_kelvin(38), to_kelvin(60), to_kelvin(52), 0.2, 0.015, 0.004, 2.0, 0.02)


@pytest.mark.parametrize(("size", "scheme"), [("desk", "light"), ("phone", "dark")])
def test_a_hot_cooler_from_arriving_to_the_forecast_met(open_page, make_shop, wrote, owner, size, scheme):
    shop = make_shop(COOLER)
    at, air, product = pull_down(BOX, 400)
    told = [
        (70 - when, ReadingBody(quantity="box_air_temp", value=round(to_fahrenheit(temp), 1), unit="F"))
        for when, temp in zip(at[:140:14], air[:140:14], strict=True)
    ]
    told += [
        (70 - when, ReadingBody(quantity="product_temp", place="milk", value=round(to_fahrenheit(temp), 1), unit="F"))
        for when, temp in zip(at[:140:42], product[:140:42], strict=True)
    ]
    wrote(shop, *sorted(told, key=lambda one: -one[0]))
    page = at_visit(open_page(size, scheme), shop)
    go(page, "Box")
    found = page.locator("#box-found")
    expect(found.locator(".box-headline")).to_contain_text("Box air: 38.0 °F ")
    expect(found).to_contain_text("in nine of ten such boxes")
    expect(found).to_contain_text("no charge for a pull-down")
    # Food: its limit, since when it is warm; the order of work follows, and the owner's decision ends it.
    send(page, "food-form", product="milk", limit="forty")
    expect(page.locator("#said-food-form")).to_contain_text("The limit is a number")
    assert page.input_value("#food-limit") == "forty"
    page.fill("#food-limit", "41")
    page.fill("#food-warm", "160")
    tap(page, "#food-form button[type=submit]")
    expect(found).to_contain_text("Food first: tell the owner")
    expect(found).to_contain_text("min above its limit")
    go(page, "Close")
    expect(page.locator("#obstacles")).to_contain_text("Milk: ")
    go(page, "Box")
    page.fill("#decision-1 [name=told]", "Ms. Curd")
    page.locator("label[for=decision-what-1-moved]").click()
    tap(page, "#decision-1 button[type=submit]")
    expect(found).to_contain_text("Told: Ms. Curd moves it.")
    expect(found).not_to_contain_text("Food first")
    # What was looked at, and the control against what is proposed.
    tap(page, "[aria-label='Door closes by itself, frame heater warm: not so']")
    send(page, "setting-form", cut_out_psig="20", cut_in_psig="23", coldest_f="20")
    expect(found).to_contain_text("So narrow a difference short-cycles")
    expect(found).to_contain_text("Proposed: out 4")
    # A door that stands open is marked, and left out.
    tap(page, "button:has-text('door opens')")
    expect(page.locator("button:has-text('door shuts')")).to_be_visible()
    tap(page, "button:has-text('door shuts')")
    assert findings(page) == []
    show(page, size, "ladder")
    expect(page.locator(f".only-{size} .pull-down").first).to_be_visible()
    show(page, size, "sheet")
    # It gets where it was said to be: the headline says so, and nothing that was read is lost.
    page.fill("#q-box_air_temp", "38.4")
    page.press("#q-box_air_temp", "Enter")
    expect(found.locator(".box-headline")).to_contain_text("Box air: at 38.0 °F")
    with owner.begin() as connection:
        kept = connection.execute(
            text("SELECT count(*) FROM entry WHERE body->>'kind' = 'reading' AND visit_id = :visit"), {"visit": shop.visit}
        ).scalar_one()
    assert kept == len(told) + 1


@pytest.mark.parametrize(("size", "scheme"), [("desk", "dark"), ("phone", "light")])
def test_a_freezer_whose_defrost_never_ends_by_temperature(open_page, make_shop, wrote, size, scheme):
    shop = make_shop(FREEZER)
    wrote(
        shop,
        (45, DefrostBody(mark="called")),
        (44, DefrostBody(mark="fan_stopped")),
        (43, DefrostBody(mark="heaters", amps=4.1)),
        (5, DefrostBody(mark="ended_by_time")),
    )
    page = at_visit(open_page(size, scheme), shop)
    go(page, "Controls")
    page.click("summary:has-text('Defrost, tapped along')")
    tap(page, "button[value=ice_left]")
    found = page.locator("#controls-found")
    expect(found).to_contain_text("Ended by time after 40 min with ice left")
    expect(found.locator("ol li").first).to_contain_text("Heaters, each one's amps")
    go(page, "Close")
    expect(page.locator("#obstacles")).to_contain_text("Ice was left after the defrost")


def test_a_unit_without_a_box_has_no_such_station(open_page, make_shop):
    page = at_visit(open_page("desk", "light"), make_shop())
    expect(page.locator(".stations a:has-text('Box')")).to_have_count(0)


@pytest.mark.parametrize(("size", "scheme"), [("desk", "dark"), ("phone", "light")])
def test_a_cooler_is_charged_by_its_glass_in_small_steps(open_page, make_shop, wrote, owner, size, scheme):
    shop = make_shop({**COOLER, "label_charge_g": 3000})
    with owner.begin() as connection:
        add_cylinders(connection, shop, "R-448A")
        blue = connection.execute(text("SELECT id FROM cylinder WHERE shop_id = :shop AND name = 'Blue'"), {"shop": shop.id})
        poured = {"way": "trimmed", "cylinder": blue.scalar(), "reason": "glass bubbles, leak mended"}
    box = [
        (minutes, ReadingBody(quantity="box_air_temp", value=52 - (60 - minutes) * 0.08, unit="F"))
        for minutes in range(60, 0, -6)
    ]
    told = [*box, *((minutes, MovementBody(grams=110, **poured)) for minutes in (50, 4))]
    wrote(shop, *sorted(told, key=lambda one: -one[0]))
    page = at_visit(open_page(size, scheme), shop)
    page.goto(f"/visits/{shop.visit}?at=weigh")
    steps = page.locator(".small-steps")
    expect(steps).to_contain_text(re.compile(r"Wait ([6-9]|1[01]) min more"))  # of fifteen
    expect(steps.locator("tbody tr")).to_have_count(2)
    expect(steps.locator("tbody tr").first).to_contain_text("box fell 4.8 °F an hour")
    tap(page, "[aria-label='Glass: bubbles']")
    expect(steps.locator("tbody tr").last).to_contain_text("bubbles")
    assert findings(page) == []

"""A change-out is measured on the roof: what does not fit one way fits turned, and numbers in another unit are asked about."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from tests.browser.steps import at_visit, findings, keep, show, tap

THERE = {"s-length": "76", "s-width": "44", "s-inner-length": "73", "s-inner-width": "41", "s-supply-from_left": "4",
         "s-supply-from_front": "10", "s-supply-long": "16", "s-supply-wide": "24", "s-return-from_left": "52",
         "s-return-from_front": "8", "s-return-long": "20", "s-return-wide": "28", "s-volts": "208"}  # fmt: skip
NEW = {"u-maker": "Norrland", "u-length": "6 ft", "u-width": "48", "u-recess-length": "77", "u-recess-width": "45",
       "u-supply-from_left": "58", "u-supply-from_front": "12", "u-supply-long": "16", "u-supply-wide": "24",
       "u-return-from_left": "6", "u-return-from_front": "10", "u-return-long": "20", "u-return-wide": "71.1 cm",
       "u-volts": "208"}  # fmt: skip


def fill(page, values):
    for name, value in values.items():
        page.fill(f"#{name}", value)


@pytest.mark.parametrize(("size", "scheme"), [("desk", "light"), ("phone", "dark")])
def test_a_unit_fits_turned(open_page, shop, size, scheme):
    page = at_visit(open_page(size, scheme), shop)
    page.goto(f"/visits/{shop.visit}?at=close")
    page.click("a:has-text('Survey for a new unit')")
    expect(page.locator("#survey-verdict")).to_contain_text("Measure what stands there")
    fill(page, {**THERE, "s-supply-long": "90"})
    tap(page, "#survey-form button[type=submit]")
    expect(page.locator("#said-survey-form")).to_contain_text("beyond 76 by 44 in.")
    expect(page.locator("#s-return-wide")).to_have_value("28")  # nothing typed is lost
    page.fill("#s-supply-long", "16")
    keep(page, "#survey-form button[type=submit]")
    if not page.locator("#new-unit-form").is_visible():
        page.click("summary:has-text('What is to stand there')")
    fill(page, {**NEW, "u-length": "203", "u-width": "122", "u-recess-length": "", "u-recess-width": ""})
    tap(page, "#new-unit-form button[type=submit]")
    expect(page.locator("#said-new-unit-form")).to_contain_text("is it in cm?")
    fill(page, NEW)
    tap(page, "#new-unit-form button[type=submit]")
    expect(page.locator("#said-new-unit-form")).to_contain_text("that cannot be")  # 6 ft is less than its recess
    page.fill("#u-length", "80")
    keep(page, "#new-unit-form button[type=submit]")
    expect(page.locator("#survey-verdict")).to_contain_text("Fits, turned half around")
    assert findings(page) == []
    show(page, size, "ladder")
    expect(page.locator(".survey-panel .change-out").first).to_be_visible()
    expect(page.locator(".survey-others figcaption").first).to_contain_text("as the old one stood: fits with an adapter")
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    sheet = page.request.get(f"/visits/{shop.visit}/survey.pdf")
    assert sheet.body().startswith(b"%PDF")

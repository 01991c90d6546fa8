"""A heat pump that is turned over, and a change that only a clock tells of: what was read before is not of now."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from tests.browser.steps import SEVEN, answer, at_visit, go, show, type_all

HEAT_PUMP = {"kind": "split_heat_pump", "refrigerant": "R-410A", "metering": "txv"}
IN_HEATING = {
    "outdoor_air_temp": "42", "return_air_temp": "70", "return_air_wet_bulb": "57", "supply_air_temp": "98",
    "suction_pressure": "92", "suction_line_temp": "36", "liquid_pressure": "340", "liquid_line_temp": "95",
}  # fmt: skip


@pytest.mark.parametrize(("size", "scheme"), [("desk", "light"), ("phone", "dark")])
def test_who_typed_before_turning_it_over_says_so_with_one_touch(open_page, make_shop, size, scheme):
    page = at_visit(open_page(size, scheme), make_shop(HEAT_PUMP))
    page.goto(f"{page.url}?at=read")
    type_all(page, IN_HEATING)
    page.click("label[for=mode-heating]")
    banner = page.locator("#banner")
    expect(banner).to_contain_text("Read in cooling, and it runs in heating")
    expect(page.locator("#said-suction_pressure")).to_contain_text("in cooling")
    expect(page.locator("#said-outdoor_air_temp")).not_to_contain_text("in cooling")
    expect(page.locator("#q-suction_pressure")).to_have_value("92")  # kept, and judged by nobody
    show(page, size, "ladder")
    expect(page.locator("#ladder svg.ladder:visible")).not_to_contain_text("Air rise")
    show(page, size, "sheet")
    banner.get_by_role("button", name="it ran in heating already").click()
    expect(banner).not_to_contain_text("Read in cooling")
    show(page, size, "ladder")
    expect(page.locator("#ladder svg.ladder:visible")).to_contain_text("Air rise")
    # The coil that is matted is named by where it stands, and judged by what it does.
    show(page, size, "sheet")
    go(page, "Look")
    answer(page, "condenser_dirty", "yes")
    show(page, size, "judge")
    expect(page.locator(".next h3")).to_have_text("Mend the air first: outdoor coil dirty")
    page.click(".next a.button")
    expect(page.locator("#sight-condenser_dirty")).to_be_in_viewport()


@pytest.mark.parametrize(("size", "scheme"), [("desk", "dark"), ("phone", "light")])
def test_a_change_that_a_clock_tells_of_empties_what_was_read_before_it(open_page, shop, size, scheme):
    page = at_visit(open_page(size, scheme), shop)
    page.goto(f"{page.url}?at=read")
    type_all(page, SEVEN)
    clock = page.locator("form:has(input[name=event][value=changed]) input[name=minutes_ago]")
    clock.fill("0")
    clock.press("Enter")
    expect(page.locator("#q-suction_pressure")).to_have_value("")
    expect(page.locator("#q-suction_line_temp")).to_have_value("")
    expect(page.locator("#q-outdoor_air_temp")).to_have_value("90")
    page.fill("#q-suction_pressure", "120")
    page.press("#q-suction_pressure", "Enter")
    expect(page.locator("#said-suction_pressure")).to_contain_text("kept")
    page.reload()
    expect(page.locator("#q-suction_pressure")).to_have_value("120")
    expect(page.locator("#q-suction_line_temp")).to_have_value("")

"""A technician's hour in a real browser: type, see, doubt, take back, lose the signal, come back tomorrow."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import sign_in, sign_in_by_hand
from tests.browser.steps import SEVEN, at_visit, show, type_all


def ladder(page: Page, size: str):
    return page.locator(f".only-{size} svg.ladder")


@pytest.mark.parametrize("scheme", ["light", "dark"])
@pytest.mark.parametrize("size", ["desk", "phone"])
def test_from_sign_in_to_a_judged_kept_visit(open_page, shop, size, scheme):
    page = open_page(size, scheme)
    sign_in_by_hand(page, shop.logins["technician"])
    page.click(".call:has-text('Signal House')")
    expect(page.locator("#complaint-form")).to_be_visible()
    page.click(".stations a:has-text('Read')")
    expect(page.locator("#judge h2")).to_have_text("Nothing read yet")
    type_all(page, SEVEN)
    expect(page.locator("#said-liquid_pressure .kept")).to_be_visible()
    show(page, size, "ladder")
    expect(ladder(page, size).locator(".plate[data-gap=superheat]")).to_contain_text("Superheat")
    expect(ladder(page, size)).to_contain_text("liquid line")  # not read: shown where it would land
    show(page, size, "sheet")
    page.fill("#q-liquid_line_temp", "100")
    page.keyboard.press("Enter")
    show(page, size, "ladder")
    expect(ladder(page, size).locator(".plate[data-gap=subcooling]")).to_contain_text("right")
    show(page, size, "judge")
    expect(page.locator(".verdict")).to_contain_text("Waits for")
    expect(page.locator(".next")).to_contain_text("Prove the air")

    # The next check leads to its switch; both coils proven and time said, the verdict is released.
    page.click(".next a")
    for what in ("evaporator_air_proven", "condenser_air_proven"):
        page.click(f"label[for=s-{what}-yes]")
        expect(page.locator(f"#s-{what}-yes")).to_be_checked()
    page.fill("#c-started", "20")
    page.keyboard.press("Enter")
    show(page, size, "judge")
    expect(page.locator(".verdict h2")).to_have_text("Refrigerant side is right")

    # Take one back: its field empties, the ladder and the verdict follow, the entry stays visible.
    show(page, size, "timeline")
    page.click("[aria-label^='Take back Liquid line']")
    expect(page.locator(".entries .voided")).to_contain_text("Liquid line")
    show(page, size, "sheet")
    expect(page.locator("#q-liquid_line_temp")).to_have_value("")
    show(page, size, "judge")
    expect(page.locator(".verdict h2")).to_have_text("Not enough to say")

    page.reload()
    for name, value in SEVEN.items():
        expect(page.locator(f"#q-{name}")).to_have_value(value)
    show(page, size, "timeline")
    expect(page.locator("#timeline h2")).to_contain_text("12 entries, 1 taken back")


@pytest.mark.parametrize("size", ["desk", "phone"])
def test_units_switch_in_one_tap_everywhere(open_page, shop, size):
    page = at_visit(open_page(size), shop)
    type_all(page, SEVEN)
    expect(page.locator("#said-liquid_pressure .kept")).to_be_visible()
    page.click(".menu summary")
    for name, value in (("temperature_unit", "C"), ("pressure_unit", "kPa"), ("clock", "12")):
        with page.expect_navigation():
            page.click(f"button[name={name}][value='{value}']")
    page.click(".menu summary")
    expect(page.locator("#q-outdoor_air_temp")).to_have_value("32.2")
    expect(page.locator("#q-suction_pressure")).to_have_value("827")
    show(page, size, "ladder")
    expect(ladder(page, size)).to_contain_text("32.2")
    show(page, size, "sheet")
    page.fill("#q-liquid_line_temp", "37.8")
    page.keyboard.press("Enter")
    expect(page.locator("#said-liquid_line_temp .kept")).to_have_text(re.compile(r"kept \d\d?:\d\d [ap]m"))
    show(page, size, "timeline")
    expect(page.locator("#timeline")).to_contain_text("37.8 °C")
    expect(page.locator("#timeline .entries > li").first).to_contain_text(re.compile(r"\d\d?:\d\d [ap]m"))


def test_a_refused_value_stays_in_its_field_with_the_reason(open_page, shop):
    page = at_visit(open_page(), shop)
    page.fill("#q-suction_pressure", "1580")
    page.keyboard.press("Enter")
    expect(page.locator("#said-suction_pressure .error")).to_contain_text("decimal point")
    expect(page.locator("#q-suction_pressure")).to_have_value("1580")
    expect(page.locator("#timeline")).to_contain_text("Nothing yet")
    page.fill("#q-suction_pressure", "118")
    page.keyboard.press("Enter")
    expect(page.locator("#said-suction_pressure .kept")).to_be_visible()
    expect(page.locator("#timeline")).to_contain_text("118 psig")


def test_a_paste_fills_the_rows_from_here_on(open_page, shop):
    page = at_visit(open_page(), shop)
    page.fill("#note-text", "as found")
    page.click("#note-form button")
    expect(page.locator("#entries > li")).to_have_count(1)
    page.click("#q-outdoor_air_temp")
    page.evaluate(
        """() => {
          const data = new DataTransfer();
          data.setData("text", "90\\n76\\nwet\\n55 F\\n120 psi\\n");
          const paste = new ClipboardEvent("paste", {clipboardData: data, bubbles: true, cancelable: true});
          document.activeElement.dispatchEvent(paste);
        }"""
    )
    expect(page.locator("#said-suction_pressure .kept")).to_be_visible()
    expect(page.locator("#said-return_air_wet_bulb .error")).to_contain_text("not a number")
    expect(page.locator("#q-return_air_wet_bulb")).to_have_value("wet")
    expect(page.locator("#timeline h2")).to_contain_text("5 entries")
    expect(page.locator("#entries > li")).to_have_count(5)  # queued behind each other, each line comes once


def test_several_readings_in_words_are_read_back_and_then_kept(open_page, shop):
    page = at_visit(open_page("phone"), shop)
    page.click("#say summary")
    page.fill("#said-text", "suction one eighteen, liquid line ninety eight point five, moon full")
    page.click("#say-form button")
    expect(page.locator("#read-back")).to_contain_text("Suction pressure 118 psig")
    expect(page.locator("#timeline")).to_contain_text("Nothing yet")
    page.fill("#said-text", "suction one eighteen, liquid line ninety eight point five")
    page.click("#say-form button")
    expect(page.locator("#read-back")).not_to_contain_text("moon")
    page.click("#keep-said")
    expect(page.locator("#q-suction_pressure")).to_have_value("118")
    expect(page.locator("#q-liquid_line_temp")).to_have_value("98.5")
    expect(page.locator("#timeline h2")).to_contain_text("2 entries")


def test_turning_the_phone_brings_the_other_ladder_up_to_date(open_page, shop):
    page = at_visit(open_page("phone"), shop)
    type_all(page, SEVEN)
    expect(page.locator("#said-liquid_pressure .kept")).to_be_visible()
    page.set_viewport_size({"width": 1280, "height": 800})
    expect(ladder(page, "desk").locator(".plate[data-gap=superheat]")).to_be_visible()


def test_pocket_answers_while_typing(open_page, shop):
    page = open_page("phone")
    sign_in(page, shop.logins["technician"])
    page.goto("/pocket")
    page.select_option("#refrigerant", "R-448A")
    page.locator("#pressure").press_sequentially("71.2")
    expect(page.locator("#pocket-answers")).to_contain_text("40.0 °F")
    page.fill("#temperature", "-40")
    expect(page.locator("#pocket-answers")).to_contain_text("psig")


def test_a_thumb_can_type_below_zero(open_page, make_shop):
    shop = make_shop({"kind": "walk_in_freezer", "refrigerant": "R-404A"})
    page = at_visit(open_page("phone"), shop)
    page.fill("#q-box_air_temp", "8")
    page.click("#row-box_air_temp [data-sign]")
    page.keyboard.press("Enter")
    expect(page.locator("#said-box_air_temp .kept")).to_be_visible()
    page.click("label[for=tab-timeline]")
    expect(page.locator("#timeline")).to_contain_text("-8 °F")


def test_a_switch_flicked_twice_keeps_both_and_ends_as_it_looks(open_page, shop):
    page = at_visit(open_page(), shop)
    page.evaluate(
        """() => ["yes", "no"].forEach((state) => document.querySelector(`label[for=s-filter_dirty-${state}]`).click())"""
    )
    expect(page.locator("#timeline h2")).to_contain_text("2 entries")
    expect(page.locator("#s-filter_dirty-no")).to_be_checked()
    page.reload()
    expect(page.locator("#s-filter_dirty-no")).to_be_checked()


@pytest.mark.usefixtures("hundred_notes")
def test_older_entries_come_below_and_stay(open_page, shop):
    page = at_visit(open_page(), shop)
    for shown in (40, 80, 100):
        expect(page.locator("#timeline .entries > li")).to_have_count(shown)
        if shown < 100:
            page.click("#older > button")
    expect(page.locator("#older > button")).to_have_count(0)

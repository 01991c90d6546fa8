"""Calls on bad ground: what must stand still, what is not judged yet, what may not be left behind."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from tests.browser.steps import SEVEN, answer, at_visit, findings, go, open_form, show

SIZES = pytest.mark.parametrize(("size", "scheme"), [("desk", "light"), ("phone", "dark")])
VALVE = {
    "kind": "split_ac",
    "refrigerant": "R-410A",
    "metering": "txv",
    "seer": 14,
    "target_subcooling_f": 10,
    "label_charge_g": 3000,
    "nominal_capacity_btuh": 36000,
}
EIGHT = {**SEVEN, "liquid_line_temp": "100"}


def read(page: Page, values: dict[str, str]) -> None:
    for name, value in values.items():
        page.fill(f"#q-{name}", value)
        page.keyboard.press("Enter")
        expect(page.locator(f"#said-{name} .kept")).to_be_visible()


def running(page: Page, minutes: str) -> None:
    page.fill("#c-started", minutes)
    page.keyboard.press("Enter")
    expect(page.locator("#said-started .kept")).to_be_visible()


def close(page: Page, outcome: str, words: str) -> None:
    page.click(f"label[for=out-{outcome}]")
    page.fill("#close-summary", words)
    page.fill("#close-override", "nothing more today")
    page.click("#close-form button")


@SIZES
def test_a_seized_fan_is_a_verdict_without_gauges_and_closes_locked_out(open_page, make_shop, size, scheme):
    shop = make_shop(VALVE)
    page = at_visit(open_page(size, scheme), shop)
    page.goto(f"/visits/{shop.visit}?at=arrive")
    page.click("label[for=sort-does_not_run]")
    page.click("#complaint-form button")
    expect(page.locator("#checks")).to_contain_text("Outdoor fan")
    go(page, "Look")
    page.click("#cautions button")
    expect(page.locator("#stops")).to_be_hidden()
    answer(page, "condenser_fan_stopped", "yes")
    expect(page.locator("#stops")).to_contain_text("off and locked out until it turns")
    assert page.locator("#stops").get_attribute("role") == "alert"
    if size == "phone":
        expect(page.locator("#dock")).to_contain_text("Stop: fan")
    assert findings(page) == []
    show(page, size, "judge")
    expect(page.locator(".next")).to_contain_text("Off and locked out")
    expect(page.locator(".next")).to_contain_text("unit off")
    assert "Read" not in page.locator(".next, .then").first.inner_text()
    for station in ("Read", "Sealed work", "Close"):  # first thing seen wherever one goes
        go(page, station)
        expect(page.locator("#stops")).to_be_visible()
    go(page, "Mend")
    expect(page.locator("#permit")).to_contain_text("Before it starts")
    page.fill("#lock-name", "Roof")
    page.click("#lock-form button")
    expect(page.locator("#locks")).to_contain_text("Roof")
    go(page, "Close")
    close(page, "nothing_wrong", "Fan motor seized.")
    expect(page.locator("#said-close-form .error")).to_be_visible()  # it stays, and something was found
    page.click("summary:has-text('Book something')")
    page.fill("#follow-what", "Fan motor")
    page.click("label[for=fu-part]")
    page.fill("#follow-due", "2027-06-01")
    page.click("#follow-form button")
    expect(page.locator("#follow-ups, .follow-ups, #follow_ups").first).to_contain_text("Fan motor")
    open_form(page, "Leave it")
    page.click("label[for=way-1-booked]")
    page.fill("#why-1", "motor ordered, unit locked out")
    page.click("#finding-1 button")
    expect(page.locator("#obstacles")).not_to_contain_text("Found:")
    close(page, "waiting", "Fan motor seized; locked out, motor ordered.")
    expect(page.locator("#closing")).to_contain_text("Closed: waiting")


@SIZES
def test_an_iced_coil_makes_the_weigh_desk_wait(open_page, make_shop, size, scheme):
    shop = make_shop(VALVE)
    page = at_visit(open_page(size, scheme), shop)
    go(page, "Read")
    read(page, {**EIGHT, "suction_pressure": "98", "liquid_line_temp": "106"})
    running(page, "30")
    go(page, "Look")
    answer(page, "ice_on_evaporator_even", "yes")
    show(page, size, "judge")
    expect(page.locator(".next")).to_contain_text("compressor off, fan on")
    page.goto(f"/visits/{shop.visit}?at=weigh")
    expect(page.locator(".trim h3")).to_have_text("Wait")
    expect(page.locator(".trim")).to_contain_text("No ice first")
    assert "oz" not in page.locator(".trim h3").inner_text()


@SIZES
def test_a_trip_at_640_is_kept_and_stops(open_page, make_shop, size, scheme):
    shop = make_shop(VALVE)
    page = at_visit(open_page(size, scheme), shop)
    go(page, "Read")
    read(page, {**EIGHT, "liquid_pressure": "640"})
    expect(page.locator("#q-liquid_pressure")).to_have_value("640")
    expect(page.locator("#stops")).to_contain_text("640.0 psig is more than R-410A may ever show running")
    show(page, size, "timeline")
    expect(page.locator("#timeline")).to_contain_text("640 psig")
    page.goto("/")
    expect(page.locator(".call").first).to_contain_text("Stop: head")


@SIZES
def test_a_unit_in_low_stage_is_judged_as_one(open_page, make_shop, size, scheme):
    shop = make_shop(VALVE | {"compressor_control": "two_stage"})
    page = at_visit(open_page(size, scheme), shop)
    go(page, "Read")
    open_form(page, "Taken how")
    for place, words in (("commanded", "low"), ("actual", "low"), ("witness", "amps")):
        page.fill(f"[name={place}]", words)
    page.locator("form:has([name=commanded]) button").click()
    expect(page.locator("#stage-now")).to_contain_text("runs low")
    low = {
        "suction_pressure": "134",
        "suction_line_temp": "56",
        "liquid_pressure": "320",
        "liquid_line_temp": "95",
        "supply_air_temp": "59",
        "outdoor_air_temp": "88",
        "return_air_temp": "76",
        "return_air_wet_bulb": "63",
    }
    read(page, low)
    show(page, size, "judge")
    expect(page.locator(".causes .cause").first).to_contain_text("Nothing wrong")
    open_form(page, "What each should be")
    expect(page.locator(".targets")).to_contain_text("read in a lower stage")


@SIZES
def test_a_condition_is_put_on_and_released(open_page, make_shop, size, scheme):
    shop = make_shop(VALVE)
    page = at_visit(open_page(size, scheme), shop)
    go(page, "Read")
    open_form(page, "Taken how")
    page.click("#conditions button:has-text('panel off')")
    expect(page.locator("#banner")).to_contain_text("Panel off")
    read(page, EIGHT)
    show(page, size, "judge")
    expect(page.locator(".verdict h2")).to_have_text("Not judged: panel off")
    show(page, size, "ladder")
    expect(page.locator(".condition-note")).to_be_visible()  # the numbers stand, in grey
    expect(page.locator(f".only-{size} .plate[data-gap=superheat]")).to_contain_text("Superheat")
    show(page, size, "sheet")
    page.click("#banner button:has-text('panel is on')")
    expect(page.locator("#banner")).to_contain_text("Read again")
    expect(page.locator("#banner")).not_to_contain_text("Outdoor air")  # a panel indoors does not touch it
    box = page.locator("#banner details")
    if box.get_attribute("open") is None:
        box.locator("summary").click()
    line = box.locator("li:has-text('Suction pressure')")
    line.locator("input[name=reason]").fill("the panel was on")
    line.locator("button").click()
    expect(page.locator("#banner summary")).not_to_contain_text("Suction pressure")
    read(page, {"suction_line_temp": "52"})
    expect(page.locator("#banner summary")).not_to_contain_text("Suction line")


@SIZES
def test_a_finding_blocks_closing_until_it_ends(open_page, make_shop, size, scheme):
    shop = make_shop(VALVE)
    page = at_visit(open_page(size, scheme), shop)
    go(page, "Look")
    page.click("#cautions button")
    answer(page, "blade_unsafe", "yes")
    answer(page, "oil_stain", "yes")
    go(page, "Close")
    expect(page.locator("#obstacles .firm")).to_contain_text("Mend it, or lock the unit out and tag it")
    close(page, "not_fixed", "Blade cracked.")
    expect(page.locator("#said-close-form .error")).to_contain_text("Blade or wheel cracked")
    go(page, "Mend")
    open_form(page, "Red tag")
    page.fill("#tag-danger", "cracked blade")
    page.fill("#tag-told", "the owner, on site")
    page.click("#tag-form button[type=submit]")
    expect(page.locator("#banner")).to_contain_text("Red tag")
    go(page, "Close")
    close(page, "not_fixed", "Blade cracked, tagged.")
    expect(page.locator("#said-close-form .error")).to_contain_text("oil stain")
    open_form(page, "Leave it")
    page.fill("#why-1", "old stain, wiped; no leak found")
    page.click("#finding-1 button")
    expect(page.locator("#obstacles")).not_to_contain_text("Found:")
    close(page, "not_fixed", "Blade cracked, tagged.")
    expect(page.locator("#closing")).to_contain_text("Closed: not fixed")


@SIZES
def test_ice_on_the_second_circuits_coil_leaves_the_first_one_judged(open_page, make_shop, size, scheme):
    shop = make_shop({**VALVE, "kind": "package_ac"})
    page = at_visit(open_page(size, scheme), shop)
    page.click(".circuits a:has-text('+ circuit')")
    read(page, {"suction_pressure": "60", "liquid_pressure": "300"})
    go(page, "Air")  # the circuit goes along
    expect(page.locator(".circuits a[aria-current]")).to_have_text("Circuit 2")
    go(page, "Look")
    answer(page, "ice_on_evaporator_patchy", "yes")
    answer(page, "blower_stopped", "no")  # of the whole unit
    expect(page.locator("#timeline, .panel-timeline").first).to_contain_text("Ice, patchy, circuit 2")
    page.click(".circuits a:has-text('1')")
    expect(page.locator(".circuits a[aria-current]")).to_have_text("Circuit 1")
    expect(page.locator("#s-ice_on_evaporator_patchy-yes")).not_to_be_checked()
    expect(page.locator("#s-blower_stopped-no")).to_be_checked()
    answer(page, "ice_on_evaporator_patchy", "no")
    assert findings(page) == []
    page.click(".circuits a:has-text('2')")
    expect(page.locator("#s-ice_on_evaporator_patchy-yes")).to_be_checked()
    go(page, "Mend")
    open_form(page, "Name what must be seen")
    page.select_option("#test-what", "ice_on_evaporator_patchy")
    page.click("#sight-test-form button")
    expect(page.locator(".panel-sheet")).to_contain_text("Ice, patchy, circuit 2")
    go(page, "Close")
    expect(page.locator(".panel-sheet")).to_contain_text("Found: ice, patchy, circuit 2")


@SIZES
def test_of_several_fans_each_keeps_its_amps(open_page, make_shop, size, scheme):
    page = at_visit(open_page(size, scheme), make_shop({**VALVE, "kind": "package_ac"}))
    go(page, "Air")
    read(page, {"condenser_fan_amps": "1.7"})
    open_form(page, "Another fan")
    for place, amps, rated in (("", "1.9", ""), ("left", "x", ""), ("left", "2.6", "2.4"), ("right", "1.9", "2,4")):
        for name, value in (("place", place), ("amps", amps), ("rated", rated)):
            page.fill(f"#fan-{name}", value)
        with page.expect_response(lambda response: response.url.endswith("/entries")):
            page.click("#fan-form button")
        if not place:
            expect(page.locator("#said-fan-form")).to_contain_text("Say which fan")
            assert page.input_value("#fan-amps") == "1.9"
        if place and amps != "x":  # one that is kept folds its form away
            expect(page.locator("#fan-place")).to_be_hidden()
            open_form(page, "Another fan")
    expect(page.locator("#fans .open")).to_contain_text("Outdoor fan, left: 2.6 of 2.4 A, 108 % of its plate: above it")
    expect(page.locator("#fans")).to_contain_text("Outdoor fan, right: 1.9 of 2.4 A, 79 %")
    expect(page.locator("#fans li")).to_have_count(2)
    expect(page.locator("#fan-place")).to_have_value("")  # ready for the next one
    assert findings(page) == []
    page.reload()
    expect(page.locator("#q-condenser_fan_amps")).to_have_value("1.7")
    expect(page.locator("#fans li")).to_have_count(2)

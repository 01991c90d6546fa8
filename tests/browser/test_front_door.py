"""A stranger at the front door: one sheet judged while typing, a tool that answers without signal."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import sign_in
from tests.browser.steps import SEVEN, findings
from tests.conftest import PASSWORD

OFFERED = """() => {
  const offer = Object.assign(new Event('beforeinstallprompt', { cancelable: true }),
    { prompt: async () => {}, userChoice: Promise.resolve({ outcome: 'accepted' }) });
  if (dispatchEvent(offer)) throw new Error('the browser would cover the page with its own offer');
}"""


@pytest.mark.parametrize(("size", "scheme"), [("desk", "light"), ("phone", "dark")])
def test_one_sheet_is_judged_while_typing(open_page, size, scheme):
    page = open_page(size, scheme)
    page.goto("/sign-in")
    page.click("text=one sheet")
    page.select_option("#kind", "walk_in_cooler")  # its own readings
    expect(page.locator("#q-box_air_temp")).to_be_visible()
    page.wait_for_load_state()  # its scripts hear the next choice
    page.select_option("#kind", "split_ac")
    expect(page.locator("#q-return_air_temp")).to_be_visible()
    page.select_option("#metering", "txv")
    page.click("#q-outdoor_air_temp")
    for value in ("90", "76", "63", "abc"):
        page.keyboard.type(value)
        page.keyboard.press("Enter")
    answer = page.locator("#sheet-answer")
    expect(answer).to_contain_text("'abc' is not a number")
    assert page.input_value("#q-supply_air_temp") == "abc"
    page.fill("#q-supply_air_temp", SEVEN["supply_air_temp"])
    expect(answer).not_to_contain_text("not a number")
    short = {"suction_pressure": "95", "suction_line_temp": "55", "liquid_pressure": "300", "liquid_line_temp": "94"}
    for name, value in short.items():
        page.fill(f"#q-{name}", value)
    expect(answer.locator("svg.ladder").locator("visible=true")).to_have_count(1)
    expect(answer).to_contain_text("Short of charge")
    page.reload()  # a tab may die: the address holds what was typed
    expect(page.locator("#q-liquid_pressure")).to_have_value("300")
    expect(answer).to_contain_text("Short of charge")
    assert findings(page) == []
    expect(answer.get_by_text("Sign in and keep it")).to_be_visible()
    page.select_option("#units-of", "C bar")
    expect(page.locator("#one-sheet")).to_contain_text("barg")
    page.goto("/")
    expect(page.locator("#login")).to_be_visible()  # nothing of a shop stands open


def test_a_choice_made_while_the_page_still_loads_is_heard(open_page):
    page = open_page("phone", "light")
    held = []
    page.route("**/scripts/*/main.js", lambda route: held.append(route))
    with page.expect_request("**/scripts/*/main.js"):
        page.goto("/sheet?kind=split_ac&outdoor_air_temp=95&evaporator_air_proven=yes", wait_until="commit")
    page.fill("#q-outdoor_air_temp", "96")
    page.select_option("#kind", "walk_in_cooler")
    held[0].continue_()
    expect(page.locator("#q-box_air_temp")).to_be_visible()
    expect(page.locator("#q-outdoor_air_temp")).to_have_value("96")
    assert page.is_checked("#evaporator_air_proven")


def test_one_sheet_says_nothing_of_other_numbers_while_an_answer_is_late_and_asks_again(open_page):
    page = open_page("phone", "light")
    page.goto("/sheet")
    page.fill("#q-outdoor_air_temp", "95")
    expect(page.locator("#sheet-answer")).to_contain_text("Still to read")
    held = []
    page.route("**/sheet?*", lambda route: held.append(route))  # a signal so weak that nothing comes back
    page.fill("#q-outdoor_air_temp", "35")
    expect(page.locator("#sheet-waits")).to_be_visible()
    expect(page.locator("#sheet-answer")).to_be_hidden()
    page.unroute("**/sheet?*")
    expect(page.locator("#sheet-answer")).to_be_visible(timeout=60_000)
    expect(page.locator("#sheet-waits")).to_be_hidden()
    assert held


@pytest.mark.parametrize(("size", "scheme"), [("desk", "dark"), ("phone", "light")])
def test_one_sheet_is_kept_in_a_visit(open_page, make_shop, size, scheme):
    shop = make_shop({"kind": "split_ac", "refrigerant": "R-22", "metering": "orifice"})
    page = open_page(size, scheme)
    page.goto(
        "/sheet?kind=package_ac&refrigerant=R-410A&metering=txv&label=10&settled=yes&filter_dirty=yes&units=F+psi"
        "&outdoor_air_temp=95&suction_pressure=112&suction_line_temp=51&liquid_pressure=380&discharge_line_temp=hot"
    )
    page.click("text=Sign in and keep it")
    page.fill("#login", shop.logins["technician"])
    page.fill("#password", PASSWORD)
    page.click(".sign-in-form button[type=submit]")
    expect(page.locator(".here-sheet")).to_contain_text("5 readings and 1 look")
    assert page.is_checked("#h-kind-package_ac")
    assert page.is_checked("#h-metering-txv")
    assert page.input_value("#h-target_subcooling") == "10"
    assert findings(page) == []
    there = page.url
    page.fill("#site", "Lantern Yard")
    page.fill("#h-unit", "RTU-9, roof")
    page.fill("#h-size", "about five")
    page.click('button:text-is("Open the visit")')
    expect(page.locator(".error").first).to_be_visible()
    expect(page.locator(".here-sheet")).to_contain_text("5 readings")  # nothing typed is lost
    page.fill("#h-size", "5 ton")
    page.click('button:text-is("Open the visit")')
    page.wait_for_url("**at=arrive")
    visit = page.url.split("?")[0]
    page.goto(f"{visit}?at=read")
    expect(page.locator("#q-suction_pressure")).to_have_value("112")
    expect(page.locator("#timeline")).to_contain_text("'hot' is not a number")
    # Into a visit of today to a unit that is known, twice: once is kept, and what does not fit is said.
    for _ in range(2):
        page.goto(there)
        page.locator(".here-unit", has_text="R-22").filter(has_text="into its visit").click()
        page.wait_for_url("**at=arrive")
    page.goto(f"/visits/{shop.visit}?at=read")
    expect(page.locator("#q-liquid_pressure")).to_have_value("380")
    expect(page.locator("#timeline")).to_contain_text("typed for R-410A; the unit's card says R-22")
    expect(page.locator("#timeline")).to_contain_text("Label subcooling 10")
    expect(page.locator("#timeline li", has_text="Liquid pressure")).to_have_count(1)


@pytest.mark.service_worker
@pytest.mark.parametrize("size", ["desk", "phone"])
def test_tools_answer_without_signal_once_they_were_seen(open_page, size):
    page = open_page(size)
    page.goto("/pocket")
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    page.reload()
    page.wait_for_timeout(1500)  # the shell is kept
    page.context.set_offline(True)
    page.goto("/pocket")
    page.click("#tool-capacitor summary")
    page.fill("#capacitor-amps", "8.5")
    expect(page.locator("#tool-capacitor .tool-answers")).to_contain_text("Type a number")
    page.fill("#capacitor-volts", "376")
    expect(page.locator("#tool-capacitor .tool-answers")).to_contain_text("60.0 µF")
    page.fill("#capacitor-volts", "x")
    expect(page.locator("#tool-capacitor .tool-answers")).to_contain_text("x is not a number")
    page.click("#tool-line summary")
    page.fill("#line-length", "x")  # a field that is called length is found all the same
    expect(page.locator("#tool-line .tool-answers")).to_contain_text("x is not a number")
    page.click("#tool-saturation summary")
    page.fill("#saturation-pressure", "118.2")
    expect(page.locator("#tool-saturation .tool-answers")).to_contain_text("39.9 °F")
    page.context.set_offline(False)
    page.goto("/pocket?units=C%20bar")
    page.click("#tool-belt summary")
    for name, value in (("motor_rpm", "1750"), ("motor_pitch", "82.5"), ("blower_pitch", "165"), ("centres", "508")):
        page.fill(f"#belt-{name}", value)
    expect(page.locator("#tool-belt .tool-answers")).to_contain_text("7.9 mm")  # a 64th of the span
    assert findings(page) == []


@pytest.mark.service_worker
def test_it_can_be_put_on_a_home_screen_where_the_browser_offers_it(open_page, shop):
    page = open_page("phone", "dark")
    sign_in(page, shop.logins["technician"])
    page.goto("/me")
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    devtools = page.context.new_cdp_session(page)
    told = devtools.send("Page.getAppManifest")
    assert told["errors"] == []
    hindered = {one["errorId"] for one in devtools.send("Page.getInstallabilityErrors")["installabilityErrors"]}
    assert hindered <= {"in-incognito"}  # a test's browser keeps nothing for later
    expect(page.locator("#home-screen")).to_contain_text("'Add to Home Screen'")
    page.evaluate(OFFERED)
    page.click("#home-screen button")
    expect(page.locator("#home-screen")).to_be_hidden()


def test_a_result_is_kept_in_an_open_visit_by_one_tap(open_page, shop):
    page = open_page("phone")
    sign_in(page, shop.logins["technician"])
    page.goto("/pocket/nitrogen")
    for name, value in (("pressure", "350"), ("then", "88"), ("now", "61")):
        page.fill(f"#nitrogen-{name}", value)
    page.click("#tool-nitrogen .tool-keep button")
    page.click("label[for=tab-timeline]")
    expect(page.locator("#timeline")).to_contain_text("Nitrogen and weather: The same gas now shows 332.0 psig")

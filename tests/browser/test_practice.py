"""Practice on the screen: the first call solved, one botched with its harm shown, and one that a lead composed."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import sign_in
from tests.browser.steps import findings

pytestmark = pytest.mark.long


def clean(page: Page) -> None:
    """Nothing wrong by axe, nothing wider than the screen."""
    assert findings(page) == []
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")


def begin(page: Page, title: str) -> None:
    page.goto("/practice")
    page.get_by_role("button", name=re.compile(f": {title}")).click()
    expect(page.locator(".practice-clock")).to_contain_text("0 min")


def at(page: Page, station: str) -> None:
    """To another station of the visit, as its rail leads there."""
    page.locator(".stations").get_by_role("link", name=re.compile(rf"^{station}")).first.click()
    page.wait_for_url(re.compile(f"at={station.lower()}"))


def step(page: Page, group: str, words: str) -> None:
    """One thing of a group; done when the clock has gone on."""
    before = page.locator(".practice-clock").inner_text()
    fold = page.locator(".hand-group", has=page.locator(f"summary:text-is('{group}')"))
    if not fold.get_by_role("button").first.is_visible():
        fold.locator("summary").click()
    fold.get_by_role("button", name=re.compile(re.escape(words))).first.click()
    expect(page.locator(".practice-clock")).not_to_have_text(before)


def say(page: Page, *named: str) -> None:
    page.click("a:has-text('Say what was wrong')")
    for place, words in zip(("first", "second", "third"), named, strict=False):
        page.select_option(f"#{place}", label=words)
    page.click("button:has-text('That is what I say')")


@pytest.mark.parametrize(("size", "scheme"), [("desk", "light"), ("phone", "dark")])
def test_the_first_call_is_solved_at_the_ordinary_stations(open_page, shop, size, scheme):
    page = open_page(size, scheme)
    sign_in(page, shop.logins["helper"])
    page.goto("/register")
    page.click("a:has-text('Practice')")
    clean(page)
    begin(page, "The first call")
    clean(page)
    at(page, "Read")
    step(page, "Read", "Airs")
    step(page, "Read", "Both pressures")
    step(page, "Read", "Suction and liquid line")
    clean(page)
    if size == "phone":
        page.click("label[for=tab-ladder]")
    expect(page.locator(f"#ladder .only-{size} .ladder")).to_be_visible()
    if size == "phone":
        page.click("label[for=tab-judge]")
    expect(page.locator("#judge")).to_contain_text("Yours to judge")
    at(page, "Look")
    step(page, "Look", "Filter dirty?")
    expect(page.locator(".hand-last")).to_contain_text("nothing comes through")
    expect(page.locator(".hand-last .sight-picture")).to_be_visible()
    clean(page)
    at(page, "Mend")
    step(page, "Do", "Change the filter")
    expect(page.locator(".hand-last")).to_contain_text("says nothing any more")
    step(page, "Wait, panel, reset", "Wait 5 min")
    step(page, "Look", "Prove the indoor coil's air")
    page.click("a:has-text('Say what was wrong')")
    clean(page)
    page.go_back()
    say(page, "Evaporator short of air")
    expect(page.locator(".practice-verdict")).to_contain_text("Named right, and it holds")
    expect(page.locator(".belief")).to_be_visible()
    clean(page)
    page.goto("/")  # in one's own shop again
    expect(page.locator(".practice-band")).to_have_count(0)


@pytest.mark.parametrize(("size", "scheme"), [("desk", "dark"), ("phone", "light")])
def test_a_botched_call_shows_its_harm(open_page, shop, size, scheme):
    page = open_page(size, scheme)
    sign_in(page, shop.logins["technician"])
    begin(page, "The first call")
    say(page, "Short of charge")
    expect(page.locator("[role=alert]").first).to_contain_text("Read or look at something first")
    page.click("a:has-text('To the unit')")
    step(page, "Read", "Both pressures")
    step(page, "Do", "Add refrigerant")
    expect(page.locator(".hand-last .error").first).to_contain_text("while the air was not right")
    clean(page)
    say(page, "Short of charge")
    expect(page.locator(".practice-verdict")).to_contain_text("Not what it was")
    expect(page.locator(".practice-verdict")).to_contain_text("points of harm")
    expect(page.locator(".practice-lesson")).to_be_visible()
    clean(page)


@pytest.mark.parametrize(("size", "scheme"), [("desk", "light"), ("phone", "dark")])
def test_a_unit_that_does_not_run_is_walked_along_its_chain(open_page, shop, size, scheme):
    page = open_page(size, scheme)
    sign_in(page, shop.logins["technician"])
    begin(page, "Nothing moves outside")
    step(page, "Read", "Both pressures")
    expect(page.locator(".hand-last")).to_contain_text("It does not run")
    at(page, "Controls")
    step(page, "Volts", "Watch the board's lamp")
    expect(page.locator(".lamp-strip")).to_be_visible()
    expect(page.locator("body")).to_contain_text("High-pressure switch open")  # by the table inside its door
    seen = 0
    links = [re.split(r",", words)[0] for words in page.locator(".hand-group[open] .hand-offer").all_inner_texts()]
    for link in reversed(links):  # from the coil back until something is live
        step(page, "Volts", link)
        seen += 1
        if " 0 V" not in f" {page.locator('.hand-last').inner_text()} ".replace("\n", " "):
            break
    assert 1 < seen <= len(links)
    behind = links[len(links) - seen + 1]
    clean(page)
    step(page, "Wait, panel, reset", "Reset what has opened")  # before what had opened it is mended
    expect(page.locator(".hand-last .error")).to_contain_text("against a stop")
    step(page, "Look", "Outdoor coil dirty?")
    step(page, "Do", "Clean the condenser")
    step(page, "Wait, panel, reset", "Reset what has opened")
    expect(page.locator(".hand-last")).not_to_contain_text("It does not run")
    step(page, "Wait, panel, reset", "Wait 15 min")
    step(page, "Read", "Both pressures")
    expect(page.locator(".hand-last")).to_contain_text("psig")
    clean(page)
    say(page, behind, "Condenser short of air")
    expect(page.locator(".practice-verdict")).to_contain_text("Named right, and it holds")
    expect(page.locator("section:has(#truth)")).to_contain_text("It did not run")
    clean(page)


@pytest.mark.parametrize("size", ["desk", "phone"])
def test_a_lead_composes_a_call_and_sees_results(open_page, shop, size):
    page = open_page(size, "light")
    sign_in(page, shop.logins["lead"])
    page.goto("/practice")
    page.click("summary:has-text('Compose a call')")
    page.fill("#title", "For Tuesday")
    page.select_option("#kind", "package_ac")
    page.get_by_label("Too much charge").check()
    clean(page)
    page.click("button:has-text('Make it')")
    code = page.locator("#made b").inner_text()
    page.fill("#code", code.lower())
    page.click("form:has(#code) button")
    expect(page.locator(".practice-band")).to_contain_text("For Tuesday")
    step(page, "Read", "Both pressures")
    step(page, "Do", "Take refrigerant out")
    say(page, "Too much charge")
    expect(page.locator(".practice-verdict")).to_contain_text("Named right, and it holds")
    page.goto("/practice")
    expect(page.locator("section:has(#team-title)")).to_contain_text("Ida lead")
    clean(page)


@pytest.mark.service_worker
def test_without_a_connection_it_is_said_and_nothing_is_lost(open_page, shop):
    page = open_page("phone", "dark")
    sign_in(page, shop.logins["technician"])
    begin(page, "Before lunch")
    step(page, "Read", "Both pressures")
    page.locator(".hand-group", has=page.locator("summary:text-is('Read')")).locator("summary").click()
    page.context.set_offline(True)
    page.get_by_role("button", name=re.compile("Suction and liquid line")).click()
    expect(page.locator("#practice-gone")).to_be_visible()
    page.context.set_offline(False)
    step(page, "Read", "Suction and liquid line")
    expect(page.locator(".hand-last")).to_contain_text("Liquid line")

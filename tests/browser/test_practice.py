"""Practice on the screen: the first call solved, one botched with its harm shown, and one that a lead composed."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import sign_in
from tests.browser.steps import findings


def clean(page: Page) -> None:
    """Nothing wrong by axe, nothing wider than the screen."""
    assert findings(page) == []
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")


def begin(page: Page, title: str) -> None:
    page.goto("/practice")
    page.get_by_role("button", name=re.compile(f": {title}")).click()
    expect(page.locator(".practice-clock")).to_contain_text("0 min")


def step(page: Page, group: str, words: str) -> None:
    """One thing under its heading; done when the clock has gone on."""
    before = page.locator(".practice-clock").inner_text()
    fold = page.locator(".practice-group", has=page.locator(f"summary:text-is('{group}')"))
    if not fold.get_by_role("button").first.is_visible():
        fold.locator("summary").click()
    fold.get_by_role("button", name=re.compile(re.escape(words))).click()
    expect(page.locator(".practice-clock")).not_to_have_text(before)


def commit(page: Page, *causes: str) -> None:
    page.click("summary:has-text('Say what was wrong')")
    for cause in causes:
        page.get_by_label(cause).check()
    page.click("button:has-text('That is what I tell them')")


@pytest.mark.parametrize(("size", "scheme"), [("desk", "light"), ("phone", "dark")])
def test_the_first_call_is_solved(open_page, shop, size, scheme):
    page = open_page(size, scheme)
    sign_in(page, shop.logins["helper"])
    page.goto("/register")
    page.click("a:has-text('Practice')")
    clean(page)
    begin(page, "The first call")
    clean(page)
    step(page, "Read", "Airs")
    step(page, "Read", "Both pressures")
    expect(page.locator(f".practice-ladder .only-{size} svg")).to_be_visible()
    clean(page)
    step(page, "Look", "Filter dirty?")
    expect(page.locator(".practice-last")).to_contain_text("yes")
    step(page, "Do", "Change the filter")
    expect(page.locator(".practice-last")).to_contain_text("says nothing any more")
    step(page, "Look", "Prove the evaporator's air")
    commit(page, "Evaporator short of air")
    expect(page.locator(".practice-verdict")).to_contain_text("Named right, and it holds")
    expect(page.locator(".belief")).to_be_visible()
    clean(page)


@pytest.mark.parametrize(("size", "scheme"), [("desk", "dark"), ("phone", "light")])
def test_a_botched_call_shows_its_harm(open_page, shop, size, scheme):
    page = open_page(size, scheme)
    sign_in(page, shop.logins["technician"])
    begin(page, "The first call")
    commit(page, "Short of charge")
    expect(page.locator(".practice-head .error").first).to_contain_text("Read or look at something first")
    step(page, "Read", "Both pressures")
    step(page, "Do", "Add refrigerant")
    expect(page.locator(".practice-last .error").first).to_contain_text("while the air was not right")
    clean(page)
    commit(page, "Short of charge")
    expect(page.locator(".practice-verdict")).to_contain_text("Not what it was")
    expect(page.locator(".practice-verdict")).to_contain_text("points of harm")
    expect(page.locator(".practice-lesson")).to_be_visible()
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
    expect(page.locator("h1")).to_have_text("For Tuesday")
    step(page, "Read", "Both pressures")
    step(page, "Do", "Take refrigerant out")
    commit(page, "Too much charge")
    expect(page.locator(".practice-verdict")).to_contain_text("Named right, and it holds")
    page.click("a:has-text('Calls')") if size == "desk" else page.goto("/practice")
    expect(page.locator("section:has(#team-title)")).to_contain_text("Ida lead")
    clean(page)


def test_without_a_connection_it_is_said_and_nothing_is_lost(open_page, shop):
    page = open_page("phone", "dark")
    sign_in(page, shop.logins["technician"])
    begin(page, "Before lunch")
    step(page, "Read", "Both pressures")
    page.context.set_offline(True)
    page.get_by_role("button", name=re.compile("Suction and liquid line")).click()
    expect(page.locator("#practice-gone")).to_be_visible()
    page.context.set_offline(False)
    step(page, "Read", "Suction and liquid line")
    expect(page.locator(".practice-facts")).to_contain_text("Liquid line")

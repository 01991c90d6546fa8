"""A lead plans a day: a call added, moved by keys and by dragging, given away, and found again at both sizes."""

from __future__ import annotations

from datetime import date

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import sign_in
from tests.browser.steps import findings

DAY = date(2027, 3, 10)


@pytest.mark.parametrize(("size", "scheme"), [("desk", "light"), ("phone", "dark")])
def test_a_call_is_planned_and_moved_without_a_form(open_page, shop, size, scheme):
    page = open_page(size, scheme)
    sign_in(page, shop.logins["lead"])
    page.goto(f"/plan?day={DAY}")
    page.select_option("#n-unit", label="U-1")
    page.fill("#n-day", str(DAY))
    page.fill("#n-at", "09:00")
    page.select_option("#n-person", label="Ida lead")
    page.fill("#n-complaint", "no cold air")
    page.click("#new-call button[type=submit]")
    page.wait_for_url("**#call")
    call = page.locator(".plan-desk .plan-call" if size == "desk" else ".plan-phone .plan-call")
    expect(call).to_have_count(1)
    expect(call).to_contain_text("09:00")
    # A quarter of an hour later and one lane on, by keys; what is moved stays focused.
    note = page.locator("#plan-note")
    call.focus()
    later, other = ("ArrowRight", "ArrowDown") if size == "desk" else ("ArrowDown", "ArrowRight")
    for key in (later, later, later, other):
        page.keyboard.press(key)
    expect(call).to_contain_text("09:45")
    expect(note).to_contain_text("09:45, Ida technician")
    expect(call).to_be_focused()
    # By dragging, an hour on; letting go opens nothing.
    call.scroll_into_view_if_needed()
    box = call.locator(".plan-box").bounding_box()
    svg = call.locator("xpath=ancestor::*[name()='svg'][1]")
    step = float(svg.get_attribute("data-step")) * svg.bounding_box()["width"] / svg.evaluate("one => one.viewBox.baseVal.width")
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    for part in (0.3, 0.7, 1.0):
        far = 60 * step * part
        page.mouse.move(x + (far if size == "desk" else 0), y + (0 if size == "desk" else far))
    page.mouse.up()
    expect(call).to_contain_text("10:45")
    expect(note).to_contain_text("10:45")
    assert findings(page) == []
    # As it was kept: another page shows it so; Enter opens it, and from there the visit.
    page.goto(f"/plan?day={DAY}&span=week")
    expect(page.locator(".plan-desk .plan-call")).to_contain_text("10:45")
    page.locator(".plan-desk .plan-call").focus()
    page.keyboard.press("Enter")
    page.wait_for_url("**#call")
    expect(page.locator("#c-at")).to_have_value("10:45")
    expect(page.locator("#c-complaint")).to_have_value("no cold air")
    assert findings(page) == []


@pytest.mark.service_worker
def test_without_a_connection_a_call_stays_where_it_was(open_page, shop):
    page = open_page("desk")
    sign_in(page, shop.logins["lead"])
    page.goto("/plan")
    token = page.locator("body").get_attribute("data-csrf")
    planned = {"csrftoken": token, "unit": str(shop.unit), "day": str(DAY), "at": "09:00"}
    assert page.request.post("/plan/calls", form=planned).ok
    page.goto(f"/plan?day={DAY}")
    call = page.locator(".plan-desk .plan-call")
    call.focus()
    page.context.set_offline(True)
    page.keyboard.press("ArrowRight")
    expect(page.locator("#plan-note")).to_contain_text("no connection")
    expect(call).not_to_have_attribute("transform", "translate(19.5 0)")
    page.context.set_offline(False)
    page.reload()
    expect(call).to_contain_text("09:00")


@pytest.mark.parametrize(("size", "scheme"), [("desk", "dark"), ("phone", "light")])
def test_somebody_goes_along(open_page, shop, size, scheme):
    page = open_page(size, scheme)
    sign_in(page, shop.logins["lead"])
    page.goto(f"/plan?day={DAY}")
    page.select_option("#n-unit", label="U-1")
    page.fill("#n-day", str(DAY))
    page.select_option("#n-person", label="Ida technician")
    page.select_option("#n-along", label="Ida technician")
    page.click("#new-call button[type=submit]")
    expect(page.locator("#plan-error")).to_contain_text("on it already")
    expect(page.locator("#n-along")).to_have_attribute("aria-invalid", "true")
    expect(page.locator("#n-day")).to_have_value(str(DAY))
    page.select_option("#n-along", label="Ida helper")
    page.click("#new-call button[type=submit]")
    page.wait_for_url("**#call")
    calls = page.locator(f".plan-{size} .plan-call")
    expect(calls).to_have_count(2)
    expect(page.locator(f".plan-{size} .along")).to_have_attribute("data-movable", "no")
    expect(page.locator("#c-along")).to_have_value(str(shop.people["helper"]))
    assert findings(page) == []

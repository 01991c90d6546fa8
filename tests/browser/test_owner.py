"""From a planned call to what held: read by the owner under a link, signed with a finger, the part put in, asked weeks later."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta

import pytest
from playwright.sync_api import expect
from sqlalchemy import update

from dry_gauge.store.models import Shop, Visit
from tests.browser.conftest import sign_in
from tests.browser.steps import answer, findings, go, keep, open_form

POWER = {"currency": "USD", "kwh_price": [0.14, 0.19]}
ROOFTOP = {"kind": "package_ac", "refrigerant": "R-22", "metering": "txv", "nominal_capacity_btuh": 60000, "seer": 10}


def planned(page, day):
    """A lead plans a call for the technician; its visit's id."""
    page.goto("/plan")
    page.select_option("#n-unit", label="U-1")
    page.fill("#n-day", str(day))
    page.select_option("#n-person", label="Ida technician")
    page.fill("#n-complaint", "not cold on the sea side")
    page.click("#new-call button[type=submit]")
    page.wait_for_url("**#call")
    return page.url.split("call=")[1].split("#")[0]


def offered(page, visit):
    """Two options are put together and offered."""
    page.goto(f"/visits/{visit}?at=close")
    page.click("a:has-text('Options and decision')")
    page.click("article button:has-text('Add the option')")
    page.fill("#quantity-0", "1")
    page.click("#option-0 summary:has-text('Type it instead')")
    page.fill("#what-0", "Fan motor")
    page.fill("#cents-0", "12 EUR")
    page.click("#option-0 button:has-text('Add it')")
    expect(page.locator("#offer-error")).to_contain_text("not in USD")
    expect(page.locator("#what-0")).to_have_value("Fan motor")  # nothing typed is lost
    page.fill("#cents-0", "640")
    page.click("#option-0 button:has-text('Add it')")
    expect(page.locator("#option-0 .offer-sum")).to_contain_text("$640.00")
    page.select_option("#new-sort", label="New unit")
    page.fill("#new-seer", "16")
    page.click("article button:has-text('Add the option')")
    page.click("#option-1 summary:has-text('Type it instead')")
    page.fill("#what-1", "Rooftop, 5 ton")
    page.fill("#cents-1", "8650")
    page.click("#option-1 button:has-text('Add it')")
    page.click("button:has-text('Offer these to the owner')")
    expect(page.locator(".owner-offer")).to_contain_text("$8,650.00")
    expect(page.locator(".pay-back")).to_be_visible()
    assert findings(page) == []


def a_link(page, visit, language):
    page.goto(f"/visits/{visit}/report")
    page.select_option("#link-language", language)
    page.click("button:has-text('Make a link')")
    return page.locator(".owner-link input").first.input_value()


def sign(page, *points):
    """Draw in the box, by shares of it."""
    box = page.locator("#sign")
    box.scroll_into_view_if_needed()
    found = box.bounding_box()
    at = [(found["x"] + x * found["width"], found["y"] + y * found["height"]) for x, y in points]
    page.mouse.move(*at[0])
    page.mouse.down()
    for point in at[1:]:
        page.mouse.move(*point)
    page.mouse.up()


@pytest.mark.parametrize(("size", "scheme", "language"), [("desk", "light", "en"), ("phone", "dark", "es")])
def test_from_a_planned_call_to_what_held(open_page, make_shop, owner, size, scheme, language):
    shop = make_shop(ROOFTOP)
    with owner.begin() as connection:
        connection.execute(update(Shop).where(Shop.id == shop.id).values(settings=POWER))
    page = open_page(size, scheme)
    sign_in(page, shop.logins["lead"])
    visit = planned(page, date.today())

    # On the roof: what is found, and what the owner has to decide.
    page.goto(f"/visits/{visit}?at=look")
    answer(page, "condenser_fan_stopped", "yes")
    offered(page, visit)

    # The owner reads it on whatever they have, without a sign-in, in their language; and signs with a finger.
    url = a_link(page, visit, language)
    reading = open_page(size, scheme)
    reading.goto(url)
    title = {"en": "Your service report", "es": "Su informe de servicio"}[language]
    expect(reading.locator(".owner-head")).to_contain_text(title)
    expect(reading.locator(".owner")).not_to_have_count(0)
    assert findings(reading) == []
    assert reading.evaluate("document.documentElement.scrollWidth <= innerWidth")
    reading.locator("input[name=chosen]").first.check()
    reading.check("input[name=read]")
    reading.fill("#decide-name", "Ada Harbour")
    sign(reading, (0.5, 0.5), (0.5, 0.5))
    reading.click(".decide button[type=submit]")
    expect(reading.locator("#decide-error")).to_contain_text({"en": "a dot is too little", "es": "un punto es poco"}[language])
    expect(reading.locator("#decide-name")).to_have_value("Ada Harbour")
    reading.click("#sign-clear")
    sign(reading, (0.1, 0.4), (0.3, 0.8), (0.5, 0.2), (0.8, 0.6))
    reading.click(".decide button[type=submit]")
    expect(reading.locator(".owner-chosen")).to_contain_text("Ada Harbour")
    expect(reading.locator(".owner-chosen .signed path")).to_be_visible()
    assert findings(reading) == []

    # The shop sees it on its board, orders both pieces of the part and books the return.
    page.goto("/")
    expect(page.locator(".decided")).to_contain_text("Ada Harbour")
    page.goto(f"/parts?unit={shop.unit}&visit={visit}")
    page.fill("#p-what", "Fan motor")
    page.click("form[action='/parts'] button")
    expect(page.locator("#parts-error")).to_contain_text("blade and capacitor")
    page.fill("#p-both", "capacitor comes too")
    page.click("form[action='/parts'] button")
    page.click("[aria-label='Fan motor: it is ordered']")
    page.click("[aria-label='Fan motor: it has arrived']")
    assert findings(page) == []
    page.fill("[name=day]", str(date.today()))
    page.click("[aria-label='Fan motor: book the return']")
    page.wait_for_url("**#call")
    expect(page.locator("#c-complaint")).to_have_value("Put in: Fan motor")
    back = page.url.split("call=")[1].split("#")[0]

    # The link is withdrawn: nothing is read under it any more, nor decided.
    page.goto(f"/visits/{visit}/report")
    page.click(".owner-link button")
    expect(page.locator(".owner-link")).to_contain_text("Withdrawn")
    reading.reload()
    expect(reading.locator(".owner-nothing")).to_be_visible()
    assert "Ada Harbour" not in reading.content()

    # The return: put in and closed; weeks later somebody asks.
    page.goto(f"/visits/{back}?at=mend")
    open_form(page, "Something was done")
    page.select_option("#action-sort", "outdoor_fan")
    keep(page, "#action-form button")
    go(page, "Close")
    page.click("label[for=out-improved]")
    page.fill("#close-summary", "Fan motor put in.")
    page.click("#close-form button")
    expect(page.locator("#closing")).to_contain_text("Closed")
    page.goto("/parts")
    page.click("[aria-label='Fan motor: it is put in']")
    expect(page.locator(".lines .empty")).to_contain_text("No part is on its way")
    with owner.begin() as connection:
        connection.execute(update(Visit).where(Visit.id == back).values(closed_at=datetime.now(UTC) - timedelta(days=30)))
    page.goto("/plan")
    expect(page.locator("#held")).to_contain_text("Fan motor put in.")
    page.click("#held summary")
    page.select_option("#held select", label="Trips on hot afternoons")
    page.click("#held details button")
    page.goto("/plan/held")
    expect(page.locator("main")).to_contain_text("1 of 1")
    assert findings(page) == []

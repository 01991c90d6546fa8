"""The office's pages at both sizes and in both themes: nothing wrong by axe, nothing wider than the screen."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect
from sqlalchemy import update

from dry_gauge.store.models import Shop
from tests.browser.conftest import sign_in
from tests.browser.steps import findings

PAGES = (
    "/watch", "/teach", "/scan", "/plan", "/plan/held", "/parts", "/register/prices", "/register/codes", "/register/files",
    "/register/units-table", "/register/settings", "/register/trail", "/units/{unit}", "/units/{unit}/warranty",
    "/visits/{visit}/report", "/visits/{visit}/record", "/visits/{visit}/options",
)  # fmt: skip


@pytest.mark.parametrize(("size", "scheme"), [("desk", "dark"), ("phone", "light")])
def test_office_pages_are_clean(open_page, shop, size, scheme):
    page = open_page(size, scheme)
    sign_in(page, shop.logins["lead"])
    for path in PAGES:
        page.goto(path.format(unit=shop.unit, visit=shop.visit))
        expect(page.locator("main")).to_be_visible()
        assert findings(page) == [], path
        assert page.evaluate("document.documentElement.scrollWidth <= innerWidth"), path


@pytest.mark.parametrize(("size", "scheme"), [("desk", "light"), ("phone", "dark")])
def test_prices_warranty_and_everything_out(open_page, shop, owner, size, scheme):
    with owner.begin() as connection:
        connection.execute(update(Shop).where(Shop.id == shop.id).values(settings={"currency": "USD"}))
    page = open_page(size, scheme)
    sign_in(page, shop.logins["lead"])
    page.goto("/register/prices")
    table = {"name": "p.csv", "mimeType": "text/csv", "buffer": "code;what;price\nA;Válvula;12,50\nB;;3\n".encode("latin-1")}
    page.set_input_files("#file", files=[table])
    page.click("button:has-text('Preview')")
    expect(page.locator("main")).to_contain_text("1 new, 0 changed, 0 as they are, 1 refused")
    assert findings(page) == []
    page.click("button:has-text('Import them')")
    expect(page.locator("main")).to_contain_text("Válvula")
    expect(page.locator("main")).to_contain_text("$12.50")

    page.goto(f"/units/{shop.unit}/warranty")
    for name, value in {"what": "Compressor", "whose": "Norrland", "starts_on": "2026-01-15", "parts_months": "120"}.items():
        page.fill(f"#{name}", value)
    page.click("button:has-text('Keep')")
    expect(page.locator(".cover")).to_contain_text("days left")
    page.click("summary:has-text('Claim on it')")
    page.fill("input[name=failed]", "Windings to ground")
    page.click("button:has-text('Begin the claim')")
    page.check("[value=part_kept]")
    page.click(".claim button")
    expect(page.locator("[value=part_kept]")).to_be_checked()
    assert findings(page) == []

    page.goto("/register/files")
    page.click("button:has-text('Make the file')")
    with page.expect_download() as fetched:  # the page tells by itself when it is there
        page.click("a[href$='.zip']")
    assert fetched.value.suggested_filename.endswith(".zip")
    assert findings(page) == []

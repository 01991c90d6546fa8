"""Danger from combustion: the visit does not close before gas is off, a tag is on, and somebody was told and answered."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from tests.browser.steps import answer, at_visit, findings, go, keep, open_form, tap
from tests.browser.test_owner import sign


@pytest.mark.parametrize(("size", "scheme"), [("desk", "light"), ("phone", "dark")])
def test_from_a_crack_to_closing(open_page, shop, size, scheme):
    page = at_visit(open_page(size, scheme), shop)
    go(page, "Look")
    answer(page, "heat_exchanger_cracked", "yes")
    go(page, "Close")
    expect(page.locator("#obstacles")).to_contain_text("Gas off, a red tag on it")
    page.click("label[for=out-not_fixed]")
    page.fill("#close-summary", "Heat exchanger cracked.")
    page.fill("#close-override", "they know")
    tap(page, "#close-form button")
    expect(page.locator("#said-close-form .error")).to_contain_text("Gas off")  # no reason lets that go
    go(page, "Mend")
    open_form(page, "Red tag: unsafe")
    page.fill("#tag-danger", "Crack between flame and air")
    page.fill("#tag-told", "Ada Harbour, on site")
    page.fill("#tag-number", "T 4711")
    page.check("#tag-gas")
    page.click("label[for=tag-heard-refused]")
    tap(page, "#tag-form button[type=submit]")
    expect(page.locator("#said-tag-form")).to_contain_text("Say how they were told")
    expect(page.locator("#tag-number")).to_have_value("T 4711")  # nothing typed is lost
    page.click("label[for=tag-heard-signed]")
    sign(page, (0.5, 0.5), (0.5, 0.5))
    tap(page, "#tag-form button[type=submit]")
    expect(page.locator("#said-tag-form")).to_contain_text("too little for a signature")
    sign(page, (0.1, 0.4), (0.4, 0.8), (0.8, 0.2))
    keep(page, "#tag-form button[type=submit]")
    assert findings(page) == []
    go(page, "Close")
    expect(page.locator("#obstacles")).not_to_contain_text("Gas off")
    for lang in ("en", "es"):
        notice = page.request.get(f"/visits/{shop.visit}/red-tag.pdf?lang={lang}")
        assert notice.body().startswith(b"%PDF")
    report = page.request.get(f"/visits/{shop.visit}/report").text()
    assert "The unit is not safe to use." in report
    page.click("label[for=out-not_fixed]")
    page.fill("#close-summary", "Heat exchanger cracked, tagged.")
    page.fill("#close-override", "a new unit is offered")
    page.click("#close-form button")
    expect(page.locator("#closing")).to_contain_text("Closed")

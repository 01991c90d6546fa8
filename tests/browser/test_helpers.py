"""A helper before a step with consequence: the card is open until somebody stands by, and folds once one does."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import sign_in
from tests.browser.steps import findings


@pytest.mark.parametrize(("size", "scheme"), [("desk", "dark"), ("phone", "light")])
def test_a_helper_calls_a_technician_to_the_side(open_page, shop, size, scheme):
    page = open_page(size, scheme)
    sign_in(page, shop.logins["helper"])
    page.goto(f"/visits/{shop.visit}?at=weigh")
    card = page.locator(".teach-card")
    expect(card).to_have_class("teach-card to-come")
    assert findings(page) == []
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    card.get_by_role("button").click()
    expect(card.locator(".said")).to_contain_text("Choose who stands by")
    card.locator("select").select_option("Ida technician")
    card.get_by_role("button").click()
    expect(card).to_contain_text("Ida technician stands by")
    expect(card).to_have_class("teach-card")
    assert findings(page) == []

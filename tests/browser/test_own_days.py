"""A unit with two sound days in its history is measured against them; a lead takes one out and the judgement changes."""

from __future__ import annotations

import re
from datetime import UTC, datetime, timedelta

import pytest
import uuid6
from playwright.sync_api import expect
from sqlalchemy import insert, select, update

from dry_gauge.store import sound_days
from dry_gauge.store.models import Unit
from tests.browser.conftest import sign_in
from tests.browser.steps import findings, read_in, show
from tests.builders import HEALTHY
from tests.sound import sound_visit

# A unit that has always run with a hot condenser, however clean.
HOT = HEALTHY | {"liquid_pressure": 402.0, "liquid_line_temp": 107.0}


@pytest.mark.parametrize(("size", "scheme"), [("desk", "light"), ("phone", "dark")])
def test_a_unit_is_measured_against_its_own_days_and_a_lead_says_which(open_page, as_shop, owner, shop, size, scheme):
    now = datetime.now(UTC)
    with as_shop(shop) as connection:
        someone = shop.someone("technician")
        for days in (200, 100):
            sound_days.mark(connection, sound_visit(connection, someone, shop.unit, now - timedelta(days=days), HOT), True)
        today = sound_visit(connection, someone, shop.unit, now - timedelta(minutes=40), HOT, outcome=None)
    page = open_page(size, scheme)
    sign_in(page, shop.logins["lead"])

    def chance_of_nothing_wrong() -> int:
        page.goto(f"/visits/{today}?at=read")
        show(page, size, "judge")
        cause = page.locator(".cause", has_text="Nothing wrong").locator("b").first
        return int(re.search(r"\d+", cause.inner_text())[0])

    known = chance_of_nothing_wrong()
    expect(page.locator(".own-days")).to_contain_text("this unit's own 2 sound days")
    page.click(".days-beside summary")
    expect(page.locator(".days-beside tbody tr", has_text="Subcooling").locator("td")).to_have_count(4)
    expect(page.locator(".days-beside thead")).to_contain_text("Sound today This unit")
    assert findings(page) == []
    show(page, size, "ladder")
    ladder = page.locator(f".only-{size} .ladder")
    expect(ladder.locator(".own-band").first).to_be_visible()
    expect(ladder.locator("desc")).to_contain_text("on its own sound days")
    assert findings(page) == []
    for unit in ("C", "F"):  # in the reader's units
        page.context.request.get("/me/token")
        page.goto(f"/visits/{today}?at=read")
        read_in(page, unit)
        page.goto(f"/visits/{today}?at=read")
        show(page, size, "ladder")
        expect(page.locator(f".only-{size} .ladder .axis-unit")).to_have_text(f"°{unit}")
        expect(page.locator(f".only-{size} .ladder .own-band").first).to_be_visible()
    page.goto(f"/units/{shop.unit}#sound-days")
    for left in (1, 0):
        page.locator("button:has-text('as the rule has it')").first.click()
        expect(page.locator("button:has-text('as the rule has it')")).to_have_count(left)
    for _ in range(2):
        if page.locator("button:has-text('not right then')").count():
            page.locator("button:has-text('not right then')").first.click()
            page.wait_for_load_state()
    expect(page.locator("button:has-text('not right then')")).to_have_count(0)
    alone = chance_of_nothing_wrong()
    assert alone < known
    expect(page.locator(".own-days")).to_have_count(0)
    # Another of its model, sound on this site: it speaks for this one too.
    with owner.begin() as connection:
        connection.execute(update(Unit).where(Unit.id == shop.unit).values(model="NR-060"))
        own = connection.execute(select(Unit).where(Unit.id == shop.unit)).one()
        connection.execute(
            insert(Unit).values(
                shop_id=shop.id, id=(like := uuid6.uuid7()), site_id=own.site_id, tag="U-2", model="nr-060", facts=own.facts
            )
        )
    with as_shop(shop) as connection:
        sound_days.mark(connection, sound_visit(connection, someone, like, now - timedelta(days=50), HOT), True)
    assert chance_of_nothing_wrong() > alone
    expect(page.locator(".own-days")).to_contain_text("sound days of U-2, the same model on this site")
    page.goto(f"/units/{shop.unit}")
    page.click("#alike a:has-text('U-2')")
    expect(page.locator("#sound-days")).to_be_visible()
    assert findings(page) == []


@pytest.mark.parametrize(("size", "scheme"), [("desk", "light"), ("phone", "dark")])
def test_a_makers_chart_typed_on_the_card_is_what_the_unit_is_measured_against(open_page, as_shop, shop, size, scheme):
    hot = HEALTHY | {"liquid_pressure": 425.0, "liquid_line_temp": 110.0}
    with as_shop(shop) as connection:
        someone, begun = shop.someone("technician"), datetime.now(UTC) - timedelta(minutes=40)
        today = sound_visit(connection, someone, shop.unit, begun, hot, outcome=None)
    page = open_page(size, scheme)
    sign_in(page, shop.logins["lead"])
    page.goto(f"/units/{shop.unit}/edit")
    page.click(".as-lines summary")
    page.fill("#f-maker_chart", "90 63wb 425 120")
    page.click("button:text-is('Keep card')")
    expect(page.locator(".card-field .error")).to_contain_text("Are the two swapped?")
    expect(page.locator("#f-maker_chart")).to_have_value("90 63wb 425 120")
    # Put right in the table over it, which says the same, and its other rows are left alone.
    cells = page.locator(".typed-rows input")
    expect(cells).to_have_count(10)
    assert [cell.input_value() for cell in cells.all()] == ["90", "63", "425", "120", *[""] * 6]
    for i, number in enumerate(("90", "63", "120", "425", "12")):
        cells.nth(i).fill(number)
    expect(page.locator("#f-maker_chart")).to_have_value("90 63wb 120 425 12")
    page.click(".as-lines summary")
    page.fill("#f-maker_chart", "")  # of an empty one nobody knows by which bulb it goes: that is asked, never taken for granted
    bulb = page.locator(".of-rows select")
    bulb.select_option("")
    for i, number in enumerate(("90", "63", "120", "425", "12")):
        cells.nth(i).fill(number)
    page.click("button:text-is('Keep card')")
    expect(bulb).to_be_focused()
    bulb.select_option("wb")
    expect(page.locator("#f-maker_chart")).to_have_value("90 63wb 120 425 12")
    page.click("button:text-is('Keep card')")
    page.wait_for_url(f"**/units/{shop.unit}")
    for unit, superheat in (("C", "4 to 9 °C"), ("F", "7 to 17 °F")):
        read_in(page, unit)
        page.goto(f"/visits/{today}?at=read")
        show(page, size, "judge")
        expect(page.locator(".own-days")).to_have_text("Measured against its maker's chart, besides units like it.")
        page.click(".targets summary")
        row = page.locator(".targets tbody tr", has=page.locator("th", has_text=re.compile("^superheat$")))
        expect(row).to_contain_text(f"{superheat} the maker's chart")
        assert findings(page) == []

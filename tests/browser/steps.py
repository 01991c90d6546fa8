"""What tests in the browser do again and again."""

from __future__ import annotations

import re
from datetime import UTC, date, datetime, timedelta
from importlib.resources import files
from typing import Any

import uuid6
from playwright.sync_api import Locator, Page, Response, expect
from sqlalchemy import Connection, Engine, select

from dry_gauge.core.quantities import PSI_PA
from dry_gauge.service.cylinders import ByHand, book_by_hand
from dry_gauge.store.cylinders import add_cylinder
from dry_gauge.store.models import EntryRow
from tests.browser.conftest import sign_in
from tests.conftest import ShopOf

AXE = (files("axe_playwright_python") / "axe.min.js").read_text()
SEVEN = {
    "outdoor_air_temp": "90", "return_air_temp": "76", "return_air_wet_bulb": "63", "supply_air_temp": "55",
    "suction_pressure": "120", "suction_line_temp": "52", "liquid_pressure": "365",
}  # fmt: skip


def at_visit(page: Page, shop: ShopOf) -> Page:
    """Signed in, with the shop's visit open."""
    sign_in(page, shop.logins["technician"])
    page.goto(f"/visits/{shop.visit}")
    return page


def until(page: Page, promise: str) -> None:
    """Wait until what a promise of the page resolves to holds; `wait_for_function` takes the promise itself for true."""
    for _ in range(250):
        if page.evaluate(promise):
            return
        page.wait_for_timeout(100)
    raise AssertionError(f"never came true: {promise}")


def read_in(page: Page, degrees: str) -> None:
    """From the next page on in F or in C."""
    page.evaluate(
        """(degrees) => fetch('/me/preferences', {method: 'POST', headers: {'x-csrftoken': document.body.dataset.csrf},
                       body: new URLSearchParams({temperature_unit: degrees})})""",
        degrees,
    )


def show(page: Page, size: str, tab: str) -> None:
    if size == "phone":
        page.click(f"label[for=tab-{tab}]")


def type_all(page: Page, values: dict[str, str]) -> None:
    """As a thumb does it: first field, Enter, Enter, Enter."""
    page.click(f"#q-{next(iter(values))}")
    for name, value in values.items():
        expect(page.locator(f"#q-{name}")).to_be_focused()
        page.keyboard.type(value)
        page.keyboard.press("Enter")


def findings(page: Page) -> list[tuple[str, str, str]]:
    """Serious findings of axe-core on the page as it stands."""
    page.evaluate(AXE)
    result = page.evaluate("axe.run(document, {resultTypes: ['violations']})")
    return [
        (item["id"], node["target"], node.get("failureSummary", "")[:160])
        for item in result["violations"]
        if item["impact"] in ("serious", "critical")
        for node in item["nodes"]
    ]


def answer(page: Page, what: str, state: str) -> None:
    """Answer an observation where it stands, opening its place."""
    label = page.locator(f"label[for=s-{what}-{state}]")
    place = page.locator("details.place", has=label)
    if place.count() and place.get_attribute("open") is None:
        place.locator("summary").click()
    with page.expect_response(lambda response: response.url.endswith("/entries")):
        label.click()
    expect(page.locator(f"#s-{what}-{state}")).to_be_checked()


def go(page: Page, station: str) -> None:
    """To a station by the rail."""
    page.click(f".stations a:has-text('{station}')")
    expect(page.locator(f".stations .here:has-text('{station}')")).to_be_visible()


def _answered(page: Page, button: Locator) -> Response:
    with page.expect_response(lambda response: response.url.endswith("/entries")) as answer:
        button.click()
    return answer.value


def tap(page: Page, button: str) -> None:
    """Tap, and wait for the answer."""
    _answered(page, page.locator(button).first)


def keep(page: Page, button: str) -> None:
    """Tap, and wait until the page shows what that changed: the entry's own line stands in its list."""
    sent = _answered(page, page.locator(button).first).request.post_data or ""
    entry = re.search(r'entry_id(?:=|"\s+)([0-9a-f-]{36})', sent)
    assert entry, f"no entry was sent: {sent[:200]}"
    expect(page.locator(f"#e-{entry[1]}")).to_have_count(1)


def send(page: Page, form: str, ticked: tuple[str, ...] = (), **fields: str) -> None:
    """Fill one form of a desk, unfolded with what is folded in it, and keep it."""
    outer = page.locator(f"details:has(#{form})").first
    for folded in (outer, *outer.locator("details").all()):
        if folded.get_attribute("open") is None:
            folded.locator("summary").first.click()
    for name in ticked:
        page.check(f"#{form} [name={name}]")
    for name, value in fields.items():
        page.fill(f"#{form} [name={name}]", value)
    if _answered(page, page.locator(f"#{form} button[type=submit]").last).ok:
        # Kept, it folds away; before that its fold looks open to whoever fills it again.
        expect(page.locator(f"details[open]:not(.place) > #{form}.clears")).to_have_count(0)


def open_form(page: Page, words: str) -> None:
    """Unfold what stands under those words."""
    page.click(f"summary:has-text('{words}')")


def add_cylinders(connection: Connection, shop: ShopOf, refrigerant: str) -> None:
    """A bought and a recovery cylinder, on the shop's book."""
    bought: dict[str, Any] = {"kind": "in_use", "refrigerant": refrigerant, "tare_g": 2800}
    recovery: dict[str, Any] = {
        "kind": "recovery",
        "refrigerant": refrigerant,
        "water_capacity_g": 21_600,
        "tare_g": 12_000,
        "service_pressure_pa": 400 * PSI_PA,
        "retest_by": date.today() + timedelta(days=300),
    }
    for name, values, grams in (("Blue", bought, 11_000), ("Grey", recovery, 0)):
        key = uuid6.uuid7()
        add_cylinder(connection, shop_id=shop.id, id=key, name=name, **values)
        if grams:
            book_by_hand(connection, shop.someone(), key, ByHand("bought", grams), datetime.now(UTC))


def kept_bodies(owner: Engine, shop: ShopOf) -> list[dict[str, Any]]:
    """What the shop's visit holds, in order, with how long each waited in its browser."""
    with owner.connect() as connection:
        rows = connection.execute(
            select(EntryRow.body, EntryRow.received_at, EntryRow.written_at)
            .where(EntryRow.visit_id == shop.visit)
            .order_by(EntryRow.sequence)
        )
        return [{**row.body, "waited": (row.received_at - row.written_at).total_seconds()} for row in rows]

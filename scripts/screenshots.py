"""Writes docs/screenshots/ from a running demo: `make demo` in one terminal, this in another (PORT if not 8000)."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from dry_gauge.demo.shop import PASSWORD
from dry_gauge.present.hints import HINTS
from tests.browser.chromium import launch

TARGET = Path(__file__).resolve().parent.parent / "docs/screenshots"
BASE = f"http://127.0.0.1:{os.environ.get('PORT', '8000')}"
SIZES = {"desk": (1280, 800), "phone": (390, 844), "tablet": (820, 1180)}


def call(tag: str, tab: str = "", station: str = "read") -> Callable[[Page], None]:
    """Opens a call of today, on a phone at one of its tabs."""

    def go(page: Page) -> None:
        page.goto("/")
        address = page.locator(f".call:has-text('{tag}')").first.get_attribute("href") or ""
        page.goto(f"{address.partition('?')[0]}?at={station}")
        if tab:
            page.click(f"label[for=tab-{tab}]")

    return go


def at(path: str) -> Callable[[Page], None]:
    """Opens a page."""
    return lambda page: page.goto(path) and None


def air(page: Page) -> None:
    """The way of the air on the kiln room's unit."""
    call("PHP-1", station="air")(page)
    page.locator("#air-way").evaluate("one => one.scrollIntoView({block: 'start'})")


def still_open(tag: str, station: str) -> Callable[[Page], None]:
    """Opens a visit that was left open, at one of its stations."""

    def go(page: Page) -> None:
        page.goto("/")
        visits = page.locator(f"main a[href*='/visits/']:not([href$=options]):has-text('{tag}')")
        address = visits.last.get_attribute("href") or ""
        page.goto(f"{address.partition('?')[0]}?at={station}")

    return go


def metered(page: Page) -> None:
    """The port's old rooftop, its compressor's amps live from a meter."""
    still_open("RTU-2", "electrical")(page)
    page.click("summary:has-text('Amps of a machine')")
    page.locator("#amps-form [data-from-meter]").wait_for(timeout=20_000)
    page.click("#amps-form [data-from-meter]")
    page.locator("#amps-form").evaluate("one => one.scrollIntoView({block: 'start'})")


def owner_report(page: Page) -> None:
    """What the ferry terminal reads of this morning's repair, under its link."""
    page.goto("/")
    address = page.locator(".call-closed:has-text('RTU-1')").first.get_attribute("href") or ""
    page.goto(f"{address.partition('?')[0]}/report")
    page.click("button:has-text('Make a link')")
    page.goto(page.locator(".owner-link input").first.input_value())


def options(page: Page) -> None:
    """What the port has to decide."""
    page.goto("/")
    page.click(".lines a[href*='/options']")
    page.locator(".owner-offer").evaluate("one => one.scrollIntoView({block: 'start'})")


def repair(desk: str) -> Callable[[Page], None]:
    """Opens the repair that is under way, at one of its desks, once its scale speaks."""

    def go(page: Page) -> None:
        page.goto("/")
        address = page.locator("a:has-text('Freezer 2')").first.get_attribute("href") or ""
        page.goto(f"{address.partition('?')[0]}?at={desk}")
        page.wait_for_timeout(3000)

    return go


def here(page: Page) -> None:
    """A unit that nobody knows yet, being put down."""
    page.goto("/here")
    page.fill("#site", "Kiln Lane Pottery")
    page.wait_for_timeout(500)
    page.fill("#h-unit", "AC-1, drying room")
    for what in ("kind-split_ac", "refrigerant-R-410A", "metering-txv"):
        page.click(f"label[for='h-{what}']")


def put_hints_away(page: Page) -> None:
    """As someone sees it who has been here before."""
    token = page.get_attribute("body", "data-csrf") or ""
    for hint in HINTS:
        page.request.post("/me/hints", form={"csrftoken": token, "hint": hint}, max_redirects=0)


def unit(page: Page) -> None:
    """Opens a unit card with a story."""
    page.goto("/")
    page.click(".unit-list a:has-text('AC-2')")
    page.wait_for_load_state()


def label(page: Page) -> None:
    """The florist's label, read from its photo."""
    page.goto("/register?q=florist")
    page.click("main a:has-text('Cooler 1')")
    page.click("a:has-text('Read it into the card')")


def practice(page: Page) -> None:
    """A made-up call, half way."""
    page.goto("/practice")
    page.get_by_role("button", name="The first call").click()
    page.wait_for_url("**at=arrive")
    page.goto(page.url.replace("at=arrive", "at=read"))
    for done, what in enumerate(("airs", "gauges", "lines", "filter_dirty"), 1):
        button = page.locator(f"button[value={what}]")
        button.evaluate("one => { one.closest('details').open = true; }")
        button.click()
        page.wait_for_selector(f"input[name=known][value='{done}']", state="attached")


SHOTS: tuple[tuple[str, str, str, Callable[[Page], None]], ...] = (
    ("board-day", "desk", "light", at("/")),
    ("visit-day", "desk", "light", call("AC-2")),
    ("controls-night", "tablet", "dark", call("all of it stands still", station="controls")),
    ("phone-readings", "phone", "light", call("AC-2", "sheet")),
    ("air", "desk", "light", air),
    ("electrical", "desk", "light", metered),
    ("label-phone", "phone", "dark", label),
    ("look-night", "desk", "dark", call("AC-2", station="look")),
    ("close-phone", "phone", "light", call("Cheese", station="close")),
    ("new-visit-phone", "phone", "light", here),
    ("weigh-in-phone", "phone", "dark", repair("weigh")),
    ("practice", "desk", "light", practice),
    ("cylinders", "desk", "light", at("/cylinders")),
    ("box", "desk", "light", call("Cheese", station="box")),
    ("unit", "desk", "light", unit),
    ("pocket", "desk", "light", at("/pocket?refrigerant=R-454C&pressure=71.2&temperature=20")),
    ("plan", "desk", "light", at("/plan")),
    ("owner-phone", "phone", "light", owner_report),
    ("options", "desk", "light", options),
)


def main() -> None:
    """Take every shot."""
    TARGET.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = launch(playwright.chromium)
        for name, size, scheme, go in SHOTS:
            width, height = SIZES[size]
            viewport = {"width": width, "height": height}
            context = browser.new_context(base_url=BASE, viewport=viewport, color_scheme=scheme)  # type: ignore[arg-type]
            page = context.new_page()
            page.goto("/sign-in")
            page.fill("#login", "ines")
            page.fill("#password", PASSWORD)
            page.click("button[type=submit]")
            page.wait_for_url(f"{BASE}/")
            put_hints_away(page)
            go(page)
            page.evaluate("document.fonts.ready")
            page.wait_for_timeout(200)
            page.screenshot(path=TARGET / f"{name}.png")
            context.close()
        browser.close()


if __name__ == "__main__":
    main()

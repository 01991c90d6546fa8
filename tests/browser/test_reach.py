"""Every screen for everyone: no serious finding of axe-core, nothing wider than the page, targets a glove can hit."""

from __future__ import annotations

import pytest

from dry_gauge.web.stations import STATIONS
from tests.browser.conftest import sign_in
from tests.browser.steps import SEVEN, findings, type_all

DESKS = [station.name for station in STATIONS if station.group]
SMALL_FIELDS = """[...document.querySelectorAll('select, textarea, input')]
  .filter((one) => !['hidden', 'radio', 'checkbox', 'file', 'range'].includes(one.type))
  .filter((one) => parseFloat(getComputedStyle(one).fontSize) < 16).map((one) => one.name)"""
"""Those in letters of less than 16 px, at which some phones zoom in."""


@pytest.mark.parametrize("scheme", ["light", "dark"])
@pytest.mark.parametrize("size", ["desk", "phone"])
def test_no_screen_has_a_serious_finding_or_scrolls_sideways(open_page, shop, size, scheme):
    page = open_page(size, scheme)
    page.goto("/sign-in")
    assert findings(page) == []
    sign_in(page, shop.logins["technician"])
    page.goto(f"/visits/{shop.visit}")
    type_all(page, SEVEN)
    page.locator("#said-liquid_pressure .kept").wait_for()
    plain = (
        f"/visits/{shop.visit}/probes",
        f"/calls/{shop.visit}",
        f"/units/{shop.unit}/edit",
        f"/units/{shop.unit}/label",
        "/register",
        "/register/instruments",
        "/register/people",
        "/register/settings",
        "/cylinders",
        "/offline",
        "/me",
        "/here",
        f"/visits/{shop.visit}/proof",
    )
    for path in (
        "/",
        f"/visits/{shop.visit}",
        f"/units/{shop.unit}",
        *(f"/visits/{shop.visit}?at={station}" for station in ("arrive", "look", "air", "mend", "close", *DESKS)),
        *(plain if (size == "phone") == (scheme == "dark") else ()),
        "/pocket?refrigerant=R-448A&pressure=70",
        "/nowhere",
    ):
        page.goto(path)
        tabs = ("sheet", "ladder", "judge", "timeline") if "?at=" not in path else ("sheet", "ladder")
        for tab in tabs if size == "phone" and "visits" in path and not path.endswith(("probes", "proof")) else ("",):
            if tab:
                page.click(f"label[for=tab-{tab}]")
            assert findings(page) == [], (path, tab)
            wide = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
            assert wide <= 0, (path, tab)
            if size == "desk" and "visits" in path and not path.endswith(("probes", "proof")):  # its panels scroll, it stands
                high = page.evaluate("document.documentElement.scrollHeight - document.documentElement.clientHeight")
                assert high <= 0, path


def test_nothing_scrolls_sideways_on_the_smallest_phone(open_page, shop):
    """Nor on a desk's screen at four times the size; and no phone zooms in on a field that is touched."""
    page = open_page("phone")
    page.set_viewport_size({"width": 320, "height": 640})
    sign_in(page, shop.logins["lead"])
    wide, small = {}, {}
    office = ("/", "/plan", "/plan?span=week", "/parts", "/season", "/watch", "/pocket", "/cylinders", "/register/settings")
    papers = ("report", "record", "options", "cycle", "probes", "proof")
    for path in (
        *office,
        f"/units/{shop.unit}",
        f"/units/{shop.unit}/label",
        *(f"/visits/{shop.visit}/{paper}" for paper in papers),
        *(f"/visits/{shop.visit}?at={station}" for station in ("arrive", "look", "air", "mend", "close", *DESKS)),
    ):
        page.goto(path)
        page.evaluate("document.querySelectorAll('details:not(.menu)').forEach((box) => { box.open = true; })")
        wide[path] = page.evaluate("document.documentElement.scrollWidth")
        small[path] = page.evaluate(SMALL_FIELDS)
    assert {path: width for path, width in wide.items() if width > 320} == {}
    assert {path: names for path, names in small.items() if names} == {}


@pytest.mark.parametrize("station", ["arrive", "look", "air", "read", "mend", *DESKS, "close"])
def test_targets_are_large_enough_for_a_glove(open_page, shop, station):
    page = open_page("phone")
    sign_in(page, shop.logins["technician"])
    page.goto(f"/visits/{shop.visit}?at={station}")
    page.locator(".stations").wait_for()
    touched = (
        "input:not([type=hidden]):not([type=radio]):not([type=checkbox])",
        "label[for^=s-]",
        "label[for^=tab-]",
        ".picks label",
        ".checks a",
        "select",
        ".stations a",
        "summary",
        "button",
    )
    selector = ", ".join([*(f"main {one}" for one in touched), ".masthead a.tool", ".masthead summary"])
    small = page.evaluate(
        """(selector) => [...document.querySelectorAll(selector)].filter((e) => e.offsetParent)
          .map((e) => [e.id || e.htmlFor || e.textContent.trim(), e.getBoundingClientRect()])
          .filter(([, r]) => r.height < 48 || r.width < 44).map(([name, r]) => `${name} ${r.width}x${r.height}`)""",
        selector,
    )
    assert small == []


def test_the_page_holds_at_twice_the_size(open_page, shop):
    """200 % browser zoom of the desk page: half its width in CSS pixels."""
    page = open_page()
    sign_in(page, shop.logins["technician"])
    page.set_viewport_size({"width": 640, "height": 400})
    for path in ("/", f"/visits/{shop.visit}", "/pocket"):
        page.goto(path)
        assert page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth") <= 0, path

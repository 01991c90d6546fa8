"""Draws the icons of a home screen from the mark: run again when the mark changes.

A phone may cut an icon round: the mark then keeps to the four fifths that always stay.
"""

from __future__ import annotations

import json

from playwright.sync_api import sync_playwright

from dry_gauge.web.render import STATIC
from tests.browser.chromium import launch

PAPER = json.loads((STATIC / "dry-gauge.webmanifest").read_text())["background_color"]
ICONS = {"icon-192.png": (192, 1.0), "icon-512.png": (512, 1.0), "icon-cut-512.png": (512, 0.6), "icon-apple.png": (180, 0.8)}
"""Name to its side in pixels and the share of it that the mark takes."""


def main() -> None:
    """Writes them beside the mark."""
    mark = (STATIC / "mark.svg").read_text()
    with sync_playwright() as playwright:
        browser = launch(playwright.chromium)
        for name, (side, share) in ICONS.items():
            page = browser.new_page(viewport={"width": side, "height": side})
            room = f"<style>body {{ margin: 0; background: {PAPER} }} svg {{ display: block; width: {side * share}px; margin: "
            page.set_content(f"{room}{side * (1 - share) / 2}px }}</style>{mark}")
            page.screenshot(path=STATIC / name)
        browser.close()


if __name__ == "__main__":
    main()

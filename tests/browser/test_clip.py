"""A clip from the camera to the record: recorded small, looked at, kept, and played."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from tests.browser.chromium import launch
from tests.browser.conftest import SIZES
from tests.browser.steps import at_visit


@pytest.mark.parametrize(("size", "scheme"), [("desk", "light"), ("phone", "dark")])
def test_a_noise_is_recorded_looked_at_and_kept(chromium, shop, server, size, scheme):
    width, height = SIZES[size]
    browser = launch(chromium.browser_type, "--use-fake-ui-for-media-stream", "--use-fake-device-for-media-stream")
    try:
        context = browser.new_context(
            base_url=server, viewport={"width": width, "height": height}, color_scheme=scheme, service_workers="block"
        )
        page = context.new_page()
        page.set_default_timeout(40_000)
        complaints = []
        page.on("console", lambda said: complaints.append(said.text) if said.type == "error" else None)
        at_visit(page, shop)
        page.goto(f"{page.url}?at=look")
        button, video = page.locator("#clip button"), page.locator("#clip video")
        button.click()
        expect(button).to_have_text(re.compile(r"Stop, \d+ s left"))
        page.wait_for_timeout(1600)
        button.click()
        expect(page.locator("#clip p")).to_contain_text("s recorded. Look at it")
        expect(video).to_be_visible()
        page.wait_for_function("document.querySelector('#clip video').readyState > 1")
        page.fill("#photo-caption", "rattles at start")
        page.click("#photo-form button[type=submit]")
        line = page.locator("#timeline li", has_text="rattles at start")
        expect(line).to_contain_text(re.compile(r"Clip, \d s"))
        expect(video).to_be_hidden()
        expect(button).to_have_text("Record a clip")
        page.goto(line.locator("a.photo").get_attribute("href"))
        page.wait_for_function("document.querySelector('video').readyState > 1")
        assert page.evaluate("document.querySelector('video').videoWidth") > 0
        assert not complaints
    finally:
        browser.close()

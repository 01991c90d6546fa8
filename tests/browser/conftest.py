"""Debian's Chromium, driven by Playwright."""

from __future__ import annotations

import re
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
import uuid6
from playwright.sync_api import Browser, Page, expect, sync_playwright

from dry_gauge.service.append import Sent, append
from tests.browser.chromium import GRANTED, launch
from tests.conftest import PASSWORD

# Two cores carry server, database, probes and browser at once: what is late by seconds is not wrong.
expect.set_options(timeout=25_000)
SIZES = {"desk": (1280, 800), "phone": (390, 844)}


@pytest.fixture(scope="session")
def chromium() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        browser = launch(playwright.chromium)
        yield browser
        browser.close()


@pytest.fixture
def open_page(request: pytest.FixtureRequest, chromium: Browser, server: str) -> Iterator[Any]:
    """A page of a size and theme; fails the test if the page says anything is wrong on its console.

    A context is a new browser, whose service worker would fetch the whole shell again: a fifth of the processor time
    of these tests. It works in those marked ``service_worker``: what is done without signal, and one whole call.
    """
    contexts = []
    complaints: list[str] = []
    keeps: Any = "allow" if request.node.get_closest_marker("service_worker") else "block"

    def open_it(size: str = "desk", scheme: Any = "light") -> Page:
        width, height = SIZES[size]
        context = chromium.new_context(
            viewport={"width": width, "height": height},
            color_scheme=scheme,
            has_touch=size == "phone",
            base_url=server,
            service_workers=keeps,
            permissions=GRANTED,
        )
        contexts.append(context)
        page = context.new_page()
        page.set_default_timeout(25_000)  # a machine that does much else answers late, and is no failure
        page.on("pageerror", lambda error: complaints.append(str(error)))
        page.on("console", lambda message: complaints.append(message.text) if "Content Security" in message.text else None)
        return page

    yield open_it
    for context in contexts:
        context.close()
    assert complaints == []


def sign_in(page: Page, login: str) -> None:
    """Signed in past the form and the board, which cost a page each and have tests of their own; no page is opened."""
    form = page.request.get("/sign-in").text()
    token = re.search(r'name="csrftoken" value="([^"]+)"', form)
    assert token
    fields = {"csrftoken": token[1], "login": login, "password": PASSWORD}
    assert page.request.post("/sign-in", form=fields, max_redirects=0).status == 303


def sign_in_by_hand(page: Page, login: str) -> None:
    """Through the form, to the board."""
    page.goto("/sign-in")
    page.fill("#login", login)
    page.fill("#password", PASSWORD)
    page.click("button[type=submit]")
    page.wait_for_url("**/")


@pytest.fixture
def wrote(engine, as_shop):
    """Entries that a technician wrote so many minutes ago."""

    def write(shop, *told):
        now = datetime.now(UTC)
        with as_shop(shop) as connection:
            for minutes_ago, body in told:
                append(
                    connection,
                    shop.someone("technician"),
                    shop.visit,
                    Sent(uuid6.uuid7(), body),
                    now - timedelta(minutes=minutes_ago),
                )

    return write

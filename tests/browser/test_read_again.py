"""Read again: what was read before the unit had settled waits for it, and the same number typed once more is a reading."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from dry_gauge.notebook.subjects.clock import ClockBody
from dry_gauge.notebook.subjects.ledger import LockoutBody
from dry_gauge.notebook.subjects.readings import ReadingBody
from tests.browser.steps import SEVEN, at_visit, kept_bodies, read_in, show


def over_itself(page: Page, quantity: str, value: str, key: str) -> None:
    """As it is typed: what the field holds is chosen, and the same written over it."""
    page.click(f"#q-{quantity}")
    page.keyboard.press("Control+a")
    page.keyboard.type(value)
    page.keyboard.press(key)


@pytest.mark.parametrize(("size", "scheme", "degrees"), [("desk", "light", "F"), ("phone", "dark", "C")])
def test_numbers_of_the_first_minutes_are_read_again(open_page, shop, wrote, owner, size, scheme, degrees):
    readings = [ReadingBody(quantity=name, value=float(value), unit="psig" if "pressure" in name else "F")
                for name, value in SEVEN.items()]  # fmt: skip
    wrote(shop, (20, ClockBody(event="started", minutes_ago=0)), *((17, one) for one in readings))
    page = at_visit(open_page(size, scheme), shop)
    read_in(page, degrees)
    page.goto(f"{page.url}?at=read")
    banner, suction = page.locator("#banner"), page.locator("#said-suction_pressure")
    expect(banner).not_to_contain_text("before it had settled")  # by the latest reading it runs for three minutes
    over_itself(page, "liquid_line_temp", "35" if degrees == "C" else "95", "Enter")
    expect(suction).to_contain_text("read again")  # without being asked for
    expect(page.locator("#said-outdoor_air_temp")).not_to_contain_text("again")
    expect(banner).to_contain_text("Read before it had settled: 4 readings. Read again")
    expect(page.locator("#settling")).to_contain_text("suction pressure")
    banner.locator("summary", has_text="Read before it had settled").click()
    banner.get_by_role("link", name="suction pressure").click()
    expect(page.locator("#q-suction_pressure")).to_be_in_viewport()
    # Walking past a number is not reading it; typing it is, though it be the same.
    page.click("#q-suction_pressure")
    page.keyboard.press("Enter")
    expect(page.locator("#q-suction_line_temp")).to_be_focused()
    over_itself(page, "suction_pressure", "120", "Enter")
    expect(suction).to_contain_text("kept")
    over_itself(page, "liquid_pressure", "365", "Tab")
    expect(page.locator("#said-liquid_pressure")).to_contain_text("kept")
    expect(banner).to_contain_text("Read before it had settled: supply air, suction line. Read again.")
    read = [body["quantity"] for body in kept_bodies(owner, shop) if body["kind"] == "reading"]
    assert (read.count("suction_pressure"), read.count("liquid_pressure"), read.count("suction_line_temp")) == (2, 2, 1)
    show(page, size, "judge")
    expect(page.locator(".next h3")).to_contain_text("Prove the air")  # the air comes first, as ever
    page.reload()
    expect(suction).to_contain_text("kept")


@pytest.mark.parametrize(("size", "scheme"), [("desk", "dark"), ("phone", "light")])
def test_after_a_lock_out_it_settles_anew_and_who_knows_better_says_so(open_page, shop, wrote, size, scheme):
    wrote(shop, (90, ClockBody(event="started", minutes_ago=0)), (40, LockoutBody(disconnect="roof", locked=True)),
          (6, LockoutBody(disconnect="roof", locked=False)))  # fmt: skip
    page = at_visit(open_page(size, scheme), shop)
    page.goto(f"{page.url}?at=read")
    running, settling = page.locator("#said-started"), page.locator("#settling")
    over_itself(page, "suction_pressure", "120", "Enter")
    expect(running).to_contain_text("assumed: it stood until then")
    expect(page.locator("#c-started")).to_have_value("6")
    expect(settling).to_contain_text("Not yet, about 9 min")
    over_itself(page, "suction_pressure", "120", "Enter")  # read again, the clock goes on
    page.fill("#c-started", "2")
    page.press("#c-started", "Enter")
    expect(running).to_contain_text("kept")
    expect(settling).to_contain_text("Not yet, about 13 min")

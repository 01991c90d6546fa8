"""Controls as they are walked: an interlock, a fuse eater, a defrost without heat, a drive's code, flashes tapped along."""

from __future__ import annotations

import re

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from dry_gauge.bench.control_chain import DeadUnit
from dry_gauge.core.controls.chain import TEMPLATES
from dry_gauge.core.controls.walker import How
from tests.browser.steps import at_visit, findings, go, keep, send, show, tap

PACKAGE = {"kind": "package_ac", "refrigerant": "R-410A", "metering": "txv", "nominal_capacity_btuh": 60000}
HEAT_PUMP = {"kind": "split_heat_pump", "refrigerant": "R-410A", "metering": "txv", "nominal_capacity_btuh": 36000}


@pytest.fixture(params=[("desk", "light"), ("phone", "dark")], ids=lambda one: one[0])
def open_unit(request, open_page, make_shop):
    size, scheme = request.param

    def at_controls(facts):
        page = at_visit(open_page(size, scheme), make_shop(facts))
        go(page, "Controls")
        return page, size

    return at_controls


def follow(page: Page, unit: DeadUnit) -> str:
    """Measure what the screen asks for until it names a link."""
    for _ in range(16):
        named = page.locator("#walk h2:has-text('Open:')")
        asked = page.locator("#walk h2:not(:has-text('Open:'))")
        expect(named.or_(asked)).to_have_count(1)
        if named.count():
            return named.locator("b").inner_text()
        how = How.ACROSS if asked.inner_text().startswith("Across") else How.COMMON
        at = asked.locator("b").inner_text()
        volts = unit.volts(at, how)
        if volts == 0:
            keep(page, "#walk .volts-dead")
        else:
            page.fill("#point-volts", f"{volts:.1f}")
            keep(page, "#point-form button")
    raise AssertionError("nothing was named")


def test_a_dead_rooftop_behind_a_building_interlock(open_unit):
    page, size = open_unit(PACKAGE)
    tap(page, "button:has-text('Rooftop with gas heat')")
    unit = DeadUnit(TEMPLATES["Rooftop with gas heat"], {"Building interlock"}, np.random.default_rng(4))
    # The interlock has an owner, and the pump controls of another floor stand before it: edited by keyboard.
    page.click("summary:has-text('Change the chain')")
    row = page.locator(".chain-row:has([name=name][value='Building interlock'])")
    row.locator("summary").click()
    row.locator("[name=owner]").fill("harbour office")
    row.locator("[data-move=down]").click()
    row.locator("[data-move=up]").click()
    tap(page, "#chain-form button[type=submit]")
    for name in ("Compressor contactor", "Blower contactor"):
        keep(page, f"[aria-label='{name} stands still']")
    assert follow(page, unit) == "Building interlock"
    expect(page.locator("#walk")).to_contain_text("It belongs to harbour office")
    tap(page, "button:has-text('It is this one')")
    expect(page.locator("#open-links")).to_contain_text("Why it opened")
    # Bridged for a test: on the ledger with its owner, and the judgement knows that nothing is called.
    page.click("summary:has-text('Bridged for a test')")
    page.fill("#bridge-form-1 [name=permission]", "Mr. Quay, by phone")
    tap(page, "#bridge-form-1 button[type=submit]")
    page.locator("label:has-text('building computer')").click()
    page.fill("#closed-form-1 [name=how]", "schedule set right by the office")
    tap(page, "#closed-form-1 button[type=submit]")
    for name in ("Compressor contactor", "Gas valve", "Blower contactor"):
        tap(page, f"[aria-label='{name} pulls in']")
    expect(page.locator("#walk")).to_contain_text("It runs again; Building interlock had stopped it.")
    assert findings(page) == []
    if size == "phone":
        show(page, size, "ladder")
    expect(page.locator(f".only-{size} .chain")).to_be_visible()
    go(page, "Mend")
    expect(page.locator("#ledger")).to_contain_text("across Building interlock")
    expect(page.locator("#ledger")).to_contain_text("allowed by Mr. Quay")


def test_contradictions_and_slips_are_said_and_kept(open_unit):
    page, _ = open_unit(PACKAGE)
    tap(page, "button:has-text('Three phases with monitor')")
    page.click("summary:has-text('Measured somewhere else')")
    page.select_option("#elsewhere-link", "Phase monitor")
    page.fill("#elsewhere-volts", "twenty")
    tap(page, "#elsewhere-form button[type=submit]")
    expect(page.locator("#said-elsewhere-form")).to_contain_text("Volts is a number")
    assert page.input_value("#elsewhere-volts") == "twenty"
    odd = (
        ("Phase monitor", "0", "of the odds"),
        ("Float switch", "26", "live behind Phase monitor"),
        ("Float switch", "2.6", "is it 26?"),
        ("Float switch", "118", "not this circuit's 24 V"),
    )
    for link, volts, words in odd:
        if not page.locator("#elsewhere-form").is_visible():
            page.click("summary:has-text('Measured somewhere else')")
        page.select_option("#elsewhere-link", link)
        page.fill("#elsewhere-volts", volts)
        keep(page, "#elsewhere-form button[type=submit]")
        expect(page.locator("#elsewhere-form")).to_be_hidden()  # kept, it folds
        expect(page.locator("#walk")).to_contain_text(words)
    # A link behind itself is refused beside the form, with what was typed.
    page.click("summary:has-text('Change the chain')")
    row = page.locator(".chain-row:has([name=name][value='Float switch'])")
    row.locator("summary").click()
    row.locator("[name=after]").fill("Contactor coil")
    tap(page, "#chain-form button[type=submit]")
    expect(page.locator("#said-chain-form")).to_contain_text("a loop")
    assert row.locator("[name=after]").input_value() == "Contactor coil"


def test_a_fuse_eater_with_good_ohms(open_unit):
    page, _ = open_unit(PACKAGE)
    loads = "contactor\nreversing valve\ngas valve\neconomiser motor"
    send(page, "hunt-form", circuit_v="230", fuse_a="5", breaker_a="5", loads=loads)
    expect(page.locator("#said-hunt-form")).to_contain_text("never substituted")
    assert page.input_value("#hunt-loads") == loads
    page.fill("#hunt-volts", "24")
    page.fill("#hunt-breaker", "7")
    tap(page, "#hunt-form button[type=submit]")
    expect(page.locator("#said-hunt-form")).to_contain_text("lets more through")
    page.fill("#hunt-breaker", "3")
    page.fill("#hunt-spent", "4")
    tap(page, "#hunt-form button[type=submit]")
    found = page.locator("#controls-found")
    expect(found).to_contain_text("4 fuses spent before")
    for _ in range(8):
        card = found.locator(".next-point:has-text('Did the breaker hold?')")
        if not card.count():
            break
        connected = card.locator("h2").inner_text()
        keep(page, "#controls-found .volts-dead" if "economiser motor" in connected else "#controls-found .volts-live")
    expect(found).to_contain_text("economiser motor opens it")
    page.click("summary:has-text('Other loads connected')")
    page.select_option("#load-ohms-load", "economiser motor")
    page.fill("#load-ohms", "24")
    tap(page, "#load-ohms-form button[type=submit]")
    expect(found).to_contain_text("good ohms, still a suspect")
    expect(found).to_contain_text("good ohms or not")
    go(page, "Mend")
    expect(page.locator("#ledger")).to_contain_text("Breaker in place of the control fuse")
    go(page, "Controls")
    tap(page, "#fuse-end-form button[type=submit]")
    go(page, "Mend")
    expect(page.locator("#ledger .line-item.open")).to_have_count(0)
    assert findings(page) == []


def test_a_defrost_that_ends_on_time_with_ice_left_asks_for_the_charge(open_unit):
    page, _ = open_unit(HEAT_PUMP)
    page.click("summary:has-text('Defrost, tapped along')")
    tap(page, "button[value=valve]")
    expect(page.locator("#said-defrost-form")).to_contain_text("Tap the call first")
    page.fill("#defrost-temp", "29")
    for mark in ("called", "valve", "fan_stopped", "melting", "ended_by_time", "ice_left"):
        tap(page, f"button[value={mark}]")
        expect(page.locator(f"#controls-found .defrost-words:has-text('{MARKS[mark]}')")).to_have_count(1)
    found = page.locator("#controls-found")
    expect(found).to_contain_text("with ice left: too little heat reached the ice")
    expect(found.locator("ol li").first).to_contain_text("Charge: read it in heating")
    assert findings(page) == []
    go(page, "Close")
    expect(page.locator("#obstacles")).to_contain_text("Ice was left after the defrost")


# A tap at a moment of its own, so that a slow machine does not change the rhythm.
TAP_AT = """(one, at) => {
  const tap = new PointerEvent("pointerdown", { bubbles: true });
  Object.defineProperty(tap, "timeStamp", { value: at });
  one.dispatchEvent(tap);
}"""
MARKS = {
    "called": "called",
    "valve": "valve shifts",
    "fan_stopped": "fan stops",
    "melting": "melts",
    "ended_by_time": "ended by time",
    "ice_left": "ice left",
}


def test_codes_by_tapping_and_by_a_menu(open_unit):
    page, _ = open_unit(PACKAGE)
    page.click("summary:has-text('Code of a board')")
    page.fill("#code-board", "Main board")
    button = page.locator("[data-blink]")
    for at in (0, 500, 1000, 3200, 3700, 4200):
        button.evaluate(TAP_AT, at)
    expect(page.locator("[data-blink-count]")).to_contain_text("6 flashes")
    tap(page, "#code-form button[type=submit]")
    found = page.locator("#controls-found")
    expect(found).to_contain_text("Code 3")
    expect(found).to_contain_text("Not in the shop's table")
    form = found.locator("form:has([value=code_meaning])")
    form.locator("[name=meaning]").fill("high pressure open twice")
    form.locator("[name=first_test]").fill("outdoor fan, then coil")
    form.locator("[name=latches]").check()
    form.locator("button[type=submit]").click()
    expect(found).to_contain_text("high pressure open twice. First: outdoor fan, then coil. Latches")
    # Twenty taps in a second are no count; a drive's code comes from its menu, three times in a day.
    page.click("summary:has-text('Code of a board')")
    for i in range(20):
        button.evaluate(TAP_AT, i * 50)
    page.fill("#code-board", "Drive")
    tap(page, "#code-form button[type=submit]")
    expect(page.locator("#said-code-form")).to_contain_text(re.compile("in no order|faster than a thumb"))
    page.click("[data-blink-again]")
    page.fill("#code-typed", "F12")
    page.fill("#code-times", "3")
    page.fill("#code-order", "1")
    tap(page, "#code-form button[type=submit]")
    expect(found).to_contain_text("Code F12")
    expect(found).to_contain_text("3 times within a day: boards lock out")
    expect(found).to_contain_text("A code hides the next one")
    assert findings(page) == []


def test_a_link_is_dragged_added_and_taken_out(open_unit):
    page, size = open_unit(PACKAGE)
    tap(page, "button:has-text('Three phases with monitor')")
    page.click("summary:has-text('Change the chain')")
    names = page.locator(".chain-row [name=name]")
    before = [names.nth(i).input_value() for i in range(names.count())]
    grip = page.locator("[aria-label='Drag Float switch']")
    below = page.locator(".chain-row:has([name=name][value='High-pressure switch'])")
    grip.scroll_into_view_if_needed()
    start = grip.bounding_box()
    page.mouse.move(start["x"] + 10, start["y"] + 10)
    page.mouse.down()
    end = below.bounding_box()
    page.mouse.move(end["x"] + 10, end["y"] + end["height"] - 6, steps=6)
    page.mouse.up()
    after = [names.nth(i).input_value() for i in range(names.count())]
    assert after.index("Float switch") == before.index("Float switch") + 1
    page.click("[aria-label='Take Winding limit out']")
    page.click("[aria-label='Add a link behind Low-pressure switch']")
    page.keyboard.type("Oil switch")
    keep(page, "#chain-form button[type=submit]")
    show(page, size, "ladder")
    drawn = page.locator(".chain:visible .chain-name").all_text_contents()
    assert "Oil switch" in drawn
    assert "Winding limit" not in drawn
    assert drawn.index("High-pressure switch") < drawn.index("Float switch")

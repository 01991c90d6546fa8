"""Two repairs of a sealed system, on desk and phone: all of it recovered and weighed back in, and a box pumped down."""

from __future__ import annotations

import re
from datetime import date, timedelta

import numpy as np
import pytest
import uuid6
from playwright.sync_api import Page, expect

from dry_gauge.bench.evacuation import Source, System, as_gauged, decay_trace, step
from dry_gauge.core.dimensions import MICRON_PA
from dry_gauge.probes.rig import Rig
from tests.browser.steps import SEVEN, add_cylinders, at_visit, findings, keep, show
from tests.browser.steps import answer as looked
from tests.passing import let_pass
from tests.probing import gauge_kept, weighing

pytestmark = pytest.mark.long

SPLIT = {
    "kind": "split_ac",
    "refrigerant": "R-410A",
    "metering": "txv",
    "seer": 14,
    "nominal_capacity_btuh": 36000,
    "target_subcooling_f": 10,
    "label_charge_g": 3000,
}
BOX = {
    "kind": "walk_in_cooler",
    "refrigerant": "R-448A",
    "metering": "txv",
    "receiver": True,
    "label_charge_g": 3600,
    "design_box_temp_f": 37,
}
CAME_OUT = re.compile(r"5 lb 4\.[4-9] oz")  # 2.4 kg, by a scale that wanders by a gram
SIZES = pytest.mark.parametrize(("size", "scheme"), [("desk", "light"), ("phone", "dark")])


@pytest.fixture
def cylinders(as_shop):
    """Registers a bought and a recovery cylinder in a shop."""

    def add(shop, refrigerant):
        with as_shop(shop) as connection:
            add_cylinders(connection, shop, refrigerant)

    return add


def token_of(page: Page, shop) -> str:
    page.goto(f"/visits/{shop.visit}/probes")
    page.click("text=Make a token")
    return page.inner_text(".token")


def desk(page: Page, shop, name: str) -> None:
    page.goto(f"/visits/{shop.visit}?at={name}")


def unfold(page: Page, words: str) -> None:
    """Open a form that may be open already."""
    form = page.locator("details", has=page.locator("summary", has_text=words)).last
    if form.get_attribute("open") is None:
        form.locator("> summary").click()


def lock_out(page: Page, shop) -> None:
    desk(page, shop, "mend")
    page.fill("#lock-name", "Roof")
    press(page, "#lock-form button")
    expect(page.locator("#locks .open")).to_contain_text("Roof")


def pour_live(page: Page, rig: Rig, goes: str) -> None:
    """A whole pour by the live scale: begun at what it shows, and ended where it comes to rest."""
    before = rig.gross_kg
    page.click("#pour-form [data-from-scale]")
    expect(page.locator(".pour-on")).to_be_visible()
    moved = rig.most_kg if goes == "out" else -rig.most_kg
    expect(page.locator("#pour-end-form .scale-shown")).not_to_have_text("")
    for _ in range(100):
        if abs(rig.gross_kg - before - moved) < 0.001:
            break
        page.wait_for_timeout(100)
    page.wait_for_timeout(1200)  # the page shows what came last
    page.click("#pour-end-form [data-from-scale]")
    expect(page.locator(".pour-on")).to_have_count(0)


def change_drier(page: Page, shop) -> None:
    desk(page, shop, "mend")
    unfold(page, "Something was done")
    page.select_option("#action-sort", "drier_changed")
    press(page, "#action-form button")
    expect(page.locator("#actions")).to_contain_text("rier")


def hold_reading(page: Page, psig: str, temp: str) -> None:
    form = page.locator("form:has(input[name=kind][value=hold_reading])")
    form.locator("[name=pressure]").fill(psig)
    form.locator("[name=temp]").fill(temp)
    count = page.locator("#desk .line-item").count()
    form.locator("button[type=submit]").click()
    expect(page.locator("#desk .line-item")).to_have_count(count + 1)


def pulled_down(system: System, minutes: float, start_pa: float = 101_325.0) -> tuple[System, list[float]]:
    found = [start_pa]
    for _ in range(int(minutes * 4)):
        system, pressure = step(system, found[-1], 15.0, pumping=True)
        found.append(pressure)
    return system, found


def press(page: Page, selector: str) -> None:
    """Send a form, and go on once it is answered."""
    with page.expect_response(lambda response: response.url.endswith("/entries")):
        page.click(selector)


def tap(page: Page, words: str) -> None:
    press(page, f"#desk .tap-button:has-text('{words}')")


def watch(page: Page, shop, owner, server: str, token: str, system: System, start_pa: float, minutes: float) -> None:
    """The valve is shut, and a gauge that had no signal sends what it saw."""
    tap(page, "Valve shut")
    let_pass(owner, shop.visit, minutes=minutes)
    _, pressures = decay_trace(system, start_pa, minutes, 15.0)
    gauge_kept(server, shop.visit, token, as_gauged(pressures, np.random.default_rng(5)), 15.0, f"w{uuid6.uuid7().hex[-6:]}")
    desk(page, shop, "vacuum")


@SIZES
def test_a_leak_is_mended_and_every_ounce_is_accounted_for(open_page, make_shop, cylinders, owner, server, size, scheme):
    shop = make_shop(SPLIT)
    cylinders(shop, "R-410A")
    page = at_visit(open_page(size, scheme), shop)
    token = token_of(page, shop)

    # Plan: a split without a receiver is emptied, and it may not start meanwhile.
    desk(page, shop, "sealed")
    page.select_option("#plan-repair", "leak_low")
    press(page, "#plan-form button")
    expect(page.locator(".plan-head h2")).to_have_text("Recover it all")
    expect(page.locator(".plan-head")).to_contain_text("no receiver to pump down into")
    desk(page, shop, "recover")
    expect(page.locator(".desk-flag")).to_contain_text("not locked out")
    lock_out(page, shop)

    # Recover, by the live scale: what is missing from the label had leaked.
    desk(page, shop, "recover")
    rig = Rig(15.0, 60.0, 2.4)
    with weighing(server, shop.visit, token, rig, "out"):
        pour_live(page, rig, "out")
    unfold(page, "Recovery is done")
    page.fill("#rec-value", "0")
    press(page, "#recovered-form button")
    expect(page.locator("#account .sums").nth(1)).to_contain_text("Missing of what belongs in")
    expect(page.locator("#account")).to_contain_text(CAME_OUT)

    # Search, mend, new drier.
    desk(page, shop, "leak")
    place = page.locator(".leak-place", has_text="Evaporator return bends")
    unfold(page, "Evaporator")
    place.locator("button:has-text('leaks')").click()
    expect(page.locator(".leak-place.failed")).to_contain_text("Evaporator return bends")
    press(page, ".leak-found button[value=joint]")
    expect(page.locator(".leak-found")).to_have_count(0)
    change_drier(page, shop)

    # Hold over two days: the night takes eleven psi, and the arithmetic gives them back.
    desk(page, shop, "hold")
    page.fill("#hold-section", "Whole system")
    page.fill("#hold-limit", "450")
    press(page, "#hold-form button")
    expect(page.locator("#said-hold-form .error")).to_contain_text("vacuum gauge off")
    page.click("label[for=hold-gauge-off]")
    press(page, "#hold-form button")
    hold_reading(page, "320", "70")
    for hours, psig, temp in ((14, "308.6", "53"), (10, "320.2", "70.3"), (13, "309.4", "54")):
        let_pass(owner, shop.visit, hours=hours)
        desk(page, shop, "hold")
        hold_reading(page, psig, temp)
    show(page, size, "ladder")
    expect(page.locator(".desk-head h2")).to_have_text("Whole system: tight")
    expect(page.locator(f".only-{size} svg.chart, .only-{size}.chart")).to_be_visible()
    show(page, size, "sheet")
    unfold(page, "End this test")
    press(page, "button:has-text('Pressure is off')")
    expect(page.locator("#desk")).to_contain_text("ended: tight")

    # Evacuate a wet system: it levels off too high, is swept, and holds the second time.
    desk(page, shop, "vacuum")
    unfold(page, "Evacuate the system")
    page.click("label[for=vac-cores]")
    page.click("label[for=vac-at-far_end]")
    press(page, "#system-form button")
    tap(page, "Pump on")
    wet = System(sources=(Source(320 * MICRON_PA, 5.0), Source(2600 * MICRON_PA, 3.0, 8.0)))
    let_pass(owner, shop.visit, minutes=40)
    wet, down = pulled_down(wet, 39)
    gauge_kept(server, shop.visit, token, as_gauged(np.array(down), np.random.default_rng(1)), 15.0, "pull 1")
    desk(page, shop, "vacuum")
    watch(page, shop, owner, server, token, wet, down[-1], 16)
    show(page, size, "ladder")
    expect(page.locator(".desk-head h2")).to_have_text("Wet")
    expect(page.locator(".desk-head")).to_contain_text("Sweep with dry nitrogen")
    show(page, size, "sheet")
    tap(page, "Sweep")
    tap(page, "Pump on")
    dry = System(sources=(Source(320 * MICRON_PA, 5.0),))
    let_pass(owner, shop.visit, minutes=40)
    dry, down = pulled_down(dry, 39, 6000 * MICRON_PA)
    gauge_kept(server, shop.visit, token, as_gauged(np.array(down), np.random.default_rng(2)), 15.0, "pull 2")
    desk(page, shop, "vacuum")
    watch(page, shop, owner, server, token, dry, down[-1], 16)
    show(page, size, "ladder")
    expect(page.locator(".desk-head h2")).to_have_text("Tight and dry, but rig not watched")
    expect(page.locator(f".only-{size} svg")).to_contain_text("watch 1: wet")
    show(page, size, "sheet")
    press(page, "#break-form button")
    expect(page.locator("#desk")).to_contain_text("done")

    # Weigh in: label, line set and drier; the flag says where to stop.
    desk(page, shop, "weigh")
    unfold(page, "Make the target")
    page.fill("#target-label", "6")
    page.fill("[name=label_oz]", "9.8")
    page.fill("#target-length", "30")
    page.fill("#target-included", "15")
    page.fill("#target-drier", "0.1")
    press(page, "#target-form button")
    expect(page.locator("#said-target-form .error")).to_contain_text("Or did you mean 0 lb 1.0 oz?")
    page.fill("#target-drier", "")
    page.fill("[name=drier_oz]", "1.6")
    press(page, "#target-form button")
    expect(page.locator("#account .total").first).to_contain_text("7 lb 3.2 oz")
    rig = Rig(13.8, 60.0, 3.2)
    with weighing(server, shop.visit, token, rig, "in"):
        pour_live(page, rig, "in")
    show(page, size, "ladder")
    expect(page.locator("#weight-head")).to_contain_text(re.compile(r"2\.[1-5] oz"))
    show(page, size, "sheet")

    # Unlocked and running: not enough subcooling yet, two ounces more, and it is in its band.
    desk(page, shop, "mend")
    press(page, "[aria-label='Unlock Roof']")
    expect(page.locator("#locks .settled")).to_contain_text("Roof")
    read_all(page, shop, owner, "348", "101")
    desk(page, shop, "weigh")
    expect(page.locator(".trim")).to_contain_text("Air proven first")  # charge is judged last
    desk(page, shop, "air")
    looked(page, "evaporator_air_proven", "yes")
    looked(page, "condenser_air_proven", "yes")
    desk(page, shop, "weigh")
    expect(page.locator(".trim")).to_contain_text("Add")
    expect(page.locator(".trim")).to_contain_text("Subcooling is")
    unfold(page, "Amount known without the scale")
    page.select_option("#move-way", "trimmed")
    page.fill("#move-weight", "2.3 oz")
    press(page, "#movement-form button")
    expect(page.locator("#account .ledger-table")).to_contain_text("Trimmed")
    read_all(page, shop, owner, "362", "98.5")
    desk(page, shop, "weigh")
    expect(page.locator(".trim h3")).to_have_text("Stop")
    expect(page.locator(".trim")).to_contain_text("within its target")

    # The sheet that a warranty clerk reads, and the same as PDF.
    page.goto(f"/visits/{shop.visit}/proof")
    for words in ("Whole system: tight", "Tight and dry", CAME_OUT, "joint redone", "Line set beyond", "Subcooling"):
        expect(page.locator(".proof")).to_contain_text(words)
    answer = page.request.get(f"/visits/{shop.visit}/proof.pdf")
    assert answer.headers["content-type"] == "application/pdf"
    assert answer.body().startswith(b"%PDF")
    page.goto("/cylinders")
    expect(page.locator(".cylinder-list a", has_text="Blue")).to_contain_text(re.compile(r"17 lb 0\.[5-9] oz|17 lb 1\.[0-2] oz"))
    expect(page.locator(".cylinder-list a", has_text="Grey")).to_contain_text(CAME_OUT)
    expect(page.locator(".book")).to_contain_text("yes")


def read_all(page: Page, shop, owner, liquid_psig: str, liquid_f: str) -> None:
    """The unit runs and has settled: one set of readings, as they are typed."""
    desk(page, shop, "read")
    values = {**SEVEN, "outdoor_air_temp": "88", "liquid_pressure": liquid_psig, "liquid_line_temp": liquid_f}
    for name, value in values.items():
        page.fill(f"#q-{name}", value)
        page.keyboard.press("Enter")
        expect(page.locator(f"#said-{name} .kept")).to_be_visible()
    for what, minutes in (("started", "40"), ("changed", "20"), ("charged", "25")):
        page.fill(f"#c-{what}", minutes)
        page.keyboard.press("Enter")
        expect(page.locator(f"#said-{what} .kept")).to_be_visible()


@SIZES
def test_a_box_is_pumped_down_and_topped_up_by_its_glass(open_page, make_shop, cylinders, owner, server, size, scheme):
    shop = make_shop(BOX)
    cylinders(shop, "R-448A")
    page = at_visit(open_page(size, scheme), shop)
    token = token_of(page, shop)

    # A leak on the low side of a box whose receiver holds it all: nothing is recovered.
    desk(page, shop, "sealed")
    page.select_option("#plan-repair", "leak_low")
    page.click("label[for=plan-holds]")
    press(page, "#plan-form button")
    expect(page.locator(".plan-head h2")).to_have_text("Pump down into the receiver")
    desk(page, shop, "leak")
    unfold(page, "Suction side")
    place = page.locator(".leak-place", has_text="Suction line joints")
    press(page, ".leak-place:has-text('Suction line joints') button:has-text('leaks')")
    expect(page.locator(".leak-found")).to_be_visible()
    desk(page, shop, "sealed")
    expect(page.locator(".step-next")).to_contain_text("never a vacuum with a known leak")
    press(page, "[aria-label='Done: Pump down']")
    expect(page.locator(".step-next")).to_contain_text("Lock out, prove dead")
    expect(page.locator(".step-next .desk-flag")).to_contain_text("must not be able to start")
    lock_out(page, shop)
    desk(page, shop, "leak")
    press(page, ".leak-found button[value=patch]")
    expect(page.locator("[id^=said-cure] .error")).to_contain_text("how many months")
    page.locator(".leak-found [name=months]").fill("12")
    press(page, ".leak-found button[value=patch]")
    expect(place).to_be_visible()
    change_drier(page, shop)

    # Nitrogen, read by live probes; a first reading says nothing yet, and is not called tight.
    desk(page, shop, "hold")
    page.fill("#hold-section", "Low side")
    page.click("label[for=hold-gauge-off]")
    press(page, "#hold-form button")
    with weighing(server, shop.visit, token, Rig(hold_psig=150.0), "nitrogen"):
        expect(page.locator("[data-from-hold]")).to_contain_text("at 68")
        press(page, "[data-from-hold]")
    expect(page.locator("#desk .line-item")).to_contain_text("probe Gauge")
    expect(page.locator(".desk-head h2")).to_have_text("Low side: too soon to tell")
    unfold(page, "End this test")
    press(page, "button:has-text('Pressure is off')")

    # Only what was opened is evacuated; the charge stays where it is, and nobody calls it empty.
    desk(page, shop, "vacuum")
    unfold(page, "Evacuate the system")
    expect(page.locator("#vac-kept")).to_be_checked()
    press(page, "#system-form button")
    tap(page, "Pump on")
    let_pass(owner, shop.visit, minutes=25)
    desk(page, shop, "vacuum")
    point(page, "280")
    tap(page, "Valve shut")
    for micron in ("290", "301", "308", "312", "314", "315"):
        let_pass(owner, shop.visit, minutes=2.5)
        desk(page, shop, "vacuum")
        point(page, micron)
    show(page, size, "ladder")
    expect(page.locator(".desk-head h2")).to_have_text("Tight and dry, but cores in, rig not watched")
    show(page, size, "sheet")
    press(page, "#break-form button")

    # Bubbles in the glass: ounces, from a cylinder that runs dry in the middle, and another meaning of 0.4 lb.
    desk(page, shop, "mend")
    press(page, "[aria-label='Unlock Roof']")
    desk(page, shop, "weigh")
    expect(page.locator("#weight-head")).to_contain_text("Nobody knows")
    unfold(page, "Amount known without the scale")
    page.select_option("#move-way", "added")
    page.fill("#move-weight", "0.4")
    press(page, "#movement-form button")
    expect(page.locator("#said-movement-form .error")).to_contain_text("0.4 pounds is 0 lb 6.4 oz. Or did you mean 0 lb 4.0 oz?")
    press(page, "#said-movement-form [data-choose]:has-text('0 lb 4.0 oz')")
    expect(page.locator("#said-movement-form .error")).to_contain_text("Say why it is topped up")
    expect(page.locator("#move-weight")).to_have_value("0 lb 4.0 oz")
    page.fill("#move-reason", "patched; glass still bubbles")
    press(page, "#movement-form button")
    expect(page.locator("#account .ledger-table")).to_contain_text("0 lb 4.0 oz")
    expect(page.locator("#account .ledger-table")).to_contain_text("0.113")

    # Leaving: a patch and a top-up want a recheck, and then it closes.
    desk(page, shop, "close")
    expect(page.locator("#obstacles")).to_contain_text("A patch is temporary")
    expect(page.locator("#obstacles")).not_to_contain_text("emptied")
    page.click("summary:has-text('Book something')")
    page.fill("#follow-what", "Patch at the suction joint")
    page.fill("#follow-due", (date.today() + timedelta(days=60)).isoformat())
    press(page, "#follow-form button")
    expect(page.locator("#obstacles")).not_to_contain_text("A patch is temporary")
    page.goto(f"/units/{shop.unit}")
    expect(page.locator("#refrigerant + dl")).to_contain_text("unknown: never emptied and weighed")
    expect(page.locator("#refrigerant + dl")).to_contain_text("3 % a year")


def point(page: Page, micron: str) -> None:
    page.fill("#point-micron", micron)
    press(page, "#point-form button")


@pytest.mark.parametrize(("size", "scheme"), [("desk", "dark"), ("phone", "light")])
def test_two_circuits_are_charged_each_by_its_own_account(open_page, make_shop, cylinders, size, scheme):
    twin = {
        "kind": "package_ac",
        "refrigerant": "R-410A",
        "metering": "txv",
        "label_charge_g": 4000,
        "more_circuits": [{"circuit": 2, "refrigerant": "R-410A", "label_charge_g": 5000}],
    }
    shop = make_shop(twin)
    cylinders(shop, "R-410A")
    page = at_visit(open_page(size, scheme), shop)
    lock_out(page, shop)

    def at(name: str, circuit: int) -> None:
        page.goto(f"/visits/{shop.visit}?at={name}&circuit={circuit}")
        expect(page.locator(".circuits [aria-current]")).to_have_text(f"Circuit {circuit}")

    at("recover", 2)
    page.fill("#pour-gross", "27")
    keep(page, "#pour-form button[type=submit]")
    at("recover", 1)  # one scale: a pour is ended where it was begun
    expect(page.locator("#desk")).to_contain_text("A pour is on in circuit 2")
    page.click("a:text-is('End that first')")
    page.fill("#pour-end-gross", "37.5")
    keep(page, "#pour-end-form button[type=submit]")
    page.fill("#rec-value", "0")
    keep(page, "#recovered-form button[type=submit]")
    expect(page.locator("#weight-head")).to_contain_text("10 lb 8.0 oz")
    expect(page.locator("#weight-head")).to_contain_text("8.4 oz less than belongs in")
    at("vacuum", 2)
    unfold(page, "Evacuate the system")
    keep(page, "#system-form button[type=submit]")
    at("vacuum", 1)  # one gauge: an evacuation too is ended where it was begun
    expect(page.locator("#desk")).to_contain_text("An evacuation is on in circuit 2")
    expect(page.locator("#system-form")).to_have_count(0)
    expect(page.locator("#dock")).to_contain_text("Circuit 2 is being evacuated")
    page.click("a:text-is('End that first')")
    expect(page.locator(".circuits [aria-current]")).to_have_text("Circuit 2")
    unfold(page, "Break the vacuum: done")
    page.fill("#break-reason", "watched on paper")
    keep(page, "#break-form button[type=submit]")
    at("weigh", 1)
    expect(page.locator("#weight-head")).to_contain_text("Nobody knows")
    at("weigh", 2)
    expect(page.locator("#weight-head")).to_contain_text("11 lb 0.4 oz")
    unfold(page, "Amount known without the scale here")
    page.fill("#move-weight", "11 lb 0.4 oz")
    keep(page, "#movement-form button[type=submit]")
    expect(page.locator("#weight-head")).to_contain_text("The target is in, circuit 2")
    assert findings(page) == []
    at("weigh", 1)
    expect(page.locator("#weight-head")).to_contain_text("Nobody knows")
    expect(page.locator("#timeline")).to_contain_text("Weighed in, unit off, circuit 2")
    page.goto(f"/visits/{shop.visit}/proof")
    expect(page.locator(".proof-circuit")).to_have_text(["Circuit 2"])
    expect(page.locator(".proof")).to_contain_text("100 % of the target")

"""Air and Electrical as they are walked: a packed coil behind low static, a slipping belt, a lost leg, a motor, a compressor."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import Kind, Metering
from dry_gauge.probes.meter import Meter
from dry_gauge.probes.simulated import Scene
from tests.browser.steps import at_visit, findings, go, send, show
from tests.probing import feeding

FACTS = {"kind": "package_ac", "refrigerant": "R-410A", "metering": "txv", "nominal_capacity_btuh": 60000}
UNIT = UnitFacts(Kind.PACKAGE_AC, find("R-410A"), metering=Metering.TXV, nominal_capacity_w=17_584)
PACKED = {
    "external_static_return": "-0.05",
    "static_after_filter": "-0.12",
    "static_after_coil": "-0.71",
    "external_static_supply": "0.06",
}
WASHED = {
    "external_static_return": "-0.14",
    "static_after_filter": "-0.24",
    "static_after_coil": "-0.46",
    "external_static_supply": "0.21",
}
BELT = {
    "motor_rpm": "1750",
    "blower_rpm": "690",
    "motor_pitch": "3.2",
    "blower_pitch": "7",
    "closed_pitch": "3.4",
    "open_pitch": "2.4",
    "most_turns": "5",
    "now_turns": "2",
    "amps": "6.1",
    "full_load_amps": "7",
}


@pytest.fixture(params=[("desk", "light"), ("phone", "dark")], ids=lambda one: one[0])
def visit(request, open_page, make_shop):
    size, scheme = request.param
    shop = make_shop(FACTS)
    return at_visit(open_page(size, scheme), shop), shop, size


def test_the_air_of_a_rooftop(visit):
    page, _, size = visit
    go(page, "Air")
    expect(page.locator("#air-way")).to_contain_text("by eye")
    for name, value in PACKED.items():
        page.fill(f"#q-{name}", value)
        page.press(f"#q-{name}", "Enter")
        expect(page.locator(f"#said-{name} .kept")).to_have_count(1)
    way = page.locator("#air-way")
    expect(way).to_contain_text("External static 0.11 in. w.c.")
    expect(way).to_contain_text("Little reaches the duct because the coil inside the cabinet eats it")
    expect(way.locator(".path-part.over")).to_contain_text(["coil", "0.59"])
    for name, value in WASHED.items():
        page.fill(f"#q-{name}", value)
        page.press(f"#q-{name}", "Enter")
    expect(way).to_contain_text("External static 0.35 in. w.c.")
    expect(way).not_to_contain_text("eats it")

    # A traverse: three points are refused with what is lacking, a grid is tapped through, and the judgement takes it.
    send(page, "traverse-form", where="return", width="20", height="16", velocities="600 610 590")
    expect(page.locator("#said-traverse-form")).to_contain_text("3 of 25 points")
    assert page.input_value("#traverse-points") == "600 610 590"  # nothing typed is lost
    page.fill("#traverse-points", "")
    points = page.locator(".grid-points .input")
    expect(points).to_have_count(25)
    for i in range(25):
        points.nth(i).fill("860")
    expect(page.locator("#traverse-points")).to_have_value(" ".join(["860"] * 25))
    with page.expect_response(lambda response: response.url.endswith("/entries")):
        page.locator("#traverse-form button[type=submit]").last.click()
    expect(way).to_contain_text("1911 cfm")
    expect(way).to_contain_text("382 cfm a ton")
    page.click("[aria-label='Judge by Traverse, return']")
    expect(page.locator("#said-airflow .kept")).to_have_count(1)

    # A belt that slips; tightened, its turns say which one the motor still bears.
    send(page, "belt-form", **BELT)
    expect(way).to_contain_text("It slips by 14 %")
    send(page, "belt-form", **BELT | {"blower_rpm": "785", "centres": "4"})
    expect(page.locator("#said-belt-form")).to_contain_text("The shafts stand further apart")
    send(page, "belt-form", **BELT | {"centres": "450"})
    expect(page.locator("#said-belt-form")).to_contain_text("is it typed in another unit?")
    send(page, "belt-form", **BELT | {"blower_rpm": "785", "centres": "18"})
    expect(way).to_contain_text("Belt about 52.2 in. long; at mid-span it should deflect 0.28 in")
    expect(way).to_contain_text("turns as its sheaves say")
    expect(way).to_contain_text("within the motor's amps from 1.5 turns open")
    expect(way.locator(".turns .now th")).to_have_text("2")
    send(page, "filter-form", place="unit", size="20 x 25 x 2", count="2")
    expect(way).to_contain_text("275 fpm through it, 367 fpm at the most")
    rests_on = "Proven air rests on: static along the way, airflow, belt of blower, filter, unit"
    expect(way).to_contain_text(rests_on)
    send(page, "filter-form", ("read_since",), place="unit", size="20 x 25 x 2", count="2")
    expect(page.locator("#said-filter-form")).to_contain_text("Was it changed?")
    # It was a new one, written down only now: what was read after it stands.
    send(page, "filter-form", ("changed", "read_since"), place="unit", size="20 x 25 x 2", count="2")
    expect(way).to_contain_text(rests_on)
    # Another filter: what was read and traversed before it says nothing of the air there is now.
    send(page, "filter-form", ("changed",), place="unit", size="20 x 25 x 2", count="2")
    expect(way).to_contain_text("Proven air rests on: belt of blower, filter, unit")
    expect(way).to_contain_text("The traverse of return is from before the indoor air was changed")
    assert findings(page) == []

    # Taking the last one back leaves the rest as it was.
    show(page, size, "timeline")
    page.click("[aria-label^='Take back Filter, unit']")
    show(page, size, "sheet")
    expect(way).to_contain_text(rests_on)


def test_static_comes_live_from_its_tips(visit, server):
    page, shop, _ = visit
    page.goto(f"/visits/{shop.visit}/probes")
    page.click("text=Make a token")
    token = page.inner_text(".token")
    scene = Scene(UNIT, 91, 76, 63, {"low_evaporator_airflow": 0.7}, minutes_running=25, tips=True)
    with feeding(server, shop.visit, token, scene):
        page.goto(f"/visits/{shop.visit}?at=air")
        expect(page.locator("#live-state")).to_contain_text("probes live")
        page.click("#take-this")
        expect(page.locator("#said-static_after_filter .kept")).to_have_count(1)
        expect(page.locator("#air-way")).to_contain_text("The filter costs")


def test_volts_and_amps_come_live_from_a_meter(visit, server):
    page, shop, size = visit
    page.goto(f"/visits/{shop.visit}/probes")
    page.click("text=Make a token")
    token = page.inner_text(".token")
    with feeding(server, shop.visit, token, Scene(UNIT, 91, 76, 63, minutes_running=25, meter=Meter(3, "lost_leg"))):
        page.goto(f"/visits/{shop.visit}?at=electrical")
        page.check("#supply-form [name=three_phase]")
        take = page.locator("#supply-form [data-from-meter]")
        expect(take).to_contain_text(re.compile("20[789]"))  # a meter is never quite still
        take.click()
        assert float(page.input_value("#supply-l2_l3")) == pytest.approx(114, abs=2)
        page.click("#supply-form button[type=submit]")
        expect(page.locator("#measured")).to_contain_text("L3 is lost")
        page.locator("summary", has_text="Amps of a machine").click()
        page.locator("#amps-form [data-from-meter]").click()
        expect(page.locator("#amps-instrument")).to_have_value("probe Meter")
        page.fill("#amps-l3", "0.4")  # mended by hand: no longer the probe's
        expect(page.locator("#amps-instrument")).to_have_value("")
        page.fill("#amps-instrument", "clamp 7")
        send(page, "amps-form", machine="compressor", rated="20")
        expect(page.locator("#measured")).to_contain_text("of its plate's 20 A")
    page.get_by_label("Judge by it: compressor").click()
    expect(page.get_by_label("Judge by it: compressor")).to_have_count(0)
    show(page, size, "timeline")
    expect(page.locator("#timeline")).to_contain_text(re.compile("L1-L2 20[789]"))
    expect(page.locator("#timeline")).to_contain_text("with probe Meter, live")
    expect(page.locator("#timeline")).to_contain_text("with clamp 7")
    page.reload()
    expect(page.locator("#power-instrument")).to_have_value("clamp 7")  # the meter in hand
    assert findings(page) == []


def test_power_motor_and_compressor(visit):
    page, _, size = visit
    go(page, "Electrical")
    measured = page.locator("#measured")
    send(page, "supply-form", l1_l2="24")
    expect(page.locator("#said-supply-form")).to_contain_text("control circuit")
    lost = {"l1_l2": "231", "l2_l3": "142", "l3_l1": "139", "l1_ground": "133", "l3_ground": "41", "label_v": "230"}
    send(page, "supply-form", ("three_phase",), **lost)
    expect(measured).to_contain_text("L3 is lost")
    show(page, size, "ladder")
    expect(page.locator(".power-legs .leg.broken")).to_have_count(2)
    show(page, size, "sheet")
    go(page, "Close")
    expect(page.locator("#obstacles")).to_contain_text("L3 is lost")
    expect(page.locator("#obstacles")).to_contain_text("or lock the unit out")
    go(page, "Electrical")
    send(page, "supply-form", ("three_phase",), l1_l2="231", l2_l3="230", l3_l1="232", label_v="230")
    expect(measured).to_contain_text("Nothing against it")

    send(page, "amps-form", machine="blower", l1="3.1", l2="6.3", l3="3.0")
    expect(measured).to_contain_text("round two wires")
    send(page, "amps-form", machine="blower", l1="3.1", l2="3.2", l3="3.0", rated="2.8", volts="231")
    expect(measured).to_contain_text("114 % of its plate")
    send(page, "capacitor-form", machine="outdoor fan", rated_uf="455", bench_uf="41")
    expect(page.locator("#said-capacitor-form")).to_contain_text("is it 45/5")
    send(page, "capacitor-form", machine="outdoor fan", rated_uf="5", bench_uf="4.9", amps="0.55", volts="372")
    expect(measured).to_contain_text("disagree")

    send(page, "strips-form", amps="41.9", volts="240", installed_kw="15", steps="20.8 two")
    expect(page.locator("#said-strips-form")).to_contain_text("Each of the amps is a number")
    send(page, "strips-form", amps="41.9", volts="240", installed_kw="15", steps="20.8 21.1 41.9")
    expect(measured).to_contain_text("Step 2 adds hardly any amps")

    # A fan motor by its match sheet: wrong speed, then one that fits.
    send(page, "match-form", machine="outdoor fan", old_hp="1/3", new_hp="1/3", old_rpm="1075", new_rpm="1625")
    expect(measured.locator(".match")).to_contain_text("overloads the blade")
    send(page, "match-form", machine="outdoor fan", old_hp="1/3", new_hp="3/4x", old_rpm="1075", new_rpm="1080")
    expect(page.locator("#said-match-form")).to_contain_text("no horsepower")
    send(page, "match-form", machine="outdoor fan", old_hp="1/3", new_hp="1/3", old_rpm="1075", new_rpm="1080")
    expect(measured.locator(".match caption")).to_contain_text("fits")

    # A compressor: thin evidence does not condemn it; a ground that reads nothing twice does, and power stays off.
    tap = page.locator(".tests-asked")
    tap.locator("[aria-label$='locked rotor']").click()
    expect(page.locator(".compressor-state")).to_contain_text("evidence is thin")
    tap.locator("[aria-label$='one is open']").click()
    expect(page.locator(".compressor-state")).to_contain_text("Likely, not proven")
    tap.locator("[aria-label$='about zero, twice']").click()
    expect(page.locator(".compressor-state")).to_contain_text("proven")
    expect(measured).to_contain_text("No reset and no power")
    assert findings(page) == []


def test_outdoor_air_dampers_and_power(visit):
    page, _, _ = visit
    go(page, "Air")
    way = page.locator("#air-way")
    send(page, "mixed-form", back="76", outdoor="80", mixed="77")
    expect(page.locator("#said-mixed-form")).to_contain_text("no share follows")
    page.fill("#mixed-outdoor", "96")
    page.fill("#mixed-mixed", "120")
    page.locator("#mixed-form button").click()
    expect(page.locator("#said-mixed-form")).to_contain_text("which of the three")
    page.fill("#mixed-mixed", "81")
    page.locator("#mixed-form button").click()
    expect(way).to_contain_text("25 % of the mixed air")
    go(page, "Read")
    expect(page.locator("#q-mixed_air_temp")).to_have_value("81")  # typed once: the sheet has it, and the ladder goes by it
    expect(page.locator(".only-desk .ladder")).to_contain_text("mixed")
    go(page, "Air")
    send(page, "damper-form", ("opens",), damper="zone 2", words="linkage off")
    expect(way).to_contain_text("opens, does not shut; linkage off")
    go(page, "Electrical")
    send(page, "power-form", ("three_phase",), machine="compressor", watts="2900", volts="232", amps="30")
    measured = page.locator("#measured")
    expect(measured).to_contain_text("Power factor 0.24")
    expect(measured).to_contain_text("no running motor's")
    send(page, "power-form", machine="compressor", watts="2900", volts="232", amps="14")
    expect(measured).to_contain_text("Power factor 0.89.")
    expect(measured).to_contain_text("2.90 kW")
    assert findings(page) == []
    go(page, "Close")
    expect(page.locator("#obstacles")).to_contain_text("Damper of zone 2 does not move both ways")

"""A unit with two faults, followed from three readings by the next checks alone, to both causes; and lit evidence."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from dry_gauge.bench.instruments import true_readings
from dry_gauge.bench.machine import Machine
from dry_gauge.bench.plant import Faults, Habits, Nameplate, Weather
from dry_gauge.bench.solve import solve
from dry_gauge.core.quantities import PSI_PA, STANDARD_ATMOSPHERE_PA, to_fahrenheit, to_kelvin
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.vocabulary import Kind
from tests.browser.steps import at_visit, show

THREE = ("suction_pressure", "liquid_pressure", "outdoor_air_temp")
ANSWERS = {"condenser_air_proven": "no", "condenser_dirty": "yes", "oil_stain": "yes", "sight_glass_bubbles": "yes"}


def simulated() -> dict[str, str]:
    """What the instruments show on a split unit that is short of charge behind a dirty condenser."""
    machine = Machine([Nameplate(Kind.SPLIT_AC, find("R-410A"), design_subcooling_k=6.5)], Habits.textbook(1))
    weather = Weather.of([to_kelvin(90)], [to_kelvin(76)], [to_kelvin(63)])
    faults = Faults.of(1, undercharge=0.68, low_condenser_airflow=0.72)
    shown = true_readings(machine, weather, faults, solve(machine, weather, faults))
    as_typed = {}
    for name, value in shown.items():
        number = float(value[0])
        if "pressure" in name:
            as_typed[name] = f"{(number - STANDARD_ATMOSPHERE_PA) / PSI_PA:.1f}"
        elif "temp" in name or "bulb" in name:
            as_typed[name] = f"{to_fahrenheit(number):.1f}"
    return as_typed


def type_reading(page: Page, name: str, value: str) -> None:
    page.fill(f"#q-{name}", value)
    page.keyboard.press("Enter")
    expect(page.locator(f"#said-{name} .kept")).to_be_visible()


def causes(page: Page) -> list[str]:
    return page.locator(".cause h3 .why").all_inner_texts()


@pytest.mark.parametrize("size", ["desk", "phone"])
def test_two_faults_are_walked_to_by_next_checks(open_page, shop, size):
    page, shown = at_visit(open_page(size), shop), simulated()
    done, entries = set(THREE), 0

    def taken_in() -> None:
        """One entry more stands on the page: panel and checks were redrawn with it."""
        nonlocal entries
        entries += 1
        expect(page.locator("#timeline h2")).to_contain_text(re.compile(rf"\b{entries} entr"))

    for name in THREE:
        show(page, size, "sheet")
        type_reading(page, name, shown[name])
        taken_in()
    show(page, size, "judge")
    assert set(page.locator(".cause h3 b small").all_inner_texts()) == {"so far"}  # air is not proven yet: no word for it
    for _ in range(20):
        show(page, size, "judge")
        asked = page.locator(".next [data-goto], .then [data-goto]").evaluate_all("all => all.map((one) => one.dataset.goto)")
        name = next((one for one in asked if one not in done), None)
        if name is None:
            break
        page.locator(f".next [data-goto={name}], .then [data-goto={name}]").first.click()
        done.add(name)
        if name == "minutes_running":
            page.fill("#c-started", "25")
            page.keyboard.press("Enter")
            expect(page.locator("#said-started .kept")).to_be_visible()
        elif page.locator(f"#q-{name}").count():
            expect(page.locator(f"#q-{name}")).to_be_focused()
            type_reading(page, name, shown.get(name, "0"))
        else:
            answer = ANSWERS.get(name, "yes" if "proven" in name else "no")
            page.click(f"label[for=s-{name}-{answer}]")
        taken_in()
    show(page, size, "judge")
    assert set(causes(page)[:2]) == {"Condenser short of air", "Short of charge"}
    said = dict(zip(causes(page), page.locator(".cause h3 b small").all_inner_texts(), strict=True))
    assert said["Condenser short of air"] in {"very likely", "likely"}
    assert said["Short of charge"] == "so far"  # a charge waits for its air
    for words in ("condenser short of air", "short of charge"):
        expect(page.locator(".verdict h2")).to_contain_text(words, ignore_case=True)
    expect(page.locator(".next")).to_contain_text("Mend")


def test_pointing_at_a_sentence_lights_its_gap(open_page, shop):
    page, shown = at_visit(open_page("desk"), shop), simulated()
    for name in (*THREE, "suction_line_temp", "liquid_line_temp", "return_air_temp"):
        type_reading(page, name, shown[name])
    page.locator("[data-lights=condenser_split]").first.hover()
    expect(page.locator(".only-desk .halo[data-gap=condenser_split]")).to_have_class("halo lit")
    page.locator("h2").first.hover()
    expect(page.locator(".lit")).to_have_count(0)


@pytest.mark.parametrize("scheme", ["light", "dark"])
@pytest.mark.parametrize("size", ["desk", "phone"])
def test_cycle_and_fault_pages_fit_the_screen(open_page, shop, size, scheme):
    page, shown = at_visit(open_page(size, scheme), shop), simulated()
    for name in (*THREE, "suction_line_temp", "liquid_line_temp", "return_air_temp"):
        type_reading(page, name, shown[name])
    for path in (f"/visits/{shop.visit}/cycle", "/why/undercharge", f"/visits/{shop.visit}/circuits"):
        page.goto(path)
        assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")

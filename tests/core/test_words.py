"""Units at the edges: the same fact read by different people."""

from __future__ import annotations

import doctest
import importlib
import pkgutil

import pytest
from hypothesis import given
from hypothesis import strategies as st

import dry_gauge.core
from dry_gauge.core.dimensions import UNITS, units_of
from dry_gauge.core.quantities import PSI_PA, STANDARD_ATMOSPHERE_PA, atmospheric_pressure_pa, to_kelvin
from dry_gauge.core.vocabulary import QUANTITIES, default_half_width_si
from dry_gauge.core.words import Phrase, Reader


@pytest.mark.parametrize(
    ("reader", "temperature", "difference", "pressure"),
    [
        (Reader("F", "psi"), "40.0 °F", "18.0 °F", "118.4 psig"),
        (Reader("C", "kPa"), "4.4 °C", "10.0 °C", "816 kPag"),
        (Reader("C", "bar"), "4.4 °C", "10.0 °C", "8.16 barg"),
    ],
)
def test_one_fact_in_every_readers_units(reader, temperature, difference, pressure):
    fact = Phrase(
        "{t}, {d}, {p}",
        {
            "t": ("temperature", to_kelvin(40)),
            "d": ("difference", 10.0),
            "p": ("pressure", 118.36 * PSI_PA + STANDARD_ATMOSPHERE_PA),
        },
    )
    assert fact.read(reader) == f"{temperature}, {difference}, {pressure}"


def test_braces_that_somebody_typed_stay_as_they_are():
    assert Phrase("Locked out: {roof} {. It is {t}.", {"t": ("temperature", to_kelvin(40))}).read(Reader()) == (
        "Locked out: {roof} {. It is 40.0 °F."
    )


def test_gauge_pressure_counts_from_the_local_barometer():
    in_the_hills = atmospheric_pressure_pa(5000 * 0.3048)
    reader = Reader(atmosphere_pa=in_the_hills)
    assert reader.pressure(STANDARD_ATMOSPHERE_PA) == pytest.approx(2.47, abs=0.01)


@given(st.sampled_from(sorted(UNITS)), st.floats(-1e4, 1e6), st.floats(60_000, 105_000))
def test_every_unit_comes_back(name, value, atmosphere_pa):
    unit = UNITS[name]
    assert unit.from_si(unit.to_si(value, atmosphere_pa), atmosphere_pa) == pytest.approx(value, rel=1e-9, abs=1e-6)


@pytest.mark.parametrize(
    ("name", "value", "si"),
    [
        ("psig", 0.0, 101_325.0),
        ("psia", 14.695949, 101_325.0),
        ("inHg_vac", 29.9213, 0.0),
        ("barg", 1.0, 201_325.0),
        ("kPaa", 101.325, 101_325.0),
        ("F", -459.67, 0.0),
        ("C", 0.0, 273.15),
        ("inwc", 0.5, 124.5445),
        ("cfm", 400, 0.18878),
        ("m3/h", 3600, 1.0),
        ("L/s", 1000, 1.0),
        ("%", 50, 0.5),
        ("kW", 1.5, 1500.0),
    ],
)
def test_units_against_known_values(name, value, si):
    # Six digits, as tables print them; vacuum to a pascal in a hundred thousand.
    assert UNITS[name].to_si(value) == pytest.approx(si, rel=2e-5, abs=1.0 if name == "inHg_vac" else 1e-9)


@pytest.mark.parametrize(("quantity", "psig", "psi"), [("suction_pressure", 199.0, 1.0), ("liquid_pressure", 400.0, 2.0)])
def test_a_gauge_is_trusted_to_a_pound_and_above_200_to_half_a_percent(quantity, psig, psi):
    pressure_pa = psig * PSI_PA + STANDARD_ATMOSPHERE_PA
    half_width = default_half_width_si(QUANTITIES[quantity], pressure_pa, STANDARD_ATMOSPHERE_PA)
    assert half_width / PSI_PA == pytest.approx(psi)


def test_every_quantity_has_units_and_a_place():
    for quantity in QUANTITIES.values():
        assert units_of(quantity.dimension), quantity.name
        assert quantity.where
        assert quantity.least_si < quantity.most_si


def test_the_examples_in_the_docstrings_hold():
    failures = 0
    for module in pkgutil.walk_packages(dry_gauge.core.__path__, "dry_gauge.core."):
        failures += doctest.testmod(importlib.import_module(module.name)).failed
    assert failures == 0

"""Moist air: reference points, and the impossible air that the library underneath would accept."""

from __future__ import annotations

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from dry_gauge.core.air import psychrometrics
from dry_gauge.core.errors import ImpossibleAir, OutOfRange
from dry_gauge.core.quantities import BTU_PER_LB_J_KG, FAHRENHEIT_K, STANDARD_ATMOSPHERE_PA, to_fahrenheit, to_kelvin

SEA = STANDARD_ATMOSPHERE_PA


def test_enthalpy_matches_the_psychrometric_chart():
    # ASHRAE chart 1, sea level, 80 F dry and 67 F wet bulb: 31.4 Btu/lb from 0 F, read to 0.1; SI counts from 0 C.
    btu_per_lb = psychrometrics.enthalpy_j_kg(to_kelvin(80), to_kelvin(67), SEA) / BTU_PER_LB_J_KG + 0.24 * 32
    assert btu_per_lb == pytest.approx(31.44, abs=0.1)


def test_wet_bulb_from_humidity_matches_the_chart():
    # 80 F and 50 %: 66.7 F wet bulb, read to 0.2.
    assert to_fahrenheit(psychrometrics.wet_bulb_k(to_kelvin(80), 0.5, SEA)) == pytest.approx(66.7, abs=0.2)


@pytest.mark.parametrize(
    ("dry_f", "wet_f", "pressure_pa", "refusal"),
    [
        (70, 75, SEA, ImpossibleAir),  # wet above dry
        (140, 59, SEA, ImpossibleAir),  # drier than dry: psychrolib floors it without a word
        (70, 60, 0, OutOfRange),
        (70, 60, 101.325, OutOfRange),  # a barometer in kPa
        (250, 60, SEA, OutOfRange),  # above boiling
        (float("nan"), 60, SEA, OutOfRange),
    ],
)
def test_impossible_air_is_refused(dry_f, wet_f, pressure_pa, refusal):
    with pytest.raises(refusal):
        psychrometrics.humidity_ratio(to_kelvin(dry_f), to_kelvin(wet_f), pressure_pa)


@given(st.floats(40, 100), st.floats(0.05, 1.0))
def test_wet_bulb_never_exceeds_dry_bulb_and_comes_back_to_possible_air(dry_f, humidity):
    wet_k = psychrometrics.wet_bulb_k(to_kelvin(dry_f), humidity, SEA)
    assume(wet_k <= to_kelvin(dry_f))
    assert psychrometrics.humidity_ratio(to_kelvin(dry_f), wet_k, SEA) > 0


def test_expected_split_is_larger_in_dry_air_and_on_cool_days():
    def split_f(dry_f, wet_f, outdoor_f):
        return psychrometrics.expected_air_split_k(to_kelvin(dry_f), to_kelvin(wet_f), to_kelvin(outdoor_f), SEA) / FAHRENHEIT_K

    # By hand from the rule: total 12,000; h 31.44 - 12,000/(4.5*400*0.88) = 23.87; saturated at 56.2 F; 0.88*23.8.
    assert split_f(80, 67, 95) == pytest.approx(20.9, abs=0.3)
    assert split_f(80, 62, 95) > split_f(80, 67, 95) > split_f(80, 72, 95)
    assert split_f(80, 67, 75) > split_f(80, 67, 95)

"""Saturation against CoolProp, there and back, and what happens at the ends of the range."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dry_gauge.core.errors import OutOfRange, Refused
from dry_gauge.core.quantities import PSI_PA, STANDARD_ATMOSPHERE_PA, to_kelvin
from dry_gauge.core.refrigerants.catalogue import CATALOGUE, Refrigerant, find
from dry_gauge.core.refrigerants.saturation import COOLPROP_VERSION, saturation_of
from scripts.make_refrigerant_curves import abstract_state, fill_missing_pairs, solve

# 0.01 K: a twentieth of what the best gauge resolves, so our error never reaches the screen. The fit holds 0.0012.
TOLERANCE_K = 0.01
# Off the fit's own nodes, so that a wiggle between them would show.
CHECKED = np.linspace(0.003, 0.997, 37)


def everyone() -> list[Refrigerant]:
    return list(CATALOGUE)


def by_name(refrigerant: Refrigerant) -> str:
    return refrigerant.name


@pytest.mark.parametrize("refrigerant", everyone(), ids=by_name)
def test_curves_match_coolprop_over_their_whole_range(refrigerant):
    import CoolProp

    assert CoolProp.__version__ == COOLPROP_VERSION
    fill_missing_pairs(refrigerant)
    state, saturation = abstract_state(refrigerant), saturation_of(refrigerant)
    low, high = np.log(saturation.lowest_pressure_pa), np.log(saturation.highest_pressure_pa)
    unanswered = 0
    for quality, curve in ((1.0, saturation.dew_temperature_k), (0.0, saturation.bubble_temperature_k)):
        for share in CHECKED:
            pressure_pa = float(np.exp(low + share * (high - low)))
            expected = solve(state, pressure_pa, quality)
            if np.isnan(expected):
                unanswered += 1
            else:
                assert curve(pressure_pa) == pytest.approx(expected, abs=TOLERANCE_K)
    # docs/saturation.md lists what CoolProp leaves open: up to a tenth of the states of a blend, none of a pure fluid.
    assert unanswered <= (0 if refrigerant.model == "pure" else 0.1 * 2 * len(CHECKED))


@pytest.mark.parametrize(
    ("name", "dew_psig", "bubble_psig"),
    [("R-22", 68.56, 68.56), ("R-134a", 35.05, 35.05), ("R-410A", 118.36, 118.79), ("R-404A", 85.37, None)],
)
def test_pressures_at_40_f_are_those_of_the_printed_charts(name, dew_psig, bubble_psig):
    saturation = saturation_of(find(name))

    def psig(pressure_pa):
        return (pressure_pa - STANDARD_ATMOSPHERE_PA) / PSI_PA

    assert psig(saturation.dew_pressure_pa(to_kelvin(40))) == pytest.approx(dew_psig, abs=0.15)
    if bubble_psig:
        assert psig(saturation.bubble_pressure_pa(to_kelvin(40))) == pytest.approx(bubble_psig, abs=0.15)


@given(st.sampled_from(CATALOGUE), st.floats(0, 1))
def test_pressure_comes_back_and_rises_with_temperature(refrigerant, share):
    saturation = saturation_of(refrigerant)
    pressure_pa = saturation.lowest_pressure_pa * ((saturation.highest_pressure_pa / saturation.lowest_pressure_pa) ** share)
    pressure_pa = min(max(pressure_pa, saturation.lowest_pressure_pa), saturation.highest_pressure_pa)
    dew, bubble = saturation.dew_temperature_k(pressure_pa), saturation.bubble_temperature_k(pressure_pa)
    low, high = saturation.temperature_range_k
    if low <= dew <= high:
        assert saturation.dew_pressure_pa(dew) == pytest.approx(pressure_pa, rel=1e-9)
    assert bubble <= dew + 0.002  # azeotropes: the two fits may cross by their own error
    assert saturation.dew_slope_k_per_pa(pressure_pa) > 0
    assert bubble - 0.002 <= saturation.evaporating_mean_k(pressure_pa) <= dew + 0.002


def test_arrays_agree_with_single_values_and_keep_their_shape():
    saturation = saturation_of(find("R-448A"))
    pressures = np.linspace(2e5, 2.5e6, 40_000).reshape(200, 200)
    temperatures = saturation.dew_temperature_k(pressures)
    assert temperatures.shape == pressures.shape
    assert temperatures[17, 3] == pytest.approx(saturation.dew_temperature_k(float(pressures[17, 3])), abs=1e-9)
    assert saturation.dew_pressure_pa(temperatures) == pytest.approx(pressures, rel=1e-9)


@pytest.mark.parametrize("pressure_pa", [0.0, -1.0, 1e9, float("nan"), float("inf")])
def test_pressures_outside_the_table_are_refused_with_its_range(pressure_pa):
    saturation = saturation_of(find("R-410A"))
    with pytest.raises(OutOfRange, match=r"R-410A table, which runs from 4\.9 psig \(0\.34 barg\) to 598\.3 psig"):
        saturation.dew_temperature_k(pressure_pa)
    with pytest.raises(OutOfRange):
        saturation.bubble_temperature_k(np.array([5e5, pressure_pa]))


def test_temperatures_outside_the_curve_are_refused_with_its_range():
    with pytest.raises(OutOfRange, match="runs from -50 °F"):
        saturation_of(find("R-22")).dew_pressure_pa(100.0)
    with pytest.raises(OutOfRange):
        saturation_of(find("R-22")).dew_pressure_pa(np.array([280.0, 900.0]))


@pytest.mark.parametrize("written", ["R-410A", "r410a", " R 410a ", "410A"])
def test_names_ignore_case_hyphen_and_spaces(written):
    assert find(written).name == "R-410A"


def test_unknown_refrigerant_names_the_nearest():
    with pytest.raises(Refused) as caught:
        find("R-411A")
    assert "R-421A" in caught.value.nearest or "R-410A" in caught.value.nearest


def test_estimated_blends_say_so_and_compositions_add_up():
    estimated = {refrigerant.name for refrigerant in CATALOGUE if refrigerant.estimated}
    assert estimated == {"R-438A", "R-401A", "R-402A", "R-408A", "R-409A", "R-414B"}
    for refrigerant in CATALOGUE:
        assert sum(share for _, share in refrigerant.composition) == pytest.approx(100, abs=0.05), refrigerant.name
        assert refrigerant.caution or not refrigerant.flammable

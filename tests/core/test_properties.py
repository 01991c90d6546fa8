"""Enthalpy, entropy and density against CoolProp, and the closed-form ways back."""

from __future__ import annotations

import CoolProp.CoolProp as CP
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dry_gauge.core.quantities import to_kelvin
from dry_gauge.core.refrigerants.catalogue import CATALOGUE, find
from dry_gauge.core.refrigerants.properties import Properties

ZERO_C_K = 273.15


@pytest.mark.parametrize(("name", "fluid"), [("R-134a", "R134a"), ("R-410A", "R410A"), ("R-290", "Propane")])
@pytest.mark.parametrize(("saturation_f", "superheat_k"), [(-10.0, 8.0), (40.0, 15.0), (110.0, 45.0)])
def test_vapour_agrees_with_the_equation_of_state(name, fluid, saturation_f, superheat_k):
    properties = Properties([find(name)])
    state = properties.at(properties.position_of_temperature(np.array([to_kelvin(saturation_f)]), 1.0))
    pressure = float(properties.pressure_pa(properties.position_of_temperature(np.array([to_kelvin(saturation_f)]), 1.0))[0])
    temperature = float(state.dew_k[0]) + superheat_k
    zero = CP.PropsSI("H", "T", ZERO_C_K, "Q", 0, fluid) - 200e3, CP.PropsSI("S", "T", ZERO_C_K, "Q", 0, fluid) - 1e3
    distance = np.array([superheat_k])
    assert float(state.vapour_enthalpy(distance)[0]) == pytest.approx(
        CP.PropsSI("H", "T", temperature, "P", pressure, fluid) - zero[0], abs=1500
    )
    assert float(state.vapour_entropy(distance)[0]) == pytest.approx(
        CP.PropsSI("S", "T", temperature, "P", pressure, fluid) - zero[1], abs=2.5
    )
    assert float(state.vapour_density(distance)[0]) == pytest.approx(
        CP.PropsSI("D", "T", temperature, "P", pressure, fluid), rel=0.01
    )


@given(st.sampled_from(CATALOGUE), st.floats(-0.95, 0.9), st.floats(0.0, 90.0))
def test_the_way_back_from_enthalpy_and_entropy_is_exact(refrigerant, position, superheat_k):
    state = Properties([refrigerant]).at(np.array([position]))
    distance = np.array([superheat_k])
    assert float(state.vapour_superheat_k(state.vapour_enthalpy(distance))[0]) == pytest.approx(superheat_k, abs=1e-6)
    assert float(state.superheat_at_entropy_k(state.vapour_entropy(distance))[0]) == pytest.approx(superheat_k, abs=1e-6)


def test_rows_of_different_refrigerants_stand_side_by_side():
    both = Properties([find("R-22"), find("R-410A")])
    x = both.position_of_temperature(np.array([280.0, 280.0]))
    pressures = both.pressure_pa(x)
    assert pressures[1] > 1.5 * pressures[0]
    one = Properties([find("R-410A")])
    assert both.at(x).dew_enthalpy[1] == pytest.approx(one.at(x[1:]).dew_enthalpy[0])
    assert both.take(np.array([1])).pressure_pa(x[1:])[0] == pytest.approx(pressures[1])

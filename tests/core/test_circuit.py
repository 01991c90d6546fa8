"""Circuit arithmetic by hand: which curve, which port, which coil, and how far each number can be trusted."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dry_gauge.core.quantities import Measured, to_fahrenheit, to_kelvin
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.refrigerants.saturation import saturation_of
from tests.builders import HEALTHY, TXV, answer, derived, reading, sheet

# The contract asks for 0.1 F; the arithmetic itself is exact, the rest is the curves.
F = pytest.approx


def psia_f(name: str, psig: float, curve: str) -> float:
    return to_fahrenheit(getattr(saturation_of(find(name)), curve)((psig + 14.695949) * 6894.757293))


def test_superheat_counts_from_dew_and_subcooling_from_bubble():
    found = derived(sheet({"refrigerant": "R-454C"}, **HEALTHY | {"suction_pressure": 60.0, "liquid_pressure": 220.0}))
    assert found["superheat_f"] == F(52 - psia_f("R-454C", 60, "dew_temperature_k"), abs=0.02)
    assert found["subcooling_f"] == F(psia_f("R-454C", 220, "bubble_temperature_k") - 100, abs=0.02)
    dew_slip = psia_f("R-454C", 220, "dew_temperature_k") - psia_f("R-454C", 220, "bubble_temperature_k")
    assert dew_slip > 10  # what taking dew for both would have added to subcooling


def test_coil_gaps_count_from_the_mean():
    found = derived(sheet({"refrigerant": "R-407C"}, **HEALTHY | {"suction_pressure": 66.0, "liquid_pressure": 250.0}))
    dew, bubble = psia_f("R-407C", 66, "dew_temperature_k"), psia_f("R-407C", 66, "bubble_temperature_k")
    assert found["evaporating_mean_f"] == F(0.4 * bubble + 0.6 * dew, abs=0.02)
    assert found["evaporator_td_f"] == F(76 - (0.4 * bubble + 0.6 * dew), abs=0.02)
    assert found["condenser_split_f"] == F((found["condensing_dew_f"] + found["condensing_bubble_f"]) / 2 - 90, abs=0.001)


def test_elevation_moves_superheat_as_a_barometer_does():
    at_sea, in_the_hills = (derived(sheet({"elevation_ft": ft}, **HEALTHY)) for ft in (0, 5000))
    # 2.47 psi of barometer at 1.2 psi a degree on R-410A suction.
    assert in_the_hills["superheat_f"] - at_sea["superheat_f"] == F(1.1, abs=0.15)


def test_heating_swaps_the_coils():
    found = derived(
        sheet(
            {"kind": "split_heat_pump", "mode": "heating"},
            suction_pressure=85.0,
            suction_line_temp=32.0,
            liquid_pressure=320.0,
            liquid_line_temp=90.0,
            outdoor_air_temp=40.0,
            return_air_temp=70.0,
            supply_air_temp=96.0,
            airflow=1200.0,
            input_power=2600.0,
        )
    )
    assert found["evaporator_td_f"] == F(40 - found["evaporating_mean_f"])
    assert found["condenser_split_f"] == F(found["condensing_mean_f"] - 70)
    assert found["air_split_f"] == F(26)
    assert found["liquid_approach_f"] == F(20)
    assert found["capacity_btuh"] == F(1.08 * 1200 * 26, rel=1e-6)
    assert found["eer"] == F(1.08 * 1200 * 26 / 2600, rel=1e-6)


def test_capacity_is_total_heat_and_shrinks_with_altitude():
    air = {"supply_air_wet_bulb": 53.0, "airflow": 1200.0, "input_power": 3000.0}
    at_sea, high = (answer(sheet({"elevation_ft": ft}, **HEALTHY | air))["derived"] for ft in (0, 5000))
    # By hand: 4.5 * 1200 * (28.57 - 22.02) Btu/lb, chart values at 63 and 53 F wet bulb.
    assert at_sea["capacity_btuh"]["value"] == F(4.5 * 1200 * 6.55, rel=0.02)
    sensible = [found["capacity_btuh"]["value"] * found["sensible_heat_ratio"]["value"] for found in (at_sea, high)]
    assert sensible[1] / sensible[0] == F(0.832, abs=0.001)  # the standard atmosphere at 5,000 ft
    assert 0.5 < at_sea["sensible_heat_ratio"]["value"] < 1
    assert at_sea["capacity_btuh"]["uncertainty"] > 0.1 * at_sea["capacity_btuh"]["value"]  # the airflow alone is 10 %


def test_humidity_stands_in_for_a_wet_bulb():
    values = {name: value for name, value in HEALTHY.items() if name != "return_air_wet_bulb"}
    found = answer(sheet(TXV, **values, return_air_rh=50.0, supply_air_wet_bulb=53.0, airflow=1200.0))
    assert found["derived"]["capacity_btuh"]["from"][0] == "return_air_temp"
    assert "return_air_rh" in found["derived"]["capacity_btuh"]["from"]
    assert "air_split_f" in found["targets"]


def test_discharge_port_stands_in_with_more_doubt():
    values = {name: value for name, value in HEALTHY.items() if name != "liquid_pressure"}
    with_liquid, without = answer(sheet(TXV, **HEALTHY)), answer(sheet(TXV, **values, discharge_pressure=365.0))
    assert without["derived"]["subcooling_f"]["value"] == F(with_liquid["derived"]["subcooling_f"]["value"])
    widened = without["derived"]["subcooling_f"]["uncertainty"] ** 2
    assert widened == F(with_liquid["derived"]["subcooling_f"]["uncertainty"] ** 2 + 9, rel=1e-6)
    assert "discharge_port_used" in [line["code"] for line in without["plausibility"]]
    assert next(gate for gate in without["gates"] if gate["gate"] == "implausible")["holding"] is False


def test_uncertainty_is_root_sum_square_through_the_local_slope():
    found = answer(sheet(TXV, **HEALTHY))["derived"]["superheat_f"]
    low, high = (psia_f("R-410A", 120 + error, "dew_temperature_k") for error in (-1, 1))
    assert found["uncertainty"] == F((1.5**2 + ((high - low) / 2) ** 2) ** 0.5, rel=1e-3)
    assert found["from"] == ["suction_line_temp", "suction_pressure"]


def test_zero_accuracy_is_allowed():
    document = sheet(TXV, **HEALTHY)
    for item in document["readings"]:
        item["accuracy"] = 0
    assert answer(document)["derived"]["superheat_f"]["uncertainty"] == 0


def test_a_shared_source_is_counted_once():
    pressure = Measured.reading("suction_pressure", 300.0, 1.0)
    assert (pressure - pressure).uncertainty == 0


@given(st.floats(-40, 200), st.floats(0, 5), st.floats(-40, 200), st.floats(0, 5))
def test_uncertainty_of_a_difference_is_never_less_than_either(a, ua, b, ub):
    difference = Measured.reading("a", a, ua) - Measured.reading("b", b, ub)
    assert difference.uncertainty >= max(ua, ub) - 1e-12


def test_what_cannot_be_had_is_absent():
    assert set(derived(sheet(suction_pressure=120.0))) == {"suction_saturation_f", "suction_bubble_f", "evaporating_mean_f"}


def test_circuits_are_kept_apart_and_share_the_air():
    document = sheet(TXV, **HEALTHY)
    document["readings"] += [reading("suction_pressure", 100.0, circuit=2), reading("suction_line_temp", 60.0, circuit=2)]
    found = answer(document)
    assert set(found["circuits"]) == {"1", "2"}
    assert found["derived"] == found["circuits"]["1"]["derived"]
    assert found["circuits"]["2"]["derived"]["superheat_f"]["value"] > 25
    assert "air_split_f" in found["circuits"]["2"]["derived"]


def test_the_latest_minute_counts_and_two_instruments_must_agree():
    document = sheet(TXV, **HEALTHY)
    document["readings"] += [reading("suction_pressure", 110.0, minutes=5), reading("suction_pressure", 118.0, minutes=14)]
    document["readings"][0]["minutes"] = 2
    assert answer(document)["derived"]["suction_saturation_f"]["value"] == F(psia_f("R-410A", 118, "dew_temperature_k"), abs=0.01)
    document["readings"].append(reading("suction_pressure", 125.0, minutes=14))
    found = answer(document)
    assert "instruments_disagree" in [line["code"] for line in found["plausibility"]]
    assert "superheat_f" not in found["derived"]


def test_saturation_of_a_known_state_round_trips_through_units():
    assert to_fahrenheit(to_kelvin(40.0)) == F(40.0)

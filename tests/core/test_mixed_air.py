"""Outdoor air that comes in before the coil: gaps and expectations go by the mixed air, its wet bulb with the doubt it has."""

from __future__ import annotations

import pytest

from dry_gauge.core.circuit import derive, entering_wet_bulb
from dry_gauge.core.quantities import to_fahrenheit
from dry_gauge.core.vocabulary import Fault
from tests.builders import AIR_PROVEN, HEALTHY, TXV, answer, derived, judged, sheet

ROOFTOP = TXV | {"kind": "package_ac"}
# As HEALTHY shows it, but a third of the air comes from outdoors at 100 F: 84 F meets the coil, which has more to do.
OUTDOORS_F, RETURN_F, MIXED_F = 100.0, 76.0, 84.0
OPEN = HEALTHY | {"outdoor_air_temp": OUTDOORS_F, "return_air_temp": RETURN_F, "mixed_air_temp": MIXED_F}


def view(**values):
    return judged(sheet(ROOFTOP, **values)).first.view


def test_gaps_are_from_the_air_that_meets_the_coil():
    without = derived(sheet(ROOFTOP, **{name: value for name, value in OPEN.items() if name != "mixed_air_temp"}))
    found = derived(sheet(ROOFTOP, **OPEN))
    for gap in ("evaporator_td_f", "air_split_f"):
        assert found[gap] - without[gap] == pytest.approx(MIXED_F - RETURN_F, abs=0.05)
    assert derive(view(**OPEN))["evaporator_td"].measured.sources[0] == "mixed_air_temp"
    pump = ROOFTOP | {"kind": "package_heat_pump", "mode": "heating"}
    heating = derived(sheet(pump, outdoor_air_temp=40.0, return_air_temp=70.0, mixed_air_temp=62.0, liquid_pressure=330.0))
    assert heating["condenser_split_f"] == pytest.approx(heating["condensing_mean_f"] - 62.0, abs=0.05)


def test_its_wet_bulb_follows_from_the_water_in_return_air_with_a_doubt_that_grows_with_the_share():
    found = entering_wet_bulb(view(**OPEN))
    # 76 F with 63 F wet bulb holds 0.00937 kg/kg at sea level; 84 F with as much has a wet bulb of 65.7 F (ASHRAE chart 1).
    assert to_fahrenheit(found.value) == pytest.approx(65.7, abs=0.15)
    doubts = [entering_wet_bulb(view(**OPEN | {"mixed_air_temp": mixed_f})).uncertainty * 1.8 for mixed_f in (78.0, 84.0, 92.0)]
    assert 1.0 < doubts[0] < doubts[1] - 1 < doubts[2] - 2
    assert to_fahrenheit(entering_wet_bulb(view(**HEALTHY)).value) == pytest.approx(63.0)
    fog = HEALTHY | {"outdoor_air_temp": 40.0, "mixed_air_temp": 45.0}  # colder than its dew point: saturated
    assert to_fahrenheit(entering_wet_bulb(view(**fog)).value) == pytest.approx(45.0, abs=0.1)


def test_an_outdoor_damper_that_stands_open_is_not_taken_for_a_fault_of_the_unit():
    """The coil gets air of 90 F, not the 76 F of the return: its gap is right against that, far too small against the other."""
    hot = HEALTHY | {
        "suction_pressure": 141.0,
        "suction_line_temp": 61.0,
        "outdoor_air_temp": 95.0,
        "supply_air_temp": 66.0,
        "liquid_pressure": 400.0,
        "liquid_line_temp": 107.0,
    }
    taken = judged(sheet(ROOFTOP, AIR_PROVEN, **hot)).first
    known = judged(sheet(ROOFTOP, AIR_PROVEN, **hot | {"mixed_air_temp": 90.0})).first
    assert taken.causes[0].fault is not Fault.NONE
    assert known.causes[0].fault is Fault.NONE


@pytest.mark.parametrize(("mixed_f", "is_odd"), [(70.0, True), (75.0, False), (84.0, False), (101.0, False), (106.0, True)])
def test_mixed_air_lies_between_the_two(mixed_f, is_odd):
    codes = {line["code"] for line in answer(sheet(ROOFTOP, **OPEN | {"mixed_air_temp": mixed_f}))["plausibility"]}
    assert ("mixed_air_not_between" in codes) is is_odd

"""Which target, by which rule, from where: the table of schools at its boundaries."""

from __future__ import annotations

import pytest

from tests.builders import HEALTHY, ORIFICE, TXV, WALK_IN, answer, sheet


def targets(document):
    return answer(document)["targets"]


def why_not(document, name):
    return next(item["why"] for item in answer(document)["not_applicable"] if item["target"] == name)


def test_orifice_superheat_follows_wet_bulb_and_outdoor_air():
    target = targets(sheet(ORIFICE, **HEALTHY))["superheat_f"]
    assert target["aim"] == pytest.approx((3 * 63 - 80 - 90) / 2)
    assert (target["low"], target["high"]) == pytest.approx((4.5, 14.5))
    assert target["rule"] == "orifice_target_superheat"
    assert target["school"] == "common"
    assert target["uncertainty"] == pytest.approx(1.58, abs=0.01)  # 1 F on either thermometer
    strict = targets(sheet(ORIFICE, schools={"superheat": "strict"}, **HEALTHY))["superheat_f"]
    assert (strict["low"], strict["high"]) == pytest.approx((6.5, 12.5))


@pytest.mark.parametrize(
    ("change", "why"),
    [
        ({"outdoor_air_temp": 54.0}, "below 55"),
        ({"outdoor_air_temp": 116.0, "return_air_wet_bulb": 74.0}, "above 115"),
        ({"return_air_wet_bulb": 49.0}, "below 50"),
        ({"return_air_wet_bulb": 76.5, "return_air_temp": 80.0}, "above 76"),
        ({"outdoor_air_temp": 100.0}, "below 5 °F"),
    ],
)
def test_orifice_superheat_stops_where_its_chart_stops(change, why):
    document = sheet(ORIFICE, **HEALTHY | change)
    assert "superheat_f" not in targets(document)
    assert why in why_not(document, "superheat_f")


WET = {"outdoor_f": 90, "indoor_f": 63, "indoor_is": "wet_bulb", "suction_psig": 118, "head_psig": 360, "superheat_f": 12}
DRY = {"outdoor_f": 90, "indoor_f": 76, "suction_psig": 140, "head_psig": 420}


def test_the_makers_chart_goes_by_the_bulb_that_it_was_made_with():
    found = targets(sheet(ORIFICE | {"maker_chart": [WET, DRY]}, **HEALTHY))
    assert {name for name, one in found.items() if one["rule"] == "maker_chart"} == {
        "superheat_f",
        "evaporator_td_f",
        "condenser_split_f",
    }
    assert (found["superheat_f"]["low"], found["superheat_f"]["aim"], found["superheat_f"]["high"]) == (7, 12, 17)
    # R-410A: 360 psig condenses at 108.6 F, 118 psig boils at 39.7 F.
    assert found["condenser_split_f"]["aim"] == pytest.approx(108.6 - 90, abs=0.3)
    assert found["evaporator_td_f"]["aim"] == pytest.approx(76 - 39.7, abs=0.3)
    by_dry = targets(sheet(ORIFICE | {"maker_chart": [DRY]}, **HEALTHY))
    assert by_dry["condenser_split_f"]["aim"] > found["condenser_split_f"]["aim"] + 8
    assert by_dry["superheat_f"]["rule"] == "orifice_target_superheat"


def test_between_its_rows_the_chart_counts_and_beyond_them_it_does_not():
    hotter = WET | {"outdoor_f": 100, "superheat_f": 8}
    unit = ORIFICE | {"maker_chart": [WET, hotter]}
    assert targets(sheet(unit, **HEALTHY | {"outdoor_air_temp": 95.0}))["superheat_f"]["aim"] == pytest.approx(10)
    for beyond in ({"outdoor_air_temp": 106.0}, {"return_air_wet_bulb": 69.0}, {"return_air_wet_bulb": None}):
        found = targets(sheet(unit, **HEALTHY | beyond))
        assert "maker_chart" not in {one["rule"] for one in found.values()}, beyond


def test_the_chart_holds_where_the_formula_for_an_orifice_ends_and_only_hints_in_a_lower_stage():
    cold = HEALTHY | {"outdoor_air_temp": 50.0, "liquid_pressure": 200.0, "liquid_line_temp": 60.0}
    document = sheet(ORIFICE | {"maker_chart": [WET | {"outdoor_f": 50}]}, **cold)
    assert targets(document)["superheat_f"]["rule"] == "maker_chart"
    assert "superheat_f" not in {one["target"] for one in answer(document)["not_applicable"]}
    low = sheet(ORIFICE | {"maker_chart": [WET], "compressor_control": "two_stage"}, **HEALTHY)
    for one in low["readings"]:
        one["stage"] = "low"
    assert "lower stage" in targets(low)["superheat_f"]["indication_only"]


def test_the_label_wins_over_every_rule():
    unit = ORIFICE | {"target_superheat_f": 14, "target_subcooling_f": 8}
    found = targets(sheet(unit, **HEALTHY))
    assert (found["superheat_f"]["aim"], found["superheat_f"]["rule"]) == (14, "label_superheat")
    assert (found["subcooling_f"]["aim"], found["subcooling_f"]["rule"]) == (8, "label_subcooling")
    assert not found["subcooling_f"]["assumed"]


def test_a_habit_in_place_of_a_label_says_assumed():
    subcooling = targets(sheet({"metering": "txv"}, **HEALTHY))["subcooling_f"]
    assert (subcooling["aim"], subcooling["rule"], subcooling["assumed"]) == (10, "assumed_subcooling", True)
    split = targets(sheet({"metering": "txv"}, **HEALTHY))["condenser_split_f"]
    assert (split["low"], split["high"]) == pytest.approx((10, 30))
    assert split["assumed"] is True


def test_subcooling_outside_its_weather_is_only_an_indication():
    mild = targets(sheet(TXV, **HEALTHY | {"outdoor_air_temp": 60.0}))
    assert "indication only" in mild["subcooling_f"]["indication_only"]
    assert mild["condenser_split_f"]["high_side_only"]
    assert targets(sheet(TXV, **HEALTHY))["subcooling_f"]["indication_only"] is None


@pytest.mark.parametrize(("seer", "aim"), [(10.9, 30), (11, 25), (12.9, 25), (13, 20), (15.9, 20), (16, 15)])
def test_condenser_split_steps_with_efficiency(seer, aim):
    assert targets(sheet({"metering": "txv", "seer": seer}, **HEALTHY))["condenser_split_f"]["aim"] == aim


def test_heating_has_no_cooling_targets():
    unit = {"kind": "package_heat_pump", "mode": "heating", "metering": "orifice", "seer": 14, "target_subcooling_f": 9}
    found = targets(sheet(unit, outdoor_air_temp=40.0, return_air_temp=70.0))
    assert {target["rule"] for target in found.values()} == {"heating_default"}
    # At 40 F outdoors: 23 + 0.4 * 23 and 21 + 0.2 * 23 (docs/rules.md, R31).
    for name, aim, half in (("condenser_split_f", 32.2, 7), ("air_split_f", 25.6, 5)):
        band = found[name]
        assert (band["low"], band["aim"], band["high"]) == pytest.approx((aim - half, aim, aim + half))
    assert all(target["assumed"] for target in found.values())


@pytest.mark.parametrize(
    ("unit", "coil", "td", "assumed"),
    [
        ({"evaporator_class": "high_humidity"}, (6, 10), (8, 12), False),
        ({"evaporator_class": "low_humidity"}, (6, 10), (15, 20), False),
        ({}, (6, 10), (12, 15), True),
        ({"kind": "walk_in_freezer"}, (4, 8), (7, 13), True),
    ],
)
def test_boxes_are_judged_by_coil_and_class(unit, coil, td, assumed):
    found = targets(sheet({"kind": "walk_in_cooler", "refrigerant": "R-448A", **unit}, **WALK_IN))
    assert (found["coil_superheat_f"]["low"], found["coil_superheat_f"]["high"]) == coil
    assert (found["superheat_f"]["low"], found["superheat_f"]["high"]) == (20, 40)
    assert (found["evaporator_td_f"]["low"], found["evaporator_td_f"]["high"]) == td
    assert found["evaporator_td_f"]["assumed"] is assumed
    assert found["subcooling_f"]["rule"] == "receiver_glass"
    assert "air_split_f" not in found


def test_head_pressure_control_in_the_cold_has_no_split_target():
    unit = {"kind": "walk_in_cooler", "refrigerant": "R-448A", "head_pressure_control": "flooded"}
    document = sheet(unit, **WALK_IN | {"outdoor_air_temp": 50.0})
    assert "setting" in why_not(document, "condenser_split_f")


def test_evaporator_gap_follows_the_airflow():
    unit = TXV | {"nominal_capacity_btuh": 36000}
    assert targets(sheet(unit, **HEALTHY, airflow=1050.0))["evaporator_td_f"]["aim"] == pytest.approx(40, abs=0.05)
    assert targets(sheet(unit, **HEALTHY, airflow=1350.0))["evaporator_td_f"]["aim"] == pytest.approx(30, abs=0.05)

"""May it run: every stop line at its boundary, where it must not stop, and what is asked for while one holds."""

from __future__ import annotations

import pytest

from dry_gauge.core.judgement.assess import with_put_aside
from dry_gauge.core.judgement.stops import STOPS
from tests.builders import AIR_PROVEN, HEALTHY, ORIFICE, STARVED, TXV, WALK_IN, answer, judged, reading, sheet

HEAT = {"kind": "split_heat_pump", "mode": "heating", "metering": "txv"}
HEATED = {
    "suction_pressure": 92.0,
    "suction_line_temp": 36.0,
    "liquid_pressure": 340.0,
    "liquid_line_temp": 95.0,
    "outdoor_air_temp": 42.0,
    "return_air_temp": 70.0,
    "supply_air_temp": 96.0,
}
COOLER = {"kind": "walk_in_cooler", "refrigerant": "R-448A", "metering": "txv"}
FREEZER = {"kind": "walk_in_freezer", "refrigerant": "R-404A", "metering": "txv"}
FROZEN = {
    "suction_pressure": 17.0,
    "coil_outlet_temp": -14.0,
    "suction_line_temp": 5.0,
    "liquid_pressure": 225.0,
    "liquid_line_temp": 88.0,
    "outdoor_air_temp": 85.0,
    "box_air_temp": -5.0,
}
CO2 = {"kind": "walk_in_cooler", "refrigerant": "R-744"}
EMPTY = {
    "suction_pressure": 12.0,
    "suction_line_temp": 74.0,
    "liquid_pressure": 140.0,
    "liquid_line_temp": 91.0,
    "outdoor_air_temp": 90.0,
    "return_air_temp": 78.0,
    "supply_air_temp": 76.0,
}


def codes(document):
    return {line["code"] for line in answer(document)["stop"]}


@pytest.mark.parametrize(
    ("unit", "values", "seen", "found"),
    [
        # Head: by the cut-out, else by the condensing mean; R-410A condenses at 140 F at 543 psig, at 150 F at about 615.
        (TXV | {"high_pressure_cutout_psig": 610}, {"liquid_pressure": 579}, {}, set()),
        (TXV | {"high_pressure_cutout_psig": 610}, {"liquid_pressure": 580}, {}, {"head_above_stop"}),
        (TXV, {"liquid_pressure": 560, "outdoor_air_temp": 90}, {}, {"head_above_stop"}),
        (TXV, {"liquid_pressure": 560, "outdoor_air_temp": 115}, {}, set()),  # a hot climate, within 35 F of the air
        (TXV, {"liquid_pressure": 640}, {}, {"head_above_stop"}),  # beyond the table
        (TXV, {"discharge_pressure": 800, "liquid_pressure": None}, {}, {"head_above_stop"}),
        (
            TXV | {"kind": "split_ac", "refrigerant": "R-134a"},
            {"suction_pressure": 35, "suction_line_temp": 52, "liquid_pressure": 240, "outdoor_air_temp": 95},
            {},
            {"head_above_stop"},
        ),
        # Discharge line.
        (TXV, {"discharge_line_temp": 225}, {}, set()),
        (TXV, {"discharge_line_temp": 226}, {}, {"discharge_too_hot"}),
        (TXV | {"refrigerant": "R-32"}, {"discharge_line_temp": 240}, {}, set()),
        (TXV | {"discharge_limit_f": 210}, {"discharge_line_temp": 215}, {}, {"discharge_too_hot"}),
        # Flooding on a valve: superheat with its error below 3 F; 40.7 F is dew at 120 psig, the error about 1.6.
        (TXV, {"suction_line_temp": 42.4}, {}, set()),
        (TXV, {"suction_line_temp": 41.8}, {}, {"flooding"}),
        (TXV, {"suction_line_temp": 41.8}, {"superheat_hunting": "yes"}, set()),
        # On an orifice only below the target's band as well: 105 F outdoors and a dry return ask for hardly any.
        (ORIFICE, {"suction_line_temp": 41.8}, {}, {"flooding"}),
        (ORIFICE, {"suction_line_temp": 41.8, "outdoor_air_temp": 97, "return_air_wet_bulb": 62}, {}, set()),
        (ORIFICE | {"metering": "capillary"}, {"suction_line_temp": 41.8, "return_air_wet_bulb": None}, {}, set()),
        (HEAT, {"suction_line_temp": 32.0}, {}, set()),
        (HEAT, {"compressor_suction_temp": 28.0}, {}, {"flooding"}),
        (TXV | {"compressor_control": "inverter"}, {"suction_line_temp": 41.8}, {"stage_held": "yes"}, set()),
        (COOLER, {"coil_outlet_temp": 33.5}, {}, {"flooding"}),
        (COOLER, {"coil_outlet_temp": 36.0}, {}, set()),
        (FREEZER, {"coil_outlet_temp": -25.0, "suction_line_temp": None}, {}, {"flooding"}),
        (FREEZER, {"compressor_suction_temp": -18.0}, {}, set()),
        (FREEZER, {}, {"suction_line_frosted_to_compressor": "yes"}, set()),
        # Suction.
        (TXV, {"suction_pressure": 88, "suction_line_temp": 38}, {}, {"suction_below_stop"}),
        (TXV, {"suction_pressure": 95, "suction_line_temp": 38}, {}, set()),
        (HEAT, {"suction_pressure": 60, "suction_line_temp": 20, "outdoor_air_temp": 20}, {}, set()),
        (COOLER | {"low_pressure_cutout_psig": 20}, {"suction_pressure": 19}, {}, {"suction_below_stop"}),
        (COOLER, {"suction_pressure": 19}, {}, set()),
        (FREEZER, {"suction_pressure": -1}, {}, {"suction_below_stop"}),
        # Fans: not one that its control, its stage or a defrost stops.
        (TXV, {}, {"blower_stopped": "yes"}, {"fan_dead"}),
        (TXV, {}, {"condenser_fan_reversed": "yes"}, {"fan_dead"}),
        (TXV, {}, {"condenser_fan_stopped": "yes"}, {"fan_dead"}),
        (TXV, {"outdoor_air_temp": 60}, {"condenser_fan_stopped": "yes"}, set()),  # no control known: it is asked
        (TXV | {"head_pressure_control": "flooded"}, {"outdoor_air_temp": 60}, {"condenser_fan_stopped": "yes"}, {"fan_dead"}),
        (COOLER | {"head_pressure_control": "fan_cycling"}, {"liquid_pressure": 170}, {"condenser_fan_stopped": "yes"}, set()),
        (
            COOLER | {"head_pressure_control": "fan_cycling"},
            {"liquid_pressure": 240},
            {"condenser_fan_stopped": "yes"},
            {"fan_dead"},
        ),
        (COOLER, {}, {"blower_stopped": "yes", "defrost_active": "yes"}, set()),
        (HEAT, {}, {"condenser_fan_stopped": "yes", "defrost_active": "yes"}, set()),
        # No liquid: standing below dew at the coldest air, or running with nothing left.
        (TXV, dict.fromkeys(HEALTHY) | {"standing_pressure": 0, "outdoor_air_temp": 80}, {}, {"no_liquid"}),
        (
            COOLER | {"refrigerant": "R-404A"},
            dict.fromkeys(WALK_IN) | {"standing_pressure": 80, "box_air_temp": 37, "outdoor_air_temp": 95},
            {},
            set(),
        ),
        (
            COOLER | {"refrigerant": "R-404A"},
            dict.fromkeys(WALK_IN) | {"standing_pressure": 74, "box_air_temp": 37, "outdoor_air_temp": 95},
            {},
            {"no_liquid"},
        ),
        # Not pumping: both sides alike while it draws amps.
        (TXV, {"suction_pressure": 245, "liquid_pressure": 255, "compressor_amps": 9}, {}, {"not_pumping"}),
        (TXV, {"suction_pressure": 245, "liquid_pressure": 255}, {}, set()),
        (TXV, {}, {"compressor_not_pumping": "yes"}, {"not_pumping"}),
        (TXV, {}, {"short_cycling": "yes"}, {"short_cycling"}),
        (TXV, {}, {"blade_unsafe": "yes"}, {"blade_unsafe"}),
        (TXV, {}, {"fan_blade_damaged": "yes"}, {"blade_unsafe"}),  # as earlier releases wrote it
        (TXV, {}, {"safety_bridged": "yes"}, {"safety_bridged"}),
        (TXV, {}, {"rotation_reversed": "yes"}, {"rotation_reversed"}),
    ],
)
def test_each_line_stops_where_it_should_and_nowhere_else(unit, values, seen, found):
    base = (
        HEATED
        if unit.get("mode")
        else FROZEN
        if unit.get("kind") == "walk_in_freezer"
        else (WALK_IN if unit.get("kind") == "walk_in_cooler" else HEALTHY)
    )
    stops = codes(sheet(unit, AIR_PROVEN | seen, **base | values)) - {"suction_below_stop" if "blower_stopped" in seen else ""}
    if not found & {"no_liquid"}:
        stops -= {"no_liquid"} if values.get("compressor_amps") else set()
    assert stops == found


def test_carbon_dioxide_and_ammonia_are_stopped_by_their_own_figures_only():
    hot = {"liquid_pressure": 1100.0, "discharge_line_temp": 240.0, "outdoor_air_temp": 90.0, "suction_pressure": 420.0}
    assert codes(sheet(CO2, AIR_PROVEN, **hot)) == set()
    assert codes(sheet(CO2 | {"high_pressure_cutout_psig": 1150, "discharge_limit_f": 230}, AIR_PROVEN, **hot)) == {
        "head_above_stop",
        "discharge_too_hot",
    }
    ammonia = {"kind": "walk_in_cooler", "refrigerant": "R-717", "metering": "txv"}
    assert codes(sheet(ammonia, AIR_PROVEN, discharge_line_temp=250.0, suction_pressure=30.0, liquid_pressure=170.0)) == set()


def test_a_coil_that_starts_cold_is_no_stop_yet():
    cold = HEALTHY | {"suction_pressure": 80.0, "suction_line_temp": 34.0}
    assert "suction_below_stop" not in codes(sheet(TXV, AIR_PROVEN, minutes=9, **cold))
    assert "suction_below_stop" in codes(sheet(TXV, AIR_PROVEN, minutes=10, **cold))


def test_nearly_empty_is_named_and_no_gauge_is_asked_for():
    found = answer(sheet(TXV, AIR_PROVEN, **EMPTY))
    assert "no_liquid" in {line["code"] for line in found["stop"]} & {line["code"] for line in found["plausibility"]}
    assert {gate["gate"]: gate["holding"] for gate in found["gates"]}["implausible"] is False
    assert not {line["code"] for line in found["plausibility"]} & {"slipped_decimal", "looks_like_other_unit"}
    assert found["verdict"] != "healthy"
    assert found["causes"][0]["fault"] == "undercharge"
    assert {check["unit"] for check in found["next_checks"]} == {"off"}


def test_a_circuit_beside_one_that_must_not_run_is_asked_what_can_be_looked_at_with_the_unit_off():
    document = sheet({"kind": "package_ac"}, AIR_PROVEN, **HEALTHY | {"liquid_pressure": 600.0})
    document["readings"] += [
        reading(name, value, circuit=2) for name, value in STARVED.items() if name.startswith(("suc", "liq"))
    ]
    iced = {**document, "observations": [*document["observations"], seen("ice_on_evaporator_even", 2)]}
    for asked in (document, iced):
        found = answer(asked)["circuits"]
        assert [line["code"] for line in found["1"]["stop"]] == ["head_above_stop"]
        assert found["2"]["stop"] == []
        assert len(found["2"]["next_checks"]) == 3
        assert {check["unit"] for check in found["2"]["next_checks"]} == {"off"}
    # Its fan cannot help: the whole unit is off.
    assert found["2"]["next_checks"][0]["asks"] == ["ice_on_evaporator_even", "ice_on_evaporator_patchy"]
    assert "fan" not in found["2"]["next_checks"][0]["check"]
    # Nor does putting a warning of its own aside ask for a running unit.
    odd = {**document, "readings": [*document["readings"], reading("liquid_line_temp", 90.0, circuit=2)]}
    beside = judged(odd).circuits[2]
    released = with_put_aside(beside, {oddity.code for oddity in beside.oddities})
    assert beside.oddities
    assert {check.unit for check in released.next_checks} == {"off"}


def seen(what, circuit):
    return {"what": what, "state": "yes", "circuit": circuit}


def test_hunting_is_judged_by_its_mean():
    readings = [reading("suction_line_temp", value, minutes=10 + i) for i, value in enumerate((40, 46, 39, 45, 40, 46, 39, 41.5))]
    readings += [reading("suction_pressure", 120.0, minutes=10 + i) for i in range(8)]
    base = {name: value for name, value in HEALTHY.items() if not name.startswith("suction")}
    swinging = sheet(TXV, AIR_PROVEN | {"superheat_hunting": "yes"}, **base)
    swinging["readings"] += readings
    assert "flooding" in codes(swinging)
    for one in swinging["readings"]:
        if one["quantity"] == "suction_line_temp":
            one["value"] += 6
    assert "flooding" not in codes(swinging)


@pytest.mark.parametrize(
    ("refrigerant", "suction", "liquid", "line", "found"),
    [  # sound discharge superheat by refrigerant: 13-20 F is right for some, wet for others
        ("R-404A", 75.0, 275.0, 142.0, False),
        ("R-410A", 120.0, 365.0, 142.0, True),
        ("R-410A", 120.0, 365.0, 165.0, False),
    ],
)
def test_wet_discharge_is_judged_by_this_compression(refrigerant, suction, liquid, line, found):
    values = HEALTHY | {"suction_pressure": suction, "liquid_pressure": liquid, "discharge_line_temp": line}
    answered = answer(sheet(TXV | {"refrigerant": refrigerant}, AIR_PROVEN, **values))
    assert ("flooding" in {one["code"] for one in answered["plausibility"]}) is found
    assert "flooding" not in {one["code"] for one in answered["stop"]}


def test_every_stop_has_something_to_do_and_says_it_in_two_lines():
    for row in STOPS.values():
        assert row.check
        assert row.minutes > 0
        assert row.asks
    for document in (
        sheet(TXV, {"blower_stopped": "yes", "condenser_fan_reversed": "yes"}, **HEALTHY | {"liquid_pressure": 640.0}),
        sheet(TXV, {"short_cycling": "yes", "safety_bridged": "yes", "rotation_reversed": "yes"}, **EMPTY),
        sheet(TXV, {"blade_unsafe": "yes"}, **HEALTHY | {"discharge_line_temp": 240.0, "suction_line_temp": 41.0}),
    ):
        for line in answer(document)["stop"]:
            assert len(line["message"]) <= 140, line["message"]


@pytest.mark.parametrize(
    ("unit", "seen", "values", "first"),
    [  # may it run, is it called, fans, air, odd readings, gauges
        (TXV, {"condenser_fan_stopped": "yes"}, {}, ("off", "condenser_fan_stopped")),
        (TXV, {"call_present": "no"}, {}, ("off", "call_present")),
        (TXV, {"ice_on_evaporator_even": "yes"}, {}, ("compressor_off", "ice_on_evaporator_even")),
        (FREEZER, {"ice_on_evaporator_patchy": "yes"}, {}, ("off", "ice_on_evaporator_even")),
        (HEAT, {"ice_on_evaporator_even": "yes"}, {"outdoor_air_temp": 25.0}, ("off", "ice_on_evaporator_even")),
        (TXV, {"filter_dirty": "yes"}, {}, ("off", "filter_dirty")),
        (TXV, {}, {}, ("running", "evaporator_air_proven")),
        (TXV, AIR_PROVEN, {}, ("running", "suction_pressure")),
        (TXV, AIR_PROVEN, HEALTHY | {"suction_pressure": 365.0, "liquid_pressure": 120.0}, ("running", "suction_pressure")),
        (TXV | {"compressor_control": "inverter"}, AIR_PROVEN, HEALTHY, ("running", "stage_held")),
    ],
)
def test_what_comes_first(unit, seen, values, first):
    check = answer(sheet(unit, seen, **values))["next_checks"][0]
    assert check["unit"] == first[0]
    assert first[1] in check["asks"]


def test_an_iced_coil_asks_for_no_pressure():
    checks = answer(sheet(TXV, {"ice_on_evaporator_even": "yes"}))["next_checks"]
    assert not any("pressure" in name for check in checks for name in check["asks"])


def test_hoses_swapped_says_to_swap_them():
    swapped = HEALTHY | {"suction_pressure": 365.0, "liquid_pressure": 120.0}
    found = answer(sheet(TXV, AIR_PROVEN, **swapped))
    assert "swapped" in found["next_checks"][0]["check"]
    assert found["verdict"] != "healthy"


def test_nothing_is_healthy_against_a_binding_target():
    inlet = answer(sheet(FREEZER, AIR_PROVEN, **FROZEN | {"compressor_suction_temp": -12.6, "suction_line_temp": -12.0}))
    assert "flooding" in {one["code"] for one in inlet["plausibility"]}
    assert inlet["verdict"] not in ("healthy", "fault")  # 6 F at the compressor: asked about, not sound, no stop alone
    assert inlet["stop"] == []
    far = answer(sheet(TXV | {"target_subcooling_f": 20}, AIR_PROVEN, **HEALTHY))
    assert far["verdict"] != "healthy"
    indication = answer(sheet(TXV, AIR_PROVEN, **HEALTHY | {"liquid_line_temp": 101.0}))
    assert indication["verdict"] == "healthy"
    stopped = answer(sheet(TXV, AIR_PROVEN | {"blade_unsafe": "yes"}, **HEALTHY))
    assert stopped["verdict"] == "held"


def test_starved_readings_in_low_stage_are_not_a_worn_compressor():
    low = {
        "suction_pressure": 138.0,
        "suction_line_temp": 58.0,
        "liquid_pressure": 310.0,
        "liquid_line_temp": 93.0,
        "outdoor_air_temp": 88.0,
        "return_air_temp": 76.0,
        "return_air_wet_bulb": 63.0,
        "supply_air_temp": 61.0,
    }
    document = sheet(TXV | {"compressor_control": "two_stage"}, AIR_PROVEN, **low)
    for one in document["readings"]:
        one["stage"] = "low"
    found = answer(document)
    assert found["causes"][0]["fault"] == "none"
    assert found["targets"]["subcooling_f"]["indication_only"]


def test_stages_are_not_mixed():
    document = sheet(TXV | {"compressor_control": "two_stage"}, AIR_PROVEN, outdoor_air_temp=90.0, return_air_temp=76.0)
    for i, (name, value) in enumerate(HEALTHY.items()):
        if name not in ("outdoor_air_temp", "return_air_temp"):
            document["readings"].append(reading(name, value, stage="low" if i % 2 else "high", minutes=20.0 + i))
    assert "stage_mixed" in {line["code"] for line in answer(document)["plausibility"]}
    document["readings"] += [reading(name, value, stage="high", minutes=40.0) for name, value in HEALTHY.items()]
    found = answer(document)
    assert "stage_mixed" not in {line["code"] for line in found["plausibility"]}
    assert found["verdict"] == "healthy"


def test_low_head_in_the_cold_is_named_before_charge():
    cold = HEALTHY | {
        "suction_pressure": 92.0,
        "suction_line_temp": 50.0,
        "liquid_pressure": 195.0,
        "liquid_line_temp": 58.0,
        "outdoor_air_temp": 45.0,
    }
    found = answer(sheet(TXV, AIR_PROVEN, **cold))
    assert {gate["gate"]: gate["holding"] for gate in found["gates"]}["low_head"] is True
    assert found["verdict"] in ("held", "not_enough")
    controlled = answer(sheet(TXV | {"head_pressure_control": "fan_cycling"}, AIR_PROVEN, **cold))
    assert {gate["gate"]: gate["holding"] for gate in controlled["gates"]}["low_head"] is False


@pytest.mark.parametrize(
    ("unit", "values", "about"),
    [  # alarming, and supported by another reading: kept, never called a slip
        (COOLER, {"box_air_temp": 88.0, "suction_line_temp": 80.0, "coil_outlet_temp": 78.0}, "box_air_temp"),
        (
            TXV,
            {"outdoor_air_temp": 127.0, "liquid_line_temp": 134.0, "condenser_leaving_air_temp": 141.0, "liquid_pressure": 520.0},
            "outdoor_air_temp",
        ),
        (HEAT, {"outdoor_air_temp": -24.0, "suction_pressure": 30.0, "suction_line_temp": -25.0}, "outdoor_air_temp"),
        (FREEZER, {"suction_pressure": -2.0, "suction_line_temp": -15.0}, "suction_pressure"),
    ],
)
def test_alarming_numbers_that_others_support_are_no_slips(unit, values, about):
    base = HEATED if unit.get("mode") else FROZEN if unit is FREEZER else WALK_IN if unit is COOLER else HEALTHY
    found = answer(sheet(unit, AIR_PROVEN, **base | values))
    slips = [
        one for one in found["plausibility"] if one["code"] in ("slipped_decimal", "looks_like_other_unit", "outdoor_probe_hot")
    ]
    assert not [one for one in slips if about in one["readings"]]


def test_a_pressure_beyond_its_table_keeps_what_needs_no_table():
    found = answer(sheet(TXV, AIR_PROVEN, **HEALTHY | {"liquid_pressure": 800.0}))
    assert "pressure_beyond_table" in {one["code"] for one in found["plausibility"]}
    assert "condensing_mean_f" not in found["derived"]
    assert found["derived"]["compression_ratio"]["value"] == pytest.approx((800 + 14.696) / (120 + 14.696), rel=1e-4)
    assert "superheat_f" in found["derived"]


def test_statics_out_of_range_hold_the_air_gate():
    for total, code in ((0.3, None), (0.8, "static_high"), (0.04, "static_low")):
        values = HEALTHY | {"external_static_supply": total / 2, "external_static_return": -total / 2}
        found = answer(sheet(TXV, AIR_PROVEN, **values))
        assert code is None or code in {one["code"] for one in found["plausibility"]}
        assert {gate["gate"]: gate["holding"] for gate in found["gates"]}["air_unproven"] is (code is not None)


def test_charge_and_defrost_settle_from_their_own_event():
    for clocks, holding in (
        ({"minutes_since_charge": 19.9}, True),
        ({"minutes_since_charge": 20}, False),
        ({"minutes_since_defrost": 12}, True),
    ):
        found = answer(sheet(TXV, AIR_PROVEN, minutes=60, clocks=clocks, **HEALTHY))
        assert {gate["gate"]: gate["holding"] for gate in found["gates"]}["not_settled"] is holding
    heating = answer(sheet(HEAT, AIR_PROVEN, minutes=60, clocks={"minutes_since_defrost": 12}, **HEATED))
    assert {gate["gate"]: gate["holding"] for gate in heating["gates"]}["not_settled"] is False
    unsaid = answer(sheet(TXV, AIR_PROVEN | {"recently_charged": "yes"}, minutes=60, **HEALTHY))
    assert ["minutes_since_charge"] in [check["asks"] for check in unsaid["next_checks"]]


def test_evidence_rests_on_the_fault_itself():
    found = answer(sheet(TXV, {"condenser_fan_stopped": "yes", "oil_stain": "yes"}, **STARVED))
    for cause in found["causes"]:
        if cause["fault"] == "undercharge":
            assert not any("fan" in words for words in cause["for"])
        if cause["fault"] == "low_condenser_airflow":
            assert any("fan" in words for words in cause["for"])


def test_what_was_looked_at_behind_a_stop_gives_way_to_what_teaches_more_with_the_unit_off():
    cold = HEALTHY | {"suction_pressure": 80.0, "suction_line_temp": 60.0}
    before = answer(sheet(TXV, AIR_PROVEN, **cold))["next_checks"]
    assert before[0]["asks"] == ["ice_on_evaporator_even", "filter_dirty", "blower_stopped"]
    looked = AIR_PROVEN | dict.fromkeys(before[0]["asks"], "no")
    after = answer(sheet(TXV, looked, **cold))["next_checks"]
    assert after[0]["asks"]
    assert {check["unit"] for check in after} == {"off"}
    assert (after[-1]["asks"], after[-1]["minutes"]) == ([], 0)
    assert "stays off, and it is not: ice, even sheet; filter dirty" in after[-1]["check"]

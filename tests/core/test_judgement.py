"""Gates, oddities, causes and next checks, each at the boundary where it changes its mind."""

from __future__ import annotations

import re

import pytest

from dry_gauge.core.judgement.assess import with_put_aside
from dry_gauge.core.judgement.checks import CHECKS, ONLY_WHERE
from dry_gauge.core.vocabulary import QUANTITIES, SIGHTS, Fault
from tests.builders import AIR_PROVEN, HEALTHY, ORIFICE, STARVED, TXV, WALK_IN, answer, judged, reading, sheet


def gates(document):
    return {gate["gate"]: gate["holding"] for gate in answer(document)["gates"]}


def codes(document):
    return {line["code"] for line in answer(document)["plausibility"]}


def test_a_healthy_unit_with_every_gate_open_is_called_healthy():
    found = answer(sheet(TXV, AIR_PROVEN, **HEALTHY))
    assert found["verdict"] == "healthy"
    assert found["causes"][0]["fault"] == "none"
    assert not any(gate["holding"] for gate in found["gates"])


def test_every_answer_lists_all_gates_in_order_and_all_causes():
    found = answer(sheet(TXV, **HEALTHY))
    assert [gate["gate"] for gate in found["gates"]] == [
        "ice_on_coil",
        "air_unproven",
        "unit_not_as_called",
        "not_settled",
        "too_few_readings",
        "implausible",
        "low_head",
    ]
    assert {cause["fault"] for cause in found["causes"]} == {fault.value for fault in Fault}
    probabilities = [cause["probability"] for cause in found["causes"]]
    assert probabilities == sorted(probabilities, reverse=True)
    assert [cause["severity"] for cause in found["causes"] if cause["fault"] == "none"] == [None]
    box = answer(sheet({"kind": "walk_in_cooler", "refrigerant": "R-448A"}, **WALK_IN))
    assert [gate["gate"] for gate in box["gates"]][-2:] == ["box_not_near_design", "low_head"]
    heating = answer(sheet({"kind": "split_heat_pump", "mode": "heating"}, **HEALTHY))
    assert heating["gates"][-1]["gate"] == "implausible"


@pytest.mark.parametrize(
    ("seen", "gate", "holding"),
    [
        ({}, "air_unproven", True),
        (AIR_PROVEN, "air_unproven", False),
        (AIR_PROVEN | {"filter_dirty": "yes"}, "air_unproven", True),
        (AIR_PROVEN | {"filter_dirty": "no"}, "air_unproven", False),
        ({"evaporator_air_proven": "yes"}, "air_unproven", True),
        ({"ice_on_evaporator_patchy": "yes"}, "ice_on_coil", True),
        ({"frost_at_distributor": "yes"}, "ice_on_coil", False),
        ({"call_present": "no"}, "unit_not_as_called", True),
        ({"stage_held": "not_seen"}, "unit_not_as_called", False),
        ({"panel_off": "yes"}, "unit_not_as_called", True),
    ],
)
def test_what_was_seen_moves_its_gate(seen, gate, holding):
    assert gates(sheet(TXV, seen, **HEALTHY))[gate] is holding


@pytest.mark.parametrize(
    ("minutes", "change", "seen", "holding"),
    [
        (None, None, {}, True),
        (14.9, None, {}, True),
        (15, None, {}, False),
        (15, None, {"recently_charged": "yes"}, True),
        (60, None, {"recently_defrosted": "yes"}, True),
        (40, 4.9, {}, True),
        (40, 5, {}, False),
    ],
)
def test_settled_counts_from_start_and_from_the_last_change(minutes, change, seen, holding):
    assert gates(sheet(TXV, seen, minutes, change, **HEALTHY))["not_settled"] is holding


@pytest.mark.parametrize("missing", sorted(set(HEALTHY) - {"return_air_wet_bulb", "supply_air_temp"}))
def test_one_missing_reading_is_too_few(missing):
    values = {name: value for name, value in HEALTHY.items() if name != missing}
    found = answer(sheet(TXV, AIR_PROVEN, **values))
    assert found["verdict"] == "not_enough"
    assert missing in found["next_checks"][0]["asks"]


def test_a_box_far_above_design_is_not_judged():
    cooler = {"kind": "walk_in_cooler", "refrigerant": "R-448A", "design_box_temp_f": 36}
    assert gates(sheet(cooler, **WALK_IN | {"box_air_temp": 46.5}))["box_not_near_design"]
    assert not gates(sheet(cooler, **WALK_IN | {"box_air_temp": 45.9}))["box_not_near_design"]


def test_a_verdict_behind_a_gate_is_held_but_an_air_fault_is_not_held_by_air():
    short = sheet(ORIFICE, {}, **STARVED)
    assert answer(short)["causes"][0]["fault"] == "undercharge"
    assert answer(short)["verdict"] == "held"
    short["observations"] = [{"what": what, "state": state} for what, state in AIR_PROVEN.items()]
    assert answer(short)["verdict"] == "fault"
    starved_of_air = HEALTHY | {"suction_pressure": 94.0, "suction_line_temp": 36.0, "supply_air_temp": 48.0}
    found = answer(sheet(TXV, {"filter_dirty": "yes"}, **starved_of_air))
    assert (found["causes"][0]["fault"], found["verdict"]) == ("low_evaporator_airflow", "fault")


@pytest.mark.parametrize(
    ("unit", "change", "seen", "fault"),
    [
        (
            ORIFICE,
            {"suction_pressure": 127.0, "suction_line_temp": 46.0, "liquid_pressure": 410.0, "liquid_line_temp": 98.0},
            {},
            "overcharge",
        ),
        (TXV, {"liquid_pressure": 438.0, "liquid_line_temp": 115.0}, {"condenser_dirty": "yes"}, "low_condenser_airflow"),
        (
            TXV,
            {
                "suction_pressure": 92.0,
                "suction_line_temp": 62.0,
                "liquid_pressure": 350.0,
                "liquid_line_temp": 88.0,
                "supply_air_temp": 61.0,
            },
            {"frost_after_drier": "yes"},
            "liquid_line_restriction",
        ),
        (
            TXV,
            {
                "suction_pressure": 148.0,
                "suction_line_temp": 58.0,
                "liquid_pressure": 318.0,
                "liquid_line_temp": 94.0,
                "supply_air_temp": 65.0,
            },
            {},
            "inefficient_compressor",
        ),
        # Only the unit-off check parts these two: pressure above, or at, what the refrigerant alone would stand at.
        (
            TXV,
            {"liquid_pressure": 450.0, "liquid_line_temp": 101.0, "standing_pressure": 262.0, "equalized_ambient_temp": 80.0},
            AIR_PROVEN,
            "non_condensables",
        ),
        (
            TXV,
            {"liquid_pressure": 420.0, "liquid_line_temp": 101.0, "standing_pressure": 235.0, "equalized_ambient_temp": 80.0},
            AIR_PROVEN,
            "overcharge",
        ),
    ],
)
def test_textbook_pictures_are_named(unit, change, seen, fault):
    found = answer(sheet(unit, seen, **HEALTHY | change))
    assert found["causes"][0]["fault"] == fault
    assert found["causes"][0]["for"]


def test_low_suction_with_high_subcooling_is_not_called_undercharge():
    found = answer(sheet(TXV, AIR_PROVEN, **STARVED | {"liquid_line_temp": 85.0}))
    assert found["causes"][0]["fault"] in ("liquid_line_restriction", "metering_underfeeding")


def test_in_heating_the_indoor_filter_speaks_of_the_condenser():
    unit = {"kind": "split_heat_pump", "mode": "heating", "metering": "txv"}
    values = {
        "suction_pressure": 88.0,
        "suction_line_temp": 34.0,
        "liquid_pressure": 480.0,
        "liquid_line_temp": 122.0,
        "outdoor_air_temp": 42.0,
        "return_air_temp": 70.0,
        "supply_air_temp": 108.0,
    }
    assert answer(sheet(unit, {"filter_dirty": "yes"}, **values))["causes"][0]["fault"] == "low_condenser_airflow"


@pytest.mark.parametrize(
    ("unit", "change", "code"),
    [
        (TXV, {"suction_line_temp": 35.0}, "suction_line_below_saturation"),
        (TXV, {"liquid_line_temp": 115.0}, "liquid_line_above_saturation"),
        (TXV, {"supply_air_temp": 80.0}, "supply_warmer_than_return"),
        (TXV, {"liquid_pressure": 250.0}, "condensing_below_outdoor"),
        (TXV, {"condenser_leaving_air_temp": 80.0}, "outdoor_probe_hot"),
        (TXV, {"liquid_line_temp": 89.0}, "approach_not_positive"),
        (TXV, {"suction_pressure": 380.0}, "low_side_above_high_side"),
        (TXV, {"valve_inlet_temp": 112.0}, "liquid_flashes"),
        (TXV, {"external_static_return": 0.3}, "static_sign"),
        (TXV, {"return_air_temp": 24.0, "return_air_wet_bulb": 17.0}, "looks_like_other_unit"),
        (TXV, {"return_air_temp": 7.2, "return_air_wet_bulb": 6.3}, "slipped_decimal"),
        (TXV, {"suction_pressure": 12.0}, "slipped_decimal"),
        (
            {"kind": "split_heat_pump", "mode": "heating"},
            {"outdoor_air_temp": 40.0, "suction_pressure": 300.0},
            "vapour_valve_in_heating",
        ),
    ],
)
def test_odd_numbers_are_answered_with_a_question(unit, change, code):
    document = sheet(unit, **HEALTHY | change)
    assert code in codes(document)
    assert gates(document)["implausible"]


@pytest.mark.parametrize(
    ("unit", "change", "code"),
    [
        (TXV, {"suction_line_temp": 44.0}, "flooding"),
        ({"refrigerant": "R-454C"}, {"suction_pressure": 60.0, "liquid_pressure": 220.0, "suction_line_temp": 30.0}, "flooding"),
        (TXV, {"discharge_line_temp": 120.0}, "flooding"),
        (TXV, {"return_air_wet_bulb": 76.9}, "wet_bulb_above_dry_bulb"),
        (TXV, {"external_static_supply": 0.5, "external_static_return": -0.5}, "static_high"),
    ],
)
def test_what_is_only_said_keeps_nothing_from_being_judged(unit, change, code):
    document = sheet(unit, **HEALTHY | change)
    assert code in codes(document)
    assert not gates(document)["implausible"]


def test_another_refrigerant_that_fits_is_asked_about():
    # An R-22 unit read as R-410A: the liquid line seems far above its bubble point.
    values = HEALTHY | {"suction_pressure": 70.0, "suction_line_temp": 52.0, "liquid_pressure": 225.0}
    message = next(
        line["message"] for line in answer(sheet(TXV, **values))["plausibility"] if line["code"] == "other_refrigerant_fits"
    )
    assert "?" in message
    assert "R-22" in message or "R-407C" in message or "R-421A" in message


def test_a_healthy_sheet_raises_no_oddity():
    assert codes(sheet(TXV, AIR_PROVEN, **HEALTHY)) == set()


def test_what_only_some_units_know_is_a_check():
    assert ONLY_WHERE.keys() <= {check.name for check in CHECKS}


def test_next_checks_ask_only_names_of_the_contract():
    for document in (
        sheet(TXV, **HEALTHY),
        sheet(TXV),
        sheet(ORIFICE, AIR_PROVEN, **STARVED),
        sheet({"kind": "walk_in_freezer", "refrigerant": "R-404A"}, AIR_PROVEN, **WALK_IN),
    ):
        checks = answer(document)["next_checks"]
        assert checks
        for check in checks:
            known = {*QUANTITIES, *SIGHTS, "minutes_running", "minutes_since_change"}
            assert set(check["asks"]) <= known
            assert check["unit"] in ("running", "off")


def test_nothing_read_is_answered_with_modesty():
    found = answer(sheet(TXV))
    assert found["verdict"] == "not_enough"
    assert found["causes"][0]["probability"] < 0.5
    assert found["derived"] == {}


def test_a_reading_in_psia_or_kpa_judges_the_same():
    document = sheet(TXV, **HEALTHY)
    in_kpa = sheet(TXV, **HEALTHY)
    in_kpa["readings"][0] = reading("suction_pressure", 120.0 * 6.894757293168) | {"unit": "kPag"}
    values = [answer(item)["derived"]["superheat_f"]["value"] for item in (document, in_kpa)]
    assert values[0] == pytest.approx(values[1], abs=1e-9)


def test_a_gap_that_cannot_be_is_a_question_and_no_evidence():
    slipped = answer(sheet(TXV, AIR_PROVEN, **HEALTHY | {"liquid_line_temp": 125.0}))
    assert slipped["causes"][0]["fault"] == "none"
    assert slipped["verdict"] == "held"
    said = [words for cause in slipped["causes"] for words in (*cause["for"], *cause["against"])]
    assert not any("Subcooling" in words for words in said)


def test_what_is_put_aside_holds_nothing_and_stays_said():
    odd = judged(sheet(TXV, AIR_PROVEN, **HEALTHY | {"condenser_leaving_air_temp": 80.0})).first
    assert odd.verdict == "held"
    code = next(oddity.code for oddity in odd.oddities)
    released = with_put_aside(odd, {code})
    assert released.verdict != "held"
    assert released.oddities == odd.oddities
    assert with_put_aside(odd, {"another"}) is odd
    stopped = judged(sheet(TXV, AIR_PROVEN | {"blade_unsafe": "yes"}, **HEALTHY | {"condenser_leaving_air_temp": 80.0})).first
    assert with_put_aside(stopped, {code, "blade_unsafe"}).stops == stopped.stops


@pytest.mark.parametrize("what", sorted(SIGHTS))
def test_in_heating_nothing_that_is_to_be_done_calls_a_coil_by_its_role(what):
    # 'The condenser' is the outdoor unit to whoever stands before it, and the indoor coil to the cycle.
    cold = {"suction_pressure": 70.0, "suction_line_temp": 30.0, "liquid_pressure": 430.0, "liquid_line_temp": 96.0,
            "outdoor_air_temp": 42.0, "return_air_temp": 70.0, "supply_air_temp": 104.0}  # fmt: skip
    unit = {"kind": "split_heat_pump", "mode": "heating", "metering": "txv"}
    for state, hot in (("yes", 180.0), ("no", 240.0)):
        found = answer(sheet(unit, {what: state}, **cold, discharge_line_temp=hot))
        told = [check["check"] for check in found["next_checks"]] + [gate["released_by"] for gate in found["gates"]]
        told += [line["message"] for line in found["stop"]]
        assert not [words for words in told if re.search("condenser|evaporator", words.replace("condenser's drop", ""), re.I)]


def test_a_box_is_not_asked_about_filters_and_dampers_that_it_does_not_have():
    for seen in ({}, {"evaporator_air_proven": "yes"}, {"condenser_air_proven": "yes"}):
        found = answer(sheet({"kind": "walk_in_cooler", "refrigerant": "R-448A", "metering": "txv"}, seen, **WALK_IN))
        told = [check["check"] for check in found["next_checks"]] + [gate["released_by"] for gate in found["gates"]]
        assert any(words.startswith("Prove the air on") for words in told)
        assert not [words for words in told if re.search("filter|damper|panel|register", words)]


def test_a_circuit_with_another_refrigerant_is_judged_by_its_own():
    # One circuit of the unit was changed over: the same pressure is another saturation there.
    unit = {"kind": "package_ac", "refrigerant": "R-22", "more_circuits": [{"circuit": 2, "refrigerant": "R-407C"}]}
    document = sheet(unit, AIR_PROVEN, suction_pressure=68.0, suction_line_temp=52.0)
    document["readings"] += [{**one, "circuit": 2} for one in document["readings"]]
    circuits = answer(document)["circuits"]
    first, second = (circuits[number]["derived"]["suction_saturation_f"]["value"] for number in ("1", "2"))
    assert first == pytest.approx(39.7, abs=0.3)  # R-22 at 68 psig
    assert second == pytest.approx(43.2, abs=0.3)  # R-407C, dew (CoolProp)


def test_a_charge_waits_for_proven_air_even_beside_air_that_is_at_fault():
    found = judged(sheet(TXV, {"condenser_dirty": "yes"}, **HEALTHY | {"liquid_pressure": 470.0})).first
    assert [gate.name for gate in found.holding] == ["air_unproven"]
    assert found.causes[0].fault is Fault.LOW_CONDENSER_AIRFLOW
    assert not found.is_provisional(Fault.LOW_CONDENSER_AIRFLOW)
    assert found.is_provisional(Fault.UNDERCHARGE)

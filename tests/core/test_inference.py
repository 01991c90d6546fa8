"""The weighed hypotheses: the single rules of the trade, modesty with little, misreadings asked, checks that teach."""

from __future__ import annotations

import json
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dry_gauge.bench.cases import Draw, draw_cases
from dry_gauge.bench.vignettes import VIGNETTES
from dry_gauge.core.circuit import derive
from dry_gauge.core.judgement.assess import CALIBRATION_ID, JUDGED_BY, RULE_SET, assess
from dry_gauge.core.judgement.calibration import group_names, group_of
from dry_gauge.core.judgement.evidence import LIKELIHOODS
from dry_gauge.core.judgement.features import FEATURE_ROWS, FEATURES
from dry_gauge.core.judgement.hypotheses import HYPOTHESES, LOG_PRIOR, PAIRS, TRIPLES, prior_shares
from dry_gauge.core.judgement.inference import weigh
from dry_gauge.core.judgement.questions import CHARGE_FAULTS
from dry_gauge.core.judgement.sights import SIGHT_MODELS, log_chances
from dry_gauge.core.vocabulary import SIGHTS, CompressorControl, Fault, Kind
from dry_gauge.core.words import Reader
from tests.builders import AIR_PROVEN, HEALTHY, ORIFICE, STARVED, TXV, WALK_IN, answer, judged, sheet

STARVING = {Fault.LIQUID_LINE_RESTRICTION.value, Fault.METERING_UNDERFEEDING.value}


def first(document):
    return answer(document)["causes"][0]


def probabilities(document):
    return {cause["fault"]: cause["probability"] for cause in answer(document)["causes"]}


# -- the single rules --------------------------------------------------------------


@pytest.mark.parametrize("unit", [TXV, ORIFICE])
def test_low_suction_with_high_subcooling_is_never_called_undercharge(unit):
    for liquid_line in (80.0, 85.0, 88.0):
        found = probabilities(sheet(unit, AIR_PROVEN, **STARVED | {"liquid_line_temp": liquid_line}))
        assert found["undercharge"] < 0.5
        assert max(found, key=found.get) in STARVING | {"low_evaporator_airflow"}


def test_no_superheat_stops():
    flooding = answer(sheet(TXV, AIR_PROVEN, **HEALTHY | {"suction_line_temp": 40.5, "discharge_line_temp": 124.0}))
    assert "flooding" in {line["code"] for line in flooding["stop"]}
    assert flooding["verdict"] != "healthy"


def test_a_starved_picture_without_subcooling_asks_for_it_first():
    values = {name: value for name, value in STARVED.items() if name != "liquid_line_temp"}
    found = answer(sheet(ORIFICE, AIR_PROVEN, **values | {"discharge_line_temp": 205.0}))
    assert found["verdict"] == "not_enough"
    assert found["next_checks"][0]["asks"] == ["liquid_line_temp"]
    assert found["causes"][0]["fault"] in {"undercharge", *STARVING}
    assert sum(found["causes"][i]["probability"] for i in range(4)) > 0.8


def test_in_heating_the_indoor_filter_drives_the_head():
    unit = {"kind": "split_heat_pump", "mode": "heating", "metering": "txv"}
    values = {
        "suction_pressure": 92.0,
        "suction_line_temp": 36.0,
        "liquid_pressure": 440.0,
        "liquid_line_temp": 118.0,
        "outdoor_air_temp": 42.0,
        "return_air_temp": 70.0,
        "supply_air_temp": 112.0,
    }
    plain, dirty = (probabilities(sheet(unit, seen, **values)) for seen in ({}, {"filter_dirty": "yes"}))
    assert dirty["low_condenser_airflow"] > plain["low_condenser_airflow"]
    assert max(dirty, key=dirty.get) == "low_condenser_airflow"


def test_low_static_with_a_good_split_asks_for_a_look_at_the_coil():
    unit = TXV | {"nominal_capacity_btuh": 36_000}
    low = sheet(unit, {}, **HEALTHY | {"external_static_supply": 0.05, "external_static_return": -0.1})
    asked = {name for check in answer(low)["next_checks"] for name in check["asks"]}
    assert "evaporator_air_proven" in asked


def test_no_charge_is_advised_while_air_is_unproven_whatever_the_probability():
    for seen, minutes in (({}, 30), (AIR_PROVEN, 4)):
        found = answer(sheet(ORIFICE, seen, minutes, **STARVED))
        assert found["causes"][0]["fault"] == "undercharge"
        assert found["verdict"] == "held"
        assert not any("add" in check["check"].lower().split() for check in found["next_checks"])


@pytest.mark.parametrize("vignette", VIGNETTES, ids=lambda vignette: vignette.title)
def test_textbook_pictures_are_named(vignette):
    found = assess(vignette.sheet).first.causes
    assert found[0].fault in vignette.right, [(c.fault, c.probability) for c in found[:3]]


def test_a_size_between_those_of_the_row_is_part_of_what_its_neighbours_expect():
    """What a fault does grows through all its gaps together, so a size in between lies along one direction of the scatter."""
    group = group_of("comfort_fixed")
    place = {hypothesis.faults: k for k, hypothesis in enumerate(HYPOTHESES) if not hypothesis.by_habit}
    scale = np.maximum(np.sqrt(np.diag(group.unit_spread)), [row.least_spread for row in FEATURE_ROWS])
    dirty = (Fault.LOW_CONDENSER_AIRFLOW, 0.65)
    less, here, more = (place[(Fault.UNDERCHARGE, size), dirty] for size in (0.3, 0.65, 1.0))
    step = (group.shifts[more] - group.shifts[less]) / 2 / np.sqrt(12) / scale
    along = group.directions[:, here] / scale @ step / np.linalg.norm(step)
    assert np.sqrt((along**2).sum()) > 0.9 * np.linalg.norm(step)


def test_what_an_empty_condenser_shows_no_longer_tells_how_much_the_unit_had():
    """Of subcooling that ended nothing of the unit's own is left; a blower that slows down leaves it (R81)."""
    group = group_of("comfort_valve")
    place = {hypothesis.faults: k for k, hypothesis in enumerate(HYPOTHESES) if not hypothesis.by_habit}
    subcooling = FEATURES.index("subcooling")
    kept = {fault: group.keeps[place[(fault, 1.0),], subcooling] for fault in (Fault.UNDERCHARGE, Fault.LOW_EVAPORATOR_AIRFLOW)}
    assert kept[Fault.UNDERCHARGE] < 0.2
    assert kept[Fault.LOW_EVAPORATOR_AIRFLOW] > 0.6
    # So two units whose labels ask for unlike subcooling are expected to end at the same place.
    ends = []
    for label in (6.0, 14.0):
        unit = sheet(TXV | {"target_subcooling_f": label}, AIR_PROVEN, **HEALTHY)
        view = judged(unit).first.view
        seen = weigh(view, derive(view)).pictures[0]
        at = int(np.flatnonzero(seen.at == subcooling)[0])
        ends.append(seen.expected[at] + seen.shifts[place[(Fault.UNDERCHARGE, 1.0),], at])
    assert abs(ends[1] - ends[0]) < 1.5
    assert min(ends) >= 0.0


@settings(max_examples=25)
@given(st.floats(60, 115), st.floats(66, 88), st.sampled_from(["txv", "orifice"]))
def test_every_hypothesis_leaves_a_covariance(outdoor, entering, metering):
    """What a fault takes of a unit's own spread is never more than there was."""
    values = HEALTHY | {"outdoor_air_temp": outdoor, "return_air_temp": entering, "return_air_wet_bulb": entering - 12}
    view = judged(sheet({"kind": "split_ac", "metering": metering}, AIR_PROVEN, **values)).first.view
    seen = weigh(view, derive(view)).pictures[0]
    whole = np.moveaxis(seen.covariance[:, :, None] + seen.scatter, 2, 0)
    assert np.linalg.eigvalsh(whole).min() > 0


# -- modesty ------------------------------------------------------------------------


def test_little_read_is_little_claimed():
    for values in (
        {},
        {"suction_pressure": 100.0},
        {"outdoor_air_temp": 95.0},
        {"suction_pressure": 60.0, "liquid_pressure": 330.0},
    ):
        found = answer(sheet(TXV, **values))
        assert found["verdict"] == "not_enough"
        assert all(cause["probability"] < 0.75 for cause in found["causes"] if cause["fault"] != "none")


def test_a_number_without_error_is_no_certainty():
    exact = sheet(TXV, AIR_PROVEN, **HEALTHY)
    for item in exact["readings"]:
        item["accuracy"] = 0
    found = probabilities(exact)
    assert found["none"] > 0.5
    assert max(found.values()) < 0.999


def test_unknown_metering_weighs_both_sorts():
    view = judged(sheet({"metering": None}, AIR_PROVEN, **HEALTHY)).first
    assert group_names(view.view.unit) == ("comfort_valve", "comfort_fixed")
    assert len(view.judgement.pictures) == 2
    assert view.causes[0].fault is Fault.NONE


def test_circuits_are_weighed_apart():
    document = sheet(TXV, AIR_PROVEN, **HEALTHY)
    sick = {"suction_pressure": 92.0, "suction_line_temp": 62.0, "liquid_pressure": 318.0, "liquid_line_temp": 99.0}
    shared = {"outdoor_air_temp", "return_air_temp", "return_air_wet_bulb", "supply_air_temp"}
    second = [
        dict(item, circuit=2, value=sick.get(item["quantity"], item["value"]))
        for item in document["readings"]
        if item["quantity"] not in shared
    ]
    document["readings"] += second
    found = answer(document)["circuits"]
    assert found["1"]["causes"][0]["fault"] == "none"
    assert found["2"]["causes"][0]["fault"] != "none"


# -- misreadings ----------------------------------------------------------------------


def test_a_loose_clamp_is_asked_about_before_charge():
    loose = sheet(ORIFICE, AIR_PROVEN, **HEALTHY | {"suction_line_temp": 68.0})
    found = answer(loose)
    assert "loose_suction_clamp" in {question["about"] for question in found["questions"]}
    assert all(0 <= question["probability"] <= 1 for question in found["questions"])


def test_another_filling_explains_what_no_sound_reading_can():
    # R-22 pressures read on an R-410A sheet: far below anything that runs.
    values = HEALTHY | {"suction_pressure": 70.0, "suction_line_temp": 52.0, "liquid_pressure": 225.0, "liquid_line_temp": 100.0}
    found = probabilities(sheet(TXV, AIR_PROVEN, **values))
    assert max(found, key=found.get) == "wrong_refrigerant"


# -- checks ---------------------------------------------------------------------------


def test_overcharge_and_foreign_gas_are_parted_by_the_unit_off_check():
    found = answer(sheet(TXV, AIR_PROVEN, **HEALTHY | {"liquid_pressure": 430.0}))
    named = [cause["fault"] for cause in found["causes"][:2]]
    assert set(named) == {"overcharge", "non_condensables"}
    assert found["would_overturn"]["check"] == "standing"
    assert found["would_overturn"]["probability_then"] < 0.5


def test_running_checks_come_before_stopping_the_unit():
    checks = answer(sheet(TXV, AIR_PROVEN, **HEALTHY | {"liquid_pressure": 430.0}))["next_checks"]
    assert checks[0]["unit"] == "running"
    assert all(check["outcome"] for check in checks)


def test_what_was_read_is_not_asked_again():
    document = sheet(TXV, AIR_PROVEN | {"recently_opened": "no"}, **STARVED, discharge_line_temp=190.0)
    had = {item["quantity"] for item in document["readings"]} | {item["what"] for item in document["observations"]}
    for check in answer(document)["next_checks"]:
        assert not set(check["asks"]) <= had


def test_following_next_checks_from_three_readings_settles():
    settled = 0
    cases = list(draw_cases(30, np.random.default_rng(77), Draw()))
    from scripts.tally import SETTLED_FROM, follow  # the published figure's own rule

    for case in cases:
        settled += SETTLED_FROM[0] in follow(case)
    assert settled / len(cases) > 0.5  # of thirty; docs/accuracy.md has the figure


# -- the machinery ----------------------------------------------------------------------


def test_a_sound_unit_in_its_lower_stage_is_seldom_accused():
    comfort = tuple(kind for kind in Kind if not kind.is_walk_in)
    how = Draw(stage=(0.6, 0.75), kinds=comfort)
    cases = list(draw_cases(150, np.random.default_rng(27), how, [frozenset()] * 150))
    assert len(cases) > 100

    def accused(sheets):
        return sum(assess(one).first.causes[0].fault is not Fault.NONE for one in sheets) / len(cases)

    assert accused(case.sheet for case in cases) < 0.12  # 0.33 where the full stage is expected of them; see docs/accuracy.md
    silent = [replace(case.sheet, readings=tuple(replace(one, stage=None) for one in case.sheet.readings)) for case in cases]
    by_card = [replace(one, unit=replace(one.unit, compressor_control=CompressorControl.TWO_STAGE)) for one in silent]
    assert accused(by_card) < 0.15


def test_priors_and_pairs_are_whole():
    assert sum(prior_shares().values()) == pytest.approx(1)
    assert np.exp(LOG_PRIOR).sum() == pytest.approx(1)
    assert HYPOTHESES[0].faults == ()
    assert not any({a, b} == {Fault.UNDERCHARGE, Fault.OVERCHARGE} for a, b in PAIRS)


@pytest.mark.parametrize("heating", [False, True])
def test_every_sight_is_a_probability_under_every_hypothesis(heating):
    for what in SIGHTS:
        chances = log_chances(what, heating, False)
        if chances is None:
            assert what not in SIGHT_MODELS
            continue
        yes, no = (np.exp(part) for part in chances)
        assert yes + no == pytest.approx(1)
        assert (yes > 0).all()
        assert (no > 0).all()


def test_answers_carry_what_they_were_made_by():
    found = answer(sheet(TXV, **HEALTHY))
    assert (found["rule_set"], found["calibration"]) == (RULE_SET, CALIBRATION_ID)
    assert RULE_SET in JUDGED_BY
    assert CALIBRATION_ID in JUDGED_BY
    assert json.dumps(found) == json.dumps(answer(sheet(TXV, **HEALTHY)))


def test_words_for_probabilities_cover_everything_once():
    assert LIKELIHOODS[-1][0] == 0
    assert [least for least, _ in LIKELIHOODS] == sorted((least for least, _ in LIKELIHOODS), reverse=True)


def test_sentences_name_the_expected_number_and_its_reading():
    found = judged(sheet(ORIFICE, AIR_PROVEN, **STARVED)).first
    leading = found.causes[0]
    assert leading.fault in CHARGE_FAULTS
    assert {"superheat", "evaporator_td"} & {item.source for item in leading.evidence_for}
    assert all("{" not in item.phrase.read(Reader("C", "bar")) for cause in found.causes for item in cause.evidence_for)


_values = {name: value for name, value in (HEALTHY | {"discharge_line_temp": 168.0}).items() if "pressure" not in name}


@settings(max_examples=80)
@given(
    st.dictionaries(st.sampled_from(sorted(_values)), st.floats(-25.0, 25.0), max_size=8),
    st.sampled_from([TXV, ORIFICE, {"metering": None}]),
    st.floats(40.0, 250.0),
    st.floats(200.0, 550.0),
)
def test_any_numbers_weigh_to_probabilities(changes, unit, suction, liquid):
    values = {name: _values[name] + change for name, change in changes.items()}
    values |= {"suction_pressure": suction, "liquid_pressure": liquid}
    view = judged(sheet(unit, {}, **values)).first.view if "return_air_wet_bulb" not in values else None
    if view is None:
        return
    found = weigh(view, derive(view))
    assert found.weights.sum() == pytest.approx(1)
    assert np.isfinite(found.weights).all()
    assert all(0 <= found.probability(fault) <= 1 for fault in Fault)


def test_a_walk_in_needs_no_split():
    found = answer(sheet({"kind": "walk_in_cooler", "refrigerant": "R-448A"}, AIR_PROVEN, **WALK_IN))
    assert "air_split_f" not in found["targets"]
    assert found["next_checks"]


@pytest.mark.parametrize("wrong", TRIPLES, ids=lambda wrong: "-".join(wrong))
def test_three_faults_at_once_are_all_named(wrong):
    """Both coils dirty and the charge wrong: each hides the others, and none of them is enough."""
    chance = np.random.default_rng(2_611_301)
    cases = list(draw_cases(80, chance, Draw(), [frozenset(wrong)] * 80))
    named = [{cause.fault for cause in assess(case.sheet).first.causes[:3]} == set(wrong) for case in cases]
    assert len(named) > 40
    assert np.mean(named) > 0.85  # 0.96 of 404 drawn, and 0.72 of them without hypotheses of three

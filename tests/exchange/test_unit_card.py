"""A unit card as people fill it in, there and back, in either person's units."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dry_gauge.core.errors import Refused
from dry_gauge.exchange.reading_sheet import unit_from
from dry_gauge.exchange.sheet_json import UnitJson
from dry_gauge.exchange.unit_card import facts_from_form, form_from_facts
from dry_gauge.web.typed import parse_number

CARD = {"kind": "split_ac", "refrigerant": "R-410A"}


@given(
    grams=st.floats(50, 40_000),
    subcooling=st.floats(0.5, 30),
    box=st.floats(-40, 70),
    celsius=st.booleans(),
    kilograms=st.booleans(),
)
def test_a_card_comes_back_as_it_was_within_what_the_form_shows(grams, subcooling, box, celsius, kilograms):
    facts = {**CARD, "label_charge_g": grams, "target_subcooling_f": subcooling, "design_box_temp_f": box}
    back = facts_from_form(form_from_facts(facts, celsius, kilograms), celsius, parse_number)
    # The form shows tenths of an ounce, six digits of a kilogram, and tenths of a degree.
    assert back["label_charge_g"] == pytest.approx(grams, abs=1.5)
    assert back["target_subcooling_f"] == pytest.approx(subcooling, abs=0.1)
    assert back["design_box_temp_f"] == pytest.approx(box, abs=0.1)


def test_decimal_pounds_are_pounds_and_ounces_beside_them_are_ounces():
    # 6.7 lb is 6 lb 11.2 oz; the pound is 453.59237 g by definition.
    decimal = facts_from_form({**CARD, "charge_lb": "6.7"}, False, parse_number)
    both = facts_from_form({**CARD, "charge_lb": "6", "charge_oz": "11.2"}, False, parse_number)
    assert decimal["label_charge_g"] == both["label_charge_g"] == pytest.approx(6.7 * 453.59237, abs=0.05)


@pytest.mark.parametrize("celsius", [False, True])
def test_what_is_written_in_another_unit_is_that_unit(celsius):
    gauge = "barg" if celsius else "psig"
    written = {
        "charge_lb": "6 lb 4 oz",
        "design_box_temp": "3 C",
        "target_subcooling": "6 K",
        "high_pressure_cutout": "42 bar",
        "low_pressure_cutout": "5 psig",
        "discharge_limit": "225 F",
        "rated_load_amps": "16.2 A",
        "elevation_m" if celsius else "elevation_ft": "1600 m",
    }
    facts = facts_from_form(CARD | {"charge_oz": "", "charge_kg": ""} | written, celsius, parse_number, gauge)
    assert facts["label_charge_g"] == pytest.approx(2835, abs=0.1)
    assert (facts["design_box_temp_f"], facts["target_subcooling_f"]) == (pytest.approx(37.4), pytest.approx(10.8))
    assert (facts["high_pressure_cutout_psig"], facts["low_pressure_cutout_psig"]) == (pytest.approx(609.16, abs=0.01), 5)
    assert (facts["discharge_limit_f"], facts["rated_load_amps"]) == (225, 16.2)
    assert facts["elevation_ft"] == pytest.approx(5249.3, abs=0.05)
    with pytest.raises(Refused, match="Ounces stand in both"):
        facts_from_form(CARD | {"charge_lb": "6 lb 4 oz", "charge_oz": "4"}, celsius, parse_number, gauge)
    for name, typed in (
        ("high_pressure_cutout", "42 A"),
        ("rated_load_amps", "16 V"),
        ("seer", "14 EER"),
        ("design_box_temp", "3 m"),
        ("target_superheat", "9 psi"),
        ("charge_lb", "6 feet"),
        ("maker_chart", "95 75 130 410F"),
    ):
        with pytest.raises(Refused) as refusal:
            facts_from_form(CARD | {name: typed}, celsius, parse_number, gauge)
        assert refusal.value.path == name


@pytest.mark.parametrize(
    ("text", "celsius", "row"),
    [
        (
            "95 67wb 123 410 12",
            False,
            {"outdoor_f": 95, "indoor_f": 67, "indoor_is": "wet_bulb", "suction_psig": 123, "head_psig": 410, "superheat_f": 12},
        ),
        ("35; 19.5 WB; -; -; 5", True, {"outdoor_f": 95, "indoor_f": 67.1, "indoor_is": "wet_bulb", "superheat_f": 9}),
        ("47 70 98 318", False, {"outdoor_f": 47, "indoor_f": 70, "suction_psig": 98, "head_psig": 318}),
    ],
)
def test_a_makers_chart_says_by_which_bulb_it_goes_and_comes_back_so(text, celsius, row):
    facts = facts_from_form(CARD | {"maker_chart": text}, celsius, parse_number)
    assert facts["maker_chart"] == [row]
    again = form_from_facts(facts, celsius=celsius, kilograms=False)
    assert facts_from_form(CARD | {"maker_chart": again["maker_chart"]}, celsius, parse_number)["maker_chart"] == [row]
    kept = unit_from(UnitJson.model_validate(facts, strict=False)).maker_chart[0]
    assert kept.by_wet_bulb is ("indoor_is" in row)


@pytest.mark.parametrize(
    ("text", "words"), [("95 67wb 410 123", "swapped"), ("95 67wb 123", "a dash"), ("95 - 123 410", "needs outdoor and indoor")]
)
def test_a_slip_in_a_makers_chart_is_named_with_its_line(text, words):
    with pytest.raises(Refused, match=words) as refusal:
        facts_from_form(CARD | {"maker_chart": f"65 57wb 110 290\n{text}"}, False, parse_number)
    assert (refusal.value.path, "Line 2" in refusal.value.message) == ("maker_chart", True)


def test_what_is_left_empty_is_unknown_not_nought():
    assert facts_from_form({**CARD, "seer": " ", "charge_lb": "", "metering": ""}, False, parse_number) == CARD


@pytest.mark.parametrize(
    ("text", "row"),
    [
        ("2  6 lb 2 oz", {"circuit": 2, "label_charge_g": 2778.3}),
        ("3: 2.8 kg R407C", {"circuit": 3, "label_charge_g": 2800.0, "refrigerant": "R-407C"}),
        ("2 R-22", {"circuit": 2, "refrigerant": "R-22"}),
        ("2", {"circuit": 2}),
    ],
)
def test_more_circuits_come_back_as_they_were(text, row):
    facts = facts_from_form({"kind": "package_ac", "refrigerant": "R-410A", "more_circuits": text}, False, parse_number)
    assert facts["more_circuits"] == [row]
    again = form_from_facts(facts, celsius=False, kilograms=True)
    assert facts_from_form(again, False, parse_number)["more_circuits"] == [row]
    own = unit_from(UnitJson.model_validate(facts, strict=False)).of_circuit(row["circuit"])
    assert own.refrigerant.name == row.get("refrigerant", "R-410A")
    assert own.label_charge_kg == (pytest.approx(row["label_charge_g"] / 1000) if "label_charge_g" in row else None)


@pytest.mark.parametrize(
    ("text", "reason"),
    [
        ("1  6 lb", "2 to 8"),
        ("26 lb", "2 to 8"),
        ("2 6 lb\n2 7 lb", "twice"),
        ("2 R-999", "R-999"),
        ("2 6.4 lb", "was 6 lb 4.0 oz"),
        ("2 lots", "Line 1"),
        ("2 17 kg extra", "Line 1"),
    ],
)
def test_circuits_that_cannot_be_are_refused_by_line(text, reason):
    with pytest.raises(Refused) as refusal:
        facts_from_form({"kind": "package_ac", "refrigerant": "R-410A", "more_circuits": text}, False, parse_number)
    assert reason in refusal.value.message
    assert refusal.value.path == "more_circuits"

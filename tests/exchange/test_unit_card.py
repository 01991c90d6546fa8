"""A unit card as people fill it in, there and back, in either person's units."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dry_gauge.exchange.unit_card import facts_from_form, form_from_facts
from dry_gauge.web.typed import parse_number

CARD = {"kind": "split_ac", "refrigerant": "R-410A"}


@given(
    grams=st.floats(50, 40_000), subcooling=st.floats(0.5, 30), box=st.floats(-40, 70), celsius=st.booleans(),
    kilograms=st.booleans(),
)  # fmt: skip
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


def test_what_is_left_empty_is_unknown_not_nought():
    assert facts_from_form({**CARD, "seer": " ", "charge_lb": "", "metering": ""}, False, parse_number) == CARD

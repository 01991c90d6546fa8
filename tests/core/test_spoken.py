"""Readings in words: understood, marked where they could be two things, or named as not understood."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dry_gauge.core.spoken import understood

UNITS = {"pressure": "psig", "temperature": "F", "current": "A"}


def heard(text: str) -> list[tuple[str, float, str]]:
    return [(one.quantity, one.value, one.unit) for one in understood(text, UNITS)[0]]


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("suction one eighteen", [("suction_pressure", 118, "psig")]),
        ("Suction line fifty two point five, liquid line 98", [("suction_line_temp", 52.5, "F"), ("liquid_line_temp", 98, "F")]),
        (
            "head three sixty five and outdoor is ninety degrees",
            [("liquid_pressure", 365, "psig"), ("outdoor_air_temp", 90, "F")],
        ),
        ("suction one hundred twenty psi", [("suction_pressure", 120, "psig")]),
        ("head three six five", [("liquid_pressure", 365, "psig")]),
        ("box minus four", [("box_air_temp", -4, "F")]),
        ("box air -10.5 F", [("box_air_temp", -10.5, "F")]),
        ("supply 12.8 C", [("supply_air_temp", 12.8, "C")]),
        ("suction 830 kPa", [("suction_pressure", 830, "kPag")]),
        ("compressor eleven point four amps", [("compressor_amps", 11.4, "A")]),
        ("wet bulb sixty three\nreturn seventy six", [("return_air_wet_bulb", 63, "F"), ("return_air_temp", 76, "F")]),
        ("discharge line two hundred", [("discharge_line_temp", 200, "F")]),
        ("head two oh five", [("liquid_pressure", 205, "psig")]),
    ],
)
def test_as_it_is_said_on_a_roof(text, expected):
    assert heard(text) == expected


def test_what_can_be_two_things_says_so():
    (one,), _ = understood("compressor nine two", UNITS)
    assert (one.value, one.doubt) == (92, "or 9.2?")


@pytest.mark.parametrize(
    "text", ["hello there", "suction", "suction lots", "head five hundred hundred eleven twelve", "outdoor x1"]
)
def test_what_is_not_understood_is_named_not_guessed(text):
    found, lost = understood(text, UNITS)
    assert found == ()
    assert lost


@given(st.text(max_size=200))
def test_any_words_are_answered(text):
    found, _ = understood(text, UNITS)
    assert all(one.value == one.value for one in found)


@pytest.mark.parametrize(
    ("text", "values", "lost"),
    [
        ("suction 118 superheat 12 liquid line 98", {"suction_pressure": 118, "liquid_line_temp": 98}, ("superheat 12",)),
        ("outdoor ninety, 450 microns", {"outdoor_air_temp": 90}, ("450", "microns")),
        ("head three sixty five and rising fast", {"liquid_pressure": 365}, ("rising fast",)),
    ],
)
def test_what_is_not_understood_takes_nothing_with_it(text, values, lost):
    found, left = understood(text, UNITS)
    assert {one.quantity: one.value for one in found} == values
    assert left == lost

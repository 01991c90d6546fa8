"""Photos of labels through the text recognizer: upright, on its side, past reading, and with a bar code."""

from __future__ import annotations

import pytest

from dry_gauge.core.label_text import fields_in
from dry_gauge.demo.plates import COOLER, plate
from dry_gauge.exchange.label_photo import codes_on, seen_on


@pytest.mark.parametrize("askew", [1.5, -3, 90])
def test_a_label_is_read_however_it_was_held(askew):
    seen = seen_on(plate(COOLER, askew=askew))
    found = {field.name: field.text for field in fields_in(seen.words, seen.codes, 2026)}
    assert seen.turned == (90 if askew == 90 else 0)
    assert found["model"] == "CH-05M"
    assert found["refrigerant"] == "R-134a"
    assert found["charge"] == "5 lb 8 oz"


def test_a_label_past_reading_gives_nothing():
    seen = seen_on(plate(COOLER, unsharp=7))
    assert fields_in(seen.words, seen.codes, 2026) == ()


def test_spanish_and_a_bar_code():
    lines = ((("MODELO  CP-060-3H",), 44), (("N° DE SERIE  G1702114",), 44), (("CARGA 4,20 kg  R-410A",), 44))
    photo = plate(lines, code="G1702114")
    seen = seen_on(photo)
    found = {field.name: field for field in fields_in(seen.words, seen.codes, 2026)}
    assert codes_on(photo) == ("G1702114",)
    assert (found["serial"].text, found["serial"].sure) == ("G1702114", 1.0)
    assert found["charge"].text == "4.20 kg"

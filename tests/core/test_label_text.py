"""What words on a label say: their order and language, what is mixed up, lost or said twice."""

from __future__ import annotations

import pytest

from dry_gauge.core.label_text import Box, Code, Word, fields_in


def words(*lines: str, sure: float = 0.95) -> list[Word]:
    """Lines one below another, each word ten pixels a letter wide."""
    found = []
    for row, line in enumerate(lines):
        left = 0
        for text in line.split():
            found.append(Word(text, sure, Box(left, row * 40, left + 10 * len(text), row * 40 + 20), row))
            left += 10 * len(text) + 10
    return found


def read(*lines: str, codes=(), sure: float = 0.95) -> dict[str, str]:
    return {field.name: field.text for field in fields_in(words(*lines, sure=sure), codes, 2026)}


@pytest.mark.parametrize(
    ("line", "name", "text"),
    [
        ("MODEL NO. NL4A-036-H30", "model", "NL4A-036-H30"),
        ("MODELO CP-060-3H N° DE SERIE G1702114", "serial", "G1702114"),
        ("M/N PP30-16 S/N PA23 200761", "serial", "PA23 200761"),
        ("MODEL No, CH-05M", "model", "CH-05M"),
        ("REFRIGERANT R-41OA", "refrigerant", "R-410A"),
        ("HFC-32 A2L", "refrigerant", "R-32"),
        ("FACTORY CHARGE 7 LBS. 4 OZ", "charge", "7 lb 4 oz"),
        ("CHARGE 7LBS40Z", "charge", "7 lb 4 oz"),
        ("CHARGE R-454B 114 OZ", "charge", "114 oz"),
        ("CARGA 4,20 kg", "charge", "4.20 kg"),
        ("COMPRESSOR R.L.A. 16.7 LRA 79", "rated_load_amps", "16.7"),
        ("COOLING 36000 BTU/H", "size", "36000 Btu/h"),
        ("FECHA DE FABRICACION 2017", "made_year", "2017"),
        ("FABRICADO POR CLIMA DEL PUERTO", "maker", "Clima Del Puerto"),
    ],
)
def test_a_line_of_a_label_is_understood(line, name, text):
    assert read(line)[name] == text


@pytest.mark.parametrize(
    "line", ["MODEL", "SERIAL NO.", "R-999", "CHARGE SEE COMPRESSOR", "DATE 2199", "THE SERIES OF 3", "HIGH 450 PSIG"]
)
def test_what_is_not_there_is_not_made_up(line):
    assert read(line) == {}


def test_a_table_has_its_values_below_their_names():
    assert read("MODEL", "PKA-090-VTC") == {"model": "PKA-090-VTC"}


def test_the_least_sure_word_speaks_for_its_field():
    seen = [*words("MODEL NO."), Word("CH-05", 0.45, Box(100, 0, 150, 20), 0)]
    (field,) = fields_in(seen, (), 2026)
    assert (field.sure, field.word, field.box.left) == (0.45, "hardly read", 100)


def test_letters_that_look_like_digits_are_named_where_they_meet():
    (field,) = fields_in(words("SERIAL 1914FO8B55"), (), 2026)
    assert field.word == "look twice"
    assert "0 or O" in field.compare
    assert fields_in(words("MODEL PKA-090-VTC"), (), 2026)[0].compare == ()


def test_a_bar_code_corrects_what_looks_alike_and_no_more():
    code = Code("1914F08B55", Box(0, 0, 9, 9))
    (field,) = fields_in(words("SERIAL 1914FO8B55"), [code], 2026)
    assert (field.text, field.sure, field.compare) == ("1914F08B55", 1.0, ())
    assert read("SERIAL 2208K30911", codes=[code]) == {"serial": "2208K30911"}


def test_pounds_and_kilograms_of_one_label_check_one_another():
    same, other = words("CHARGE 7 LBS 4 OZ", "3.29 KG", sure=0.8), words("CHARGE 1 LBS 4 OZ", "3.29 KG")
    assert (fields_in(same, (), 2026)[0].word, fields_in(other, (), 2026)[0].word) == ("clear", "look twice")
    assert "3.29 kg" in fields_in(other, (), 2026)[0].compare[0]


def test_half_a_weight_and_a_lost_point_are_said():
    assert "before" in fields_in(words("CHARGE 7 185 4 OZ"), (), 2026)[0].compare[0]
    assert "decimal point" in fields_in(words("SEER 140"), (), 2026)[0].compare[0]

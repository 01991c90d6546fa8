"""Tables from other programs: any encoding and separator, refused lines named, and out as they came in."""

from __future__ import annotations

from types import SimpleNamespace

import pytest

from dry_gauge.core.errors import Refused
from dry_gauge.exchange.price_csv import prices_from, prices_to

GOOD = ("Code;Description;Tipo;Unidad;Precio;Existencia\nA-1;Válvula de expansión;part;each;1.234,50;3\n;;;;;\n"
        "L;Mano de obra;labour;hora;90;\n")  # fmt: skip


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "latin-1", "cp1252", "utf-16"])
def test_a_list_is_read_in_any_encoding(encoding):
    found, refused = prices_from(GOOD.encode(encoding), "USD")
    assert refused == []
    assert [(one.code, one.what, one.sort, one.per, one.cents, one.on_hand) for one in found] == [
        ("A-1", "Válvula de expansión", "part", "each", 123450, 3), ("L", "Mano de obra", "labor", "hour", 9000, None),
    ]  # fmt: skip


@pytest.mark.parametrize("separator", [",", ";", "\t", "|"])
def test_a_list_is_read_with_any_separator(separator):
    lines = [["part number", "name", "price"], ["A", 'a "quoted" name', "12.50"], ["B", "over\ntwo lines", "1"]]
    text = "\r\n".join(separator.join('"' + cell.replace('"', '""') + '"' for cell in line) for line in lines)
    found, _ = prices_from(text.encode(), "")
    assert [(one.what, one.cents) for one in found] == [('a "quoted" name', 1250), ("over\ntwo lines", 100)]


def test_what_is_refused_says_which_line_and_why():
    lines = ("code,what,sort,per,price,on_hand", "A,fine,part,each,5,", "B,no price,part,each,,", "A,again,part,each,6,",
             ",no code,part,each,5,", "C,odd sort,magic,each,5,", "D,odd per,part,furlong,5,", "E,minus,part,each,-5,",
             "F,euro,part,each,€5,", "G,stock,part,each,5,many", "H,off,discount,each,-5,")  # fmt: skip
    text = "\n".join(lines)
    found, refused = prices_from(text.encode(), "USD")
    assert [one.code for one in found] == ["A", "H"]
    assert [one.number for one in refused] == [3, 4, 5, 6, 7, 8, 9, 10]
    why = ("no price", "stands twice", "a code", "none of", "furlong", "discount", "currency", "number on hand")
    for one, says in zip(refused, why, strict=True):
        assert says in one.why


@pytest.mark.parametrize("raw", [b"", b"\n\n", b"hello", b"a;b;c\n1;2;3", b"\x00\x01\x02;\x03", b"PK\x03\x04\x14\x00;x",
                                 b'"' * 300_000])  # fmt: skip
def test_what_is_no_table_is_refused_in_words(raw):
    with pytest.raises(Refused) as refusal:
        prices_from(raw, "")
    assert refusal.value.path == "file"


def test_a_list_goes_out_and_in_again():
    listed = [SimpleNamespace(code="=A1", what="+ plus; \"x\"", sort="part", per="lb", cents=123456, on_hand=2),
              SimpleNamespace(code="D", what="off", sort="discount", per="each", cents=-50, on_hand=None)]  # fmt: skip
    written = prices_to(listed)
    assert "\n=A1" not in written  # no spreadsheet takes it for a formula
    found, refused = prices_from(written.encode(), "USD")
    assert refused == []
    again = [(one.code, one.what, one.cents, one.on_hand) for one in found]
    assert again == [("=A1", '+ plus; "x"', 123456, 2), ("D", "off", -50, None)]

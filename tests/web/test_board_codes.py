"""The shop's tables of board codes: typed, taken from a file, taken off; what visits read stands beside them."""

from __future__ import annotations

import re

import httpx2
import pytest
import uuid6

from tests.web.calls import PATIENCE_SECONDS, Browser
from tests.web.test_register import words


def add(browser, **fields: str):
    line = {"board": "Furnace board", "code": "3", "meaning": "Pressure switch open", **fields}
    return browser.post("/register/codes", False, **line)


def send_file(browser, path: str, raw: bytes):
    cookies = "; ".join(f"{name}={value}" for name, value in browser.cookies.items())
    return httpx2.post(
        f"{browser.base}{path}",
        data={"csrftoken": browser.token},
        files={"file": ("codes.csv", raw, "text/csv")},
        headers={"cookie": cookies},
        timeout=PATIENCE_SECONDS,
    )


def test_a_line_is_kept_changed_and_taken_off_and_the_station_knows_it(browser, shop):
    browser.get("/register/codes")
    assert add(browser, first_test="Hose and switch", latches="yes").status_code == 303
    shown = words(browser.get("/register/codes"))
    assert "Furnace board" in shown
    assert "Pressure switch open First: Hose and switch stays until it is reset never" in shown
    code = {"entry_id": str(uuid6.uuid7()), "kind": "code", "board": "FURNACE BOARD", "code": "3"}
    assert browser.post(f"/visits/{shop.visit}/entries", **code).status_code == 200
    assert "Pressure switch open" in words(browser.get(f"/visits/{shop.visit}?at=controls"))
    assert "once on 1 unit" in words(browser.get("/register/codes"))
    assert add(browser, board="furnace board", meaning="Draft lost").status_code == 303
    shown = words(browser.get("/register/codes"))
    assert "Draft lost" in shown
    assert "Pressure switch open" not in shown
    assert browser.post("/register/codes", False, board="Furnace board", drop="3").status_code == 303
    assert "nobody has said yet once on 1 unit" in words(browser.get("/register/codes"))
    again = browser.post("/register/codes", False, board="Furnace board", drop="3")
    assert (again.status_code, "no such line any more" in words(again)) == (422, True)


@pytest.mark.parametrize(
    ("fields", "said"),
    [
        ({"board": " "}, "which board"),
        ({"code": ""}, "the code"),
        ({"meaning": ""}, "what it means"),
        ({"meaning": "x" * 201}, "at most 200"),
        ({"board": "b" * 61}, "at most 60"),
        ({"latches": "perhaps"}, "neither yes nor no"),
    ],
)
def test_what_is_missing_or_too_long_is_said_and_nothing_typed_is_lost(browser, fields, said):
    browser.get("/register/codes")
    answer = add(browser, first_test="Feel the hose", **fields)
    assert (answer.status_code, said in words(answer)) == (422, True)
    assert 'value="Feel the hose"' in answer.text
    assert "Feel the hose" not in words(browser.get("/register/codes"))


def test_a_file_is_looked_at_before_it_is_taken_and_comes_out_again(browser):
    browser.get("/register/codes")
    add(browser, board="Roof board", code="2-1", meaning="Low voltage")
    table = (
        "Board;Code;Meaning;First test;Latches\r\nRoof board;2-1;Supply below 200 V;Measure it;no\r\n"
        "Roof board;=4;High pressure;;yes\r\n;5;Nothing;;\r\nRoof board;2-1;Twice;;\r\n"
    )
    looked = send_file(browser, "/register/codes/file", table.encode())
    assert "1 new, 1 changed, 0 as they are, 2 refused" in words(looked)
    assert "Low voltage" in words(browser.get("/register/codes"))
    raw = re.search(r'name="raw" value="([^"]+)"', looked.text)[1]
    assert browser.post("/register/codes/file", False, raw=raw, take="yes").status_code == 303
    shown = words(browser.get("/register/codes"))
    assert "Supply below 200 V" in shown
    text = browser.get("/register/codes.csv").text
    assert "Roof board,'=4,High pressure,,yes" in text
    again = send_file(browser, "/register/codes/file", text.encode())
    assert "0 new, 0 changed" in words(again)
    wrong = send_file(browser, "/register/codes/file", b"\xff\x00\x01")
    assert wrong.status_code == 422


def test_who_reads_or_helps_keeps_no_tables(server, shop):
    for role in ("read_only", "helper"):
        other = Browser(server)
        other.sign_in(shop.logins[role])
        assert "Technicians and leads keep the tables" in words(other.get("/register/codes"))
        assert add(other).status_code == 403

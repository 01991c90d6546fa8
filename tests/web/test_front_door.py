"""What works without signing in: the pocket's tools and one sheet. Nothing is kept, and nothing of a shop is reachable."""

from __future__ import annotations

import pytest

from tests.web.calls import Browser

SHORT = {"kind": "split_ac", "refrigerant": "R-410A", "metering": "txv", "label": "10", "outdoor_air_temp": "90",
         "return_air_temp": "76", "return_air_wet_bulb": "63", "supply_air_temp": "60", "suction_pressure": "95",
         "suction_line_temp": "55", "liquid_pressure": "300", "liquid_line_temp": "94", "settled": "yes",
         "evaporator_air_proven": "yes", "condenser_air_proven": "yes"}  # fmt: skip


def asked(stranger, path, **fields):
    return stranger.get(f"{path}?" + "&".join(f"{name}={value.replace(' ', '%20')}" for name, value in fields.items()))


@pytest.fixture
def stranger(server):
    return Browser(server)


def test_a_tool_answers_without_scripts_and_without_signing_in(stranger):
    page = asked(stranger, "/pocket/capacitor", amps="8.5", volts="376", rated="60", hertz="60")
    assert page.status_code == 200
    assert "60.0 µF" in page.text
    assert "100 %" in page.text
    assert "Sign in" in page.text
    assert "Keep it in" not in page.text


def test_a_stranger_reads_the_pocket_in_the_units_of_its_address(stranger):
    page = asked(stranger, "/pocket/nitrogen", units="C bar", pressure="24", then="32", now="1")
    assert "21.46 barg" in page.text
    assert "Temperature then, °C" in page.text
    assert "psig" not in page.text.split("</head>")[1].split('class="pocket-tools"')[1].replace('data-unit="psig"', "")
    assert "Type a gauge pressure" in asked(stranger, "/pocket", units="R furlong").text


@pytest.mark.parametrize(
    ("tool", "fields", "words"),
    [
        ("superheat", {"wet_bulb": "63", "outdoor": "40"}, "outdoor air below 55 °F"),
        ("weight", {"pounds": "abc"}, "not a number"),
        ("thermistor", {"curve": "none", "ohms": "9"}, "Choose one"),
        ("saturation", {"refrigerant": "R-410A", "pressure": "9000"}, "outside the R-410A table"),
        ("belt", {"motor_rpm": "1750", "motor_pitch": "-3", "blower_pitch": "7"}, "Above nothing"),
        ("imbalance", {"l1_l2": "9999999999", "l2_l3": "1", "l3_l1": "1"}, "beyond any measure"),
    ],
)
def test_what_a_tool_cannot_answer_is_said(stranger, tool, fields, words):
    page = asked(stranger, f"/pocket/{tool}", **fields)
    assert page.status_code == 200
    assert words in page.text


def test_there_is_no_other_tool(stranger):
    assert stranger.get("/pocket/lottery").status_code == 404


def test_one_sheet_is_judged_and_nothing_is_kept(stranger, owner):
    from sqlalchemy import text

    def count():
        with owner.connect() as connection:
            return connection.execute(text("SELECT count(*) FROM entry")).scalar_one()

    before = count()
    page = asked(stranger, "/sheet", **SHORT)
    assert page.status_code == 200
    assert 'class="ladder"' in page.text
    assert "hort of charge" in page.text
    assert "Next check" in page.text
    in_c = asked(stranger, "/sheet", units="C bar", outdoor_air_temp="32", suction_pressure="8.0", suction_line_temp="12")
    assert "°C" in in_c.text
    assert "barg" in in_c.text
    assert count() == before


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"suction_pressure": "abc"}, "not a number"),
        ({"suction_pressure": "5000"}, "Suction"),
        ({"label": "400"}, "between 0 and 60"),
        ({"kind": "spaceship", "outdoor_air_temp": "90"}, "split AC"),
        ({"return_air_temp": "70", "return_air_wet_bulb": "95"}, "wet bulb"),
        ({"units": "R furlong"}, "One sheet"),
    ],
)
def test_an_odd_sheet_is_answered_beside_its_field(stranger, fields, words):
    page = asked(stranger, "/sheet", **fields)
    assert page.status_code == 200
    assert words in page.text
    for value in fields.values():
        assert value in page.text or value in ("spaceship", "R furlong")  # nothing typed is lost


def test_a_stop_line_stands_there_too(stranger):
    page = asked(stranger, "/sheet", **SHORT | {"liquid_pressure": "620", "liquid_line_temp": "130"})
    assert "Stop" in page.text
    assert "mark-stop" in page.text


def test_whoever_is_signed_in_keeps_a_result_in_an_open_visit(browser):
    page = browser.get("/pocket")
    assert "Keep it in" in page.text
    assert "Board" in page.text

"""The open formats: what is refused in which words, and the command line, tested from outside."""

from __future__ import annotations

import csv
import io
import json
import subprocess
import sys

import jsonschema
import pytest

from dry_gauge.cli import main
from dry_gauge.core.errors import Refused
from dry_gauge.exchange.reading_sheet import parse_sheet
from dry_gauge.exchange.sheet_json import json_schema
from tests.builders import HEALTHY, TXV, answer, reading, sheet

_AIRFLOW = {"quantity": "airflow", "value": 1200, "unit": "cfm"}


def changed(path: str, value: object) -> str:
    """A good sheet with one thing changed, as text."""
    document = sheet(TXV, {"filter_dirty": "no"}, **HEALTHY)
    spot = document
    *steps, last = path.split("/")
    for step in steps:
        spot = spot[int(step)] if isinstance(spot, list) else spot[step]
    spot[int(last) if isinstance(spot, list) else last] = value
    return json.dumps(document)


@pytest.mark.parametrize(
    ("text", "path", "words"),
    [
        ("", "", "not JSON"),
        ("{", "", "not JSON"),
        ("[]", "", "object"),
        ('"\\ud800"', "", "JSON"),
        (changed("colour", 1), "colour", "not a known field"),
        (changed("unit/seeer", 14), "unit.seeer", "seer"),
        (changed("unit/maker_chart", [{"outdoor_f": 95, "indoor_f": 67, "hed": 400}]), "unit.maker_chart[0].hed", "head_psig"),
        (
            changed("earlier", [{"date": "2026-05-02", "readings": [_AIRFLOW | {"minuts": 3}]}]),
            "earlier[0].readings[0].minuts",
            "minutes",
        ),
        (changed("version", 2), "version", "must be 1"),
        (changed("format", "other"), "format", "dry-gauge/reading-sheet"),
        (changed("unit/kind", "split"), "unit.kind", "split_ac"),
        (changed("unit/refrigerant", "R-411B"), "unit.refrigerant", "not a refrigerant"),
        (changed("unit/mode", "heating"), "unit.mode", "heat pump"),
        (changed("unit/seer", -3), "unit.seer", "greater than 0"),
        (changed("unit/elevation_ft", 90000), "unit.elevation_ft", "less than"),
        (changed("readings/0/quantity", "suction_presure"), "readings[0].quantity", "suction_pressure"),
        (changed("readings/0/unit", "F"), "readings[0].unit", "psig"),
        (changed("readings/0/unit", "torr"), "readings[0].unit", "psig"),
        (changed("readings/0/value", "128"), "readings[0].value", "a number"),
        (changed("readings/0/value", True), "readings[0].value", "a number"),
        (changed("readings/0/value", None), "readings[0].value", "a number"),
        (changed("readings/0/value", float("nan")), "readings[0].value", "finite"),
        (changed("readings/0/value", float("inf")), "readings[0].value", "finite"),
        (changed("readings/0/value", 1e9), "readings[0].value", "1,500 psig"),
        (changed("readings/0/value", -15), "readings[0].value", "zero or less"),
        (changed("readings/0/value", -14.6959), "readings[0].value", "next to nothing"),
        (changed("readings/2/value", 3650), "readings[2].value", "decimal point"),
        (changed("readings/1/value", -500), "readings[1].value", "absolute zero"),
        (changed("readings/1/value", 1e9), "readings[1].value", "beyond anything"),
        (changed("readings/0/accuracy", -1), "readings[0].accuracy", "greater than or equal to 0"),
        (changed("readings/0/circuit", 0), "readings[0].circuit", "greater than or equal to 1"),
        (changed("readings/6/value", 81.5), "readings[6].value", "wet bulb is above"),
        (changed("observations/0/what", "filter_dirt"), "observations[0].what", "filter_dirty"),
        (changed("observations/0/state", "maybe"), "observations[0].state", "not_seen"),
        (changed("readings/0", reading("return_air_rh", 103.5)), "readings[0].value", "0 to 103"),
        (changed("readings", [reading("suction_pressure", 120.0)] * 501), "readings", "500"),
        (
            changed("earlier", [{"date": "2026-05-02", "proven": True, "readings": [reading("suction_pressure", -15.0)]}]),
            "earlier[0].readings[0].value",
            "zero or less",
        ),
        (changed("earlier", [{"date": "last May"}]), "earlier[0].date", "match"),
        (changed("earlier", [{"date": "2026-05-02"}] * 13), "earlier", "12"),
        (changed("unit", None), "unit", "object"),
        (changed("minutes_running", -1), "minutes_running", "greater than or equal to 0"),
    ],
)
def test_a_bad_sheet_is_refused_in_one_sentence(text, path, words):
    from dry_gauge.core.judgement.assess import assess

    with pytest.raises(Refused) as caught:
        assess(parse_sheet(text))
    assert words in caught.value.message + " ".join(caught.value.nearest)
    assert caught.value.path == path
    assert "\n" not in caught.value.message


def test_null_is_the_same_as_left_out():
    document = sheet(TXV, **HEALTHY)
    short = json.loads(json.dumps(document))
    document["unit"] |= {"mode": None, "receiver": None, "elevation_ft": None, "evaporator_class": None}
    document["schools"] = None
    assert answer(document) == answer(short)
    assert answer(document)["assumed"] == ["elevation_ft"]


def test_the_published_schema_accepts_what_is_answered_and_not_what_is_refused():
    schema = json_schema()
    jsonschema.validate(sheet(TXV, {"filter_dirty": "no"}, **HEALTHY), schema)
    for path, value in (("readings/0/value", "128"), ("readings/0/quantity", "x"), ("colour", 1)):
        with pytest.raises(jsonschema.ValidationError):
            jsonschema.validate(json.loads(changed(path, value)), schema)


@pytest.mark.parametrize(
    ("unit", "values"),
    [
        ({"kind": "split_ac"}, HEALTHY),
        ({"kind": "package_ac", "metering": "orifice"}, HEALTHY),
        ({"kind": "split_heat_pump", "mode": "heating"}, {"outdoor_air_temp": 40.0, "return_air_temp": 70.0}),
        ({"kind": "package_heat_pump", "mode": "cooling"}, HEALTHY),
        ({"kind": "walk_in_cooler", "refrigerant": "R-448A"}, {"box_air_temp": 40.0, "suction_pressure": 55.0}),
        ({"kind": "walk_in_freezer", "refrigerant": "R-404A"}, {"box_air_temp": -5.0, "suction_pressure": 15.0}),
    ],
)
def test_every_kind_and_mode_is_answered(unit, values):
    found = answer(sheet(unit, **values))
    assert found["format"] == "dry-gauge/assessment"
    assert found["rule_set"]
    assert found["next_checks"]


# -- command line -----------------------------------------------------------------


def run(*arguments: str, text: str = "") -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "dry_gauge.cli", *arguments], input=text, capture_output=True, text=True, check=False
    )


def test_assess_reads_standard_input_and_answers_json():
    done = run("assess", "-", text=json.dumps(sheet(TXV, **HEALTHY)))
    assert done.returncode == 0
    assert json.loads(done.stdout) == json.loads(json.dumps(answer(sheet(TXV, **HEALTHY))))


def test_assess_text_is_for_people(tmp_path, capsys):
    path = tmp_path / "sheet.json"
    path.write_text(json.dumps(sheet(TXV, **HEALTHY)))
    assert main(["assess", "--text", str(path)]) == 0
    assert "superheat_f" in capsys.readouterr().out


@pytest.mark.parametrize(
    "arguments",
    [("assess", "missing.json"), ("assess",), ("saturation", "R-22"), ("saturation", "R-22", "--pressure", "lots"), ("fly",)],
)
def test_a_wrong_call_is_one_line_and_status_2(arguments):
    done = run(*arguments)
    assert done.returncode == 2
    assert len(done.stderr.strip().splitlines()) == 1
    assert "Traceback" not in done.stderr


def test_a_refused_sheet_is_one_line_and_status_2():
    done = run("assess", "-", text=changed("readings/0/value", 1e9))
    assert (done.returncode, done.stdout) == (2, "")
    assert done.stderr.startswith("dry-gauge: readings[0].value: ")
    assert len(done.stderr.splitlines()) == 1


def test_batch_answers_in_order_and_keeps_line_numbers(tmp_path):
    good, bad = json.dumps(sheet(TXV, **HEALTHY)), changed("unit/kind", "split")
    source, target = tmp_path / "in.jsonl", tmp_path / "out.jsonl"
    source.write_bytes(f"{good}\n\n{bad}\n".encode() + b"\xff\xfe\n" + good.encode())
    done = run("assess", "--batch", str(source), "--out", str(target))
    lines = [json.loads(line) for line in target.read_text().splitlines()]
    assert done.returncode == 1
    assert [line["line"] for line in lines] == [1, 3, 4, 5]
    assert lines[0]["verdict"] == lines[3]["verdict"] == "held"
    assert lines[1] == {"line": 3, "error": lines[1]["error"], "path": "unit.kind", "nearest": lines[1]["nearest"]}
    assert "split_ac" in lines[1]["nearest"]
    assert "2 answered, 2 refused" in done.stderr
    assert sorted(path.name for path in tmp_path.iterdir()) == ["in.jsonl", "out.jsonl"]


def test_batch_through_standard_streams():
    done = run("assess", "--batch", "-", "--out", "-", text=json.dumps(sheet(TXV, **HEALTHY)) + "\n")
    assert done.returncode == 0
    assert json.loads(done.stdout)["line"] == 1


def test_batch_without_its_input_leaves_no_output(tmp_path):
    done = run("assess", "--batch", str(tmp_path / "none.jsonl"), "--out", str(tmp_path / "out.jsonl"))
    assert done.returncode == 2
    assert list(tmp_path.iterdir()) == []


def test_saturation_both_ways_and_as_a_table(capsys):
    assert main(["saturation", "R-448A", "--pressure", "71.2psig", "--json"]) == 0
    at = json.loads(capsys.readouterr().out)
    assert set(at) == {
        "refrigerant",
        "pressure_psig",
        "dew_f",
        "bubble_f",
        "mean_f",
        "evaporating_mean_f",
        "glide_f",
        "estimated",
    }
    assert at["mean_f"] == pytest.approx((at["dew_f"] + at["bubble_f"]) / 2)
    assert at["glide_f"] == pytest.approx(at["dew_f"] - at["bubble_f"])
    for arguments in (["--temperature=-40F"], ["--temperature", "-40"], ["--temperature", "-40C"]):
        assert main(["saturation", "R-22", *arguments, "--json"]) == 0
        assert json.loads(capsys.readouterr().out)["temperature_f"] == pytest.approx(-40)
    assert main(["saturation", "R-22", "--csv", "-40", "40", "20"]) == 0
    rows = list(csv.DictReader(io.StringIO(capsys.readouterr().out)))
    assert [row["temperature_f"] for row in rows] == ["-40", "-20", "0", "20", "40"]
    assert float(rows[-1]["dew_psig"]) == pytest.approx(68.56, abs=0.15)


def test_saturation_counts_the_barometer(capsys):
    dews = []
    for elevation in ("0", "5000"):
        main(["saturation", "R-134a", "--pressure", "20", "--elevation-ft", elevation, "--json"])
        dews.append(json.loads(capsys.readouterr().out)["dew_f"])
    assert dews[0] - dews[1] == pytest.approx(3.5, abs=0.1)  # domain rule: 3.5 F on R-134a at 20 psig

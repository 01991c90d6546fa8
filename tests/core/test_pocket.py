"""The pocket's tools: golden values, the same in Python and in the browser's own module; coefficients as the core has them."""

from __future__ import annotations

import json
import subprocess
from math import isfinite
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dry_gauge.core.controls.thermistor import CURVES, through
from dry_gauge.core.errors import OutOfRange, Refused
from dry_gauge.core.pocket import BY_NAME, REFRIGERANTS, TOOLS, read_values
from dry_gauge.core.pocket_units import answers_shown, chosen, typed_values, unit_shown
from dry_gauge.core.words import Reader
from dry_gauge.web.render import STATIC
from scripts.make_pocket import TARGET, written
from tests.scripts.test_scripts import NODE

CASES = [
    *[("saturation", {"refrigerant": name, "pressure": "70", "temperature": "41", "elevation": "1200"}) for name in REFRIGERANTS
      if name not in ("R-744",)],
    ("saturation", {"refrigerant": "R-410A", "pressure": "118.2"}), ("saturation", {"temperature": "-12.5"}),
    ("superheat", {"wet_bulb": "64", "outdoor": "88"}), ("weight", {"pounds": "6", "ounces": "4.4"}),
    ("weight", {"kilograms": "2.9"}),
    ("line", {"refrigerant": "R-454B", "line": "3/8", "length": "42", "included": "15"}),
    ("cylinder", {"refrigerant": "R-410A", "capacity": "47.7", "tare": "26.5"}),
    ("nitrogen", {"pressure": "350", "then": "88", "now": "61"}), ("capacitor", {"amps": "8.5", "volts": "376", "rated": "60"}),
    ("capacitor", {"amps": "1", "volts": "230", "hertz": "50"}),
    ("strips", {"amps": "41", "blower": "3", "volts": "236", "plate": "10", "plate_volts": "240", "phases": "3"}),
    ("imbalance", {"l1_l2": "220", "l2_l3": "215", "l3_l1": "210"}),
    ("heat", {"watts": "9600", "rise": "28", "elevation": "5000"}),
    ("duct", {"width": "20", "height": "16", "velocity": "600"}), ("duct", {"width": "14", "velocity": "700"}),
    ("belt", {"motor_rpm": "1750", "motor_pitch": "3.25", "blower_pitch": "6.5", "centres": "20"}),
    ("thermistor", {"ohms": "7200", "temperature": "31"}), ("thermistor", {"curve": "10k type III", "ohms": "18000"}),
]  # fmt: skip


US, METRIC = Reader(), Reader("C", "bar", weight_unit="kg")


def answered(name, typed, reader=US):
    tool = BY_NAME[name]
    try:
        return answers_shown(tool, tool.answers(typed_values(tool, typed, reader)), reader)
    except (Refused, OutOfRange):
        return "refused"


def numbers(name, typed):
    return [one.value for one in answered(name, typed)]


@pytest.mark.parametrize("reader", [US, METRIC, Reader("F", "kPa")], ids=["US", "metric", "mixed"])
def test_python_and_the_browser_agree_to_a_millionth(reader):
    def one(name, typed):
        tool = BY_NAME[name]
        units = {field.name: field.unit for field in tool.fields}
        return [name, read_values(tool, typed), units, "" if tool.fixed else " ".join(chosen(reader))]

    code = (
        f"import {{ TOOLS, Refused, read, shownIn }} from {json.dumps(str(STATIC / 'scripts/pocket.js'))};"
        f"const asked = {json.dumps([one(name, typed) for name, typed in CASES])};"
        "console.log(JSON.stringify(asked.map(([name, values, units, reads]) => {"
        "  try { return shownIn(TOOLS[name](read(values, units, reads)), reads); }"
        "  catch (error) { if (error instanceof Refused) return 'refused'; throw error; } })));"
    )
    done = subprocess.run([NODE, "--input-type=module", "-e", code], capture_output=True, text=True, timeout=60)
    assert done.returncode == 0, done.stderr
    for (name, typed), theirs in zip(CASES, json.loads(done.stdout), strict=True):
        ours = answered(name, typed, reader)
        if ours == "refused" or theirs == "refused":
            assert theirs == ours, (name, typed)
            continue
        assert [row["value"] for row in theirs] == pytest.approx([row.value for row in ours], rel=1e-6, abs=1e-6), (name, typed)
        assert [(row["label"], row["unit"], row["decimals"]) for row in theirs] == [
            (row.label, row.unit, row.decimals) for row in ours
        ], (name, typed)


def test_a_metric_reader_types_and_reads_metric_units_in_every_tool():
    trade = {"psig", "psi", "°F", "ft", "in.", "cfm", "fpm", "lb", "oz", "ft²", "oz/ft"}
    for tool in TOOLS:
        if not tool.fixed:
            assert not {unit_shown(field.unit, tool, METRIC) for field in tool.fields} & trade, tool.name
    for name, typed in CASES:
        found = answered(name, typed, METRIC)
        assert found == "refused" or BY_NAME[name].fixed or not {one.unit for one in found} & trade, name
    # 24 bar of nitrogen at 31 degrees C is 21.6 bar at 1: 305.15 to 274.15 K, absolute.
    assert answered("nitrogen", {"pressure": "24", "then": "32", "now": "1"}, METRIC)[0].value == pytest.approx(21.46, abs=0.01)
    # A ton's 400 cfm is 680 m3/h: 9.6 kW over 15.6 K is about 1,840.
    assert answered("heat", {"watts": "9600", "rise": "15.56"}, METRIC)[0].value == pytest.approx(1840, rel=0.01)


def test_every_tool_has_a_golden_value_and_answers_it():
    assert {name for name, _ in CASES} == set(BY_NAME) == {tool.name for tool in TOOLS}
    assert sum(answered(name, typed) == "refused" for name, typed in CASES) < 10


def test_the_coefficients_are_the_core_s_own():
    assert TARGET.read_text() == written(), "Run scripts/make_pocket.py"


def test_what_the_roof_carries_is_small():
    import gzip

    both = (STATIC / "scripts/pocket.js").read_bytes() + Path(TARGET).read_bytes()
    assert len(gzip.compress(both)) < 40_000


def test_values_of_the_trade():
    # (3 x 64 - 80 - 88) / 2 = 12; a foot of 3/8 line holds about half an ounce of R-410A; 350 psig at 88 F is 332 at 61.
    assert numbers("superheat", {"wet_bulb": "64", "outdoor": "88"})[0] == pytest.approx(12)
    assert numbers("line", {"line": "3/8", "length": "1"})[0] == pytest.approx(0.52, abs=0.01)
    assert numbers("nitrogen", {"pressure": "350", "then": "88", "now": "61"})[0] == pytest.approx(332.0, abs=0.1)
    assert numbers("weight", {"kilograms": "0.45359237"}) == pytest.approx([1, 0, 1, 0.45359237], abs=1e-9)


def test_thermistors_go_through_their_points_and_back():
    for name, points in (("10k type II", ((0, 32_650), (25, 10_000), (50, 3_603))), ("10k type III", ((0, 29_490), (50, 3_893)))):
        for celsius, ohms in points:
            assert CURVES[name].temperature_k(ohms) - 273.15 == pytest.approx(celsius, abs=1e-6)
            assert CURVES[name].ohms(celsius + 273.15) == pytest.approx(ohms, rel=1e-9)
    for bad in ([(273, 10), (298, 10), (323, 10)], [(273, 100), (298, 200)], [(273, 100), (298, 200), (323, 5)]):
        with pytest.raises(Refused):
            through(bad)


@pytest.mark.parametrize("tool", TOOLS, ids=lambda tool: tool.name)
@given(data=st.data())
def test_absurd_numbers_are_answered_or_refused(tool, data):
    number = st.one_of(st.floats(-1e9 + 1, 1e9 - 1), st.sampled_from([0.0, -459.67, 1e-300, -1.0, 21_000.0, 8.9e8]))
    typed = {
        field.name: data.draw(st.sampled_from(field.choices) if field.choices else st.one_of(st.just(""), number.map(repr)))
        for field in tool.fields
    }
    try:
        answers = tool.answers(read_values(tool, typed))
    except (Refused, OutOfRange, ValueError) as refusal:
        assert str(refusal)
    else:
        assert all(isfinite(one.value) for one in answers), typed

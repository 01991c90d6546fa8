"""Whatever is sent: a refusal in a sentence, or an answer that keeps its promises. Never anything else."""

from __future__ import annotations

import json
from math import isfinite

from hypothesis import given, settings
from hypothesis import strategies as st

from dry_gauge.core.dimensions import units_of
from dry_gauge.core.errors import Refused
from dry_gauge.core.judgement.assess import assess
from dry_gauge.core.refrigerants.catalogue import CATALOGUE
from dry_gauge.core.vocabulary import (
    QUANTITIES,
    SIGHTS,
    CompressorControl,
    EvaporatorClass,
    Fault,
    HeadPressureControl,
    Kind,
    Metering,
)
from dry_gauge.core.words import Reader
from dry_gauge.drawing.fingerprint import fingerprint_svg
from dry_gauge.drawing.geometry import DESK, PHONE
from dry_gauge.drawing.ladder import ladder_svg
from dry_gauge.exchange.assessment import to_json, to_text
from dry_gauge.exchange.reading_sheet import parse_sheet

VERDICTS = {"healthy", "fault", "held", "not_enough"}


def maybe(strategy):
    return st.none() | strategy


def names(kind):
    return st.sampled_from([item.value for item in kind])


@st.composite
def readings(draw):
    quantity = QUANTITIES[draw(st.sampled_from(sorted(QUANTITIES)))]
    usual = {"pressure": st.floats(5, 500), "temperature": st.floats(-40, 220), "humidity": st.floats(0, 100)}
    return {
        "quantity": quantity.name,
        "value": draw(usual.get(quantity.dimension, st.floats(-2, 2000)) | st.floats(-1e4, 1e6)),
        "unit": draw(st.sampled_from(units_of(quantity.dimension)[:2])),
        "accuracy": draw(maybe(st.sampled_from([0, 0.5, 5]))),
        "minutes": draw(maybe(st.sampled_from([5, 14, 18]))),
        "circuit": draw(st.sampled_from([None, None, None, 1, 2])),
    }


sheets = st.fixed_dictionaries(
    {
        "unit": st.fixed_dictionaries(
            {
                "kind": names(Kind),
                "refrigerant": st.sampled_from([refrigerant.name for refrigerant in CATALOGUE]),
                "mode": st.sampled_from([None, "cooling", "heating"]),
                "metering": maybe(names(Metering)),
                "receiver": maybe(st.booleans()),
                "seer": maybe(st.floats(8, 24)),
                "nominal_capacity_btuh": maybe(st.sampled_from([1, 24_000, 60_000])),
                "target_subcooling_f": maybe(st.floats(-5, 30)),
                "target_superheat_f": maybe(st.floats(0, 30)),
                "evaporator_class": maybe(names(EvaporatorClass)),
                "head_pressure_control": maybe(names(HeadPressureControl)),
                "design_box_temp_f": maybe(st.floats(-40, 60)),
                "elevation_ft": maybe(st.floats(-1000, 12_000)),
                "compressor_control": maybe(names(CompressorControl)),
                "high_pressure_cutout_psig": maybe(st.floats(50, 700)),
                "low_pressure_cutout_psig": maybe(st.floats(-10, 60)),
                "discharge_limit_f": maybe(st.floats(150, 300)),
                "head_setting_f": maybe(st.floats(60, 110)),
            }
        ),
        "readings": st.lists(readings(), max_size=20),
        "observations": st.lists(
            st.fixed_dictionaries({"what": st.sampled_from(sorted(SIGHTS)), "state": st.sampled_from(["yes", "no", "not_seen"])}),
            max_size=8,
        ),
        "minutes_running": maybe(st.floats(0, 100)),
        "minutes_since_change": maybe(st.floats(0, 100)),
        "minutes_since_charge": maybe(st.floats(0, 100)),
        "minutes_since_defrost": maybe(st.floats(0, 100)),
    }
)


@settings(max_examples=400)
@given(sheets)
def test_any_sheet_is_refused_in_words_or_answered_in_full(document):
    try:
        assessment = assess(parse_sheet(json.dumps(document)))
    except Refused as refusal:
        assert refusal.message
        assert "\n" not in refusal.message
        return
    found = to_json(assessment)
    json.dumps(found, allow_nan=False)
    blocks = found.get("circuits", {"1": found})
    must_not_run = any(block["stop"] for block in blocks.values())
    for block in blocks.values():
        assert block["verdict"] in VERDICTS
        if block["stop"]:
            assert block["verdict"] != "healthy"
            assert block["next_checks"]
        if must_not_run:
            assert {check["unit"] for check in block["next_checks"]} <= {"off"}
        assert len(block["gates"]) == 6 + document["unit"]["kind"].startswith("walk_in") + (document["unit"]["mode"] != "heating")
        assert {cause["fault"] for cause in block["causes"]} == {fault.value for fault in Fault}
        assert all(0 <= cause["probability"] <= 1 for cause in block["causes"])
        for item in block["derived"].values():
            assert isfinite(item["value"])
            assert item["uncertainty"] >= 0
            assert set(item["from"]) <= {reading["quantity"] for reading in document["readings"]}
        for target in block["targets"].values():
            assert target["low"] < target["high"]
            assert target["source"]
        holding = {gate["gate"] for gate in block["gates"] if gate["holding"]}
        if block["verdict"] in ("healthy", "fault"):
            assert holding <= {"air_unproven"}
        if "ice_on_coil" in holding:
            assert block["next_checks"][0]["unit"] != "running"
        # Whatever was read can be drawn and told.
    assert to_text(assessment)
    for circuit in assessment.circuits.values():
        for size in (DESK, PHONE):
            assert ladder_svg(circuit, Reader("C", "bar"), size).startswith("<svg")
        assert fingerprint_svg(circuit, "t", ident="x").startswith("<svg")


@given(
    st.recursive(
        st.none() | st.booleans() | st.floats() | st.text(max_size=5),
        lambda inner: (
            st.lists(inner, max_size=3)
            | st.dictionaries(st.sampled_from(["unit", "kind", "readings", "observations", "x"]), inner, max_size=4)
        ),
    )
)
def test_any_json_at_all_is_refused_in_words(document):
    try:
        parse_sheet(json.dumps(document))
    except Refused as refusal:
        assert refusal.message


@given(st.binary(max_size=60))
def test_any_bytes_at_all_are_refused_in_words(raw):
    try:
        parse_sheet(raw)
    except Refused as refusal:
        assert refusal.message
    else:
        raise AssertionError("sixty random bytes are no reading sheet")

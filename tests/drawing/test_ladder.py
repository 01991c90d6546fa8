"""The ladder by its parts: rungs where temperatures are, bands where targets are, and words that never collide."""

from __future__ import annotations

import re
from itertools import pairwise
from xml.etree import ElementTree as ET

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dry_gauge.core.words import Reader
from dry_gauge.drawing.fingerprint import fingerprint_svg
from dry_gauge.drawing.geometry import DESK, PHONE, Geometry, fit
from dry_gauge.drawing.ladder import _Ladder, ladder_svg
from dry_gauge.drawing.placing import Box, RungLabel, Slot, free_place, label_tops
from dry_gauge.drawing.rungs import contents_of
from tests.builders import HEALTHY, ORIFICE, STARVED, TXV, WALK_IN, judged, sheet

SVG = "{http://www.w3.org/2000/svg}"
COOLER = {"kind": "walk_in_cooler", "refrigerant": "R-448A", "metering": "txv"}

# The awkward ones: crowded, off the scale, below zero, half read, and nothing at all.
CASES = {
    "healthy": sheet(TXV, **HEALTHY),
    "starved": sheet(ORIFICE, **STARVED),
    "walk-in with glide and two superheats": sheet(COOLER, **WALK_IN),
    "flat": sheet(TXV, **HEALTHY | {"suction_line_temp": 41.2, "liquid_line_temp": 108.6}),
    "negative": sheet(TXV, **HEALTHY | {"liquid_line_temp": 118.0, "suction_line_temp": 30.0}),
    "mild day": sheet(TXV, **HEALTHY | {"outdoor_air_temp": 72.0, "return_air_temp": 71.0, "liquid_pressure": 240.0,
                                        "liquid_line_temp": 78.0}),
    "hot discharge": sheet(TXV, **HEALTHY, discharge_line_temp=208.0),
    "every low rung": sheet(TXV, **HEALTHY, coil_outlet_temp=47.0, compressor_suction_temp=56.0),
    "half": sheet(TXV, suction_pressure=120.0, liquid_pressure=365.0, outdoor_air_temp=90.0, return_air_temp=76.0,
                  return_air_wet_bulb=63.0),
    "empty": sheet(TXV),
    "heating": sheet({"kind": "split_heat_pump", "mode": "heating"}, suction_pressure=85.0, suction_line_temp=32.0,
                     liquid_pressure=320.0, liquid_line_temp=90.0, outdoor_air_temp=40.0, return_air_temp=70.0,
                     supply_air_temp=96.0),
}  # fmt: skip
SIZES = {"desk": DESK, "phone": PHONE}


def circuit(document):
    return judged(document).first


def drawn(document, geometry: Geometry = DESK, reader: Reader | None = None):
    return ET.fromstring(ladder_svg(circuit(document), reader or Reader(), geometry))


def texts(root):
    return ["".join(item.itertext()) for item in root.iter(f"{SVG}text")]


@pytest.mark.parametrize("before", [None, "healthy", "starved"])
@pytest.mark.parametrize("size", SIZES)
@pytest.mark.parametrize("name", CASES)
def test_labels_plates_and_slots_never_cover_each_other(name, size, before):
    ghost = contents_of(circuit(CASES[before])) if before else None
    ladder = _Ladder(contents_of(circuit(CASES[name])), Reader(), SIZES[size], "t", ghost)
    words: list[Box] = []
    original = ladder.obstacles

    # Everything with words goes through `obstacles` as a box; marks (bars, stems, bands) are thinner than any word.
    ladder.draw()
    words = [box for box in original if box.height >= 28 and box.width >= 50 and box not in _zones(ladder)]
    assert name == "empty" or words
    for i, one in enumerate(words):
        assert one.x >= 0
        assert one.right <= SIZES[size].width + 1
        assert one.y >= 0
        assert one.bottom <= SIZES[size].height
        for other in words[i + 1 :]:
            assert not one.overlaps(other), (one, other)


def _zones(ladder):
    left_right = ladder.geometry.columns
    return [
        Box(
            left_right[m.column][0],
            ladder.scale.y(m.zone_k[1]),
            left_right[m.column][1] - left_right[m.column][0],
            ladder.scale.y(m.zone_k[0]) - ladder.scale.y(m.zone_k[1]),
        )
        for m in ladder.contents.missing
        if m.zone_k
    ]


def test_a_rung_stands_at_its_temperature_and_a_band_at_its_target():
    found = circuit(CASES["healthy"])
    contents = contents_of(found)
    scale = fit(contents, DESK)
    root = drawn(CASES["healthy"])
    bars = [float(line.get("y1")) for line in root.iter(f"{SVG}line") if line.get("class") == "bar low-mark"]
    suction_line = next(rung for rung in contents.rungs if rung.name == "suction_line_temp")
    assert bars == pytest.approx([scale.y(suction_line.temperature_k)], abs=0.01)
    gap = next(gap for gap in contents.gaps if gap.name == "subcooling")
    low_k, high_k = gap.band_k
    bands = [
        (float(rect.get("y")), float(rect.get("height")))
        for rect in root.iter(f"{SVG}rect")
        if "hatch" in (rect.get("fill") or "")
    ]
    assert any(
        y == pytest.approx(scale.y(high_k), abs=0.01) and height == pytest.approx(scale.y(low_k) - scale.y(high_k), abs=0.02)
        for y, height in bands
    )


def test_words_say_what_colour_says():
    assert any("long" in text for text in texts(drawn(CASES["starved"])))
    assert any("check probe" in text for text in texts(drawn(CASES["negative"])))
    assert sum(text == "right" for text in texts(drawn(CASES["healthy"]))) >= 4


def test_missing_readings_show_as_missing_and_where_they_would_land():
    shown = texts(drawn(CASES["half"]))
    assert "liquid line" in shown
    assert any(re.fullmatch(r"\d+ to \d+", text) for text in shown)
    assert "not read" in shown


def test_the_picture_is_told_in_words():
    root = drawn(CASES["healthy"])
    assert root.find(f"{SVG}title").text == "Temperature ladder"
    told = root.find(f"{SVG}desc").text
    assert "Superheat" in told
    assert "right" in told
    assert root.get("role") == "img"
    assert drawn(CASES["empty"]).find(f"{SVG}desc").text.startswith(("outdoor", "suction"))


def test_a_reader_in_celsius_sees_celsius():
    shown = texts(drawn(CASES["healthy"], reader=Reader("C", "kPa")))
    assert "32.2" in shown  # 90 F outdoors
    assert "°C" in shown


def test_hot_discharge_stands_above_a_break():
    root = drawn(CASES["hot discharge"])
    assert "208.0" in texts(root)
    assert any(path.get("class") == "axis-break" for path in root.iter(f"{SVG}path"))
    assert not any(path.get("class") == "axis-break" for path in drawn(CASES["healthy"]).iter(f"{SVG}path"))


def test_a_discharge_line_without_a_head_pressure_is_still_shown():
    root = drawn(sheet(TXV, suction_pressure=120.0, outdoor_air_temp=90.0, discharge_line_temp=171.0))
    assert "171.0" in texts(root)
    assert not any(text == "discharge" and "not read" in texts(root)[i + 1] for i, text in enumerate(texts(root)[:-1]))


def test_no_style_attribute_since_the_policy_blocks_it():
    text = ladder_svg(circuit(CASES["healthy"]), Reader())
    assert "style=" not in text
    assert "style=" not in fingerprint_svg(circuit(CASES["healthy"]), "t", ident="x")


@given(st.lists(st.floats(40, 500), max_size=7))
def test_rung_labels_fit_and_never_overlap(bars):
    tops = label_tops([RungLabel(bar, 35.0) for bar in bars], 30, 546)
    spans = sorted((top, top + 35) for top in tops)
    assert all(lower[0] >= upper[1] - 1e-6 for upper, lower in pairwise(spans))
    assert all(top >= 30 - 1e-6 and bottom <= 546 + 1e-6 for top, bottom in spans)


@settings(max_examples=200)
@given(
    st.lists(st.tuples(st.floats(0, 90), st.floats(0, 480), st.floats(5, 60), st.floats(5, 60)), max_size=12), st.floats(0, 500)
)
def test_a_free_place_touches_nothing_and_is_the_nearest(obstacles, wanted):
    boxes = [Box(*item) for item in obstacles]
    place = free_place(wanted, 80, 40, [Slot(10)], boxes, 0, 500, margin=0)
    if place is None:
        return
    assert not any(place.overlaps(box) for box in boxes)
    for y in range(0, 460, 7):  # nothing nearer on a coarse comb
        candidate = Box(10, float(y), 80, 40)
        if not any(candidate.overlaps(box) for box in boxes):
            assert abs(place.y + 20 - wanted) <= abs(candidate.y + 20 - wanted) + 1e-6


def test_fingerprints_compare_on_one_scale():
    cool, hot = (
        ET.fromstring(fingerprint_svg(circuit(sheet(TXV, **HEALTHY | {"outdoor_air_temp": outdoor})), "t", ident="x"))
        for outdoor in (80.0, 100.0)
    )

    def outdoor_y(root):
        return float(next(line for line in root.iter(f"{SVG}line") if line.get("class") == "bar air-mark").get("y1"))

    assert outdoor_y(cool) - outdoor_y(hot) == pytest.approx(20 / 160 * 200, abs=0.05)

"""The loop, the ghost on the ladder, and gaps over visits: judged by their parts."""

from __future__ import annotations

import xml.etree.ElementTree as ET
from datetime import UTC, datetime, timedelta

import pytest

from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.visit.survey import places, survey
from dry_gauge.core.vocabulary import Kind, Metering, Mode, State
from dry_gauge.core.words import Reader
from dry_gauge.drawing.geometry import DESK, PHONE
from dry_gauge.drawing.ladder import ladder_svg
from dry_gauge.drawing.loop import HEIGHT, SPOTS, WIDTH, LoopMark, loop_svg
from dry_gauge.drawing.over_visits import Point, over_visits_svg
from tests.builders import HEALTHY, TXV, judged, sheet

SVG = "{http://www.w3.org/2000/svg}"
COOLER = UnitFacts(Kind.WALK_IN_COOLER, find("R-448A"), metering=Metering.TXV, receiver=True)
SPLIT = UnitFacts(Kind.SPLIT_AC, find("R-410A"), metering=Metering.ORIFICE)


def drawn(text: str) -> ET.Element:
    return ET.fromstring(text)


@pytest.mark.parametrize("facts", [COOLER, SPLIT])
def test_every_place_of_the_survey_can_be_tapped_and_none_overlaps(facts):
    root = drawn(loop_svg(facts, survey(facts, {})))
    links = {link.get("data-place") for link in root.iter(f"{SVG}a")}
    assert links == {place.name for place in places(facts)} <= set(SPOTS)
    boxes = list(SPOTS.values())
    for i, (x, y, width, height) in enumerate(boxes):
        assert x >= 0 and x + width <= WIDTH and y >= 0 and y + height <= HEIGHT  # noqa: PT018
        assert min(width, height) >= 48  # a gloved thumb, at 374 pixels wide
        for other in boxes[i + 1 :]:
            apart = x + width <= other[0] or other[0] + other[2] <= x or y + height <= other[1] or other[1] + other[3] <= y
            assert apart


def test_the_coil_that_evaporates_stands_on_the_low_side_and_every_coil_keeps_its_name():
    for mode, low_side in ((Mode.COOLING, "Indoor coil"), (Mode.HEATING, "Outdoor coil")):
        facts = UnitFacts(Kind.SPLIT_HEAT_PUMP, find("R-410A"), mode, Metering.TXV)
        root = drawn(loop_svg(facts, survey(facts, {})))
        (x, *_) = SPOTS["evaporator"]
        at = {
            link.find(f"{SVG}title").text.partition(":")[0]: float(link.find(f"{SVG}rect").get("x"))
            for link in root.iter(f"{SVG}a")
        }
        assert at[low_side] == x
        assert {"Indoor coil", "Outdoor coil"} < at.keys()


def test_a_finding_is_told_by_shape_and_in_words():
    found = survey(COOLER, {"oil_stain": State.YES, "door_open": State.NO})
    root = drawn(loop_svg(COOLER, found, [LoopMark("suction", "59.6 °F")]))
    suction = next(link for link in root.iter(f"{SVG}a") if link.get("data-place") == "suction")
    assert "spot-found" in suction.get("class")
    assert "Oil stain" in "".join(suction.itertext())
    assert "59.6 °F" in "".join(suction.itertext())
    assert "Oil stain" in root.find(f"{SVG}desc").text


def test_a_receiver_and_the_metering_device_are_drawn_as_they_are():
    assert 'class="receiver"' in loop_svg(COOLER, survey(COOLER, {}))
    assert 'class="receiver"' not in loop_svg(SPLIT, survey(SPLIT, {}))
    assert 'class="bulb"' in loop_svg(COOLER, survey(COOLER, {}))
    assert 'class="bulb"' not in loop_svg(SPLIT, survey(SPLIT, {}))


@pytest.mark.parametrize("geometry", [DESK, PHONE])
def test_the_ghost_shows_where_each_rung_stood_and_what_each_gap_was(geometry):
    now = judged(sheet(unit=TXV, **HEALTHY)).first
    before = judged(sheet(unit=TXV, **{**HEALTHY, "liquid_pressure": 430, "liquid_line_temp": 121})).first
    root = drawn(ladder_svg(now, Reader("F", "psi"), geometry, before=before))
    ghosts = [line for line in root.iter(f"{SVG}line") if line.get("class", "").startswith("ghost")]
    assert len(ghosts) == 7
    assert all(0 < float(ghost.get("y1")) < geometry.height for ghost in ghosts)
    words = "".join(root.itertext())
    assert "was 32" in words  # the condenser gap, before
    assert "before the last change" in words
    assert "ghost" not in ladder_svg(now, Reader("F", "psi"), geometry)


def test_a_gap_over_visits_keeps_its_order_and_its_band():
    first = datetime(2024, 11, 1, tzinfo=UTC)
    points = [Point(first + timedelta(days=300 * i), 10.0 + i, 0.8, (5.0, 8.0) if i else None) for i in range(3)]
    root = drawn(over_visits_svg("Superheat", points, Reader("F", "psi"), "x"))
    circles = [float(dot.get("cx")) for dot in root.iter(f"{SVG}circle")]
    assert circles == sorted(circles)
    assert len([box for box in root.iter(f"{SVG}rect") if box.get("class") == "visit-band"]) == 2

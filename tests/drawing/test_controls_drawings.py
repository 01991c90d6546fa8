"""The chain, a defrost and a pull-down as drawings: what they say in words, and that nothing typed breaks them."""

from __future__ import annotations

from dataclasses import replace
from xml.etree import ElementTree

import pytest

from dry_gauge.core.box.pull_down import Span, forecast
from dry_gauge.core.controls.chain import TEMPLATES, Chain, Link, LinkSort, Where
from dry_gauge.core.controls.defrost import Mark
from dry_gauge.core.controls.walker import How, Point, Volts, walk
from dry_gauge.core.quantities import to_kelvin
from dry_gauge.core.words import Reader
from dry_gauge.drawing import chain, defrost_line, pull_down

SVG = "{http://www.w3.org/2000/svg}"


def texts(drawing: str) -> list[str]:
    return [one.text or "" for one in ElementTree.fromstring(drawing).iter(f"{SVG}text")]


@pytest.mark.parametrize("size", [chain.DESK, chain.PHONE])
def test_a_chain_says_what_is_live_dead_open_and_next(size):
    rooftop = TEMPLATES["Rooftop with gas heat"]
    stands = walk(rooftop, [Volts("Control fuse", 26.0), Volts("Board", 0.0)], {"Compressor contactor": False})
    drawing = chain.chain_svg(stands, {"Control fuse": 26.0, "Board": 0.0}, ["Building interlock"], size, "c")
    found = texts(drawing)
    assert {"26 V", "0 V", "open"} <= set(found)
    assert drawing.count("chain-theirs") == 1
    assert "Building interlock open" in drawing  # in its description, for screen readers
    assert [len([one for one in found if one == link.name]) for link in rooftop.links] == [1] * len(rooftop.links)


def test_names_that_people_type_are_escaped_and_cut():
    odd = Chain(
        (
            Link("T", LinkSort.SOURCE),
            Link('<script>"&{x} ' + "long " * 9, LinkSort.FLOAT, "T", Where.PANEL, "own < er"),
            Link("K", LinkSort.COIL, '<script>"&{x} ' + "long " * 9),
        )
    )
    drawing = chain.chain_svg(walk(odd, []), {}, [], chain.PHONE, "c")
    assert "<script" not in drawing
    assert any(one.endswith("…") for one in texts(drawing))


def test_across_is_drawn_with_a_probe_on_each_side():
    rooftop = TEMPLATES["Rooftop with gas heat"]
    stands = replace(walk(rooftop, []), next=Point(rooftop.by_name["Float switch"], How.ACROSS, 1.0, 0.5))
    assert chain.chain_svg(stands, {}, [], chain.DESK, "c").count("chain-probe") == 2


def test_a_defrost_is_drawn_along_its_minutes():
    marks = [(Mark.CALLED, 0.0), (Mark.VALVE, 0.3), (Mark.ENDED_BY_TIME, 10.0), (Mark.ICE_LEFT, 11.0)]
    drawing = defrost_line.defrost_svg(marks, "d")
    assert "ended by time, 10 min" in texts(drawing)
    assert drawing.count("defrost-mark grave") == 2


def test_a_course_shows_where_it_should_be_and_when():
    points = [(i * 7.0, to_kelvin(38 + 22 * 0.985 ** (i * 7))) for i in range(10)]
    found = forecast(points, to_kelvin(38))
    drawing = pull_down.pull_down_svg("Box air", points, found, to_kelvin(38), [Span(20, None)], Reader(), 560, 250, "b")
    assert drawing.count("course-point") == 10
    assert "course-door" in drawing
    assert "38.0 °F" in texts(drawing)
    metric = pull_down.pull_down_svg("Box air", points, found, to_kelvin(38), [], Reader("C", "bar"), 370, 230, "b")
    assert "3.3 °C" in texts(metric)

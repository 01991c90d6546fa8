"""Curves, hold, charge column and cylinder: judged by their parts, and by where things stand."""

from __future__ import annotations

from xml.etree import ElementTree as ET

import pytest

from dry_gauge.core.quantities import POUND_KG, PSI_PA, STANDARD_ATMOSPHERE_PA
from dry_gauge.core.sealed.vacuum import END_POINTS
from dry_gauge.core.words import Reader
from dry_gauge.drawing import charge_column, hold_plot, vacuum_curve
from dry_gauge.drawing.cylinder_level import level_svg
from dry_gauge.drawing.vacuum_curve import Trace
from dry_gauge.present.hold import HoldSection

SVG = "{http://www.w3.org/2000/svg}"
SIZES = pytest.mark.parametrize("size", [vacuum_curve.DESK, vacuum_curve.PHONE], ids=["desk", "phone"])


def parts(text: str, css: str) -> list[ET.Element]:
    return [one for one in ET.fromstring(text).iter() if css in (one.get("class") or "").split()]


def written(text: str) -> str:
    return " ".join("".join(one.itertext()) for one in ET.fromstring(text).iter(f"{SVG}text"))


@SIZES
def test_a_watch_shows_where_it_may_end_and_what_it_reads(size):
    points = [(t / 2, 300 + 8 * t) for t in range(30)]
    wet = Trace("watch 1: wet", [(t, 300 + 2000 * t / (t + 3)) for t in range(20)], current=False)
    text = vacuum_curve.watch_svg([wet, Trace("watch 2", points)], END_POINTS["strict"], size, "w")
    assert "532 μm at 14 min" in written(text)
    assert "watch 1: wet" in written(text)
    (zone,) = parts(text, "zone")
    assert float(zone.get("x")) > size.left  # from ten minutes on
    for label in ET.fromstring(text).iter(f"{SVG}text"):
        assert 0 <= float(label.get("x")) <= size.width


@SIZES
def test_a_pull_down_marks_where_water_would_freeze_only_where_there_may_be_water(size):
    points = [(float(t), 20_000 * 0.8**t + 200) for t in range(25)]
    assert "water freezes below" in written(vacuum_curve.pull_svg(points, 300, size, "p", water=True))
    assert "freezes" not in written(vacuum_curve.pull_svg(points, 300, size, "p"))
    assert "no points yet" in vacuum_curve.pull_svg([], 300, size, "p")


@SIZES
def test_a_hold_with_its_doubt_lies_on_the_page_in_the_readers_unit(size):
    start = 300 * PSI_PA + STANDARD_ATMOSPHERE_PA
    section = HoldSection("whole", [(0, start, 9000), (14, start - 700, 9000)], [start, start - 70_000], 1724)
    for reader, unit in ((Reader(), "psig"), (Reader("C", "bar"), "barg")):
        text = hold_plot.hold_svg([section], reader, size, "h")
        assert unit in written(text)
        for mark in parts(text, "chart-mark"):
            assert 0 < float(mark.get("y")) < size.height
    assert "No readings yet" in hold_plot.hold_svg([], Reader(), size, "h")


def test_the_column_stacks_what_went_in_and_says_what_is_to_go():
    layers = [
        charge_column.Layer(2.0, "weighed in"),
        charge_column.Layer(-0.25, "taken out"),
        charge_column.Layer(0.5, "now", on=True),
    ]
    text = charge_column.column_svg(layers, 3.0, 1.8, charge_column.DESK, "c")
    assert "1 lb 10.5 oz to go" in written(text)
    assert "came out" in written(text)
    (taken,), (poured,) = parts(text, "column-out"), parts(text, "column-on")
    # The pour stands on what the taking out left.
    assert float(poured.get("y")) + float(poured.get("height")) == pytest.approx(
        float(taken.get("y")) + float(taken.get("height")), abs=0.1
    )
    over = charge_column.column_svg([charge_column.Layer(3.5, "weighed in")], 3.0, 0.0, charge_column.PHONE, "c", metric=True)
    assert "0.500" not in written(over)  # nothing to go
    assert "over" in over
    assert "3.000 kg" in written(over)


@pytest.mark.parametrize(
    ("holds", "most", "css"), [(18.0, 18.3, "level-full"), (5.0, 18.3, "level-fill"), (5.0, None, "level-unknown")]
)
def test_a_cylinder_shows_its_level_and_when_it_is_full(holds, most, css):
    text = level_svg(holds * POUND_KG, None if most is None else most * POUND_KG, recovery=True, ident="l")
    assert len(parts(text, css)) == 1
    assert len(parts(text, "zone")) == 1  # what stays empty

"""A box's pull-down, food at risk and its pressure control: simulated boxes, and cases worked by hand."""

from __future__ import annotations

import numpy as np
import pytest

from dry_gauge.bench.box import Box, as_read, chance_box, pull_down
from dry_gauge.core.box.food import food_clock
from dry_gauge.core.box.pressure_control import against, as_thermostat, for_pump_down
from dry_gauge.core.box.pull_down import Span, forecast
from dry_gauge.core.quantities import FAHRENHEIT_K, PSI_PA, STANDARD_ATMOSPHERE_PA, to_kelvin
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.refrigerants.saturation import saturation_of
from dry_gauge.core.words import Reader
from dry_gauge.drawing.pull_down import pull_down_svg

DESIGN = to_kelvin(38)
STRONG = Box(to_kelvin(80), DESIGN, to_kelvin(60), to_kelvin(55), 0.25, 0.015, 0.004, 2.0, 0.02)


def straight(*temps: float, every: float = 10.0) -> list[tuple[float, float]]:
    return [(i * every, to_kelvin(temp)) for i, temp in enumerate(temps)]


# -- pull-down ------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("points", "state", "words"),
    [
        (straight(60), "few", "Two points"),
        (straight(60, 57), "early", "no time is promised"),
        (straight(50, 52, 54, 56), "warming", "It warms"),
        (straight(39, 38.6, 38.4), "there", "where it should be"),
        ([(0.0, to_kelvin(60)), (0.17, to_kelvin(59.9))], "early", "no time is promised"),
        (straight(60, 55, 51, 70), "odd", "is the probe where it was"),
        ([(0.0, to_kelvin(60)), *((600 + i, to_kelvin(58 - i)) for i in range(3))], "early", "no time is promised"),
    ],
)
def test_nothing_is_promised_too_early_and_odd_points_are_said(points, state, words):
    found = forecast(points, DESIGN)
    assert found.state == state
    assert words in found.words
    assert found.minutes is None


def test_a_strong_box_is_there_when_it_was_said():
    at, air, _ = pull_down(STRONG, 600)
    truth = at[np.nonzero(air <= DESIGN + FAHRENHEIT_K)[0][0]]
    found = forecast([(when, temp) for when, temp in zip(at, air, strict=True) if when <= 60][::6], DESIGN)
    assert found.state == "falling"
    assert found.low <= truth - 60 <= (found.high or np.inf)
    assert abs(found.minutes - (truth - 60)) < 20
    assert found.rate_k_h > 0


def test_a_door_and_a_defrost_are_left_out():
    spans = [Span(30, 36), Span(60, 75, "defrost")]
    at, air, _ = pull_down(STRONG, 600, spans)
    truth = at[np.nonzero(air <= DESIGN + FAHRENHEIT_K)[0][0]]
    points = [(when, temp) for when, temp in zip(at, air, strict=True) if when <= 130][::8]
    found = forecast(points, DESIGN, spans)
    assert found.left_out > 0
    assert found.low - 2 <= truth - points[-1][0] <= (found.high or np.inf)
    open_still = forecast(points, DESIGN, [Span(0, None)])
    assert open_still.state == "recovering"


def test_a_box_that_is_too_weak_is_an_alarm_and_no_time():
    weak = Box(to_kelvin(85), DESIGN, to_kelvin(62), to_kelvin(60), 0.075, 0.004, 0.005, 1.0, 0.03)
    at, air, _ = pull_down(weak, 240)
    assert air[-1] > DESIGN + 5 * FAHRENHEIT_K
    found = forecast([(when, temp) for when, temp in zip(at, air, strict=True)][::10], DESIGN)
    assert found.state == "not_enough"
    assert found.minutes is None
    assert found.floor_k > DESIGN


STUCK = straight(58.4, 49.2, 46.8, 46.3, 46.1, 46.1, 46.1, 46.1, every=30.0)


def test_a_fall_that_hardly_gets_there_states_no_time_and_no_alarm_yet():
    found = forecast(STUCK, to_kelvin(35.3))
    assert (found.state, found.minutes, found.low, found.high) == ("falling", None, None, None)
    assert "hardly there within a day" in found.words
    drawing = pull_down_svg("Box air", STUCK, found, to_kelvin(35.3), [], Reader(), 560, 250, "b")
    assert "course-when" not in drawing
    assert "inf" not in drawing


def test_the_stated_interval_holds_in_nine_of_ten():
    # 120 boxes only; docs/accuracy.md has the figures of the whole.
    chance = np.random.default_rng(5)
    inside = []
    for _ in range(120):
        box = chance_box(chance)
        at, air, _ = pull_down(box, 1680)
        there = np.nonzero(air <= box.design_k + FAHRENHEIT_K)[0]
        truth = at[there[0]] if len(there) else np.inf
        points = as_read(at, air, 60, 5.0, chance)
        found = forecast(points, box.design_k)
        if found.state == "falling" and truth > 60:
            low, high = (np.inf if one is None else one for one in (found.low, found.high))
            inside.append(low - 2 <= truth - points[-1][0] <= high + 2)
    assert len(inside) > 40
    assert np.mean(inside) > 0.8


# -- food ------------------------------------------------------------------------------

LIMIT = to_kelvin(41)


@pytest.mark.parametrize(
    ("points", "now", "since", "state", "above"),
    [
        ([], 0, None, "unknown", 0),
        (straight(38, 39), 20, None, "sound", 0),
        (straight(45, 45, 45), 30, None, "warm", 30),
        (straight(45, 37, every=40), 60, None, "warm", 20),  # half of a straight fall through the limit
        (straight(45, 45, every=60), 130, None, "soon", 130),
        (straight(45, 45, every=60), 60, -200, "over", 260),  # warm for 200 minutes before anybody came
        (straight(38, 46, every=40), 40, -200, "warm", 25),  # cold at first: what was before does not count
    ],
)
def test_a_food_clock_counts_minutes_above_its_limit(points, now, since, state, above):
    found = food_clock(points, now, LIMIT, 240, warm_since_min=since)
    assert found.state == state
    assert found.above_min == pytest.approx(above, abs=0.1)


def test_air_is_no_product():
    assert "Air is not product" in food_clock([], 0, LIMIT, 240).words


# -- pressure control --------------------------------------------------------------------


def test_a_pump_down_cuts_in_below_the_coldest_place():
    saturation = saturation_of(find("R-404A"))
    found = for_pump_down(saturation, to_kelvin(5), STANDARD_ATMOSPHERE_PA)
    # R-404A at 0 F stands at 33 psig (domain, section D).
    assert (found.cut_in_pa - STANDARD_ATMOSPHERE_PA) / PSI_PA == pytest.approx(33, abs=0.6)
    assert (found.cut_out_pa - STANDARD_ATMOSPHERE_PA) / PSI_PA == pytest.approx(4, abs=0.1)


@pytest.mark.parametrize(
    ("cut_out", "cut_in", "words"),
    [
        (4, 33, ""),
        (22, 26, "narrow"),
        (22, 45, "cuts out early"),
        (33, 4, "mixed up"),
        (4, 60, "may never start"),
        (4, 15, "again and again"),
    ],
)
def test_what_was_found_is_held_against_it(cut_out, cut_in, words):
    proposal = for_pump_down(saturation_of(find("R-404A")), to_kelvin(5), STANDARD_ATMOSPHERE_PA)
    found = against(proposal, cut_out * PSI_PA + STANDARD_ATMOSPHERE_PA, cut_in * PSI_PA + STANDARD_ATMOSPHERE_PA)
    assert words in " ".join(found.wrong)
    assert bool(found.wrong) == bool(words)


def test_as_a_thermostat_it_works_between_the_box_and_the_coil():
    saturation = saturation_of(find("R-134a"))
    found = as_thermostat(saturation, to_kelvin(38), 10 * FAHRENHEIT_K)
    assert found.cut_in_pa == pytest.approx(saturation.dew_pressure_pa(to_kelvin(40)))
    assert found.cut_out_pa == pytest.approx(saturation.dew_pressure_pa(to_kelvin(26)))

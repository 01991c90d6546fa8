"""Static, traverse, heat and belts against numbers worked by hand."""

from __future__ import annotations

import pytest

from dry_gauge.core.air.airflow import (
    LOG_LINEAR,
    LOG_TCHEBYCHEFF,
    by_electric_heat,
    cfm,
    disagreements,
    face_velocity,
    outdoor_share,
    rectangle,
    round_duct,
    traverse,
)
from dry_gauge.core.air.belt import belt_length, check, deflection, driven_rpm, last_that_bears, turns
from dry_gauge.core.air.static_profile import static_profile
from dry_gauge.core.dimensions import UNITS
from dry_gauge.core.errors import Refused
from dry_gauge.core.quantities import CFM_M3_S, FAHRENHEIT_K, INCH_WATER_PA, Measured

FPM = UNITS["fpm"].scale


def inches(**points):
    return {name: Measured.reading(name, value * INCH_WATER_PA, 0.02 * INCH_WATER_PA) for name, value in points.items()}


# -- static --------------------------------------------------------------------------


def test_a_packed_coil_hides_behind_a_low_total():
    found = static_profile(
        inches(external_static_return=-0.05, static_after_filter=-0.12, static_after_coil=-0.71, external_static_supply=0.06)
    )
    assert {drop.part: round(drop.pa.value / INCH_WATER_PA, 2) for drop in found.drops} == {
        "return duct": 0.05,
        "filter": 0.07,
        "coil": 0.59,
        "supply duct": 0.06,
    }
    assert (found.band, found.eats) == ("low", "coil")
    assert any("inside the cabinet" in phrase.template for phrase in found.reasons)


def test_a_coil_behind_the_blower_is_taken_from_its_two_sides():
    found = static_profile(inches(external_static_return=-0.20, static_after_blower=0.62, external_static_supply=0.35))
    assert {drop.part for drop in found.drops} == {"return duct", "coil", "supply duct"}
    assert (found.band, found.limit_assumed) == ("high", True)
    assert static_profile(inches(external_static_return=-0.20, external_static_supply=0.35), 0.8 * INCH_WATER_PA).band == "within"


def test_pressures_before_the_blower_without_their_sign_are_asked_about():
    assert "sign" in static_profile(inches(external_static_return=0.2, external_static_supply=0.3)).reasons[0].template


# -- flow ------------------------------------------------------------------------------


def test_the_points_lie_where_the_standard_has_them():
    # ISO 3966: symmetric about the middle; over them a turbulent profile (power of 1/7) has its own mean, 7/8.
    for places in (*LOG_TCHEBYCHEFF.values(), *LOG_LINEAR.values()):
        assert [round(1 - x, 3) for x in reversed(places)] == pytest.approx(list(places))
    for n, places in LOG_TCHEBYCHEFF.items():
        assert sum((1 - abs(2 * x - 1)) ** (1 / 7) for x in places) / n == pytest.approx(7 / 8, abs=0.015)


def test_a_traverse_by_hand():
    # 20 x 16 in. is 2.222 square feet; 600 fpm over it are 1,333 cfm.
    grid = rectangle(20 * 0.0254, 16 * 0.0254)
    assert grid.count == 25
    found = traverse(grid, [600 * FPM] * 25)
    assert cfm(found.airflow.value) == pytest.approx(1333.3, abs=0.5)
    assert found.airflow.uncertainty / found.airflow.value == pytest.approx(0.08)
    assert cfm(traverse(grid, [600 * FPM] * 25, 0.7).airflow.value) == pytest.approx(933.3, abs=0.5)
    assert round_duct(0.2).count == 18
    assert round_duct(0.4).count == 24


@pytest.mark.parametrize(("speeds", "words"), [([600] * 3, "at least half"), ([600] * 26, "has 25"), ([-600] * 25, "backwards")])
def test_a_traverse_that_says_nothing_is_refused(speeds, words):
    with pytest.raises(Refused, match=words):
        traverse(rectangle(0.5, 0.4), [v * FPM for v in speeds])


def test_air_that_stands_still_or_swirls_is_trusted_less():
    grid = rectangle(0.5, 0.4)
    still = traverse(grid, [600 * FPM] * 18 + [30 * FPM] * 7)
    assert "nearly still" in still.warning
    assert still.airflow.uncertainty / still.airflow.value == pytest.approx(0.16)
    assert "backwards" in traverse(grid, [600 * FPM] * 24 + [-50 * FPM]).warning


def test_electric_heat_as_the_trade_has_it():
    # cfm = 3.412 W / (1.08 dT): 9,600 W over 28 F are 1,083 cfm.
    rise = Measured.reading("rise", 28 * FAHRENHEIT_K, 1 * FAHRENHEIT_K)
    assert by_electric_heat(9600, rise, 1.2).value / CFM_M3_S == pytest.approx(3.412 * 9600 / (1.08 * 28), rel=0.01)
    with pytest.raises(Refused, match="under 5 °F"):
        by_electric_heat(9600, Measured.reading("rise", 1.0, 0.1), 1.2)


def test_outdoor_air_needs_a_difference_to_divide_by():
    def at(f):
        return Measured.reading(f"{f}", f * FAHRENHEIT_K, 0.5 * FAHRENHEIT_K)

    assert outdoor_share(at(72), at(32), at(64)).value == pytest.approx(0.2)
    assert outdoor_share(at(72), at(65), at(70)) is None


def test_ways_that_cannot_both_be_right_are_named():
    one, other = Measured.reading("a", 0.50, 0.04), Measured.reading("b", 0.62, 0.04)
    assert [(clash.one, clash.other) for clash in disagreements([("traverse", one), ("heat", other)])] == [("traverse", "heat")]
    assert disagreements([("traverse", one), ("heat", Measured.reading("b", 0.53, 0.04))]) == []


# -- belts -------------------------------------------------------------------------------


def test_a_belt_drive_by_hand():
    # 1,750 rpm over 3.25 and 6.5 in. are 875 less 2 % of slip.
    assert driven_rpm(1750, 3.25, 6.5) == pytest.approx(857.5)
    assert belt_length(20, 7, 3) == pytest.approx(2 * 20 + 1.57 * 10 + 16 / 80)
    assert deflection(32) == 0.5


@pytest.mark.parametrize(("blower", "state"), [(857, "right"), (760, "slips"), (1748, "other_shaft"), (930, "odd")])
def test_speeds_against_their_sheaves(blower, state):
    assert check(1750, blower, 3.25, 6.5).state == state


def test_the_last_turn_that_the_motor_bears_is_said_beforehand():
    listed = turns(3.4, 2.4, 5, 2, 700, 5.0, 6.1)
    here = next(turn for turn in listed if turn.turns == 2)
    closed = listed[0]
    assert (here.airflow, here.amps) == (1.0, 5.0)
    assert closed.amps == pytest.approx(5.0 * (3.4 / 3.0) ** 3)
    assert last_that_bears(listed).turns == 1.0
    for bad in ((2.4, 3.4, 5, 2), (3.4, 2.4, 5, 6)):
        with pytest.raises(Refused):
            turns(*bad, 700, 5.0, 6.0)


@pytest.mark.parametrize(
    ("cfm_", "size", "count", "velocity", "most"),
    [
        (1200, "20 x 25 x 1", 1, 345.6, 300),
        (1200, "20x25x4", 1, 345.6, 500),
        (2000, "20 X 20 x 2 in", 4, 180.0, 366.7),
        (800, "16×20", 1, 360.0, 300),
    ],
)
def test_air_through_a_filter_by_its_printed_size(cfm_, size, count, velocity, most):
    found = face_velocity(cfm_ * CFM_M3_S, size, count)
    assert UNITS["fpm"].from_si(found.velocity_m_s) == pytest.approx(velocity, abs=0.5)
    assert UNITS["fpm"].from_si(found.most_m_s) == pytest.approx(most, abs=0.5)
    assert found.is_over == (velocity > most)


@pytest.mark.parametrize("size", ["", "big", "20", "0 x 20 x 1", "20 by 25"])
def test_a_size_in_other_words_tells_no_velocity(size):
    assert face_velocity(0.5, size, 1) is None

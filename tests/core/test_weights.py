"""Weights as they are typed, what belongs in, and cylinders whose book always adds up."""

from __future__ import annotations

from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dry_gauge.core.charge.amounts import (
    FOOT_M,
    LineSet,
    Standing,
    charge_target,
    fill_limit_kg,
    hot_fill_share,
    liquid_per_metre,
)
from dry_gauge.core.charge.cylinders import Account, Cylinder, CylinderKind, Movement, balances, check_draw, check_fill, year_book
from dry_gauge.core.charge.leak_rate import Addition, Method, Rule, Threshold, Use, leak_rates, threshold_of
from dry_gauge.core.charge.mass import OUNCE_KG, forms, pounds_and_ounces, slipped, understood_weight
from dry_gauge.core.errors import Refused
from dry_gauge.core.quantities import POUND_KG, PSI_PA
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.shop import ShopSettings

R410A, R32, R134A, R404A, R290 = map(find, ("R-410A", "R-32", "R-134a", "R-404A", "R-290"))
TODAY = date(2026, 11, 24)


@pytest.mark.parametrize(
    ("typed", "unit", "ounces"),
    [
        ("6 lb 4 oz", "kg", 100),
        ("6lb4", "kg", 100),
        ("6.25", "lb", 100),
        ("100 oz", "lb", 100),
        ("14,2oz", "lb", 14.2),
        ("2.9 kg", "lb", 2.9 / OUNCE_KG),
        ("402 g", "lb", 0.402 / OUNCE_KG),
        (".5 lb", "oz", 8),
        ("2,900 g", "lb", 2.9 / OUNCE_KG),
        ("1,250 oz", "lb", 1250),
        ("2,9 kg", "lb", 2.9 / OUNCE_KG),
    ],
)
def test_weights_are_understood_as_people_write_them(typed, unit, ounces):
    assert understood_weight(typed, unit).kg / OUNCE_KG == pytest.approx(ounces)


@pytest.mark.parametrize(
    ("typed", "ounces_instead"),
    [
        ("6.4 lb", 100),
        ("6.10 lb", 106),
        ("6.40 lb", None),
        ("6.25 lb", None),
        ("6.04 lb", None),
        ("6 lb", None),
        ("6.4 oz", None),
        ("6.4 kg", None),
    ],
)
def test_decimal_pounds_that_could_be_ounces_are_asked_about(typed, ounces_instead):
    instead = understood_weight(typed, "lb").instead_kg
    assert (instead and round(instead / OUNCE_KG, 6)) == ounces_instead


@pytest.mark.parametrize("typed", ["", "-3", "−3 lb", "three", "6 lb 17 oz", "6 stone", "1e9", "99999 kg"])
def test_what_is_no_weight_is_refused_with_a_sentence(typed):
    with pytest.raises(Refused) as refusal:
        understood_weight(typed, "lb")
    assert refusal.value.message.endswith(".")


def test_pounds_typed_as_ounces_show_against_what_is_expected():
    assert slipped(14 * OUNCE_KG, 14 * POUND_KG) == ("oz", "lb")
    assert slipped(3.2 * POUND_KG, 3.2) == ("lb", "kg")
    assert slipped(0.9 * POUND_KG, POUND_KG) is None
    assert slipped(0.3, None) is None


@given(st.floats(0, 500))
def test_pounds_and_ounces_carry_and_say_the_weight_to_a_tenth(kg):
    pounds, ounces = pounds_and_ounces(kg)
    assert 0 <= ounces < 16
    assert pounds * 16 + ounces == pytest.approx(kg / OUNCE_KG, abs=0.0501)
    # What is read back can be typed again.
    assert understood_weight(forms(kg).lb_oz, "kg").kg == pytest.approx(kg, abs=0.051 * OUNCE_KG)


# The trade's figures for R-410A (oz/ft), and net limits of a cylinder of 47.7 lb water capacity.
@pytest.mark.parametrize(("line", "oz_ft"), [("1/4", 0.19), ("5/16", 0.33), ("3/8", 0.52), ("1/2", 1.02), ("5/8", 1.66)])
def test_liquid_lines_hold_what_the_trade_says(line, oz_ft):
    assert liquid_per_metre(R410A, line) * FOOT_M / OUNCE_KG == pytest.approx(oz_ft, abs=0.006)


@pytest.mark.parametrize(
    ("name", "pounds"), [("R-410A", 40.4), ("R-22", 45.4), ("R-134a", 46.0), ("R-404A", 39.8), ("R-32", 36.7)]
)
def test_recovery_cylinders_are_full_at_eighty_per_cent(name, pounds):
    assert fill_limit_kg(47.7 * POUND_KG, [find(name)]) / POUND_KG == pytest.approx(pounds, abs=0.06)


def test_an_unknown_content_counts_as_the_lightest_and_a_hot_van_is_warned_of():
    assert fill_limit_kg(21.6) < fill_limit_kg(21.6, [R134A, R404A]) == fill_limit_kg(21.6, [R404A])
    assert hot_fill_share(47.7 * POUND_KG, R410A, 40.4 * POUND_KG) == pytest.approx(0.97, abs=0.01)


def test_the_target_takes_away_for_a_short_line_set_and_the_makers_figure_wins():
    short = charge_target(R410A, 2.5, LineSet(3.0, "3/8", included_m=4.5))
    assert short.kg == pytest.approx(2.5 - 1.5 * liquid_per_metre(R410A, "3/8"))
    assert short.assumed
    makers = charge_target(R410A, 2.5, LineSet(10, "3/8", 4, maker_kg_per_m=0.05), 0.04, [("coil", -0.1)])
    assert makers.kg == pytest.approx(2.5 + 0.3 + 0.04 - 0.1)
    assert not makers.assumed
    for label, line in ((0.0, None), (0.1, LineSet(0, "5/8", 20)), (2.0, LineSet(-1)), (2.0, LineSet(5, "7/8"))):
        with pytest.raises(Refused):
            charge_target(R410A, label, line)


def test_more_than_the_target_is_said_and_a_tenth_more_is_asked():
    assert [(Standing(kg, 3.0).says, Standing(kg, 3.0).asks) for kg in (3.0, 3.03, 3.31)] == [
        (False, False),
        (True, False),
        (True, True),
    ]


RECOVERY = Cylinder("Grey 4", CylinderKind.RECOVERY, R410A, 12.0, 21.6, 400 * PSI_PA, date(2028, 1, 1))


@pytest.mark.parametrize(
    ("change", "of", "says"),
    [
        ({}, R32, "holds R-410A"),
        ({"kind": CylinderKind.NEW}, R410A, "not refillable"),
        ({"refillable": False}, R410A, "not refillable"),
        ({"retest_by": date(2026, 1, 1)}, R410A, "due for its test"),
        ({"refrigerant": R32}, R32, "burns"),
        ({"service_pressure_pa": 260 * PSI_PA}, R410A, "class of at least 38"),
        ({"water_capacity_kg": None}, R410A, "water capacity"),
        ({"water_capacity_kg": 1.0}, R410A, "beyond 80 %"),
    ],
)
def test_a_cylinder_refuses_what_must_not_go_in(change, of, says):
    fields = {name: getattr(RECOVERY, name) for name in RECOVERY.__slots__}
    with pytest.raises(Refused, match=says):
        check_fill(Cylinder(**{**fields, **change}), 0.5, 1.0, of, TODAY)
    check_fill(RECOVERY, 0.5, 1.0, R410A, TODAY)


def test_a_draw_is_checked_for_kind_and_content():
    check_draw(RECOVERY, 2.0, 2.05, R410A)  # within what two weighings leave open
    check_draw(RECOVERY, 2.0, 1.0, R32, converting=True)
    for holds, takes, into in ((2.0, 2.3, R410A), (2.0, 1.0, R32)):
        with pytest.raises(Refused):
            check_draw(RECOVERY, holds, takes, into)


PLACES = st.tuples(st.sampled_from(Account), st.sampled_from("ab"))


@given(st.lists(st.tuples(st.integers(1, 50_000), PLACES, PLACES), max_size=40), st.sets(st.integers(0, 39)))
def test_refrigerant_is_neither_made_nor_lost_whatever_is_voided(rows, voided):
    moved = [
        Movement(grams, *origin[:1], *goal[:1], origin[1], goal[1], "R-410A")
        for i, (grams, origin, goal) in enumerate(rows)
        if i not in voided
    ]
    assert sum(balances(moved).values()) == 0


STOCKED = st.sampled_from(
    [
        (Account.SUPPLIER, Account.CYLINDER),
        (Account.CYLINDER, Account.UNIT),
        (Account.UNIT, Account.CYLINDER),
        (Account.CYLINDER, Account.RECLAIMER),
        (Account.CYLINDER, Account.AIR),
        (Account.COUNT, Account.CYLINDER),
        (Account.CYLINDER, Account.COUNT),
        (Account.CYLINDER, Account.CYLINDER),
    ]
)


@given(st.lists(st.tuples(st.integers(1, 9000), STOCKED), max_size=30), st.integers(0, 30))
def test_a_years_book_adds_up(rows, cut):
    moved = [Movement(grams, way[0], way[1], "a", "b") for grams, way in rows]
    assert year_book("R-410A", moved[:cut], moved[cut:]).adds_up


def test_leak_rates_by_both_methods():
    additions = [Addition(date(2025, 3, 1), 0.5), Addition(date(2025, 9, 1), 0.5), Addition(date(2026, 9, 30), 1.0)]
    by_year = leak_rates(additions, 10.0, Method.ANNUALISING)
    assert [(round(rate.yearly, 4), rate.days, rate.first) for rate in by_year] == [
        (0.05, 365, True),
        (0.0992, 184, False),
        (0.1, 365, False),
    ]
    rolling = leak_rates(additions, 10.0, Method.ROLLING)
    assert [round(rate.yearly, 3) for rate in rolling] == [0.05, 0.1, 0.1]
    with pytest.raises(Refused, match="full charge"):
        leak_rates(additions, 0.0, Method.ROLLING)


def test_a_rule_applies_from_its_charge_on_and_for_some_refrigerants_from_less():
    rule = Rule("Local", Method.ANNUALISING, (Threshold(Use.COMFORT, 0.10, 22.7),), small_charge_kg=6.8, gwp_from=53)
    assert threshold_of(rule, Use.COMFORT, R410A, 8.0).yearly == 0.10
    assert threshold_of(rule, Use.COMFORT, R290, 8.0) is None
    assert threshold_of(rule, Use.PROCESS, R410A, 100.0) is None
    usual = ShopSettings().rule  # 50 lb and 15 lb, those sizes included
    for refrigerant, pounds, applies in ((R410A, 15.0, True), (R410A, 14.9, False), (R290, 50.0, True), (R290, 49.9, False)):
        label_kg = round(pounds * POUND_KG, 3)
        assert (threshold_of(usual, Use.COMMERCIAL, refrigerant, label_kg) is not None) is applies, (refrigerant.name, pounds)


def test_a_rule_is_read_under_the_name_it_was_kept_by():
    assert ShopSettings.model_validate({"above_kg": 9.0}).from_kg == ShopSettings.model_validate({"from_kg": 9.0}).from_kg == 9.0


def test_a_cylinder_for_what_our_tables_do_not_cover_is_refused():
    grey = Cylinder("Grey", CylinderKind.RECOVERY, find("R-744"), 10.0, 21.6, 400 * PSI_PA, None, for_flammables=False)
    with pytest.raises(Refused, match="not in our tables"):
        check_fill(grey, 0.0, 1.0, find("R-744"), TODAY)

"""What the office works out: room in a day, what held, money, repair against a new unit, signatures."""

from __future__ import annotations

import os
import time
from datetime import date, datetime, timedelta
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dry_gauge.core.efficiency import eer_of_seer
from dry_gauge.core.errors import Refused
from dry_gauge.core.office.hours import Busy, bounds, first_free, monday_of
from dry_gauge.core.office.money import Line, LineSort, Per, cents_of, total
from dry_gauge.core.office.offer import OfferFacts, OfferLine, Option, weighed
from dry_gauge.core.office.outcomes import came_back
from dry_gauge.core.office.replacement import Course, Running, energy_cents_a_year, outlook, pay_back
from dry_gauge.core.office.signature import signature_of
from dry_gauge.core.office.two_pieces import other_piece
from dry_gauge.core.office.warranty import cover
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.vocabulary import Kind
from dry_gauge.exchange.language import language_named
from dry_gauge.present.offer import offer_shown

DAY = date(2026, 11, 30)


def at(hour, minute=0, day=DAY):
    return datetime(day.year, day.month, day.day, hour, minute).astimezone()


@pytest.mark.parametrize(
    ("taken", "hour", "minute"),
    [
        ([], 8, 0),
        ([(8, 0, 90)], 9, 30),
        ([(9, 0, 60)], 10, 0),
        ([(9, 30, 60)], 8, 0),
        ([(8, 0, 100)], 9, 45),
        ([(8, 0, 60), (10, 0, 60)], 11, 0),
        ([(12, 0, 60), (7, 0, 120)], 9, 0),
    ],
)
def test_a_call_goes_where_there_is_room_first(taken, hour, minute):
    assert first_free(DAY, [Busy(at(h, m), minutes) for h, m, minutes in taken]) == at(hour, minute)


@given(st.lists(st.tuples(st.integers(0, 95), st.integers(15, 300)), max_size=8), st.integers(15, 300))
def test_what_is_free_overlaps_nothing(taken, minutes):
    busy = [Busy(at(0) + timedelta(minutes=15 * start), length) for start, length in taken]
    free = Busy(first_free(DAY, busy, minutes), minutes)
    assert free.start >= at(8)
    assert all(one.end <= free.start or one.start >= free.end for one in busy)


@pytest.fixture
def new_york():
    before = os.environ.get("TZ")
    os.environ["TZ"] = "America/New_York"
    time.tzset()
    yield
    os.environ.pop("TZ")
    if before is not None:
        os.environ["TZ"] = before
    time.tzset()


def test_a_day_when_clocks_change_begins_and_ends_at_midnight(new_york):
    for day, hours in ((date(2026, 3, 8), 23), (date(2026, 11, 1), 25), (date(2026, 6, 1), 24)):
        start, end = bounds(day)
        assert (end - start).total_seconds() == hours * 3600
        assert (start.hour, end.hour, end.date()) == (0, 0, day + timedelta(days=1))
    start, end = bounds(monday_of(date(2026, 3, 8)), 7)
    assert (end - start).total_seconds() == (7 * 24 - 1) * 3600


def test_a_share_of_few_leaves_much_open():
    # By hand for 0 of 4 and 1 of 10 with z = 1.96 (Wilson 1927).
    none, one = came_back(0, 4), came_back(1, 10)
    assert (none.low, round(none.high, 3)) == (0.0, 0.490)
    assert (round(one.low, 3), round(one.high, 3)) == (0.018, 0.404)
    assert none.few
    assert not one.few
    for count, of in ((0, 0), (-1, 3), (4, 3)):
        with pytest.raises(ValueError, match="no share"):
            came_back(count, of)


@pytest.mark.parametrize(
    ("what", "asks"),
    [
        ("Condenser FAN MOTOR 1/4 hp", "blade and capacitor"),
        ("Motor", "capacitor"),
        ("King valve", "power head, or body"),
        ("Thermostat", ""),
        ("", ""),
    ],
)
def test_a_part_of_two_pieces_asks_for_the_other(what, asks):
    assert other_piece(what) == asks


# -- money -----------------------------------------------------------------


@pytest.mark.parametrize(
    ("text", "cents"),
    [
        ("1,234.50", 123450),
        ("1.234,50", 123450),
        ("$ 12", 1200),
        ("12 USD", 1200),
        ("usd12.5", 1250),
        ("-5", -500),
        ("−5,25", -525),
        ("$-3.00", -300),
        ("1 234,50", 123450),
        ("1'234.50", 123450),
        ("1.345.678", 134567800),
        ("0", 0),
        (".50", None),
        ("", None),
        ("twelve", None),
        ("1.2345", None),
        ("12 EUR", None),
        ("€3", None),
        ("1,234", None),
        ("1.234", None),
        ("1e5", None),
        ("99999999999", None),
        ("--5", None),
        ("$5 EUR", None),
        ("٣", 300),
    ],
)
def test_a_price_is_read_as_it_is_written_or_refused(text, cents):
    if cents is None:
        with pytest.raises(Refused) as refusal:
            cents_of(text, "USD")
        assert len(refusal.value.message) > 20
    else:
        assert cents_of(text, "USD") == cents


@given(st.integers(-(10**9), 10**9))
def test_a_price_that_was_written_is_read_again(cents):
    assert cents_of(f"{cents / 100:,.2f}") == cents


@given(st.lists(st.tuples(st.integers(1, 10**6), st.integers(0, 10**6)), max_size=20))
def test_lines_add_up_to_the_cent(rows):
    lines = [Line(LineSort.PART, "x", Per.EACH, thousandths, cents) for thousandths, cents in rows]
    exact = sum(Fraction(thousandths * cents, 1000) for thousandths, cents in rows)
    assert abs(total(lines) - exact) <= Fraction(len(rows), 2)
    assert total(lines[::-1]) == total(lines)


def test_only_a_discount_takes_money_off():
    for sort, cents in ((LineSort.PART, -1), (LineSort.DISCOUNT, 1)):
        with pytest.raises(Refused, match="discount"):
            Line(sort, "x", Per.EACH, 1000, cents)
    with pytest.raises(Refused, match="more than everything"):
        total([Line(LineSort.PART, "x", Per.EACH, 1000, 100), Line(LineSort.DISCOUNT, "x", Per.EACH, 2000, -51)])
    assert Line(LineSort.REFRIGERANT, "R-32", Per.LB, 2500, 3801).cents == 9503  # 95.025: the half cent up


# -- repair or replace -----------------------------------------------------


def test_energy_by_rating_hours_and_price():
    # By hand: SEER 10 is EER 9.2; 60,000 Btu/h at that is 6.522 kW; 1,000 h at 15 cents are 978 and rounded to the dollar.
    assert eer_of_seer(10) == pytest.approx(9.2)
    assert energy_cents_a_year(60_000, 9.2, Running((1000, 2000), (15, 15))) == (97800, 195700)


def test_what_pays_itself_back_and_what_never_does():
    old = Course(1000_00, (500_00, 900_00))
    new = pay_back(old, Course(5000_00, (300_00, 500_00)))
    assert (new.more, new.saves, new.years) == (4000_00, (200_00, 400_00), (10.0, 20.0))
    assert pay_back(old, Course(5000_00, (500_00, 900_00))).years is None
    assert pay_back(old, Course(5000_00, (600_00, 800_00))).years == (40.0, None)  # perhaps, perhaps not


@pytest.mark.parametrize(("name", "found"), [("R-22", "gone"), ("R-410A", "shrinking"), ("R-32", "stays"), ("R-290", "stays")])
def test_what_lies_ahead_for_a_refrigerant(name, found):
    assert outlook(find(name)) == found


def facts(**more):
    return OfferFacts(kind=Kind.PACKAGE_AC, refrigerant="R-22", **more)


def line(cents, sort="part"):
    return OfferLine(sort=sort, what="x", per="each", thousandths=1000, cents_each=cents)


def test_options_are_weighed_against_the_cheapest_new_unit():
    options = [
        Option(sort="repair", lines=(line(3000_00),)),
        Option(sort="replace", lines=(line(6000_00),), new_seer=16),
        Option(sort="replace", lines=(line(9000_00),), new_seer=20),
    ]
    power = {"seer": 10, "capacity_btuh": 60_000, "hours": (900, 1500), "cents_kwh": (14, 19)}
    known = facts(age_years=23, failures=2, risks=("leak",), **power)
    found = weighed(options, known)
    assert [one.share_of_new for one in found.options] == [0.5, None, None]
    assert found.left_years == (0, 0)
    assert found.hinge.more == 3000_00
    said = offer_shown(found)
    keys = [one.key for one in said.options[0].facts]
    assert keys == ["opt-share", "opt-think-twice", "opt-energy", "opt-age", "opt-failures"]
    assert list(said.options[0].risks) == ["old", "gone", "leak"]
    assert list(said.options[1].risks) == []
    assert said.declined[0] == "declined"
    for code in ("en", "es"):
        for one in (*said.options[0].facts, *said.hinge, *said.notes):
            assert language_named(code).tell(one, currency="USD")
    # What nobody knows is not worked out: no age, no rating, no price of power.
    bare = offer_shown(weighed(options, facts()))
    assert [one.key for one in bare.options[0].facts] == ["opt-share", "opt-think-twice"]
    assert (bare.hinge, bare.notes) == ([], [])


@pytest.mark.parametrize(
    "drawn",
    [
        "",
        "[]",
        "[[[1,1]]]",
        "[[[1,1],[1,1],[2,1]]]",
        "x",
        "{}",
        "[[[1,1],[900,1]]]",
        "[" * 5000,
        "null",
        "[[[1,1],[1e9,1]]]",
        '[[["a",1]]]',
    ],
)
def test_a_dot_is_no_signature(drawn):
    with pytest.raises(Refused, match="sign"):
        signature_of(drawn, typed=False)
    assert signature_of(drawn, typed=True).typed


def test_a_signature_is_kept_as_it_was_drawn():
    found = signature_of("[[[10,20],[110,60],[200,20]],[[5,5],[6,6]]]", typed=False)
    assert found.path == "M10 20L110 60L200 20M5 5L6 6"
    assert found.length > 190


# -- warranty --------------------------------------------------------------


@pytest.mark.parametrize(
    ("starts", "months", "until"),
    [
        (date(2024, 1, 15), 12, date(2025, 1, 14)),
        (date(2024, 2, 29), 12, date(2025, 2, 27)),
        (date(2024, 8, 31), 6, date(2025, 2, 27)),
        (date(2026, 11, 30), 3, date(2027, 2, 27)),
        (date(2026, 1, 1), 1, date(2026, 1, 31)),
        (date(2026, 1, 31), 120, date(2036, 1, 30)),
    ],
)
def test_a_cover_ends_the_day_before_its_day_comes_round(starts, months, until):
    found = cover(starts, months, starts)
    assert found.until == until
    assert found.share_used == 0
    assert cover(starts, months, until).days_left == 0
    assert cover(starts, months, until).holds
    after = cover(starts, months, until + timedelta(days=1))
    assert (after.days_left, after.holds, after.share_used) == (-1, False, 1.0)
    assert cover(starts, 0, starts) is None


def test_an_offer_that_is_kept_with_another_spelling_of_labor_is_read():
    kept = {"sort": "labour", "what": "two hours", "per": "hour", "thousandths": 2000, "cents_each": 9000}
    line = OfferLine.model_validate(kept)
    assert (line.sort, line.model_dump(mode="json")["sort"]) == (LineSort.LABOR, "labor")

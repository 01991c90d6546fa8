"""What the office works out: room in a day, what held, what belongs to a part."""

from __future__ import annotations

import os
import time
from datetime import date, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dry_gauge.core.office.hours import Busy, bounds, first_free, monday_of
from dry_gauge.core.office.outcomes import came_back
from dry_gauge.core.office.two_pieces import other_piece

DAY = date(2026, 11, 30)


def at(hour, minute=0, day=DAY):
    return datetime(day.year, day.month, day.day, hour, minute).astimezone()


@pytest.mark.parametrize(
    ("taken", "hour", "minute"),
    [([], 8, 0), ([(8, 0, 90)], 9, 30), ([(9, 0, 60)], 10, 0), ([(9, 30, 60)], 8, 0), ([(8, 0, 100)], 9, 45),
     ([(8, 0, 60), (10, 0, 60)], 11, 0), ([(12, 0, 60), (7, 0, 120)], 9, 0)],
)  # fmt: skip
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


@pytest.mark.parametrize(("what", "asks"), [("Condenser FAN MOTOR 1/4 hp", "blade and capacitor"), ("Motor", "capacitor"),
                                            ("King valve", "power head, or body"), ("Thermostat", ""), ("", "")])  # fmt: skip
def test_a_part_of_two_pieces_asks_for_the_other(what, asks):
    assert other_piece(what) == asks

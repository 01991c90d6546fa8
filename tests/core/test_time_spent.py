"""Where a visit's time went: sums worked out by hand, and nothing counted twice or lost."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dry_gauge.core.visit.time_spent import time_spent

_minute = st.floats(0, 2000)


@pytest.mark.parametrize(
    ("entries", "waits", "work", "waiting", "away"),
    [
        ([], [], 0, 0, 0),
        ([0], [(0, 40)], 0, 0, 0),
        ([0, 20, 50], [], 50, 0, 0),
        ([0, 40], [(5, 30)], 15, 25, 0),
        ([0, 40], [(5, 30), (10, 35)], 10, 30, 0),
        ([0, 4, 8, 12], [(0, 12)], 12, 0, 0),  # a wait that is used
        ([0, 120], [], 0, 0, 120),
        ([0, 120], [(0, 60)], 60, 60, 0),
        ([0, 900], [(0, 600)], 0, 600, 300),
    ],
)
def test_time_is_divided_by_hand(entries, waits, work, waiting, away):
    spent = time_spent(entries, waits)
    assert (spent.work, spent.waiting, spent.away) == (work, waiting, away)


@given(st.lists(_minute, min_size=1, max_size=30).map(sorted), st.lists(st.tuples(_minute, _minute), max_size=10))
def test_nothing_is_counted_twice_or_lost(entries, waits):
    spent = time_spent(entries, waits)
    assert min(spent.work, spent.waiting, spent.away) >= -1e-9
    assert spent.work + spent.waiting + spent.away == pytest.approx(entries[-1] - entries[0], abs=1e-6)

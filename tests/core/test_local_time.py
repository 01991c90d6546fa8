"""Hours and days by the shop's clock: across changes of clocks, in every thread of one request, and of no other."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from contextvars import copy_context
from datetime import UTC, date, datetime, time, timedelta

from dry_gauge.core.local_time import day_of, in_zone, local, local_at, served, zone_of, zones
from dry_gauge.core.office.hours import bounds

NOON = datetime(2026, 7, 1, 12, tzinfo=UTC)


def test_a_moment_is_said_by_the_zone_of_what_is_served():
    with served("America/Denver"):
        assert f"{local(NOON):%H:%M}" == "06:00"
        assert day_of(NOON.replace(hour=3)) == date(2026, 6, 30)
        with served("Asia/Kolkata"):
            assert f"{local(NOON):%H:%M}" == "17:30"
        assert f"{local(NOON):%H:%M}" == "06:00"
    assert local(NOON) == NOON  # by the machine's own zone, whichever that is
    in_zone("Asia/Kolkata")
    assert local(NOON).utcoffset() == NOON.astimezone().utcoffset()


def test_days_on_which_the_clocks_change_are_as_long_as_they_are():
    with served("America/Denver"):
        lengths = [end - start for start, end in (bounds(date(2026, 3, 8)), bounds(date(2026, 11, 1)), bounds(date(2026, 7, 1)))]
        assert lengths == [timedelta(hours=23), timedelta(hours=25), timedelta(hours=24)]
        assert local_at(date(2026, 3, 8), time(2, 30)) == datetime(2026, 3, 8, 9, 30, tzinfo=UTC)  # an hour that there is not
        # Wall clocks say three hours; two have gone by.
        late, early = local_at(date(2026, 3, 8), time(4)), local_at(date(2026, 3, 8), time(1))
        assert late - early == timedelta(hours=2)


def test_what_one_thread_says_holds_for_all_of_a_request_and_for_no_other():
    with ThreadPoolExecutor(1) as other, served():
        other.submit(copy_context().run, in_zone, "Asia/Kolkata").result()
        assert f"{local(NOON):%H:%M}" == "17:30"
        assert other.submit(lambda: local(NOON).utcoffset()).result() == NOON.astimezone().utcoffset()


def test_a_name_that_no_longer_means_anything_is_the_machines_own_zone():
    for name in ("", "Mars/Olympus", "../../etc/passwd", "/etc/localtime", "a\0b"):
        assert zone_of(name) is None
    assert {"America/Denver", "Europe/Lisbon", "Asia/Kolkata", "Pacific/Auckland"} < set(zones())
    assert not [name for name in zones() if zone_of(name) is None or name.startswith(("Etc/", "US/"))]

"""Hours and days by the shop's clock: across changes of clocks, in every thread of one request, and of no other."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from contextvars import copy_context
from datetime import UTC, date, datetime, time, timedelta

from dry_gauge.core.local_time import axis_hour, by_clock, clock, day_of, local, local_at, served, zone_of, zones
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
    by_clock("Asia/Kolkata")
    assert local(NOON).utcoffset() == NOON.astimezone().utcoffset()


def test_hours_are_said_as_their_reader_likes_them():
    midnight = datetime(2026, 7, 1, tzinfo=UTC)
    with served("UTC", "12"):
        said = [clock(midnight + timedelta(minutes=past)) for past in (5, 9 * 60, 12 * 60, 17 * 60 + 35, 23 * 60 + 59)]
        assert said == ["12:05 am", "9:00 am", "12:00 pm", "5:35 pm", "11:59 pm"]
        assert [axis_hour(hour) for hour in (0, 6, 12, 20)] == ["12 am", "6 am", "12 pm", "8 pm"]
        by_clock("UTC", "24")
        assert (clock(midnight), axis_hour(6)) == ("00:00", "06")
    assert axis_hour(6) == "06"


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
        other.submit(copy_context().run, by_clock, "Asia/Kolkata").result()
        assert f"{local(NOON):%H:%M}" == "17:30"
        assert other.submit(lambda: local(NOON).utcoffset()).result() == NOON.astimezone().utcoffset()


def test_a_name_that_no_longer_means_anything_is_the_machines_own_zone():
    for name in ("", "Mars/Olympus", "../../etc/passwd", "/etc/localtime", "a\0b"):
        assert zone_of(name) is None
    assert {"America/Denver", "Europe/Lisbon", "Asia/Kolkata", "Pacific/Auckland"} < set(zones())
    assert not [name for name in zones() if zone_of(name) is None or name.startswith(("Etc/", "US/"))]

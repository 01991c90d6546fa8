"""A working day as it is planned: its hours, who is how busy, and where there is room."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta

from dry_gauge.core.local_time import local_at

FIRST_HOUR, LAST_HOUR = 6, 20
"""The day's axis. What is planned outside it is shown at its edge, with its time."""
STEP_MINUTES = 15
LEAST_MINUTES, MOST_MINUTES, USUAL_MINUTES = 15, 12 * 60, 90
FULL_MINUTES = 8 * 60
"""A day's work; more is said."""
STARTS_AT = time(8)


@dataclass(frozen=True, slots=True)
class Busy:
    """A time that is taken."""

    start: datetime
    minutes: int

    @property
    def end(self) -> datetime:
        """When it is over."""
        return self.start + timedelta(minutes=self.minutes)


def bounds(first: date, days: int = 1) -> tuple[datetime, datetime]:
    """Local midnight before and after some days; a day across a change of clocks has 23 or 25 hours."""
    return local_at(first), local_at(first + timedelta(days=days))


def monday_of(day: date) -> date:
    """The week's first day."""
    return day - timedelta(days=day.weekday())


def first_free(day: date, taken: Sequence[Busy], minutes: int = USUAL_MINUTES) -> datetime:
    """The first quarter hour from eight on at which somebody has that much time; after everything where there is no gap."""
    at = local_at(day, STARTS_AT)
    for busy in sorted(taken, key=lambda one: one.start):
        if busy.start >= at + timedelta(minutes=minutes):
            break
        at = max(at, _next_step(busy.end))
    return at


def _next_step(moment: datetime) -> datetime:
    whole = moment.replace(second=0, microsecond=0)
    off = whole.minute % STEP_MINUTES
    return whole if not off and whole == moment else whole + timedelta(minutes=STEP_MINUTES - off)

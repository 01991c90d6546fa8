"""Time on a visit, from its entries and its waits."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import datetime, timedelta

from dry_gauge.core.visit.time_spent import TimeSpent, time_spent
from dry_gauge.notebook.subjects.agenda import Agenda
from dry_gauge.notebook.subjects.hold import Holds
from dry_gauge.notebook.subjects.vacuum import Vacuum
from dry_gauge.present.visit import VisitView


def time_on(view: VisitView, written: Sequence[datetime]) -> TimeSpent:
    """Where a visit's time went; `written` are the moments of its entries, in order."""
    if not written:
        return TimeSpent()
    first, last = written[0], written[-1]

    def minutes(moment: datetime) -> float:
        return (moment - first).total_seconds() / 60

    spans = [(minutes(start), minutes(min(end or last, last))) for start, end in _waits(view)]
    return time_spent([minutes(moment) for moment in written], spans)


def _waits(view: VisitView) -> Iterator[tuple[datetime, datetime | None]]:
    for timer in view.state[Agenda].timers.values():
        due = timer.at + timedelta(minutes=timer.body.minutes)
        yield timer.at, min(due, timer.answered_at or due)
    for _, evacuation in view.state[Vacuum].in_order:
        yield evacuation.at, evacuation.answered_at
    for _, hold in view.state[Holds].in_order:
        yield hold.at, hold.answered_at


def hours_said(minutes: float) -> str:
    """Minutes as a technician writes them: 2 h 40 min."""
    whole = round(minutes)
    hours, rest = divmod(whole, 60)
    return f"{hours} h {rest} min" if hours and rest else f"{hours} h" if hours else f"{rest} min"


def time_said(spent: TimeSpent) -> str:
    """One line for the record; nothing where there is not a minute between first entry and last."""
    if spent.on_site + spent.away < 1:
        return ""
    parts = [f"{hours_said(spent.work)} at work"]
    if spent.waiting >= 1:
        parts.append(f"{hours_said(spent.waiting)} waiting")
    if spent.away >= 1:
        parts.append(f"{hours_said(spent.away)} away")
    return f"{hours_said(spent.on_site)}: " + ", ".join(parts) if len(parts) > 1 else parts[0]

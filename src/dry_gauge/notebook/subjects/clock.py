"""Since when it runs, was changed, was charged or came out of a defrost: what it settles from."""

from __future__ import annotations

from datetime import timedelta
from typing import Annotated, Literal

from pydantic import Field

from dry_gauge.notebook.fields import FULL_DAY_MINUTES
from dry_gauge.notebook.kind import Body, Entry, Kind, VisitState
from dry_gauge.notebook.subjects.readings import OUTLIVES_A_CHANGE, swept
from dry_gauge.notebook.subjects.running import ClockEvent, Running

CLOCK_WORDS = {
    ClockEvent.STARTED: "Unit started",
    ClockEvent.CHANGED: "Last change",
    ClockEvent.CHARGED: "Refrigerant went in",
    ClockEvent.DEFROSTED: "Defrost or thaw ended",
}


class ClockBody(Body):
    """When the unit started, was last changed, was charged or came out of a defrost: minutes before this was written."""

    kind: Literal["clock"] = "clock"
    event: ClockEvent
    minutes_ago: Annotated[float, Field(allow_inf_nan=False, ge=0, le=30 * FULL_DAY_MINUTES)]


_MOST_STARTS = 6
_CHANGES = frozenset({ClockEvent.CHARGED, ClockEvent.DEFROSTED})


def _clocked(visit: VisitState, entry: Entry, body: ClockBody) -> VisitState:
    running = visit[Running]
    moment = entry.written_at - timedelta(minutes=body.minutes_ago)
    changes = {f"{body.event.value}_at": moment, "read_at": max(entry.written_at, running.read_at or entry.written_at)}
    # Where the last change was that one, it is as long ago.
    if body.event in _CHANGES and running.changed_at is not None and running.changed_at == running.since(body.event):
        changes["changed_at"] = moment
    if body.event is ClockEvent.CHANGED:  # who says when counts, whatever the notebook took for a change
        visit = visit.changing(Running, turned_at=None, otherwise_until=None)
    if body.event is ClockEvent.STARTED:
        starts = (*running.starts, moment)[-_MOST_STARTS:]
        known = {"ran_at": changes["read_at"], "stood_until": None, "start_is_assumed": False}
        return visit.changing(Running, starts=starts, **known, **changes)
    return swept(visit.changing(Running, **changes), OUTLIVES_A_CHANGE, until=moment)


def _clock_said(body: ClockBody, _: VisitState) -> tuple[str, str]:
    return CLOCK_WORDS[body.event], f"{body.minutes_ago:g} min before"


def _sweeps(body: ClockBody) -> bool:
    return body.event is not ClockEvent.STARTED


KINDS = (Kind(ClockBody, _clock_said, _clocked, sweeps=_sweeps),)

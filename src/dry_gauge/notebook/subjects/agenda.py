"""What takes time or is left for later: timers, things to do before leaving, and what somebody comes back for."""

from __future__ import annotations

from collections.abc import Collection
from datetime import date
from enum import StrEnum
from typing import Annotated, Literal
from uuid import UUID

from pydantic import Field

from dry_gauge.core.errors import Refused
from dry_gauge.core.local_time import day_of
from dry_gauge.notebook.fields import FULL_DAY_MINUTES, FewWords, SomeWords
from dry_gauge.notebook.kind import Answered, Body, Case, Entry, Kind, Obstacle, Part, VisitState, Weight, kept, with_one


class TimerBody(Body):
    """Something that takes minutes: a thaw, a dwell, a wait."""

    kind: Literal["timer"] = "timer"
    what: SomeWords
    minutes: Annotated[float, Field(allow_inf_nan=False, gt=0, le=3 * FULL_DAY_MINUTES)]
    thaw: bool = False


class TimerEndBody(Body):
    """It is over, or was stopped."""

    kind: Literal["timer_end"] = "timer_end"
    timer: UUID


class FollowUpSort(StrEnum):
    """Why someone comes back."""

    RECHECK = "recheck"
    RETURN = "return"
    PART = "part"
    WATCH = "watch"
    SEASON = "season"


RECHECKS = frozenset({FollowUpSort.RECHECK})
"""Somebody comes back to look: it answers what may come again, a patch, a top-up, a reset."""
RETURNS = frozenset({FollowUpSort.RETURN, FollowUpSort.PART})
"""Somebody comes back to finish: it answers what is left undone, a leak, a lock-out, an empty unit, a hold."""


class FollowUpBody(Body):
    """Something left for later, with a date, so that it is not lost."""

    kind: Literal["follow_up"] = "follow_up"
    sort: FollowUpSort
    what: SomeWords
    due: date


class FollowUpDoneBody(Body):
    """It was seen to."""

    kind: Literal["follow_up_done"] = "follow_up_done"
    follow_up: UUID
    how: FewWords = ""


class TaskBody(Body):
    """Something to do on this unit before leaving."""

    kind: Literal["task"] = "task"
    what: SomeWords


class TaskDoneBody(Body):
    """Done."""

    kind: Literal["task_done"] = "task_done"
    task: UUID


class Agenda(Part):
    """By the entry's id."""

    timers: dict[str, Answered[TimerBody]] = {}
    follow_ups: dict[str, Answered[FollowUpBody]] = {}
    tasks: dict[str, Answered[TaskBody]] = {}

    @property
    def thawing(self) -> bool:
        """Whether a thaw is timed."""
        return any(timer.open and timer.body.thaw for timer in self.timers.values())

    def booked(self, sorts: Collection[FollowUpSort] = tuple(FollowUpSort)) -> bool:
        """Whether somebody is to come back, for one of those reasons."""
        return any(one.open and one.body.sort in sorts for one in self.follow_ups.values())


def time_set(visit: VisitState, entry: Entry, ident: UUID, body: TimerBody) -> VisitState:
    """The visit with a timer that follows from another entry, under an id that follows from it."""
    follows = entry.model_copy(update={"id": ident, "body": body})
    return visit.changing(Agenda, timers=visit[Agenda].timers | {str(ident): Answered[TimerBody](**kept(follows))})


def timer_over(visit: VisitState, entry: Entry, ident: UUID) -> VisitState:
    """The visit with that timer over, if it runs."""
    return visit.changing(Agenda, timers=with_one(visit[Agenda].timers, ident, answered_at=entry.written_at))


def _timed(visit: VisitState, entry: Entry, _: TimerBody) -> VisitState:
    timers = visit[Agenda].timers | {str(entry.id): Answered[TimerBody](**kept(entry))}
    return visit.changing(Agenda, timers=timers)


def _timer_ended(visit: VisitState, entry: Entry, body: TimerEndBody) -> VisitState:
    timers = with_one(visit[Agenda].timers, body.timer, answered_at=entry.written_at)
    return visit.changing(Agenda, timers=timers)


def thaw_ended(visit: VisitState, entry: Entry) -> VisitState:
    """The coil is clear: a thaw that was timed is over."""
    timers = {
        name: timer.model_copy(update={"answered_at": entry.written_at}) if timer.open and timer.body.thaw else timer
        for name, timer in visit[Agenda].timers.items()
    }
    return visit.changing(Agenda, timers=timers)


def _left(visit: VisitState, entry: Entry, _: FollowUpBody) -> VisitState:
    follow_ups = visit[Agenda].follow_ups | {str(entry.id): Answered[FollowUpBody](**kept(entry))}
    return visit.changing(Agenda, follow_ups=follow_ups)


def _seen_to(visit: VisitState, entry: Entry, body: FollowUpDoneBody) -> VisitState:
    done = with_one(visit[Agenda].follow_ups, body.follow_up, answered_at=entry.written_at, good=True, how=body.how)
    return visit.changing(Agenda, follow_ups=done)


def _to_do(visit: VisitState, entry: Entry, _: TaskBody) -> VisitState:
    return visit.changing(Agenda, tasks=visit[Agenda].tasks | {str(entry.id): Answered[TaskBody](**kept(entry))})


def _done(visit: VisitState, entry: Entry, body: TaskDoneBody) -> VisitState:
    tasks = with_one(visit[Agenda].tasks, body.task, answered_at=entry.written_at, good=True)
    return visit.changing(Agenda, tasks=tasks)


def _past(case: Case[FollowUpBody]) -> None:
    body = case.body
    if body.due < day_of(case.entry.written_at):
        raise Refused("That date is past: give the day on which someone comes back.", "due")


def _what(found: Answered[TimerBody] | Answered[TaskBody] | None) -> str:
    return found.body.what if found else ""


def _running(visit: VisitState) -> list[Obstacle]:
    return [
        Obstacle("timer", f"Still running: {timer.body.what}.", str(timer.entry_id))
        for timer in visit[Agenda].timers.values()
        if timer.open
    ]


def _undone(visit: VisitState) -> list[Obstacle]:
    return [
        Obstacle("task", f"To do: {task.body.what}.", str(task.entry_id), weight=Weight.ERRAND)
        for task in visit[Agenda].tasks.values()
        if task.open
    ]


KINDS = (
    Kind(TimerBody, lambda body, _: ("Timer", f"{body.what}, {body.minutes:g} min"), _timed, leaves_open=_running),
    Kind(TimerEndBody, lambda body, visit: ("Timer ended", _what(visit[Agenda].timers.get(str(body.timer)))), _timer_ended,
         refers=lambda case: {"timer": case.visit[Agenda].timers.get(str(case.body.timer))}),
    Kind(FollowUpBody, lambda body, _: ("Follow-up", f"{body.what}, {body.due:%d %b %Y}"), _left, refuse=_past),
    Kind(FollowUpDoneBody, lambda body, _: ("Follow-up done", body.how), _seen_to,
         refers=lambda case: {"follow_up": case.visit[Agenda].follow_ups.get(str(case.body.follow_up))}),
    Kind(TaskBody, lambda body, _: ("To do", body.what), _to_do, leaves_open=_undone),
    Kind(TaskDoneBody, lambda body, visit: ("Done", _what(visit[Agenda].tasks.get(str(body.task)))), _done,
         refers=lambda case: {"task": case.visit[Agenda].tasks.get(str(case.body.task))}),
)  # fmt: skip

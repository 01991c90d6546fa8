"""How the call stands: complaint, claims, timers, what was done, what is still lifted, what is left. A fold like the rest."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime, timedelta
from typing import Any, Generic, TypeVar
from uuid import UUID

from pydantic import BaseModel, ConfigDict

from dry_gauge.core.vocabulary import Mode
from dry_gauge.notebook import calling as c
from dry_gauge.notebook.entries import Entry
from dry_gauge.notebook.measuring import ClockBody, Condition, ConditionBody, StageBody

_Body = TypeVar("_Body", bound=BaseModel)
_MOST_STARTS = 6


class Kept(BaseModel, Generic[_Body]):
    """An entry that still counts: a reading, an answer, a claim, a change."""

    model_config = ConfigDict(frozen=True)
    entry_id: UUID
    at: datetime
    body: _Body


class Settled(Kept[_Body], Generic[_Body]):
    """One that a later entry settles: a claim checked, a timer ended, a change put back. `good` is how it turned out."""

    settled_at: datetime | None = None
    good: bool | None = None
    how: str = ""

    @property
    def open(self) -> bool:
        """Whether it still waits."""
        return self.settled_at is None


class KeptTest(Settled[c.FailedTestBody]):
    """A failed measurement; its proof counts only after the last change."""

    before: str = ""
    """What it read when it failed, as it was typed."""
    mode: Mode | None = None
    stage: str = ""
    """What the unit ran in then: it is repeated in the same."""


class CallState(BaseModel):
    """Everything about the call that is not a number on the sheet; dictionaries go by the entry's id."""

    model_config = ConfigDict(frozen=True)
    complaint: Kept[c.ComplaintBody] | None = None
    claims: dict[str, Settled[c.ClaimBody]] = {}
    conditions: dict[Condition, Kept[ConditionBody]] = {}
    stage: Kept[StageBody] | None = None
    timers: dict[str, Settled[c.TimerBody]] = {}
    actions: dict[str, Kept[c.ActionBody]] = {}
    tests: dict[str, KeptTest] = {}
    temporary: dict[str, Settled[c.TemporaryBody]] = {}
    trips: dict[str, Kept[c.TripBody]] = {}
    cautions: dict[str, Kept[c.CautionBody]] = {}
    lockouts: dict[str, Kept[c.LockoutBody]] = {}
    red_tags: dict[str, Kept[c.RedTagBody]] = {}
    follow_ups: dict[str, Settled[c.FollowUpBody]] = {}
    tasks: dict[str, Settled[c.TaskBody]] = {}
    photos: dict[str, Kept[c.PhotoBody]] = {}
    closing: Kept[c.ClosingBody] | None = None
    starts: tuple[datetime, ...] = ()

    @property
    def lifted(self) -> tuple[Settled[c.TemporaryBody], ...]:
        """Temporary changes still in place."""
        return tuple(change for change in self.temporary.values() if change.open)

    @property
    def locked(self) -> tuple[str, ...]:
        """Disconnects that are locked out."""
        return tuple(name for name, kept in self.lockouts.items() if kept.body.locked)

    @property
    def tags(self) -> tuple[Condition, ...]:
        """What readings taken now would be taken under."""
        from_changes = {_TAGGED_BY[change.body.sort] for change in self.lifted if change.body.sort in _TAGGED_BY}
        thawing = {Condition.THAWING} if any(t.open and t.body.thaw for t in self.timers.values()) else set()
        return tuple(sorted({*self.conditions, *from_changes, *thawing}))

    @property
    def running_stage(self) -> str:
        """The stage that was seen to run; nothing if nobody looked."""
        return self.stage.body.actual if self.stage else ""

    @property
    def last_action(self) -> Kept[c.ActionBody] | None:
        """The latest thing done."""
        return max(self.actions.values(), key=lambda kept: kept.at, default=None)

    def trip_counts(self) -> dict[str, tuple[int, int]]:
        """Trips and resets by switch."""
        counts: dict[str, tuple[int, int]] = {}
        for kept in self.trips.values():
            trips, resets = counts.get(kept.body.switch, (0, 0))
            tripped = kept.body.event == "trip"
            counts[kept.body.switch] = (trips + tripped, resets + (not tripped))
        return counts


_TAGGED_BY = {
    c.ChangeSort.COVER: Condition.PANEL_OFF,
    c.ChangeSort.FILTER: Condition.FILTER_OUT,
    c.ChangeSort.FAN_COVERED: Condition.FAN_COVERED,
}


def _kept(entry: Entry) -> dict[str, Any]:
    return {"entry_id": entry.id, "at": entry.written_at, "body": entry.body}


def _settle(
    found: Mapping[str, Settled[_Body]], key: UUID, at: datetime, good: bool | None, how: str = ""
) -> dict[str, Settled[_Body]]:
    """The same, with that one settled; an unknown one (its entry was voided) changes nothing."""
    one = found.get(str(key))
    if one is None:
        return dict(found)
    return {**found, str(key): one.model_copy(update={"settled_at": at, "good": good, "how": how})}


def fold_call(call: CallState, entry: Entry, read_before: str = "", mode: Mode | None = None) -> CallState:
    """The call after one more entry; entries about other things change nothing.

    Parameters
    ----------
    read_before : str
        For a failed test: what its quantity read when it was named.
    mode : Mode or None
        What the unit runs in, where the visit has said so.
    """
    key, at, kept = str(entry.id), entry.written_at, _kept(entry)
    match entry.body:
        case c.ComplaintBody():
            changes: dict[str, Any] = {"complaint": Kept[c.ComplaintBody](**kept)}
        case c.ClaimBody():
            changes = {"claims": call.claims | {key: Settled[c.ClaimBody](**kept)}}
        case c.ClaimCheckBody() as body:
            changes = {"claims": _settle(call.claims, body.claim, at, body.true, body.how)}
        case ConditionBody() as body:
            others = {name: one for name, one in call.conditions.items() if name != body.condition}
            now = {body.condition: Kept[ConditionBody](**kept)} if body.on else {}
            changes = {"conditions": others | now}
        case StageBody():
            changes = {"stage": Kept[StageBody](**kept)}
        case c.TimerBody():
            changes = {"timers": call.timers | {key: Settled[c.TimerBody](**kept)}}
        case c.TimerEndBody() as body:
            changes = {"timers": _settle(call.timers, body.timer, at, None)}
        case c.ActionBody() as body:
            changes = {"actions": call.actions | {key: Kept[c.ActionBody](**kept)}}
            if body.sort is c.ActionSort.THAWED:
                changes["timers"] = {
                    name: timer.model_copy(update={"settled_at": at}) if timer.open and timer.body.thaw else timer
                    for name, timer in call.timers.items()
                }
        case c.FailedTestBody():
            changes = {
                "tests": call.tests | {key: KeptTest(**kept, before=read_before, mode=mode, stage=call.running_stage)}
            }
        case c.ProofBody() as body:
            changes = {"tests": _settle(call.tests, body.failed_test, at, body.passed, body.how)}
        case c.TemporaryBody():
            changes = {"temporary": call.temporary | {key: Settled[c.TemporaryBody](**kept)}}
        case c.RestoredBody() as body:
            changes = {"temporary": _settle(call.temporary, body.change, at, True, body.how)}
        case c.TripBody():
            changes = {"trips": call.trips | {key: Kept[c.TripBody](**kept)}}
        case c.CautionBody() as body:
            changes = {"cautions": call.cautions | {body.code: Kept[c.CautionBody](**kept)}}
        case c.LockoutBody() as body:
            changes = {"lockouts": call.lockouts | {body.disconnect: Kept[c.LockoutBody](**kept)}}
        case c.RedTagBody():
            changes = {"red_tags": call.red_tags | {key: Kept[c.RedTagBody](**kept)}}
        case c.FollowUpBody():
            changes = {"follow_ups": call.follow_ups | {key: Settled[c.FollowUpBody](**kept)}}
        case c.FollowUpDoneBody() as body:
            changes = {"follow_ups": _settle(call.follow_ups, body.follow_up, at, True, body.how)}
        case c.TaskBody():
            changes = {"tasks": call.tasks | {key: Settled[c.TaskBody](**kept)}}
        case c.TaskDoneBody() as body:
            changes = {"tasks": _settle(call.tasks, body.task, at, True)}
        case c.PhotoBody():
            changes = {"photos": call.photos | {key: Kept[c.PhotoBody](**kept)}}
        case c.ClosingBody():
            changes = {"closing": Kept[c.ClosingBody](**kept)}
        case ClockBody(event="started", minutes_ago=minutes):
            changes = {"starts": (*call.starts, at - timedelta(minutes=minutes))[-_MOST_STARTS:]}
        case _:
            return call
    return call.model_copy(update=changes)

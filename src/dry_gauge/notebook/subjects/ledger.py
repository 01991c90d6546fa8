"""What was lifted, bridged, locked out, tagged, tripped: everything that has to be as it was before anyone leaves."""

from __future__ import annotations

from collections.abc import Collection
from enum import StrEnum
from typing import Annotated, Literal
from uuid import UUID, uuid5

from pydantic import Field

from dry_gauge.core.errors import Refused
from dry_gauge.core.office.signature import signature_of
from dry_gauge.notebook.fields import FewWords, SomeWords
from dry_gauge.notebook.kind import (
    Answered,
    Body,
    Case,
    Entry,
    Kept,
    Kind,
    Obstacle,
    Part,
    VisitState,
    Weight,
    in_time,
    kept,
    with_one,
)
from dry_gauge.notebook.subjects.agenda import RECHECKS, RETURNS, Agenda
from dry_gauge.notebook.subjects.running import Running, ran_otherwise


class ChangeSort(StrEnum):
    """What can be lifted, bridged or set for a while."""

    JUMPER = "jumper"
    SAFETY = "safety"
    UNPLUGGED = "unplugged"
    SETPOINT = "setpoint"
    VALVE = "valve"
    COVER = "cover"
    FILTER = "filter"
    FAN_COVERED = "fan_covered"
    DISCONNECT = "disconnect"
    OTHER = "other"


CHANGE_WORDS = {
    ChangeSort.JUMPER: "Jumper fitted",
    ChangeSort.SAFETY: "Safety bypassed",
    ChangeSort.UNPLUGGED: "Plug or wire off",
    ChangeSort.SETPOINT: "Setpoint changed",
    ChangeSort.VALVE: "Valve turned",
    ChangeSort.COVER: "Panel or cover off",
    ChangeSort.FILTER: "Filter out",
    ChangeSort.FAN_COVERED: "Fan opening covered",
    ChangeSort.DISCONNECT: "Disconnect off",
    ChangeSort.OTHER: "Something else",
}


class TemporaryBody(Body):
    """Something changed for a while: it is put back before anyone leaves."""

    kind: Literal["temporary"] = "temporary"
    sort: ChangeSort
    where: SomeWords
    was: FewWords = ""
    belongs_to: FewWords = ""
    """Whose it is, where it is not this unit's: a fire panel, a building computer, a process."""
    permission: FewWords = ""


class RestoredBody(Body):
    """It is back as it was."""

    kind: Literal["restored"] = "restored"
    change: UUID
    how: FewWords = ""


class TripBody(Body):
    """A switch tripped, or was reset. A reset is not a repair: without a cause it stays open until a recheck."""

    kind: Literal["trip"] = "trip"
    event: Literal["trip", "reset"]
    switch: SomeWords
    cause: FewWords = ""


class LockoutBody(Body):
    """A disconnect locked out and proven dead, or unlocked."""

    kind: Literal["lockout"] = "lockout"
    disconnect: SomeWords
    locked: bool


class RedTagBody(Body):
    """The unit or its heat is unsafe: off, tagged, and somebody was told."""

    kind: Literal["red_tag"] = "red_tag"
    danger: SomeWords
    told: SomeWords
    gas_off: bool = False
    tag: FewWords = ""
    heard: Literal["signed", "refused", "absent"] | None = None
    """What whoever was told did: signed the notice, refused to, or was not there."""
    how: FewWords = ""
    """How they were told, where they did not sign."""
    signature: Annotated[str, Field(max_length=60_000)] = ""
    """As it was drawn, see `core.office.signature`."""

    @property
    def ends_combustion(self) -> bool:
        """Whether it makes danger from combustion safe: gas off, and somebody told who answered or was not there (R65)."""
        return self.gas_off and self.heard is not None


class Ledger(Part):
    """By the entry's id; disconnects by name."""

    temporary: dict[str, Answered[TemporaryBody]] = {}
    trips: dict[str, Kept[TripBody]] = {}
    lockouts: dict[str, Kept[LockoutBody]] = {}
    red_tags: dict[str, Kept[RedTagBody]] = {}

    @property
    def lifted(self) -> tuple[Answered[TemporaryBody], ...]:
        """Temporary changes still in place."""
        return tuple(change for change in self.temporary.values() if change.open)

    @property
    def lifted_sorts(self) -> frozenset[ChangeSort]:
        """What sorts of them."""
        return frozenset(change.body.sort for change in self.lifted)

    @property
    def locked(self) -> tuple[str, ...]:
        """Disconnects that are locked out."""
        return tuple(sorted(name for name, one in self.lockouts.items() if one.body.locked))

    def trip_counts(self) -> dict[str, tuple[int, int]]:
        """Trips and resets by switch."""
        counts: dict[str, tuple[int, int]] = {}
        for one in self.trips.values():
            trips, resets = counts.get(one.body.switch, (0, 0))
            tripped = one.body.event == "trip"
            counts[one.body.switch] = (trips + tripped, resets + (not tripped))
        return dict(sorted(counts.items()))


def set_aside(visit: VisitState, entry: Entry, sort: ChangeSort, where: str, was: str = "") -> VisitState:
    """The visit with something set aside that follows from another entry: it stands on the ledger by itself.

    Its id is made from the entry's, so that the same entries give the same ledger.
    """
    follows = entry.model_copy(update={"id": uuid5(entry.id, where), "body": TemporaryBody(sort=sort, where=where, was=was)})
    return _changed(visit, follows, TemporaryBody(sort=sort, where=where, was=was))


def taken_back_up(visit: VisitState, entry: Entry, wheres: Collection[str], how: str) -> VisitState:
    """The visit with those things, still set aside, back in their places."""
    for key, change in visit[Ledger].temporary.items():
        if change.open and change.body.where in wheres:
            visit = _restored(visit, entry, RestoredBody(change=UUID(key), how=how))
    return visit


_RUNS_OTHERWISE = frozenset({ChangeSort.VALVE, ChangeSort.COVER, ChangeSort.FILTER, ChangeSort.FAN_COVERED})


def _changed(visit: VisitState, entry: Entry, body: TemporaryBody) -> VisitState:
    temporary = visit[Ledger].temporary | {str(entry.id): Answered[TemporaryBody](**kept(entry))}
    visit = visit.changing(Ledger, temporary=temporary)
    return ran_otherwise(visit, entry) if body.sort in _RUNS_OTHERWISE else visit


def _restored(visit: VisitState, entry: Entry, body: RestoredBody) -> VisitState:
    lifted = visit[Ledger].temporary.get(str(body.change))
    back = with_one(visit[Ledger].temporary, body.change, answered_at=entry.written_at, good=True, how=body.how)
    visit = visit.changing(Ledger, temporary=back)
    return ran_otherwise(visit, entry) if lifted and lifted.body.sort in _RUNS_OTHERWISE else visit


def _tripped(visit: VisitState, entry: Entry, body: TripBody) -> VisitState:
    visit = visit.changing(Ledger, trips=visit[Ledger].trips | {str(entry.id): Kept[TripBody](**kept(entry))})
    return visit.changing(Running, stood_until=entry.written_at) if body.event == "reset" else visit


def _locked(visit: VisitState, entry: Entry, body: LockoutBody) -> VisitState:
    stood = visit[Ledger].locked
    lockouts = visit[Ledger].lockouts | {body.disconnect: Kept[LockoutBody](**kept(entry))}
    visit = visit.changing(Ledger, lockouts=lockouts)
    goes_on = stood and not visit[Ledger].locked
    return visit.changing(Running, stood_until=entry.written_at) if goes_on else visit


def _tagged(visit: VisitState, entry: Entry, _: RedTagBody) -> VisitState:
    return visit.changing(Ledger, red_tags=visit[Ledger].red_tags | {str(entry.id): Kept[RedTagBody](**kept(entry))})


def _still_lifted(visit: VisitState) -> list[Obstacle]:
    ledger, found = visit[Ledger], []
    for change in ledger.lifted:
        words = f"{CHANGE_WORDS[change.body.sort]}: {change.body.where}. Put it back."
        # A bypassed safety may stay only on a unit that cannot run.
        firm = change.body.sort is ChangeSort.SAFETY and not (ledger.locked and ledger.red_tags)
        if firm:
            words = f"Safety bypassed: {change.body.where}. Take the bypass out, or lock the unit out and tag it."
        found.append(Obstacle("temporary", words, str(change.entry_id), firm, Weight.SAFETY))
    return found


def _still_locked(visit: VisitState) -> list[Obstacle]:
    ledger = visit[Ledger]
    if not ledger.locked or ledger.red_tags or visit[Agenda].booked(RETURNS):
        return []
    names = ", ".join(ledger.locked)
    words = f"Locked out: {names}. Unlock, or book the return that ends it."
    return [Obstacle("locked", words, weight=Weight.SAFETY)]


def _reset_without_cause(visit: VisitState) -> list[Obstacle]:
    if visit[Agenda].booked(RECHECKS):
        return []
    latest: dict[str, Kept[TripBody]] = {}
    explained: set[str] = set()
    for one in in_time(visit[Ledger].trips.values()):
        switch = one.body.switch
        if one.body.cause:  # it says why it tripped, now and the times before
            explained.add(switch)
            latest.pop(switch, None)
        elif one.body.event == "trip":
            explained.discard(switch)
        elif switch not in explained:
            latest[switch] = one
    return [
        Obstacle(
            "reset",
            f"{switch} was reset and nobody knows why it tripped. A reset is no repair: book a recheck.",
            str(one.entry_id),
            weight=Weight.PROOF,
        )
        for switch, one in latest.items()
    ]


def _change_said(body: TemporaryBody, _: VisitState) -> tuple[str, str]:
    return CHANGE_WORDS[body.sort], "; ".join(filter(None, (body.where, body.was and f"was {body.was}")))


def _restored_said(body: RestoredBody, visit: VisitState) -> tuple[str, str]:
    change = visit[Ledger].temporary.get(str(body.change))
    return "Put back", change.body.where if change else body.how


def _trip_said(body: TripBody, _: VisitState) -> tuple[str, str]:
    cause = body.cause or ("cause not known" if body.event == "reset" else "")
    return f"{body.switch} {'tripped' if body.event == 'trip' else 'reset'}", cause


HEARD_WORDS = {"signed": "signed", "refused": "refused to sign", "absent": "was not there"}


def _tag_said(body: RedTagBody, _: VisitState) -> tuple[str, str]:
    known = (f"tag {body.tag}" if body.tag else "", "gas off" if body.gas_off else "", HEARD_WORDS.get(body.heard or "", ""))
    return "Red tag", "; ".join(filter(None, (body.danger, f"told {body.told}", *known, body.how)))


def _tag_is_whole(case: Case[RedTagBody]) -> None:
    body = case.body
    if body.heard in ("refused", "absent") and not body.how:
        raise Refused("Say how they were told: a letter, a call, a note on the door, and when.", "how")
    if body.heard == "signed":
        try:
            signature_of(body.signature, typed=not body.signature)
        except Refused:
            words = "That is too little for a signature. Draw it again, or clear it: the name stands then."
            raise Refused(words, "signature") from None


def _change_of(case: Case[RestoredBody]) -> dict[str, object]:
    body = case.body
    return {"change": case.visit[Ledger].temporary.get(str(body.change))}


KINDS = (
    Kind(TemporaryBody, _change_said, _changed, leaves_open=_still_lifted, happened=True, firm=True),
    Kind(RestoredBody, _restored_said, _restored, refers=_change_of, happened=True, firm=True,
         sweeps=True),
    Kind(LockoutBody, lambda body, _: ("Locked out, proven dead" if body.locked else "Unlocked", body.disconnect), _locked,
         leaves_open=_still_locked, happened=True, firm=True),
    Kind(RedTagBody, _tag_said, _tagged, refuse=_tag_is_whole, firm=True),
    Kind(TripBody, _trip_said, _tripped, leaves_open=_reset_without_cause, happened=True, firm=True),
)  # fmt: skip

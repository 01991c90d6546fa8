"""A visit's notebook: append an entry, fold, judge, save, in one transaction; or load it to be shown."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import Connection

from dry_gauge.core.errors import ImpossibleAir, Refused
from dry_gauge.core.intake import make_observation, make_reading
from dry_gauge.core.judgement.assess import JUDGED_BY, Assessment, assess
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import QUANTITIES, Mode, School
from dry_gauge.exchange.reading_sheet import UnitJson, unit_from
from dry_gauge.notebook.calling import (
    ClaimCheckBody,
    ClosingBody,
    FailedTestBody,
    FollowUpBody,
    FollowUpDoneBody,
    ProofBody,
    RestoredBody,
    TaskDoneBody,
    TimerEndBody,
)
from dry_gauge.notebook.closing import obstacles
from dry_gauge.notebook.entries import LONGEST_WAIT_SECONDS, Body, Entry, VoidBody
from dry_gauge.notebook.measuring import ModeBody, ObservationBody, ReadingBody
from dry_gauge.notebook.proving import proving
from dry_gauge.notebook.sealed import PourBody, PourEndBody
from dry_gauge.notebook.state import VisitState, facts_in, fold, fold_all, refused_now, sheet_before, sheet_of
from dry_gauge.service import cylinders
from dry_gauge.service.sealed_checks import check_sealed, refers_to
from dry_gauge.store import follow_ups, visits
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import Standing, VisitRow


class NotHere(LookupError):
    """No such visit, unit or entry in this shop."""


class NotAllowed(Exception):
    """Someone's role does not add entries."""


class IdTaken(Exception):
    """The entry's id already stands for something else."""


@dataclass(frozen=True, slots=True)
class VisitView:
    """A visit as it stands, judged; `assessment` is None where the readings cannot be judged, `why_not` says why."""

    visit: VisitRow
    facts: UnitFacts
    state: VisitState
    assessment: Assessment | None
    why_not: Mapping[str, str]


@dataclass(frozen=True, slots=True)
class Appended:
    """What became of an entry: `repeated` if it was here already, `taken_back` the entry that a void was about."""

    entry: Entry
    view: VisitView
    repeated: bool
    taken_back: Entry | None = None


def facts_of(facts: dict[str, Any]) -> UnitFacts:
    """The unit card's facts in SI."""
    return unit_from(UnitJson.model_validate(facts, strict=False))


def view_of(visit: VisitRow, school: str) -> VisitView:
    """Judge a visit as it stands."""
    return _judged(visit, VisitState.model_validate(visit.state), school)


def _judged(visit: VisitRow, state: VisitState, school: str) -> VisitView:
    facts = facts_in(state, facts_of(visit.facts))
    why_not = refused_now(state, facts)
    try:
        return VisitView(visit, facts, state, assess(sheet_of(state, facts, School(school))), why_not)
    except ImpossibleAir as refusal:
        return VisitView(visit, facts, state, None, {**why_not, refusal.quantity: refusal.message})


def judged_before(view: VisitView) -> Assessment | None:
    """What was read before the latest action, for the ghost on the ladder; None where nothing was."""
    earlier = sheet_before(view.state, view.facts)
    if earlier is None:
        return None
    try:
        return assess(earlier)
    except ImpossibleAir:  # a void has left half of it
        return None


def load(connection: Connection, someone: Someone, visit_id: UUID) -> VisitView:
    """A visit to be shown.

    Raises
    ------
    NotHere
    """
    visit = visits.find_visit(connection, visit_id)
    if visit is None:
        raise NotHere("There is no such visit in your shop.")
    return view_of(visit, someone.superheat_school)


def append(
    connection: Connection,
    someone: Someone,
    visit_id: UUID,
    entry_id: UUID,
    body: Body,
    now: datetime,
    device_time: datetime | None = None,
    waited_seconds: int = 0,
) -> Appended:
    """Add an entry and judge the visit anew. Acknowledge it only once the transaction is committed.

    The same entry sent again changes nothing and answers as the first time did.

    Raises
    ------
    NotHere, NotAllowed
    Refused
        For a reading that cannot be on this unit, a void of nothing, or a closed visit.
    IdTaken
        If that id already stands for another entry.
    """
    visit = visits.find_visit(connection, visit_id, lock=True)
    if visit is None:
        raise NotHere("There is no such visit in your shop.")
    if not someone.may_write:
        raise NotAllowed("Your role reads along; a technician or lead adds entries.")
    state = VisitState.model_validate(visit.state)
    if isinstance(body, ClosingBody):  # what is let go is named by us, not by whoever sends it
        body = body.model_copy(update={"let_go": tuple(one.words[:200] for one in obstacles(state, body.outcome))})
    entry = Entry(
        id=entry_id,
        sequence=state.sequence + 1,
        person_id=someone.person_id,
        received_at=now,
        device_time=device_time,
        waited_seconds=min(max(waited_seconds, 0), LONGEST_WAIT_SECONDS),
        body=body,
    )
    try:
        _check(visit, state, someone, entry)
        taken_back = _voided(connection, visit_id, body)
        # Every refusal comes before the first write: a refused entry leaves nothing to undo.
        voids = isinstance(body, VoidBody)
        after = fold_all([*visits.all_entries(connection, visit_id), entry]) if voids else fold(state, entry)
        view = _judged(visit, after, someone.superheat_school)
        if isinstance(body, ReadingBody) and body.quantity in view.why_not:
            raise Refused(view.why_not[body.quantity], "value")
        if isinstance(body, PourBody):  # before anything flows, not when it is in the wrong cylinder already
            cylinders.check_cylinder(connection, body.cylinder, body.way, view.facts, body.converting, now.date())
        why = body.reason if isinstance(body, PourEndBody) else ""
        booking = cylinders.prepare(connection, someone, visit, view.facts, state.sealed, after.sealed, now, why)
    except Refused:
        # What was kept once stays acknowledged, even if it would be refused today.
        repeated = _repeated(connection, visit, state, someone, entry)
        if repeated:
            return repeated
        raise
    written = after.model_dump(mode="json", exclude_none=True, exclude_defaults=True)
    standing = _standing(visit, state, after)
    if not visits.keep(connection, someone.shop_id, visit_id, entry, written, standing):
        # The id is taken; or it is free and what is taken is the void of the same entry, which is then done already.
        return _repeated(connection, visit, state, someone, entry) or Appended(
            entry, _judged(visit, state, someone.superheat_school), True, taken_back
        )
    booking.write(connection, now)
    if after.call.follow_ups != state.call.follow_ups:
        follow_ups.keep_in_step(connection, someone.shop_id, visit, state.call.follow_ups, after.call.follow_ups)
    now_stands = replace(visit, sequence=entry.sequence, status=standing.status, summary=standing.summary,
                         outcome=standing.outcome, closed_at=standing.closed_at)  # fmt: skip
    return Appended(entry, replace(view, visit=now_stands), False, taken_back)


def _standing(visit: VisitRow, before: VisitState, after: VisitState) -> Standing:
    """What the visit's row says after an entry."""
    closing = after.call.closing
    if closing is not None:
        return Standing("closed", closing.body.summary, closing.body.outcome.value, closing.at, JUDGED_BY)
    if visit.status == "closed" and before.call.closing is None:  # closed before there were closing entries
        return Standing("closed", visit.summary, visit.outcome, visit.closed_at, JUDGED_BY)
    return Standing("open", "", "", None, JUDGED_BY)


def _repeated(
    connection: Connection, visit: VisitRow, state: VisitState, someone: Someone, entry: Entry
) -> Appended | None:
    """The answer to an entry that was here already; None if its id is new.

    Raises
    ------
    IdTaken
    """
    known = visits.find_entry(connection, entry.id)
    if known is None:
        return None
    if known[0] != visit.id or known[1].body != entry.body:
        raise IdTaken("This entry's id already stands for another entry. Reload the page and enter it again.")
    view = _judged(visit, state, someone.superheat_school)
    return Appended(known[1], view, True, _voided(connection, visit.id, entry.body))


def _check(visit: VisitRow, state: VisitState, someone: Someone, entry: Entry) -> None:
    """Refuse what cannot be in this notebook.

    Raises
    ------
    Refused
    """
    body = entry.body
    if visit.status == "closed":
        _check_closed(visit, state, someone, entry)
    match body:
        case ReadingBody():
            make_reading(facts_of(visit.facts), body.quantity, body.value, body.unit, body.accuracy)
            _check_range(state, body)
        case ObservationBody():
            make_observation(body.what, body.state)
        case ModeBody() if body.mode is Mode.HEATING and not facts_of(visit.facts).kind.is_heat_pump:
            raise Refused("This unit has no heating mode; only heat pumps do.", "mode")
        case FailedTestBody() if body.quantity not in QUANTITIES:
            raise Refused("Choose the measurement that shows the complaint.", "quantity")
        case ProofBody():
            _check_proof(state, body)
        case FollowUpBody() if body.due < entry.written_at.date():
            raise Refused("That date is past: give the day on which someone comes back.", "due")
        case ClosingBody():
            _check_closing(state, body)
    check_sealed(state, facts_in(state, facts_of(visit.facts)), body)
    for name, found in (*_points_at(state, body), *refers_to(state.sealed, body)):
        if found is None:
            raise Refused("What this is about is not in this visit any more: it was taken back.", name)


def _check_range(state: VisitState, body: ReadingBody) -> None:
    used = state.in_use.get(QUANTITIES[body.quantity].dimension)
    if body.source == "typed" and used and not used.holds(body.value, body.unit):
        low, high = ("" if end is None else f"{end:g}" for end in (used.low, used.high))
        raise Refused(f"{used.instrument} reads {low} to {high} {used.unit}; {body.value:g} is beyond it. Read it with another, "
                      "and say which.", "value")  # fmt: skip


def _check_closed(visit: VisitRow, state: VisitState, someone: Someone, entry: Entry) -> None:
    closing = state.call.closing
    reopens = closing is not None and isinstance(entry.body, VoidBody) and entry.body.voids == closing.entry_id
    if reopens and may_reopen(someone, state):
        return
    if reopens:
        raise Refused("This visit is closed. A lead can open it again.")
    # Written on the roof before it was closed, and only now sent: it belongs here.
    if visit.closed_at is None or entry.written_at > visit.closed_at or isinstance(entry.body, ClosingBody):
        raise Refused("This visit is closed: its record stays as it is. Open a new visit for new readings.")


def may_reopen(someone: Someone, state: VisitState) -> bool:
    """Whether someone may open a closed visit again: a lead, or whoever comes back to read what stands under pressure."""
    return someone.role == "lead" or (someone.may_write and bool(state.sealed.holding))


def _check_proof(state: VisitState, body: ProofBody) -> None:
    test = state.call.tests.get(str(body.failed_test))
    stands = proving(state, test) if test else None
    if stands and stands.again is None:
        raise Refused(f"{stands.to_do} The measurement that failed is the one that proves.", "passed")


def _check_closing(state: VisitState, body: ClosingBody) -> None:
    standing = obstacles(state, body.outcome)
    firm = [one for one in standing if one.firm]
    if firm:
        raise Refused(firm[0].words, "override")
    if standing and len(body.override) < _LEAST_REASON:
        raise Refused(f"{standing[0].words} Or say why it stays so.", "override")


_LEAST_REASON = 3


def _points_at(state: VisitState, body: Body) -> list[tuple[str, object]]:
    """What an entry refers to, by field; None where it is not there."""
    call = state.call
    match body:
        case ClaimCheckBody():
            return [("claim", call.claims.get(str(body.claim)))]
        case TimerEndBody():
            return [("timer", call.timers.get(str(body.timer)))]
        case ProofBody():
            return [("failed_test", call.tests.get(str(body.failed_test)))]
        case RestoredBody():
            return [("change", call.temporary.get(str(body.change)))]
        case FollowUpDoneBody():
            return [("follow_up", call.follow_ups.get(str(body.follow_up)))]
        case TaskDoneBody():
            return [("task", call.tasks.get(str(body.task)))]
        case _:
            return []


def _voided(connection: Connection, visit_id: UUID, body: Body) -> Entry | None:
    """The entry that `body` takes back."""
    if not isinstance(body, VoidBody):
        return None
    found = visits.find_entry(connection, body.voids)
    if found is None or found[0] != visit_id:
        raise Refused("The entry to take back is not in this visit.", "voids")
    if isinstance(found[1].body, VoidBody):
        raise Refused("A void cannot be voided: enter the value again instead.", "voids")
    return found[1]

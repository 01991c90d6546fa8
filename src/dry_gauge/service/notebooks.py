"""A visit's notebook: append an entry, fold, judge, save, in one transaction; or load it to be shown."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import Connection

from dry_gauge.core.errors import ImpossibleAir, Refused
from dry_gauge.core.intake import make_observation, make_reading
from dry_gauge.core.judgement.assess import JUDGED_BY, Assessment, assess
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import Mode, School
from dry_gauge.exchange.reading_sheet import UnitJson, unit_from
from dry_gauge.notebook.entries import Body, Entry, ModeBody, ObservationBody, ReadingBody, VoidBody
from dry_gauge.notebook.state import VisitState, facts_in, fold, fold_all, refused_now, sheet_of
from dry_gauge.store import visits
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import VisitRow


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
    entry = Entry(
        id=entry_id,
        sequence=state.sequence + 1,
        person_id=someone.person_id,
        received_at=now,
        device_time=device_time,
        body=body,
    )
    try:
        _check(visit, body)
        taken_back = _voided(connection, visit_id, body)
        # Every refusal comes before the first write: a refused entry leaves nothing to undo.
        voids = isinstance(body, VoidBody)
        after = fold_all([*visits.all_entries(connection, visit_id), entry]) if voids else fold(state, entry)
        view = _judged(visit, after, someone.superheat_school)
        if isinstance(body, ReadingBody) and body.quantity in view.why_not:
            raise Refused(view.why_not[body.quantity], "value")
    except Refused:
        # What was kept once stays acknowledged, even if it would be refused today.
        repeated = _repeated(connection, visit, state, someone, entry)
        if repeated:
            return repeated
        raise
    written = after.model_dump(mode="json", exclude_none=True)
    if not visits.keep(connection, someone.shop_id, visit_id, entry, written, JUDGED_BY):
        # The id is taken; or it is free and what is taken is the void of the same entry, which is then done already.
        return _repeated(connection, visit, state, someone, entry) or Appended(
            entry, _judged(visit, state, someone.superheat_school), True, taken_back
        )
    return Appended(entry, view, False, taken_back)


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


def _check(visit: VisitRow, body: Body) -> None:
    if visit.status == "closed":
        raise Refused("This visit is closed: its record stays as it is. Open a new visit for new readings.")
    match body:
        case ReadingBody():
            make_reading(facts_of(visit.facts), body.quantity, body.value, body.unit, body.accuracy)
        case ObservationBody():
            make_observation(body.what, body.state)
        case ModeBody() if body.mode is Mode.HEATING and not facts_of(visit.facts).kind.is_heat_pump:
            raise Refused("This unit has no heating mode; only heat pumps do.", "mode")


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

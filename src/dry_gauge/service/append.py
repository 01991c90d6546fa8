"""Adding entries to a visit's notebook, in one transaction: placed, looked at, folded, saved, tables brought in step.

No kind of entry is named here. Judging and drawing come after the commit, from the state that is returned.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from uuid import UUID

from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.core.judgement.assess import JUDGED_BY, Assessment
from dry_gauge.notebook.arriving import Arriving, TakenBackAlready
from dry_gauge.notebook.kind import Body, Entry, VisitState
from dry_gauge.notebook.state import FOLD_VERSION, check, completed, needs_judgement, stored
from dry_gauge.notebook.subjects.closing import Closing, after_closing, check_closed
from dry_gauge.present.visit import VisitRow
from dry_gauge.service.allowed import NotHere, writer
from dry_gauge.service.at_work import at_work
from dry_gauge.service.notebooks import facts_of, judged, state_of
from dry_gauge.service.posted import Posted, Projection
from dry_gauge.service.projections import PROJECTIONS
from dry_gauge.service.reopening import may_reopen
from dry_gauge.store import visits
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import Head

MOST_AT_ONCE = 100
_LONGEST_LOCKED = timedelta(minutes=1)


class IdTaken(Exception):
    """The entry's id already stands for something else."""


_TRY_AGAIN = IdTaken("Somebody used this entry's id at the same moment. Reload the page and enter it again.")


@dataclass(frozen=True, slots=True)
class Sent:
    """An entry as it was sent.

    Parameters
    ----------
    waited : timedelta
        How long it waited for a connection, by its sender's own clock.
    sender : str
        Which browser or hub sent it: what that sends stays in its own order.
    """

    id: UUID
    body: Body
    waited: timedelta = timedelta(0)
    sender: str = ""
    device_time: datetime | None = None


@dataclass(frozen=True, slots=True)
class Taken:
    """What became of one entry.

    Parameters
    ----------
    repeated : bool
        It was here already.
    taken_back : Entry or None
        The entry that a void was about.
    late : bool
        It took its place among entries that were there: anything on a page may have changed.
    """

    entry: Entry
    repeated: bool = False
    taken_back: Entry | None = None
    late: bool = False


Outcome = Taken | Refused | IdTaken


@dataclass(frozen=True, slots=True)
class Appended:
    """The visit after all of them, and in their order what became of each: taken, or why not."""

    visit: VisitRow
    state: VisitState
    found: Sequence[Outcome]


def append(connection: Connection, someone: Someone, visit_id: UUID, sent: Sent, now: datetime) -> tuple[Appended, Taken]:
    """Add one entry. Acknowledge it only once the transaction is committed.

    The same entry sent again changes nothing and answers as the first time did.

    Raises
    ------
    NotHere, NotAllowed
    Refused
        For what cannot be on this unit or in this visit.
    IdTaken
        If that id already stands for another entry.
    """
    appended = append_all(connection, someone, visit_id, [sent], now)
    (found,) = appended.found
    if not isinstance(found, Taken):
        raise found
    return appended, found


def append_all(connection: Connection, someone: Someone, visit_id: UUID, sent: Sequence[Sent], now: datetime) -> Appended:
    """Add entries that were sent together, in their order: one lock, one folding, each refused on its own.

    Every refusal comes before the first write, so that a refused entry leaves nothing to undo.

    Raises
    ------
    NotHere, NotAllowed
    """
    assert len(sent) <= MOST_AT_ONCE
    judgement = _judged_before(connection, someone, visit_id, sent)
    visit = visits.find_visit(connection, visit_id, lock=True)
    if visit is None:
        raise NotHere("There is no such visit in your shop.")
    writer(someone, "adds entries")
    before = state_of(connection, visit)
    now = _reached(now, before)
    if judgement is not None and judgement[0] != visit.sequence:  # somebody was faster
        judgement = visit.sequence, judged(visit, before, someone.superheat_school).assessment
    facts = facts_of(visit.facts)
    arriving = Arriving(before, facts, lambda: visits.all_entries(connection, visit_id))
    posted = Posted(connection, someone, visit, facts, now)
    tables = [table(posted) for table in PROJECTIONS]
    for table in tables:
        table.lock(before, [one.body for one in sent])
    here = _Here(visit, before, arriving, tables, judgement[1] if judgement else None)
    known = visits.find_entries(connection, [one.id for one in sent]) if len(sent) > 1 else {}
    found: list[Outcome] = []
    for one in sent:
        if one.id in known:
            found.append(_again(*known[one.id], visit_id, one))
            continue
        try:
            found.append(_take(here, someone, one, now))
            known[one.id] = visit_id, arriving.taken[-1]
        except Refused as refusal:
            # What was kept once stays acknowledged, even if it would be refused today.
            kept = visits.find_entry(connection, one.id) if len(sent) == 1 else None
            found.append(_again(*kept, visit_id, one) if kept else refusal)
        except TakenBackAlready:
            found.append(Taken(_entry(someone, one, now, before.sequence), repeated=True))
    return _written(connection, someone, here, found, sent)


@dataclass(frozen=True, slots=True)
class _Here:
    """What entries arrive at."""

    visit: VisitRow
    before: VisitState
    arriving: Arriving
    tables: Sequence[Projection]
    judgement: Assessment | None


def _reached(now: datetime, before: VisitState) -> datetime:
    """When the notebook was reached: whoever waited for its lock comes after whoever held it."""
    last = before.written_at
    return last if last is not None and now < last < now + _LONGEST_LOCKED else now


def _judged_before(
    connection: Connection, someone: Someone, visit_id: UUID, sent: Sequence[Sent]
) -> tuple[int, Assessment | None] | None:
    """The judgement, made before the notebook is locked, for kinds that are looked at beside it."""
    if not any(needs_judgement(one.body.kind) for one in sent):
        return None
    visit = visits.find_visit(connection, visit_id)
    if visit is None:
        return None
    return visit.sequence, judged(visit, state_of(connection, visit), someone.superheat_school).assessment


def _entry(someone: Someone, sent: Sent, now: datetime, sequence: int) -> Entry:
    return Entry(
        id=sent.id,
        sequence=sequence,
        person_id=someone.person_id,
        written_at=now,
        received_at=now,
        device_time=sent.device_time,
        sender=sent.sender,
        body=sent.body,
    )


def _take(here: _Here, someone: Someone, sent: Sent, now: datetime) -> Taken:
    """Look at one entry in its place, and add it.

    Raises
    ------
    Refused, TakenBackAlready
    """
    arriving = here.arriving
    entry = arriving.stamped(_entry(someone, sent, now, 0), sent.waited)
    if here.visit.status == "closed":
        check_closed(here.before, entry, here.visit.closed_at, may_reopen=may_reopen(someone, here.before))
    taken_back = arriving.voids(entry)
    case = arriving.case(entry, here.judgement)
    late = case.visit is not here.before and here.before.written_at is not None and entry.written_at < here.before.written_at
    case = completed(case)
    check(case)
    after = arriving.preview(case)
    for table in here.tables:
        table.check(case, after)
    arriving.add(case.entry, after)
    return Taken(case.entry, taken_back=taken_back, late=late or taken_back is not None)


def _again(where: UUID, entry: Entry, visit_id: UUID, sent: Sent) -> Taken | IdTaken:
    """The answer to an entry whose id is on record: the same entry, or another one under its id."""
    if where != visit_id or entry.body.as_sent() != sent.body.as_sent():
        return IdTaken("This entry's id already stands for another entry. Reload the page and enter it again.")
    return Taken(entry, repeated=True)


def _written(connection: Connection, someone: Someone, here: _Here, found: Sequence[Outcome], sent: Sequence[Sent]) -> Appended:
    visit, new = here.visit, here.arriving.taken
    if not new:
        return Appended(visit, here.before, found)
    after = here.arriving.finished()
    head = _head(visit, here.before, after)
    if not visits.keep(connection, someone.shop_id, visit.id, new, stored(after), FOLD_VERSION, head):
        # Somebody used this id elsewhere, or it was sent before: nothing was written.
        kept = [visits.find_entry(connection, one.id) for one in sent]
        return Appended(
            visit,
            here.before,
            [_again(*known, visit.id, one) if known else _TRY_AGAIN for known, one in zip(kept, sent, strict=True)],
        )
    for table in here.tables:
        table.write(here.before, after)
    stands = replace(
        visit,
        sequence=after.sequence,
        status=head.status,
        summary=head.summary,
        outcome=head.outcome,
        closed_at=head.closed_at,
        opened_after=head.opened_after,
        at_work=head.at_work,
    )
    return Appended(stands, after, found)


def _head(visit: VisitRow, before: VisitState, after: VisitState) -> Head:
    """What the visit's row says after the entries."""
    closing, work = after[Closing].closing, at_work(after)
    if closing is not None:
        opened = [{"code": one.code, "words": one.words, "firm": one.firm} for one in after_closing(after)]
        return Head("closed", closing.body.summary, closing.body.outcome.value, closing.at, JUDGED_BY, work, opened)
    if visit.status == "closed" and before[Closing].closing is None:  # closed before there were closing entries
        return Head("closed", visit.summary, visit.outcome, visit.closed_at, JUDGED_BY, work, visit.opened_after)
    return Head("open", "", "", None, JUDGED_BY, work, [])

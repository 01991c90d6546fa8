"""Planning calls: adding, moving and calling them off, what waits to be planned, and asking weeks later whether it held."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from typing import Any, Literal
from uuid import UUID

import uuid6
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.core.local_time import day_of, local, local_at
from dry_gauge.core.office.hours import LEAST_MINUTES, MOST_MINUTES, USUAL_MINUTES, Busy, bounds, first_free, monday_of
from dry_gauge.core.office.outcomes import ASKED_AFTER_DAYS, ASKED_UNTIL_DAYS, CameBack, came_back
from dry_gauge.core.visit.complaints import TRIAGE, Complaint
from dry_gauge.present.scene import FollowUpRow
from dry_gauge.service import audit
from dry_gauge.service.allowed import NotAllowed, NotHere, trained, unit_here
from dry_gauge.service.today import today_here
from dry_gauge.store import parts, planning
from dry_gauge.store.follow_ups import open_follow_ups
from dry_gauge.store.parts import Ordered
from dry_gauge.store.people import Someone
from dry_gauge.store.planning import Asked, PlannedCall
from dry_gauge.store.visits import add_visit

MOST_WORDS = 400
_SOON_DAYS = 14


@dataclass(frozen=True, slots=True)
class Lane:
    """Somebody's calls within the days that are shown."""

    person_id: UUID
    name: str
    calls: Sequence[PlannedCall]
    """Led, or gone along on."""

    @property
    def minutes(self) -> int:
        """All together."""
        return sum(call.minutes for call in self.calls)


@dataclass(frozen=True, slots=True)
class Plan:
    """Some days as they are planned. `waiting` and `parts` have nobody yet; `asked` is asked weeks later.

    `hands` are all who may go along, whether or not they have a lane.
    """

    first: date
    days: int
    lanes: Sequence[Lane]
    waiting: Sequence[FollowUpRow]
    parts: Sequence[Ordered]
    asked: Sequence[Asked]
    hands: Sequence[Any]


def plan_of(connection: Connection, day: date, week: bool, now: datetime) -> Plan:
    """A day, or the week around it."""
    first, days = (monday_of(day), 7) if week else (day, 1)
    calls = planning.calls_between(connection, *bounds(first, days))
    busy = {person for call in calls for person in call.people}
    hands = planning.hands(connection)
    people = [one for one in hands if one.role != "helper" or one.id in busy]
    known = {one.id for one in people}
    lanes = [Lane(one.id, one.name, [call for call in calls if one.id in call.people]) for one in people]
    others = [call for call in calls if call.technician_id not in known]
    if others:
        lanes.append(Lane(others[0].technician_id, "no longer here", others))
    planned = planning.planned_follow_ups(connection)
    until = max(first + timedelta(days=days), day_of(now)) + timedelta(days=_SOON_DAYS)
    waiting = [row for row in open_follow_ups(connection, until=until) if row.id not in planned]
    unbooked = [part for part in parts.waiting_parts(connection) if part.return_visit is None]
    asked = planning.to_ask(connection, now - timedelta(days=ASKED_UNTIL_DAYS), now - timedelta(days=ASKED_AFTER_DAYS))
    return Plan(first, days, lanes, waiting, unbooked, asked, hands)


@dataclass(frozen=True, slots=True)
class Wanted:
    """A call as somebody wants it; None stays as it is."""

    day: date | None = None
    at: time | None = None
    minutes: int | None = None
    person_id: UUID | None = None
    complaint: str | None = None
    bring: str | None = None
    along: UUID | Literal["nobody"] | None = None


def add_call(
    connection: Connection, someone: Someone, visit_id: UUID, unit_id: UUID, wanted: Wanted, follow_up_id: UUID | None = None
) -> PlannedCall:
    """Plan a call; the same id again plans no second one.

    Without a time it goes where its person has room first that day.

    Raises
    ------
    NotHere, NotAllowed, Refused
    """
    person_id = wanted.person_id or someone.person_id
    _may_plan(someone, person_id)
    unit_here(connection, unit_id)
    _goes_on_calls(connection, person_id)
    known = planning.find_call(connection, visit_id)
    if known is not None:
        return known
    minutes, along_id = _minutes(wanted.minutes), _along(connection, wanted, person_id, None)
    day = wanted.day or today_here()
    planned_for = _moment(connection, day, wanted.at, person_id, minutes, local(datetime.now(UTC)))
    add_visit(
        connection,
        shop_id=someone.shop_id,
        id=visit_id,
        unit_id=unit_id,
        technician_id=person_id,
        planned_for=planned_for,
        minutes=minutes,
        complaint=(wanted.complaint or "")[:MOST_WORDS],
        bring=(wanted.bring or "")[:MOST_WORDS],
        follow_up_id=follow_up_id,
        along_id=along_id,
    )
    call = planning.find_call(connection, visit_id)
    if call is None:
        raise Refused("Somebody planned another call under this id just now. Send it again.", "visit_id")
    return call


def plan_follow_up(connection: Connection, someone: Someone, follow_up_id: UUID, visit_id: UUID) -> PlannedCall:
    """What was left for later becomes a call on its day, or today where that is over, with whoever was there.

    Raises
    ------
    NotHere, NotAllowed, Refused
    """
    left = planning.find_follow_up(connection, follow_up_id)
    if left is None or left.done_at is not None:
        raise NotHere("That was done already, or taken back.")
    if follow_up_id in planning.planned_follow_ups(connection):
        raise Refused("A call is planned for that already.", "follow_up")
    goes = {one.id for one in planning.workers(connection)}
    who = left.technician_id if someone.role == "lead" and left.technician_id in goes else someone.person_id
    wanted = Wanted(max(left.due, today_here()), person_id=who, complaint=left.what)
    return add_call(connection, someone, visit_id, left.unit_id, wanted, follow_up_id)


def change_call(connection: Connection, someone: Someone, visit_id: UUID, wanted: Wanted) -> PlannedCall:
    """Move a call, give it to somebody else, or change its words.

    Raises
    ------
    NotHere, NotAllowed, Refused
        Also for a call that was begun meanwhile.
    """
    call = _movable(connection, someone, visit_id)
    person_id = wanted.person_id or call.technician_id
    _may_plan(someone, person_id)
    if person_id != call.technician_id:
        _goes_on_calls(connection, person_id)
    # Given to whoever goes along, the two change places.
    before = call.technician_id if person_id == call.along_id else call.along_id
    here = local(call.planned_for)
    moment = local_at(wanted.day or day_of(here), wanted.at or here.time())
    changes: dict[str, Any] = {
        "technician_id": person_id,
        "planned_for": moment,
        "minutes": _minutes(wanted.minutes or call.minutes),
        "complaint": call.complaint if wanted.complaint is None else wanted.complaint[:MOST_WORDS],
        "bring": call.bring if wanted.bring is None else wanted.bring[:MOST_WORDS],
        "along_id": _along(connection, wanted, person_id, before),
    }
    planning.change_call(connection, visit_id, **changes)
    if (person_id, moment) != (call.technician_id, call.planned_for):
        moved = f"{here:%Y-%m-%d %H:%M} to {moment:%Y-%m-%d %H:%M}"
        audit.note(connection, someone, "call_moved", f"{call.site_name}, {call.tag}: {moved}")
    found = planning.find_call(connection, visit_id)
    assert found is not None
    return found


def call_off(connection: Connection, someone: Someone, visit_id: UUID, why: str) -> None:
    """Call a planned call off; its row stays, and what it was planned for waits again.

    Raises
    ------
    NotHere, NotAllowed, Refused
    """
    call = _movable(connection, someone, visit_id)
    planning.change_call(connection, visit_id, called_off=(why.strip() or "without a reason")[:MOST_WORDS])
    audit.note(connection, someone, "call_off", f"{call.site_name}, {call.tag}, {local(call.planned_for):%Y-%m-%d}: {why}")


def _movable(connection: Connection, someone: Someone, visit_id: UUID) -> PlannedCall:
    call = planning.find_call(connection, visit_id, lock=True)
    if call is None:
        raise NotHere("There is no such call in your shop, or it was called off.")
    _may_plan(someone, call.technician_id)
    if call.status != "planned":
        raise Refused(f"{call.site_name}, {call.tag} was begun: it stays where it is. Plan a return instead.", "day")
    return call


def _may_plan(someone: Someone, person_id: UUID) -> None:
    trained(someone, "plans calls")
    if someone.role != "lead" and person_id != someone.person_id:
        raise NotAllowed("A lead plans for others; you plan your own calls.")


def _goes_on_calls(connection: Connection, person_id: UUID) -> None:
    if person_id not in {one.id for one in planning.workers(connection)}:
        raise Refused("Choose somebody who goes on calls.", "person")


def _along(connection: Connection, wanted: Wanted, person_id: UUID, before: UUID | None) -> UUID | None:
    """Who goes along on a call of that person."""
    if wanted.along is None:
        return before
    if wanted.along == "nobody":
        return None
    if wanted.along == person_id:
        raise Refused("Whoever leads the call is on it already: choose somebody else to go along, or nobody.", "along")
    if wanted.along not in {one.id for one in planning.hands(connection)}:
        raise Refused("Choose somebody of your shop who goes out, or nobody.", "along")
    return wanted.along


def _minutes(minutes: int | None) -> int:
    if minutes is None:
        return USUAL_MINUTES
    if not LEAST_MINUTES <= minutes <= MOST_MINUTES:
        raise Refused(f"A call takes {LEAST_MINUTES} minutes to {MOST_MINUTES // 60} hours.", "minutes")
    return minutes


def _moment(connection: Connection, day: date, at: time | None, person_id: UUID, minutes: int, now: datetime) -> datetime:
    if at is not None:
        return local_at(day, at)
    taken = [
        Busy(local(call.planned_for), call.minutes)
        for call in planning.calls_between(connection, *bounds(day))
        if person_id in call.people
    ]
    if day == day_of(now):
        taken.append(Busy(bounds(day)[0], int((now - bounds(day)[0]).total_seconds() // 60)))
    return first_free(day, taken, minutes)


# -- whether it held -------------------------------------------------------


def say_held(
    connection: Connection, someone: Someone, visit_id: UUID, held: bool, symptom: str, words: str, now: datetime
) -> None:
    """Say weeks later whether a repair held, or with what it came back.

    Raises
    ------
    NotHere, NotAllowed, Refused
    """
    trained(someone, "says whether it held")
    call = planning.find_call(connection, visit_id)
    if call is None or call.status != "closed":
        raise NotHere("There is no such closed visit in your shop.")
    if not held and symptom not in set(Complaint):
        raise Refused("Say with what it came back.", "symptom")
    planning.say_held(
        connection,
        shop_id=someone.shop_id,
        id=uuid6.uuid7(),
        visit_id=visit_id,
        person_id=someone.person_id,
        at=now,
        held=held,
        symptom="" if held else symptom,
        words=words.strip()[:MOST_WORDS],
    )


@dataclass(frozen=True, slots=True)
class HeldRow:
    """One cause or part with how often repairs of it came back."""

    name: str
    rate: CameBack


def what_held(connection: Connection) -> Mapping[str, Sequence[HeldRow]]:
    """By cause and by part, what came back first."""
    return {
        by: [HeldRow(row.name, came_back(row.came_back, row.of)) for row in planning.what_held(connection, by)]
        for by in ("causes", "parts")
    }


SYMPTOMS = [(sort.value, row.label) for sort, row in TRIAGE.items()]

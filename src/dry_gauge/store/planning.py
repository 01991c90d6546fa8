"""Planned calls: who goes where and when, what waits to be planned, and what is asked weeks later."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import Connection, Select, delete, func, insert, select, text, update
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.orm import aliased

from dry_gauge.present.scene import SaidLater
from dry_gauge.store.models import FollowUp, Person, Site, Unit, Visit, VisitHeld, VisitResult
from dry_gauge.store.visits import STANDS


@dataclass(frozen=True, slots=True)
class PlannedCall:
    """One call as the plan shows it."""

    id: UUID
    unit_id: UUID
    site_name: str
    tag: str
    serves: str
    technician_id: UUID
    status: str
    planned_for: datetime
    minutes: int
    complaint: str
    bring: str
    follow_up_id: UUID | None
    along_id: UUID | None = None
    """Who goes along."""

    @property
    def people(self) -> tuple[UUID, ...]:
        """Who is busy with it."""
        return (self.technician_id, self.along_id) if self.along_id else (self.technician_id,)


_CALLS: Select[*tuple[Any, ...]] = (
    select(
        Visit.id, Visit.unit_id, Site.name, Unit.tag, Unit.serves, Visit.technician_id, Visit.status, Visit.planned_for,
        Visit.minutes, Visit.complaint, Visit.bring, Visit.follow_up_id, Visit.along_id,
    )
    .join(Unit, (Unit.shop_id == Visit.shop_id) & (Unit.id == Visit.unit_id))
    .join(Site, (Site.shop_id == Unit.shop_id) & (Site.id == Unit.site_id))
    .where(STANDS)
    .order_by(Visit.planned_for, Site.name, Unit.tag)
)  # fmt: skip


def calls_between(connection: Connection, start: datetime, end: datetime) -> list[PlannedCall]:
    """Calls planned within a time."""
    return [PlannedCall(*row) for row in connection.execute(_CALLS.where(Visit.planned_for >= start, Visit.planned_for < end))]


def find_call(connection: Connection, visit_id: UUID, *, lock: bool = False) -> PlannedCall | None:
    """One call; locked, nobody begins or moves it meanwhile."""
    asked = _CALLS.where(Visit.id == visit_id)
    row = connection.execute(asked.with_for_update(of=Visit) if lock else asked).one_or_none()
    return None if row is None else PlannedCall(*row)


def workers(connection: Connection) -> Sequence[Any]:
    """Whoever goes on calls, by name."""
    return [one for one in hands(connection) if one.role != "helper"]


def hands(connection: Connection) -> Sequence[Any]:
    """Whoever may go along on one, helpers too, by name."""
    asked = select(Person.id, Person.name, Person.role).where(Person.active, Person.role.in_(("technician", "lead", "helper")))
    return connection.execute(asked.order_by(Person.name)).all()


def change_call(connection: Connection, visit_id: UUID, **values: Any) -> None:
    """Plan a call otherwise."""
    connection.execute(update(Visit).where(Visit.id == visit_id).values(**values))


def planned_follow_ups(connection: Connection) -> frozenset[UUID]:
    """Follow-ups for which somebody is already planned or under way."""
    asked = select(Visit.follow_up_id).where(Visit.follow_up_id.is_not(None), Visit.status != "closed", STANDS)
    return frozenset(found for found in connection.execute(asked).scalars() if found is not None)


def find_follow_up(connection: Connection, follow_up_id: UUID) -> Any:
    """Something left for later, with whoever was on that visit."""
    return connection.execute(
        select(FollowUp.id, FollowUp.unit_id, FollowUp.sort, FollowUp.what, FollowUp.due, FollowUp.done_at, Visit.technician_id)
        .join(Visit, (Visit.shop_id == FollowUp.shop_id) & (Visit.id == FollowUp.visit_id))
        .where(FollowUp.id == follow_up_id)
    ).one_or_none()


# -- whether it held -------------------------------------------------------


def add_result(connection: Connection, **values: Any) -> None:
    """What a closed visit came to."""
    connection.execute(insert(VisitResult).values(**values))


def drop_result(connection: Connection, visit_id: UUID) -> None:
    """The visit was opened again."""
    connection.execute(delete(VisitResult).where(VisitResult.visit_id == visit_id))


@dataclass(frozen=True, slots=True)
class Asked:
    """A repair about which it is asked whether it held."""

    visit_id: UUID
    unit_id: UUID
    site_name: str
    tag: str
    summary: str
    closed_at: datetime
    since: int
    """Visits to the unit since then."""


def to_ask(connection: Connection, closed_from: datetime, closed_until: datetime, limit: int = 8) -> list[Asked]:
    """Repairs closed within a time about which nobody has said yet whether they held, the oldest first."""
    later = aliased(Visit)
    since = (
        select(func.count())
        .where(later.shop_id == Visit.shop_id, later.unit_id == Visit.unit_id)
        .where(later.planned_for > Visit.closed_at, later.status != "planned")
        .scalar_subquery()
    )
    said = select(VisitHeld.id).where(VisitHeld.shop_id == Visit.shop_id, VisitHeld.visit_id == Visit.id).exists()
    asked = (
        select(Visit.id, Visit.unit_id, Site.name, Unit.tag, Visit.summary, Visit.closed_at, since)
        .join(Unit, (Unit.shop_id == Visit.shop_id) & (Unit.id == Visit.unit_id))
        .join(Site, (Site.shop_id == Unit.shop_id) & (Site.id == Unit.site_id))
        .where(Visit.status == "closed", Visit.outcome.in_(("fixed", "improved")), ~said)
        .where(Visit.closed_at >= closed_from, Visit.closed_at < closed_until)
        .order_by(Visit.closed_at)
        .limit(limit)
    )
    return [Asked(*row) for row in connection.execute(asked)]


def say_held(connection: Connection, **values: Any) -> None:
    """Whether it held; a later line counts in place of it."""
    connection.execute(insert(VisitHeld).values(**values))


def said_later(connection: Connection, unit_id: UUID) -> dict[UUID, SaidLater]:
    """What was said last of each visit to a unit, of which anybody said anything."""
    asked = (
        select(VisitHeld.visit_id, VisitHeld.at, VisitHeld.held, VisitHeld.symptom, VisitHeld.words, Person.name)
        .join(Visit, (Visit.shop_id == VisitHeld.shop_id) & (Visit.id == VisitHeld.visit_id))
        .join(Person, (Person.shop_id == VisitHeld.shop_id) & (Person.id == VisitHeld.person_id))
        .where(Visit.unit_id == unit_id)
        .ext(distinct_on(VisitHeld.visit_id))
        .order_by(VisitHeld.visit_id, VisitHeld.at.desc())
    )
    return {row[0]: SaidLater(*row[1:]) for row in connection.execute(asked)}


# Summed where the rows are; what was said last of a visit counts.
_WHAT_HELD = """
    SELECT named.name, count(*) AS of, count(*) FILTER (WHERE NOT latest.held) AS came_back
    FROM (SELECT DISTINCT ON (visit_id) visit_id, held FROM visit_held ORDER BY visit_id, at DESC) AS latest
    JOIN visit_result ON visit_result.visit_id = latest.visit_id
    CROSS JOIN LATERAL jsonb_array_elements_text(visit_result.{by}) AS named (name)
    GROUP BY named.name ORDER BY came_back DESC, of DESC, named.name LIMIT 60
"""
_HELD_BY = {by: text(_WHAT_HELD.format(by=by)) for by in ("causes", "parts")}


def what_held(connection: Connection, by: str) -> Sequence[Any]:
    """By cause or by part: how many repairs were asked about, and how many came back.

    Parameters
    ----------
    by : str
        ``causes`` or ``parts``.
    """
    return connection.execute(_HELD_BY[by]).all()

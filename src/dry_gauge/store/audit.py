"""The audit trail: rows are added and read, never changed or removed."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import Connection, insert, select

from dry_gauge.store.models import AuditEvent, Person


def add(connection: Connection, shop_id: UUID, person_id: UUID, what: str, about: str) -> None:
    """One line, at the transaction's time."""
    connection.execute(insert(AuditEvent).values(shop_id=shop_id, person_id=person_id, what=what, about=about))


def latest(
    connection: Connection,
    most: int,
    *,
    whats: Collection[str] = (),
    person_id: UUID | None = None,
    text: str = "",
    before: datetime | None = None,
) -> Sequence[Any]:
    """The newest lines with names: of some sorts, of one person, with some words in it, before some moment."""
    asked = (
        select(AuditEvent.at, AuditEvent.what, AuditEvent.about, AuditEvent.address, Person.name)
        .outerjoin(Person, (Person.shop_id == AuditEvent.shop_id) & (Person.id == AuditEvent.person_id))
        .order_by(AuditEvent.at.desc())
        .limit(most)
    )
    if whats:
        asked = asked.where(AuditEvent.what.in_(whats))
    if person_id is not None:
        asked = asked.where(AuditEvent.person_id == person_id)
    if text:
        asked = asked.where(AuditEvent.about.icontains(text, autoescape=True))
    if before is not None:
        asked = asked.where(AuditEvent.at < before)
    return connection.execute(asked).all()

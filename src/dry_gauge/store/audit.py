"""The audit trail: rows are added and read, never changed or removed."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any
from uuid import UUID

from sqlalchemy import Connection, insert, select

from dry_gauge.store.models import AuditEvent, Person


def add(connection: Connection, shop_id: UUID, person_id: UUID, what: str, about: str) -> None:
    """One line, at the transaction's time."""
    connection.execute(insert(AuditEvent).values(shop_id=shop_id, person_id=person_id, what=what, about=about))


def latest(connection: Connection, most: int) -> Sequence[Any]:
    """The newest lines with names."""
    return connection.execute(
        select(AuditEvent.at, AuditEvent.what, AuditEvent.about, AuditEvent.address, Person.name)
        .outerjoin(Person, (Person.shop_id == AuditEvent.shop_id) & (Person.id == AuditEvent.person_id))
        .order_by(AuditEvent.at.desc())
        .limit(most)
    ).all()

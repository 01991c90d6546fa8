"""Warranties of units, and claims on them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any
from uuid import UUID

from sqlalchemy import Connection, Select, select, update

from dry_gauge.store.models import Person, WarrantyClaim, WarrantyRow
from dry_gauge.store.once import add_once


@dataclass(frozen=True, slots=True)
class Warranty:
    """One warranty."""

    id: UUID
    unit_id: UUID
    what: str
    whose: str
    starts_on: date
    start_from: str
    parts_months: int
    labour_months: int
    terms: str


_WARRANTIES: Select[*tuple[Any, ...]] = (
    select(
        WarrantyRow.id,
        WarrantyRow.unit_id,
        WarrantyRow.what,
        WarrantyRow.whose,
        WarrantyRow.starts_on,
        WarrantyRow.start_from,
        WarrantyRow.parts_months,
        WarrantyRow.labour_months,
        WarrantyRow.terms,
    )
    .where(WarrantyRow.dropped.is_(False))
    .order_by(WarrantyRow.starts_on, WarrantyRow.what)
)


def warranties_of(connection: Connection, unit_id: UUID) -> list[Warranty]:
    """Those of one unit."""
    return [Warranty(*row) for row in connection.execute(_WARRANTIES.where(WarrantyRow.unit_id == unit_id))]


def find_warranty(connection: Connection, warranty_id: UUID) -> Warranty | None:
    """One of them."""
    row = connection.execute(_WARRANTIES.where(WarrantyRow.id == warranty_id)).one_or_none()
    return None if row is None else Warranty(*row)


def add_warranty(connection: Connection, **values: Any) -> None:
    """A new one."""
    add_once(connection, WarrantyRow, **values)


def drop_warranty(connection: Connection, warranty_id: UUID) -> None:
    """It was entered by mistake; claims on it stay."""
    connection.execute(update(WarrantyRow).where(WarrantyRow.id == warranty_id).values(dropped=True))


@dataclass(frozen=True, slots=True)
class Claim:
    """One claim."""

    id: UUID
    warranty_id: UUID
    visit_id: UUID | None
    made_at: datetime
    failed: str
    why: str
    evidence: dict[str, Any]
    sent_on: date | None
    answer: str
    answered_on: date | None
    parts_cents: int | None
    labour_cents: int | None
    granted_cents: int | None
    made_by: str

    @property
    def asked_cents(self) -> int | None:
        """What it asks for in all; None where no amount was said."""
        said = [one for one in (self.parts_cents, self.labour_cents) if one is not None]
        return sum(said) if said else None


_CLAIMS: Select[*tuple[Any, ...]] = (
    select(
        WarrantyClaim.id, WarrantyClaim.warranty_id, WarrantyClaim.visit_id, WarrantyClaim.made_at, WarrantyClaim.failed,
        WarrantyClaim.why, WarrantyClaim.evidence, WarrantyClaim.sent_on, WarrantyClaim.answer, WarrantyClaim.answered_on,
        WarrantyClaim.parts_cents, WarrantyClaim.labour_cents, WarrantyClaim.granted_cents, Person.name,
    )
    .join(Person, (Person.shop_id == WarrantyClaim.shop_id) & (Person.id == WarrantyClaim.person_id))
    .order_by(WarrantyClaim.made_at.desc())
)  # fmt: skip


def claims_of(connection: Connection, unit_id: UUID) -> Sequence[Claim]:
    """Every claim on a unit's warranties, the latest first."""
    own = select(WarrantyRow.id).where(WarrantyRow.unit_id == unit_id)
    return [Claim(*row) for row in connection.execute(_CLAIMS.where(WarrantyClaim.warranty_id.in_(own)))]


def find_claim(connection: Connection, claim_id: UUID) -> Claim | None:
    """One claim."""
    row = connection.execute(_CLAIMS.where(WarrantyClaim.id == claim_id)).one_or_none()
    return None if row is None else Claim(*row)


def add_claim(connection: Connection, **values: Any) -> None:
    """A new claim."""
    add_once(connection, WarrantyClaim, **values)


def change_claim(connection: Connection, claim_id: UUID, **values: Any) -> None:
    """It was sent, answered, or has more evidence."""
    connection.execute(update(WarrantyClaim).where(WarrantyClaim.id == claim_id).values(values))

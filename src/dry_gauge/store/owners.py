"""What owners are shown of a visit, and the links under which they read it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import Connection, Select, insert, select, text, update
from sqlalchemy.dialects.postgresql import insert as insert_or

from dry_gauge.store.models import OwnerLinkRow, OwnerReportRow, Person, Shop


@dataclass(frozen=True, slots=True)
class Chosen:
    """Words and pictures that somebody chose for a report."""

    words: str = ""
    pictures: frozenset[UUID] = frozenset()


def chosen_for(connection: Connection, visit_id: UUID) -> Chosen:
    """What was chosen for a visit's report; nothing where nobody chose."""
    asked = select(OwnerReportRow.words, OwnerReportRow.pictures).where(OwnerReportRow.visit_id == visit_id)
    row = connection.execute(asked).one_or_none()
    return Chosen() if row is None else Chosen(row.words, frozenset(UUID(one) for one in row.pictures))


def choose(connection: Connection, shop_id: UUID, visit_id: UUID, chosen: Chosen) -> None:
    """Keep what was chosen in place of what was."""
    values = {"words": chosen.words, "pictures": sorted(map(str, chosen.pictures))}
    added = insert_or(OwnerReportRow).values(shop_id=shop_id, visit_id=visit_id, **values)
    connection.execute(added.on_conflict_do_update(index_elements=["shop_id", "visit_id"], set_=values))


@dataclass(frozen=True, slots=True)
class OwnerLink:
    """One link as the shop sees it."""

    id: UUID
    visit_id: UUID
    made_at: datetime
    expires_at: datetime
    withdrawn_at: datetime | None
    language: str
    temperature_unit: str
    pressure_unit: str
    weight_unit: str
    opened: int
    opened_at: datetime | None
    made_by: str
    shop_name: str
    superheat_school: str

    def is_open(self, now: datetime) -> bool:
        """Whether anything can still be read under it."""
        return self.withdrawn_at is None and self.expires_at > now


_LINKS: Select[*tuple[Any, ...]] = (
    select(
        OwnerLinkRow.id, OwnerLinkRow.visit_id, OwnerLinkRow.made_at, OwnerLinkRow.expires_at, OwnerLinkRow.withdrawn_at,
        OwnerLinkRow.language, OwnerLinkRow.temperature_unit, OwnerLinkRow.pressure_unit, OwnerLinkRow.weight_unit,
        OwnerLinkRow.opened, OwnerLinkRow.opened_at, Person.name, Shop.name, Shop.superheat_school,
    )
    .join(Person, (Person.shop_id == OwnerLinkRow.shop_id) & (Person.id == OwnerLinkRow.person_id))
    .join(Shop, Shop.id == OwnerLinkRow.shop_id)
    .order_by(OwnerLinkRow.made_at.desc())
)  # fmt: skip
_SHOP_OF = text("SELECT shop_of_owner_link(:link)")


def add_link(connection: Connection, **values: Any) -> None:
    """A new link."""
    connection.execute(insert(OwnerLinkRow).values(values))


def links_of(connection: Connection, visit_id: UUID) -> Sequence[OwnerLink]:
    """Every link that was made to a visit, the latest first."""
    return [OwnerLink(*row) for row in connection.execute(_LINKS.where(OwnerLinkRow.visit_id == visit_id))]


def find_link(connection: Connection, link_id: UUID) -> OwnerLink | None:
    """One link of the shop that this transaction sees."""
    row = connection.execute(_LINKS.where(OwnerLinkRow.id == link_id)).one_or_none()
    return None if row is None else OwnerLink(*row)


def shop_of_link(connection: Connection, link_id: UUID) -> UUID | None:
    """Whose link that is; None for one that is over, withdrawn, or never was."""
    found: UUID | None = connection.execute(_SHOP_OF, {"link": link_id}).scalar()
    return found


def withdraw(connection: Connection, link_id: UUID, now: datetime) -> None:
    """End a link; does no harm twice."""
    open_one = update(OwnerLinkRow).where(OwnerLinkRow.id == link_id, OwnerLinkRow.withdrawn_at.is_(None))
    connection.execute(open_one.values(withdrawn_at=now))


def count_opening(connection: Connection, link_id: UUID, now: datetime) -> None:
    """Somebody opened it."""
    connection.execute(
        update(OwnerLinkRow).where(OwnerLinkRow.id == link_id).values(opened=OwnerLinkRow.opened + 1, opened_at=now)
    )

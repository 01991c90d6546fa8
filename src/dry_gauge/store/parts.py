"""Parts on their way to units."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime
from typing import Any
from uuid import UUID

from sqlalchemy import Connection, Select, select, update

from dry_gauge.store.models import PartOrder, Site, Unit, Visit
from dry_gauge.store.once import add_once


@dataclass(frozen=True, slots=True)
class Ordered:
    """A part on its way, with its unit."""

    id: UUID
    unit_id: UUID
    visit_id: UUID | None
    site_name: str
    tag: str
    what: str
    number: str
    pieces: int
    other_piece: str
    from_whom: str
    made_at: datetime
    ordered_on: date | None
    expected_on: date | None
    arrived_on: date | None
    return_visit: UUID | None
    return_for: datetime | None
    done_on: date | None
    dropped: str

    @property
    def stage(self) -> str:
        """How far it is."""
        if self.dropped:
            return "dropped"
        steps = {"done": self.done_on, "booked": self.return_visit, "arrived": self.arrived_on, "ordered": self.ordered_on}
        return next((name for name, so in steps.items() if so is not None), "wanted")


_PARTS: Select[*tuple[Any, ...]] = (
    select(
        PartOrder.id, PartOrder.unit_id, PartOrder.visit_id, Site.name, Unit.tag, PartOrder.what, PartOrder.number,
        PartOrder.pieces, PartOrder.other_piece, PartOrder.from_whom, PartOrder.made_at, PartOrder.ordered_on,
        PartOrder.expected_on, PartOrder.arrived_on, PartOrder.return_visit, Visit.planned_for, PartOrder.done_on,
        PartOrder.dropped,
    )
    .join(Unit, (Unit.shop_id == PartOrder.shop_id) & (Unit.id == PartOrder.unit_id))
    .join(Site, (Site.shop_id == Unit.shop_id) & (Site.id == Unit.site_id))
    .outerjoin(Visit, (Visit.shop_id == PartOrder.shop_id) & (Visit.id == PartOrder.return_visit))
    .order_by(PartOrder.arrived_on.is_(None), PartOrder.expected_on.nulls_last(), PartOrder.made_at)
)  # fmt: skip


def waiting_parts(connection: Connection, unit_id: UUID | None = None) -> list[Ordered]:
    """Parts that are not in yet, of one unit or of all; those that arrived first."""
    asked = _PARTS.where(PartOrder.done_on.is_(None), PartOrder.dropped == "")
    return [Ordered(*row) for row in connection.execute(asked if unit_id is None else asked.where(PartOrder.unit_id == unit_id))]


def find_part(connection: Connection, part_id: UUID, *, lock: bool = False) -> Ordered | None:
    """One part; locked, nobody takes it a step on meanwhile."""
    asked = _PARTS.where(PartOrder.id == part_id)
    row = connection.execute(asked.with_for_update(of=PartOrder) if lock else asked).one_or_none()
    return None if row is None else Ordered(*row)


def add_part(connection: Connection, **values: Any) -> None:
    """A part is wanted."""
    add_once(connection, PartOrder, **values)


def change_part(connection: Connection, part_id: UUID, **values: Any) -> None:
    """It went a step on."""
    connection.execute(update(PartOrder).where(PartOrder.id == part_id).values(**values))

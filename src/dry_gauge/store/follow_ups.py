"""What was left for later, across visits: an ordinary table, written in the transaction of the entry that says so."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date, datetime
from uuid import UUID

from sqlalchemy import Connection, delete, select, update
from sqlalchemy.dialects.postgresql import insert

from dry_gauge.notebook.kind import Answered
from dry_gauge.notebook.subjects.agenda import FollowUpBody, FollowUpSort
from dry_gauge.present.scene import FollowUpRow
from dry_gauge.present.visit import VisitRow
from dry_gauge.store.models import FollowUp, Site, Unit

_Kept = Mapping[str, Answered[FollowUpBody]]


def keep_in_step(connection: Connection, shop_id: UUID, visit: VisitRow, before: _Kept, after: _Kept) -> None:
    """Bring the table in step with one visit's notebook: added, done, taken back."""
    gone = [UUID(key) for key in before if key not in after]
    if gone:
        connection.execute(delete(FollowUp).where(FollowUp.shop_id == shop_id, FollowUp.id.in_(gone)))
    for key, kept in after.items():
        if before.get(key) == kept:
            continue
        row = {
            "shop_id": shop_id,
            "id": UUID(key),
            "visit_id": visit.id,
            "unit_id": visit.unit_id,
            "sort": kept.body.sort.value,
            "what": kept.body.what,
            "due": kept.body.due,
            "done_at": kept.answered_at,
        }
        added = insert(FollowUp).values(row)
        connection.execute(added.on_conflict_do_update(index_elements=["shop_id", "id"], set_={"done_at": kept.answered_at}))


_FOLLOW_UPS = (
    select(
        FollowUp.id, FollowUp.sort, FollowUp.what, FollowUp.due, FollowUp.done_at, FollowUp.visit_id, FollowUp.unit_id,
        Unit.tag, Site.name,
    )
    .join(Unit, (Unit.shop_id == FollowUp.shop_id) & (Unit.id == FollowUp.unit_id))
    .join(Site, (Site.shop_id == Unit.shop_id) & (Site.id == Unit.site_id))
    .order_by(FollowUp.due)
)  # fmt: skip


def open_follow_ups(
    connection: Connection,
    unit_id: UUID | None = None,
    *,
    sort: FollowUpSort | None = None,
    until: date | None = None,
    most: int | None = None,
) -> list[FollowUpRow]:
    """What is left for later, soonest first: of one unit, or of the shop; of one sort, or due by some day."""
    asked = _FOLLOW_UPS.where(FollowUp.done_at.is_(None)).limit(most)
    if unit_id is not None:
        asked = asked.where(FollowUp.unit_id == unit_id)
    if sort is not None:
        asked = asked.where(FollowUp.sort == sort.value)
    if until is not None:
        asked = asked.where(FollowUp.due <= until)
    return [FollowUpRow(*row) for row in connection.execute(asked)]


def settle(connection: Connection, follow_up_id: UUID, at: datetime) -> None:
    """Mark one as seen to from outside its visit, which may be closed by now; the table is its record then."""
    connection.execute(update(FollowUp).where(FollowUp.id == follow_up_id, FollowUp.done_at.is_(None)).values(done_at=at))


def reopen(connection: Connection, follow_up_id: UUID) -> None:
    """The call that saw to it was opened again."""
    connection.execute(update(FollowUp).where(FollowUp.id == follow_up_id).values(done_at=None))

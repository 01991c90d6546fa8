"""The last readings of each visit, and whether they show the unit as it is when it is sound."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any
from uuid import UUID

from sqlalchemy import Connection, bindparam, select, text, update
from sqlalchemy.dialects.postgresql import JSONB, insert

from dry_gauge.store.models import SoundDay

MOST_EARLIER = 12
"""As many as a reading sheet takes."""

# What speaks for the unit as it is now: marked right or earned, none from before its parts were changed, oldest first.
EARLIER_OF_VISIT = text(f"""
    (CASE WHEN visit.status = 'closed' THEN coalesce(visit.earlier::text, '[]') ELSE coalesce((
        SELECT jsonb_agg(jsonb_build_object('date', to_char(day.at, 'YYYY-MM-DD'), 'shown', day.shown) ORDER BY day.at)::text
        FROM (SELECT s.at, s.shown FROM sound_day s
              WHERE s.shop_id = visit.shop_id AND s.unit_id = visit.unit_id AND s.visit_id <> visit.id
                AND coalesce(s.marked, s.earned)
                AND NOT EXISTS (SELECT 1 FROM sound_day c WHERE c.shop_id = s.shop_id AND c.unit_id = s.unit_id
                                AND c.changed AND c.at > s.at)
              ORDER BY s.at DESC LIMIT {MOST_EARLIER}) AS day), '[]') END)
""")  # noqa: S608  a number of our own

_KEEP_EARLIER = text("UPDATE visit SET earlier = :earlier WHERE id = :visit").bindparams(bindparam("earlier", type_=JSONB))


def keep(connection: Connection, earlier: Any, **values: Any) -> None:
    """What a visit left behind at its closing, and what it was judged by."""
    row = insert(SoundDay).values(**values)
    anew = {name: row.excluded[name] for name in ("at", "earned", "why", "changed", "shown", "gaps")}
    connection.execute(row.on_conflict_do_update(index_elements=["shop_id", "visit_id"], set_=anew))
    connection.execute(_KEEP_EARLIER, {"visit": values["visit_id"], "earlier": earlier})


def open_again(connection: Connection, visit_id: UUID) -> None:
    """The closing was taken back: it proves nothing any more."""
    connection.execute(update(SoundDay).where(SoundDay.visit_id == visit_id).values(earned=False, why="opened again"))


def mark(connection: Connection, visit_id: UUID, marked: bool | None) -> None:
    """A lead says whether the unit was right then; None: as the rule has it."""
    connection.execute(update(SoundDay).where(SoundDay.visit_id == visit_id).values(marked=marked))


def of_unit(connection: Connection, unit_id: UUID, limit: int = 40) -> Sequence[Any]:
    """What each visit to a unit left behind, latest first."""
    return connection.execute(
        select(SoundDay.visit_id, SoundDay.at, SoundDay.earned, SoundDay.why, SoundDay.marked, SoundDay.changed)
        .where(SoundDay.unit_id == unit_id).order_by(SoundDay.at.desc()).limit(limit)
    ).all()  # fmt: skip


def off_its_sort(connection: Connection, unit_id: UUID) -> Sequence[Any]:
    """How far the first circuit's gaps were from what its sort shows, visit by visit, oldest first. [K]"""
    own = SoundDay.gaps["1"]["residuals"]
    return connection.execute(
        select(SoundDay.at, own.label("own_k")).where(SoundDay.unit_id == unit_id, own.isnot(None)).order_by(SoundDay.at)
    ).all()

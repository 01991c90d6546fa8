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

MOST_OF_A_LIKE_UNIT = 2
"""Sound days of another unit of the same model: what the model has in common is not said better by more of one unit."""

# Marked right or earned, and none from before the unit's parts were changed.
_STILL_SPEAKS = """
    coalesce(s.marked, s.earned) AND NOT EXISTS (
        SELECT 1 FROM sound_day c WHERE c.shop_id = s.shop_id AND c.unit_id = s.unit_id AND c.changed AND c.at > s.at)
"""
# The unit's own days; after them those of other units of its model (as `models.of_model` has it) on its site. Oldest first.
EARLIER_OF_VISIT = text(f"""
    (CASE WHEN visit.status = 'closed' THEN coalesce(visit.earlier::text, '[]') ELSE coalesce((
        SELECT jsonb_agg(jsonb_build_object('date', to_char(day.at, 'YYYY-MM-DD'), 'shown', day.shown, 'unit', day.tag)
                         ORDER BY day.at)::text
        FROM (SELECT * FROM (
                  SELECT s.at, s.shown, '' AS tag, 0 AS rank FROM sound_day s
                  WHERE s.shop_id = visit.shop_id AND s.unit_id = visit.unit_id AND s.visit_id <> visit.id AND {_STILL_SPEAKS}
                  UNION ALL
                  SELECT s.at, s.shown, alike.tag, row_number() OVER (PARTITION BY s.unit_id ORDER BY s.at DESC) AS rank
                  FROM unit AS own
                  JOIN unit AS alike ON alike.shop_id = own.shop_id AND alike.site_id = own.site_id AND alike.id <> own.id
                      AND lower(trim(alike.model)) = lower(trim(own.model))
                  JOIN sound_day s ON s.shop_id = alike.shop_id AND s.unit_id = alike.id
                  WHERE own.shop_id = visit.shop_id AND own.id = visit.unit_id AND trim(own.model) <> '' AND {_STILL_SPEAKS}
              ) AS one WHERE one.rank <= {MOST_OF_A_LIKE_UNIT}
              ORDER BY one.tag <> '', one.at DESC LIMIT {MOST_EARLIER}) AS day), '[]') END)
""")  # noqa: S608  numbers and words of our own

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
        .where(SoundDay.unit_id == unit_id)
        .order_by(SoundDay.at.desc())
        .limit(limit)
    ).all()


_OFF_ITS_SORT = text("""
    SELECT at, each.number::int AS circuit, each.shown -> 'residuals' AS own_k
    FROM sound_day CROSS JOIN LATERAL jsonb_each(gaps) AS each (number, shown)
    WHERE unit_id = :unit AND each.shown -> 'residuals' IS NOT NULL ORDER BY at, circuit
""")


def off_its_sort(connection: Connection, unit_id: UUID) -> Sequence[Any]:
    """How far each circuit's gaps were from what its sort shows, visit by visit, oldest first. [K]"""
    return connection.execute(_OFF_ITS_SORT, {"unit": unit_id}).all()

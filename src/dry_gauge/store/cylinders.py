"""Cylinders and the book of refrigerant: what is on record, under a lock while someone draws."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import Connection, Row, Uuid, case, cast, func, insert, or_, select, text, update

from dry_gauge.core.charge.cylinders import Account, Cylinder, CylinderKind, Held, Movement
from dry_gauge.core.charge.mass import GRAM_KG
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.store.models import CylinderRow, MovementRow, Person, Shop, Site, Unit
from dry_gauge.store.once import add_once


def lock(connection: Connection, ids: Iterable[UUID]) -> None:
    """Hold these cylinders until the transaction ends, in one order, so that two draws cannot wait for each other."""
    wanted = sorted(set(ids))
    connection.execute(select(CylinderRow.id).where(CylinderRow.id.in_(wanted)).order_by(CylinderRow.id).with_for_update()).all()


def all_held(connection: Connection, ids: Sequence[UUID] | None = None, *, retired: bool = False) -> list[Held]:
    """Cylinders by name with what they hold: those of `ids`, or all that are not retired."""
    into = case((MovementRow.goal_cylinder == CylinderRow.id, MovementRow.grams), else_=0)
    out = case((MovementRow.origin_cylinder == CylinderRow.id, MovementRow.grams), else_=0)
    asked = (
        select(CylinderRow, func.coalesce(func.sum(into - out), 0).label("holds"))
        .outerjoin(
            MovementRow,
            (MovementRow.shop_id == CylinderRow.shop_id)
            & or_(MovementRow.goal_cylinder == CylinderRow.id, MovementRow.origin_cylinder == CylinderRow.id)
            & MovementRow.taken_back_at.is_(None),
        )
        .group_by(CylinderRow.shop_id, CylinderRow.id)
        .order_by(CylinderRow.name)
    )
    if ids is not None:
        asked = asked.where(CylinderRow.id.in_(ids))
    elif not retired:
        asked = asked.where(CylinderRow.retired.is_(False))
    return [_held(row) for row in connection.execute(asked)]


def _held(row: Any) -> Held:
    cylinder = Cylinder(
        row.name,
        CylinderKind(row.kind),
        find(row.refrigerant) if row.refrigerant else None,
        None if row.tare_g is None else row.tare_g * GRAM_KG,
        None if row.water_capacity_g is None else row.water_capacity_g * GRAM_KG,
        row.service_pressure_pa,
        row.retest_by,
        row.for_flammables,
        row.refillable,
    )
    return Held(row.id, cylinder, int(row.holds), row.keeper, row.retired)


def add_cylinder(connection: Connection, **values: Any) -> bool:
    """Register a cylinder; False where it was before."""
    return add_once(connection, CylinderRow, **values)


def change_cylinder(connection: Connection, cylinder_id: UUID, **values: Any) -> None:
    """Tested anew, given to someone else, in use now, or retired."""
    connection.execute(update(CylinderRow).where(CylinderRow.id == cylinder_id).values(**values))


def name_taken(connection: Connection, name: str, key: UUID) -> bool:
    """Whether another cylinder of that name is on record."""
    asked = select(CylinderRow.id).where(CylinderRow.name == name, CylinderRow.id != key)
    return connection.execute(asked).first() is not None


def book(connection: Connection, rows: Sequence[dict[str, Any]]) -> None:
    """Write movements."""
    if rows:
        connection.execute(insert(MovementRow), rows)


def is_booked(connection: Connection, movement_id: UUID) -> bool:
    """Whether a movement stands in the book already."""
    return connection.scalar(select(MovementRow.id).where(MovementRow.id == movement_id)) is not None


def take_back(connection: Connection, entry_ids: Iterable[UUID], at: datetime) -> None:
    """Take back what those entries moved; the rows stay."""
    listed = list(entry_ids)
    if listed:  # most entries of a visit move nothing
        connection.execute(
            update(MovementRow)
            .where(MovementRow.entry_id.in_(listed), MovementRow.taken_back_at.is_(None))
            .values(taken_back_at=at)
        )


def counted_since(connection: Connection, cylinder_id: UUID, since: datetime) -> list[dict[str, Any]]:
    """What entries made the book find in a cylinder since then, because more came out than it knew of; latest first."""
    m = MovementRow.__table__.c
    asked = (
        select(MovementRow.__table__)
        .where(
            m.goal_cylinder == cylinder_id,
            m.origin == Account.COUNT.value,
            m.entry_id.is_not(None),
            m.at >= since,
            m.taken_back_at.is_(None),
        )
        .order_by(m.at.desc())
    )
    return [dict(row._mapping) for row in connection.execute(asked)]


def take_back_row(connection: Connection, movement_id: UUID, at: datetime) -> None:
    """Take back one movement; the row stays."""
    connection.execute(update(MovementRow).where(MovementRow.id == movement_id).values(taken_back_at=at))


@dataclass(frozen=True, slots=True)
class Line:
    """One movement as the book shows it."""

    id: UUID
    at: datetime
    movement: Movement
    way: str
    reason: str
    person: str
    tag: str
    site_name: str
    from_cylinder: str
    to_cylinder: str
    unit_id: UUID | None
    visit_id: UUID | None
    taken_back_at: datetime | None


def lines(
    connection: Connection,
    *,
    unit_id: UUID | None = None,
    cylinder_id: UUID | None = None,
    since: datetime | None = None,
    until: datetime | None = None,
    limit: int = 10_000,
) -> list[Line]:
    """The book, oldest first: of one unit, one cylinder, or the shop; what was taken back is among it."""
    goal, origin = CylinderRow.__table__.alias(), CylinderRow.__table__.alias()
    m = MovementRow
    asked = (
        select(
            m.id,
            m.at,
            m.grams,
            m.origin,
            m.goal,
            m.origin_cylinder,
            m.goal_cylinder,
            m.refrigerant,
            m.way,
            m.reason,
            Person.name.label("person"),
            func.coalesce(Unit.tag, "").label("tag"),
            func.coalesce(Site.name, "").label("site"),
            func.coalesce(origin.c.name, "").label("origin_name"),
            func.coalesce(goal.c.name, "").label("goal_name"),
            m.unit_id,
            m.visit_id,
            m.taken_back_at,
        )
        .join(Person, (Person.shop_id == m.shop_id) & (Person.id == m.person_id))
        .outerjoin(Unit, (Unit.shop_id == m.shop_id) & (Unit.id == m.unit_id))
        .outerjoin(Site, (Site.shop_id == Unit.shop_id) & (Site.id == Unit.site_id))
        .outerjoin(origin, (origin.c.shop_id == m.shop_id) & (origin.c.id == m.origin_cylinder))
        .outerjoin(goal, (goal.c.shop_id == m.shop_id) & (goal.c.id == m.goal_cylinder))
        .order_by(m.at, m.id)
        .limit(limit)
    )
    if unit_id is not None:
        asked = asked.where(m.unit_id == unit_id)
    if cylinder_id is not None:
        asked = asked.where(or_(m.origin_cylinder == cylinder_id, m.goal_cylinder == cylinder_id))
    if since is not None:
        asked = asked.where(m.at >= since)
    if until is not None:
        asked = asked.where(m.at < until)
    return [_line(row) for row in connection.execute(asked)]


# What a visit recovered was in the unit before; only what it added beyond that had leaked.
_ADDITIONS = text("""
    SELECT unit_id, max(at) AS at, sum(CASE WHEN goal = 'unit' THEN grams WHEN origin = 'unit' THEN -grams ELSE 0 END) AS grams
    FROM movement WHERE taken_back_at IS NULL AND unit_id IS NOT NULL AND (CAST(:unit AS uuid) IS NULL OR unit_id = :unit)
    GROUP BY unit_id, coalesce(visit_id, id)
    HAVING sum(CASE WHEN goal = 'unit' THEN grams WHEN origin = 'unit' THEN -grams ELSE 0 END) > 0
""")


def additions(connection: Connection, unit_id: UUID | None = None) -> Sequence[Row[Any]]:
    """What each visit added to its unit over what it recovered, ``unit_id``, ``at`` and ``grams``: of one unit, or of all."""
    return connection.execute(_ADDITIONS, {"unit": unit_id}).all()


def _line(row: Any) -> Line:
    moved = Movement(
        row.grams,
        Account(row.origin),
        Account(row.goal),
        str(row.origin_cylinder or ""),
        str(row.goal_cylinder or ""),
        row.refrigerant,
    )
    return Line(
        row.id,
        row.at,
        moved,
        row.way,
        row.reason,
        row.person,
        row.tag,
        row.site,
        row.origin_name,
        row.goal_name,
        row.unit_id,
        row.visit_id,
        row.taken_back_at,
    )


def settings_of(connection: Connection) -> dict[str, Any]:
    """What the shop that this transaction sees has set, for a role that sees others as well."""
    own = Shop.id == cast(func.nullif(func.current_setting("dry_gauge.shop_id", True), ""), Uuid)
    found: dict[str, Any] = connection.execute(select(Shop.settings).where(own)).scalar_one()
    return found


def set_settings(connection: Connection, shop_id: UUID, settings: dict[str, Any]) -> None:
    """Set it anew."""
    connection.execute(update(Shop).where(Shop.id == shop_id).values(settings=settings))

"""What the shop looks after: sites, units, parts, instruments, photos, cylinders and what moved."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any
from uuid import UUID

from sqlalchemy import ColumnElement, ForeignKeyConstraint, Index, UniqueConstraint, and_, func, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from dry_gauge.store.models.base import Base, in_shop


class Site(Base):
    """A place with units."""

    __tablename__ = "site"
    __table_args__ = (ForeignKeyConstraint(["shop_id"], ["shop.id"]),)
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    name: Mapped[str]
    address: Mapped[str] = mapped_column(server_default="")
    access: Mapped[str] = mapped_column(server_default="")


class Unit(Base):
    """A unit and its card; `facts` is the `unit` block of a reading sheet."""

    __tablename__ = "unit"
    __table_args__ = (
        in_shop("site_id", table="site"),
        # Deferred: both sides of a pair are written in one transaction, in any order.
        ForeignKeyConstraint(
            ["shop_id", "partner_id"], ["unit.shop_id", "unit.id"], name="unit_partner", deferrable=True, initially="DEFERRED"
        ),
        Index("unit_by_partner", "shop_id", "partner_id", postgresql_where=text("partner_id IS NOT NULL")),
        Index("unit_by_site", "shop_id", "site_id"),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    site_id: Mapped[UUID]
    tag: Mapped[str]
    serves: Mapped[str] = mapped_column(server_default="")
    maker: Mapped[str | None]
    model: Mapped[str | None]
    serial: Mapped[str | None]
    made_year: Mapped[int | None]
    facts: Mapped[dict[str, Any]]
    card_notes: Mapped[str] = mapped_column(server_default="")
    partner: Mapped[str] = mapped_column(server_default="")
    """In words, where it has no card of its own."""
    partner_id: Mapped[UUID | None]
    disconnects: Mapped[list[str]] = mapped_column(JSONB, server_default=text("'[]'::jsonb"))
    circuits: Mapped[int] = mapped_column(server_default=text("1"))
    stages: Mapped[int] = mapped_column(server_default=text("1"))
    label_from: Mapped[str] = mapped_column(server_default="")
    label_photo: Mapped[UUID | None]


def of_model(unit: Any, model: Any) -> ColumnElement[bool]:
    """Whether a unit is of that model (a word, or another unit's column): written the same but for case and spaces around."""
    key = func.lower(func.trim(model))
    return and_(func.lower(func.trim(unit.model)) == key, key != "")


class UnitChange(Base):
    """Who changed what on a unit card, and when."""

    __tablename__ = "unit_change"
    __table_args__ = (
        in_shop("unit_id", table="unit"),
        in_shop("person_id", table="person"),
        Index("unit_change_by_unit", "shop_id", "unit_id", "at"),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    unit_id: Mapped[UUID]
    person_id: Mapped[UUID]
    at: Mapped[datetime]
    changed: Mapped[dict[str, Any]]


class Component(Base):
    """A part of a unit that was put in at some time: compressor, coil, motor, drier."""

    __tablename__ = "component"
    __table_args__ = (in_shop("unit_id", table="unit"), Index("component_by_unit", "shop_id", "unit_id"))
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    unit_id: Mapped[UUID]
    what: Mapped[str]
    details: Mapped[str] = mapped_column(server_default="")
    installed_on: Mapped[date | None]
    removed_on: Mapped[date | None]


class Instrument(Base):
    """A gauge, clamp or meter of the shop, and how well it reads: 95 % half-width in its unit."""

    __tablename__ = "instrument"
    __table_args__ = (ForeignKeyConstraint(["shop_id"], ["shop.id"]),)
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    name: Mapped[str]
    dimension: Mapped[str]
    accuracy: Mapped[float | None]
    unit: Mapped[str]
    range_low: Mapped[float | None]
    range_high: Mapped[float | None]
    calibrated_until: Mapped[date | None]
    retired: Mapped[bool] = mapped_column(server_default=text("false"))


class Photo(Base):
    """A photo, made small and without what the camera wrote into it."""

    __tablename__ = "photo"
    __table_args__ = (in_shop("unit_id", table="unit"), in_shop("person_id", table="person"))
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    unit_id: Mapped[UUID]
    person_id: Mapped[UUID]
    at: Mapped[datetime]
    width: Mapped[int]
    height: Mapped[int]
    picture: Mapped[bytes]
    thumbnail: Mapped[bytes]
    clip_type: Mapped[str] = mapped_column(server_default="")
    clip: Mapped[bytes | None]
    """What it is the still of, where it stands for a clip; of which sort."""


class CylinderRow(Base):
    """A refrigerant cylinder as it is stamped; what it holds is the sum of its movements."""

    __tablename__ = "cylinder"
    __table_args__ = (ForeignKeyConstraint(["shop_id"], ["shop.id"]), UniqueConstraint("shop_id", "name"))
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    name: Mapped[str]
    kind: Mapped[str]
    refrigerant: Mapped[str] = mapped_column(server_default="")
    tare_g: Mapped[int | None]
    water_capacity_g: Mapped[int | None]
    service_pressure_pa: Mapped[float | None]
    retest_by: Mapped[date | None]
    for_flammables: Mapped[bool] = mapped_column(server_default=text("false"))
    refillable: Mapped[bool] = mapped_column(server_default=text("true"))
    keeper: Mapped[str] = mapped_column(server_default="")
    retired: Mapped[bool] = mapped_column(server_default=text("false"))


_STANDS = text("taken_back_at IS NULL")


class MovementRow(Base):
    """Grams from one place to another. The application may add one and take it back, never change or remove it."""

    __tablename__ = "movement"
    __table_args__ = (
        in_shop("visit_id", table="visit"),
        in_shop("unit_id", table="unit"),
        in_shop("person_id", table="person"),
        in_shop("origin_cylinder", table="cylinder"),
        in_shop("goal_cylinder", table="cylinder"),
        Index("movement_out", "shop_id", "origin_cylinder", postgresql_where=_STANDS),
        Index("movement_in", "shop_id", "goal_cylinder", postgresql_where=_STANDS),
        Index("movement_by_unit", "shop_id", "unit_id", "at"),
        Index("movement_by_entry", "shop_id", "entry_id"),
        Index("movement_by_day", "shop_id", "at"),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    entry_id: Mapped[UUID | None]
    visit_id: Mapped[UUID | None]
    unit_id: Mapped[UUID | None]
    person_id: Mapped[UUID]
    at: Mapped[datetime]
    refrigerant: Mapped[str]
    grams: Mapped[int]
    origin: Mapped[str]
    goal: Mapped[str]
    origin_cylinder: Mapped[UUID | None]
    goal_cylinder: Mapped[UUID | None]
    way: Mapped[str] = mapped_column(server_default="")
    reason: Mapped[str] = mapped_column(server_default="")
    taken_back_at: Mapped[datetime | None]

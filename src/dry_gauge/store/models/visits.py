"""Visits with their entries, and the tables that follow a notebook."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any
from uuid import UUID

from sqlalchemy import BigInteger, ForeignKeyConstraint, Index, UniqueConstraint, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from dry_gauge.store.models.base import Base, in_shop


class Visit(Base):
    """One call: a notebook about one unit, planned, open or closed."""

    __tablename__ = "visit"
    __table_args__ = (
        in_shop("unit_id", table="unit"),
        in_shop("technician_id", table="person"),
        in_shop("along_id", table="person"),
        Index("visit_by_day", "shop_id", "planned_for"),
        Index("visit_by_unit", "shop_id", "unit_id", "planned_for"),
        Index("visit_by_call", "shop_id", "call_id"),
        Index("visit_by_follow_up", "shop_id", "follow_up_id", postgresql_where=text("follow_up_id IS NOT NULL")),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    unit_id: Mapped[UUID]
    technician_id: Mapped[UUID]
    planned_for: Mapped[datetime]
    complaint: Mapped[str] = mapped_column(server_default="")
    status: Mapped[str] = mapped_column(server_default="planned")
    summary: Mapped[str] = mapped_column(server_default="")
    sequence: Mapped[int] = mapped_column(server_default=text("0"))
    state: Mapped[dict[str, Any]] = mapped_column(server_default=text("'{}'::jsonb"))
    rule_set: Mapped[str] = mapped_column(server_default="")
    call_id: Mapped[UUID]
    closed_at: Mapped[datetime | None]
    outcome: Mapped[str] = mapped_column(server_default="")
    fold_version: Mapped[int] = mapped_column(server_default=text("1"))
    at_work: Mapped[dict[str, Any]] = mapped_column(server_default=text("'{}'::jsonb"))
    opened_after: Mapped[list[Any]] = mapped_column(JSONB, server_default=text("'[]'::jsonb"))
    earlier: Mapped[list[Any] | None] = mapped_column(JSONB)
    minutes: Mapped[int] = mapped_column(server_default=text("90"))
    along_id: Mapped[UUID | None]
    bring: Mapped[str] = mapped_column(server_default="")
    follow_up_id: Mapped[UUID | None]
    called_off: Mapped[str | None]


class EntryRow(Base):
    """One line of a notebook. The application may add and read, never change or remove."""

    __tablename__ = "entry"
    __table_args__ = (
        in_shop("visit_id", table="visit"),
        in_shop("person_id", table="person"),
        UniqueConstraint("shop_id", "visit_id", "sequence"),
        Index("entry_in_order", "shop_id", "visit_id", "written_at", "sequence"),
        Index("entry_voids", "shop_id", "voids", unique=True, postgresql_where=text("voids IS NOT NULL")),
        # Feet of new units are found by their model, over all visits of the shop.
        Index("entry_of_new_units", "shop_id", text("written_at DESC"), postgresql_where=text("body ->> 'kind' = 'new_unit'")),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    visit_id: Mapped[UUID]
    sequence: Mapped[int]
    person_id: Mapped[UUID]
    received_at: Mapped[datetime]
    device_time: Mapped[datetime | None]
    voids: Mapped[UUID | None]
    body: Mapped[dict[str, Any]]
    written_at: Mapped[datetime]
    sender: Mapped[str] = mapped_column(server_default="")


class FollowUp(Base):
    """Something left for later: written with the entry that says so, for the board and the unit's page."""

    __tablename__ = "follow_up"
    __table_args__ = (
        in_shop("visit_id", table="visit"),
        in_shop("unit_id", table="unit"),
        Index("follow_up_open", "shop_id", "due", postgresql_where=text("done_at IS NULL")),
        Index("follow_up_by_unit", "shop_id", "unit_id"),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    visit_id: Mapped[UUID]
    unit_id: Mapped[UUID]
    sort: Mapped[str]
    what: Mapped[str]
    due: Mapped[date]
    done_at: Mapped[datetime | None]


class SoundDay(Base):
    """The last readings of a closed visit, and whether they show the unit as it is when it is sound."""

    __tablename__ = "sound_day"
    __table_args__ = (
        in_shop("visit_id", table="visit"),
        in_shop("unit_id", table="unit"),
        Index("sound_day_by_unit", "shop_id", "unit_id", text("at DESC")),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    visit_id: Mapped[UUID] = mapped_column(primary_key=True)
    unit_id: Mapped[UUID]
    at: Mapped[datetime]
    earned: Mapped[bool]
    why: Mapped[str]
    marked: Mapped[bool | None]
    changed: Mapped[bool] = mapped_column(server_default=text("false"))
    shown: Mapped[dict[str, Any]]
    gaps: Mapped[dict[str, Any]]


class ControlChainRow(Base):
    """A unit's control chain as it stood at the end of a visit."""

    __tablename__ = "control_chain"
    __table_args__ = (
        in_shop("visit_id", table="visit"),
        in_shop("unit_id", table="unit"),
        Index("control_chain_by_unit", "shop_id", "unit_id", text("at DESC")),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    visit_id: Mapped[UUID] = mapped_column(primary_key=True)
    unit_id: Mapped[UUID]
    at: Mapped[datetime]
    chain: Mapped[dict[str, Any]]


class ControlFinding(Base):
    """A link that was found open, or a code that was read; `board` is nothing for links."""

    __tablename__ = "control_finding"
    __table_args__ = (
        in_shop("visit_id", table="visit"),
        in_shop("unit_id", table="unit"),
        Index("control_finding_by_unit", "shop_id", "unit_id", text("at DESC")),
        Index("control_finding_by_visit", "shop_id", "visit_id"),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    visit_id: Mapped[UUID]
    unit_id: Mapped[UUID]
    sort: Mapped[str]
    board: Mapped[str]
    name: Mapped[str]
    at: Mapped[datetime]


class BoardCode(Base):
    """What a code of a board means, typed once from its legend; the latest line counts."""

    __tablename__ = "board_code"
    __table_args__ = (
        in_shop("visit_id", table="visit"),
        Index("board_code_by_board", "shop_id", text("lower(board)"), text("lower(code)"), text("at DESC")),
        Index("board_code_by_visit", "shop_id", "visit_id"),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    visit_id: Mapped[UUID]
    board: Mapped[str]
    code: Mapped[str]
    meaning: Mapped[str]
    first_test: Mapped[str]
    latches: Mapped[bool]
    at: Mapped[datetime]


class BoardLine(Base):
    """A line of the shop's tables that no visit left behind; of these and those the latest of a code counts."""

    __tablename__ = "board_line"
    __table_args__ = (
        ForeignKeyConstraint(["shop_id"], ["shop.id"]),
        Index("board_line_by_board", "shop_id", text("lower(board)"), text("lower(code)"), text("at DESC")),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    board: Mapped[str]
    code: Mapped[str]
    meaning: Mapped[str]
    first_test: Mapped[str]
    latches: Mapped[bool]
    dropped: Mapped[bool] = mapped_column(server_default=text("false"))
    at: Mapped[datetime]


class ProbeToken(Base):
    """What lets a hub of probes feed one visit. The application reaches it only through functions."""

    __tablename__ = "probe_token"
    __table_args__ = (in_shop("visit_id", table="visit"), in_shop("person_id", table="person"))
    token_hash: Mapped[bytes] = mapped_column(primary_key=True)
    shop_id: Mapped[UUID]
    visit_id: Mapped[UUID]
    person_id: Mapped[UUID]
    expires_at: Mapped[datetime]
    id: Mapped[UUID] = mapped_column(server_default=text("gen_random_uuid()"))
    made_at: Mapped[datetime] = mapped_column(server_default=text("now()"))


class ProbeHub(Base):
    """A hub of probes on one visit: how far its samples have come without a gap, and the latest of each probe."""

    __tablename__ = "probe_hub"
    __table_args__ = (in_shop("visit_id", table="visit"),)
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    visit_id: Mapped[UUID] = mapped_column(primary_key=True)
    hub: Mapped[str] = mapped_column(primary_key=True)
    acknowledged: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))
    seen_at: Mapped[datetime] = mapped_column(server_default=text("now()"))
    latest: Mapped[dict[str, Any]] = mapped_column(server_default=text("'{}'::jsonb"))

"""The shop, its people, their sessions, and the trail of what they did."""

from __future__ import annotations

from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import BigInteger, ForeignKey, ForeignKeyConstraint, Index, UniqueConstraint, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from dry_gauge.store.models.base import Base, in_shop


class Shop(Base):
    """A service shop: whose people see the same units and visits."""

    __tablename__ = "shop"
    id: Mapped[UUID] = mapped_column(primary_key=True)
    name: Mapped[str]
    town: Mapped[str] = mapped_column(server_default="")
    superheat_school: Mapped[str] = mapped_column(server_default="common")
    settings: Mapped[dict[str, Any]] = mapped_column(server_default=text("'{}'::jsonb"))
    practice_of: Mapped[UUID | None] = mapped_column(ForeignKey("shop.id"), unique=True)
    """Which shop's people practise here; nobody signs in to such a one."""


class Person(Base):
    """Someone of a shop, and how they like to read numbers."""

    __tablename__ = "person"
    __table_args__ = (UniqueConstraint("login"), ForeignKeyConstraint(["shop_id"], ["shop.id"]))
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    login: Mapped[str]
    name: Mapped[str]
    role: Mapped[str]
    password_hash: Mapped[str]
    active: Mapped[bool] = mapped_column(server_default=text("true"))
    temperature_unit: Mapped[str] = mapped_column(server_default="F")
    pressure_unit: Mapped[str] = mapped_column(server_default="psi")
    theme: Mapped[str] = mapped_column(server_default="auto")
    weight_unit: Mapped[str] = mapped_column(server_default="lb_oz")
    clock: Mapped[str] = mapped_column(server_default="")
    hints_seen: Mapped[list[str]] = mapped_column(JSONB, server_default=text("'[]'::jsonb"))


class WebSession(Base):
    """A signed-in browser. The application reaches it only through functions that take its token's hash."""

    __tablename__ = "web_session"
    __table_args__ = (in_shop("person_id", table="person"), Index("web_session_expires_at", "expires_at"))
    token_hash: Mapped[bytes] = mapped_column(primary_key=True)
    shop_id: Mapped[UUID]
    person_id: Mapped[UUID]
    created_at: Mapped[datetime] = mapped_column(server_default=text("now()"))
    expires_at: Mapped[datetime]
    id: Mapped[UUID] = mapped_column(server_default=text("gen_random_uuid()"))
    seen_at: Mapped[datetime] = mapped_column(server_default=text("now()"))
    device: Mapped[str] = mapped_column(server_default="")
    practice_game: Mapped[UUID | None]


class SecondFactor(Base):
    """The encrypted secret of somebody's second step. The application reaches it only through functions."""

    __tablename__ = "second_factor"
    __table_args__ = (in_shop("person_id", table="person"),)
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    person_id: Mapped[UUID] = mapped_column(primary_key=True)
    secret: Mapped[str]
    last_step: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))


class RecoveryCode(Base):
    """A code that replaces the phone, once. The application reaches it only through functions."""

    __tablename__ = "recovery_code"
    __table_args__ = (
        ForeignKeyConstraint(["shop_id", "person_id"], ["second_factor.shop_id", "second_factor.person_id"], ondelete="CASCADE"),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    person_id: Mapped[UUID] = mapped_column(primary_key=True)
    code_hash: Mapped[bytes] = mapped_column(primary_key=True)


class AuditEvent(Base):
    """Who did what to people, rights, cards and settings. The application may add and read, never change or remove."""

    __tablename__ = "audit_event"
    __table_args__ = (
        ForeignKeyConstraint(["shop_id"], ["shop.id"]),
        in_shop("person_id", table="person"),
        Index("audit_event_by_time", "shop_id", text("at DESC")),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True, server_default=text("gen_random_uuid()"))
    at: Mapped[datetime] = mapped_column(server_default=text("now()"))
    person_id: Mapped[UUID | None]
    what: Mapped[str]
    about: Mapped[str] = mapped_column(server_default="")
    address: Mapped[str] = mapped_column(server_default="")


class RateWindow(Base):
    """Hits of one key within one window; unlogged, since losing it costs nothing."""

    __tablename__ = "rate_window"
    __table_args__ = ({"prefixes": ["UNLOGGED"]},)
    key: Mapped[str] = mapped_column(primary_key=True)
    window_start: Mapped[datetime] = mapped_column(primary_key=True)
    hits: Mapped[int]

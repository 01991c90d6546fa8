"""Made-up calls to practise on, and how each was played. They point at no unit and no visit."""

from __future__ import annotations

from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import BigInteger, ForeignKeyConstraint, Index, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from dry_gauge.store.models.base import Base, in_shop


class PracticeCaseRow(Base):
    """A call behind a code. The seed never leaves the server."""

    __tablename__ = "practice_case"
    __table_args__ = (ForeignKeyConstraint(["shop_id"], ["shop.id"]), in_shop("made_by", table="person"))
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    code: Mapped[str] = mapped_column(primary_key=True)
    title: Mapped[str]
    seed: Mapped[int] = mapped_column(BigInteger)
    level: Mapped[int]
    kind: Mapped[str] = mapped_column(server_default="")
    faults: Mapped[list[str] | None] = mapped_column(JSONB)
    version: Mapped[int]
    made_by: Mapped[UUID | None]
    made_at: Mapped[datetime]


class PracticeGameRow(Base):
    """One play of a call by one person: its steps, what they named in the end, and how it came out."""

    __tablename__ = "practice_game"
    __table_args__ = (
        ForeignKeyConstraint(["shop_id", "code"], ["practice_case.shop_id", "practice_case.code"]),
        in_shop("person_id", table="person"),
        Index("practice_game_by_person", "shop_id", "person_id", text("begun_at DESC")),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    code: Mapped[str]
    person_id: Mapped[UUID]
    begun_at: Mapped[datetime]
    steps: Mapped[list[str]] = mapped_column(JSONB, server_default=text("'[]'::jsonb"))
    named: Mapped[list[str] | None] = mapped_column(JSONB)
    ended_at: Mapped[datetime | None]
    result: Mapped[dict[str, Any] | None]
    visit_id: Mapped[UUID | None]
    """Its notebook, in the practice shop."""
    minutes: Mapped[float] = mapped_column(server_default=text("0"))
    help: Mapped[str] = mapped_column(server_default="asked")
    told: Mapped[str] = mapped_column(server_default="")

"""What the office keeps: how visits turned out, parts, reports, prices, options, decisions, warranties, work under way."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any
from uuid import UUID

from sqlalchemy import BigInteger, ForeignKeyConstraint, Index, UniqueConstraint, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from dry_gauge.store.models.base import Base, in_shop


class VisitResult(Base):
    """What a closed visit came to: causes that it named and parts that it put in, for sums over the shop."""

    __tablename__ = "visit_result"
    __table_args__ = (
        in_shop("visit_id", table="visit"),
        in_shop("unit_id", table="unit"),
        Index("visit_result_by_day", "shop_id", "closed_at"),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    visit_id: Mapped[UUID] = mapped_column(primary_key=True)
    unit_id: Mapped[UUID]
    closed_at: Mapped[datetime]
    outcome: Mapped[str]
    causes: Mapped[list[str]] = mapped_column(JSONB)
    parts: Mapped[list[str]] = mapped_column(JSONB)


class VisitHeld(Base):
    """Whether a repair held, said weeks later. The application may add a line, never change or remove one; the latest counts."""

    __tablename__ = "visit_held"
    __table_args__ = (
        in_shop("visit_id", table="visit"),
        in_shop("person_id", table="person"),
        Index("visit_held_by_visit", "shop_id", "visit_id", text("at DESC")),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    visit_id: Mapped[UUID]
    person_id: Mapped[UUID]
    at: Mapped[datetime]
    held: Mapped[bool]
    symptom: Mapped[str]
    words: Mapped[str]


class PartOrder(Base):
    """A part on its way to a unit: ordered, arrived, booked, done."""

    __tablename__ = "part_order"
    __table_args__ = (
        in_shop("unit_id", table="unit"),
        in_shop("visit_id", table="visit"),
        in_shop("return_visit", table="visit"),
        in_shop("person_id", table="person"),
        Index("part_order_by_unit", "shop_id", "unit_id"),
        Index("part_order_waiting", "shop_id", postgresql_where=text("done_on IS NULL")),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    unit_id: Mapped[UUID]
    visit_id: Mapped[UUID | None]
    person_id: Mapped[UUID]
    made_at: Mapped[datetime]
    what: Mapped[str]
    number: Mapped[str]
    pieces: Mapped[int]
    other_piece: Mapped[str]
    from_whom: Mapped[str]
    ordered_on: Mapped[date | None]
    expected_on: Mapped[date | None]
    arrived_on: Mapped[date | None]
    return_visit: Mapped[UUID | None]
    done_on: Mapped[date | None]
    dropped: Mapped[str] = mapped_column(server_default="")


class OwnerReportRow(Base):
    """What somebody chose for a visit's report to its owner: pictures, and words of their own."""

    __tablename__ = "owner_report"
    __table_args__ = (in_shop("visit_id", table="visit"),)
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    visit_id: Mapped[UUID] = mapped_column(primary_key=True)
    words: Mapped[str]
    pictures: Mapped[list[str]] = mapped_column(JSONB)


class OwnerLinkRow(Base):
    """A link under which an owner reads a visit's report without a sign-in; it ends by itself, or is withdrawn."""

    __tablename__ = "owner_link"
    __table_args__ = (
        UniqueConstraint("id"),
        in_shop("visit_id", table="visit"),
        in_shop("person_id", table="person"),
        Index("owner_link_by_visit", "shop_id", "visit_id"),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    visit_id: Mapped[UUID]
    person_id: Mapped[UUID]
    made_at: Mapped[datetime]
    expires_at: Mapped[datetime]
    withdrawn_at: Mapped[datetime | None]
    language: Mapped[str]
    temperature_unit: Mapped[str]
    pressure_unit: Mapped[str]
    weight_unit: Mapped[str]
    opened: Mapped[int] = mapped_column(server_default=text("0"))
    opened_at: Mapped[datetime | None]


class PriceRow(Base):
    """One line of the shop's price list; `on_hand` is how many lie in the shop, where somebody counts."""

    __tablename__ = "price"
    __table_args__ = (
        ForeignKeyConstraint(["shop_id"], ["shop.id"]),
        Index("price_by_code", "shop_id", text("lower(code)"), unique=True),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    code: Mapped[str]
    what: Mapped[str]
    sort: Mapped[str]
    per: Mapped[str]
    cents: Mapped[int] = mapped_column(BigInteger)
    on_hand: Mapped[int | None]
    retired: Mapped[bool] = mapped_column(server_default=text("false"))


class ProposalRow(Base):
    """Options side by side for an owner. Once offered it stays as it was; what is changed later is another one."""

    __tablename__ = "proposal"
    __table_args__ = (
        in_shop("visit_id", table="visit"),
        in_shop("person_id", table="person"),
        Index("proposal_by_visit", "shop_id", "visit_id", text("made_at DESC")),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    visit_id: Mapped[UUID]
    person_id: Mapped[UUID]
    made_at: Mapped[datetime]
    offered_at: Mapped[datetime | None]
    currency: Mapped[str]
    options: Mapped[list[Any]] = mapped_column(JSONB)
    facts: Mapped[dict[str, Any]]


class DecisionRow(Base):
    """What an owner decided of a proposal. The application may add one, never change or remove it; the latest counts."""

    __tablename__ = "decision"
    __table_args__ = (
        in_shop("proposal_id", table="proposal"),
        in_shop("visit_id", table="visit"),
        in_shop("link_id", table="owner_link"),
        in_shop("person_id", table="person"),
        Index("decision_by_visit", "shop_id", "visit_id", text("at DESC")),
        Index("decision_by_proposal", "shop_id", "proposal_id"),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    proposal_id: Mapped[UUID]
    visit_id: Mapped[UUID]
    at: Mapped[datetime]
    chosen: Mapped[int | None]
    name: Mapped[str]
    risks: Mapped[list[Any]] = mapped_column(JSONB)
    signature: Mapped[dict[str, Any]]
    words: Mapped[str]
    language: Mapped[str]
    link_id: Mapped[UUID | None]
    person_id: Mapped[UUID | None]


class WarrantyRow(Base):
    """Who stands for a unit or a part of it, from when, and for how long."""

    __tablename__ = "warranty"
    __table_args__ = (in_shop("unit_id", table="unit"), Index("warranty_by_unit", "shop_id", "unit_id"))
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    unit_id: Mapped[UUID]
    what: Mapped[str]
    whose: Mapped[str]
    starts_on: Mapped[date]
    start_from: Mapped[str]
    parts_months: Mapped[int]
    labour_months: Mapped[int]
    terms: Mapped[str]
    dropped: Mapped[bool] = mapped_column(server_default=text("false"))


class WarrantyClaim(Base):
    """A claim on a warranty: what failed, with which evidence, and what came of it."""

    __tablename__ = "warranty_claim"
    __table_args__ = (
        in_shop("warranty_id", table="warranty"),
        in_shop("visit_id", table="visit"),
        in_shop("person_id", table="person"),
        Index("warranty_claim_by_warranty", "shop_id", "warranty_id"),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    warranty_id: Mapped[UUID]
    visit_id: Mapped[UUID | None]
    person_id: Mapped[UUID]
    made_at: Mapped[datetime]
    failed: Mapped[str]
    why: Mapped[str]
    evidence: Mapped[dict[str, Any]]
    sent_on: Mapped[date | None]
    answer: Mapped[str] = mapped_column(server_default="")
    answered_on: Mapped[date | None]
    parts_cents: Mapped[int | None] = mapped_column(BigInteger)
    labour_cents: Mapped[int | None] = mapped_column(BigInteger)
    granted_cents: Mapped[int | None] = mapped_column(BigInteger)


class Job(Base):
    """Work that takes minutes: asked for by somebody, done by whichever process is free."""

    __tablename__ = "job"
    __table_args__ = (
        in_shop("person_id", table="person"),
        Index("job_to_do", "made_at", postgresql_where=text("state IN ('waiting', 'going')")),
        Index("job_by_shop", "shop_id", text("made_at DESC")),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    person_id: Mapped[UUID]
    sort: Mapped[str]
    asked: Mapped[dict[str, Any]]
    made_at: Mapped[datetime]
    state: Mapped[str] = mapped_column(server_default="waiting")
    done: Mapped[int] = mapped_column(server_default=text("0"))
    of_all: Mapped[int] = mapped_column(server_default=text("0"))
    words: Mapped[str] = mapped_column(server_default="")
    name: Mapped[str] = mapped_column(server_default="")
    seen_at: Mapped[datetime | None]
    ended_at: Mapped[datetime | None]
    tries: Mapped[int] = mapped_column(server_default=text("0"))


class JobPiece(Base):
    """What a job was given, or made, a piece at a time."""

    __tablename__ = "job_piece"
    __table_args__ = (ForeignKeyConstraint(["shop_id", "job_id"], ["job.shop_id", "job.id"], ondelete="CASCADE"),)
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    job_id: Mapped[UUID] = mapped_column(primary_key=True)
    part: Mapped[str] = mapped_column(primary_key=True)
    n: Mapped[int] = mapped_column(primary_key=True)
    piece: Mapped[bytes]

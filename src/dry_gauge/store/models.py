"""What is remembered: the tables. Every table of a shop leads with `shop_id`; row-level security sees to the rest."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any
from uuid import UUID

from sqlalchemy import BigInteger, ForeignKeyConstraint, Index, UniqueConstraint, text
from sqlalchemy.dialects.postgresql import JSONB, TIMESTAMP
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    """Moments are with time zone, dictionaries are JSON."""

    type_annotation_map = {datetime: TIMESTAMP(timezone=True), dict[str, Any]: JSONB}  # noqa: RUF012


def _in_shop(*columns: str, table: str) -> ForeignKeyConstraint:
    return ForeignKeyConstraint(["shop_id", *columns], [f"{table}.shop_id", f"{table}.id"])


class Shop(Base):
    """A service shop: whose people see the same units and visits."""

    __tablename__ = "shop"
    id: Mapped[UUID] = mapped_column(primary_key=True)
    name: Mapped[str]
    town: Mapped[str] = mapped_column(server_default="")
    superheat_school: Mapped[str] = mapped_column(server_default="common")
    settings: Mapped[dict[str, Any]] = mapped_column(server_default=text("'{}'::jsonb"))


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
    hints_seen: Mapped[list[str]] = mapped_column(JSONB, server_default=text("'[]'::jsonb"))


class WebSession(Base):
    """A signed-in browser. The application reaches it only through functions that take its token's hash."""

    __tablename__ = "web_session"
    __table_args__ = (
        _in_shop("person_id", table="person"),
        Index("web_session_expires_at", "expires_at"),
    )
    token_hash: Mapped[bytes] = mapped_column(primary_key=True)
    shop_id: Mapped[UUID]
    person_id: Mapped[UUID]
    created_at: Mapped[datetime] = mapped_column(server_default=text("now()"))
    expires_at: Mapped[datetime]
    id: Mapped[UUID] = mapped_column(server_default=text("gen_random_uuid()"))
    seen_at: Mapped[datetime] = mapped_column(server_default=text("now()"))
    device: Mapped[str] = mapped_column(server_default="")


class SecondFactor(Base):
    """The encrypted secret of somebody's second step. The application reaches it only through functions."""

    __tablename__ = "second_factor"
    __table_args__ = (_in_shop("person_id", table="person"),)
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    person_id: Mapped[UUID] = mapped_column(primary_key=True)
    secret: Mapped[str]
    last_step: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))


class RecoveryCode(Base):
    """A code that replaces the phone, once. The application reaches it only through functions."""

    __tablename__ = "recovery_code"
    __table_args__ = (
        ForeignKeyConstraint(
            ["shop_id", "person_id"], ["second_factor.shop_id", "second_factor.person_id"], ondelete="CASCADE"
        ),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    person_id: Mapped[UUID] = mapped_column(primary_key=True)
    code_hash: Mapped[bytes] = mapped_column(primary_key=True)


class AuditEvent(Base):
    """Who did what to people, rights, cards and settings. The application may add and read, never change or remove."""

    __tablename__ = "audit_event"
    __table_args__ = (
        ForeignKeyConstraint(["shop_id"], ["shop.id"]),
        _in_shop("person_id", table="person"),
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
    __table_args__ = (_in_shop("site_id", table="site"),)
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
    disconnects: Mapped[list[str]] = mapped_column(JSONB, server_default=text("'[]'::jsonb"))
    circuits: Mapped[int] = mapped_column(server_default=text("1"))
    stages: Mapped[int] = mapped_column(server_default=text("1"))
    label_from: Mapped[str] = mapped_column(server_default="")
    label_photo: Mapped[UUID | None]


class UnitChange(Base):
    """Who changed what on a unit card, and when."""

    __tablename__ = "unit_change"
    __table_args__ = (
        _in_shop("unit_id", table="unit"),
        _in_shop("person_id", table="person"),
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
    __table_args__ = (_in_shop("unit_id", table="unit"), Index("component_by_unit", "shop_id", "unit_id"))
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


class Visit(Base):
    """One call: a notebook about one unit, planned, open or closed."""

    __tablename__ = "visit"
    __table_args__ = (
        _in_shop("unit_id", table="unit"),
        _in_shop("technician_id", table="person"),
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
    bring: Mapped[str] = mapped_column(server_default="")
    follow_up_id: Mapped[UUID | None]
    called_off: Mapped[str | None]


class SoundDay(Base):
    """The last readings of a closed visit, and whether they show the unit as it is when it is sound."""

    __tablename__ = "sound_day"
    __table_args__ = (
        _in_shop("visit_id", table="visit"),
        _in_shop("unit_id", table="unit"),
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
        _in_shop("visit_id", table="visit"),
        _in_shop("unit_id", table="unit"),
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
        _in_shop("visit_id", table="visit"),
        _in_shop("unit_id", table="unit"),
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
        _in_shop("visit_id", table="visit"),
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


class EntryRow(Base):
    """One line of a notebook. The application may add and read, never change or remove."""

    __tablename__ = "entry"
    __table_args__ = (
        _in_shop("visit_id", table="visit"),
        _in_shop("person_id", table="person"),
        UniqueConstraint("shop_id", "visit_id", "sequence"),
        Index("entry_in_order", "shop_id", "visit_id", "written_at", "sequence"),
        Index("entry_voids", "shop_id", "voids", unique=True, postgresql_where=text("voids IS NOT NULL")),
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
        _in_shop("visit_id", table="visit"),
        _in_shop("unit_id", table="unit"),
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


class Photo(Base):
    """A photo, made small and without what the camera wrote into it."""

    __tablename__ = "photo"
    __table_args__ = (_in_shop("unit_id", table="unit"), _in_shop("person_id", table="person"))
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)
    unit_id: Mapped[UUID]
    person_id: Mapped[UUID]
    at: Mapped[datetime]
    width: Mapped[int]
    height: Mapped[int]
    picture: Mapped[bytes]
    thumbnail: Mapped[bytes]


class VisitResult(Base):
    """What a closed visit came to: causes that it named and parts that it put in, for sums over the shop."""

    __tablename__ = "visit_result"
    __table_args__ = (
        _in_shop("visit_id", table="visit"),
        _in_shop("unit_id", table="unit"),
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
        _in_shop("visit_id", table="visit"),
        _in_shop("person_id", table="person"),
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
        _in_shop("unit_id", table="unit"),
        _in_shop("visit_id", table="visit"),
        _in_shop("return_visit", table="visit"),
        _in_shop("person_id", table="person"),
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
    __table_args__ = (_in_shop("visit_id", table="visit"),)
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    visit_id: Mapped[UUID] = mapped_column(primary_key=True)
    words: Mapped[str]
    pictures: Mapped[list[str]] = mapped_column(JSONB)


class OwnerLinkRow(Base):
    """A link under which an owner reads a visit's report without a sign-in; it ends by itself, or is withdrawn."""

    __tablename__ = "owner_link"
    __table_args__ = (
        UniqueConstraint("id"),
        _in_shop("visit_id", table="visit"),
        _in_shop("person_id", table="person"),
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
        _in_shop("visit_id", table="visit"),
        _in_shop("person_id", table="person"),
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
        _in_shop("proposal_id", table="proposal"),
        _in_shop("visit_id", table="visit"),
        _in_shop("link_id", table="owner_link"),
        _in_shop("person_id", table="person"),
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
    __table_args__ = (_in_shop("unit_id", table="unit"), Index("warranty_by_unit", "shop_id", "unit_id"))
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
        _in_shop("warranty_id", table="warranty"),
        _in_shop("visit_id", table="visit"),
        _in_shop("person_id", table="person"),
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


class Job(Base):
    """Work that takes minutes: asked for by somebody, done by whichever process is free."""

    __tablename__ = "job"
    __table_args__ = (
        _in_shop("person_id", table="person"),
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
    __table_args__ = (
        ForeignKeyConstraint(["shop_id", "job_id"], ["job.shop_id", "job.id"], ondelete="CASCADE"),
    )
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    job_id: Mapped[UUID] = mapped_column(primary_key=True)
    part: Mapped[str] = mapped_column(primary_key=True)
    n: Mapped[int] = mapped_column(primary_key=True)
    piece: Mapped[bytes]


class ProbeToken(Base):
    """What lets a hub of probes feed one visit. The application reaches it only through functions."""

    __tablename__ = "probe_token"
    __table_args__ = (_in_shop("visit_id", table="visit"), _in_shop("person_id", table="person"))
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
    __table_args__ = (_in_shop("visit_id", table="visit"),)
    shop_id: Mapped[UUID] = mapped_column(primary_key=True)
    visit_id: Mapped[UUID] = mapped_column(primary_key=True)
    hub: Mapped[str] = mapped_column(primary_key=True)
    acknowledged: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))
    seen_at: Mapped[datetime] = mapped_column(server_default=text("now()"))
    latest: Mapped[dict[str, Any]] = mapped_column(server_default=text("'{}'::jsonb"))


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
        _in_shop("visit_id", table="visit"),
        _in_shop("unit_id", table="unit"),
        _in_shop("person_id", table="person"),
        _in_shop("origin_cylinder", table="cylinder"),
        _in_shop("goal_cylinder", table="cylinder"),
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

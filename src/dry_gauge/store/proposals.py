"""Options that were put together for owners, and what they decided."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import Connection, Select, insert, select, text, update

from dry_gauge.store.models import DecisionRow, Person, ProposalRow
from dry_gauge.store.once import add_once


@dataclass(frozen=True, slots=True)
class Proposal:
    """One set of options as it is stored."""

    id: UUID
    visit_id: UUID
    made_at: datetime
    offered_at: datetime | None
    currency: str
    options: list[dict[str, Any]]
    facts: dict[str, Any]
    made_by: str


_PROPOSALS: Select[*tuple[Any, ...]] = (
    select(
        ProposalRow.id, ProposalRow.visit_id, ProposalRow.made_at, ProposalRow.offered_at, ProposalRow.currency,
        ProposalRow.options, ProposalRow.facts, Person.name,
    )
    .join(Person, (Person.shop_id == ProposalRow.shop_id) & (Person.id == ProposalRow.person_id))
    .order_by(ProposalRow.made_at.desc(), ProposalRow.id.desc()).limit(1)
)  # fmt: skip


def latest_proposal(
    connection: Connection, visit_id: UUID, *, offered: bool | None = None, lock: bool = False
) -> Proposal | None:
    """The options that were made last for a visit: any, only those that were offered, or only a draft."""
    asked = _PROPOSALS.where(ProposalRow.visit_id == visit_id)
    if offered is not None:
        asked = asked.where(ProposalRow.offered_at.is_not(None) if offered else ProposalRow.offered_at.is_(None))
    row = connection.execute(asked.with_for_update(of=ProposalRow) if lock else asked).one_or_none()
    return None if row is None else Proposal(*row)


def add_proposal(connection: Connection, **values: Any) -> None:
    """A new set of options."""
    connection.execute(insert(ProposalRow).values(values))


def change_draft(connection: Connection, proposal_id: UUID, **values: Any) -> None:
    """A draft is changed, or offered; what was offered is not touched."""
    draft = update(ProposalRow).where(ProposalRow.id == proposal_id, ProposalRow.offered_at.is_(None))
    connection.execute(draft.values(values))


@dataclass(frozen=True, slots=True)
class Decision:
    """What somebody decided; `chosen` is the option's place, None declines them all."""

    id: UUID
    proposal_id: UUID
    at: datetime
    chosen: int | None
    name: str
    risks: list[str]
    signature: dict[str, Any]
    words: str
    language: str
    link_id: UUID | None
    taken_by: str | None


def add_decision(connection: Connection, **values: Any) -> bool:
    """Keep a decision; False where it was kept before."""
    return add_once(connection, DecisionRow, **values)


def decisions_of(connection: Connection, visit_id: UUID) -> Sequence[Decision]:
    """Every decision on a visit, the latest first."""
    asked: Select[*tuple[Any, ...]] = (
        select(
            DecisionRow.id,
            DecisionRow.proposal_id,
            DecisionRow.at,
            DecisionRow.chosen,
            DecisionRow.name,
            DecisionRow.risks,
            DecisionRow.signature,
            DecisionRow.words,
            DecisionRow.language,
            DecisionRow.link_id,
            Person.name,
        )
        .outerjoin(Person, (Person.shop_id == DecisionRow.shop_id) & (Person.id == DecisionRow.person_id))
        .where(DecisionRow.visit_id == visit_id)
        .order_by(DecisionRow.at.desc())
    )
    return [Decision(*row) for row in connection.execute(asked)]


_FAILURES = text(
    "SELECT count(*) FROM visit_result WHERE unit_id = :unit_id AND closed_at >= :since AND closed_at < :until "
    "AND outcome IN ('fixed', 'improved', 'waiting', 'not_fixed') AND causes <> '[]'::jsonb"
)


def failures_of_unit(connection: Connection, unit_id: UUID, since: datetime, until: datetime) -> int:
    """Visits of a time that found something wrong with a unit."""
    return int(connection.execute(_FAILURES, {"unit_id": unit_id, "since": since, "until": until}).scalar_one())


_UNDECIDED = text("""
    SELECT proposal.visit_id, proposal.offered_at, site.name AS site_name, unit.tag, unit.id AS unit_id
    FROM proposal JOIN visit ON visit.shop_id = proposal.shop_id AND visit.id = proposal.visit_id
    JOIN unit ON unit.shop_id = visit.shop_id AND unit.id = visit.unit_id
    JOIN site ON site.shop_id = unit.shop_id AND site.id = unit.site_id
    WHERE proposal.offered_at IS NOT NULL AND NOT EXISTS (SELECT 1 FROM decision WHERE decision.visit_id = proposal.visit_id
          AND decision.shop_id = proposal.shop_id AND decision.at >= proposal.offered_at)
    AND NOT EXISTS (SELECT 1 FROM proposal AS later WHERE later.shop_id = proposal.shop_id AND later.visit_id = proposal.visit_id
          AND later.offered_at > proposal.offered_at)
    ORDER BY proposal.offered_at LIMIT 20
""")
_DECIDED = text("""
    SELECT decision.visit_id, decision.at, decision.name, decision.chosen, decision.link_id IS NOT NULL AS by_link,
           site.name AS site_name, unit.tag
    FROM (SELECT DISTINCT ON (visit_id) * FROM decision WHERE at >= :since ORDER BY visit_id, at DESC) AS decision
    JOIN visit ON visit.shop_id = decision.shop_id AND visit.id = decision.visit_id
    JOIN unit ON unit.shop_id = visit.shop_id AND unit.id = visit.unit_id
    JOIN site ON site.shop_id = unit.shop_id AND site.id = unit.site_id
    ORDER BY decision.at DESC LIMIT 20
""")


def undecided(connection: Connection) -> Sequence[Any]:
    """Offers that nobody has answered."""
    return connection.execute(_UNDECIDED).all()


def decided_since(connection: Connection, since: datetime) -> Sequence[Any]:
    """What owners decided lately, the latest first."""
    return connection.execute(_DECIDED, {"since": since}).all()

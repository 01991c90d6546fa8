"""Entries of one visit, a minute apart unless said, and what they fold to."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import Kind, Metering
from dry_gauge.notebook.arriving import Arriving
from dry_gauge.notebook.kind import Body, Case, Entry, VisitState
from dry_gauge.notebook.state import fold_all
from tests.notebook.every_kind import SOMEONE, ident

START = datetime(2026, 3, 4, 9, 0, tzinfo=UTC)
UNIT = UnitFacts(Kind.SPLIT_HEAT_PUMP, find("R-410A"), metering=Metering.TXV, label_charge_kg=3.0)


def entry(sequence, body, at=None, waited=0.0, sender=""):
    """One entry; `at` are minutes from the start at which it was written, `waited` minutes until it arrived."""
    written = START + timedelta(minutes=sequence if at is None else at)
    return Entry(
        id=ident(sequence),
        sequence=sequence,
        person_id=SOMEONE,
        written_at=written,
        sender=sender,
        received_at=written + timedelta(minutes=waited),
        body=body,
    )


def folded(*entries) -> VisitState:
    return fold_all(entries, UNIT)


def case_of(state: VisitState, body: Body) -> Case[Body]:
    """An entry that arrives now, an hour after the last."""
    return Arriving(state, UNIT, list).case(entry(state.entries + 1, body, at=60 * (state.entries + 1)))

"""The frame in which entries are written, and the tables that follow them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import Connection

from dry_gauge.core.sheet import UnitFacts
from dry_gauge.notebook.kind import Body, Case, VisitState
from dry_gauge.present.visit import VisitRow
from dry_gauge.store.people import Someone


@dataclass(frozen=True, slots=True)
class Posted:
    """In whose name, into which visit, and when it is written."""

    connection: Connection
    someone: Someone
    visit: VisitRow
    facts: UnitFacts
    now: datetime


class Projection:
    """One table, or several that belong together, for as long as one transaction lasts. Most share nothing with other visits."""

    def __init__(self, posted: Posted) -> None:
        self.posted = posted

    def lock(self, before: VisitState, arriving: Sequence[Body]) -> None:
        """Hold the rows that these entries may concern until the transaction ends."""

    def check(self, case: Case[Body], after: VisitState) -> None:
        """Raise `Refused` for what the table cannot take; nothing is written yet. `after` is the visit just after it."""

    def write(self, before: VisitState, after: VisitState) -> None:
        """Bring the table in step."""

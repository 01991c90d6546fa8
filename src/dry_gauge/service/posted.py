"""The frame in which entries are written."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import Connection

from dry_gauge.core.sheet import UnitFacts
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

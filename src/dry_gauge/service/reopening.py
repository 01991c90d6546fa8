"""Who may open a closed visit again."""

from __future__ import annotations

from dry_gauge.notebook.kind import VisitState
from dry_gauge.notebook.subjects.hold import Holds
from dry_gauge.store.people import Someone


def may_reopen(someone: Someone, visit: VisitState) -> bool:
    """A lead, or whoever comes back to read what stands under pressure."""
    return someone.role == "lead" or (someone.may_write and bool(visit[Holds].on))

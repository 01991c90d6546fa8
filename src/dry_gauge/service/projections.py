"""Tables that follow the notebook: each looks at what an entry would do to it, and is brought in step once all is decided.

Questions across visits are answered from these tables, written in the transaction of the entries.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

from dry_gauge.notebook.kind import Body, Case, VisitState
from dry_gauge.notebook.subjects.agenda import Agenda
from dry_gauge.service.book import Book
from dry_gauge.service.posted import Posted
from dry_gauge.store import follow_ups


class Projection(Protocol):
    """One table, or several that belong together, for as long as one transaction lasts."""

    def __init__(self, posted: Posted) -> None: ...

    def lock(self, before: VisitState, arriving: Sequence[Body]) -> None:
        """Hold the rows that these entries may concern until the transaction ends."""

    def check(self, case: Case[Body], after: VisitState) -> None:
        """Raise `Refused` for what the table cannot take; nothing is written yet. `after` is the visit just after it."""

    def write(self, before: VisitState, after: VisitState) -> None:
        """Bring the table in step."""


class FollowUps:
    """What was left for later."""

    def __init__(self, posted: Posted) -> None:
        self.posted = posted

    def lock(self, before: VisitState, arriving: Sequence[Body]) -> None:
        """Nothing is shared with other visits."""

    def check(self, case: Case[Body], after: VisitState) -> None:
        """Anything can be left for later."""

    def write(self, before: VisitState, after: VisitState) -> None:
        """Added, seen to, taken back."""
        then, now = before[Agenda].follow_ups, after[Agenda].follow_ups
        if then != now:
            follow_ups.keep_in_step(self.posted.connection, self.posted.someone.shop_id, self.posted.visit, then, now)


PROJECTIONS: tuple[type[Projection], ...] = (FollowUps, Book)

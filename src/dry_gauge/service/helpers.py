"""What helpers do: who stood by is one of the shop's technicians, and what was done beyond a limit is kept and told."""

from __future__ import annotations

from dry_gauge.core.errors import Refused
from dry_gauge.core.visit.teach import CARDS, Limit, Step, limits_of
from dry_gauge.notebook.kind import Body, Case, VisitState
from dry_gauge.notebook.subjects.stood_by import StoodBy, StoodByBody, step_of
from dry_gauge.service import audit
from dry_gauge.service.posted import Posted, Projection
from dry_gauge.service.settings import shop_settings
from dry_gauge.store.planning import workers


class HelperLimits(Projection):
    """The trail of what a helper did alone beyond the shop's limits. No limit keeps an entry from the record."""

    def __init__(self, posted: Posted) -> None:
        super().__init__(posted)
        self._beyond: list[Step] = []

    def check(self, case: Case[Body], after: VisitState) -> None:
        """Note what is beyond a limit; refuse somebody who cannot stand by."""
        body, someone, connection = case.body, self.posted.someone, self.posted.connection
        if isinstance(body, StoodByBody):
            if body.who not in {person.name for person in workers(connection) if person.id != someone.person_id}:
                raise Refused("Choose a technician of your shop who stands by.", "who")
            return
        step = step_of(body) if someone.helps else None
        if step is None:
            return
        limit = limits_of(shop_settings(connection).helper_limits)[step]
        stood_by = case.visit[StoodBy].at(step, case.entry.written_at)
        if limit is Limit.NOT or (limit is Limit.BESIDE and not stood_by):
            self._beyond.append(step)

    def write(self, before: VisitState, after: VisitState) -> None:
        """One line in the trail for each."""
        visit = self.posted.visit
        for step in self._beyond:
            audit.note(
                self.posted.connection,
                self.posted.someone,
                "beyond_limit",
                f"{CARDS[step].title.lower()}: {visit.site_name}, {visit.tag}",
            )

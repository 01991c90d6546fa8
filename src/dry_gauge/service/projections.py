"""Tables that follow the notebook: each looks at what an entry would do to it, and is brought in step once all is decided.

Questions across visits are answered from these tables, written in the transaction of the entries.
"""

from __future__ import annotations

import json
from typing import Any

from dry_gauge.notebook.earlier import made_another, shown
from dry_gauge.notebook.kind import Kept, VisitState
from dry_gauge.notebook.sheets import sheet_of
from dry_gauge.notebook.subjects.agenda import Agenda
from dry_gauge.notebook.subjects.closing import Closing
from dry_gauge.notebook.subjects.codes import Codes
from dry_gauge.notebook.subjects.control_chain import ControlChain
from dry_gauge.present import visit as present
from dry_gauge.present.closing import found_in, parts_in
from dry_gauge.present.sound_days import earned, gaps_and_residuals
from dry_gauge.service.book import Book
from dry_gauge.service.helpers import HelperLimits
from dry_gauge.service.posted import Projection
from dry_gauge.store import controls, follow_ups, planning, sound_days


class FollowUps(Projection):
    """What was left for later."""

    def write(self, before: VisitState, after: VisitState) -> None:
        """Added, seen to, taken back."""
        then, now = before[Agenda].follow_ups, after[Agenda].follow_ups
        if then != now:
            follow_ups.keep_in_step(self.posted.connection, self.posted.someone.shop_id, self.posted.visit, then, now)


class SoundDays(Projection):
    """What the unit showed at the end of each visit: what it is measured against on later days."""

    def write(self, before: VisitState, after: VisitState) -> None:
        """Closed, or opened again."""
        then, now = before[Closing].closing, after[Closing].closing
        if now == then:
            return
        visit, someone = self.posted.visit, self.posted.someone
        if now is None:
            sound_days.open_again(self.posted.connection, visit.id)
            return
        view = present.judged(visit, self.posted.facts, after, someone.superheat_school)
        good, why = earned(view)
        sheet = sheet_of(after, view.facts).sheet
        sound_days.keep(
            self.posted.connection,
            json.loads(visit.earlier),
            shop_id=someone.shop_id,
            visit_id=visit.id,
            unit_id=visit.unit_id,
            at=now.at,
            earned=good,
            why=why,
            changed=made_another(after),
            shown=shown(sheet),
            gaps=dict(gaps_and_residuals(view)),
        )


class ControlHistory(Projection):
    """Chains, links found open, codes and their meanings: what other visits and like units know beforehand."""

    def write(self, before: VisitState, after: VisitState) -> None:
        """Drawn, found, read, taken back."""
        connection, visit = self.posted.connection, self.posted.visit
        drawn = after[ControlChain].drawn
        if drawn != before[ControlChain].drawn:
            if drawn is None:
                controls.drop_chain(connection, visit.id)
            else:
                controls.keep_chain(
                    connection,
                    shop_id=self.posted.someone.shop_id,
                    visit_id=visit.id,
                    unit_id=visit.unit_id,
                    at=drawn.at,
                    chain=drawn.body.model_dump(mode="json"),
                )
        opened, read = after[ControlChain].opened, after[Codes].read
        if (opened, read) != (before[ControlChain].opened, before[Codes].read):
            links = [self._row(one, sort="link", board="", name=one.body.link) for one in opened.values()]
            codes = [self._row(one, sort="code", board=one.body.board, name=one.body.read) for one in read.values()]
            controls.keep_findings(connection, visit.id, [{**row, "unit_id": visit.unit_id} for row in (*links, *codes)])
        meanings = after[Codes].meanings
        if meanings != before[Codes].meanings:
            rows = [self._row(one, **one.body.model_dump(exclude={"kind"})) for one in meanings.values()]
            controls.keep_meanings(connection, visit.id, rows)

    def _row(self, one: Kept[Any], **values: Any) -> dict[str, Any]:
        shop_id, visit_id = self.posted.someone.shop_id, self.posted.visit.id
        return {"shop_id": shop_id, "id": one.entry_id, "visit_id": visit_id, "at": one.at, **values}


class Results(Projection):
    """What closed visits came to, for what held; and what a call was planned for is seen to once it is closed."""

    def write(self, before: VisitState, after: VisitState) -> None:
        """Closed, or opened again."""
        then, now = before[Closing].closing, after[Closing].closing
        if now == then:
            return
        connection, visit, someone = self.posted.connection, self.posted.visit, self.posted.someone
        planning.drop_result(connection, visit.id)
        call = planning.find_call(connection, visit.id)
        planned_for = call.follow_up_id if call else None
        if now is None:
            if planned_for:
                follow_ups.reopen(connection, planned_for)
            return
        view = present.judged(visit, self.posted.facts, after, someone.superheat_school)
        planning.add_result(
            connection,
            shop_id=someone.shop_id,
            visit_id=visit.id,
            unit_id=visit.unit_id,
            closed_at=now.at,
            outcome=now.body.outcome.value,
            causes=found_in(view),
            parts=parts_in(view),
        )
        if planned_for:
            follow_ups.settle(connection, planned_for, now.at)


PROJECTIONS: tuple[type[Projection], ...] = (FollowUps, Book, SoundDays, ControlHistory, Results, HelperLimits)

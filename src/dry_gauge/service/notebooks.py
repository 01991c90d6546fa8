"""A visit's notebook to be shown: loaded, judged, and as it stood when it was closed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from types import SimpleNamespace
from typing import Any
from uuid import UUID

from sqlalchemy import Connection

from dry_gauge.core.errors import ImpossibleAir
from dry_gauge.core.judgement.assess import Assessment, assess
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import School
from dry_gauge.exchange.reading_sheet import UnitJson, unit_from
from dry_gauge.notebook.kind import VisitState
from dry_gauge.notebook.sheets import circuits_of, facts_in, sheet_before, sheet_of
from dry_gauge.notebook.state import FOLD_VERSION, by_name, fold_all, restored, stored
from dry_gauge.notebook.subjects.closing import Closing
from dry_gauge.service.at_work import at_work
from dry_gauge.store import visits
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import VisitRow


class NotHere(LookupError):
    """No such visit, unit or entry in this shop."""


class NotAllowed(Exception):
    """Someone's role does not add entries."""


@dataclass(frozen=True, slots=True)
class VisitView:
    """A visit as it stands, judged; `assessment` is None where the readings cannot be judged, `why_not` says why."""

    visit: VisitRow
    facts: UnitFacts
    state: VisitState
    assessment: Assessment | None
    why_not: Mapping[str, str]

    @property
    def kept(self) -> SimpleNamespace:
        """What each subject knows, by its name: for templates."""
        return by_name(self.state)

    @property
    def circuits(self) -> tuple[int, ...]:
        """Circuits that any entry names."""
        return circuits_of(self.state)


def facts_of(facts: dict[str, Any]) -> UnitFacts:
    """The unit card's facts in SI."""
    return unit_from(UnitJson.model_validate(facts, strict=False))


def state_of(connection: Connection, visit: VisitRow) -> VisitState:
    """The visit's state; one that was folded by older rules is folded again from its entries, and kept."""
    if visit.fold_version == FOLD_VERSION or not visit.sequence:
        return restored(visit.state) if visit.fold_version == FOLD_VERSION else VisitState()
    state = fold_all(visits.all_entries(connection, visit.id), facts_of(visit.facts))
    visits.save_refolded(connection, visit, stored(state), FOLD_VERSION, at_work(state))
    return state


def judged(visit: VisitRow, state: VisitState, school: str) -> VisitView:
    """Judge a visit in that state. Needs no connection: it is done once what was sent is committed."""
    facts = facts_in(state, facts_of(visit.facts))
    found = sheet_of(state, facts, School(school))
    try:
        return VisitView(visit, facts, state, assess(found.sheet), found.refused)
    except ImpossibleAir as refusal:
        return VisitView(visit, facts, state, None, {**found.refused, refusal.quantity: refusal.message})


def view_of(connection: Connection, visit: VisitRow, school: str) -> VisitView:
    """A visit as it stands, judged."""
    return judged(visit, state_of(connection, visit), school)


def judged_before(view: VisitView) -> Assessment | None:
    """What was read before the latest action, for the ghost on the ladder; None where nothing was."""
    earlier = sheet_before(view.state, view.facts)
    if earlier is None:
        return None
    try:
        return assess(earlier)
    except ImpossibleAir:  # a void has left half of it
        return None


def load(connection: Connection, someone: Someone, visit_id: UUID) -> VisitView:
    """A visit to be shown.

    Raises
    ------
    NotHere
    """
    visit = visits.find_visit(connection, visit_id)
    if visit is None:
        raise NotHere("There is no such visit in your shop.")
    return view_of(connection, visit, someone.superheat_school)


def as_closed(connection: Connection, view: VisitView, school: str) -> VisitView:
    """The visit as it stood when it was closed: what arrived after that changes no proof."""
    closed = view.state[Closing]
    if closed.closing is None or view.state.sequence == closed.sequence:
        return view
    entries = [one for one in visits.all_entries(connection, view.visit.id) if one.sequence <= closed.sequence]
    return judged(view.visit, fold_all(entries, facts_of(view.visit.facts)), school)

"""A visit's notebook to be shown: loaded, judged, and as it stood when it was closed."""

from __future__ import annotations

from dataclasses import replace
from typing import Any
from uuid import UUID

from sqlalchemy import Connection

from dry_gauge.core.judgement.assess import kept_back
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.exchange.reading_sheet import unit_from
from dry_gauge.exchange.sheet_json import UnitJson
from dry_gauge.notebook.kind import VisitState
from dry_gauge.notebook.state import FOLD_VERSION, fold_all, restored, stored
from dry_gauge.notebook.subjects.closing import Closing
from dry_gauge.present import visit as present
from dry_gauge.present.visit import VisitRow, VisitView
from dry_gauge.service.allowed import NotHere
from dry_gauge.service.at_work import at_work
from dry_gauge.store import visits
from dry_gauge.store.people import Someone


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
    return present.judged(visit, facts_of(visit.facts), state, school)


def view_of(connection: Connection, visit: VisitRow, school: str) -> VisitView:
    """A visit as it stands, judged."""
    return judged(visit, state_of(connection, visit), school)


def load(connection: Connection, someone: Someone, visit_id: UUID) -> VisitView:
    """A visit to be shown.

    Raises
    ------
    NotHere
    """
    visit = visits.find_visit(connection, visit_id)
    if visit is None:
        raise NotHere("There is no such visit in your shop.")
    return as_seen_by(someone, view_of(connection, visit, someone.superheat_school))


def as_seen_by(someone: Someone, view: VisitView) -> VisitView:
    """The visit as somebody sees it: whoever practises without the judgement's help is not shown it."""
    if someone.practice is None or someone.practice.help in ("shown", "answered") or view.assessment is None:
        return view
    return replace(view, assessment=kept_back(view.assessment), is_kept_back=True)


def as_closed(connection: Connection, view: VisitView, school: str) -> VisitView:
    """The visit as it stood when it was closed: what arrived after that changes no proof."""
    closed = view.state[Closing]
    if closed.closing is None or view.state.sequence == closed.sequence:
        return view
    entries = [one for one in visits.all_entries(connection, view.visit.id) if one.sequence <= closed.sequence]
    return judged(view.visit, fold_all(entries, facts_of(view.visit.facts)), school)

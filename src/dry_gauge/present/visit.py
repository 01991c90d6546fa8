"""A visit as everyone shows it: its row, the unit's facts, what the entries add up to, and the judgement."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import lru_cache
from types import SimpleNamespace
from typing import Any
from uuid import UUID

from dry_gauge.core.errors import ImpossibleAir
from dry_gauge.core.judgement.assess import Assessment, CircuitAssessment, assess, with_put_aside
from dry_gauge.core.judgement.stops import IN_EITHER_MODE, Stop
from dry_gauge.core.sheet import Sheet, UnitFacts
from dry_gauge.core.visit.complaints import TRIAGE
from dry_gauge.core.vocabulary import School
from dry_gauge.notebook.earlier import earlier_of
from dry_gauge.notebook.kind import VisitState
from dry_gauge.notebook.sheets import VisitSheet, facts_in, sheet_before, sheet_of, sheet_of_other_mode, sheet_otherwise
from dry_gauge.notebook.state import by_name
from dry_gauge.notebook.subjects.call import Call
from dry_gauge.notebook.subjects.readings import Readings
from dry_gauge.notebook.subjects.verdicts import Verdicts

# The same sheet is looked at again and again: by the board, by everyone who looks on, as what was before an action.
_assessed = lru_cache(maxsize=256)(assess)


@lru_cache(maxsize=64)
def _assessed_unread(sheet: Sheet, number: int) -> CircuitAssessment:
    return _assessed(sheet).unread(number)


@dataclass(frozen=True, slots=True)
class VisitRow:
    """A visit with its unit, site and technician."""

    id: UUID
    status: str
    planned_for: datetime
    complaint: str
    summary: str
    sequence: int
    state: dict[str, Any]
    technician_id: UUID
    technician: str
    unit_id: UUID
    tag: str
    serves: str
    facts: dict[str, Any]
    site_name: str
    call_id: UUID
    closed_at: datetime | None
    outcome: str
    fold_version: int
    at_work: dict[str, str]
    opened_after: list[dict[str, Any]]
    circuits: int = 1
    earlier: str = "[]"
    """The unit's own sound days as they are stored, see `notebook.earlier`; of a closed visit those that it was judged by."""
    bring: str = ""
    along: str | None = None
    """Who goes along."""


@dataclass(frozen=True, slots=True)
class VisitView:
    """A visit as it stands, judged; `assessment` is None where the readings cannot be judged, `why_not` says why.

    Of one that is practised on, what the judgement makes of the readings may be kept back.
    """

    visit: VisitRow
    facts: UnitFacts
    state: VisitState
    assessment: Assessment | None
    why_not: Mapping[str, str]
    is_kept_back: bool = False

    @property
    def kept(self) -> SimpleNamespace:
        """What each subject knows, by its name: for templates."""
        return by_name(self.state)

    @property
    def has_own_days(self) -> bool:
        """Whether a circuit is measured against what the unit itself showed on sound days."""
        circuits = self.assessment.circuits.values() if self.assessment else ()
        return any(one.judgement.baseline is not None and one.judgement.baseline.visits for one in circuits)

    @property
    def complaint(self) -> str:
        """What it was called for: as it was written down on arrival, else as the office noted it."""
        typed = self.state[Call].complaint
        said = typed.body.words or ", ".join(TRIAGE[sort].label for sort in typed.body.sorts).lower() if typed else ""
        return said or self.visit.complaint or ""

    @property
    def circuits(self) -> tuple[int, ...]:
        """Circuits that any entry names."""
        return self.state.circuits

    @property
    def most_circuits(self) -> int:
        """The highest circuit that the card or any entry names."""
        return max(self.visit.circuits, self.circuits[-1], *(one.number for one in self.facts.more_circuits))

    @property
    def has_several_circuits(self) -> bool:
        """Whether there is a second one."""
        return self.most_circuits > 1

    def outdated(self, number: int) -> Mapping[str, str]:
        """Quantities of that circuit that have to be read again, each with when it was read instead."""
        judged = self.assessment.circuits.get(number) if self.assessment else None
        return judged.outdated if judged else {}

    def of_circuit(self, number: int) -> VisitView:
        """The same with the sealed work of that circuit alone, and its own refrigerant and charge; the judgement stays whole."""
        own = replace(self.facts.of_circuit(number), more_circuits=())
        return replace(self, facts=own, state=self.state.of_circuit(number))


def sheet_today(visit: VisitRow, facts: UnitFacts, state: VisitState, school: str) -> VisitSheet:
    """What the visit amounts to now, with the unit's own sound days beside it."""
    found = sheet_of(state, facts, School(school))
    return replace(found, sheet=replace(found.sheet, earlier=earlier_of(visit.earlier, facts, state)))


def judged(visit: VisitRow, facts: UnitFacts, state: VisitState, school: str) -> VisitView:
    """Judge a visit in that state. Needs no connection: it is done once what was sent is committed."""
    facts = facts_in(state, facts)
    found = sheet_today(visit, facts, state, school)
    try:
        assessment = _assessed(found.sheet)
        otherwise = sheet_otherwise(state, facts)
        if otherwise is not None:
            assessment = assessment.with_stops(_stops_in_either_mode(otherwise))
        return VisitView(visit, facts, state, _as_put_aside(assessment, state), found.refused)
    except ImpossibleAir as refusal:
        return VisitView(visit, facts, state, None, {**found.refused, refusal.quantity: refusal.message})


def _stops_in_either_mode(otherwise: Sheet) -> Mapping[int, Sequence[Stop]]:
    """What was too hot or too high in the other mode: turning it over mends nothing."""
    try:
        circuits = _assessed(otherwise).circuits
    except ImpossibleAir:  # air of two modes
        return {}
    return {number: [stop for stop in one.stops if stop.code in IN_EITHER_MODE] for number, one in circuits.items()}


def warning_name(code: str, circuit: int) -> str:
    """A warning as it is put aside: of one circuit."""
    return f"{code}_{circuit}"


def _as_put_aside(assessment: Assessment, state: VisitState) -> Assessment:
    """The judgement once warnings were put aside with a reason: what rested on them alone is released."""
    if not state[Verdicts].asides:
        return assessment
    return Assessment(
        assessment.sheet, {number: _circuit_as_put_aside(one, number, state) for number, one in assessment.circuits.items()}
    )


def _circuit_as_put_aside(circuit: CircuitAssessment, number: int, state: VisitState) -> CircuitAssessment:
    aside = {
        oddity.code
        for oddity in circuit.oddities
        if state[Verdicts].aside(warning_name(oddity.code, number), state[Readings].basis(oddity.readings, number))
    }
    return with_put_aside(circuit, aside) if aside else circuit


def judged_before(view: VisitView) -> Assessment | None:
    """What was read before the latest action, for the ghost on the ladder; None where nothing was."""
    earlier = sheet_before(view.state, view.facts)
    if earlier is None:
        return None
    try:
        return _assessed(earlier)
    except ImpossibleAir:  # a void has left half of it
        return None


def judged_otherwise(view: VisitView) -> Assessment | None:
    """What a heat pump was read in its other mode, by itself: its gaps and their targets; None where nothing was."""
    sheet = sheet_of_other_mode(view.state, view.facts)
    try:
        return _assessed(sheet) if sheet else None
    except ImpossibleAir:  # air of two modes
        return None


def circuit_of(view: VisitView, number: int) -> CircuitAssessment | None:
    """One circuit as it was judged: never by another's readings where it has none of its own."""
    if view.assessment is None:
        return None
    if number in view.assessment.circuits:
        return view.assessment.circuits[number]
    return _circuit_as_put_aside(_assessed_unread(view.assessment.sheet, number), number, view.state)


_WORST_FIRST = ("fault", "held", "kept_back", "not_enough", "healthy")


def worst_of(view: VisitView) -> CircuitAssessment | None:
    """The circuit that stands for the unit where only one is shown: that must not run, else the least settled or sound."""
    if view.assessment is None:
        return None
    return min(
        view.assessment.circuits.values(), key=lambda one: (not one.stops, not one.view.is_read, _WORST_FIRST.index(one.verdict))
    )

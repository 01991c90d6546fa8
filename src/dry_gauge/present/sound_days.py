"""Whether a visit left its unit sound, and what it showed then."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from dry_gauge.core.judgement.features import FEATURES
from dry_gauge.notebook.subjects.closing import GOOD_ENDS, Closing
from dry_gauge.notebook.subjects.leak import Leaks
from dry_gauge.notebook.subjects.movements import Charge, emptied_at
from dry_gauge.present.visit import VisitView

_VERDICT_WORDS = {
    "not_enough": "not enough was read at the end", "held": "something held at the end", "fault": "a fault at the end",
}  # fmt: skip


def earned(view: VisitView) -> tuple[bool, str]:
    """Whether the last readings after the last change show a sound unit, and why (not), in a few words."""
    closing = view.state[Closing].closing
    if closing is None or closing.body.outcome not in GOOD_ENDS:
        return False, "did not end as fixed or sound"
    for number in view.circuits:
        own = view.state.of_circuit(number)
        topped_up = own[Charge].put_in_g > 0 and emptied_at(own) is None
        if topped_up and not own[Leaks].with_result("failed"):
            return False, "topped up, and no leak was found"
    if view.assessment is None:
        return False, "the readings could not be judged"
    for circuit in view.assessment.circuits.values():
        if circuit.verdict != "healthy" or circuit.stops:
            return False, _VERDICT_WORDS.get(circuit.verdict, "it must not run")
    return True, "sound at the end, every gate open"


def gaps_and_residuals(view: VisitView) -> Mapping[str, Any]:
    """The gaps at the end, with their uncertainty and what a sound unit of its sort would have shown."""
    if view.assessment is None:
        return {}
    found = {}
    for number, circuit in view.assessment.circuits.items():
        observed, judged = circuit.judgement.observed, circuit.judgement
        residuals = {
            FEATURES[i]: float(value) - judged.of_its_sort(FEATURES[i])
            for i, value in zip(observed.at.tolist(), observed.values.tolist(), strict=True)
        }
        derived = {name: [one.value, one.uncertainty] for name, one in circuit.derived.items()}
        found[str(number)] = {"derived": derived, "residuals": residuals}
    return found


@dataclass(frozen=True, slots=True)
class DayShown:
    """One day on the unit's card: whether it counts, why, and what a lead may say instead (``yes``, ``no``, ``rule``)."""

    visit_id: UUID
    at: datetime
    counts: bool
    why: str
    instead: str


def days_shown(days: Sequence[Any]) -> list[DayShown]:
    """Days as they are stored, latest first, as the card shows them."""
    found, past = [], False
    for day in days:
        right = day.earned if day.marked is None else day.marked
        why = "before the unit was changed" if past else day.why if day.marked is None else f"as a lead says; by rule: {day.why}"
        instead = "rule" if day.marked is not None else "no" if right else "yes"
        found.append(DayShown(day.visit_id, day.at, right and not past, why, instead))
        past = past or day.changed
    return found

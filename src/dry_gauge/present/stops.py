"""What must not run, over all circuits of a visit: the first thing that anyone sees, at every station."""

from __future__ import annotations

from dataclasses import dataclass

from dry_gauge.core.judgement.assess import CircuitAssessment
from dry_gauge.core.judgement.stops import STOPS
from dry_gauge.core.words import Phrase
from dry_gauge.present.visit import VisitView


@dataclass(frozen=True, slots=True)
class StopShown:
    """One stop as it is shown: its name, on which circuit where there are several, what is wrong and what to do."""

    code: str
    label: str
    where: str
    phrase: Phrase


def stopped_circuit(view: VisitView) -> CircuitAssessment | None:
    """The first circuit of an open visit that must not run; None where all may."""
    if view.assessment is None or view.visit.status == "closed":
        return None
    return next((circuit for circuit in view.assessment.circuits.values() if circuit.stops), None)


def stops_of(view: VisitView) -> tuple[StopShown, ...]:
    """Every stop of an open visit, the worst first; what is of the whole unit is said once."""
    if view.assessment is None or view.visit.status == "closed":
        return ()
    circuits = view.assessment.circuits
    found: dict[tuple[str, str], StopShown] = {}
    for number, circuit in circuits.items():
        for stop in circuit.stops:
            shown = any(stop.phrase == one.phrase for one in found.values())
            if not shown:
                where = f", circuit {number}" if len(circuits) > 1 and stop.phrase.numbers else ""
                found[stop.code, where] = StopShown(stop.code, STOPS[stop.code].label, where, stop.phrase)
    order = tuple(STOPS)
    return tuple(sorted(found.values(), key=lambda one: order.index(one.code)))

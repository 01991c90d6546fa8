"""What is done once a fault is sure: the first step of its remedy stands before any further check."""

from __future__ import annotations

from collections.abc import Sequence

from dry_gauge.core.judgement.checks import Check
from dry_gauge.core.judgement.evidence import Cause
from dry_gauge.core.judgement.faults import FAULTS
from dry_gauge.core.sheet import CircuitView
from dry_gauge.core.vocabulary import AIR_FAULTS, Fault

SURE_FROM = 0.9  # from here on another check changes less than the remedy does, and nobody says 'likely' (R44)
_AT_THE_OIL = "Find the leak, at the oil first, before anything is added"


def remedy_of(view: CircuitView, verdict: str, causes: Sequence[Cause]) -> Check | None:
    """The first step of the remedy, where nothing holds the verdict and the fault is sure; air before refrigerant.

    Short of charge with oil seen is sure from the verdict on: oil is where it leaves.
    """
    if verdict != "fault":
        return None
    oil = view.seen("oil_stain")
    sure = [
        cause
        for cause in causes
        if cause.severity is not None
        and (cause.probability >= SURE_FROM or (oil and cause.fault is Fault.UNDERCHARGE and cause is causes[0]))
    ]
    if not sure:
        return None
    fault = min(sure, key=lambda cause: cause.fault not in AIR_FAULTS).fault
    row = FAULTS[fault]
    words = _AT_THE_OIL if fault is Fault.UNDERCHARGE and oil else (view.unit.heating and row.heating_remedy) or row.remedy
    # Oil is looked for on the way, where nobody has yet.
    asks = ("oil_stain",) if fault is Fault.UNDERCHARGE and "oil_stain" not in view.states else ()
    return Check(f"remedy_{fault.value}", words, asks, row.remedy_minutes, "running")

"""The verdict in a few words, said so that nothing provisional sounds final."""

from __future__ import annotations

from dataclasses import dataclass

from dry_gauge.core.judgement.assess import CALLED_FROM, CircuitAssessment
from dry_gauge.core.judgement.evidence import GAP_LABELS
from dry_gauge.core.judgement.faults import FAULT_WORDS
from dry_gauge.core.judgement.gates import GATE_WORDS
from dry_gauge.core.judgement.stops import STOPS
from dry_gauge.core.words import Reader


def percent(probability: float) -> str:
    """A probability as it is shown: never all or nothing."""
    return f"{min(max(round(probability * 100), 1), 99)} %"


@dataclass(frozen=True, slots=True)
class Headline:
    """The verdict in a few words: for the board, the dock and the top of the judgement."""

    words: str
    mark: str
    detail: str


def headline(circuit: CircuitAssessment | None, reader: Reader) -> Headline:
    """What the judgement amounts to, said so that nothing provisional sounds final."""
    if circuit is None:
        return Headline("These readings cannot be", "act", "One value contradicts the rest; see below.")
    if circuit.stops:
        first_stop = circuit.stops[0]
        more = f", and {len(circuit.stops) - 1} more" if len(circuit.stops) > 1 else ""
        return Headline(f"Stop: {STOPS[first_stop.code].label.lower()}{more}", "stop", first_stop.phrase.read(reader))
    if not circuit.view.measured:
        return Headline("Nothing read yet", "open", "Type the first reading; the ladder starts there.")
    first, second = circuit.causes[:2]
    fault = FAULT_WORDS[first.fault]
    if first.severity and second.severity and second.probability >= CALLED_FROM:
        fault += f" and {FAULT_WORDS[second.fault].lower()}"
    match circuit.verdict:
        case "healthy":
            return Headline("Nothing wrong found", "ok", "Every gate is open and the readings fit a healthy unit.")
        case "fault":
            return Headline(fault, "act", f"{(first.severity or '').capitalize()}, {percent(first.probability)}.")
        case "held":
            holding = ", ".join(GATE_WORDS[gate.name].lower() for gate in circuit.holding)
            lead = "Looks healthy so far" if first.severity is None else f"Leans to: {fault.lower()}"
            return Headline(lead, "held", f"Held by: {holding}.")
        case _ if circuit.missed:
            missed = " and ".join(GAP_LABELS.get(name, name).lower() for name in circuit.missed)
            return Headline("Nothing stands out, yet a target is missed", "open", f"Read again first: {missed}.")
        case _:
            missing = next((gate for gate in circuit.holding if gate.name == "too_few_readings"), None)
            detail = missing.released_by.read(reader) if missing else "No cause stands out; the next check helps most."
            return Headline("Not enough to say", "open", detail)

"""The verdict in a few words, said so that nothing provisional sounds final."""

from __future__ import annotations

from dataclasses import dataclass

from dry_gauge.core.judgement.assess import CALLED_FROM, CircuitAssessment
from dry_gauge.core.judgement.evidence import GAP_LABELS
from dry_gauge.core.judgement.faults import fault_words
from dry_gauge.core.judgement.gates import GATE_WORDS
from dry_gauge.core.judgement.remedies import SURE_FROM
from dry_gauge.core.judgement.stops import STOPS
from dry_gauge.core.roles import sight_label
from dry_gauge.core.visit.findings import FINDINGS
from dry_gauge.core.vocabulary import SIGHTS
from dry_gauge.core.words import Reader, in_percent


def odds(probability: float) -> str:
    """A probability as it is shown: never all or nothing."""
    return in_percent(min(max(probability, 0.01), 0.99))


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
    return _without_verdict(circuit, reader) or _by_verdict(circuit, reader)


def _without_verdict(circuit: CircuitAssessment, reader: Reader) -> Headline | None:
    """What comes before any verdict: a stop, a unit that is not as it is to be judged, and no reading at all."""
    if circuit.stops:
        first = circuit.stops[0]
        more = f", and {len(circuit.stops) - 1} more" if len(circuit.stops) > 1 else ""
        return Headline(f"Stop: {STOPS[first.code].label.lower()}{more}", "stop", first.phrase.read(reader))
    if not circuit.view.measured:
        return Headline("Nothing read yet", "open", "Type the first reading; the ladder starts there.")
    under = [SIGHTS[what].label.lower() for what in ("panel_off", "coil_wet") if circuit.view.seen(what)]
    if under:
        return Headline(f"Not judged: {' and '.join(under)}", "held", "The numbers stand; what they mean waits until then.")
    return None


def _by_verdict(circuit: CircuitAssessment, reader: Reader) -> Headline:
    match circuit.verdict:
        case "kept_back":
            return Headline("Yours to judge", "open", "What each reading should be stands beside it; the rest is kept back.")
        case "healthy":
            return _right(circuit)
        case "fault":
            return _fault(circuit)
        case "held":
            holding = ", ".join(GATE_WORDS[gate.name].lower() for gate in circuit.holding)
            healthy = circuit.causes[0].severity is None
            lead = "Looks healthy so far" if healthy else f"Leans to: {_named(circuit).lower()}"
            return Headline(lead, "held", f"Waits for: {holding}.")
        case _ if circuit.missed:
            missed = " and ".join(GAP_LABELS.get(name, name).lower() for name in circuit.missed)
            return Headline("Nothing stands out, yet a target is missed", "open", f"Read again first: {missed}.")
        case "not_enough" if _looks_right(circuit):
            faults = circuit.still_open[:2] or (circuit.causes[1].fault,)
            still_open = " and ".join(fault_words(fault, circuit.view.unit).lower() for fault in faults)
            return Headline("Looks right, not sure yet", "open", f"Not excluded: {still_open}; the next check decides.")
        case _:
            missing = next((gate for gate in circuit.holding if gate.name == "too_few_readings"), None)
            detail = missing.released_by.read(reader) if missing else "No cause stands out; the next check helps most."
            return Headline("Not enough to say", "open", detail)


def _named(circuit: CircuitAssessment) -> str:
    """What leads, and beside it a second one that may be named too."""
    first, second = circuit.causes[:2]
    words = fault_words(first.fault, circuit.view.unit)
    if not (first.severity and second.severity and second.probability >= CALLED_FROM):
        return words
    less_sure = second.probability < SURE_FROM or circuit.is_provisional(second.fault)
    likely = "likely " if first.probability >= SURE_FROM and less_sure else ""
    return f"{words}{',' if likely else ''} and {likely}{fault_words(second.fault, circuit.view.unit).lower()}"


def _fault(circuit: CircuitAssessment) -> Headline:
    first, fault = circuit.causes[0], _named(circuit)
    size = f"{(first.severity or '').capitalize()}, {odds(first.probability)}."
    one_kind = first.rests_on_one_kind and circuit.next_checks
    if first.probability >= SURE_FROM and not one_kind:
        return Headline(fault, "act", size)
    unsure = "Not sure yet: make the next check first." if circuit.next_checks else "Not sure yet."
    why = "Pressures alone say so; the next check proves it." if one_kind else unsure
    return Headline(f"Likely {fault[:1].lower()}{fault[1:]}", "act", f"{size} {why}")


def _looks_right(circuit: CircuitAssessment) -> bool:
    """Nothing wrong leads and there was enough to read, yet not surely enough to call it healthy."""
    enough = all(gate.name != "too_few_readings" for gate in circuit.holding)
    first = circuit.causes[0]
    return enough and first.severity is None and first.probability >= CALLED_FROM


# What a verdict on the refrigerant side says nothing about, and the sights or readings that would.
_BESIDE = (
    ("static", ("external_static_supply", "external_static_return")),
    ("drain", ("drain_blocked",)),
    ("electrics", ("burnt_parts", "plug_loose", "water_at_electrics")),
    ("moving parts", ("blade_unsafe", "bearing_worn")),
)


def _right(circuit: CircuitAssessment) -> Headline:
    """The refrigerant side is right; of the rest it says what was not looked at."""
    view = circuit.view
    unlooked = [
        words
        for words, names in _BESIDE
        if not (view.unit.kind.is_walk_in and words == "static")
        and not any(name in view.measured or name in view.states for name in names)
    ]
    found = [sight_label(what, view.unit).lower() for what in sorted(FINDINGS) if view.seen(what)]
    if found:
        return Headline("Refrigerant side is right", "ok", f"Found beside it: {', '.join(found)}.")
    if unlooked:
        return Headline("Refrigerant side is right", "ok", f"Air proven. Not looked at: {', '.join(unlooked)}.")
    return Headline("Nothing wrong found", "ok", "Refrigerant side, air, drain, electrics and moving parts were looked at.")

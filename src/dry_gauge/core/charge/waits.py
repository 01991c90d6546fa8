"""Why no refrigerant should go in or out by the gauges now: the gates and findings that charge advice obeys.

Charge is judged last. While the unit must not run, a gate holds, the air is not in order or something else leads, adding
hides the fault and removing wastes the charge.
"""

from __future__ import annotations

from collections.abc import Iterator

from dry_gauge.core.judgement.assess import CALLED_FROM, CircuitAssessment
from dry_gauge.core.judgement.faults import fault_words
from dry_gauge.core.judgement.gates import GATE_WORDS
from dry_gauge.core.quantities import FAHRENHEIT_K
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import AIR_FAULTS, Fault
from dry_gauge.core.words import Phrase

CHARGE_CAUSES = frozenset({Fault.NONE, Fault.UNDERCHARGE, Fault.OVERCHARGE})
LEADS_FROM = 0.3
"""A cause other than charge that leads with this much is looked at first, though it is no verdict yet."""
# A receiver's outlet with more subcooling than this has liquid enough: bubbles behind it come from a restriction (R11).
_GOOD_SUBCOOLING_K = 10 * FAHRENHEIT_K


def charge_waits(facts: UnitFacts, judged: CircuitAssessment | None) -> tuple[Phrase, ...]:
    """Every reason to wait with refrigerant, the graver first; empty where charge may be judged.

    References
    ----------
    .. [1] docs/rules.md, R32.
    """
    return tuple(_waits(facts, judged))


def _waits(facts: UnitFacts, judged: CircuitAssessment | None) -> Iterator[Phrase]:
    if judged is None or not judged.view.measured:
        yield Phrase("Nothing is read yet: air first, then both pressures and lines.")
        return
    for stop in judged.stops:
        yield Phrase(f"It must not run: {stop.phrase.template[0].lower()}{stop.phrase.template[1:]}", stop.phrase.numbers)
    if judged.stopped_by is not None:
        yield Phrase(f"Circuit {judged.stopped_by} must not run, and this goes in while the unit does: end that first.")
    if facts.charge_is_critical:
        yield Phrase("Critical charge: no trim. Recover, evacuate, weigh it in on a scale of 1 to 2 g.")
    if facts.heating:
        yield Phrase("In heating: by weight, or by the maker's chart after a completed defrost; never by subcooling.")
    if facts.metering is None and not facts.receiver:
        yield Phrase("The metering device is not on the card: look whether it is a valve or an orifice, then judge.")
    for gate in judged.holding:
        words = gate.released_by
        yield Phrase(f"{GATE_WORDS[gate.name]} first: {words.template[0].lower()}{words.template[1:]}", words.numbers)
    yield from _other_causes(facts, judged)


def _other_causes(facts: UnitFacts, judged: CircuitAssessment) -> Iterator[Phrase]:
    others = [cause for cause in judged.causes if cause.fault not in CHARGE_CAUSES]
    likely = [cause for cause in others if cause.probability >= CALLED_FROM]
    leading = judged.causes[0]
    if not likely and leading in others and leading.probability >= LEADS_FROM:
        likely = [leading]
    for cause in likely:
        words = fault_words(cause.fault, facts).lower()
        if cause.fault in AIR_FAULTS:
            yield Phrase(f"Air first: {words} is likely, and charge judged on it is wrong.")
        elif cause.fault is Fault.WRONG_REFRIGERANT:
            yield Phrase("Another refrigerant fits better: find out what is in it before anything goes in.")
        else:
            yield Phrase(f"Not charge: {words} is likely, and refrigerant does not mend it.")
    subcooling = judged.derived.get("subcooling")
    bubbles = judged.view.seen("sight_glass_bubbles") or judged.view.seen("sight_glass_streaming")
    if bubbles and subcooling and subcooling.value >= _GOOD_SUBCOOLING_K and not likely:
        yield Phrase("Bubbles behind well subcooled liquid: look for a restriction before the glass, not for charge.")

"""What would prove the repair, offered from what was off; and where each thing that stands open is met."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import hypot

from dry_gauge.core.judgement.assess import CircuitAssessment
from dry_gauge.core.target import outside
from dry_gauge.core.words import Reader
from dry_gauge.notebook.subjects.failed_tests import GAP_READINGS, GAP_WORDS, FailedTests
from dry_gauge.present.visit import VisitView, judged_before

_MOST_OFFERED = 3

# Where what stands open at closing is met, and how the way there is named; what a tap ends beside its words has none.
MET_AT: Mapping[str, tuple[str, str]] = {
    "unproven": ("read", "Read it"), "failed": ("mend", "To the repair"), "no_test": ("mend", "Name another"),
    "leak": ("leak", "To the leak"), "patch": ("close", "Book it"), "top_up": ("close", "Book it"),
    "reset": ("close", "Book it"), "empty": ("weigh", "Weigh in"), "pour": ("weigh", "To the scale"),
    "hold": ("hold", "To the hold"), "evacuation": ("vacuum", "To the gauge"), "close_up": ("sealed", "To the plan"),
    "locked": ("mend", "Unlock"), "finding": ("mend", "Mend it"), "look_again": ("air", "Prove the air"),
    "condition": ("read", "End it"), "clash": ("read", "To the lines"), "stop": ("mend", "Lock it out"),
    "supply": ("electrical", "Read it again"), "damper": ("air", "To the damper"), "cleaning": ("mend", "To the coil"),
    "open_link": ("controls", "To the chain"), "safety_cause": ("controls", "To the chain"),
    "second_code": ("controls", "To the codes"), "fuse_hunt": ("controls", "To the hunt"),
    "defrost": ("controls", "To the defrost"), "box_check": ("box", "To the box"), "box_mark": ("box", "End it"),
    "food": ("box", "To the food"),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Offered:
    """A gap that is off, as the measurement that proves: one touch names it. `value` is in the reader's unit."""

    quantity: str
    circuit: int
    comparator: str
    value: str
    unit: str
    words: str


def offered(view: VisitView, reader: Reader) -> Sequence[Offered]:
    """Gaps that were outside their band before anything was done, the furthest first; nothing once one is named."""
    assessment = judged_before(view) or view.assessment
    if assessment is None or view.state[FailedTests].tests:
        return ()
    found = [one for circuit in assessment.circuits.values() for one in _off(circuit, reader)]
    return [one for _, one in sorted(found, key=lambda item: -item[0])[:_MOST_OFFERED]]


def _off(circuit: CircuitAssessment, reader: Reader) -> list[tuple[float, Offered]]:
    found = []
    for name in GAP_READINGS:
        gap, target = circuit.derived.get(name), circuit.targets.get(name)
        if gap is None or target is None or target.indication_only:
            continue
        off_k = outside(gap, target)
        if abs(off_k) <= hypot(gap.uncertainty, target.uncertainty_k):
            continue
        comparator, limit_k = ("below", target.high_k) if off_k > 0 else ("above", target.low_k)
        value, unit = f"{reader.difference(limit_k):.0f}", reader.temperature_unit
        words = f"{GAP_WORDS[name]} {comparator} {value} °{unit}, was {reader.difference(gap.value):.1f}"
        found.append((abs(off_k), Offered(name, circuit.view.number, comparator, value, unit, words)))
    return found

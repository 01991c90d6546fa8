"""What proves the repair, before and after; what would, offered from what was off; and where what stands open is met."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from math import hypot

from dry_gauge.core.circuit import Derived
from dry_gauge.core.dimensions import UNITS
from dry_gauge.core.judgement.assess import Assessment, CircuitAssessment
from dry_gauge.core.judgement.faults import in_its_words
from dry_gauge.core.target import outside
from dry_gauge.core.words import Reader
from dry_gauge.notebook.kind import Obstacle
from dry_gauge.notebook.subjects.closing import before_leaving
from dry_gauge.notebook.subjects.failed_tests import (
    GAP_READINGS,
    GAP_WORDS,
    FailedTestBody,
    FailedTests,
    Repeat,
    meets,
    repeat_of,
    should_words,
    unproven_words,
)
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


def repeats_in(view: VisitView, reader: Reader) -> dict[str, Repeat]:
    """How each failed measurement stands, by its entry, in the reader's units; a gap as the circuit arithmetic has it."""
    tests = view.state[FailedTests].tests.items()
    return {key: _in_numbers(repeat_of(view.state, test, view.facts), view, reader) for key, test in tests}


def _in_numbers(stands: Repeat, view: VisitView, reader: Reader) -> Repeat:
    body, found, before, passes = stands.test.body, stands.found, stands.before, stands.meets
    if body.quantity in GAP_READINGS:
        now = _gap_of(view.assessment, body) if stands.again_at else None
        then = _gap_of(judged_before(view), body) if stands.changed else None
        if now:
            found, passes = gap_said(now, reader), meets(body, now.value, view.facts.atmosphere_pa)
        before = gap_said(then, reader) if then else ""
    else:
        found = "; ".join(reader.own(one.value, one.unit) for one in stands.read) or found
        before = reader.own(stands.read_before.value, stands.read_before.unit) if stands.read_before else before
    return replace(stands, found=found, before=before, should=_should(body, reader), meets=passes)


def _should(body: FailedTestBody, reader: Reader) -> str:
    if body.quantity in GAP_READINGS:
        return should_words(body, lambda value, unit: reader.say("difference", value * UNITS[unit].scale))
    return should_words(body, reader.own)


def open_in(view: VisitView, reader: Reader) -> Sequence[Obstacle]:
    """What to see to before leaving, the numbers of what is not proven in the reader's units."""
    return [_open_in(one, view, reader) for one in before_leaving(view.state, view.assessment)]


def _open_in(obstacle: Obstacle, view: VisitView, reader: Reader) -> Obstacle:
    match obstacle.code:
        case "unproven" | "failed":
            test = view.state[FailedTests].tests[obstacle.entry_id]
            stands = replace(repeat_of(view.state, test, view.facts), should=_should(test.body, reader))
            return replace(obstacle, words=unproven_words(stands))
        case "finding" | "look_again":  # our own words alone: what somebody typed stays as it was typed
            return replace(obstacle, words=in_its_words(obstacle.words, view.facts))
        case _:
            return obstacle


def _gap_of(assessment: Assessment | None, body: FailedTestBody) -> Derived | None:
    circuit = assessment.circuits.get(body.circuit) if assessment else None
    return circuit.derived.get(body.quantity) if circuit else None


def gap_said(gap: Derived, reader: Reader) -> str:
    """A gap with its uncertainty."""
    return f"{reader.say('difference', gap.value)} ±{reader.difference(gap.uncertainty):.1f}"


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

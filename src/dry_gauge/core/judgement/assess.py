"""One sheet in, one assessment out: arithmetic, targets, gates, oddities, causes, verdict, next checks.

A pure function: the same sheet and rule set give the same answer, years later.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from dry_gauge.core.circuit import Derived, derive
from dry_gauge.core.judgement.calibration import CALIBRATION_ID
from dry_gauge.core.judgement.checks import CALLED_FROM, Check, Overturning, next_checks
from dry_gauge.core.judgement.evidence import Cause, causes
from dry_gauge.core.judgement.gates import Gate, find_gates
from dry_gauge.core.judgement.inference import Judgement, weigh
from dry_gauge.core.judgement.plausibility import Oddity, find_oddities
from dry_gauge.core.judgement.questions import Question, doubts, questions
from dry_gauge.core.sheet import CircuitView, Sheet, check_air
from dry_gauge.core.targets import NotApplicable, Target, find_targets
from dry_gauge.core.vocabulary import AIR_FAULTS, Fault

RULE_SET = "2026.12"
JUDGED_BY = f"{RULE_SET}, {CALIBRATION_ID}"
"""Rule set and calibration together: stored with a visit, so that an answer can be given again."""


@dataclass(frozen=True, slots=True)
class CircuitAssessment:
    """Everything that can be said of one circuit."""

    view: CircuitView
    derived: Mapping[str, Derived]
    targets: Mapping[str, Target]
    not_applicable: Sequence[NotApplicable]
    oddities: Sequence[Oddity]
    gates: Sequence[Gate]
    causes: Sequence[Cause]
    verdict: str
    next_checks: Sequence[Check]
    questions: Sequence[Question]
    overturning: Overturning | None
    judgement: Judgement

    @property
    def holding(self) -> tuple[Gate, ...]:
        """The gates that hold."""
        return tuple(gate for gate in self.gates if gate.holding)


@dataclass(frozen=True, slots=True)
class Assessment:
    """The answer to a sheet, circuit by circuit, lowest number first."""

    sheet: Sheet
    circuits: Mapping[int, CircuitAssessment]

    @property
    def first(self) -> CircuitAssessment:
        """The lowest-numbered circuit."""
        return next(iter(self.circuits.values()))


def assess(sheet: Sheet) -> Assessment:
    """Judge a sheet.

    Raises
    ------
    Refused
        For moist air that cannot exist; everything else odd is answered with a line in `oddities`.
    OutOfRange
        For a pressure outside the refrigerant's table.
    """
    check_air(sheet)
    return Assessment(sheet, {number: _assess_circuit(sheet.circuit(number)) for number in sheet.circuits})


def _assess_circuit(view: CircuitView) -> CircuitAssessment:
    derived = derive(view)
    targets, not_applicable = find_targets(view)
    judgement = weigh(view, derived)
    ranked = causes(judgement, view, derived)
    asked = questions(judgement, view, ranked)
    oddities = find_oddities(view, derived) + doubts(asked)
    gates = find_gates(view, [oddity.code for oddity in oddities])
    checks, overturning = next_checks(view, gates, ranked, judgement)
    return CircuitAssessment(
        view, derived, targets, not_applicable, oddities, gates, ranked, _verdict(gates, ranked), checks, asked,
        overturning, judgement,
    )  # fmt: skip


def _verdict(gates: Sequence[Gate], causes: Sequence[Cause]) -> str:
    """The first that applies: not enough, held, healthy, fault."""
    holding = {gate.name for gate in gates if gate.holding}
    first = causes[0]
    if "too_few_readings" in holding or first.probability < CALLED_FROM:
        return "not_enough"
    if first.fault in AIR_FAULTS:
        holding.discard("air_unproven")
    if holding:
        return "held"
    return "healthy" if first.fault is Fault.NONE else "fault"


__all__ = ["CALIBRATION_ID", "CALLED_FROM", "JUDGED_BY", "RULE_SET", "Assessment", "CircuitAssessment", "assess"]

"""One sheet in, one assessment out: arithmetic, targets, stops, gates, oddities, causes, verdict, next checks.

A pure function: the same sheet and rule set give the same answer, years later.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from math import hypot

from dry_gauge.core.circuit import Derived, derive
from dry_gauge.core.judgement.calibration import CALIBRATION_ID
from dry_gauge.core.judgement.checks import CALLED_FROM, Check, Overturning, next_checks
from dry_gauge.core.judgement.evidence import Cause, causes
from dry_gauge.core.judgement.exclusion import HEALTHY_FROM, Exclusion, exclusions, still_open
from dry_gauge.core.judgement.features import Conditions, Observed
from dry_gauge.core.judgement.first_checks import at_rest, first_checks
from dry_gauge.core.judgement.gates import Gate, find_gates
from dry_gauge.core.judgement.inference import Judgement, weigh
from dry_gauge.core.judgement.oddity import Oddity
from dry_gauge.core.judgement.plausibility import find_oddities
from dry_gauge.core.judgement.questions import Question, doubts, questions
from dry_gauge.core.judgement.remedies import remedy_of
from dry_gauge.core.judgement.settled import outdated
from dry_gauge.core.judgement.stops import Stop, fan_held_by_control, find_stops
from dry_gauge.core.sheet import CircuitView, Sheet, check_air
from dry_gauge.core.target import OF_LABEL_OR_MAKER, NotApplicable, Target, outside
from dry_gauge.core.targets import find_targets
from dry_gauge.core.vocabulary import AIR_FAULTS, Fault

RULE_SET = "2026.26"
JUDGED_BY = f"{RULE_SET}, {CALIBRATION_ID}"
"""Rule set and calibration together: stored with a visit, so that an answer can be given again."""


_SOUND_FROM = 0.8  # a circuit is a reference for its neighbour from this probability of 'nothing wrong' on


@dataclass(frozen=True, slots=True)
class CircuitAssessment:
    """Everything that can be said of one circuit."""

    view: CircuitView
    derived: Mapping[str, Derived]
    targets: Mapping[str, Target]
    not_applicable: Sequence[NotApplicable]
    stops: Sequence[Stop]
    oddities: Sequence[Oddity]
    gates: Sequence[Gate]
    causes: Sequence[Cause]
    verdict: str
    missed: Sequence[str]
    """Gaps outside a target that binds, or close to flooding: with one of them nothing is called healthy."""
    exclusions: Sequence[Exclusion]
    """Faults that matter, and how surely each is no more than slight; the least sure first."""
    next_checks: Sequence[Check]
    questions: Sequence[Question]
    overturning: Overturning | None
    judgement: Judgement
    stopped_by: int | None = None
    """Another circuit of the unit that must not run: nothing is asked of this one, and nothing added, with the unit on."""
    outdated: Mapping[str, str] = field(default_factory=dict)
    """Quantities that have to be read again before anything is judged, each with when it was read instead."""

    @property
    def still_open(self) -> tuple[Fault, ...]:
        """Faults that matter and are not excluded, the likeliest first."""
        return still_open(self.exclusions)

    @property
    def holding(self) -> tuple[Gate, ...]:
        """The gates that hold."""
        return tuple(gate for gate in self.gates if gate.holding)

    def is_provisional(self, fault: Fault) -> bool:
        """Whether a cause waits for a stop line or a gate: charge does for 'air proven', air that is at fault does not."""
        return bool(self.stops or _held(self.gates, fault))


@dataclass(frozen=True, slots=True)
class Assessment:
    """The answer to a sheet, circuit by circuit, lowest number first."""

    sheet: Sheet
    circuits: Mapping[int, CircuitAssessment]

    @property
    def first(self) -> CircuitAssessment:
        """The lowest-numbered circuit."""
        return next(iter(self.circuits.values()))

    def at_rest(self, circuit: CircuitAssessment) -> CircuitAssessment:
        """A circuit of this unit as it is judged beside another that must not run; the same where all may."""
        stopped = next((number for number, one in self.circuits.items() if one.stops), None)
        if stopped is None or circuit.stops:
            return circuit
        return _concluded(replace(circuit, stopped_by=stopped), circuit.oddities)

    def side_by_side(self) -> Assessment:
        """The same, each circuit judged beside the others."""
        return Assessment(self.sheet, {number: self.at_rest(circuit) for number, circuit in self.circuits.items()})

    def with_stops(self, more: Mapping[int, Sequence[Stop]]) -> Assessment:
        """The same where more speaks against running than the sheet says, by circuit."""
        circuits = dict(self.circuits)
        for number, stops in more.items():
            circuit = circuits.get(number) or self.unread(number)
            known = {stop.code for stop in circuit.stops}
            fresh = [stop for stop in stops if stop.code not in known]
            if fresh:
                circuits[number] = _concluded(replace(circuit, stops=[*circuit.stops, *fresh]), circuit.oddities)
        return Assessment(self.sheet, dict(sorted(circuits.items()))).side_by_side()

    def unread(self, number: int) -> CircuitAssessment:
        """A circuit that the sheet has nothing of its own about: what the air and the sights of the whole unit say of it."""
        return self.at_rest(_assess_circuit(self.sheet.circuit(number)))


def assess(sheet: Sheet) -> Assessment:
    """Judge a sheet.

    Raises
    ------
    Refused
        For moist air that cannot exist; everything else odd is answered with a line in `oddities`.
    """
    views = {number: sheet.circuit(number) for number in sheet.circuits}
    check_air(sheet, next(iter(views.values())))
    alone = {number: _assess_circuit(view) for number, view in views.items()}
    sound = [
        (number, circuit.judgement.observed, circuit.judgement.context)
        for number, circuit in alone.items()
        if circuit.causes[0].fault is Fault.NONE
        and circuit.causes[0].probability >= _SOUND_FROM
        and not circuit.stops
        and not circuit.oddities
    ]
    together = {}
    for number, circuit in alone.items():
        siblings = [one for one in sound if one[0] != number]
        together[number] = _assess_circuit(views[number], siblings) if siblings else circuit
    return Assessment(sheet, together).side_by_side()


def kept_back(assessment: Assessment) -> Assessment:
    """The same without what the judgement makes of the readings: for who is to judge by themselves.

    Stops, gates, targets and what is odd stand as they are; causes are those of a unit of which nothing was read.
    """
    unread = _assess_circuit(Sheet(assessment.sheet.unit).circuit(1))
    circuits = {}
    for number, circuit in assessment.circuits.items():
        circuits[number] = replace(
            circuit,
            causes=unread.causes,
            verdict="kept_back",
            missed=(),
            exclusions=unread.exclusions,
            next_checks=(),
            questions=(),
            overturning=None,
            judgement=unread.judgement,
            oddities=find_oddities(circuit.view, circuit.derived, circuit.targets),
        )
    return Assessment(assessment.sheet, circuits)


def _assess_circuit(view: CircuitView, siblings: Sequence[tuple[int, Observed, Conditions]] = ()) -> CircuitAssessment:
    derived = derive(view)
    targets, not_applicable = find_targets(view)
    stops = find_stops(view, derived, targets)
    judgement = weigh(view, derived, siblings, targets.values())
    ranked = [_without_what_is_right(cause, derived, targets) for cause in causes(judgement, view, derived)]
    asked = questions(judgement, view, ranked)
    oddities = find_oddities(view, derived, targets) + doubts(asked)
    missed = missed_targets(derived, targets) + _close_to_flooding(oddities)
    open_still = CircuitAssessment(
        view,
        derived,
        targets,
        not_applicable,
        stops,
        oddities,
        (),
        ranked,
        "",
        missed,
        exclusions(judgement, view.unit),
        (),
        asked,
        None,
        judgement,
    )
    return _concluded(open_still, oddities)


def _concluded(circuit: CircuitAssessment, oddities: Sequence[Oddity]) -> CircuitAssessment:
    """The same with what follows from its causes and from those oddities: gates, verdict, what to do next."""
    view, ranked = circuit.view, circuit.causes
    again = outdated(view)
    gates = find_gates(view, circuit.derived, oddities, again, fan_held_by_control(view, circuit.derived))
    first = first_checks(view, circuit.stops, gates, oddities, again)
    if circuit.stopped_by is not None:
        first = at_rest(first)
    open_still = bool(circuit.missed or still_open(circuit.exclusions))
    verdict = _verdict(gates, ranked, circuit.stops, open_still=open_still)
    steps = _steps(view, first, verdict, ranked)
    if circuit.stopped_by is not None:
        steps = [replace(check, unit="off") for check in steps]
    checks, overturning = next_checks(view, steps, ranked, circuit.judgement, stays_off=circuit.stopped_by is not None)
    return replace(circuit, gates=gates, verdict=verdict, next_checks=checks, overturning=overturning, outdated=again)


def _without_what_is_right(cause: Cause, derived: Mapping[str, Derived], targets: Mapping[str, Target]) -> Cause:
    """The same without gaps that stand on their own target: nobody takes those as speaking for a fault."""
    if cause.severity is None:
        return cause

    def is_right(name: str) -> bool:
        target = targets.get(name)
        return target is not None and target.indication_only is None and name in derived and not outside(derived[name], target)

    speaking = tuple(one for one in cause.evidence_for if not is_right(one.source))
    return cause if len(speaking) == len(cause.evidence_for) else replace(cause, evidence_for=speaking)


def _steps(view: CircuitView, first: Sequence[Check], verdict: str, ranked: Sequence[Cause]) -> list[Check]:
    """What comes before anything is weighed; where nothing of it is left to look at and the fault is sure, its remedy."""
    remedy = None if any(check.asks for check in first) else remedy_of(view, verdict, ranked)
    if remedy is None:
        return list(first)
    return [*first, replace(remedy, unit=first[0].unit) if first else remedy]


def with_put_aside(circuit: CircuitAssessment, put_aside: Collection[str]) -> CircuitAssessment:
    """The same once a technician has put oddities aside with a reason: they are said, and hold nothing any more.

    Parameters
    ----------
    put_aside : collection of str
        Codes of oddities. A stop is never among them: it is ended, not put aside.
    """
    open_still = [oddity for oddity in circuit.oddities if oddity.code not in put_aside]
    return circuit if len(open_still) == len(circuit.oddities) else _concluded(circuit, open_still)


def _held(gates: Sequence[Gate], fault: Fault) -> set[str]:
    """Gates that hold back a cause; 'air proven' is none for what is wrong with the air itself."""
    return {gate.name for gate in gates if gate.holding and not (gate.name == "air_unproven" and fault in AIR_FAULTS)}


def _verdict(gates: Sequence[Gate], causes: Sequence[Cause], stops: Sequence[Stop], *, open_still: bool) -> str:
    """The first that applies: not enough, held, healthy, fault; a target missed or a fault not excluded leaves it open."""
    first = causes[0]
    holding = _held(gates, first.fault)
    if "too_few_readings" in holding or first.probability < CALLED_FROM:
        return "not_enough"
    if holding:
        return "held"
    if first.fault is not Fault.NONE:
        return "fault"
    if stops:  # what must not run is not in order, whatever the gaps say
        return "held"
    return "healthy" if first.probability >= HEALTHY_FROM and not open_still else "not_enough"


def _close_to_flooding(oddities: Sequence[Oddity]) -> tuple[str, ...]:
    """The gap that is close to flooding: asked about, no fault yet, and nothing to be called sound with."""
    return ("inlet_superheat",) if any(oddity.code == "flooding" for oddity in oddities) else ()


# A sound unit meets these; a habit that is missed is said, and blocks nothing.
_BINDING_RULES = OF_LABEL_OR_MAKER | {"orifice_target_superheat"}


def missed_targets(derived: Mapping[str, Derived], targets: Mapping[str, Target]) -> tuple[str, ...]:
    """Gaps outside a binding target by more than their error: with one of them nothing is called healthy."""
    return tuple(
        name
        for name, target in targets.items()
        if name in derived
        and target.rule in _BINDING_RULES
        and target.indication_only is None
        and abs(outside(derived[name], target)) > hypot(derived[name].uncertainty, target.uncertainty_k)
    )


__all__ = ["CALIBRATION_ID", "CALLED_FROM", "JUDGED_BY", "RULE_SET", "Assessment", "CircuitAssessment", "assess"]

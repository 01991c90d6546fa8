"""The assessment as JSON and as plain text, in the trade's units."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from dry_gauge.core.circuit import Derived
from dry_gauge.core.judgement.assess import CALIBRATION_ID, RULE_SET, Assessment, CircuitAssessment
from dry_gauge.core.judgement.baseline import names_used
from dry_gauge.core.judgement.checks import UNIT_STANDS
from dry_gauge.core.judgement.evidence import Evidence
from dry_gauge.core.judgement.faults import fault_words
from dry_gauge.core.judgement.features import DIFFERENCES
from dry_gauge.core.judgement.stops import STOPS
from dry_gauge.core.quantities import BTU_PER_HOUR_W, FAHRENHEIT_K, INCH_WATER_PA, to_fahrenheit
from dry_gauge.core.target import Target
from dry_gauge.core.words import Reader

FORMAT = "dry-gauge/assessment"

# Suffix of the key, and what one unit of it is in SI.
_DIMENSIONS: Mapping[str, tuple[str, float]] = {
    "temperature": ("_f", FAHRENHEIT_K),
    "difference": ("_f", FAHRENHEIT_K),
    "ratio": ("", 1.0),
    "static": ("_inwc", INCH_WATER_PA),
    "power": ("_btuh", BTU_PER_HOUR_W),
    "power_ratio": ("", BTU_PER_HOUR_W),
}

VERDICT_WORDS = {
    "healthy": "Refrigerant side right; drain, electrics and moving parts are not judged",
    "fault": "Fault found",
    "held": "Held",
    "not_enough": "Not enough to say",
}


def to_json(assessment: Assessment) -> dict[str, Any]:
    """The assessment as the contract has it; numbers are not rounded."""
    reader = Reader(atmosphere_pa=assessment.sheet.unit.atmosphere_pa)
    blocks = {str(number): _circuit(circuit, reader) for number, circuit in assessment.circuits.items()}
    answer = {
        "format": FORMAT,
        "version": 1,
        "rule_set": RULE_SET,
        "calibration": CALIBRATION_ID,
        "assumed": _assumed(assessment),
        **next(iter(blocks.values())),
    }
    if len(blocks) > 1:
        answer["circuits"] = blocks
    return answer


def _assumed(assessment: Assessment) -> list[str]:
    unit = assessment.sheet.unit
    assumed = ["elevation_ft"] if unit.elevation_m is None else []
    if unit.kind.is_walk_in and unit.design_box_k is None:
        assumed.append("design_box_temp_f")
    return assumed


def _circuit(circuit: CircuitAssessment, reader: Reader) -> dict[str, Any]:
    return {
        "derived": {_key(derived): _number(derived) for derived in circuit.derived.values()},
        "targets": {f"{name}_f": _target(target, reader) for name, target in circuit.targets.items()},
        "not_applicable": [{"target": f"{item.target}_f", "why": item.why.read(reader)} for item in circuit.not_applicable],
        "gates": [
            {"gate": gate.name, "holding": gate.holding, "released_by": gate.released_by.read(reader)} for gate in circuit.gates
        ],
        "plausibility": [
            {"code": oddity.code, "message": oddity.phrase.read(reader), "readings": list(oddity.readings)}
            for oddity in circuit.oddities
        ],
        "stop": [
            {"code": stop.code, "message": stop.phrase.read(reader), "readings": list(stop.readings)} for stop in circuit.stops
        ],
        "causes": [
            {
                "fault": cause.fault.value,
                "probability": cause.probability,
                "severity": cause.severity,
                "for": _said(cause.evidence_for, reader),
                "against": _said(cause.evidence_against, reader),
            }
            for cause in circuit.causes
        ],
        "verdict": circuit.verdict,
        "excluded": [
            {"fault": one.fault.value, "at_most": one.at_most, "probability": one.probability}
            for one in circuit.exclusions
            if one.stands
        ],
        **_baseline(circuit),
        "next_checks": [
            {
                "check": check.words,
                "asks": list(check.asks),
                "minutes": check.minutes,
                "unit": check.unit,
                "separates": [fault.value for fault in check.separates],
                "outcome": check.outcome.read(reader),
            }
            for check in circuit.next_checks
        ],
        "questions": [
            {
                "about": question.misreading.value,
                "question": question.phrase.read(reader),
                "readings": list(question.readings),
                "probability": question.probability,
            }
            for question in circuit.questions
        ],
        "would_overturn": {
            "check": circuit.overturning.check,
            "outcome": circuit.overturning.phrase.read(reader),
            "probability_then": circuit.overturning.probability,
        }
        if circuit.overturning
        else None,
    }


def _baseline(circuit: CircuitAssessment) -> dict[str, Any]:
    own = circuit.judgement.baseline
    if own is None or not (own.visits or own.alike):
        return {}
    drifts = names_used([one.feature for one in circuit.judgement.drifts], DIFFERENCES)
    found = {"visits": own.visits, "used": list(names_used(own.used, DIFFERENCES)), "drift": list(drifts)}
    return {"baseline": found | ({"like_units": list(own.alike)} if own.alike else {})}


def _said(evidence: tuple[Evidence, ...], reader: Reader) -> list[str]:
    return [item.phrase.read(reader) for item in evidence]


def _key(derived: Derived) -> str:
    return derived.name + _DIMENSIONS[derived.dimension][0]


def _number(derived: Derived) -> dict[str, Any]:
    scale = _DIMENSIONS[derived.dimension][1]
    value = to_fahrenheit(derived.value) if derived.dimension == "temperature" else derived.value / scale
    return {"value": value, "uncertainty": derived.uncertainty / scale, "from": list(derived.measured.sources)}


def _target(target: Target, reader: Reader) -> dict[str, Any]:
    return {
        "low": target.low_k / FAHRENHEIT_K,
        "high": target.high_k / FAHRENHEIT_K,
        "aim": target.aim_k / FAHRENHEIT_K,
        "rule": target.rule,
        "source": target.source.read(reader),
        "school": target.school.value if target.school else None,
        "assumed": target.assumed,
        "uncertainty": target.uncertainty_k / FAHRENHEIT_K,
        "indication_only": target.indication_only.read(reader) if target.indication_only else None,
        "high_side_only": target.high_side_only,
    }


def to_text(assessment: Assessment) -> str:
    """The assessment in words, for a terminal or a note."""
    reader = Reader(atmosphere_pa=assessment.sheet.unit.atmosphere_pa)
    lines: list[str] = []
    for number, circuit in assessment.circuits.items():
        if len(assessment.circuits) > 1:
            lines += [f"Circuit {number}", ""]
        lines += _circuit_text(circuit, reader)
    if assumed := _assumed(assessment):
        lines += [f"Assumed: {', '.join(_ASSUMED_WORDS[name] for name in assumed)}."]
    return "\n".join(lines).rstrip() + "\n"


_ASSUMED_WORDS = {"elevation_ft": "sea level", "design_box_temp_f": "the usual design box temperature"}


def _circuit_text(circuit: CircuitAssessment, reader: Reader) -> list[str]:
    lines = [f"STOP, {STOPS[stop.code].label.lower()}: {stop.phrase.read(reader)}" for stop in circuit.stops]
    lines += [VERDICT_WORDS[circuit.verdict]]
    lines += [f"  {gate.name}: {gate.released_by.read(reader)}" for gate in circuit.holding]
    lines += [f"  {name}_f misses its target: read again before it is called sound." for name in circuit.missed]
    lines += _open_text(circuit)
    lines += ["", "Derived"]
    for derived in circuit.derived.values():
        number = _number(derived)
        line = f"  {_key(derived):24} {number['value']:10.1f} +- {number['uncertainty']:.1f}"
        target = circuit.targets.get(derived.name)
        lines.append(f"{line}   {_target_text(target, reader)}" if target else line)
    alone = {name: target for name, target in circuit.targets.items() if name not in circuit.derived}
    lines += [f"  {name}_f: {_target_text(target, reader)}" for name, target in alone.items()]
    lines += [f"  {item.target}_f: no target, {item.why.read(reader)}" for item in circuit.not_applicable]
    if circuit.oddities:
        lines += ["", "Odd", *(f"  {oddity.phrase.read(reader)}" for oddity in circuit.oddities)]
    if circuit.questions:
        lines += ["", "Make sure", *(f"  {question.phrase.read(reader)}" for question in circuit.questions)]
    lines += ["", "Likely causes" + (" (provisional)" if circuit.holding or circuit.stops else "")]
    for cause in circuit.causes[:3]:
        severity = f", {cause.severity}" if cause.severity else ""
        lines.append(f"  {cause.probability:4.0%}  {fault_words(cause.fault, circuit.view.unit)}{severity}")
        lines += [f"        for: {words}" for words in _said(cause.evidence_for, reader)]
        lines += [f"        against: {words}" for words in _said(cause.evidence_against, reader)]
    if circuit.overturning:
        lines += [f"  What would change this: {circuit.overturning.phrase.read(reader)}"]
    if circuit.next_checks:
        lines += ["", "Next"]
        lines += [f"  {check.words} ({check.minutes} min, {UNIT_STANDS[check.unit]})" for check in circuit.next_checks]
    return [*lines, ""]


def _open_text(circuit: CircuitAssessment) -> list[str]:
    """What is not excluded where nothing is found."""
    if circuit.causes[0].severity or not circuit.view.measured:
        return []
    open_still = ", ".join(fault_words(fault, circuit.view.unit).lower() for fault in circuit.still_open)
    return [f"  not excluded yet: {open_still}."] if open_still else []


def _target_text(target: Target, reader: Reader) -> str:
    band = _target(target, reader)
    notes = [band["source"]]
    notes += ["assumed"] if target.assumed else []
    notes += [f"indication only: {band['indication_only']}"] if target.indication_only else []
    return f"target {band['low']:.1f} to {band['high']:.1f} ({', '.join(notes)})"

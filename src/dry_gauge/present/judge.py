"""Judge: warnings that can be put aside, likelihood in words, and circuits beside each other."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from math import hypot

from dry_gauge.core.box.food import USUAL_LIMIT_K
from dry_gauge.core.judgement.assess import CALLED_FROM, CircuitAssessment
from dry_gauge.core.judgement.baseline import days_of
from dry_gauge.core.judgement.checks import Check
from dry_gauge.core.judgement.evidence import GAP_LABELS, LIKELIHOODS
from dry_gauge.core.judgement.features import DIFFERENCES, FEATURE_ROWS
from dry_gauge.core.roles import swapped
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import Fault
from dry_gauge.core.words import Phrase, Reader, counted
from dry_gauge.notebook.subjects.readings import Readings
from dry_gauge.notebook.subjects.verdicts import Verdicts
from dry_gauge.present.headline import Headline, headline
from dry_gauge.present.underway import First, comes_first, is_kept_off, resting_checks
from dry_gauge.present.visit import VisitView, circuit_of, warning_name

# Where the first step of a remedy is written down, by the name of its check; at Mend where nothing is said here.
_REMEDIED_AT = {
    Fault.UNDERCHARGE: "leak",
    Fault.OVERCHARGE: "recover",
    Fault.HIGH_EVAPORATOR_LOAD: "look",
    Fault.LIQUID_LINE_RESTRICTION: "sealed",
    Fault.NON_CONDENSABLES: "sealed",
    Fault.INEFFICIENT_COMPRESSOR: "sealed",
    Fault.WRONG_REFRIGERANT: "recover",
}
REMEDIED_AT: Mapping[str, str] = {f"remedy_{fault.value}": _REMEDIED_AT.get(fault, "mend") for fault in Fault}

ASKED_AT: Mapping[str, str] = {"call_present": "controls", "defrost_active": "controls"}
"""At which station what a check asks for is found out, where it is no single answer."""


@dataclass(frozen=True, slots=True)
class Warning:
    """An oddity of the readings or a question about them; `put_aside` is the reason for which it was, by which entry."""

    name: str
    phrase: Phrase
    readings: tuple[str, ...]
    basis: str
    question: bool
    put_aside: str | None
    entry_id: str | None


@dataclass(frozen=True, slots=True)
class DaysBeside:
    """Today beside the sound days it is measured against."""

    days: tuple[tuple[str, str], ...]
    """Whose, and when."""
    rows: tuple[tuple[str, tuple[str, ...]], ...]
    """What; today, what a sound one would show today, and each day."""


@dataclass(frozen=True, slots=True)
class Judged:
    """The judgement of one circuit as it is shown."""

    judged: CircuitAssessment | None
    headline: Headline
    warnings: Sequence[Warning]
    drift_words: Sequence[str] = ()
    """What went one way through every visit."""
    measured_against: str = ""
    """What this circuit is held against besides units like it: its own sound days, its sound neighbours."""
    days: DaysBeside | None = None
    """What those sound days showed."""
    product_at_risk: bool = False
    """A warm box that is short of charge: it may be topped up before the leak is found, with its reason and a recheck."""
    first: First | None = None
    """What has to be ended before anything can be read of a running unit."""


def judge(view: VisitView, reader: Reader, circuit: int) -> Judged:
    """The judgement of one circuit."""
    judged = circuit_of(view, circuit)
    if judged is None:
        return Judged(None, headline(None, reader), ())
    said, first = headline(judged, reader), comes_first(view, reader, judged)
    judged = replace(judged, next_checks=tuple(_by_place(check, view.facts) for check in resting_checks(view, judged)))
    if first is not None and said.mark in ("held", "open"):
        said = replace(said, detail=f"{first.said.words}.")  # not what is still to read: nothing can be read until that has ended
    return Judged(
        judged,
        said,
        warnings(view, judged),
        drift_words(judged, reader),
        measured_against(judged),
        days_beside(judged, reader),
        _at_risk(judged) and not is_kept_off(view),
        first,
    )


def _by_place(check: Check, facts: UnitFacts) -> Check:
    """The same, leading to where it is answered on a visit: what the judgement asks of a coil's role is seen at its place."""
    return replace(check, asks=tuple(swapped(name, heating=facts.heating) for name in check.asks))


def measured_against(judged: CircuitAssessment) -> str:
    """What a circuit is held against besides units like it, in words; nothing where there is no such thing."""
    own = judged.judgement.baseline
    if own is None:
        return ""
    days = "sound day" if own.visits == 1 else f"{own.visits} sound days"
    if own.same:
        days += f" ({counted(len(own.same), 'reading')} by the same instrument as then)"
    parts = [f"this unit's own {days}"] if own.visits else []
    parts += [f"circuit {number}, sound on the same air" for number, *_ in own.siblings]
    if own.alike:
        parts.append(f"sound days of {' and '.join(own.alike)}, the same model on this site")
    parts += ["its maker's chart"] if own.chart else []
    return f"Measured against {' and '.join(parts)}, besides units like it."


_MOST_DAYS = 3


def days_beside(judged: CircuitAssessment, reader: Reader) -> DaysBeside | None:
    """The gaps of today beside those of the latest sound days, the unit's own first; None where none is judged by."""
    latest_first = days_of(judged.view)[::-1]
    found = sorted(latest_first, key=lambda row: bool(row[0].of_unit))[:_MOST_DAYS]
    if not found or judged.judgement.baseline is None:  # kept back: nothing is said of what would be sound today
        return None
    then = [derived for *_, derived in found]
    airs = [view.get("outdoor_air_temp") for view in (judged.view, *(view for _, view, _ in found))]
    outdoors = [f"{reader.temperature(air.value):.0f}" if air else "" for air in airs]
    rows = [("Outdoors", (outdoors[0], "", *outdoors[1:]))]
    for name, label in GAP_LABELS.items():
        if name not in DIFFERENCES or not any(name in day for day in then):
            continue
        middle, spread, _ = judged.judgement.sound(name)
        expected = f"{reader.difference(middle):.0f} ± {reader.difference(2 * spread):.0f}"
        shown = tuple(f"{reader.difference(day[name].value):.1f}" if name in day else "" for day in (judged.derived, *then))
        rows.append((label, (shown[0], expected, *shown[1:])))
    return DaysBeside(tuple((one.of_unit or "This unit", _short(one.date)) for one, *_ in found), tuple(rows))


def _short(written: str) -> str:
    try:
        day = date.fromisoformat(written)
    except ValueError:
        return written
    return f"{day.day} {day:%b %y}"


def drift_words(judged: CircuitAssessment, reader: Reader) -> tuple[str, ...]:
    """What moves one way from visit to visit: taken as it was at first, so that a slow loss does not become normal."""
    found = []
    for one in judged.judgement.drifts:
        row = next(row for row in FEATURE_ROWS if row.name == one.feature)
        way = "risen" if one.by > 0 else "fallen"
        by = f" by {reader.say('difference', abs(one.by))}" if row.difference else ""
        found.append(f"{row.label} has {way}{by} over {one.visits} visits, today's among them: look for what does it.")
    return tuple(found)


def _at_risk(judged: CircuitAssessment) -> bool:
    box = judged.view.get("box_air_temp")
    short = any(cause.fault is Fault.UNDERCHARGE and cause.probability >= CALLED_FROM for cause in judged.causes)
    may_run = not judged.stops and judged.stopped_by is None
    return judged.view.unit.kind.is_walk_in and box is not None and box.value > USUAL_LIMIT_K and short and may_run


def warnings(view: VisitView, circuit: CircuitAssessment) -> list[Warning]:
    """Everything to make sure of, open ones first."""
    found = []
    doubted = [oddity.phrase for oddity in circuit.oddities if oddity.code == "looks_misread"]
    asked = [
        (f"ask_{question.misreading.value}", question.phrase, question.readings, True)
        for question in circuit.questions
        if question.phrase not in doubted
    ]
    odd = [(oddity.code, oddity.phrase, oddity.readings, False) for oddity in circuit.oddities]
    for code, phrase, readings, question in (*odd, *asked):
        basis = view.state[Readings].basis(readings, circuit.view.number)
        name = warning_name(code, circuit.view.number)
        aside = view.state[Verdicts].aside(name, basis)
        found.append(
            Warning(
                name,
                phrase,
                tuple(readings),
                basis,
                question,
                aside.body.reason if aside else None,
                str(aside.entry_id) if aside else None,
            )
        )
    return sorted(found, key=lambda warning: warning.put_aside is not None)


def likelihood_words(probability: float) -> str:
    """A probability in one word; the ranges stand on the page of each fault."""
    return next(words for least, words in LIKELIHOODS if probability >= least)


@dataclass(frozen=True, slots=True)
class CompareRow:
    """One gap of all circuits; `unlike` where they are further apart than their instruments explain."""

    label: str
    values: tuple[str, ...]
    apart: str
    unlike: bool


def circuits_compared(view: VisitView, reader: Reader) -> list[CompareRow]:
    """The gaps of all circuits beside each other."""
    circuits = list(view.assessment.circuits.values()) if view.assessment else []
    rows = []
    for name, label in GAP_LABELS.items():
        found = [circuit.derived.get(name) for circuit in circuits]
        read = [one for one in found if one is not None]
        if name not in DIFFERENCES or not read:
            continue
        values = tuple(
            f"{reader.difference(one.value):.1f} ± {reader.difference(one.uncertainty):.1f}" if one else "not read"
            for one in found
        )
        apart_k = max(one.value for one in read) - min(one.value for one in read)
        error_k = hypot(*(one.uncertainty for one in read))
        several = len(read) > 1
        apart = f"{reader.difference(apart_k):.1f}" if several else ""
        rows.append(CompareRow(label, values, apart, several and apart_k > error_k))
    return rows

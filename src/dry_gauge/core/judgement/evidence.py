"""Why: for each fault, which readings and sights speak for it and against it, in sentences, the heaviest first.

A contribution is the logarithm of how much likelier one number is with the fault than without it, the other faults held
fixed: what a second fault makes likely is no evidence for the first. Together they need not add up to the joint evidence,
but their signs and order explain it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import exp

import numpy as np

from dry_gauge.core.circuit import Derived
from dry_gauge.core.judgement.features import FEATURE_ROWS
from dry_gauge.core.judgement.hypotheses import FAULT_ORDER, HYPOTHESES, LOG_PRIOR, PRESENT
from dry_gauge.core.judgement.inference import Judgement
from dry_gauge.core.judgement.likelihood import Picture
from dry_gauge.core.judgement.sights import log_chances
from dry_gauge.core.judgement.single_tests import (
    NO_LIQUID,
    drop_log_likelihood,
    line_drops,
    standing_gap,
    standing_log_likelihood,
)
from dry_gauge.core.judgement.stops import find_no_liquid
from dry_gauge.core.roles import sight_label
from dry_gauge.core.sheet import CircuitView
from dry_gauge.core.vocabulary import Fault, Kind
from dry_gauge.core.words import Phrase, in_percent

GAP_LABELS: Mapping[str, str] = {row.name: row.label for row in FEATURE_ROWS}
_PINCH = 1e-9 * np.exp(LOG_PRIOR)  # of the prior, so that a fault that is ruled out still has a picture

Sized = tuple[tuple[Fault, float], ...]


def _as_without() -> np.ndarray:
    """For each fault of `FAULT_ORDER` where each hypothesis stands once that fault is mended and the rest is left."""
    place = {
        hypothesis.faults: i
        for i, hypothesis in enumerate(HYPOTHESES)
        if not (hypothesis.misreading or hypothesis.filling or hypothesis.by_habit)
    }
    sizes: dict[tuple[Fault, ...], list[Sized]] = {}
    for sized in place:
        sizes.setdefault(tuple(fault for fault, _ in sized), []).append(sized)
    return np.array([[place[_left(hypothesis.faults, fault, sizes)] for hypothesis in HYPOTHESES] for fault in FAULT_ORDER])


def _left(faults: Sized, mended: Fault, sizes: Mapping[tuple[Fault, ...], Sequence[Sized]]) -> Sized:
    """What is left of faults once one is mended, at the nearest sizes that there are; nothing where it was not among them."""
    others = tuple(one for one in faults if one[0] is not mended)
    if len(others) == len(faults):
        return ()
    alike = sizes[tuple(fault for fault, _ in others)]
    return min(alike, key=lambda sized: sum(abs(a - b) for (_, a), (_, b) in zip(sized, others, strict=True)))


_AS_WITHOUT = _as_without()
_LOOKED = "looked"  # seen, or tested for itself
_PRESSURES = FEATURE_ROWS[0].family
_TELLING = 0.3  # natural logarithm of odds: less is not worth a sentence
_MOST_SENTENCES = 5
_ALWAYS_EXPLAINED, _EXPLAINED_FROM = 3, 0.02
_NEAR = 0.8  # healthy spreads: nearer than that a number is 'as expected'


@dataclass(frozen=True, slots=True)
class Evidence:
    """One sentence for or against a fault: how much it weighs, the reading or gap it rests on, what kind of evidence it is."""

    phrase: Phrase
    weight: float
    source: str
    family: str


@dataclass(frozen=True, slots=True)
class Cause:
    """One fault with its marginal probability; `severity` is None for 'nothing wrong'."""

    fault: Fault
    probability: float
    severity: str | None
    evidence_for: tuple[Evidence, ...] = ()
    evidence_against: tuple[Evidence, ...] = ()

    @property
    def rests_on_one_kind(self) -> bool:
        """Whether all that speaks for it could be wrong together: nothing but gaps that hang on the same gauges (R44)."""
        return {one.family for one in self.evidence_for} <= {_PRESSURES}


def causes(judgement: Judgement, view: CircuitView, derived: Mapping[str, Derived]) -> list[Cause]:
    """All twelve causes, most probable first, each with its reasons."""
    explained = _worth_explaining(judgement)
    given = _given_each_fault(judgement, explained)
    seen = judgement.pictures[0]
    sigma2 = seen.sigma**2
    residual = seen.values - seen.expected
    without = np.stack(
        [np.bincount(_AS_WITHOUT[row], weights=given[k], minlength=len(HYPOTHESES)) for k, row in enumerate(explained)]
    )
    weights = _fit(residual, given, seen, sigma2) - _fit(residual, without, seen, sigma2)
    sentences = [_feature_phrase(judgement, i, derived) for i in range(len(seen.at))]
    sources = [FEATURE_ROWS[i].leads_to or FEATURE_ROWS[i].name for i in seen.at]
    families = [FEATURE_ROWS[i].family for i in seen.at]
    said = {
        row: [Evidence(sentences[i], weight, sources[i], families[i]) for i, weight in enumerate(weights[k].tolist())]
        for k, row in enumerate(explained)
    }
    for phrase, source, log_likelihood in _sights_and_tests(judgement, view, derived):
        likely = np.exp(log_likelihood)
        gains = np.log(given @ likely) - np.log(without @ likely)
        for k, row in enumerate(explained):
            gain = float(gains[k])
            said[row].append(Evidence(phrase, gain, source, _LOOKED))
    found = [
        Cause(
            fault,
            judgement.probability(fault),
            judgement.band(fault),
            _heaviest([item for item in said.get(row, ()) if item.weight > _TELLING]),
            _heaviest([item for item in said.get(row, ()) if item.weight < -_TELLING]),
        )
        for row, fault in enumerate(FAULT_ORDER)
    ]
    found.append(_nothing_wrong(judgement, residual, seen.sigma, sentences, sources, families))
    return sorted(found, key=lambda cause: -cause.probability)


def _fit(residual: np.ndarray, weights: np.ndarray, seen: Picture, sigma2: np.ndarray) -> np.ndarray:
    """How well each row of weighed hypotheses fits each number: log likelihood, outliers bounded."""
    variances = weights @ seen.variances + sigma2
    off = np.minimum((residual - weights @ seen.shifts) ** 2 / variances, 25.0)
    result: np.ndarray = -0.5 * (off + np.log(variances))
    return result


def _worth_explaining(judgement: Judgement) -> list[int]:
    """Rows of the faults that anyone would ask about: the leading ones and whatever is not very unlikely."""
    shares = judgement.shares[:-1]
    ranked = sorted(range(len(shares)), key=lambda row: -shares[row])
    return [row for i, row in enumerate(ranked) if i < _ALWAYS_EXPLAINED or shares[row] > _EXPLAINED_FROM]


def _given_each_fault(judgement: Judgement, rows: list[int]) -> np.ndarray:
    """Weights of the hypotheses with each of these faults present, adding up to one."""
    weights = np.where(PRESENT[rows], judgement.weights + _PINCH, 0.0)
    result: np.ndarray = weights / weights.sum(axis=1, keepdims=True)
    return result


def _heaviest(found: list[Evidence]) -> tuple[Evidence, ...]:
    return tuple(sorted(found, key=lambda item: -abs(item.weight))[:_MOST_SENTENCES])


def _feature_phrase(judgement: Judgement, i: int, derived: Mapping[str, Derived]) -> Phrase:
    seen = judgement.pictures[0]
    row = FEATURE_ROWS[seen.at[i]]
    label, value, expected, sigma = row.label, seen.values[i], seen.expected[i], seen.sigma[i]
    if not row.difference:
        share = exp(float(value - expected)) - 1
        spread = exp(2 * float(sigma)) - 1
        if abs(share) < 0.02:
            return Phrase(f"{label} as expected here.")
        return Phrase(
            f"{label} {in_percent(abs(share))} {'above' if share > 0 else 'below'} what fits here (± {in_percent(spread)})."
        )
    measured = derived.get(row.name)
    numbers = {
        # As it was measured, and as the ladder shows it: what is weighed may be cut off where nothing more is learnt.
        "gap": ("difference", float(value) if measured is None else measured.value),
        "expected": ("difference", float(expected)),
        "spread": ("difference", 2 * float(sigma)),
    }
    beside = judgement.baseline.beside(row.name) if judgement.baseline else {}
    numbers |= {f"circuit_{number}": ("difference", shown) for number, shown in beside.items()}
    other = "".join(f" Circuit {number} on the same air shows {{circuit_{number}}}." for number in beside)
    if abs(value - expected) < _NEAR * sigma:
        return Phrase(f"{label} {{gap}}, as expected here: {{expected}}.{other}", numbers)
    return Phrase(f"{label} {{gap}}; {{expected}} ± {{spread}} expected here.{other}", numbers)


def _sights_and_tests(
    judgement: Judgement, view: CircuitView, derived: Mapping[str, Derived]
) -> list[tuple[Phrase, str, np.ndarray]]:
    """What was seen or tested: its sentence, its name, its log likelihood under each hypothesis."""
    found = []
    freezer = view.unit.kind is Kind.WALK_IN_FREEZER
    for what, state in judgement.seen.items():
        chances = log_chances(what, view.unit.heating, freezer)
        if chances is not None:
            phrase = Phrase(f"{sight_label(what, view.unit)}: {state.value}.")
            found.append((phrase, what, chances[0] if state.value == "yes" else chances[1]))
    drops = line_drops(view, derived)
    if drops:
        source, drop = max(drops.items(), key=lambda item: item[1].value)
        shows = drop.value > drop.uncertainty
        words = (
            "{drop} lost along the liquid line."
            if shows
            else "Only {drop} lost along the liquid line; while liquid stays subcooled that does not clear the drier."
        )
        found.append(
            (Phrase(words, {"drop": ("difference", drop.value)}), source, drop_log_likelihood(drop.value, drop.uncertainty / 2))
        )
    empty = find_no_liquid(view, derived)
    if empty:
        found.append((Phrase("No liquid is left anywhere."), empty.readings[0], NO_LIQUID))
    gap = standing_gap(view)
    if gap:
        words = (
            "Unit off, the pressure stands {gap} above bubble at ambient."
            if gap.value > gap.uncertainty
            else "Unit off, the pressure stands no higher than the refrigerant alone would."
        )
        found.append(
            (
                Phrase(words, {"gap": ("difference", gap.value)}),
                "standing_pressure",
                standing_log_likelihood(gap.value, gap.uncertainty / 2),
            )
        )
    return found


def _nothing_wrong(
    judgement: Judgement,
    residual: np.ndarray,
    sigma: np.ndarray,
    sentences: list[Phrase],
    sources: list[str],
    families: list[str],
) -> Cause:
    distance = (residual / sigma) ** 2
    inside = [Evidence(sentences[i], 1.5 - float(d), sources[i], families[i]) for i, d in enumerate(distance) if d < 1.5]
    outside = [Evidence(sentences[i], 1.5 - float(d), sources[i], families[i]) for i, d in enumerate(distance) if d > 2.5]
    return Cause(Fault.NONE, judgement.probability(Fault.NONE), None, _heaviest(inside), _heaviest(outside))


# A probability in words, from its least: the same everywhere.
LIKELIHOODS: tuple[tuple[float, str], ...] = (
    (0.9, "very likely"),
    (0.65, "likely"),
    (0.3, "possible"),
    (0.08, "unlikely"),
    (0.0, "very unlikely"),
)

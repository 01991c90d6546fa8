"""Which single fault the readings lean to, and why: each gap against its aim, each observation by its weight.

A first, plain form: hypotheses are 'nothing wrong' and each fault at three severities; a gap's distance from its aim
is Gaussian about the shift of the evidence table, with instruments, unit-to-unit spread and the fault's own spread in
its width. What was not read says nothing.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import product
from math import exp, log

from dry_gauge.core.circuit import Derived
from dry_gauge.core.judgement.signatures import (
    FALLBACK_F,
    GAPS,
    HEALTHY_SIGMA_F,
    PRIOR,
    SHIFT_SPREAD,
    sight_weights,
    signatures,
)
from dry_gauge.core.quantities import FAHRENHEIT_K
from dry_gauge.core.sheet import CircuitView
from dry_gauge.core.targets import Target, standing
from dry_gauge.core.vocabulary import SIGHTS, Fault, State
from dry_gauge.core.words import Phrase

SEVERITIES = (("slight", 0.5), ("moderate", 1.0), ("severe", 2.0))
_WRONG_REFRIGERANT_SPREAD_F = 14.0  # nothing fits: any gap may be anywhere
_DRIER_DROP_K = 2 * FAHRENHEIT_K
_DRIER_WEIGHTS = {True: 3.0, False: -0.3}
_STANDING_WEIGHTS = {True: 3.5, False: -2.0}
# Gaps of one circuit are not independent, and the table is a habit: their joint weight is taken with this much salt,
# and a little of the prior always stays.
_SALT = 0.7
_UNEXPLAINED = 0.03
_TELLING = 0.35  # natural log of odds: less is not worth a sentence

GAP_LABELS = {
    "superheat": "Superheat",
    "coil_superheat": "Coil superheat",
    "subcooling": "Subcooling",
    "evaporator_td": "Evaporator gap",
    "condenser_split": "Condenser gap",
    "air_split": "Air split",
    "discharge_superheat": "Discharge superheat",
}


@dataclass(frozen=True, slots=True)
class Evidence:
    """One sentence for or against a fault, how much it weighs, and the reading it rests on."""

    phrase: Phrase
    weight: float
    source: str


@dataclass(frozen=True, slots=True)
class Cause:
    """One fault with its marginal probability; `severity` is None for 'nothing wrong'."""

    fault: Fault
    probability: float
    severity: str | None
    evidence_for: tuple[Evidence, ...] = ()
    evidence_against: tuple[Evidence, ...] = ()


@dataclass(frozen=True, slots=True)
class _Residual:
    """One gap: how far from its aim, how wide its healthy spread, and how it is said. F."""

    name: str
    value_f: float
    aim_f: float
    variance: float
    phrase: Phrase


def infer(view: CircuitView, derived: Mapping[str, Derived], targets: Mapping[str, Target]) -> list[Cause]:
    """All twelve causes, most probable first.

    References
    ----------
    .. [1] evidence table: `signatures`, after the domain rules, section 7.
    """
    floor_f = _two_phase_floor_f(view)
    residuals = _residuals(view, derived, targets, floor_f)
    metering = view.unit.metering
    table = signatures(
        fixed=metering is not None and metering.is_fixed,
        receiver=view.unit.receiver,
        heating=view.unit.heating,
    )
    healthy = {r.name: _log_normal(r.value_f - r.aim_f, r.variance) for r in residuals}
    scores: dict[tuple[Fault, str | None], float] = {(Fault.NONE, None): log(PRIOR[Fault.NONE])}
    gap_weights: dict[tuple[Fault, str | None], dict[str, float]] = {}
    for fault, (severity, size) in product([f for f in Fault if f is not Fault.NONE], SEVERITIES):
        weights = {}
        for residual in residuals:
            if fault is Fault.WRONG_REFRIGERANT:
                expected, variance = residual.aim_f, residual.variance + (size * _WRONG_REFRIGERANT_SPREAD_F) ** 2
            else:
                linear, curved = table[fault][residual.name]
                shift = linear * size + curved * size * size
                expected = residual.aim_f + shift
                if residual.name in floor_f:  # a state that became two-phase reads its floor, not below
                    expected = max(expected, floor_f[residual.name])
                    shift = expected - residual.aim_f
                variance = residual.variance + (SHIFT_SPREAD * shift) ** 2 + size
            weights[residual.name] = _log_normal(residual.value_f - expected, variance) - healthy[residual.name]
        gap_weights[fault, severity] = weights
        scores[fault, severity] = log(PRIOR[fault] / len(SEVERITIES)) + _SALT * sum(weights.values())
    seen = _seen(view, derived)
    for key in scores:
        scores[key] += sum(evidence.weight for evidence in seen.get(key[0], ()))
    return _causes(scores, gap_weights, {residual.name: residual for residual in residuals}, seen)


def _log_normal(distance: float, variance: float) -> float:
    # A cap on how much one gap may say: gauges slip and clamps fall off more often than a Gaussian admits.
    return -0.5 * (min(distance * distance / variance, 16.0) + log(variance))


def _two_phase_floor_f(view: CircuitView) -> dict[str, float]:
    floors = {"superheat": 0.0, "subcooling": 0.0}
    for name, pressure in (("superheat", view.get("suction_pressure")), ("subcooling", view.high_pressure)):
        if pressure:
            floors[name] = -view.unit.saturation.glide_k(pressure.value) / FAHRENHEIT_K
    return floors


def _residuals(
    view: CircuitView, derived: Mapping[str, Derived], targets: Mapping[str, Target], floors_f: Mapping[str, float]
) -> list[_Residual]:
    residuals = []
    for name in GAPS:
        # A walk-in's valve is judged at its coil outlet: line gain hides it at the compressor.
        read_as = "coil_superheat" if name == "superheat" and "coil_superheat" in derived else name
        gap = derived.get(read_as)
        if gap is None or (name == "air_split" and view.unit.kind.is_walk_in):
            continue
        if gap.value + gap.uncertainty < FAHRENHEIT_K * floors_f.get(name, 0.0):
            continue  # a probe or a slip, not a unit: asked about by `plausibility`, no evidence for anything
        target = targets.get(read_as) or (targets.get(name) if read_as == name else None)
        if target:
            aim_f = target.aim_k / FAHRENHEIT_K
            half_band_f = (target.high_k - target.low_k) / FAHRENHEIT_K / 2
            sigma = max(HEALTHY_SIGMA_F[read_as], half_band_f / 1.6)
            doubt_f = target.uncertainty_k / FAHRENHEIT_K / 2
            if target.indication_only:
                doubt_f += half_band_f / 2
        else:
            aim_f, sigma = FALLBACK_F[name]
            doubt_f = 0.0
        error_f = gap.uncertainty / FAHRENHEIT_K / 2
        residuals.append(
            _Residual(
                name,
                gap.value / FAHRENHEIT_K,
                aim_f,
                sigma**2 + error_f**2 + doubt_f**2,
                _gap_phrase(read_as, gap, target),
            )
        )
    return residuals


def _gap_phrase(name: str, gap: Derived, target: Target | None) -> Phrase:
    label, numbers = GAP_LABELS[name], {"gap": ("difference", gap.value)}
    if target is None:
        return Phrase(f"{label} is {{gap}}.", numbers)
    stands = standing(gap, target)
    if stands in ("short", "long"):
        edge = target.low_k if stands == "short" else target.high_k
        numbers["off"] = ("difference", abs(gap.value - edge))
        return Phrase(f"{label} {{gap}}, {{off}} {'below' if stands == 'short' else 'above'} its band.", numbers)
    words = {"right": "inside its band", "close": "too close to call", "check": "below zero, check the probe"}
    return Phrase(f"{label} {{gap}}, {words.get(stands, 'not judged low')}.", numbers)


def _seen(view: CircuitView, derived: Mapping[str, Derived]) -> dict[Fault, list[Evidence]]:
    """What observations and off-cycle tests say, per fault."""
    said: dict[Fault, list[Evidence]] = {}
    for what, state in view.states.items():
        if state is State.NOT_SEEN:
            continue
        for fault, (yes, no) in sight_weights(what, heating=view.unit.heating).items():
            weight = yes if state is State.YES else no
            words = f"{SIGHTS[what].label}: {state.value}."
            said.setdefault(fault, []).append(Evidence(Phrase(words), weight, what))
    drop = derived.get("drier_drop")
    if drop:
        restricted = drop.value > _DRIER_DROP_K + drop.uncertainty
        words = (
            "Drop of {drop} across the drier."
            if restricted
            else "Drop across the drier only {drop}; that alone does not clear it."
        )
        phrase = Phrase(words, {"drop": ("difference", drop.value)})
        said.setdefault(Fault.LIQUID_LINE_RESTRICTION, []).append(
            Evidence(phrase, _DRIER_WEIGHTS[restricted], "drier_outlet_temp")
        )
    standing_pressure, ambient = view.get("standing_pressure"), view.get("equalized_ambient_temp")
    saturation = view.unit.saturation
    if standing_pressure and ambient:
        bubble = standing_pressure.through(
            saturation.bubble_temperature_k(standing_pressure.value),
            saturation.bubble_slope_k_per_pa(standing_pressure.value),
        )
        above = bubble - ambient
        foreign = above.value > above.uncertainty
        words = (
            "Unit off, the pressure stands {gap} above bubble at ambient."
            if foreign
            else "Unit off, the pressure stands no higher than the refrigerant alone would."
        )
        evidence = Evidence(
            Phrase(words, {"gap": ("difference", above.value)}), _STANDING_WEIGHTS[foreign], "standing_pressure"
        )
        said.setdefault(Fault.NON_CONDENSABLES, []).append(evidence)
    return said


def _causes(
    scores: Mapping[tuple[Fault, str | None], float],
    gap_weights: Mapping[tuple[Fault, str | None], Mapping[str, float]],
    residuals: Mapping[str, _Residual],
    seen: Mapping[Fault, list[Evidence]],
) -> list[Cause]:
    top = max(scores.values())
    shares = {key: exp(score - top) for key, score in scores.items()}
    total = sum(shares.values())
    causes = []
    for fault in Fault:
        mine = {severity: share for (name, severity), share in shares.items() if name is fault}
        severity = max(mine, key=lambda key: mine[key])
        evidence = [
            Evidence(residuals[name].phrase, weight, name)
            for name, weight in gap_weights.get((fault, severity), {}).items()
        ] + seen.get(fault, [])
        evidence.sort(key=lambda item: -abs(item.weight))
        causes.append(
            Cause(
                fault,
                (1 - _UNEXPLAINED) * sum(mine.values()) / total + _UNEXPLAINED * PRIOR[fault],
                severity,
                tuple(item for item in evidence if item.weight > _TELLING)[:4],
                tuple(item for item in evidence if item.weight < -_TELLING)[:4],
            )
        )
    if residuals or seen:
        causes[0] = _healthy_words(causes[0], residuals)
    return sorted(causes, key=lambda cause: -cause.probability)


def _healthy_words(none: Cause, residuals: Mapping[str, _Residual]) -> Cause:
    """For 'nothing wrong', what sits where it should and what does not."""
    inside: list[Evidence] = []
    outside: list[Evidence] = []
    for residual in residuals.values():
        distance = (residual.value_f - residual.aim_f) ** 2 / residual.variance
        (inside if distance < 2 else outside).append(Evidence(residual.phrase, 1 - distance, residual.name))
    outside.sort(key=lambda item: item.weight)
    return Cause(none.fault, none.probability, None, tuple(inside[:4]), tuple(outside[:4]))

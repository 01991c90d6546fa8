"""What is likely wrong with one circuit: every hypothesis weighed, the weights added up fault by fault.

Bayes over one long row of hypotheses (`hypotheses`): readings by `likelihood`, things seen by `sights`, tests made for
one fault by `single_tests`. What was not read or not seen says nothing. Probabilities of faults are marginal: two faults can
both be near one.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from math import exp, log

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.circuit import Derived
from dry_gauge.core.judgement.baseline import Baseline, Drift, baseline_of, beside, by_chart
from dry_gauge.core.judgement.calibration import group_names, group_of
from dry_gauge.core.judgement.features import FEATURES, Conditions, Observed, conditions, observe, refilled, vapour_steps
from dry_gauge.core.judgement.hypotheses import (
    BANDS,
    FAULT_ORDER,
    FIRST_FILLING,
    HYPOTHESES,
    LOG_PRIOR,
    OTHER_FILLINGS,
    PRESENT,
    SEVERITY,
    Misreading,
)
from dry_gauge.core.judgement.likelihood import TEMPER, Picture, forecast, log_likelihood, picture, spreads_of, unevenness
from dry_gauge.core.judgement.sights import log_chances
from dry_gauge.core.judgement.single_tests import log_likelihood_of_tests
from dry_gauge.core.sheet import CircuitView
from dry_gauge.core.target import Target
from dry_gauge.core.visit.complaints import odds
from dry_gauge.core.vocabulary import Fault, Kind, State

Array = NDArray[np.float64]

# A little of the prior always stays: something nobody thought of may be going on.
UNEXPLAINED = 0.01
# Stated probabilities against frequency, learnt on calibration draws of another style: log odds are stretched so.
STRETCH, OFFSET = 1.3, 0.15

_MISREAD = {kind: np.array([hypothesis.misreading is kind for hypothesis in HYPOTHESES]) for kind in Misreading}
_NOTHING = -600.0
_BEYOND_SLIGHT = (BANDS[0][0] <= SEVERITY).astype(float)
_SHARED = np.vstack([PRESENT, ~PRESENT.any(axis=0)]).astype(float)


@dataclass(frozen=True, slots=True)
class Judgement:
    """The weighed hypotheses of one circuit.

    Parameters
    ----------
    weights : ndarray, shape (hypotheses,)
        Probability of each; of two sorts of metering where that is not known, the sum.
    pictures : tuple of Picture
        One for each sort of unit this may be, the likelier first.
    """

    weights: Array
    pictures: tuple[Picture, ...]
    groups: tuple[str, ...]
    observed: Observed
    context: Conditions
    seen: Mapping[str, State]
    shares: tuple[float, ...]
    """Weight of the hypotheses with each fault of `FAULT_ORDER`, and last of those with none."""
    sizes: tuple[float, ...]
    """Severity of each fault times its weight."""
    baseline: Baseline | None = None
    """What this unit showed on days when it was proven sound."""

    def probability(self, fault: Fault) -> float:
        """Marginal probability of a fault; of `Fault.NONE`, that nothing is wrong with the unit."""
        return _stated(self.shares[FAULT_ORDER.index(fault) if fault is not Fault.NONE else -1])

    def misreading(self, kind: Misreading) -> float:
        """Probability that the unit is sound and was read wrongly in that way."""
        return float(self.weights[_MISREAD[kind]].sum())

    def at_most_slight(self, fault: Fault) -> float:
        """Probability that a fault is not there, or no more than slight."""
        return 1 - _stated(float(_BEYOND_SLIGHT[FAULT_ORDER.index(fault)] @ self.weights))

    def severity(self, fault: Fault) -> float:
        """Expected severity of a fault where it is present."""
        row = FAULT_ORDER.index(fault)
        return self.sizes[row] / self.shares[row] if self.shares[row] > 0 else 0.0

    def expected(self, feature: str) -> float:
        """What this unit would show in that feature today, were it sound."""
        return self.sound(feature)[0]

    def sound(self, feature: str) -> tuple[float, float, float]:
        """What this unit would show today, were it sound: the middle, its spread, and that of any unit of its sort.

        The middle is moved and the spread narrowed by what it showed on its own sound days. One sigma, in the feature's unit.
        """
        group = group_of(self.groups[0])
        at = np.array([FEATURES.index(feature)])
        spread = spreads_of(self.groups[0])
        uneven = float(unevenness(self.groups[0], at, self.context)[0])
        expected, width = float(group.expectation[at[0]] @ self.context.values), uneven * float(spread[at[0]])
        if self.baseline is None:
            return expected, width, width
        shift, left, _ = self.baseline.habit(group.expectation, at, spread)
        return expected + float(shift[0]), width * float(left[0]), width

    def of_its_sort(self, feature: str) -> float:
        """What any sound unit of its sort would show in that feature today."""
        return float((group_of(self.groups[0]).expectation @ self.context.values)[FEATURES.index(feature)])

    @property
    def drifts(self) -> tuple[Drift, ...]:
        """What went one way through every visit of this unit, today's among them."""
        return self.pictures[0].drifts

    def forecast(self, wanted: NDArray[np.intp], kept: NDArray[np.intp]) -> tuple[Array, Array]:
        """See `likelihood.forecast`, for the likeliest sort of unit."""
        return forecast(self.groups[0], self.context, self.pictures[0], wanted, kept, self.baseline)

    def band(self, fault: Fault) -> str | None:
        """``slight``, ``moderate`` or ``severe``; None for nothing wrong."""
        if fault is Fault.NONE:
            return None
        severity = self.severity(fault)
        return next(name for below, name in BANDS if severity < below)


def _stated(raw: float) -> float:
    mixed = min(max((1 - UNEXPLAINED) * raw + UNEXPLAINED * 0.08, 1e-9), 1 - 1e-9)
    odds = STRETCH * log(mixed / (1 - mixed)) + OFFSET
    return 1 / (1 + exp(-odds))


def weigh(
    view: CircuitView,
    derived: Mapping[str, Derived],
    siblings: Sequence[tuple[int, Observed, Conditions]] = (),
    targets: Collection[Target] = (),
) -> Judgement:
    """Weigh every hypothesis by all that was read and seen on one circuit.

    Parameters
    ----------
    siblings : sequence of (int, Observed, Conditions)
        Other circuits of the same unit that are sound today: a reference for what the two do not share.
    targets : collection of Target
        Those of the maker's chart, where they count today, say what a sound unit would show.
    """
    observed, context = observe(view, derived), conditions(view)
    names = group_names(view.unit, low_stage=view.known_low_stage)
    if view.is_of_either_stage:
        names = tuple(dict.fromkeys((*names, *group_names(view.unit, low_stage=True))))
    fillings = refilled(view, OTHER_FILLINGS)
    steps = vapour_steps(view.unit.refrigerant, OTHER_FILLINGS)
    own = by_chart(beside(baseline_of(view), siblings), targets, context)
    own = own.read_by(observed.instruments) if own else None
    pictures = [picture(name, observed, context, fillings, steps, own) for name in names]
    freezer = view.unit.kind is Kind.WALK_IN_FREEZER
    shared = LOG_PRIOR.copy()
    if view.unit.heating:  # nobody blows too much air through an outdoor coil
        shared[PRESENT[FAULT_ORDER.index(Fault.HIGH_EVAPORATOR_LOAD)]] -= 3.0
    for fault, factor in (*odds(view.sheet.complaints, heating=view.unit.heating).items(), *view.sheet.part_odds):
        shared[0 if fault is Fault.NONE else PRESENT[FAULT_ORDER.index(fault)]] += log(factor)
    absent = np.isnan(fillings[:, 0])
    shared[FIRST_FILLING : FIRST_FILLING + len(absent)][absent] = -1e9
    shared += log_likelihood_of_tests(view, derived)
    seen = {what: state for what, state in view.states.items() if state is not State.NOT_SEEN}
    for what, state in seen.items():
        chances = log_chances(what, view.unit.heating, freezer)
        if chances is not None:
            shared += chances[0] if state is State.YES else chances[1]
    rows = [TEMPER * log_likelihood(one) for one in pictures]
    top = max(float((row + shared).max()) for row in rows)
    # Far below the leading hypothesis the numbers only cost time.
    weights = [np.exp(np.maximum(row + shared - top, _NOTHING)) for row in rows]
    total = sum(float(part.sum()) for part in weights)
    order = sorted(range(len(names)), key=lambda i: -float(weights[i].sum()))
    weight = sum(weights[1:], weights[0]) / total
    return Judgement(
        weight,
        tuple(pictures[i] for i in order),
        tuple(names[i] for i in order),
        observed,
        context,
        seen,
        tuple((_SHARED @ weight).tolist()),
        tuple((SEVERITY @ weight).tolist()),
        own,
    )

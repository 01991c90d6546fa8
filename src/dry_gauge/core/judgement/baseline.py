"""What this unit showed when it was sound: its own habit, learnt from sets of readings on other days.

Two sound units differ by more than one unit differs from itself. Of the variance between sound units a share stays with the
unit (`FeatureRow.standing`), the rest changes with the day; each instrument adds its own. A unit's offset has its posterior from
all of its proven sets, and what is left of the spread today is that posterior's variance and one day's.

A set is not believed because it was marked. One that the others contradict is outvoted, two that contradict each other teach
little, one alone teaches no more than a sound unit may be off, and what moves one way from visit to visit is taken as it was at
first: a slow leak must not teach itself as normal.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.circuit import derive
from dry_gauge.core.judgement.features import FEATURE_ROWS, FEATURES, Conditions, Observed, conditions, observe
from dry_gauge.core.sheet import CircuitView, EarlierSet, Sheet, UnitFacts

Array = NDArray[np.float64]

# Chosen, each with what it guards against.
_AGEING = 0.15
"""Of the variance between units, what a year adds to an older set: coils foul, charges settle."""
_OUTVOTED = 2.5
"""Sigmas from the others' middle at which a set counts half."""
_MOST_OFF = 2.0
"""Spreads between units: further off, one set alone is believed no more."""
_DRIFT = 3.0
"""Sigmas over which a one-way way through all visits is no chance."""
_LEAST_DRIFT_VISITS = 3

_STANDING = np.array([row.standing for row in FEATURE_ROWS])


@dataclass(frozen=True, slots=True)
class Drift:
    """A feature that went one way through every visit, today's among them; by how much in all. [its own unit]"""

    feature: str
    by: float
    visits: int


@dataclass(frozen=True, slots=True, eq=False)
class Baseline:
    """The proven sets of one circuit: what was seen, in which weather, and how many years before the latest."""

    sets: tuple[tuple[Observed, Conditions, float], ...]

    @property
    def visits(self) -> int:
        """How many days."""
        return len(self.sets)

    @property
    def used(self) -> tuple[str, ...]:
        """Features that at least one of them shows."""
        seen = {int(i) for observed, _, _ in self.sets for i in observed.at}
        return tuple(FEATURES[i] for i in sorted(seen))

    def habit(
        self, expectation: Array, at: NDArray[np.intp], spread: Array, today: Array | None = None
    ) -> tuple[Array, Array, tuple[Drift, ...]]:
        """By how much this unit stands off what its sort would show, and what is left of the spread between units.

        Parameters
        ----------
        expectation : ndarray, shape (features, conditions)
            What a sound unit of its sort shows.
        at : ndarray of int, shape (d,)
            The features that are asked for.
        spread : ndarray, shape (features,)
            How far two sound units differ, one sigma.
        today : ndarray, shape (d,), optional
            What stands off today, for drifts.

        Returns
        -------
        shift, left : ndarray, shape (d,)
            In the feature's own unit; and the share of the spread, one sigma, that stays.
        drifts : tuple of Drift
        """
        off, error2 = self._off(expectation)
        shift, left = np.zeros(len(at)), np.ones(len(at))
        drifts = []
        for k, i in enumerate(at):
            known = np.isfinite(off[:, i])
            if not known.any():
                continue
            unit2 = float(spread[i] ** 2)
            day2 = (1 - _STANDING[i]) * unit2
            values = off[known, i]
            years = np.array([age for _, _, age in self.sets])[known]
            noise2 = error2[known, i] + day2 + _AGEING * years * unit2
            drift = _drift(FEATURES[i], values, noise2, None if today is None else float(today[k]))
            if drift is not None:
                drifts.append(drift)
                values, noise2 = values[:1], noise2[:1]
            shift[k], left2 = _posterior(values, noise2, _STANDING[i] * unit2, float(spread[i]))
            left[k] = np.sqrt(min(1.0, (left2 + day2) / unit2))
        return shift, left, tuple(drifts)

    def _off(self, expectation: Array) -> tuple[Array, Array]:
        """What each set stands off, and its instruments' variance; NaN where a set does not show a feature."""
        off = np.full((len(self.sets), len(FEATURES)), np.nan)
        error2 = np.zeros_like(off)
        for row, (observed, context, _) in enumerate(self.sets):
            off[row, observed.at] = observed.values - expectation[observed.at] @ context.values
            error2[row, observed.at] = sum((part**2 for part in observed.errors.values()), np.zeros(len(observed.at)))
        return off, error2


def _posterior(values: Array, noise2: Array, standing2: float, spread: float) -> tuple[float, float]:
    """Mean and variance of a unit's offset, of variance `standing2` between units, from what its sets say."""
    sigma = np.sqrt(noise2)
    trust = np.ones(len(values))
    for _ in range(4 if len(values) > 2 else 0):  # outvoted: the further from the others' middle, the less a set weighs
        middle = _weighted_middle(values, trust / noise2)
        trust = 1 / (1 + ((values - middle) / (_OUTVOTED * sigma)) ** 4)
    weight = trust / noise2
    mean = float((weight * values).sum() / weight.sum())
    # Sets that disagree by more than their noise say less than they seem to.
    excess = float((weight * (values - mean) ** 2).sum() / max(len(values) - 1, 1)) if len(values) > 1 else 1.0
    precision = float(weight.sum()) / max(1.0, excess)
    variance = 1 / (1 / standing2 + precision)
    most = _MOST_OFF * spread if len(values) == 1 else np.inf
    return float(np.clip(variance * precision * mean, -most, most)), variance


def _weighted_middle(values: Array, weight: Array) -> float:
    order = np.argsort(values)
    reached = np.cumsum(weight[order])
    half = reached[-1] / 2
    i = int(np.searchsorted(reached, half))
    if i + 1 < len(values) and np.isclose(reached[i], half):
        return float(values[order[i : i + 2]].mean())
    return float(values[order[i]])


def _drift(feature: str, values: Array, noise2: Array, today: float | None) -> Drift | None:
    """One way through every visit, further than chance goes."""
    way = values if today is None else np.append(values, today)
    if len(values) < 2 or len(way) < _LEAST_DRIFT_VISITS:
        return None
    steps = np.diff(way)
    by = float(way[-1] - way[0])
    sigma = float(np.sqrt(noise2[0] + noise2[-1]))
    if not (np.all(steps > 0) or np.all(steps < 0)) or abs(by) < _DRIFT * sigma:
        return None
    return Drift(feature, by, len(way))


@lru_cache(maxsize=512)
def _seen(unit: UnitFacts, earlier: EarlierSet, number: int, low_stage: bool) -> tuple[Observed, Conditions] | None:
    """One set as the judgement sees it; None where it says nothing of this circuit in this stage."""
    then = Sheet(unit, earlier.readings, earlier.observations).circuit(number)
    if then.low_stage != low_stage or not then.measured:
        return None
    observed = observe(then, derive(then))
    return (observed, conditions(then)) if observed.at.size else None


def baseline_of(view: CircuitView) -> Baseline | None:
    """The proven sets that speak for this circuit as it is now, oldest first; None where there is none."""
    found = []
    for earlier in view.sheet.earlier:
        if not earlier.proven or earlier.before_change:
            continue
        seen = _seen(view.unit, earlier, view.number, view.low_stage)
        if seen is not None:
            found.append((_day(earlier.date), *seen))
    if not found:
        return None
    found.sort(key=lambda one: one[0])
    latest = found[-1][0]
    return Baseline(tuple((observed, context, (latest - day) / 365.25) for day, observed, context in found))


def _day(written: str) -> int:
    """A date as a number of days; one that cannot be read counts as the first of all."""
    try:
        return date.fromisoformat(written[:10]).toordinal()
    except ValueError:
        return 1


def names_used(features: Sequence[str], differences: Sequence[str]) -> tuple[str, ...]:
    """Features as the contract writes them."""
    return tuple(f"{name}_f" if name in differences else name for name in features)

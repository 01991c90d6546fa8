"""What this unit showed when it was sound: its own habit, learnt from sets of readings on other days.

Two sound units differ by more than one unit differs from itself. Each proven set says how far this unit stands from what a
unit of its sort would show in that weather; the mean of them moves the expectation, and the spread between units shrinks by
what is known of this one.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.circuit import derive
from dry_gauge.core.judgement.features import FEATURES, Conditions, Observed, conditions, observe
from dry_gauge.core.sheet import CircuitView

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Baseline:
    """The proven sets of one circuit: what was seen, and in which weather."""

    sets: tuple[tuple[Observed, Conditions], ...]

    @property
    def visits(self) -> int:
        """How many days."""
        return len(self.sets)

    @property
    def used(self) -> tuple[str, ...]:
        """Features that at least one of them shows."""
        seen = {int(i) for observed, _ in self.sets for i in observed.at}
        return tuple(FEATURES[i] for i in sorted(seen))

    def habit(self, expectation: Array, at: NDArray[np.intp], spread: Array) -> tuple[Array, Array]:
        """By how much this unit stands off what its sort would show, and what is left of the spread between units.

        Parameters
        ----------
        expectation : ndarray, shape (features, conditions)
            What a sound unit of its sort shows.
        at : ndarray of int, shape (d,)
            The features that are asked for.
        spread : ndarray, shape (features,)
            How far two sound units differ, one sigma.

        Returns
        -------
        shift, left : ndarray, shape (d,)
            In the feature's own unit; and the share of the spread, one sigma, that stays.
        """
        count, total, noise = (np.zeros(len(FEATURES)) for _ in range(3))
        for observed, context in self.sets:
            error2 = sum((part**2 for part in observed.errors.values()), np.zeros(len(observed.at)))
            count[observed.at] += 1
            total[observed.at] += observed.values - expectation[observed.at] @ context.values
            noise[observed.at] += error2
        known = count > 0
        share = np.zeros(len(FEATURES))
        # A mean of n looks at something that varies by `spread`, each with its instruments' error.
        error2_of_mean = np.where(known, noise / np.maximum(count, 1) ** 2, 0.0)
        share[known] = (spread[known] ** 2) / (spread[known] ** 2 + error2_of_mean[known])
        mean = np.where(known, total / np.maximum(count, 1), 0.0)
        return (share * mean)[at], np.sqrt(1 - share * _TRUSTED)[at]


# Of what the proven sets say, the share that is believed: a unit ages, and a day is no other day. Chosen.
_TRUSTED = 0.75


def baseline_of(view: CircuitView) -> Baseline | None:
    """The proven sets that speak for this circuit as it is now; None where there is none."""
    found = []
    for earlier in view.sheet.earlier:
        if not earlier.proven or earlier.before_change:
            continue
        sheet = replace(view.sheet, readings=earlier.readings, observations=earlier.observations, earlier=())
        then = sheet.circuit(view.number)
        if then.low_stage != view.low_stage or not then.measured:
            continue
        observed = observe(then, derive(then))
        if observed.at.size:
            found.append((observed, conditions(then)))
    return Baseline(tuple(found)) if found else None


def names_used(baseline: Baseline, differences: Sequence[str]) -> tuple[str, ...]:
    """The features as the contract writes them."""
    return tuple(f"{name}_f" if name in differences else name for name in baseline.used)

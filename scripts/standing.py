"""How much of what sound units differ by stays with the unit, and how much its model has in common: printed, for `FeatureRow`.

Simulated units, each run on several days; what is left of each feature once the weather is taken out is split into the part
that is the unit's own and the part that changes with the day (`standing`). Then several units of each model, installed and
charged each by itself: what they have in common is `of_model`.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from dry_gauge.bench import field
from dry_gauge.bench.plant import Faults
from dry_gauge.core.judgement.calibration import group_of
from dry_gauge.core.judgement.features import FEATURES
from scripts.calibrate import SORTS, residuals, run, style

UNITS, TIMES, SEED = 250, 6, 20_261_127
Another = Callable[[field.Field, np.random.Generator], field.Field]


def of_model(drawn: field.Field, chance: np.random.Generator) -> field.Field:
    """Another unit of each model on another day."""
    return field.other_day(field.like_units(drawn, chance, style()), chance)


def main() -> None:
    for title, another in (("standing", field.other_day), ("of_model", of_model)):
        print(f"{title:22}" + "".join(f"{name:>16}" for name in SORTS))
        found = shares(another)
        for i, feature in enumerate(FEATURES):
            row = [found[name][i] for name in SORTS]
            print(f"{feature:22}" + "".join(f"{one:16.2f}" for one in row) + f"   least {np.nanmin(row):.2f}")


def shares(another: Another) -> dict[str, np.ndarray]:
    """Of each sort and feature, the share of the variance that is between the rows, not between a row's own."""
    chance = np.random.default_rng(SEED)
    found = {}
    for name, (kinds, mode, fixed) in SORTS.items():
        drawn = field.draw(UNITS, chance, style(), kinds, (mode,), fixed)
        left = []
        for _ in range(TIMES):
            then = another(drawn, chance)
            shown, good, _ = run(then, Faults.none(UNITS))
            features, context = residuals(then, shown, good)
            left.append(features - context @ group_of(name).expectation.T)
        times = np.array(left)  # times, units, features
        whole = np.isfinite(times).sum(axis=0) >= 3
        within = np.where(whole, np.nanvar(times, axis=0, ddof=1), np.nan)
        mean = np.where(whole, np.nanmean(times, axis=0), np.nan)
        between = np.nanvar(mean, axis=0) - np.nanmean(within, axis=0) / TIMES
        total = between + np.nanmean(within, axis=0)
        found[name] = np.where(np.isfinite(total) & (total > 0), np.maximum(between, 0) / total, np.nan)
    return found


if __name__ == "__main__":
    main()
